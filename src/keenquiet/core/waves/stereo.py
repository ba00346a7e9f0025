"""Two microphones on one source: how wide an angle fills the stage between the loudspeakers.

Level and time differences add up to a shift; 15 dB alone, or 1.12 ms alone, moves a source all the way to one side, and
both together pull a little more than their sum: their powers of `_TOGETHER` add up. Set on the recording angles of
M. Williams, Unified theory of microphone systems for stereophonic sound recording, AES preprint 2466 (1987).
"""

from typing import Final

import numpy as np

from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import FloatArray

FULL_LEVEL_DB: Final = 15.0
FULL_TIME_S: Final = 1.12e-3
COINCIDENT_M: Final = 0.03
NEAR_COINCIDENT_M: Final = 0.50
_STACKED_M: Final = 0.15  # one above the other still hears at the same time what comes along the floor
_TOGETHER: Final = 0.83


def shift(theta_deg: FloatArray, *, a: float, between_deg: float, spacing_m: float, speed_m_s: float) -> FloatArray:
    """How far a distant source at an angle from the middle is heard to one side: 1 all the way, (...). [-]"""
    theta = np.deg2rad(np.asarray(theta_deg, dtype=float))
    half = np.deg2rad(between_deg / 2)
    near, far = (np.maximum(np.abs(sensitivity(a, np.cos(theta + turn))), 1e-3) for turn in (-half, half))
    level = 20 * np.log10(near / far) / FULL_LEVEL_DB
    time = spacing_m * np.sin(theta) / speed_m_s / FULL_TIME_S
    both = np.sign(level) * (np.abs(level) ** _TOGETHER + np.abs(time) ** _TOGETHER) ** (1 / _TOGETHER)
    moved: FloatArray = np.where(level * time > 0, both, level + time)
    return moved


def kind_of(one_at: tuple[float, float, float], other_at: tuple[float, float, float]) -> str:
    """`coincident`, `near-coincident`, or `apart`, by where two microphones stand. [m]"""
    between = np.subtract(one_at, other_at)
    if np.linalg.norm(between) > NEAR_COINCIDENT_M:
        return "apart"
    stacked = np.hypot(between[0], between[1]) <= COINCIDENT_M and abs(between[2]) <= _STACKED_M
    return "coincident" if stacked else "near-coincident"


def recording_angle_deg(*, a: float, between_deg: float, spacing_m: float, speed_m_s: float) -> float | None:
    """The whole angle whose sources fill the stage from one loudspeaker to the other; spacing_m across the middle line.

    None where nothing reaches the sides. [deg]
    """
    theta = np.arange(0.0, 90.01, 0.1)
    moved = shift(theta, a=a, between_deg=between_deg, spacing_m=spacing_m, speed_m_s=speed_m_s)
    reached = np.flatnonzero(moved >= 1.0)
    return float(2 * theta[reached[0]]) if len(reached) else None
