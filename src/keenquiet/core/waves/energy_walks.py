"""Decay of sound energy followed wall by wall: uneven walls and little scattering, which formulas assume away.

Many small portions of energy walk through the room, mirrored at each wall and each side of furniture, or scattered.
What a walk meets and when does not depend on what is swallowed there: walks are kept by shape, furniture and
scattering, and a panel that is dragged costs one matrix product.

A scattering coefficient is the share of energy that is not mirrored (ISO 17497-1); where it goes is not in it. Engines
differ: some send it after Lambert by chance, some bend every reflection towards a Lambert direction by that share,
which mixes less: decays in sparse rooms then differ by a quarter. `MIDDLE` does either by turns; `LITTLE` bends by half
the coefficient, `MUCH` scatters by chance with twice as much: what is between them is not known of a room.
Source: sound particles as in H. Kuttruff, Room Acoustics, chapter 9.6 (ray tracing with diffuse reflection), here with
every particle counted all the time (ergodic mean); bent reflections as J. Rindel's vector based scattering (Forum
Acusticum 2000).
"""

from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property, partial
from typing import Final

import numpy as np

from keenquiet.core.kept import Kept
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.room import Rect
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import BoolArray, ByteArray, FloatArray, IntArray, SingleArray, SmallArray

_MEETINGS: Final = 160
_STEPS: Final = 48
_FIRST_STEP: Final = 0.3  # of a mean free path
_LAST_STEP: Final = 110.0
_SEED: Final = 14
_COLUMNS: Final = 64
_COLUMNS_BYTES: Final = 4_000_000


@dataclass(frozen=True, slots=True)
class Mixing:
    """bent : share of reflections that are bent instead of scattered by chance. times : on the coefficient. walks : how
    many.
    """

    bent: float
    times: float
    walks: int


MIDDLE: Final = Mixing(bent=0.5, times=1.0, walks=900)
FEW: Final = 220  # of the walks, for what a change does, not for how long a decay is
LITTLE: Final = Mixing(bent=1.0, times=0.5, walks=250)
MUCH: Final = Mixing(bent=0.0, times=2.0, walks=250)


class Part(IntEnum):
    """Of all the energy that is left: all of it; what has met something; what is no reflection by one wall alone; by
    one or two walls alone; nor a mirrored reflection by one piece of furniture.
    """

    ALL = 0
    ROUND = 1
    BEYOND_ONE = 2
    BEYOND_TWO = 3
    BEYOND_PATHS = 4


@dataclass(frozen=True)
class Walks:
    """met : (n, meetings) what each walk meets one after the other, faces first and then bodies. spots : (2, n,
    meetings) where on the face. [m]   along_m : (steps,) how far each step lies. [m]   step : (n, meetings) the first
    step by which it has happened, `steps` for none. ahead : (steps, n, 3) unit vectors in which each walk goes then.
    faces : how many there are. bodies : what stood there.
    """

    met: SmallArray
    spots: SingleArray
    step: SmallArray
    along_m: FloatArray
    ahead: SingleArray
    faces: int
    bodies: tuple["Body", ...]

    @cached_property
    def few(self) -> "Walks":
        """The first of them: each is one by chance."""
        few = slice(0, FEW)
        return Walks(
            self.met[few], self.spots[:, few], self.step[few], self.along_m, self.ahead[:, few], self.faces, self.bodies
        )

    def left(
        self, absorption: FloatArray, patches: tuple[tuple[int, Rect, FloatArray], ...]
    ) -> tuple[FloatArray, FloatArray]:
        """Energy left after each step, by `Part`, (n_parts, steps, 8), and of what is beyond two walls where it comes
        from: x, y, z, xx, yy, zz, xy, yz, zx of its unit vectors, weighted with it, (9, steps, 8). [-]

        absorption : of bare faces and of bodies, (n_faces + n_bodies, 8). patches : face, where on it, absorption (8,)
        of what lies on faces, none of them over another.
        """
        lost = np.log1p(-np.minimum(absorption, 0.99)).astype(np.float32)
        summed = self._so_far @ lost
        if patches:
            bare = lost[[face for face, _, _ in patches]]
            more = np.log1p(-np.minimum([swallows for _, _, swallows in patches], 0.99)) - bare
            columns = [self._columns.find(one[:2], partial(self._lies_on, *one[:2])) for one in patches]
            summed += np.stack(columns, axis=-1).astype(np.float32) @ more.astype(np.float32)
        rows = np.moveaxis(self._rows @ np.exp(summed), 1, 0).astype(float)
        return rows[: len(Part)], rows[len(Part) :]

    @cached_property
    def _rows(self) -> SingleArray:
        """Share of each walk that belongs to each part, and its directions, over the number of walks, (steps, n_parts
        + 9, n).
        """
        number = self._so_far.sum(axis=2)
        first, second = (self.met[:, turn] >= self.faces for turn in (0, 1))
        scattered = np.array([*(body.scattering for body in self.bodies), 0.0])
        of_first = scattered[np.where(first, self.met[:, 0] - self.faces, -1)]
        parts = np.zeros((len(self.along_m), len(Part) + 9, len(self.met)), dtype=np.float32)
        parts[:, Part.ALL] = 1.0
        parts[:, Part.ROUND] = number > 0
        parts[:, Part.BEYOND_ONE] = (number > 1) | (number == 1) & first
        parts[:, Part.BEYOND_TWO] = (number > 2) | (number == 1) & first | (number == 2) & (first | second)
        parts[:, Part.BEYOND_PATHS] = np.where(number == 1, of_first, parts[:, Part.BEYOND_TWO])
        x, y, z = np.moveaxis(-self.ahead, -1, 0)
        parts[:, len(Part) :] = np.stack([x, y, z, x * x, y * y, z * z, x * y, y * z, z * x], axis=1)
        parts[:, len(Part) :] *= parts[:, None, Part.BEYOND_TWO]
        return parts / np.float32(len(self.met))

    @cached_property
    def _slot(self) -> IntArray:
        """Where each meeting is counted among steps and walks, (n, meetings)."""
        walks = len(self.met)
        return self.step.astype(int) * walks + np.arange(walks)[:, None]

    @cached_property
    def _so_far(self) -> SingleArray:
        """How often each walk has met each face and body after each step, (steps, n, n_faces + n_bodies)."""
        kinds = self.faces + len(self.bodies)
        return self._counted(self._slot * kinds + self.met, kinds)

    def _counted(self, slot: IntArray, kinds: int) -> SingleArray:
        steps, walks = len(self.along_m), len(self.met)
        counted = np.bincount(slot.ravel(), minlength=(steps + 1) * walks * kinds)
        return np.cumsum(counted.reshape(steps + 1, walks, kinds)[:steps], axis=0, dtype=np.float32)

    @cached_property
    def _on_face(self) -> list[tuple[IntArray, SingleArray]]:
        """The meetings of each face: where they are counted, (m,), and where on it they are, (2, m). [m]"""
        which = [np.nonzero(self.met == face) for face in range(self.faces)]
        return [(self._slot[here], np.stack([where[here] for where in self.spots])) for here in which]

    @cached_property
    def _columns(self) -> Kept[tuple[int, Rect], ByteArray]:
        return Kept(most_bytes=_COLUMNS_BYTES, most=_COLUMNS)

    def _lies_on(self, face: int, rect: Rect) -> ByteArray:
        """How often each walk has met a patch after each step, (steps, n); kept, so that one more costs one more."""
        slot, (u, v) = self._on_face[face]
        u0, u1, v0, v1 = rect
        inside = (u > u0) & (u < u1) & (v > v0) & (v < v1)
        return self._counted(slot[inside], 1)[..., 0].astype(np.uint8)


@dataclass(frozen=True)
class Body:
    """Furniture as walks meet it: centre and half sides [m], how far it is turned [deg], and what it scatters."""

    centre: tuple[float, float, float]
    half: tuple[float, float, float]
    turn_deg: float
    scattering: float

    @staticmethod
    def of(piece: Furnishing) -> "Body":
        """A piece's body, whatever it swallows."""
        low, high = piece.body_m
        return Body(
            (*piece.at, (low + high) / 2),
            (piece.size_m[0] / 2, piece.size_m[1] / 2, (high - low) / 2),
            piece.turn_deg,
            _rounded(float(piece.scattering[3:5].mean())),
        )


def energy_walks(shape: Shape, scattering: float, mixing: Mixing = MIDDLE, *, bodies: tuple[Body, ...] = ()) -> Walks:
    """Walks through a shape with furniture whose walls scatter this share of what they reflect, rounded to a
    twentieth.
    """
    key = (shape, _rounded(scattering), mixing, bodies)
    return _kept.find(key, lambda: _walked(*key))


def _rounded(scattering: float) -> float:
    return round(min(max(scattering, 0.0), 1.0) * 20) / 20


_kept: Final[Kept[tuple[Shape, float, Mixing, tuple[Body, ...]], Walks]] = Kept(most_bytes=64_000_000, most=48)


def _walked(shape: Shape, scattering: float, mixing: Mixing, bodies: tuple[Body, ...]) -> Walks:
    rng = np.random.default_rng(_SEED)
    count = mixing.walks
    faces = shape.faces
    there = _Inside(shape, bodies)
    scatters = np.array([scattering] * len(faces) + [body.scattering for body in bodies])
    shares = np.minimum(scatters * mixing.times, 1.0)
    at, ahead = there.points(rng, count), _all_round(rng, count)
    ways = np.zeros((_MEETINGS + 1, count, 3), dtype=np.float32)
    ways[0] = ahead
    hits = np.zeros((count, _MEETINGS), dtype=np.int16)
    way, spots = np.zeros((count, _MEETINGS)), np.zeros((2, count, _MEETINGS), dtype=np.float32)
    for number in range(_MEETINGS):
        met, away, n = there.next(at, ahead)
        lost = ~np.isfinite(away)  # slipped out through an edge: begins anew inside
        if np.any(lost):
            at[lost], ahead[lost] = there.points(rng, count)[lost], _all_round(rng, count)[lost]
            again, further, its = there.next(at, ahead)
            met, away = np.where(lost, again, met), np.where(lost, np.nan_to_num(further, posinf=0.0), away)
            n = np.where(lost[:, None], its, n)
        at = at + away[:, None] * ahead + 1e-6 * n
        mirrored = ahead - 2 * np.sum(ahead * n, axis=1)[:, None] * n
        diffuse = _unit(n + _all_round(rng, count) * (1 - 1e-6))  # Lambert: the normal plus a point of the unit sphere
        share = shares[met][:, None]
        bent = _unit((1 - share) * mirrored + share * diffuse)
        by_chance = np.where(rng.random((count, 1)) < share, diffuse, mirrored)
        ahead = np.where((rng.random(count) < mixing.bent)[:, None], bent, by_chance)
        ways[number + 1] = ahead
        hits[:, number], way[:, number], spots[..., number] = met, away, there.flat(at, met)
    mean_free = 4 * shape.volume_m3 / sum(f.area_m2 for f in faces)
    along = np.concatenate([[0.0], mean_free * np.geomspace(_FIRST_STEP, _LAST_STEP, _STEPS - 1)])
    # walks begin in the midst of a way between two walls
    far = np.cumsum(way, axis=1)
    step = np.searchsorted(along, far, side="right").astype(np.int16)
    behind = np.sum(far.T[:, None] < along[:, None], axis=0)  # meetings
    headed = ways[behind, np.arange(count)]
    return Walks(hits, spots, step, along, headed, len(faces), bodies)


class _Inside:
    """What a walk may meet: the faces of a shape and the sides of bodies."""

    def __init__(self, shape: Shape, bodies: tuple[Body, ...]) -> None:
        self._shape, self._count = shape, len(bodies)
        self._normal = np.stack([f.normal for f in shape.faces])
        self._origin = np.stack([f.origin for f in shape.faces])
        self._across = np.stack([[f.u for f in shape.faces], [f.v for f in shape.faces]])
        corners = np.concatenate([face.to_space(face.outline) for face in shape.faces])
        self._ends = corners.min(axis=0), corners.max(axis=0)
        # whether every corner lies on the inner side of every face
        self._convex = bool(np.all(np.sum((corners[:, None] - self._origin) * self._normal, axis=2) > -1e-6))
        self._centre = np.array([body.centre for body in bodies]).reshape(-1, 3)
        self._half = np.array([body.half for body in bodies]).reshape(-1, 3)
        turn = np.deg2rad([body.turn_deg for body in bodies])
        self._axes = np.zeros((len(bodies), 3, 3))  # rows: along its length, its depth, upwards
        self._axes[:, 0, 0] = self._axes[:, 1, 1] = np.cos(turn)
        self._axes[:, 0, 1], self._axes[:, 1, 0], self._axes[:, 2, 2] = np.sin(turn), -np.sin(turn), 1.0

    def points(self, rng: np.random.Generator, count: int) -> FloatArray:
        """Places in the air, (count, 3). [m]"""
        low, high = self._ends
        found = np.zeros((0, 3))
        while len(found) < count:
            tried = low + rng.random((4 * count, 3)) * (high - low)
            local = np.abs(self._local(tried - self._centre[:, None]))
            free = ~np.any(np.all(local < self._half[:, None], axis=2), axis=0)
            found = np.concatenate([found, tried[free & self._shape.contains(tried)]])
        return found[:count]

    def next(self, at: FloatArray, ahead: FloatArray) -> tuple[IntArray, FloatArray, FloatArray]:
        """What each walk meets next (n,), faces first and then bodies, how far away it is (n,), infinite where nothing
        is met [m], and the normal there (n, 3).
        """
        towards = ahead @ self._normal.T
        with np.errstate(divide="ignore", invalid="ignore"):
            away = np.sum((self._origin - at[:, None]) * self._normal, axis=2) / towards
        away = np.where((towards < -1e-9) & (away > 1e-9), away, np.inf)
        if not self._convex:
            for number, face in enumerate(self._shape.faces):
                near = np.isfinite(away[:, number])
                spots = at[near] + away[near, number, None] * ahead[near]
                on: BoolArray = face.covers(face.to_flat(spots))
                away[np.flatnonzero(near)[~on], number] = np.inf
        rows = np.arange(len(at))
        met: IntArray = np.argmin(away, axis=1)
        nearest, normal = away[rows, met], self._normal[met]
        if not self._count:
            return met, nearest, normal
        p, d = self._local(at - self._centre[:, None]), self._local(np.broadcast_to(ahead, (self._count, *ahead.shape)))
        with np.errstate(divide="ignore", invalid="ignore"):
            middle, reach = -p / d, self._half[:, None] / np.abs(d)
        enter = (middle - reach).max(axis=2)
        into = np.where((enter > 1e-9) & (enter < (middle + reach).min(axis=2)), enter, np.inf)
        body = np.argmin(into, axis=0)
        on_body = np.flatnonzero(into[body, rows] < nearest)
        which = body[on_body]
        side = np.argmax((middle - reach)[which, on_body], axis=1)
        met[on_body], nearest[on_body] = len(self._normal) + which, into[which, on_body]
        normal[on_body] = -np.sign(d[which, on_body, side])[:, None] * self._axes[which, side]
        return met, nearest, normal

    def flat(self, at: FloatArray, met: IntArray) -> FloatArray:
        """Where on their faces places lie, (2, n); nothing that is told from for bodies. [m]"""
        face = np.minimum(met, len(self._normal) - 1)
        away = at - self._origin[face]
        flat: FloatArray = np.sum(away * self._across[:, face], axis=2)
        return flat

    def _local(self, ways: FloatArray) -> FloatArray:
        """Ways (n_bodies, n, 3) along the axes of each body."""
        return ways @ self._axes.transpose(0, 2, 1)


def _all_round(rng: np.random.Generator, count: int) -> FloatArray:
    return _unit(rng.standard_normal((count, 3)))


def _unit(ways: FloatArray) -> FloatArray:
    unit: FloatArray = ways / np.linalg.norm(ways, axis=1, keepdims=True)
    return unit
