"""What a capsule of some size loses of high pitches that come from the side.

A flat round diaphragm averages the sound over its face: 2 J1(x) / x with x = k a sin(theta) (L. Beranek, T. Mellow,
Acoustics: Sound Fields and Transducers, on circular pistons, by reciprocity). The pattern of first order is what is
left of it at low pitches. Bodies, baskets and screens of real microphones add some dB of their own; this is the part
that every one of that size shares.
"""

from typing import Final

import numpy as np
from scipy.special import j1

from keenquiet.core.bands import band_edges_hz, exact_octaves_hz
from keenquiet.core.types import FloatArray

RADIUS_M: Final = {"side-address": 0.0127, "end-address": 0.006}  # one inch, half an inch


def diaphragm_gain(off_axis_deg: FloatArray | float, *, radius_m: float, speed_m_s: float) -> FloatArray:
    """Pressure against that on the axis by octave, (..., 8) for angles (...). [-]  Root of the mean over the octave."""
    low, high = band_edges_hz(exact_octaves_hz(), fraction=1)
    f_hz = low[:, None] * (high / low)[:, None] ** np.linspace(0, 1, 17)
    slant = np.abs(np.sin(np.deg2rad(np.asarray(off_axis_deg, dtype=float))))[..., None, None]
    x = np.maximum(2 * np.pi * f_hz / speed_m_s * radius_m * slant, 1e-6)
    gain: FloatArray = np.sqrt(np.mean((2 * j1(x) / x) ** 2, axis=-1))
    return gain
