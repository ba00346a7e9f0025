"""Next moves: concrete things that could be done now, each judged by the same models as the marks, ranked.

Free moves compete with bought ones: benefit per effort and money. What could be done is found in `places`, `soft` and
`quiet`, some hundreds of candidates. They are ranked by a forecast whose modes follow to first order; the leaders of
each kind are then solved fully, and only those are told.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.edits import applied
from keenquiet.core.errors import InputError
from keenquiet.core.judge.candidate import Candidate, Cost, Costs, Limits
from keenquiet.core.judge.forecast import (
    Acoustics,
    Figure,
    Forecast,
    absorption_spread,
    bounce_draws_db,
    deficits,
    forecast,
)
from keenquiet.core.judge.places import distances, places
from keenquiet.core.judge.quiet import quiet
from keenquiet.core.judge.soft import reflection_panels, soft_behind, traps, wardrobes
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Room
from keenquiet.core.scenario import Scenario
from keenquiet.core.types import FloatArray

_LEAST_BENEFIT: Final = 0.02
_MOST_OF_A_KIND: Final = {"soft-behind": 2, "reflection": 2, "silence": 2}
_FINALISTS: Final = 3  # of a kind that are solved fully: first order tells neighbours apart to a few per cent only
# first order misjudges thick traps: so many of them are solved, in rooms of a home all there are
_SOLVED: Final = {"trap": 20}
_NOISE_KINDS: Final = ("silence", "hour")

Report = Callable[[float], None]


@dataclass(frozen=True)
class Move:
    """A judged move: its effect on each mark with standard uncertainty, and its place in the ranking."""

    candidate: Candidate
    cost: Cost
    effects: dict[str, Figure]
    scenario: Scenario
    after: Forecast
    benefit: float
    score: float


@dataclass(frozen=True)
class _Judged:
    candidate: Candidate
    cost: Cost
    scenario: Scenario
    after: Forecast
    benefit: float

    @property
    def score(self) -> float:
        # a free two-minute move counts nearly in full; an hour and a hundred count for about a third
        return self.benefit / (1 + self.cost.minutes / 60 + self.cost.price / 100)


def next_moves(
    scenario: Scenario,
    *,
    wanted: Wanted,
    limits: Limits,
    costs: Costs,
    most: int = 8,
    report: Report | None = None,
    all_solved: bool = False,
) -> list[Move]:
    """Ranked moves from this scenario, best first; one or two of a kind, only those that help and can be afforded.

    report : told the share that is done; may raise to stop. all_solved : every candidate solved fully, for checking.
    """
    tell = report or (lambda _: None)
    acoustics = Acoustics(scenario.described)
    now = forecast(acoustics, scenario.arrangement, hour=scenario.hour)
    tell(0.1)
    choices = [
        (candidate, cost)
        for candidate in candidates(scenario, acoustics, now, wanted, limits)
        if (cost := costs(candidate, limits)).price <= limits.budget
    ]
    tell(0.3)
    quick: list[_Judged] = []
    for number, (candidate, cost) in enumerate(choices):
        found = _judged(candidate, cost, scenario, acoustics, now, wanted, solved=all_solved)
        if found is not None and (found.benefit > 0 or (candidate.kind in _SOLVED and not all_solved)):
            quick.append(found)
        tell(0.3 + 0.4 * number / len(choices))
    finalists = quick if all_solved else _leaders(quick)
    solved: list[_Judged] = []
    for number, leader in enumerate(finalists):
        again = (
            leader
            if all_solved
            else _judged(leader.candidate, leader.cost, scenario, acoustics, now, wanted, solved=True)
        )
        if again is not None and again.benefit > _LEAST_BENEFIT:
            solved.append(again)
        tell(0.7 + 0.25 * number / len(finalists))
    kept: list[_Judged] = []
    for move in sorted(solved, key=lambda move: -move.score):
        kind = move.candidate.kind
        if sum(other.candidate.kind == kind for other in kept) < _MOST_OF_A_KIND.get(kind, 1) and not any(
            _alike(other.candidate, move.candidate) for other in kept
        ):
            kept.append(move)
    before = bounce_draws_db(now.room, now.arrangement)
    return [_told(move, now, before) for move in kept[:most]]


def _alike(one: Candidate, other: Candidate) -> bool:
    """Two of a kind on the same surface say the same thing twice."""
    return (
        one.kind == other.kind
        and one.piece == other.piece
        and one.facts.get("face") == other.facts.get("face")
        and (one.facts.get("noise") == other.facts.get("noise"))
    )


def _leaders(quick: list[_Judged]) -> list[_Judged]:
    """The best few of each kind and piece by the quick forecast."""
    counts: dict[tuple[str, str | None], int] = {}
    chosen = []
    for found in sorted(quick, key=lambda found: -found.score):
        kind = found.candidate.kind
        key = (kind, None if kind in _SOLVED else found.candidate.piece)
        counts[key] = counts.get(key, 0) + 1
        if counts[key] <= _SOLVED.get(kind, _FINALISTS * _MOST_OF_A_KIND.get(kind, 1)):
            chosen.append(found)
    return chosen


def candidates(
    scenario: Scenario, acoustics: Acoustics, now: Forecast, wanted: Wanted, limits: Limits
) -> Iterator[Candidate]:
    """Everything that could be done next, unjudged."""
    yield from places(scenario, acoustics, wanted)
    yield from distances(scenario.arrangement)
    yield from soft_behind(scenario, limits)
    yield from wardrobes(scenario)
    yield from reflection_panels(scenario, now, limits)
    yield from traps(scenario, now)
    yield from quiet(scenario)


def _judged(
    candidate: Candidate,
    cost: Cost,
    scenario: Scenario,
    acoustics: Acoustics,
    now: Forecast,
    wanted: Wanted,
    *,
    solved: bool,
) -> _Judged | None:
    """The forecast after a candidate; None when it cannot stand or hang there."""
    try:
        after_scenario = applied(candidate.edits, scenario)
        if not _stand_as_before(scenario, after_scenario):
            after_scenario.room.check_places(after_scenario.arrangement)
        after_scenario.room.check_treatments(after_scenario.arrangement)
        room = after_scenario.described
    except InputError:
        return None
    if candidate.kind in _NOISE_KINDS:
        changed = acoustics.with_noises_of(room)
    elif _same_surfaces(room, acoustics.room):
        changed = acoustics
    else:
        changed = Acoustics(room) if solved else acoustics.towards(room)
    after = forecast(changed, after_scenario.arrangement, hour=after_scenario.hour, uncertainty=False)
    gaps_now, gaps_after = deficits(now, wanted), deficits(after, wanted)
    return _Judged(candidate, cost, after_scenario, after, sum(gaps_now[mark] - gaps_after[mark] for mark in gaps_now))


def _stand_as_before(before: Scenario, after: Scenario) -> bool:
    """Whether nobody and nothing stands elsewhere: what was clear of walls and furniture still is."""
    return after.room.furnishings == before.room.furnishings and after.arrangement.placed == before.arrangement.placed


def _same_surfaces(one: Room, other: Room) -> bool:
    return one.overlays == other.overlays and one.furnishings == other.furnishings


def _told(move: _Judged, now: Forecast, before_db: FloatArray) -> Move:
    """With uncertainties. before_db : draws of direct over room as it is now, paired with those after."""
    after = move.after
    apart = bounce_draws_db(after.room, after.arrangement) - before_db
    noise_moves = move.candidate.kind in _NOISE_KINDS
    effects = {
        "bounce": Figure(
            after.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value,
            max(float(np.std(apart)), 0.3),
        ),
        # wall data shift both alike: what remains is about half of the single uncertainty
        "boom": Figure(
            after.boom.ring_s.value - now.boom.ring_s.value,
            0.5 * after.boom.ring_s.value * absorption_spread(after.room),
        ),
        "hush": Figure(
            float(after.hush.under_performance_db.value - now.hush.under_performance_db.value),
            3.0 if noise_moves else 0.5,
        ),
        "touch": Figure(after.touch.proximity_db - now.touch.proximity_db, 0.5),
    }
    return Move(move.candidate, move.cost, effects, move.scenario, after, move.benefit, move.score)
