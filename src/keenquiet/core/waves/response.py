"""The low end: response of the room from one point to another, by modes."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import G
from keenquiet.core.room.box import Box, Point
from keenquiet.core.types import ComplexArray, FloatArray, IntArray
from keenquiet.core.waves.modes import Modes, box_mode_hz, mode_values, orders_below

_STATIC_REACH: Final = 5.0  # modes up to this multiple of the coupled range enter as a quasi-static correction
_MOMENTS: Final = 6  # terms of 1/(kn^2 - k^2) = sum k^(2i) / kn^(2i+2)


@lru_cache(maxsize=4)
def _static_orders(f_max_hz: float, size_m: tuple[float, float, float], speed_m_s: float) -> IntArray:
    return orders_below(f_max_hz, size_m=size_m, speed_m_s=speed_m_s)


@dataclass(frozen=True)
class Transfer:
    """What is needed to evaluate the response anywhere in one room: damped modes and the quasi-static rest."""

    room: Box
    modes: Modes
    static_orders: IntArray
    static_k2: FloatArray
    static_weight: FloatArray

    @staticmethod
    def of(room: Box, modes: Modes, *, f_max_hz: float) -> "Transfer":
        """Prepare for frequencies up to about 0.8 of the highest coupled mode."""
        c = room.air.speed_m_s
        orders = _static_orders(_STATIC_REACH * f_max_hz, room.size_m, c)[len(modes.rigid) :]
        k2 = (2 * np.pi * box_mode_hz(orders, size_m=room.size_m, speed_m_s=c) / c) ** 2
        # The sum over modes near a point source swings about its limit like a sine integral; a soft end stops that.
        reach = np.clip(np.sqrt(k2) / (2 * np.pi * _STATIC_REACH * f_max_hz / c), 0, 1)
        return Transfer(room, modes, orders, k2, np.cos(0.5 * np.pi * np.clip((reach - 0.4) / 0.6, 0, 1)) ** 2)

    def coupling(self, source: FloatArray, receiver: FloatArray) -> ComplexArray:
        """Product of damped mode shapes at source (..., 3) and receiver (..., 3): (..., n_modes). [-]"""
        size = self.room.size_m
        at_source = mode_values(self.modes.rigid, source, size_m=size) @ self.modes.shapes
        at_receiver = mode_values(self.modes.rigid, receiver, size_m=size) @ self.modes.shapes
        product: ComplexArray = at_source * at_receiver
        return product

    def response(self, source: FloatArray, receiver: FloatArray, f_hz: FloatArray) -> ComplexArray:
        """Pressure for a point source relative to its free-field pressure at 1 m, (..., n_f). [-]

        source, receiver : (..., 3). [m]   f_hz : (n_f,). [Hz]
        Source: modal sum of the Green's function (H. Kuttruff, Room Acoustics, equation 3.9), constant mode included.
        """
        c = self.room.air.speed_m_s
        omega = 2 * np.pi * f_hz
        # 1/(wn^2 - w^2) with the loss at the mode's own frequency; close to resonance, where it matters, they agree
        dynamic = self.coupling(source, receiver) @ (c**2 / (self.modes.squared[:, None] - omega**2))
        zero = c**2 / (2j * omega * self.modes.zero_rate - omega**2)
        size = self.room.size_m
        product = mode_values(self.static_orders, source, size_m=size) * mode_values(self.static_orders, receiver, size_m=size)
        powers = self.static_weight[:, None] * self.static_k2[:, None] ** -np.arange(1.0, _MOMENTS + 1)
        static = (product @ powers) @ ((omega / c) ** 2) ** np.arange(_MOMENTS)[:, None]
        return np.asarray(4 * np.pi / self.room.volume_m3 * (dynamic + zero + static), dtype=complex)


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
