"""Modes of a room, damped by every patch where it is.

Rigid-wall modes come from the shape (`rigid`). Damping couples them: in the rigid basis the lossy room is a complex
symmetric
matrix, whose eigenvalues are the squared complex angular frequencies. Modes well apart come out as first-order
perturbation gives them; close pairs, where first order is off by a factor of two and more, come out right too. Strong
patches
mix in far modes: each mode then sees their share at its own frequency (`_own_frequency`).
"""

import re
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import at_frequencies
from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Piece, Room
from keenquiet.core.types import ComplexArray, FloatArray, IntArray
from keenquiet.core.waves.rigid import RigidModes, rigid_modes

DECAY_60_DB: Final = 3 * np.log(10)  # T60 = 6.91 / delta
_MOST_COUPLED: Final = 240  # a larger matrix takes seconds, and modes that high overlap anyway
SAME_MODE: Final = 0.03  # a note and a mode within 3 % are taken for each other
_LEAST_SHARE: Final = 0.2  # a reading can take away most of a mode's damping, never all
_NOTES: Final = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


@dataclass(frozen=True)
class Modes:
    """Damped modes of a room, sorted by frequency, the constant mode apart.

    rigid : the rigid basis. likeness : (n,) number of the rigid mode that each is most like.
    f_hz : (n,) natural frequencies with losses. [Hz]
    decay_rate : (n,) delta. [1/s]
    squared : (n,) complex squared angular frequencies. [1/s2]
    shapes : (n_rigid, n) each column a damped mode in the rigid basis, normalised to v.v = 1. [-]
    zero_rate : decay rate of the constant mode, (1/2 of what its energy loses). [1/s]
    """

    rigid: RigidModes
    likeness: IntArray
    f_hz: FloatArray
    decay_rate: FloatArray
    squared: ComplexArray
    shapes: ComplexArray
    zero_rate: float

    @property
    def orders(self) -> IntArray | None:
        """Orders along the three axes, (n, 3), of the rigid mode that each is most like; None when the room is no
        box.
        """
        return None if self.rigid.orders is None else self.rigid.orders[self.likeness]

    @property
    def kinds(self) -> list[str]:
        """A word for each mode."""
        kinds = self.rigid.kinds
        return [kinds[int(i)] for i in self.likeness]

    @property
    def t60_s(self) -> FloatArray:
        """Ring times. [s]"""
        return DECAY_60_DB / self.decay_rate


def damped_modes(
    room: Room, *, f_max_hz: float, f_coupled_hz: float | None = None, rigid: RigidModes | None = None
) -> Modes:
    """Modes up to `f_max_hz` with damping by surfaces (complex admittance at each frequency), furniture and air.

    f_coupled_hz : above it modes are damped one by one (first order), for those that only support the ones below; None:
    none.
    rigid : another rigid basis than the shape's usual one.

    Source: Galerkin in the rigid basis, B_mn = beta Int psi_m psi_n dS (P. Morse, K. Ingard, Theoretical Acoustics,
    chapter 9). The loss term belongs to the frequency that is looked for: each pair takes its lower mode's, which is
    right for the lower of both and keeps what many higher modes add through a deep absorber (within 10 % of a complex
    finite-element solve; with the pair's mean frequency up to 30 % too much). On the diagonal a^2 / 2 of a damped
    oscillator is taken off.
    """
    c = room.air.speed_m_s
    basis = rigid if rigid is not None else rigid_modes(room.shape, f_max_hz=f_max_hz, speed_m_s=c)
    f_rigid = basis.f_hz
    n = len(f_rigid)
    if n == 0:
        raise InputError("to_hz", f"the room has no mode below {f_max_hz:g} Hz.", "Ask for a higher frequency.")
    omega = 2 * np.pi * f_rigid
    n_coupled = n if f_coupled_hz is None else max(int(np.searchsorted(f_rigid, f_coupled_hz, side="right")), 1)
    n_coupled = min(n_coupled, _MOST_COUPLED)
    rows, columns = np.triu_indices(n_coupled)
    alone = np.arange(n_coupled, n)
    rows, columns = np.concatenate([rows, alone]), np.concatenate([columns, alone])
    pair_hz = np.minimum(f_rigid[rows], f_rigid[columns])
    grid_hz = np.geomspace(pair_hz.min() * 0.999, pair_hz.max() * 1.001, 96)
    loss = np.zeros(len(pair_hz), dtype=complex)
    for pieces in _by_material(room.pieces):
        beta = np.interp(pair_hz, grid_hz, pieces[0].material.admittance(grid_hz, air=room.air))
        loss += beta * sum(basis.overlap_m2(piece, rows, columns) for piece in pieces)
    damping = 1j * c / room.volume_m3 * np.minimum(omega[rows], omega[columns]) * loss
    matrix = np.zeros((n_coupled, n_coupled), dtype=complex)
    n_pairs = len(pair_hz) - len(alone)
    matrix[rows[:n_pairs], columns[:n_pairs]] = damping[:n_pairs]
    matrix = matrix + np.triu(matrix, 1).T
    own_loss = np.diag(matrix) / (1j * omega[:n_coupled])
    matrix -= np.diag(own_loss**2 / 2)
    rate = volume_loss_rate(room, f_rigid)
    for front in open_fronts(room):
        rate = rate + front.extra_rate(room, f_rigid, np.mean(basis.values(front.points) ** 2, axis=0))
    own = omega**2 + 2j * omega * rate
    coupled, inner = np.linalg.eig(matrix + np.diag(own[:n_coupled]))
    squared = np.concatenate([coupled, own[n_coupled:] + damping[n_pairs:]])
    vectors = np.eye(n, dtype=complex)
    vectors[:n_coupled, :n_coupled] = inner
    root = np.sqrt(squared)
    root = np.where(root.real < 0, -root, root)
    order = np.argsort(root.real)
    vectors = vectors[:, order] / np.sqrt(np.sum(vectors[:, order] ** 2, axis=0))
    squared = _with_losses(squared[order], room.mode_losses)
    root = np.sqrt(squared)
    lowest = np.array([20.0])
    zero_loss = sum(piece.area_m2 * piece.material.admittance(lowest, air=room.air)[0].real for piece in room.pieces)
    return Modes(
        rigid=basis,
        likeness=_likeness(vectors),
        f_hz=root.real / (2 * np.pi),
        decay_rate=root.imag,
        squared=squared,
        shapes=vectors,
        zero_rate=c / 2 * float(zero_loss) / room.volume_m3 + float(volume_loss_rate(room, lowest)[0]),
    )


def _with_losses(squared: ComplexArray, losses: tuple[tuple[float, float], ...]) -> ComplexArray:
    """Squared frequencies with what readings say single modes lose beyond the description, each given to the nearest
    mode.
    """
    changed = squared.copy()
    for f_hz, rate in losses:
        root = np.sqrt(changed)
        near = int(np.argmin(np.abs(root.real / (2 * np.pi * f_hz) - 1)))
        if abs(root[near].real / (2 * np.pi * f_hz) - 1) < SAME_MODE:
            wanted = max(root[near].imag + rate, _LEAST_SHARE * root[near].imag)
            changed[near] = complex(root[near].real, wanted) ** 2
    return changed


def volume_loss_rate(room: Room, f_hz: FloatArray) -> FloatArray:
    """Decay rate from furniture (spread evenly) and air: c A / (8 V) + c m / 2, (n,). [1/s]"""
    c = room.air.speed_m_s
    rate = c * room.furniture_area_m2 / (8 * room.volume_m3) + c * room.air.energy_loss_per_m / 2
    return at_frequencies(rate, f_hz)


@dataclass(frozen=True)
class OpenFront:
    """The opened front of a piece of furniture: its absorption area by octave (8,) [m2] and points on it (n, 3) [m]."""

    area_m2: FloatArray
    points: FloatArray

    def extra_rate(self, room: Room, f_hz: FloatArray, squared: FloatArray) -> FloatArray:
        """What it takes from each mode beyond an even spread, since it stands in one place, (n,). [1/s]

        squared : mean of each mode squared over the front, 1 for an even spread. To first order, as for any patch.
        """
        c = room.air.speed_m_s
        extra: FloatArray = at_frequencies(c * self.area_m2 / (8 * room.volume_m3), f_hz) * (squared - 1)
        return extra


def open_fronts(room: Room) -> list[OpenFront]:
    """Fronts of furniture that stand open."""
    fronts = []
    for piece in room.furnishings:
        if piece.is_open:
            x, z = np.meshgrid(np.linspace(-0.4, 0.4, 3) * piece.size_m[0], np.linspace(0.1, 0.9, 4) * piece.size_m[2])
            plan = np.asarray(piece.at) + x.ravel()[:, None] * piece.axes[0] + piece.size_m[1] / 2 * piece.axes[1]
            fronts.append(OpenFront(piece.open_front_area_m2, np.column_stack([plan, z.ravel()])))
    return fronts


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
    rows, columns = scipy.optimize.linear_sum_assignment(weight, maximize=True)
    named = np.empty(len(chosen), dtype=np.int64)
    named[columns] = rows
    return named


def note_hz(text: str) -> float:
    """Pitch of a note as people type it: `G3`, `f#2`, `Bb1`, `196 Hz`. [Hz]

    Equal temperament, A4 = 440 Hz, octaves by scientific pitch notation. Raises InputError when it is none.
    """
    cleaned = text.strip().replace("♯", "#").replace("♭", "b").replace("−", "-")
    found = re.fullmatch(r"([A-Ga-g])([#b]?)\s*(-?\d)", cleaned)
    if found:
        step = {"c": 0, "d": 2, "e": 4, "f": 5, "g": 7, "a": 9, "b": 11}[found[1].lower()]
        number = step + {"#": 1, "b": -1, "": 0}[found[2]] + 12 * (int(found[3]) + 1)
        return float(440 * 2 ** ((number - 69) / 12))
    hertz = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*(?:hz)?", cleaned.lower())
    if hertz:
        return float(hertz[1].replace(",", "."))
    raise InputError("note", f"{text.strip()!r} is no note.", "Write it with its octave, G3 or F#2, or a pitch in Hz.")


def nearest_note(f_hz: float) -> tuple[str, int]:
    """Nearest note of the equal-tempered scale (A4 = 440 Hz) and how many cents the frequency lies above it."""
    semitones = 12 * np.log2(f_hz / 440) + 69
    number = round(float(semitones))
    return f"{_NOTES[number % 12]}{number // 12 - 1}", round(float(semitones - number) * 100)
