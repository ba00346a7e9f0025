"""Modes of a box room with rigid walls: closed form."""

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Piece
from keenquiet.core.room.shape import Face, Shape
from keenquiet.core.types import FloatArray, IntArray

_STATIC_REACH: Final = 5.0  # modes up to this multiple of the coupled range enter as a quasi-static correction
_MOMENTS: Final = 6  # terms of 1/(kn^2 - k^2) = sum k^(2i) / kn^(2i+2)


def orders_below(f_max_hz: float, *, size_m: tuple[float, float, float], speed_m_s: float) -> IntArray:
    """Orders of all rigid modes with 0 < f <= f_max, sorted by frequency, (n, 3)."""
    counts = [int(2 * side * f_max_hz / speed_m_s) + 1 for side in size_m]
    grid = np.stack(np.meshgrid(*(np.arange(count) for count in counts), indexing="ij"), axis=-1).reshape(-1, 3)
    f_hz = box_mode_hz(grid, size_m=size_m, speed_m_s=speed_m_s)
    inside = (f_hz > 0) & (f_hz <= f_max_hz)
    sorted_orders: IntArray = grid[inside][np.argsort(f_hz[inside], kind="stable")]
    return sorted_orders


def box_mode_hz(orders: IntArray, *, size_m: tuple[float, float, float], speed_m_s: float) -> FloatArray:
    """Natural frequencies of an empty box room with rigid walls.

    orders : (n_modes, 3)  whole numbers along length, width, height. [-]
    size_m : inner length, width, height, each above 0. [m]
    speed_m_s : speed of sound. [m/s]
    Returns (n_modes,), in the order given. [Hz]
    Raises InputError when a side is not above 0.
    Source: H. Kuttruff, Room Acoustics, chapter 3 (rectangular room, rigid walls).
    """
    sides = np.asarray(size_m, dtype=float)
    if not np.all(sides > 0):  # asked this way round, NaN is refused too
        raise InputError("size_m", f"needs three lengths above 0 m, got {size_m}.", "Measure again.")
    frequencies: FloatArray = speed_m_s / 2 * np.linalg.norm(orders / sides, axis=-1)
    return frequencies


def mode_values(orders: IntArray, points: FloatArray, *, size_m: tuple[float, float, float]) -> FloatArray:
    """Rigid mode shapes at points, normalised so that the mean of psi^2 over the room is 1.

    orders : (n, 3). [-]   points : (..., 3). [m]   Returns (..., n). [-]
    """
    values = np.broadcast_to(_norms(orders), (*np.shape(points)[:-1], len(orders))).copy()
    for axis in range(3):
        # few different orders along an axis: their cosines once, then looked up for each mode
        turns = np.arange(int(orders[:, axis].max(initial=0)) + 1)
        cosines = np.cos(np.pi / size_m[axis] * np.asarray(points)[..., axis, None] * turns)
        values *= cosines[..., orders[:, axis]]
    return values


def _norms(orders: IntArray) -> FloatArray:
    return np.sqrt(2.0) ** np.count_nonzero(orders, axis=-1)


def cosine_products(count: int, start: float, end: float, length: float) -> FloatArray:
    """Integral of cos(m pi u/L) cos(n pi u/L) from start to end, (count, count). [m]"""
    m = np.arange(float(count))
    total: FloatArray = (m[:, None] + m) * np.pi / length
    apart: FloatArray = (m[:, None] - m) * np.pi / length

    def integral_of_cos(rate: FloatArray) -> FloatArray:
        safe = np.where(rate == 0, 1.0, rate)
        return np.where(rate == 0, end - start, (np.sin(safe * end) - np.sin(safe * start)) / safe)

    return 0.5 * (integral_of_cos(total) + integral_of_cos(apart))


def surface_overlap_m2(piece: Piece, orders: IntArray, *, shape: Shape) -> FloatArray:
    """Integral of psi_m psi_n over a piece of a face, closed form, (n, n). [m2]"""
    rows, columns = (index.ravel() for index in np.indices((len(orders), len(orders))))
    return pair_overlap_m2(piece, orders, rows, columns, shape=shape).reshape(len(orders), len(orders))


def pair_overlap_m2(piece: Piece, orders: IntArray, rows: IntArray, columns: IntArray, *, shape: Shape) -> FloatArray:
    """The same for chosen pairs of modes, (n_pairs,). [m2]"""
    size_m = shape.bounds_m
    axis, far_side, (a0, a1, b0, b1) = _along_axes(shape.faces[piece.face], piece.rect)
    a, b = (i for i in range(3) if i != axis)
    along_a = cosine_products(int(orders[:, a].max()) + 1, a0, a1, size_m[a])[orders[rows, a], orders[columns, a]]
    along_b = cosine_products(int(orders[:, b].max()) + 1, b0, b1, size_m[b])[orders[rows, b], orders[columns, b]]
    edge = (-1.0) ** orders[:, axis] if far_side else np.ones(len(orders))
    scale = _norms(orders) * edge
    overlap: FloatArray = piece.sign * along_a * along_b * scale[rows] * scale[columns]
    return overlap


def _along_axes(
    face: Face, rect: tuple[float, float, float, float] | None
) -> tuple[int, bool, tuple[float, float, float, float]]:
    """Axis that a face of a box is square to, whether it lies at the far side, and its rectangle along the other two
    axes.
    """
    axis = int(np.argmax(np.abs(face.normal)))
    u0, u1, v0, v1 = face.extent if rect is None else rect
    ends = np.delete(face.to_space(np.array([[u0, v0], [u1, v1]])), axis, axis=1)
    (a0, b0), (a1, b1) = ends.min(axis=0), ends.max(axis=0)
    return axis, bool(face.normal[axis] < 0), (float(a0), float(a1), float(b0), float(b1))


@dataclass(frozen=True)
class BoxModes:
    """Rigid modes of a box up to a frequency, lowest first, the constant one left out.

    orders : (n, 3). [-]   f_hz : (n,). [Hz]
    """

    shape: Shape
    orders: IntArray
    f_hz: FloatArray
    speed_m_s: float

    @staticmethod
    def of(shape: Shape, *, f_max_hz: float, speed_m_s: float) -> "BoxModes":
        """All modes up to `f_max_hz`."""
        orders = orders_below(f_max_hz, size_m=shape.bounds_m, speed_m_s=speed_m_s)
        return BoxModes(shape, orders, box_mode_hz(orders, size_m=shape.bounds_m, speed_m_s=speed_m_s), speed_m_s)

    @property
    def kinds(self) -> list[str]:
        """`axial`, `tangential` or `oblique` for each mode."""
        return [("axial", "tangential", "oblique")[int(count) - 1] for count in np.count_nonzero(self.orders, axis=-1)]

    def values(self, points: FloatArray) -> FloatArray:
        """Mode shapes at points (..., 3), mean of psi^2 over the room 1: (..., n). [-]"""
        return mode_values(self.orders, points, size_m=self.shape.bounds_m)

    def overlap_m2(self, piece: Piece, rows: IntArray, columns: IntArray) -> FloatArray:
        """Signed integral of psi_m psi_n over a piece for pairs of modes, (n_pairs,). [m2]"""
        return pair_overlap_m2(piece, self.orders, rows, columns, shape=self.shape)

    @cached_property
    def _static(self) -> tuple[IntArray, FloatArray]:
        top_hz = float(self.f_hz[-1])
        size, c = self.shape.bounds_m, self.speed_m_s
        orders = _orders_kept(_STATIC_REACH * top_hz, size, c)[len(self.orders) :]
        k = 2 * np.pi * box_mode_hz(orders, size_m=size, speed_m_s=c) / c
        # The sum over modes near a point source swings about its limit like a sine integral; a soft end stops that.
        reach = np.clip(k / (2 * np.pi * _STATIC_REACH * top_hz / c), 0, 1)
        weight = np.cos(0.5 * np.pi * np.clip((reach - 0.4) / 0.6, 0, 1)) ** 2
        return orders, weight[:, None] * k[:, None] ** -(2 * np.arange(1.0, _MOMENTS + 1))

    def rest(self, source: FloatArray, receiver: FloatArray, k: FloatArray) -> FloatArray:
        """What all higher modes add, quasi-statically: V times their part of the Green's function, (..., n_k). [m2]"""
        orders, powers = self._static
        product = mode_values(orders, source, size_m=self.shape.bounds_m) * mode_values(
            orders, receiver, size_m=self.shape.bounds_m
        )
        static: FloatArray = (product @ powers) @ (k**2) ** np.arange(_MOMENTS)[:, None]
        return static


@lru_cache(maxsize=4)
def _orders_kept(f_max_hz: float, size_m: tuple[float, float, float], speed_m_s: float) -> IntArray:
    return orders_below(f_max_hz, size_m=size_m, speed_m_s=speed_m_s)
