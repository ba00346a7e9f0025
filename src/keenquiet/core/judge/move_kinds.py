"""Kinds of moves: how each is found, what sort of thing it is, how it is counted. Words are `advice.moves`, prices
`prices.csv`.

A new kind is its line here with where it is found, its words and its price: next moves, plans and sets against noise
all ask `candidates`.
"""

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Literal

from keenquiet.core.edits import Place, Switch
from keenquiet.core.judge.aim import null_towards_noise
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.forecast import Acoustics, Forecast, forecast, is_too_dry
from keenquiet.core.judge.going_together import SOFTER, together
from keenquiet.core.judge.places import distances, other_microphones, places
from keenquiet.core.judge.quiet import quiet, seals
from keenquiet.core.judge.screen_places import screen_candidates
from keenquiet.core.judge.soft import livelier, reflection_panels, soft_behind, traps, wardrobes
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.scenario import Scenario

Sort = Literal["places", "panels", "screens", "quiet"]
_LEAST_NULL_DB: Final = 0.1


@dataclass(frozen=True)
class MoveKind:
    """sort : what `plan --only` calls it. most : of it among next moves. solved : so many of it are solved fully, None
    for a few of each piece. sure : times its own uncertainty that it must win. noise_only : nothing but noise changes.
    hush_only : offered where Hush alone is asked about.
    """

    key: str
    sort: Sort
    most: int = 1
    solved: int | None = None
    sure: float = 1.0
    noise_only: bool = False
    hush_only: bool = False


MOVE_KINDS: Final[Mapping[str, MoveKind]] = {
    kind.key: kind
    for kind in (
        MoveKind("turn", "places", sure=2.0),  # to stand elsewhere for less is a nuisance
        MoveKind("place", "places", sure=2.0),
        MoveKind("distance", "places"),
        MoveKind("microphone", "places"),
        MoveKind("wardrobe", "places"),
        MoveKind("open-door", "places"),
        MoveKind("soft-behind", "panels", most=2),
        MoveKind("reflection", "panels", most=2),
        # first order misjudges thick traps: so many of them are solved, in rooms of a home all there are
        MoveKind("trap", "panels", solved=20),
        MoveKind("take-down", "panels"),
        MoveKind("undrape", "panels", most=2),
        MoveKind("screen", "screens"),
        MoveKind("silence", "quiet", most=2, noise_only=True),
        MoveKind("hour", "quiet", noise_only=True),
        MoveKind("together", "quiet", noise_only=True),
        MoveKind("seal", "quiet", noise_only=True),
        MoveKind("ask", "quiet", noise_only=True, hush_only=True),
        MoveKind("null", "quiet", hush_only=True),
    )
}


@dataclass(frozen=True)
class Offer:
    """What candidates are found from."""

    scenario: Scenario
    acoustics: Acoustics
    wanted: Wanted
    limits: Limits

    @cached_property
    def now(self) -> Forecast:
        """The forecast of what stands, without draws."""
        scenario = self.scenario
        return forecast(self.acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)


def candidates(offer: Offer, kinds: Collection[str] | None = None) -> Iterator[Candidate]:
    """Everything that could be done next, unjudged; of some kinds only, or of all but those for Hush alone. Nothing
    soft where it is too dry already.
    """
    asked = {kind.key for kind in MOVE_KINDS.values() if not kind.hush_only} if kinds is None else set(kinds)
    if is_too_dry(offer.now, offer.wanted):
        asked -= {*SOFTER, "screen"}
    for found, find in _FOUND:
        if asked & set(found):
            yield from (one for one in find(offer) if one.kind in asked)


def _rests(offer: Offer) -> Iterable[Candidate]:
    return together(list(quiet(offer.scenario, offer.limits.allowed)))


def _livelier(offer: Offer) -> Iterable[Candidate]:
    return livelier(offer.scenario) if offer.wanted.bounce_db.high is not None else ()


def _asks(offer: Offer) -> Iterator[Candidate]:
    """Noises that come through the house: somebody else must stop them."""
    for noise in offer.scenario.described.noises:
        if noise.kind == "structure" and noise.runs_at(offer.scenario.hour) and not noise.passes:
            yield Candidate("ask", (Switch(noise.name),), facts={"noise": noise.name})


def _null(offer: Offer) -> Iterator[Candidate]:
    """The microphone's null turned to the worst noise."""
    stand = offer.scenario.arrangement
    null = null_towards_noise(offer.acoustics, stand, hour=offer.scenario.hour)
    if null is not None and null.under_db > _LEAST_NULL_DB:
        edit = Place("microphone", stand.microphone.at, null.aims_deg, null.tilt_deg)
        yield Candidate("null", (edit,), facts={"noise": null.noise})


_FOUND: Final[tuple[tuple[tuple[str, ...], Callable[[Offer], Iterable[Candidate]]], ...]] = (
    (("turn", "place"), lambda offer: places(offer.scenario, offer.acoustics, offer.wanted)),
    (("distance",), lambda offer: distances(offer.scenario.arrangement)),
    (("microphone",), lambda offer: other_microphones(offer.scenario.arrangement, offer.limits)),
    (("soft-behind",), lambda offer: soft_behind(offer.scenario, offer.limits)),
    (("wardrobe",), lambda offer: wardrobes(offer.scenario)),
    (("screen",), lambda offer: screen_candidates(offer.scenario, offer.limits)),
    (("reflection",), lambda offer: reflection_panels(offer.scenario, offer.now, offer.limits)),
    (("trap",), lambda offer: traps(offer.scenario, offer.now)),
    (("silence", "hour", "together"), _rests),
    (("seal",), lambda offer: seals(offer.scenario)),
    (("take-down", "undrape", "open-door"), _livelier),
    (("ask",), _asks),
    (("null",), _null),
)
