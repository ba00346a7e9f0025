"""Modes of any other room with rigid walls: finite elements in space, columns of tetrahedra over the plan."""

from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Any, Final

import numpy as np
import skfem

from keenquiet.core.errors import InputError
from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Piece, Rect
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.elements import (
    MOST_UNKNOWNS,
    Field,
    Progress,
    eigenmodes,
    gauss,
    kept_overlaps,
    layered_mesh,
    plan_mesh,
    too_fine,
)
from keenquiet.core.waves.mode_count import mode_count
from keenquiet.core.waves.near_field import rest_beyond

_STEP_PER_WAVELENGTH: Final = (
    0.24  # quadratic tetrahedra this fine keep modes within 0.3 % (tests/core/test_shapes_modes.py)
)


@dataclass(frozen=True)
class SolidModes:
    """Rigid modes by three-dimensional finite elements, lowest first, the constant one left out."""

    shape: Shape
    field_: Field
    k: FloatArray
    speed_m_s: float
    _kept: Kept[tuple[int, Rect | None], FloatArray] = field(default_factory=kept_overlaps)

    orders: None = None

    @staticmethod
    def of(shape: Shape, *, f_max_hz: float, speed_m_s: float, progress: Progress | None = None) -> "SolidModes":
        """All modes up to `f_max_hz`. Raises InputError when the mesh would be too fine or the ceiling cannot be
        layered.
        """
        step = _STEP_PER_WAVELENGTH * speed_m_s / f_max_hz
        k_max = 2 * np.pi * f_max_hz / speed_m_s
        expected = 11.0 * shape.volume_m3 / step**3  # measured: about 11 unknowns in each cube of the step
        if expected > MOST_UNKNOWNS:
            raise too_fine(expected)
        mesh = column_mesh(shape, step_m=step)
        if progress is not None:
            progress(0.05)
        count = int(mode_count(np.array(f_max_hz), shape, speed_m_s=speed_m_s)) + 8
        k, fields = eigenmodes(mesh, k_max=k_max, volume=shape.volume_m3, count=count, progress=progress)
        return SolidModes(shape, fields, k, speed_m_s)

    @cached_property
    def f_hz(self) -> FloatArray:
        """Frequencies, (n,). [Hz]"""
        return self.k * self.speed_m_s / (2 * np.pi)

    @property
    def kinds(self) -> list[str]:
        """Modes of a room like this have no simple kind: `room` for each."""
        return ["room"] * len(self.k)

    def values(self, points: FloatArray) -> FloatArray:
        """Mode shapes at points (..., 3), mean of psi^2 over the room 1: (..., n). [-]"""
        points = np.asarray(points, dtype=float)
        return self.field_.at(points.reshape(-1, 3)).reshape(*points.shape[:-1], -1)

    def overlap_m2(self, piece: Piece, rows: IntArray, columns: IntArray) -> FloatArray:
        """Signed integral of psi_m psi_n over a piece for pairs of modes, (n_pairs,). [m2]"""
        key = (piece.face, piece.rect)
        return piece.sign * self._kept.find(key, lambda: self._overlap(piece))[rows, columns]

    def _overlap(self, piece: Piece) -> FloatArray:
        return self._whole(piece.face) if piece.rect is None else self._part(piece.face, piece.rect)

    def _whole(self, number: int) -> FloatArray:
        """Over a whole face: the finite elements' own mass on the facets that lie in it."""
        face, mesh = self.shape.faces[number], self.field_.basis.mesh
        rim = mesh.boundary_facets()
        centre = mesh.p[:, mesh.facets[:, rim]].mean(axis=1).T
        corners = mesh.p[:, mesh.facets[:, rim]]
        flat = np.abs(np.einsum("dkn,d->kn", corners - face.origin[:, None, None], face.normal)).max(axis=0) < 1e-6
        mine = rim[flat & face.covers(face.to_flat(centre))]
        basis = skfem.FacetBasis(mesh, self.field_.basis.elem, facets=mine)
        masses = skfem.BilinearForm(_product).assemble(basis)
        overlap: FloatArray = self.field_.nodes.T @ (masses @ self.field_.nodes)
        return overlap

    def _part(self, number: int, rect: tuple[float, float, float, float]) -> FloatArray:
        face, top = self.shape.faces[number], float(self.k[-1])
        (u, wu), (v, wv) = (gauss(low, high, k_max=top) for low, high in (rect[:2], rect[2:]))
        points = face.to_space(np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2))
        values = self.values(points)
        overlap: FloatArray = values.T @ (np.outer(wu, wv).ravel()[:, None] * values)
        return overlap

    def rest(self, source: FloatArray, receiver: FloatArray, k: FloatArray) -> FloatArray:
        """What all higher modes add: V times their part of the Green's function, (..., n_k). [m2]"""
        product = self.values(source) * self.values(receiver)
        return rest_beyond(
            self.shape, source, receiver, k, product=product, k_modes=self.k, volume=self.shape.volume_m3
        )


def _product(u: Any, v: Any, _: Any) -> Any:
    return u * v


def column_mesh(shape: Shape, *, step_m: float) -> Any:
    """Tetrahedra filling the room: columns over the plan, cut at every height where a part of the ceiling lies.

    Raises InputError when steps and slopes mix so that columns would not meet.
    """
    regions = shape.regions
    mesh, owner = plan_mesh([region.outline for region in regions], step_m=step_m)
    corners = mesh.p[:, mesh.t]  # (2, 3, n)
    flat = [abs(r.plane[0]) + abs(r.plane[1]) < 1e-12 for r in regions]
    steps = sorted({round(r.plane[2], 9) for r, is_flat in zip(regions, flat, strict=True) if is_flat})
    if not all(flat):
        steps = sorted({round(r.plane[2], 9) for r in regions if r.is_drop})
        slopes = [r for r in regions if not r.is_drop]
        if (
            steps
            and min(float(np.min(r.height_m(*np.array(r.outline.exterior.coords).T))) for r in slopes)
            < steps[-1] + 0.01
        ):
            raise InputError(
                "shape.ceiling.drops",
                "a dropped part under a slope must lie lower than the slope's lowest point.",
                "Lower it, or leave it out.",
            )
        if any(f.kind == "step" and not _under_drop(shape, f.outline, steps) for f in shape.faces):
            raise InputError(
                "shape.ceiling.profile",
                "has both a step and a slope over a floor that is no rectangle.",
                "Smooth the step into a steep slope.",
            )
    base = np.array([0.0, *steps])
    levels = [0.0]
    for low, high in pairwise(base):
        levels += list(np.linspace(low, high, max(round((high - low) / step_m), 1) + 1)[1:])
    columns: list[list[FloatArray]] = []
    tallest = shape.highest_m
    upper = max(round((tallest - base[-1]) / step_m), 1)
    for number in range(mesh.t.shape[1]):
        region = regions[int(owner[number])]
        here = [np.full(3, z) for z in levels]
        if flat[int(owner[number])] and (all(flat) or region.is_drop):
            columns.append([z for z in here if z[0] <= region.plane[2] + 1e-9])
        else:
            top = region.height_m(corners[0, :, number], corners[1, :, number])
            columns.append(
                [*here[:-1], *(base[-1] + share * (top - base[-1]) for share in np.linspace(0, 1, upper + 1))]
            )
    return layered_mesh(mesh, columns)


def _under_drop(shape: Shape, outline: FloatArray, steps: list[float]) -> bool:
    return bool(np.min(np.abs(np.array(steps) - outline[:, 1].min())) < 1e-6) if steps else False
