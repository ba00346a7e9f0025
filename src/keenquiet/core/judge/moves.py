"""Next moves: concrete things that could be done now, each judged by the same models as the marks, ranked.

Free moves compete with bought ones: benefit per effort and money. What could be done is found in `places`, `soft` and
`quiet`.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.forecast import Acoustics, Figure, Forecast, bounce_draws_db, deficits, forecast
from keenquiet.core.judge.places import distances, places
from keenquiet.core.judge.quiet import quiet
from keenquiet.core.judge.soft import reflection_panels, soft_behind, traps, wardrobes
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Arrangement, Overlay, Room

__all__ = ["Candidate", "Limits", "Move", "next_moves", "without_noises"]

_LEAST_BENEFIT: Final = 0.02
_MOST_OF_A_KIND: Final = {"soft-behind": 2, "reflection": 2, "silence": 2}


@dataclass(frozen=True)
class Move:
    """A judged move: its effect on each mark with standard uncertainty, and its place in the ranking."""

    candidate: Candidate
    effects: dict[str, Figure]
    after: Forecast
    benefit: float
    score: float
    added: tuple[Overlay, ...] = field(default=())


def next_moves(room: Room, arrangement: Arrangement, *, wanted: Wanted, limits: Limits, most: int = 8) -> list[Move]:
    """Ranked moves for this room, best first; one or two of a kind, only those that help and can be afforded.

    room : without the arrangement's treatments and with silenced noises already left out.
    """
    acoustics = Acoustics(room.with_overlays(arrangement.treatments))
    now = forecast(acoustics, arrangement, hour=limits.hour)
    judged = [
        _judged(candidate, room, acoustics, now, wanted, limits)
        for candidate in _candidates(room, arrangement, acoustics, now, wanted, limits)
        if candidate.cost <= limits.budget
    ]
    ranked = sorted((move for move in judged if move.benefit > _LEAST_BENEFIT), key=lambda move: -move.score)
    kept: list[Move] = []
    for move in ranked:
        if sum(other.candidate.kind == move.candidate.kind for other in kept) < _MOST_OF_A_KIND.get(
            move.candidate.kind, 1
        ):
            kept.append(move)
    return kept[:most]


def _candidates(
    room: Room, arrangement: Arrangement, acoustics: Acoustics, now: Forecast, wanted: Wanted, limits: Limits
) -> Iterator[Candidate]:
    yield from places(room, arrangement, acoustics, wanted, limits)
    yield from distances(arrangement)
    yield from soft_behind(room, arrangement, limits)
    yield from wardrobes(room, arrangement)
    yield from reflection_panels(room, arrangement, now, limits)
    yield from traps(room, arrangement, now, limits)
    yield from quiet(room, arrangement, limits)


def _judged(
    candidate: Candidate, room: Room, acoustics: Acoustics, now: Forecast, wanted: Wanted, limits: Limits
) -> Move:
    same_surfaces = candidate.arrangement.treatments == now.arrangement.treatments
    quieter = room if candidate.silence is None else without_noises(room, (candidate.silence,))
    after_acoustics = acoustics
    if not same_surfaces:
        after_acoustics = Acoustics(quieter.with_overlays(candidate.arrangement.treatments))
    elif quieter is not room:
        after_acoustics = Acoustics(replace(acoustics.room, noises=quieter.noises))
        after_acoustics.__dict__["modes"] = acoustics.modes  # silencing changes no wall
    hour = candidate.hour if candidate.hour is not None else limits.hour
    after = forecast(after_acoustics, candidate.arrangement, hour=hour)
    before_draws = bounce_draws_db(now.room, now.arrangement)
    after_draws = bounce_draws_db(after.room, after.arrangement)
    bounce = after.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value
    effects = {
        "bounce": Figure(bounce, max(float(np.std(after_draws - before_draws)), 0.3)),
        # wall data shift both alike: what remains is about half of the single uncertainty
        "boom": Figure(after.boom.ring_s.value - now.boom.ring_s.value, 0.5 * after.boom.ring_s.plus_minus),
        "hush": Figure(
            after.hush.under_performance_db.value - now.hush.under_performance_db.value,
            0.5 if candidate.silence is None and candidate.hour is None else 3.0,
        ),
        "touch": Figure(after.touch.proximity_db - now.touch.proximity_db, 0.5),
    }
    gaps_now, gaps_after = deficits(now, wanted), deficits(after, wanted)
    benefit = sum(gaps_now[mark] - gaps_after[mark] for mark in gaps_now)
    # a free two-minute move counts nearly in full; an hour and a hundred count for about a third
    score = benefit / (1 + candidate.minutes / 60 + candidate.cost / 100)
    added = candidate.arrangement.treatments[len(now.arrangement.treatments) :]
    return Move(candidate, effects, after, benefit, score, added)


def without_noises(room: Room, names: tuple[str, ...]) -> Room:
    """The room with some noises switched off."""
    return replace(room, noises=tuple(noise for noise in room.noises if noise.name not in names)) if names else room
