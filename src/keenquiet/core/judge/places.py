"""Moves that cost nothing: another facing, another place, another distance to the microphone."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.judge.candidate import STAND_CAUTION, Candidate, Limits
from keenquiet.core.judge.forecast import Acoustics, deficits, forecast
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.judge.words import side_words, surface_words
from keenquiet.core.room.room import Arrangement, Microphone, Performer, Point, Room, direction
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.place_map import direct_over_room_map_db

_WALL_CLEARANCE_M: Final = 0.45  # room for a body and a stand
_SEARCH_STEP_M: Final = 0.25
_FACINGS_DEG: Final = tuple(range(0, 360, 30))
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


def distance_between(arrangement: Arrangement) -> float:
    """Performer to microphone. [m]"""
    return float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))


def _best_of(
    spots: list[Arrangement], merit: FloatArray, acoustics: Acoustics, wanted: Wanted, limits: Limits
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
    return min(
        leaders,
        key=lambda a: sum(deficits(forecast(acoustics, a, hour=limits.hour, uncertainty=False), wanted).values()),
    )


def places(
    room: Room, arrangement: Arrangement, acoustics: Acoustics, wanted: Wanted, limits: Limits
) -> Iterator[Candidate]:
    """The best facing on the spot, and the best other place, from a coarse search of the whole floor."""
    distance = distance_between(arrangement)
    here = arrangement.performer.at
    on_the_spot = [a for turn in _FACINGS_DEG if stands_free(room, a := faced(arrangement, here, turn, distance))]
    if on_the_spot:
        best = _best_of(
            on_the_spot, np.concatenate([_mapped(acoustics, [a]) for a in on_the_spot]), acoustics, wanted, limits
        )
        yield Candidate(
            "turn",
            f"Turn to face {_facing_words(room, best)}, microphone in front of you",
            "Where you send your voice, and what lies behind you in the microphone's view, changes what comes back.",
            best,
            minutes=2,
            cautions=(STAND_CAUTION,),
        )
    spots, bounce = _searched(room, arrangement, acoustics)
    if not spots:
        return
    ring = _quick_swell(acoustics, spots)
    merit = -np.maximum((wanted.bounce_db.low or 0) - bounce, 0) / 10 - ring
    best = _best_of(spots, merit, acoustics, wanted, limits)
    spot = np.array(best.performer.at[:2])
    walls = range(len(room.shape.plan))
    face, away = min(((wall, room.shape.wall_distance_m(wall, spot)) for wall in walls), key=lambda pair: pair[1])
    yield Candidate(
        "place",
        f"Move: {away:.2f} m from {surface_words(room, face, best)}, facing {_facing_words(room, best)}",
        "Another spot has softer things around it and sits away from the strongest swells.",
        best,
        minutes=5,
        cautions=(STAND_CAUTION,),
    )


def _facing_words(room: Room, arrangement: Arrangement) -> str:
    """What the performer would look at."""
    ahead = direction(arrangement.performer.faces_deg)[:2]
    at = np.array(arrangement.performer.at[:2])
    for furnishing in room.furnishings:
        towards = np.array(furnishing.at) - at
        length = float(np.linalg.norm(towards))
        if length > 0.3 and float(ahead @ towards) / length > 0.94:
            return f"the {furnishing.kind.name}"
    reached = sorted(
        (away, wall) for wall in range(len(room.shape.plan)) if (away := reach_m(room, wall, at, ahead)) is not None
    )
    if not reached:
        return "the room"
    away, face = reached[0]
    words = surface_words(room, face, arrangement)
    first, second = room.shape.corners[face], room.shape.corners[(face + 1) % len(room.shape.plan)]
    hit = at + away * ahead
    if (
        min(np.hypot(*(hit - first)), np.hypot(*(hit - second))) < 0.35
        and abs(float(ahead @ room.faces[face].normal[:2])) < 0.9
    ):
        return f"the corner by {words}"
    return words.replace(f"wall {side_words(room, face, arrangement)}", "far wall")


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


def stands_free(room: Room, arrangement: Arrangement) -> bool:
    """Whether performer and microphone stand inside, clear of walls and furniture."""
    mic, performer = arrangement.microphone.at, arrangement.performer.at
    if not np.all(room.shape.contains(np.array([mic, performer]))) or not room.shape.stands_clear(
        np.array(mic[:2]), margin_m=0.3
    ):
        return False
    standing = np.array([mic[:2], performer[:2]])
    return not any(
        np.any(piece.covers(standing, margin_m=0.15)) for piece in room.furnishings if piece.kind.key != "chair"
    )


def _searched(room: Room, arrangement: Arrangement, acoustics: Acoustics) -> tuple[list[Arrangement], FloatArray]:
    """All free places on the floor, every facing, with their direct over room. [dB]"""
    here, distance = arrangement.performer.at, distance_between(arrangement)
    x1, y1, _ = room.shape.bounds_m
    steps = np.stack(
        np.meshgrid(*(np.arange(_WALL_CLEARANCE_M, end, _SEARCH_STEP_M) for end in (x1, y1)), indexing="ij"), -1
    )
    clear = steps.reshape(-1, 2)[room.shape.stands_clear(steps.reshape(-1, 2), margin_m=_WALL_CLEARANCE_M)]
    grid = [(float(x), float(y), here[2]) for x, y in clear if np.hypot(x - here[0], y - here[1]) > 0.4]
    spots: list[Arrangement] = []
    bounce: list[FloatArray] = [np.zeros(0)]
    for turn in _FACINGS_DEG:
        facing = [a for at in grid if stands_free(room, a := faced(arrangement, at, turn, distance))]
        if facing:
            spots += facing
            bounce.append(_mapped(acoustics, facing))
    return spots, np.concatenate(bounce)


def _mapped(acoustics: Acoustics, facing: list[Arrangement]) -> FloatArray:
    """Direct over room at places that all face alike, mean of 500 to 2000 Hz, (n,). [dB]"""
    sources, mics = (np.array([getattr(a, who).at for a in facing]) for who in ("performer", "microphone"))
    by_octave = direct_over_room_map_db(acoustics.room, facing[0], sources=sources, mics=mics)
    return by_octave[:, MID_OCTAVES].mean(axis=1)


def _quick_swell(acoustics: Acoustics, spots: list[Arrangement]) -> FloatArray:
    """How strongly the first dozen modes are driven and heard at each spot, (n,). [-]"""
    modes = acoustics.modes
    source, mic = (
        modes.rigid.values(np.array([getattr(a, who).at for a in spots]))[:, :24] for who in ("performer", "microphone")
    )
    swell: FloatArray = np.max(np.abs(source * mic), axis=1) / 8
    return swell


def distances(arrangement: Arrangement) -> Iterator[Candidate]:
    """The same place with the microphone nearer, never nearer than a hand is wide."""
    now = distance_between(arrangement)
    for factor in (0.5, 0.7):
        nearer = max(now * factor, _NEAR_M)
        if nearer < now - 0.04:
            mic, performer = np.array(arrangement.microphone.at), np.array(arrangement.performer.at)
            x, y, z = performer + (mic - performer) * nearer / now
            yield Candidate(
                "distance",
                f"Bring the microphone to {nearer * 100:.0f} cm from your mouth",
                "Half the distance doubles your own sound and leaves the room as it was. "
                "Closer also lifts the bass and makes swaying louder.",
                replace(arrangement, microphone=replace(arrangement.microphone, at=(float(x), float(y), float(z)))),
                minutes=1,
                cautions=("A pop screen keeps breath off the capsule at this distance.",) if nearer < 0.25 else (),
            )
