"""The listening place: what monitors and chair give here, and the best symmetrical places for both.

Below 300 Hz by the modal sum, above by first reflections; what is asked of a listening place is EBU Tech 3276's.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.judge.forecast import Acoustics, as_loudspeaker, low_end_top_hz, response_grid_hz
from keenquiet.core.room.room import Arrangement, Facing, Microphone, Performer, Point, Room, direction
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.types import BoolArray, FloatArray
from keenquiet.core.waves.images import reflections
from keenquiet.core.waves.paths import reflected_paths
from keenquiet.core.waves.response import level_db, monitors_response, smoothed_db

CHAIR_HZ: Final = (40.0, 200.0)
EARLY_S: Final = 0.015
EARLY_WANTED_DB: Final = -10.0
_EARLY_OCTAVES: Final = slice(4, 8)  # 1 to 8 kHz
_STEP_M: Final = 0.05
_FROM_WALL_M: Final = (0.2, 1.0)  # monitors' front from the wall behind them
_SPREAD_M: Final = (0.8, 2.0)
_EAR_M: Final = 1.2
_ASIDE_M: Final = (-0.6, -0.4, -0.2, 0.2, 0.4, 0.6)
_MOST_WALLS: Final = 8  # the longest; nobody sits before a chimney breast's side
_ROUND_CHAIR_M: Final = 0.35
_ROUND_MONITOR_M: Final = 0.15


@dataclass(frozen=True)
class Cancellation:
    """A wall, floor or body that sends the monitor's own sound back in opposite phase at the chair: its first notch.

    face : number of the face. f_hz : c / 2 of the longer way. depth_db : of the notch, from what it reflects.
    """

    monitor: int
    face: int
    f_hz: float
    depth_db: float


@dataclass(frozen=True)
class Return:
    """A first return at the chair, 1 to 8 kHz against the monitor's direct sound."""

    monitor: int
    face: int
    delay_s: float
    level_db: float


@dataclass(frozen=True)
class Triangle:
    """apart_m : between the two. sides_m : each to the chair. angle_deg : they span there. toe_in_deg : how far each
    looks past the chair. above_ears_m : of each. behind_m : each to the nearest wall. is_behind : whether one stands
    behind who sits there.
    """

    apart_m: float | None
    sides_m: tuple[float, ...]
    angle_deg: float | None
    toe_in_deg: tuple[float, ...]
    above_ears_m: tuple[float, ...]
    behind_m: tuple[float, ...]
    is_behind: bool


@dataclass(frozen=True)
class ListeningPlace:
    """What a chair gets from its monitors. f_hz, response_db : (n_f,) the low end as far as modes are followed, not
    smoothed. objective_db : what the search lowers: swing, what early returns pass -10 dB by, and what left and right
    differ by.
    """

    f_hz: FloatArray
    response_db: FloatArray
    swing_db: float
    cancellations: tuple[Cancellation, ...]
    early: tuple[Return, ...]
    symmetry_db: float
    triangle: Triangle
    objective_db: float


@dataclass(frozen=True)
class Found:
    """Monitors and chair along one wall. wall : the one that they look away from."""

    wall: int
    monitors: tuple[Facing, ...]
    chair: Facing
    swing_db: float
    early_db: float
    symmetry_db: float
    objective_db: float


def listening_place(acoustics: Acoustics, arrangement: Arrangement) -> ListeningPlace | None:
    """What the chair hears; None without monitors or a chair."""
    room, chair = acoustics.room, arrangement.chair
    if chair is None or not arrangement.monitors:
        return None
    f_hz = response_grid_hz(low_end_top_hz(room.shape))
    monitors = np.array([monitor.at for monitor in arrangement.monitors])
    level = level_db(monitors_response(acoustics.transfer, monitors, np.array(chair.at), f_hz))
    early: list[Return] = []
    for number, monitor in enumerate(arrangement.monitors):
        heard = _as_heard(arrangement, monitor, chair)
        paths = reflected_paths(room, heard)
        of_a_face = (paths.faces[:, 1] < 0) & (paths.faces[:, 0] < len(room.faces))
        first = np.flatnonzero(of_a_face & (paths.delay_s <= EARLY_S))
        returned = 10 * np.log10(np.maximum(paths.energy[first][:, _EARLY_OCTAVES].mean(axis=1), 1e-9))
        early += [
            Return(number, int(paths.faces[i, 0]), float(paths.delay_s[i]), float(db))
            for i, db in zip(first, returned, strict=True)
        ]
    swing = _swing(level[None], f_hz)[0]
    symmetry = _symmetry([[r.level_db for r in early if r.monitor == n] for n in range(len(arrangement.monitors))])
    loudest = max((r.level_db for r in early), default=-np.inf)
    return ListeningPlace(
        f_hz=f_hz,
        response_db=level,
        swing_db=float(swing),
        cancellations=tuple(cancellations(room, arrangement)),
        early=tuple(sorted(early, key=lambda r: -r.level_db)),
        symmetry_db=symmetry,
        triangle=_triangle(room, arrangement.monitors, chair),
        objective_db=float(swing + max(loudest - EARLY_WANTED_DB, 0.0) + symmetry),
    )


def _as_heard(arrangement: Arrangement, monitor: Facing, chair: Facing) -> Arrangement:
    """A monitor in the performer's place, two open ears in the microphone's."""
    playing = Performer(monitor.at, monitor.faces_deg, arrangement.performer.source)
    ears = Microphone(chair.at, chair.faces_deg, 0.0, "omni")
    return as_loudspeaker(replace(arrangement, performer=playing, microphone=ears, screens=()))


def cancellations(room: Room, arrangement: Arrangement) -> list[Cancellation]:
    """First notch of every boundary for every monitor, lowest first: where the longer way is half a wavelength more."""
    assert arrangement.chair is not None
    found = []
    ear = np.array(arrangement.chair.at)
    kept = np.sqrt(1 - np.minimum(room.face_absorption[:, 1:3].mean(axis=1), 0.99))  # 125 and 250 Hz, where they lie
    for number, monitor in enumerate(arrangement.monitors):
        at = np.array(monitor.at)
        faces, exists, _, length = reflections(room.shape, at, ear, order=1)
        straight = float(np.linalg.norm(at - ear))
        for i in np.flatnonzero(exists):
            face, longer = int(faces[i, 0]), float(length[i]) - straight
            if longer > 0.05:
                share = float(kept[face]) * straight / float(length[i])
                depth = -20 * np.log10(max(1 - share, 0.03))
                found.append(Cancellation(number, face, room.air.speed_m_s / (2 * longer), float(depth)))
    return sorted(found, key=lambda notch: notch.f_hz)


def _swing(level: FloatArray, f_hz: FloatArray) -> FloatArray:
    judged = (f_hz >= CHAIR_HZ[0]) & (f_hz <= CHAIR_HZ[1])
    swing: FloatArray = np.ptp(smoothed_db(level, f_hz)[..., judged], axis=-1)
    return swing


def _symmetry(levels: list[list[float]]) -> float:
    """How far the early energy of the first two monitors differs. [dB]"""
    if len(levels) < 2:
        return 0.0
    left, right = (sum(10 ** (db / 10) for db in one) + 1e-3 for one in levels[:2])
    return float(abs(10 * np.log10(left / right)))


def _triangle(room: Room, monitors: tuple[Facing, ...], chair: Facing) -> Triangle:
    at, ear = [np.array(monitor.at) for monitor in monitors], np.array(chair.at)
    to_ear = [ear - spot for spot in at]
    toe = [
        abs(float((np.degrees(np.arctan2(way[1], way[0])) - monitor.faces_deg + 180) % 360 - 180))
        for way, monitor in zip(to_ear, monitors, strict=True)
    ]
    apart = angle = None
    if len(at) > 1:
        apart = float(np.linalg.norm(at[0] - at[1]))
        one, other = (-way / np.linalg.norm(way) for way in to_ear[:2])
        angle = float(np.degrees(np.arccos(np.clip(one @ other, -1, 1))))
    walls = range(len(room.shape.plan))
    return Triangle(
        apart_m=apart,
        sides_m=tuple(float(np.linalg.norm(way)) for way in to_ear),
        angle_deg=angle,
        toe_in_deg=tuple(toe),
        above_ears_m=tuple(float(-way[2]) for way in to_ear),
        is_behind=any(float(direction(chair.faces_deg) @ -way) < 0 for way in to_ear),
        behind_m=tuple(min(room.shape.wall_distance_m(wall, spot[:2]) for wall in walls) for spot in at),
    )


def best_listening(acoustics: Acoustics, *, ear_m: float = _EAR_M, free: bool = False) -> list[Found]:
    """The best monitors and chair along each wall, best first: every distance from the wall and every spread in 5 cm
    steps, an equal-sided triangle on the wall's middle line. free : off that line, too, up to 0.7 m, coarsely first.
    """
    corners = acoustics.room.shape.corners
    lengths = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    walls = [int(wall) for wall in np.argsort(-lengths)[:_MOST_WALLS] if lengths[wall] >= _SPREAD_M[0]]
    found = [best for wall in walls if (best := _along(acoustics, wall, ear_m, free)) is not None]
    return sorted(found, key=lambda best: best.objective_db)


def _along(acoustics: Acoustics, wall: int, ear_m: float, free: bool) -> Found | None:
    """The best of a wall: on its middle line all spots in turn; off it every second first, then all round the best."""
    line = _best_of(acoustics, wall, ear_m, _spots(_STEP_M, (0.0,)))
    if not free:
        return None if line is None else line[0]
    coarse = _best_of(acoustics, wall, ear_m, _spots(2 * _STEP_M, _ASIDE_M))
    found = [one for one in (line, coarse) if one is not None]
    if coarse is not None:
        steps = np.stack(np.meshgrid(*[np.arange(-2, 3) * _STEP_M] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
        round_it = coarse[1] + steps
        inside = (round_it[:, 0] >= _FROM_WALL_M[0] - 1e-9) & (round_it[:, 1] >= _SPREAD_M[0] - 1e-9)
        fine = _best_of(acoustics, wall, ear_m, round_it[inside])
        found += [fine] if fine is not None else []
    return min((best for best, _ in found), key=lambda best: best.objective_db) if found else None


def _spots(step_m: float, aside_m: Sequence[float]) -> FloatArray:
    """Distances from the wall, spreads and ways aside from its middle line, (n, 3). [m]"""
    axes = [np.arange(a, b + 1e-9, step_m) for a, b in (_FROM_WALL_M, _SPREAD_M)]
    return np.stack(np.meshgrid(*axes, np.array(aside_m), indexing="ij"), axis=-1).reshape(-1, 3)


def _best_of(acoustics: Acoustics, wall: int, ear_m: float, spots: FloatArray) -> tuple[Found, FloatArray] | None:
    """The best of some spots (n, 3) along a wall, and which it was; None where none is free."""
    room = acoustics.room
    sources, ears, spots = candidates(room, wall, ear_m, spots)
    if not len(ears):
        return None
    f_hz = response_grid_hz(low_end_top_hz(room.shape))
    f_hz = f_hz[(f_hz >= 0.85 * CHAIR_HZ[0]) & (f_hz <= 1.15 * CHAIR_HZ[1])]
    every = [acoustics.transfer.response(sources[:, i], ears, f_hz) for i in range(2)]
    swing = _swing(level_db(np.mean(every, axis=0)), f_hz)
    levels = [_first_returns(room, sources[:, i], ears) for i in range(2)]
    loudest = np.max(np.concatenate(levels, axis=1), axis=1)
    left, right = (np.sum(10 ** (one / 10), axis=1) + 1e-3 for one in levels)
    symmetry = np.abs(10 * np.log10(left / right))
    objective = swing + np.maximum(loudest - EARLY_WANTED_DB, 0.0) + symmetry
    best = int(np.argmin(objective))
    chair = Facing(_point(ears[best]), _towards(ears[best], sources[best].mean(axis=0)))
    monitors = tuple(Facing(_point(at), _towards(at, ears[best])) for at in sources[best])
    found = Found(
        wall, monitors, chair, float(swing[best]), float(loudest[best]), float(symmetry[best]), float(objective[best])
    )
    return found, spots[best]


def candidates(
    room: Room, wall: int, ear_m: float, spots: FloatArray | None = None
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Every spot along a wall that is free: monitors (n, 2, 3), ears (n, 3), and which spots they are (n, 3); without
    spots, all on its middle line. [m]
    """
    start, end = room.shape.corners[wall], room.shape.corners[(wall + 1) % len(room.shape.plan)]
    along = (end - start) / np.linalg.norm(end - start)
    inward = np.array([-along[1], along[0]])
    spots = _spots(_STEP_M, (0.0,)) if spots is None else spots
    far, spread, aside = spots.T
    middle = (start + end) / 2 + aside[:, None] * along + far[:, None] * inward
    sides = np.stack([middle - along * spread[:, None] / 2, middle + along * spread[:, None] / 2], axis=1)
    seat = middle + inward * (spread * np.sqrt(3) / 2)[:, None]
    high = np.full(len(far), ear_m)
    sources = np.concatenate([sides, np.broadcast_to(high[:, None, None], (len(far), 2, 1))], axis=2)
    ears = np.column_stack([seat, high])
    free = room.shape.contains(ears) & room.shape.stands_clear(seat, margin_m=_ROUND_CHAIR_M)
    for i in range(2):
        free &= room.shape.contains(sources[:, i]) & room.shape.stands_clear(sides[:, i], margin_m=_ROUND_MONITOR_M)
    free &= ~_in_furniture(room, seat)
    return sources[free], ears[free], spots[free]


def _in_furniture(room: Room, places: FloatArray) -> BoolArray:
    """Which seats stand in something that is no seat; monitors may stand on furniture."""
    inside = np.zeros(len(places), dtype=bool)
    for piece in room.furnishings:
        if piece.kind.key not in ("chair", "desk", "table"):
            inside |= piece.covers(places, margin_m=0.1)
    return inside


def _first_returns(room: Room, sources: FloatArray, ears: FloatArray) -> FloatArray:
    """First returns within 15 ms, 1 to 8 kHz against the direct sound, walls averaged, (n, paths), -100 without.
    [dB]
    """
    faces, exists, points, length = reflections(room.shape, sources, ears, order=1)
    straight = ears - sources
    near = np.linalg.norm(straight, axis=1)
    leaving = points[..., 0, :] - sources[:, None]
    leaving = leaving / np.maximum(np.linalg.norm(leaving, axis=-1, keepdims=True), 1e-9)
    off = np.sum(np.nan_to_num(leaving) * (straight / near[:, None])[:, None], axis=-1)  # the monitor looks at the ear
    sent = SOURCES["loudspeaker-small"].gain(off)[..., _EARLY_OCTAVES] ** 2
    kept = 1 - np.minimum(room.face_absorption[faces[:, 0]], 0.99)[:, _EARLY_OCTAVES]
    energy = np.mean(sent * kept, axis=-1) * (near[:, None] / np.maximum(length, 1e-9)) ** 2
    early = exists & ((length - near[:, None]) / room.air.speed_m_s <= EARLY_S)
    level: FloatArray = 10 * np.log10(np.where(early, np.maximum(energy, 1e-10), 1e-10))
    return level


def _towards(start: FloatArray, end: FloatArray) -> float:
    return float(np.degrees(np.arctan2(*(end - start)[1::-1])) % 360)


def _point(at: FloatArray) -> Point:
    return float(at[0]), float(at[1]), float(at[2])
