"""Where screens of each sort stand round a performer and a microphone: upright rectangles, for a forecast to judge."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.edits import PutScreen
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.room.room import Arrangement, Point, Room, Screen, direction
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.materials import computed_material
from keenquiet.core.things.porous import PorousAbsorber
from keenquiet.core.types import FloatArray


@dataclass(frozen=True)
class Upright:
    """One rectangle: the middle of its lower edge, the way its front faces, its size. [m, deg]"""

    at: Point
    faces_deg: float
    width_m: float
    height_m: float


@dataclass(frozen=True)
class Sort:
    """behind : `microphone` or `performer`. away_m : from it. turns_deg : one rectangle for each, round it.

    foot_m : of its lower edge from the floor, None centred on what it stands behind. layer : what it is made of.
    """

    key: str
    behind: str
    away_m: float
    turns_deg: tuple[float, ...]
    width_m: float
    height_m: float
    foot_m: float | None
    layer: PorousAbsorber


_DUVET: Final = PorousAbsorber(0.05, 4000, 0.1)
_FOAM: Final = PorousAbsorber(0.05, 9000)
SORTS: Final = (
    Sort("desk-arc", "microphone", 0.20, (-50.0, 0.0, 50.0), 0.19, 0.35, None, _FOAM),
    # a ball of foam round the capsule, open to the front; its top and floor are left out
    Sort("foam-ball", "microphone", 0.08, (-90.0, 0.0, 90.0), 0.16, 0.16, None, _FOAM),
    Sort("duvet-behind-mic", "microphone", 0.60, (0.0,), 1.5, 1.9, 0.15, _DUVET),
    Sort("duvet-on-t", "performer", 0.55, (0.0,), 1.5, 1.9, 0.15, _DUVET),
    Sort("panel-on-feet", "performer", 0.55, (0.0,), 1.0, 1.8, 0.10, PorousAbsorber(0.1, 12000)),
    Sort("mattress", "performer", 0.55, (0.0,), 0.9, 1.9, 0.02, PorousAbsorber(0.16, 6000)),
    Sort("clothes-rail", "performer", 0.60, (0.0,), 1.2, 1.6, 0.10, PorousAbsorber(0.35, 2500, 0.1)),
    Sort("booth", "performer", 0.60, (-90.0, 0.0, 90.0), 1.1, 1.9, 0.05, _DUVET),
    Sort("head-box", "performer", 0.30, (-90.0, 0.0, 90.0), 0.55, 0.5, None, _FOAM),
)


def sort_named(key: str) -> Sort:
    """A sort by its key. Raises KeyError for an unknown one."""
    return {sort.key: sort for sort in SORTS}[key]


def fits(room: Room, screens: Sequence[Screen]) -> bool:
    """Whether screens stand inside, under the ceiling."""
    ends = [(*screen.at[:2], height) for screen in screens for height in _ends_m(screen)]
    return bool(np.all(room.shape.contains(np.array(ends))))


def _ends_m(screen: Screen) -> tuple[float, float]:
    return max(screen.at[2], 0.01), screen.at[2] + screen.height_m - 0.02


def screens_of(sort: Sort, arrangement: Arrangement) -> tuple[Screen, ...]:
    """The same as screens of the layer that the sort is made of."""
    absorption = tuple(float(a) for a in computed_material(sort.layer).absorption)
    return tuple(
        Screen(sort.key, u.at, u.faces_deg, u.width_m, u.height_m, absorption) for u in uprights(sort, arrangement)
    )


def uprights(sort: Sort, arrangement: Arrangement) -> tuple[Upright, ...]:
    """The rectangles of one sort, their fronts towards what they stand round."""
    performer, mic = arrangement.performer, arrangement.microphone
    middle: Point = mic.at if sort.behind == "microphone" else performer.at
    # behind the microphone is where it does not look; behind the performer is where they do not face
    back = (mic.aims_deg if sort.behind == "microphone" else performer.faces_deg) + 180.0
    foot = middle[2] - sort.height_m / 2 if sort.foot_m is None else sort.foot_m
    found = []
    for turn in sort.turns_deg:
        at = _point(np.array(middle[:2]), back + turn, sort.away_m, foot)
        found.append(Upright(at, (back + turn + 180.0) % 360, sort.width_m, sort.height_m))
    return tuple(found)


def _point(middle: FloatArray, bearing_deg: float, away_m: float, foot_m: float) -> Point:
    x, y = middle + away_m * direction(bearing_deg)[:2]
    return float(x), float(y), float(max(foot_m, 0.02))


_NEEDED: Final = {"mattress": "mattress", "clothes-rail": "clothes-rail"}
_DUVETS: Final = ("duvet-behind-mic", "duvet-on-t")
_NOT_PLANNED: Final = ("head-box", "booth")  # shut in, one sings differently: offered under Marks, with their cautions


def screen_candidates(scenario: Scenario, limits: Limits) -> Iterator[Candidate]:
    """Every sort that could be set up with what is at hand or can be had."""
    arrangement = scenario.arrangement
    for sort in SORTS:
        if sort.key in _NOT_PLANNED or _NEEDED.get(sort.key, "") not in ("", *limits.owned):
            continue
        if sort.key in _DUVETS and not limits.has_duvet:
            continue
        screens = screens_of(sort, arrangement)
        if fits(scenario.room, screens) and not any(old.kind == sort.key for old in arrangement.screens):
            facts = {"behind": sort.behind, "uses": "duvet" if sort.key in _DUVETS else ""}
            yield Candidate("screen", tuple(PutScreen(one) for one in screens), f"screen-{sort.key}", facts=facts)
