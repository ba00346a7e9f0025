"""Modes of a room in which a little was changed, from those of the room before: first order, for ranking many
candidates.

What hangs on a patch changes a damped mode's squared frequency by j c w / V times the admittance's difference times the
integral of the mode squared over the patch (Morse and Ingard, Theoretical Acoustics, chapter 9, first order about the
damped mode). Shapes stay; close pairs that a patch would turn into each other do not: finalists are solved anew.
"""

from collections import Counter
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from keenquiet.core.room.room import Piece, Rect, Room
from keenquiet.core.types import ComplexArray, FloatArray
from keenquiet.core.waves.modes import Modes, open_fronts, volume_loss_rate


@dataclass(frozen=True)
class Perturbation:
    """First-order changes of the modes of one room; integrals over patches are kept.

    room : that `modes` belong to.
    """

    room: Room
    modes: Modes
    _kept: dict[tuple[int, Rect], ComplexArray] = field(default_factory=dict)

    def towards(self, after: Room) -> Modes:
        """The modes of `after`, a room of the same shape with other overlays or furniture."""
        changed = _difference(self.room.pieces, after.pieces)
        rate = self._volume_rate(after) - self._volume_rate(self.room)
        if not changed and not np.any(rate):
            return self.modes
        modes = self.modes
        omega = 2 * np.pi * modes.f_hz
        loss = np.zeros(len(omega), dtype=complex)
        for piece, sign in changed:
            beta = piece.material.admittance(modes.f_hz, air=after.air)
            loss += sign * beta * self._squared_m2(piece)
        c = after.air.speed_m_s
        squared = modes.squared + 1j * omega * (c / after.volume_m3 * loss + 2 * rate)
        root = np.sqrt(squared)
        root = np.where(root.real < 0, -root, root)
        zero = sum(
            sign * piece.area_m2 * piece.material.admittance(np.array([20.0]), air=after.air)[0].real
            for piece, sign in changed
        )
        return replace(
            modes,
            f_hz=root.real / (2 * np.pi),
            decay_rate=np.maximum(root.imag, 1e-3),
            squared=squared,
            zero_rate=max(modes.zero_rate + c / 2 * float(zero) / after.volume_m3 + float(rate[0]), 1e-3),
        )

    def _volume_rate(self, room: Room) -> FloatArray:
        """What furniture and air take from each mode, (n,). [1/s]"""
        modes = self.modes
        rate = volume_loss_rate(room, modes.f_hz)
        for front in open_fronts(room):
            values = np.abs(modes.rigid.values(front.points) @ modes.shapes) ** 2
            rate = rate + front.extra_rate(room, modes.f_hz, values.mean(axis=0))
        return rate

    def _squared_m2(self, piece: Piece) -> ComplexArray:
        """Integral of each damped mode squared over a piece with its sign, (n,). [m2]"""
        face = self.room.faces[piece.face]
        rect = face.extent if piece.rect is None else piece.rect
        key = (piece.face, rect)
        if key not in self._kept:
            # a mode squared turns twice as fast as the mode: four points a turn keep one per cent, enough to rank by
            k_max = float(self.modes.f_hz[-1]) / self.room.air.speed_m_s
            (u, wu), (v, wv) = (_gauss(low, high, k_max=k_max) for low, high in (rect[:2], rect[2:]))
            flat = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
            values = self.modes.rigid.values(face.to_space(flat)) @ self.modes.shapes
            self._kept[key] = np.outer(wu, wv).ravel() @ values**2
        return piece.sign * self._kept[key]


def _gauss(low: float, high: float, *, k_max: float) -> tuple[FloatArray, FloatArray]:
    nodes, weights = _nodes(int(4 * k_max * (high - low)) + 3)
    half = (high - low) / 2
    return low + half * (nodes + 1), half * weights


@lru_cache(maxsize=64)
def _nodes(count: int) -> tuple[FloatArray, FloatArray]:
    return np.polynomial.legendre.leggauss(count)


def _difference(before: tuple[Piece, ...], after: tuple[Piece, ...]) -> list[tuple[Piece, int]]:
    """Pieces that came (+1) and went (-1)."""

    def counted(pieces: tuple[Piece, ...]) -> Counter[tuple[object, ...]]:
        return Counter(_key(piece) for piece in pieces)

    by_key = {_key(piece): piece for piece in (*before, *after)}
    balance = counted(after)
    balance.subtract(counted(before))
    return [(by_key[key], count) for key, count in balance.items() if count]


def _key(piece: Piece) -> tuple[object, ...]:
    return piece.face, piece.rect, id(piece.material), piece.sign
