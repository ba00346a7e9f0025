"""Moves that cost nothing: another facing, another place, another distance to the microphone."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

import numpy as np

from keenquiet.core.edits import ChoosePattern, Edit, Place
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.forecast import Acoustics, deficits, forecast
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.room.room import Arrangement, Microphone, Performer, Point, Room, direction
from keenquiet.core.scenario import Scenario
from keenquiet.core.types import BoolArray, FloatArray
from keenquiet.core.waves.reverberant import direct_over_room_at_db, mid_band_db

_WALL_CLEARANCE_M: Final = 0.45  # room for a body and a stand
CLEAR_OF_WALLS_M: Final = 0.30  # a stand's foot
_SEARCH_STEP_M: Final = 0.25
_FACINGS_DEG: Final = tuple(range(0, 360, 30))
_LEAST_TURN_DEG: Final = 20.0
_FURTHEST_M: Final = 2.0
_NEAR_M: Final = 0.18  # a hand's width: nearest distance that is advised
_LOOKED_AT_CLOSELY: Final = 5  # spots of the coarse search that get the full forecast


def faced(arrangement: Arrangement, at: Point, faces_deg: float, distance_m: float) -> Arrangement:
    """Performer at a place, microphone in front at `distance_m`, aimed back at the performer."""
    ahead = direction(faces_deg)
    performer, mic = arrangement.performer, arrangement.microphone
    rise = mic.at[2] - performer.at[2]
    level = float(np.sqrt(max(distance_m**2 - rise**2, 0.01)))
    x, y = at[0] + level * float(ahead[0]), at[1] + level * float(ahead[1])
    return replace(
        arrangement,
        performer=Performer(at, faces_deg % 360, performer.source),
        microphone=Microphone((x, y, mic.at[2]), (faces_deg + 180) % 360, mic.tilt_deg, mic.pattern),
    )


def placing(after: Arrangement) -> tuple[Edit, ...]:
    """The edits that put performer and microphone where they stand in an arrangement."""
    performer, mic = after.performer, after.microphone
    return (
        Place("performer", performer.at, performer.faces_deg),
        Place("microphone", mic.at, mic.aims_deg, mic.tilt_deg),
    )


def distance_between(arrangement: Arrangement) -> float:
    """Performer to microphone. [m]"""
    return float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))


def _best_of(
    spots: list[Arrangement], merit: FloatArray, acoustics: Acoustics, wanted: Wanted, hour: float | None
) -> Arrangement:
    """The best of the coarse search's leaders by the full forecast; leaders lie at least half a metre or 60 degrees
    apart.
    """
    leaders: list[Arrangement] = []
    for i in np.argsort(-merit):
        spot = spots[int(i)].performer
        if all(
            np.hypot(spot.at[0] - o.performer.at[0], spot.at[1] - o.performer.at[1]) > 0.5
            or abs((spot.faces_deg - o.performer.faces_deg + 180) % 360 - 180) >= 60
            for o in leaders
        ):
            leaders.append(spots[int(i)])
        if len(leaders) == _LOOKED_AT_CLOSELY:
            break

    def gap(spot: Arrangement) -> float:
        return sum(deficits(forecast(acoustics, spot, hour=hour, uncertainty=False), wanted).values())

    return min(leaders, key=gap)


def places(scenario: Scenario, acoustics: Acoustics, wanted: Wanted) -> Iterator[Candidate]:
    """The best facing on the spot, and the best other place, from a coarse search of the whole floor."""
    room, arrangement = scenario.room, scenario.arrangement
    distance = distance_between(arrangement)
    here = arrangement.performer.at
    on_the_spot = [
        a
        for turn in _FACINGS_DEG
        # facing as now it would only move the microphone by a hand's width, and nobody would be told
        if abs((turn - arrangement.performer.faces_deg + 180) % 360 - 180) >= _LEAST_TURN_DEG
        and stands_free(room, a := faced(arrangement, here, turn, distance))
    ]
    if on_the_spot:
        merit = np.concatenate([_mapped(acoustics, [a]) for a in on_the_spot])
        best = _best_of(on_the_spot, merit, acoustics, wanted, scenario.hour)
        yield Candidate("turn", placing(best))
    spots, bounce = _searched(room, arrangement, acoustics)
    if not spots:
        return
    ring = _quick_swell(acoustics, spots)
    merit = -np.maximum((wanted.bounce_db.low or 0) - bounce, 0) / 10 - ring
    best = _best_of(spots, merit, acoustics, wanted, scenario.hour)
    spot = np.array(best.performer.at[:2])
    walls = range(len(room.shape.plan))
    face, away = min(((wall, room.shape.wall_distance_m(wall, spot)) for wall in walls), key=lambda pair: pair[1])
    yield Candidate("place", placing(best), facts={"face": face, "away_m": away})


def reach_m(room: Room, wall: int, at: FloatArray, ahead: FloatArray) -> float | None:
    """How far it is on the plan from a place in a direction to a wall, None when it is not met. [m]"""
    start = room.shape.corners[wall]
    along = room.shape.corners[(wall + 1) % len(room.shape.plan)] - start
    crossing = ahead[0] * along[1] - ahead[1] * along[0]
    if abs(crossing) < 1e-9:
        return None
    gap = start - at
    away = (gap[0] * along[1] - gap[1] * along[0]) / crossing
    share = (gap[0] * ahead[1] - gap[1] * ahead[0]) / crossing
    return float(away) if away > 1e-9 and -1e-9 <= share <= 1 + 1e-9 else None


def stands_free(room: Room, arrangement: Arrangement, *, margin_m: float = CLEAR_OF_WALLS_M) -> bool:
    """Whether performer and microphone stand inside, clear of walls and furniture."""
    performer, mic = np.array([arrangement.performer.at]), np.array([arrangement.microphone.at])
    return bool(are_free(room, performer, mic, margin_m=margin_m)[0])


def are_free(room: Room, performers: FloatArray, mics: FloatArray, *, margin_m: float = CLEAR_OF_WALLS_M) -> BoolArray:
    """The same for many pairs of places (n, 3), (n,). margin_m : of the microphone from walls. [m]"""
    free = room.shape.contains(performers) & room.shape.contains(mics)
    free &= room.shape.stands_clear(mics[:, :2], margin_m=margin_m)
    for piece in room.furnishings:
        if piece.kind.key != "chair":
            free &= ~piece.covers(performers[:, :2], margin_m=0.15) & ~piece.covers(mics[:, :2], margin_m=0.15)
    return np.asarray(free, dtype=bool)


def _searched(room: Room, arrangement: Arrangement, acoustics: Acoustics) -> tuple[list[Arrangement], FloatArray]:
    """All free places on the floor, every facing, with their direct over room. [dB]"""
    here, distance = arrangement.performer.at, distance_between(arrangement)
    x1, y1, _ = room.shape.bounds_m
    steps = np.stack(
        np.meshgrid(*(np.arange(_WALL_CLEARANCE_M, end, _SEARCH_STEP_M) for end in (x1, y1)), indexing="ij"), -1
    ).reshape(-1, 2)
    clear = steps[room.shape.stands_clear(steps, margin_m=_WALL_CLEARANCE_M)]
    grid = clear[np.hypot(clear[:, 0] - here[0], clear[:, 1] - here[1]) > 0.4]
    spots: list[Arrangement] = []
    bounce: list[FloatArray] = [np.zeros(0)]
    if not len(grid):
        return spots, np.concatenate(bounce)
    for turn in _FACINGS_DEG:
        facing = [faced(arrangement, (float(x), float(y), here[2]), turn, distance) for x, y in grid]
        performers, mics = (np.array([getattr(a, who).at for a in facing]) for who in ("performer", "microphone"))
        kept = [spot for spot, free in zip(facing, are_free(room, performers, mics), strict=True) if free]
        if kept:
            spots += kept
            bounce.append(_mapped(acoustics, kept))
    return spots, np.concatenate(bounce)


def _mapped(acoustics: Acoustics, facing: list[Arrangement]) -> FloatArray:
    """Direct over room at places that all face alike, (n,). [dB]"""
    sources, mics = (np.array([getattr(a, who).at for a in facing]) for who in ("performer", "microphone"))
    by_octave = direct_over_room_at_db(acoustics.room, facing[0], decay=acoustics.decay, sources=sources, mics=mics)
    return mid_band_db(by_octave)


def _quick_swell(acoustics: Acoustics, spots: list[Arrangement]) -> FloatArray:
    """How strongly the first dozen modes are driven and heard at each spot, (n,). [-]"""
    modes = acoustics.modes
    source, mic = (
        modes.rigid.values(np.array([getattr(a, who).at for a in spots]))[:, :24] for who in ("performer", "microphone")
    )
    swell: FloatArray = np.max(np.abs(source * mic), axis=1) / 8
    return swell


def distances(arrangement: Arrangement) -> Iterator[Candidate]:
    """The same place with the microphone nearer, never nearer than a hand is wide, or further away."""
    now = distance_between(arrangement)
    mic = arrangement.microphone
    for factor in (0.5, 0.7, 1.4, 2.0):
        then = min(max(now * factor, _NEAR_M), _FURTHEST_M)
        if abs(then - now) > 0.04 and (then < now) == (factor < 1):
            from_, to = np.array(mic.at), np.array(arrangement.performer.at)
            x, y, z = to + (from_ - to) * then / now
            moved = Place("microphone", (float(x), float(y), float(z)), mic.aims_deg, mic.tilt_deg)
            facts = {"distance_m": then, "nearer": int(then < now), "gradient": 1 - mic.a}
            yield Candidate("distance", (moved,), facts=facts)


def other_microphones(arrangement: Arrangement, limits: Limits) -> Iterator[Candidate]:
    """Another pattern among the microphones at hand, in the same place."""
    for pattern in dict.fromkeys(limits.patterns):
        if pattern != arrangement.microphone.pattern:
            yield Candidate("microphone", (ChoosePattern(pattern),), facts={"pattern": pattern})
