"""Decay of sound energy followed wall by wall: uneven walls and little scattering, which formulas assume away.

Many small portions of energy walk through the room, mirrored at each wall or scattered. Which walls a walk meets and
when does not depend on what the walls swallow: walks are kept by shape and scattering, and a panel that is dragged
costs one matrix product.

A scattering coefficient is the share of energy that is not mirrored (ISO 17497-1); where it goes is not in it. Engines
differ: some send it after Lambert by chance, some bend every reflection towards a Lambert direction by that share,
which mixes less: decays in sparse rooms then differ by a quarter. `MIDDLE` does either by turns; `LITTLE` bends by half
the coefficient, `MUCH` scatters by chance with twice as much: what is between them is not known of a room.
Source: sound particles as in H. Kuttruff, Room Acoustics, chapter 9.6 (ray tracing with diffuse reflection), here with
every particle counted all the time (ergodic mean); bent reflections as J. Rindel's vector based scattering (Forum
Acusticum 2000).
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.kept import Kept
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_MEETINGS: Final = 160
_STEPS: Final = 48
_FIRST_STEP: Final = 0.3  # of a mean free path
_LAST_STEP: Final = 110.0
_SEED: Final = 14


@dataclass(frozen=True, slots=True)
class Mixing:
    """bent : share of reflections that are bent instead of scattered by chance. times : on the coefficient. walks : how
    many.
    """

    bent: float
    times: float
    walks: int


MIDDLE: Final = Mixing(bent=0.6, times=1.0, walks=900)
FEW: Final = 220  # of the walks, for what a change does, not for how long a decay is
LITTLE: Final = Mixing(bent=1.0, times=0.5, walks=250)
MUCH: Final = Mixing(bent=0.0, times=2.0, walks=250)


@dataclass(frozen=True)
class Walks:
    """met : (n, steps, n_faces) how often each walk has met each face after so far. along_m : (steps,) how far. [m]"""

    met: FloatArray
    along_m: FloatArray

    def few(self) -> "Walks":
        """The first of them: each is one by chance."""
        return Walks(self.met[:FEW], self.along_m)

    def left(self, absorption: FloatArray) -> FloatArray:
        """Energy left after each step, (steps, 8), for absorption by face (n_faces, 8). [-]"""
        lost = np.log1p(-np.minimum(absorption, 0.99)).astype(np.float32)
        flat = self.met.reshape(-1, self.met.shape[-1]) @ lost
        energy: FloatArray = np.exp(flat).reshape(*self.met.shape[:2], -1).mean(axis=0, dtype=float)
        return energy


def energy_walks(shape: Shape, scattering: float, mixing: Mixing = MIDDLE) -> Walks:
    """Walks through an empty shape whose walls scatter this share of what they reflect, rounded to a twentieth."""
    rounded = round(min(max(scattering, 0.0), 1.0) * 20) / 20
    return _kept.find((shape, rounded, mixing), lambda: _walked(shape, rounded, mixing))


_kept: Final[Kept[tuple[Shape, float, Mixing], Walks]] = Kept(most_bytes=48_000_000, most=48)


def _walked(shape: Shape, scattering: float, mixing: Mixing) -> Walks:
    rng = np.random.default_rng(_SEED)
    count, share = mixing.walks, min(scattering * mixing.times, 1.0)
    faces = shape.faces
    normal, origin = np.stack([f.normal for f in faces]), np.stack([f.origin for f in faces])
    convex = _is_convex(shape, normal, origin)
    at, ahead = _points_inside(shape, rng, count), _all_round(rng, count)
    hits: IntArray = np.zeros((count, _MEETINGS), dtype=np.int64)
    way = np.zeros((count, _MEETINGS))
    for number in range(_MEETINGS):
        face, away = _next(shape, at, ahead, normal, origin, convex)
        lost = ~np.isfinite(away)  # slipped out through an edge: begins anew inside
        if np.any(lost):
            at[lost], ahead[lost] = _points_inside(shape, rng, count)[lost], _all_round(rng, count)[lost]
            again, further = _next(shape, at, ahead, normal, origin, convex)
            face, away = np.where(lost, again, face), np.where(lost, np.nan_to_num(further, posinf=0.0), away)
        n = normal[face]
        at = at + away[:, None] * ahead + 1e-6 * n
        mirrored = ahead - 2 * np.sum(ahead * n, axis=1)[:, None] * n
        diffuse = _unit(n + _all_round(rng, count) * (1 - 1e-6))  # Lambert: the normal plus a point of the unit sphere
        bent = _unit((1 - share) * mirrored + share * diffuse)
        by_chance = np.where((rng.random(count) < share)[:, None], diffuse, mirrored)
        ahead = np.where((rng.random(count) < mixing.bent)[:, None], bent, by_chance)
        hits[:, number], way[:, number] = face, away
    mean_free = 4 * shape.volume_m3 / sum(f.area_m2 for f in faces)
    along = np.concatenate([[0.0], mean_free * np.geomspace(_FIRST_STEP, _LAST_STEP, _STEPS - 1)])
    # walks begin in the midst of a way between two walls
    far = np.cumsum(way, axis=1)
    done = np.sum(far[:, :, None] < along, axis=1)
    counted = np.zeros((count, _MEETINGS + 1, len(faces)), dtype=np.float32)
    np.put_along_axis(counted[:, 1:], hits[..., None], 1.0, axis=2)
    met = np.cumsum(counted, axis=1)[np.arange(count)[:, None], done]
    return Walks(met, along)


def _is_convex(shape: Shape, normal: FloatArray, origin: FloatArray) -> bool:
    """Whether every corner lies on the inner side of every face."""
    corners = np.concatenate([face.to_space(face.outline) for face in shape.faces])
    return bool(np.all(np.sum((corners[:, None] - origin) * normal, axis=2) > -1e-6))


def _points_inside(shape: Shape, rng: np.random.Generator, count: int) -> FloatArray:
    corners = np.concatenate([face.to_space(face.outline) for face in shape.faces])
    low, high = corners.min(axis=0), corners.max(axis=0)
    found = np.zeros((0, 3))
    while len(found) < count:
        tried = low + rng.random((4 * count, 3)) * (high - low)
        found = np.concatenate([found, tried[shape.contains(tried)]])
    return found[:count]


def _all_round(rng: np.random.Generator, count: int) -> FloatArray:
    return _unit(rng.standard_normal((count, 3)))


def _unit(ways: FloatArray) -> FloatArray:
    unit: FloatArray = ways / np.linalg.norm(ways, axis=1, keepdims=True)
    return unit


def _next(
    shape: Shape, at: FloatArray, ahead: FloatArray, normal: FloatArray, origin: FloatArray, convex: bool
) -> tuple[IntArray, FloatArray]:
    """Face that each walk meets next and how far away it is, infinite where none is met, each (n,). [m]"""
    towards = ahead @ normal.T
    with np.errstate(divide="ignore", invalid="ignore"):
        away = np.sum((origin - at[:, None]) * normal, axis=2) / towards
    away = np.where((towards < -1e-9) & (away > 1e-9), away, np.inf)
    if not convex:
        for number, face in enumerate(shape.faces):
            near = np.isfinite(away[:, number])
            spots = at[near] + away[near, number, None] * ahead[near]
            on: BoolArray = face.covers(face.to_flat(spots))
            away[np.flatnonzero(near)[~on], number] = np.inf
    face_met: IntArray = np.argmin(away, axis=1)
    return face_met, away[np.arange(len(at)), face_met]
