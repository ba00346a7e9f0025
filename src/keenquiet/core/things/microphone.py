"""Microphones as first-order patterns, with proximity and what they gather from the room."""

from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.types import ComplexArray, FloatArray

# Pressure part `a` of a + (1 - a) cos(theta); the classical first-order family.
PATTERNS: Final = {
    "omni": 1.0,
    "subcardioid": 0.7,
    "cardioid": 0.5,
    "supercardioid": 0.37,
    "hypercardioid": 0.25,
    "figure-8": 0.0,
}


def pressure_part(pattern: str) -> float:
    """The pressure part `a` of a pattern by name. Raises InputError for an unknown name."""
    if pattern not in PATTERNS:
        raise InputError("microphone.pattern", f"{pattern!r} is not a pattern.", f"Use one of {', '.join(PATTERNS)}.")
    return PATTERNS[pattern]


def sensitivity(a: float, cos_angle: FloatArray) -> FloatArray:
    """Far-field sensitivity relative to the axis, any shape; negative behind a figure-8. [-]"""
    gain: FloatArray = a + (1 - a) * cos_angle
    return gain


def random_energy_efficiency(a: float) -> float:
    """Diffuse-field energy response relative to an omni of the same axial sensitivity: a^2 + (1-a)^2/3. [-]"""
    return a**2 + (1 - a) ** 2 / 3


def near_field_gain(
    a: float, cos_angle: float, *, distance_m: float, f_hz: FloatArray, speed_m_s: float
) -> ComplexArray:
    """Sensitivity to a point source close by, (n,): the gradient part is raised by 1 + 1/(jkr). [-]"""
    kr = 2 * np.pi * f_hz / speed_m_s * distance_m
    return np.asarray(a + (1 - a) * cos_angle * (1 + 1 / (1j * kr)), dtype=complex)


def proximity_lift_db(a: float, *, distance_m: float, f_hz: float, speed_m_s: float) -> float:
    """Bass lift on the axis at `distance_m`, relative to the same microphone far away. [dB]"""
    gain = near_field_gain(a, 1.0, distance_m=distance_m, f_hz=np.array([f_hz]), speed_m_s=speed_m_s)
    return float(20 * np.log10(np.abs(gain[0])))
