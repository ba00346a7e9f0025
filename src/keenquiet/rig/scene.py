"""What rays meet in the rig: walls with what hangs where they strike, and furniture as bodies that stand in the way.

The drawing (faces, rectangles on them, footprints) is the room's own; which surface a ray meets, and what it does to
it there, is found here and nowhere else.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from keenquiet.core.room.room import Room
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_OFF_M = 1e-6  # rays leave a surface from this far in front of it
_SIDES = 6  # of a body: back, right, front, left (as its footprint runs), underside, top


@dataclass(frozen=True)
class Met:
    """What each ray meets next: number of the surface (n,), distance (n,) [m], infinite where nothing is met."""

    surface: IntArray
    away_m: FloatArray


@dataclass(frozen=True)
class Scene:
    """Surfaces are numbered: the room's faces, then six sides of each body."""

    room: Room

    @cached_property
    def n_faces(self) -> int:
        """How many surfaces are the room's own."""
        return len(self.room.faces)

    @cached_property
    def planes(self) -> tuple[FloatArray, FloatArray]:
        """A point of each surface and its normal into the room, (n_surfaces, 3) each."""
        points = [face.origin for face in self.room.faces]
        normals = [face.normal for face in self.room.faces]
        for centre, axes, half in zip(*self._boxes, strict=True):
            for axis, sign in ((1, -1), (0, 1), (1, 1), (0, -1), (2, -1), (2, 1)):
                normals.append(sign * axes[axis])
                points.append(centre + sign * half[axis] * axes[axis])
        return np.array(points), np.array(normals)

    @cached_property
    def _boxes(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Centre (n, 3), axes (n, 3, 3) and half lengths (n, 3) of each body."""
        bodies = self.room.bodies
        centre, axes, half = np.zeros((len(bodies), 3)), np.zeros((len(bodies), 3, 3)), np.zeros((len(bodies), 3))
        for number, body in enumerate(bodies):
            low, high = body.body_m
            centre[number] = (*body.at, (low + high) / 2)
            axes[number, :2, :2], axes[number, 2, 2] = body.axes, 1.0
            half[number] = (body.size_m[0] / 2, body.size_m[1] / 2, (high - low) / 2)
        return centre, axes, half

    @cached_property
    def _is_convex(self) -> bool:
        corners = np.concatenate([face.to_space(face.outline) for face in self.room.faces])
        points, normals = (part[: self.n_faces] for part in self.planes)
        return bool(np.all(np.sum((corners[:, None] - points) * normals, axis=2) > -1e-6))

    def meet(self, at: FloatArray, ahead: FloatArray) -> Met:
        """What rays from `at` (n, 3) towards unit `ahead` (n, 3) meet first."""
        points, normals = (part[: self.n_faces] for part in self.planes)
        towards = ahead @ normals.T
        with np.errstate(divide="ignore", invalid="ignore"):
            away = (np.sum(points * normals, axis=1) - at @ normals.T) / towards
        away = np.where((towards < -1e-12) & (away > 1e-9), away, np.inf)
        surface = np.argmin(away, axis=1)
        if not self._is_convex:
            self._only_on_faces(at, ahead, away, surface)
        nearest = away[np.arange(len(at)), surface]
        for number in range(len(self.room.bodies)):
            side, entered = self._enter(number, at, ahead)
            first = entered < nearest
            surface = np.where(first, self.n_faces + _SIDES * number + side, surface)
            nearest = np.where(first, entered, nearest)
        return Met(surface, nearest)

    def _only_on_faces(self, at: FloatArray, ahead: FloatArray, away: FloatArray, surface: IntArray) -> None:
        """Strike out, in place, planes that are met beside their faces; the next nearest is tried instead."""
        asked = np.arange(len(at))
        while len(asked):
            missed = np.zeros(len(asked), dtype=bool)
            for number in np.unique(surface[asked]):
                here = surface[asked] == number
                rays, face = asked[here], self.room.faces[number]
                spots = at[rays] + np.nan_to_num(away[rays, number], posinf=0.0)[:, None] * ahead[rays]
                missed[here] = ~face.covers(face.to_flat(spots)) & np.isfinite(away[rays, number])
            asked = asked[missed]
            away[asked, surface[asked]] = np.inf
            surface[asked] = np.argmin(away[asked], axis=1)

    def _enter(self, number: int, at: FloatArray, ahead: FloatArray) -> tuple[IntArray, FloatArray]:
        """Side by which rays enter a body and how far away, infinite for those that pass. By slabs."""
        centre, axes, half = (part[number] for part in self._boxes)
        start, way = (at - centre) @ axes.T, ahead @ axes.T
        with np.errstate(divide="ignore", invalid="ignore"):
            one, other = (-half - start) / way, (half - start) / way
        near, far = np.fmin(one, other), np.fmax(one, other)
        outside = (way == 0) & (np.abs(start) > half)
        near, far = np.where(way == 0, -np.inf, near), np.where(way == 0, np.inf, far)
        axis = np.argmax(near, axis=1)
        entered = near[np.arange(len(at)), axis]
        passes = (entered > np.min(far, axis=1)) | (entered <= 1e-9) | np.any(outside, axis=1)
        upwards = way[np.arange(len(at)), axis] < 0  # against the axis: enters by its far side
        by_axis = np.array([[3, 1], [0, 2], [4, 5]])
        return by_axis[axis, upwards.astype(int)], np.where(passes, np.inf, entered)

    def absorbs(self, surface: int, spots: FloatArray) -> FloatArray:
        """Energy absorption by octave where a surface is struck, (n, 8), for spots (n, 3). [-]"""
        if surface >= self.n_faces:
            body = self.room.bodies[(surface - self.n_faces) // _SIDES]
            side = (surface - self.n_faces) % _SIDES
            alpha = np.minimum(np.array(body.kind.alpha), 1.0)
            if body.is_open and side == 2:
                front = body.size_m[0] * body.size_m[2]
                alpha = np.minimum(alpha + body.open_front_area_m2 / front, 1.0)
            return np.broadcast_to(alpha, (len(spots), 8))
        return self._by_spot(surface, spots, "absorption")

    def scatters(self, surface: int, spots: FloatArray) -> FloatArray:
        """Share of the reflected energy that leaves in other than the mirror direction, (n, 8). [-]"""
        if surface >= self.n_faces:
            diffuse = self.room.bodies[(surface - self.n_faces) // _SIDES].scattering
            return np.broadcast_to(diffuse, (len(spots), 8))
        return self._by_spot(surface, spots, "scattering")

    def _by_spot(self, number: int, spots: FloatArray, what: str) -> FloatArray:
        face = self.room.faces[number]
        value = np.tile(np.minimum(getattr(self.room.materials[number], what), 1.0), (len(spots), 1))
        hung = [overlay for overlay in self.room.overlays if overlay.face == number]
        uv = face.to_flat(spots) if hung else np.zeros((0, 2))
        for overlay in hung:  # what was hung last lies in front
            u0, u1, v0, v1 = overlay.rect
            under: BoolArray = (uv[:, 0] > u0) & (uv[:, 0] < u1) & (uv[:, 1] > v0) & (uv[:, 1] < v1)
            value[under] = np.minimum(getattr(overlay.material, what), 1.0)
        return value

    def covers(self, surface: int, spots: FloatArray) -> BoolArray:
        """Whether spots (n, 3) of a surface's plane lie on it."""
        if surface < self.n_faces:
            face = self.room.faces[surface]
            return face.covers(face.to_flat(spots))
        number, side = divmod(surface - self.n_faces, _SIDES)
        centre, axes, half = (part[number] for part in self._boxes)
        local = np.abs((spots - centre) @ axes.T)
        across = (1, 0, 1, 0, 2, 2)[side]
        on: BoolArray = np.all(np.delete(local <= half + 1e-9, across, axis=1), axis=1)
        return on

    def loose_loss_per_m(self) -> FloatArray:
        """Energy lost per metre in air and in what stands in the room without being a body, (8,). [1/m]"""
        soft = [piece for piece in self.room.furnishings if piece not in self.room.bodies]
        area = sum((piece.absorption_area_m2 for piece in soft), start=np.zeros(8))
        loss: FloatArray = self.room.air.energy_loss_per_m + area / (4 * self.room.volume_m3)
        return loss

    def off(self, spots: FloatArray, surface: IntArray) -> FloatArray:
        """Spots just in front of the surfaces they lie on, (n, 3). [m]"""
        moved: FloatArray = spots + _OFF_M * self.planes[1][surface]
        return moved
