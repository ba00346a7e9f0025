"""Image sources in rooms of plane faces: which reflections exist, where they hit, what stands in their way."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.shape import Face, Shape
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_TIE_M = np.array(
    [3.7e-8, 5.9e-8, 7.3e-8]
)  # a path exactly into an edge belongs to one order of its two faces, never to both


@dataclass(frozen=True)
class Planes:
    """The faces of a shape as arrays: origin, u, v, normal (n, 3); edges (n, most, 4) in (u, v), padded with points."""

    origin: FloatArray
    u: FloatArray
    v: FloatArray
    normal: FloatArray
    edges: FloatArray
    is_convex: bool

    @staticmethod
    @lru_cache(maxsize=64)
    def of(shape: Shape) -> "Planes":
        """The planes of a shape; kept, since a shape's are asked for at every step of a drag."""
        return Planes.of_faces(shape.faces)

    @staticmethod
    def of_faces(faces: tuple[Face, ...]) -> "Planes":
        """Any faces as arrays."""
        rings = [[face.outline, *face.holes] for face in faces]
        edges = [np.concatenate([np.hstack([r, np.roll(r, -1, axis=0)]) for r in ring]) for ring in rings]
        most = max(len(e) for e in edges)
        padded = np.stack([np.pad(e, ((0, most - len(e)), (0, 0))) for e in edges])
        corners = np.concatenate([face.to_space(face.outline) for face in faces])
        origin, normal = np.stack([f.origin for f in faces]), np.stack([f.normal for f in faces])
        depth = np.sum((corners[:, None] - origin) * normal, axis=2)
        return Planes(
            origin,
            np.stack([f.u for f in faces]),
            np.stack([f.v for f in faces]),
            normal,
            padded,
            bool(depth.min() > -1e-6),
        )

    def mirrored(self, points: FloatArray, faces: IntArray) -> FloatArray:
        """Points (..., 3) mirrored in faces (...). [m]"""
        normal = self.normal[faces]
        depth = np.sum((points - self.origin[faces]) * normal, axis=-1, keepdims=True)
        mirrored: FloatArray = points - 2 * depth * normal
        return mirrored

    def depth(self, points: FloatArray, faces: IntArray) -> FloatArray:
        """Distance of points (..., 3) from faces (...), positive on the room's side. [m]"""
        away: FloatArray = np.sum((points - self.origin[faces]) * self.normal[faces], axis=-1)
        return away

    def covers(self, points: FloatArray, faces: IntArray) -> BoolArray:
        """Whether points (..., 3) of the planes of faces (...) lie within their outlines, (...)."""
        away = points - self.origin[faces]
        x = np.sum(away * self.u[faces], axis=-1)[..., None]
        y = np.sum(away * self.v[faces], axis=-1)[..., None]
        x0, y0, x1, y1 = np.moveaxis(self.edges[faces], -1, 0)
        straddles = (y0 > y) != (y1 > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            crossing = x0 + (y - y0) * (x1 - x0) / (y1 - y0)
        inside: BoolArray = np.asarray(np.count_nonzero(straddles & (x < crossing), axis=-1) % 2 == 1)
        return inside

    def crossed(self, start: FloatArray, end: FloatArray, but: tuple[IntArray, ...]) -> BoolArray:
        """Whether stretches (..., 3) pass through a face other than the ones `but` (...) where they begin or end,
        (...).
        """
        if self.is_convex or not start.size:
            return np.full(start.shape[:-1], False)
        n = len(self.origin)
        faces = np.broadcast_to(np.arange(n), (*start.shape[:-1], n))
        d0 = self.depth(start[..., None, :], faces)
        d1 = self.depth(end[..., None, :], faces)
        with np.errstate(divide="ignore", invalid="ignore"):
            share = d0 / (d0 - d1)
        through = (d0 * d1 < 0) & (np.abs(d0) > 1e-7) & (np.abs(d1) > 1e-7)
        for own in but:
            through &= faces != own[..., None]
        if not np.any(through):
            return np.zeros(start.shape[:-1], dtype=bool)
        met = (
            start[..., None, :] + np.nan_to_num(share, posinf=0.0, neginf=0.0)[..., None] * (end - start)[..., None, :]
        )
        hit = np.zeros(through.shape, dtype=bool)
        hit[through] = self.covers(met[through], faces[through])
        return np.asarray(hit.any(axis=-1), dtype=bool)


@lru_cache(maxsize=64)
def face_sequences(n_faces: int, order: int) -> IntArray:
    """Faces hit in turn from the source, first order first, -1 where there is none, (n, 2)."""
    first = np.column_stack([np.arange(n_faces), np.full(n_faces, -1)])
    if order < 2:
        return first
    pairs = np.array([(i, j) for i in range(n_faces) for j in range(n_faces) if i != j], dtype=np.int64).reshape(-1, 2)
    return np.concatenate([first, pairs])


def reflections(
    shape: Shape, source: FloatArray, receiver: FloatArray, *, order: int = 2
) -> tuple[IntArray, BoolArray, FloatArray, FloatArray]:
    """All candidate reflections up to second order and which of them exist.

    source, receiver : (..., 3). [m]
    Returns faces (n, 2); whether each is a real path, (..., n); hit points (..., n, 2, 3) [m]; lengths (..., n) [m].
    Source: J. Borish, J. Acoust. Soc. Am. 75 (1984) 1827 (images in arbitrary polyhedra, visibility).
    """
    planes = Planes.of(shape)
    sequence = face_sequences(len(shape.faces), order)
    batch = np.broadcast_shapes(source.shape[:-1], receiver.shape[:-1])
    source = np.broadcast_to(source, (*batch, 3))[..., None, :]
    receiver = np.broadcast_to(receiver, (*batch, 3))[..., None, :]
    first, second = (
        np.broadcast_to(sequence[:, 0], (*batch, len(sequence))),
        np.broadcast_to(sequence[:, 1], (*batch, len(sequence))),
    )
    twice = second >= 0
    last = np.where(twice, second, first)
    image1 = planes.mirrored(source, first)
    image = np.where(twice[..., None], planes.mirrored(image1, last), image1)
    length = np.linalg.norm(receiver - image, axis=-1)

    nudged = receiver + _TIE_M
    exists = (planes.depth(nudged, last) > 0) & (planes.depth(image, last) < 0)
    met_last = _met(planes, nudged, image, last)
    exists &= planes.covers(met_last, last)
    exists &= ~twice | ((planes.depth(met_last, first) > 1e-9) & (planes.depth(image1, first) < 0))
    exists &= ~twice | planes.covers(np.where(twice[..., None], _met(planes, met_last, image1, first), met_last), first)
    exists &= planes.depth(np.broadcast_to(source, met_last.shape), first) > 0
    hit_last = _met(planes, receiver, image, last)
    hit_first = np.where(twice[..., None], _met(planes, hit_last, image1, first), hit_last)
    # only what is left is worth looking at for walls in between
    real = np.nonzero(exists)
    if not planes.is_convex and len(real[0]):
        start, end = np.broadcast_to(source, hit_first.shape)[real], np.broadcast_to(receiver, hit_first.shape)[real]
        one, two = first[real], last[real]
        blocked = planes.crossed(start, hit_first[real], (one,)) | planes.crossed(hit_last[real], end, (two,))
        blocked |= planes.crossed(hit_first[real], hit_last[real], (one, two)) & twice[real]
        exists[real] = ~blocked
    points = np.stack([hit_first, np.where(twice[..., None], hit_last, np.nan)], axis=-2)
    return sequence, exists, points, length


def _met(planes: Planes, start: FloatArray, image: FloatArray, faces: IntArray) -> FloatArray:
    """Where the line from `start` to an image passes the plane of a face, (..., 3); somewhere between when it does not.
    [m]
    """
    near, behind = planes.depth(np.broadcast_to(start, image.shape), faces), planes.depth(image, faces)
    good = (near > 0) & (behind < 0)
    share = np.where(good, near / np.where(good, near - behind, 1.0), 0.5)[..., None]
    met: FloatArray = start + share * (image - start)
    return met


def single_reflections(
    shape: Shape, sides: tuple[Face, ...], source: FloatArray, receiver: FloatArray
) -> tuple[BoolArray, FloatArray, FloatArray]:
    """First reflections from faces that stand in the room: which exist (n,), hit points (n, 3) [m], lengths (n,)
    [m].
    """
    planes, walls, numbers = Planes.of_faces(sides), Planes.of(shape), np.arange(len(sides))
    start, end = np.broadcast_to(source, (len(sides), 3)), np.broadcast_to(receiver, (len(sides), 3))
    image = planes.mirrored(start, numbers)
    exists = (planes.depth(end, numbers) > 0) & (planes.depth(image, numbers) < 0)
    hit = _met(planes, end, image, numbers)
    exists &= planes.covers(hit, numbers)
    exists[exists] &= ~walls.crossed(start[exists], hit[exists], ()) & ~walls.crossed(hit[exists], end[exists], ())
    return exists, hit, np.linalg.norm(end - image, axis=1)


def sees(shape: Shape, one: FloatArray, other: FloatArray) -> BoolArray:
    """Whether points (..., 3) see each other past the walls, (...)."""
    return ~Planes.of(shape).crossed(np.asarray(one, dtype=float), np.asarray(other, dtype=float), ())


def shadow(bodies: tuple[Furnishing, ...], start: FloatArray, end: FloatArray, *, wavenumber: FloatArray) -> FloatArray:
    """Energy that passes bodies on stretches (n, 3) to (n, 3), by frequency, (n, n_f). [-]

    A body in the way takes the share (ka)^2 / (1 + (ka)^2), a half of its smaller side across: below ka of about 1
    sound goes round.
    """
    passed = np.ones((len(start), len(wavenumber)))
    for body in bodies:
        axes = np.zeros((3, 3))
        axes[:2, :2], axes[2, 2] = body.axes, 1.0
        low, high = body.body_m
        centre = np.array([*body.at, (low + high) / 2])
        half = np.array([body.size_m[0], body.size_m[1], high - low]) / 2
        p, d = (start - centre) @ axes.T, (end - start) @ axes.T
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            t0, t1 = (-half - p) / d, (half - p) / d
        enter = np.where(np.abs(d) > 1e-12, np.minimum(t0, t1), np.where(np.abs(p) < half, -np.inf, np.inf)).max(axis=1)
        leave = np.where(np.abs(d) > 1e-12, np.maximum(t0, t1), np.where(np.abs(p) < half, np.inf, -np.inf)).min(axis=1)
        hit = (enter < leave - 1e-6) & (leave > 1e-6) & (enter < 1 - 1e-6)
        across = (
            np.sort(2 * half)[-2] / 2
        )  # seen from where it is largest; slim things seen edge on are let off lightly
        ka2 = (wavenumber * across) ** 2
        passed[hit] *= 1 / (1 + ka2)
    return passed
