"""Two microphones on one source: how wide an angle fills the stage between the loudspeakers, and what three to one
leaves.

Level and time differences add up to a shift; 15 dB alone, or 1.1 ms alone, moves a source all the way to one side.
Linear trading between both is a rule of thumb of listening tests (G. Theile, H. Wittek, on localisation curves).
"""

from typing import Final

import numpy as np

from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import FloatArray

FULL_LEVEL_DB: Final = 15.0
FULL_TIME_S: Final = 1.12e-3
COINCIDENT_M: Final = 0.03
NEAR_COINCIDENT_M: Final = 0.50


def shift(theta_deg: FloatArray, *, a: float, between_deg: float, spacing_m: float, speed_m_s: float) -> FloatArray:
    """How far a distant source at an angle from the middle is heard to one side: 1 all the way, (...). [-]"""
    theta = np.deg2rad(np.asarray(theta_deg, dtype=float))
    half = np.deg2rad(between_deg / 2)
    near, far = (np.maximum(np.abs(sensitivity(a, np.cos(theta + turn))), 1e-3) for turn in (-half, half))
    level = 20 * np.log10(near / far) / FULL_LEVEL_DB
    time = spacing_m * np.sin(theta) / speed_m_s / FULL_TIME_S
    moved: FloatArray = level + time
    return moved


def recording_angle_deg(*, a: float, between_deg: float, spacing_m: float, speed_m_s: float) -> float | None:
    """The whole angle that fills the stage, None where nothing reaches its sides. [deg]"""
    theta = np.arange(0.0, 90.01, 0.1)
    moved = shift(theta, a=a, between_deg=between_deg, spacing_m=spacing_m, speed_m_s=speed_m_s)
    reached = np.flatnonzero(moved >= 1.0)
    return float(2 * theta[reached[0]]) if len(reached) else None


def ripple_db(share: float) -> float:
    """Peak over notch of the comb when the second of two arrivals is `share` as strong as the first. [dB]"""
    return float(20 * np.log10((1 + share) / max(1 - share, 1e-3)))
