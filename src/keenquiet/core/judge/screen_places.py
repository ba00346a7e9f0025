"""Where screens of each sort stand round a performer and a microphone: upright rectangles, for a forecast to judge."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.room.room import Arrangement, Point, direction
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

    foot_m : of its lower edge from the floor, None centred on what it stands behind.
    """

    key: str
    behind: str
    away_m: float
    turns_deg: tuple[float, ...]
    width_m: float
    height_m: float
    foot_m: float | None


SORTS: Final = (
    Sort("desk-arc", "microphone", 0.20, (-50.0, 0.0, 50.0), 0.19, 0.35, None),
    Sort("duvet-behind-mic", "microphone", 0.60, (0.0,), 1.5, 1.9, 0.15),
    Sort("duvet-on-t", "performer", 0.55, (0.0,), 1.5, 1.9, 0.15),
    Sort("panel-on-feet", "performer", 0.55, (0.0,), 1.0, 1.8, 0.10),
    Sort("mattress", "performer", 0.55, (0.0,), 0.9, 1.9, 0.02),
    Sort("booth", "performer", 0.60, (-90.0, 0.0, 90.0), 1.1, 1.9, 0.05),
    Sort("head-box", "performer", 0.30, (-90.0, 0.0, 90.0), 0.55, 0.5, None),
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
