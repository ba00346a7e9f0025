"""Modes of a prism with rigid walls: finite elements over its section times cosines along its axis.

A plan under a flat ceiling is a prism that stands; a section of slopes drawn along a rectangle is one that lies on its
side.
"""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Final, Literal

import numpy as np
from shapely.geometry import Polygon

from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Piece, Rect
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.box_modes import cosine_products
from keenquiet.core.waves.elements import Field, eigenmodes, gauss, kept_overlaps, plan_mesh
from keenquiet.core.waves.near_field import rest_beyond

_STEP_PER_WAVELENGTH: Final = (
    0.30  # cubic triangles this fine keep box modes within 0.01 % (tests/core/test_shapes_modes.py)
)
_SUPPORT_REACH: Final = 1.6  # undamped modes up to this multiple of the top support the response near a source


@dataclass(frozen=True)
class PrismModes:
    """Rigid modes of a prism, lowest first, the constant one left out; the first `count` up to the frequency asked for.

    axis : x, y or z. length_m : along the axis. section : modes over the section, constant one first.
    section_number, along : (n_all,) which section mode and which cosine each mode is made of.
    """

    shape: Shape
    axis: Literal["x", "y", "z"]
    length_m: float
    section: Field
    section_k: FloatArray
    section_number: IntArray
    along: IntArray
    k_all: FloatArray
    count: int
    speed_m_s: float
    _kept: Kept[tuple[int, Rect | None], FloatArray] = field(default_factory=kept_overlaps)

    orders: None = None

    @staticmethod
    def of(shape: Shape, *, f_max_hz: float, speed_m_s: float) -> "PrismModes":
        """All modes up to `f_max_hz`, and more as support. Raises ValueError when the shape is no prism."""
        if shape.cross_section is None:
            raise ValueError("not a prism")
        outline, axis, length = shape.cross_section
        polygon = Polygon(outline)
        k_max = 2 * np.pi * f_max_hz / speed_m_s * _SUPPORT_REACH
        step = _STEP_PER_WAVELENGTH * speed_m_s / f_max_hz
        mesh, _ = plan_mesh([polygon], step_m=min(step, 0.3 * float(np.sqrt(polygon.area))))
        weyl = k_max**2 * polygon.area / (4 * np.pi) + k_max * polygon.length / (4 * np.pi)
        k, fields = eigenmodes(mesh, k_max=k_max, volume=polygon.area, count=int(weyl) + 6)
        flat = Field(fields.basis, np.column_stack([np.ones(fields.nodes.shape[0]), fields.nodes]))
        section_k = np.concatenate([[0.0], k])
        turns = np.arange(int(k_max * length / np.pi) + 1)
        both = np.hypot(section_k[:, None], turns * np.pi / length)
        m, l = np.nonzero((both <= k_max) & (both > 0))
        order = np.argsort(both[m, l], kind="stable")
        m, l = m[order], l[order]
        k_all = both[m, l]
        count = int(np.searchsorted(k_all, 2 * np.pi * f_max_hz / speed_m_s, side="right"))
        return PrismModes(shape, axis, length, flat, section_k, m, l, k_all, count, speed_m_s)

    @cached_property
    def f_hz(self) -> FloatArray:
        """Frequencies of the modes asked for, (n,). [Hz]"""
        return self.k_all[: self.count] * self.speed_m_s / (2 * np.pi)

    @cached_property
    def kinds(self) -> list[str]:
        """`plan` (no change along the axis), `height` or `length` (only along the axis), `mixed`."""
        alone = "height" if self.axis == "z" else "length"
        across = "plan" if self.axis == "z" else "section"
        return [
            across if l == 0 else alone if m == 0 else "mixed"
            for m, l in zip(self.section_number[: self.count], self.along[: self.count], strict=True)
        ]

    def _split(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Points (..., 3) as section coordinates (..., 2) and place along the axis (...)."""
        number = "xyz".index(self.axis)
        return np.delete(points, number, axis=-1), points[..., number]

    def _all_values(self, points: FloatArray) -> FloatArray:
        flat, along = self._split(np.asarray(points, dtype=float))
        # points on a wall stand above each other: each place of the section is looked up once
        distinct, which = np.unique(flat.reshape(-1, 2), axis=0, return_inverse=True)
        section = self.section.at(distinct)[which.ravel()].reshape(*flat.shape[:-1], -1)
        turns = np.arange(int(self.along.max(initial=0)) + 1)
        cosines = np.cos(np.pi / self.length_m * along[..., None] * turns) * np.where(turns > 0, np.sqrt(2.0), 1.0)
        values: FloatArray = section[..., self.section_number] * cosines[..., self.along]
        return values

    def values(self, points: FloatArray) -> FloatArray:
        """Mode shapes at points (..., 3), mean of psi^2 over the room 1: (..., n). [-]"""
        return self._all_values(points)[..., : self.count]

    def overlap_m2(self, piece: Piece, rows: IntArray, columns: IntArray) -> FloatArray:
        """Signed integral of psi_m psi_n over a piece for pairs of modes, (n_pairs,). [m2]"""
        key = (piece.face, piece.rect)
        return piece.sign * self._kept.find(key, lambda: self._overlap(piece))[rows, columns]

    def _overlap(self, piece: Piece) -> FloatArray:
        face = self.shape.faces[piece.face]
        number = "xyz".index(self.axis)
        m, l = self.section_number[: self.count], self.along[: self.count]
        norms = np.where(l > 0, np.sqrt(2.0), 1.0)
        u0, u1, v0, v1 = face.extent if piece.rect is None else piece.rect
        if abs(face.normal[number]) > 0.5:  # an end of the prism
            side = np.where(l % 2 == 0, 1.0, -1.0) if face.normal[number] < 0 else np.ones(len(l))
            if piece.rect is None:
                across = np.eye(len(self.section_k)) * face.area_m2
            else:
                (u, wu), (v, wv) = (
                    gauss(low, high, k_max=float(self.k_all[self.count - 1])) for low, high in ((u0, u1), (v0, v1))
                )
                grid = face.to_space(np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2))
                values = self.section.at(self._split(grid)[0])
                across = values.T @ (np.outer(wu, wv).ravel()[:, None] * values)
            ends = norms * side
            overlap: FloatArray = across[np.ix_(m, m)] * np.outer(ends, ends)
            return overlap
        along_u = abs(face.u[number]) > 0.5
        (s0, s1), (z0, z1) = ((v0, v1), (u0, u1)) if along_u else ((u0, u1), (v0, v1))
        s, w = gauss(s0, s1, k_max=float(self.k_all[self.count - 1]))
        line = face.to_space(np.column_stack([np.full_like(s, z0), s] if along_u else [s, np.full_like(s, z0)]))
        values = self.section.at(self._split(line)[0])
        edge = values.T @ (w[:, None] * values)
        ends_at = face.to_space(np.array([[z0, s0], [z1, s0]] if along_u else [[s0, z0], [s0, z1]]))[:, number]
        low, high = np.sort(ends_at)
        cosines = cosine_products(int(l.max(initial=0)) + 1, float(low), float(high), self.length_m)
        product: FloatArray = edge[np.ix_(m, m)] * cosines[np.ix_(l, l)] * np.outer(norms, norms)
        return product

    def rest(self, source: FloatArray, receiver: FloatArray, k: FloatArray) -> FloatArray:
        """What all higher modes add: V times their part of the Green's function, (..., n_k). [m2]"""
        product = self._all_values(source) * self._all_values(receiver)
        higher = self.k_all[self.count :]
        support = product[..., self.count :] @ (1 / (higher[:, None] ** 2 - k**2))
        return support + rest_beyond(
            self.shape, source, receiver, k, product=product, k_modes=self.k_all, volume=self.shape.volume_m3
        )
