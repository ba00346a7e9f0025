"""How many modes a room has below a frequency."""

import numpy as np

from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray


def mode_count(f_hz: FloatArray, shape: Shape, *, speed_m_s: float) -> FloatArray:
    """About how many modes lie below a frequency: V k^3 / (6 pi^2) + S k^2 / (16 pi). [-]

    Source: H. Kuttruff, Room Acoustics, chapter 3 (number of eigenfrequencies), its two leading terms.
    """
    k = 2 * np.pi * np.asarray(f_hz) / speed_m_s
    surface = sum(face.area_m2 for face in shape.faces)
    count: FloatArray = shape.volume_m3 * k**3 / (6 * np.pi**2) + surface * k**2 / (16 * np.pi)
    return count
