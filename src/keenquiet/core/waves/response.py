"""The low end: response of the room from one point to another, by modes."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import G
from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Point, Room
from keenquiet.core.types import ComplexArray, FloatArray
from keenquiet.core.waves.modes import Modes
from keenquiet.core.waves.rigid import RigidModes, is_basis


@dataclass(frozen=True, eq=False)
class Between:
    """Two places in a shape: rigid modes at each and what lies beyond the modes. It does not know the surfaces.

    at_source, at_receiver : (..., n_rigid). [-]   f_hz : (n_f,). [Hz]   rest : (..., n_f). [m2]
    """

    at_source: FloatArray
    at_receiver: FloatArray
    f_hz: FloatArray
    rest: FloatArray


def _between_kept(rigid: RigidModes, source: FloatArray, receiver: FloatArray, f_hz: FloatArray, c: float) -> Between:
    """The last pairs of places asked for: a panel that is dragged leaves everybody where they stand."""
    if source.ndim > 1:  # draws are never asked for twice
        return _between(rigid, source, receiver, f_hz, c)
    key = (id(rigid), source.tobytes(), receiver.tobytes(), f_hz.tobytes(), c)
    # the basis is held beside its values, so that its identity stays its own
    return _kept.find(key, lambda: (rigid, _between(rigid, source, receiver, f_hz, c)))[1]


def _between(rigid: RigidModes, source: FloatArray, receiver: FloatArray, f_hz: FloatArray, c: float) -> Between:
    rest = rigid.rest(source, receiver, 2 * np.pi * f_hz / c)
    return Between(rigid.values(source), rigid.values(receiver), f_hz, rest)


_kept: Final[Kept[tuple[object, ...], tuple[RigidModes, Between]]] = Kept(most_bytes=60_000_000, apart=is_basis)


@dataclass(frozen=True)
class Transfer:
    """What is needed to evaluate the response anywhere in one room: its damped modes and what lies beyond them."""

    room: Room
    modes: Modes

    def between(self, source: FloatArray, receiver: FloatArray, f_hz: FloatArray) -> Between:
        """What depends on the places (..., 3) only; kept for single ones. [m, Hz]"""
        return _between_kept(self.modes.rigid, source, receiver, f_hz, self.room.air.speed_m_s)

    def coupling(self, places: Between) -> ComplexArray:
        """Product of damped mode shapes at source and receiver: (..., n_modes). [-]"""
        product: ComplexArray = (places.at_source @ self.modes.shapes) * (places.at_receiver @ self.modes.shapes)
        return product

    def response(self, source: FloatArray, receiver: FloatArray, f_hz: FloatArray) -> ComplexArray:
        """Pressure for a point source relative to its free-field pressure at 1 m, (..., n_f). [-]

        source, receiver : (..., 3). [m]   f_hz : (n_f,). [Hz]
        """
        return self.response_at(self.between(source, receiver, f_hz))

    def response_at(self, places: Between) -> ComplexArray:
        """The same for places that are at hand.

        Source: modal sum of the Green's function (H. Kuttruff, Room Acoustics, equation 3.9), constant mode included.
        """
        c = self.room.air.speed_m_s
        omega = 2 * np.pi * places.f_hz
        # 1/(wn^2 - w^2) with the loss at the mode's own frequency; close to resonance, where it matters, they agree
        dynamic = self.coupling(places) @ (c**2 / (self.modes.squared[:, None] - omega**2))
        zero = c**2 / (2j * omega * self.modes.zero_rate - omega**2)
        return np.asarray(4 * np.pi / self.room.volume_m3 * (dynamic + zero + places.rest), dtype=complex)


def monitors_response(transfer: Transfer, monitors: FloatArray, listener: FloatArray, f_hz: FloatArray) -> ComplexArray:
    """What a chair hears of the same low notes from all monitors: their mean, relative to one's free field at 1 m,
    (n_f,). [-]

    monitors : (n, 3), listener : (3,). [m]  Below 300 Hz a monitor is as good as a point.
    """
    every = transfer.response(monitors, np.broadcast_to(listener, monitors.shape), f_hz)
    mean: ComplexArray = np.mean(every, axis=0)
    return mean


def level_db(pressure: ComplexArray) -> FloatArray:
    """Level of a response relative to the free field at 1 m. [dB]"""
    level: FloatArray = 20 * np.log10(np.maximum(np.abs(pressure), 1e-12))
    return level


def smoothed_db(level: FloatArray, f_hz: FloatArray, *, fraction: int = 3) -> FloatArray:
    """Energy mean over a sliding 1/`fraction`-octave window, (..., n_f) on the same frequencies. [dB]"""
    half = G ** (0.5 / fraction)
    inside = (f_hz[:, None] <= f_hz * half) & (f_hz[:, None] >= f_hz / half)
    weights = inside / inside.sum(axis=0)
    smooth: FloatArray = 10 * np.log10(10 ** (level / 10) @ weights)
    return smooth


def heard_level_db(coupling: ComplexArray, modes: Modes) -> FloatArray:
    """Peak pressure of each mode at its own frequency, relative to the strongest, (..., n_modes). [dB]"""
    peak = np.abs(coupling) / (2 * 2 * np.pi * modes.f_hz * modes.decay_rate)
    level: FloatArray = 20 * np.log10(np.maximum(peak, 1e-12) / np.max(peak, axis=-1, keepdims=True))
    return level


def point(at: Point) -> FloatArray:
    """A point as an array, (3,). [m]"""
    return np.asarray(at, dtype=float)
