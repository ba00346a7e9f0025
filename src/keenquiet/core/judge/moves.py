"""Next moves: concrete things that could be done now, each judged by the same models as the marks, ranked.

Free moves compete with bought ones: benefit per effort and money. What could be done is found by `move_kinds`, some
hundreds of candidates. They are ranked by a forecast whose modes follow to first order; the leaders of each kind are
then solved fully, and only those are told.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import at_frequencies
from keenquiet.core.judge.candidate import Candidate, Cost, Costs, Limits
from keenquiet.core.judge.carried_out import carried_out
from keenquiet.core.judge.forecast import (
    NOISE_LEVEL_SPREAD_DB,
    Acoustics,
    Figure,
    Forecast,
    absorption_spread,
    deficits,
    forecast,
    noise_spread_db,
    rings_too_long_s,
    too_dead_s,
)
from keenquiet.core.judge.going_together import contradict
from keenquiet.core.judge.move_kinds import MOVE_KINDS, Offer, candidates
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Room
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.pieces import pieces
from keenquiet.core.things.porous import PorousAbsorber

_LEAST_BENEFIT: Final = 0.02
_FINALISTS: Final = 3  # of a kind that are solved fully: first order tells neighbours apart to a few per cent only
_LIMITS: Final = 0.3  # deficit from which a mark limits the recording
_LEADS: Final = 4  # half as much lacking leads by a sixteenth (our choice)
_MOST_HARM: Final = 0.5  # of what is gained elsewhere
_MODEL_SHARE: Final = 0.3  # of a change, for what the models leave out (our estimate)
_LEAST_SHOWN: Final = {"bounce": 0.5, "boom": 0.03, "hush": 0.5, "touch": 0.5}
_LEAST_SHORT_DB: Final = 3.0
_LEAST_SHORT_S: Final = 0.1

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
class Judged:
    """A candidate with its forecast, before its uncertainties are worked out."""

    candidate: Candidate
    cost: Cost
    scenario: Scenario
    after: Forecast
    benefit: float

    @property
    def score(self) -> float:
        """Benefit per effort and money."""
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
        for candidate in candidates(Offer(scenario, acoustics, wanted, limits))
        if (cost := costs(candidate, limits)).price <= limits.budget
    ]
    tell(0.3)
    quick: list[Judged] = []
    for number, (candidate, cost) in enumerate(choices):
        found = _judged(candidate, cost, scenario, acoustics, now, wanted, solved=all_solved)
        if found is not None and (found.benefit > 0 or (MOVE_KINDS[candidate.kind].solved and not all_solved)):
            quick.append(found)
        tell(0.3 + 0.4 * number / len(choices))
    finalists = quick if all_solved else _leaders(quick)
    solved: list[Judged] = []
    for number, leader in enumerate(finalists):
        again = (
            leader
            if all_solved
            else _judged(leader.candidate, leader.cost, scenario, acoustics, now, wanted, solved=True)
        )
        if again is not None and again.benefit > _LEAST_BENEFIT:
            solved.append(again)
        tell(0.7 + 0.25 * number / len(finalists))
    kept: list[Move] = []
    for move in sorted(solved, key=lambda move: -move.score):
        kind = move.candidate.kind
        if (
            sum(other.candidate.kind == kind for other in kept) >= MOVE_KINDS[kind].most
            or any(_alike(other.candidate, move.candidate) for other in kept)
            or any(contradict(other.candidate, move.candidate) for other in kept)
        ):
            continue
        shown = told(move, now)
        if is_sure(shown, now, wanted):
            kept.append(shown)
        if len(kept) == most:
            break
    return kept


def _quieter_spread_db(change_db: float, after: Forecast) -> float:
    """Standard uncertainty of what stopping a noise wins: its own level against what is left, by its share. [dB]"""
    share = 1 - 10 ** (-abs(change_db) / 10)
    return share * float(np.hypot(NOISE_LEVEL_SPREAD_DB, noise_spread_db(after.noise)))


def is_sure(move: Move, now: Forecast, wanted: Wanted) -> bool:
    """Whether at least one mark that lacks something gains more than its own uncertainty and enough to be shown."""
    lacks = deficits(now, wanted)
    after = deficits(move.after, wanted)
    sure = MOVE_KINDS[move.candidate.kind].sure
    return any(
        lacks[mark] > after[mark] and abs(effect.value) >= max(sure * effect.plus_minus, _LEAST_SHOWN[mark])
        for mark, effect in move.effects.items()
    )


@dataclass(frozen=True)
class Shortfall:
    """What no offered move brings where it is wanted. lack : `hush`, `bounce`, `dry`, `dead` or `boom`. by : what still
    misses in the mark's own unit after the best of them; nearer : whether a nearer microphone is among them; leading :
    the noise, for Hush; rests : if it has hours. note_hz, wool_m3 : of a note that hangs on, and of thick wool that
    would end it. money : whether more of it would do more.
    """

    lack: str
    by: float
    nearer: bool = False
    leading: str = ""
    rests: bool = False
    note_hz: float = 0.0
    wool_m3: float = 0.0
    money: bool = False


def shortfalls(now: Forecast, moves: Sequence[Move], wanted: Wanted, *, done: Sequence[Move] = ()) -> list[Shortfall]:
    """What stays short whatever is offered, all moves for a mark taken together at their single worth. done : those
    that `now` holds already.
    """
    found = []
    nearer = any(move.candidate.facts.get("nearer") for move in (*moves, *done))
    if now.hush.known:
        quieter = sum(max(move.effects["hush"].value, 0.0) for move in moves)
        missing = wanted.hush_db.deficit(now.hush.under_performance_db.value + quieter)
        if missing > _LEAST_SHORT_DB:
            rests = any(noise.name == now.hush.leading and noise.hours for noise in now.room.noises)
            found.append(Shortfall("hush", missing, nearer, now.hush.leading, rests))
    over, span = now.bounce.direct_over_room_db.value, wanted.bounce_db
    effects = [move.effects["bounce"].value for move in moves]
    missing = (span.low or -np.inf) - over - sum(max(effect, 0.0) for effect in effects)
    if missing > _LEAST_SHORT_DB:
        found.append(Shortfall("bounce", missing, nearer))
    too_dry = over + sum(min(effect, 0.0) for effect in effects) - (span.high or np.inf)
    if too_dry > _LEAST_SHORT_DB:
        found.append(Shortfall("dry", too_dry))
    livelier = max((move.after.bounce.decay_s.value - now.bounce.decay_s.value for move in moves), default=0.0)
    if (dead := too_dead_s(now, wanted) - max(livelier, 0.0)) > _LEAST_SHORT_S:
        found.append(Shortfall("dead", dead))
    shorter = sum(min(move.effects["boom"].value, 0.0) for move in moves)
    rings = rings_too_long_s(now, wanted) + shorter
    if rings > _LEAST_SHORT_S:
        note_hz, ring_s = now.boom.note_hz, now.boom.ring_s.value + shorter
        found.append(Shortfall("boom", rings, note_hz=note_hz, wool_m3=_wool_m3(now.room, note_hz, ring_s, rings)))
    return found


def _wool_m3(room: Room, note_hz: float, ring_s: float, too_long_s: float) -> float:
    """Thick wool that takes a note from how long it hangs to what is wanted, spread over the walls. [m3]

    Source: W. Sabine's law at the note, 24 ln 10 V / (c T); the wool's own absorption there, as of the deepest frame.
    """
    area = 24 * np.log(10) * room.shape.volume_m3 / room.air.speed_m_s
    more = area / max(ring_s - too_long_s, 0.05) - area / ring_s
    wool = pieces()["trap"].material
    deep = wool.absorber.thickness_m if isinstance(wool.absorber, PorousAbsorber) else 0.2
    return float(more / max(float(at_frequencies(wool.absorption, np.array([note_hz]))[0]), 0.05) * deep)


def _alike(one: Candidate, other: Candidate) -> bool:
    """Two of a kind on the same surface say the same thing twice."""
    return (
        one.kind == other.kind
        and one.piece == other.piece
        and one.facts.get("face") == other.facts.get("face")
        and (one.facts.get("noise") == other.facts.get("noise"))
    )


def _leaders(quick: list[Judged]) -> list[Judged]:
    """The best few of each kind and piece by the quick forecast."""
    counts: dict[tuple[str, str | None], int] = {}
    chosen = []
    for found in sorted(quick, key=lambda found: -found.score):
        kind = MOVE_KINDS[found.candidate.kind]
        key = (kind.key, None if kind.solved else found.candidate.piece)
        counts[key] = counts.get(key, 0) + 1
        if counts[key] <= (kind.solved or _FINALISTS * kind.most):
            chosen.append(found)
    return chosen


def _judged(
    candidate: Candidate,
    cost: Cost,
    scenario: Scenario,
    acoustics: Acoustics,
    now: Forecast,
    wanted: Wanted,
    *,
    solved: bool,
) -> Judged | None:
    """The forecast after a candidate; None when it cannot stand or hang there."""
    found = carried_out(candidate.edits, scenario, acoustics, solved=solved)
    if found is None:
        return None
    after_scenario, after = found
    gaps_now, gaps_after = deficits(now, wanted), deficits(after, wanted)
    gains = {mark: gaps_now[mark] - gaps_after[mark] for mark in gaps_now}
    # the mark that limits the recording leads: what it gains counts twice, and nearly so where another lacks as much
    most = max(gaps_now.values())
    leads = {mark: (gap / most) ** _LEADS if most > _LIMITS else 0.0 for mark, gap in gaps_now.items()}
    benefit = sum(gain + leads[mark] * max(gain, 0.0) for mark, gain in gains.items())
    if min(gains.values()) < -_MOST_HARM * max(sum(gain for gain in gains.values() if gain > 0), 0.0) - 1e-9:
        return None  # it takes from one mark what it gives to another
    return Judged(candidate, cost, after_scenario, after, benefit)


def told(move: Judged, now: Forecast) -> Move:
    """With uncertainties."""
    effects = changes(now, move.after, noise_only=MOVE_KINDS[move.candidate.kind].noise_only)
    return Move(move.candidate, move.cost, effects, move.scenario, move.after, move.benefit, move.score)


def changes(now: Forecast, after: Forecast, *, noise_only: bool = False) -> dict[str, Figure]:
    """What changes between two forecasts of one room, each with the uncertainty of the change itself."""
    apart = after.bounce_draws_db - now.bounce_draws_db
    bounce = after.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value
    boom = after.boom.ring_s.value - now.boom.ring_s.value
    hush = float(after.hush.under_performance_db.value - now.hush.under_performance_db.value)
    return {
        "bounce": Figure(bounce, float(np.hypot(max(float(np.std(apart)), 0.3), _MODEL_SHARE * abs(bounce)))),
        # wall data shift both alike: what remains is about half of the single uncertainty
        "boom": Figure(
            boom,
            float(np.hypot(0.5 * after.boom.ring_s.value * absorption_spread(after.room), _MODEL_SHARE * abs(boom))),
        ),
        "hush": Figure(
            hush, _quieter_spread_db(hush, after) if noise_only else float(np.hypot(0.3, _MODEL_SHARE * abs(hush)))
        ),
        "touch": Figure(after.touch.proximity_db - now.touch.proximity_db, 0.5),
    }
