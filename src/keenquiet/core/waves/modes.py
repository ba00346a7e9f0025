"""Modes of a box room, damped by every patch where it is.

Rigid-wall modes are the closed form. Damping couples them: in the rigid basis the lossy room is a complex symmetric
matrix, whose eigenvalues are the squared complex angular frequencies. Modes well apart come out as first-order
perturbation gives them; close pairs, where first order is off by a factor of two and more, come out right too.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import at_frequencies
from keenquiet.core.errors import InputError
from keenquiet.core.room.box import Box, Piece, tangential
from keenquiet.core.types import ComplexArray, FloatArray, IntArray

DECAY_60_DB: Final = 3 * np.log(10)  # T60 = 6.91 / delta
_NOTES: Final = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


@dataclass(frozen=True)
class Modes:
    """Damped modes of a room, sorted by frequency, the constant mode (0,0,0) apart.

    orders : (n, 3) of the rigid mode that each is most like. [-]
    f_hz : (n,) natural frequencies with losses. [Hz]
    decay_rate : (n,) delta. [1/s]
    squared : (n,) complex squared angular frequencies. [1/s2]
    shapes : (n_rigid, n) each column a damped mode in the rigid basis, normalised to v.v = 1. [-]
    rigid : (n_rigid, 3) orders of the rigid basis. [-]
    zero_rate : decay rate of the constant mode, (1/2 of what its energy loses). [1/s]
    """

    orders: IntArray
    f_hz: FloatArray
    decay_rate: FloatArray
    squared: ComplexArray
    shapes: ComplexArray
    rigid: IntArray
    zero_rate: float

    @property
    def t60_s(self) -> FloatArray:
        """Ring times. [s]"""
        return DECAY_60_DB / self.decay_rate


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


def _cosine_products(count: int, start: float, end: float, length: float) -> FloatArray:
    """Integral of cos(m pi u/L) cos(n pi u/L) from start to end, (count, count). [m]"""
    m = np.arange(float(count))
    total: FloatArray = (m[:, None] + m) * np.pi / length
    apart: FloatArray = (m[:, None] - m) * np.pi / length

    def integral_of_cos(rate: FloatArray) -> FloatArray:
        safe = np.where(rate == 0, 1.0, rate)
        return np.where(rate == 0, end - start, (np.sin(safe * end) - np.sin(safe * start)) / safe)

    return 0.5 * (integral_of_cos(total) + integral_of_cos(apart))


def surface_overlap_m2(piece: Piece, orders: IntArray, *, size_m: tuple[float, float, float]) -> FloatArray:
    """Integral of psi_m psi_n over a piece of a face, closed form, (n, n). [m2]"""
    rows, columns = (index.ravel() for index in np.indices((len(orders), len(orders))))
    return _pair_overlap_m2(piece, orders, rows, columns, size_m=size_m).reshape(len(orders), len(orders))


def _pair_overlap_m2(
    piece: Piece, orders: IntArray, rows: IntArray, columns: IntArray, *, size_m: tuple[float, float, float]
) -> FloatArray:
    """The same for chosen pairs of modes, (n_pairs,). [m2]"""
    axis, side = divmod(piece.face, 2)
    a, b = tangential(piece.face)
    a0, a1, b0, b1 = piece.rect
    along_a = _cosine_products(int(orders[:, a].max()) + 1, a0, a1, size_m[a])[orders[rows, a], orders[columns, a]]
    along_b = _cosine_products(int(orders[:, b].max()) + 1, b0, b1, size_m[b])[orders[rows, b], orders[columns, b]]
    edge = (-1.0) ** orders[:, axis] if side else np.ones(len(orders))
    scale = _norms(orders) * edge
    overlap: FloatArray = piece.sign * along_a * along_b * scale[rows] * scale[columns]
    return overlap


def damped_modes(room: Box, *, f_max_hz: float, f_coupled_hz: float | None = None) -> Modes:
    """Modes up to `f_max_hz` with damping by surfaces (complex admittance at each frequency), furniture and air.

    f_coupled_hz : above it modes are damped one by one (first order), for those that only support the ones below; None: none.

    Source: Galerkin in the rigid basis, B_mn = beta Int psi_m psi_n dS (P. Morse, K. Ingard, Theoretical Acoustics,
    chapter 9). The loss term's frequency is taken as the geometric mean of each pair, exact on the diagonal.
    """
    c = room.air.speed_m_s
    rigid = orders_below(f_max_hz, size_m=room.size_m, speed_m_s=c)
    if len(rigid) == 0:
        raise InputError("to_hz", f"the room has no mode below {f_max_hz:g} Hz.", "Ask for a higher frequency.")
    f_rigid = box_mode_hz(rigid, size_m=room.size_m, speed_m_s=c)
    omega = 2 * np.pi * f_rigid
    n_coupled = len(rigid) if f_coupled_hz is None else max(int(np.searchsorted(f_rigid, f_coupled_hz, side="right")), 1)
    rows, columns = np.triu_indices(n_coupled)
    alone = np.arange(n_coupled, len(rigid))
    rows, columns = np.concatenate([rows, alone]), np.concatenate([columns, alone])
    pair_hz = np.sqrt(f_rigid[rows] * f_rigid[columns])
    grid_hz = np.geomspace(pair_hz.min() * 0.999, pair_hz.max() * 1.001, 96)
    loss = np.zeros(len(pair_hz), dtype=complex)
    for pieces in _by_material(room.pieces):
        beta = np.interp(pair_hz, grid_hz, pieces[0].material.admittance(grid_hz, air=room.air))
        loss += beta * sum(_pair_overlap_m2(piece, rigid, rows, columns, size_m=room.size_m) for piece in pieces)
    damping = 1j * c / room.volume_m3 * np.sqrt(omega[rows] * omega[columns]) * loss
    matrix = np.zeros((n_coupled, n_coupled), dtype=complex)
    n_pairs = len(pair_hz) - len(alone)
    matrix[rows[:n_pairs], columns[:n_pairs]] = damping[:n_pairs]
    matrix = matrix + np.triu(matrix, 1).T
    own = omega**2 + 2j * omega * volume_loss_rate(room, f_rigid)
    coupled, inner = np.linalg.eig(matrix + np.diag(own[:n_coupled]))
    squared = np.concatenate([coupled, own[n_coupled:] + damping[n_pairs:]])
    vectors = np.eye(len(rigid), dtype=complex)
    vectors[:n_coupled, :n_coupled] = inner
    root = np.sqrt(squared)
    root = np.where(root.real < 0, -root, root)
    order = np.argsort(root.real)
    vectors = vectors[:, order] / np.sqrt(np.sum(vectors[:, order] ** 2, axis=0))
    lowest = np.array([20.0])
    zero_loss = sum(piece.area_m2 * piece.material.admittance(lowest, air=room.air)[0].real for piece in room.pieces)
    return Modes(
        orders=rigid[_likeness(vectors)],
        f_hz=root.real[order] / (2 * np.pi),
        decay_rate=root.imag[order],
        squared=squared[order],
        shapes=vectors,
        rigid=rigid,
        zero_rate=c / 2 * float(zero_loss) / room.volume_m3 + float(volume_loss_rate(room, lowest)[0]),
    )


def volume_loss_rate(room: Box, f_hz: FloatArray) -> FloatArray:
    """Decay rate from furniture (spread evenly) and air: c A / (8 V) + c m / 2, (n,). [1/s]"""
    c = room.air.speed_m_s
    rate = c * room.furniture_area_m2 / (8 * room.volume_m3) + c * room.air.energy_loss_per_m / 2
    return at_frequencies(rate, f_hz)


def _by_material(pieces: tuple[Piece, ...]) -> list[list[Piece]]:
    groups: dict[int, list[Piece]] = {}
    for piece in pieces:
        groups.setdefault(id(piece.material), []).append(piece)
    return list(groups.values())


def _likeness(vectors: ComplexArray) -> IntArray:
    """For each damped mode the rigid one it is most like, each rigid mode named once."""
    weight = np.abs(vectors) ** 2
    chosen = np.argmax(weight, axis=0)
    if len(set(chosen.tolist())) == len(chosen):
        return chosen.astype(np.int64)
    taken = np.zeros(len(weight), dtype=bool)
    named = np.full(len(chosen), -1, dtype=np.int64)
    for flat in np.argsort(-weight, axis=None):  # the clearest likeness is named first
        rigid, damped = divmod(int(flat), weight.shape[1])
        if named[damped] < 0 and not taken[rigid]:
            named[damped], taken[rigid] = rigid, True
    return named


def kind_of(orders: IntArray) -> list[str]:
    """`axial`, `tangential` or `oblique` for each row of orders."""
    return [("axial", "tangential", "oblique")[int(count) - 1] for count in np.count_nonzero(orders, axis=-1)]


def nearest_note(f_hz: float) -> tuple[str, int]:
    """Nearest note of the equal-tempered scale (A4 = 440 Hz) and how many cents the frequency lies above it."""
    semitones = 12 * np.log2(f_hz / 440) + 69
    number = round(float(semitones))
    return f"{_NOTES[number % 12]}{number // 12 - 1}", round(float(semitones - number) * 100)
