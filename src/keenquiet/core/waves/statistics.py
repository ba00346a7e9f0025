"""Statistical decay: three formulas, their spread, and what follows from them."""

from dataclasses import dataclass

import numpy as np

from keenquiet.core.room.room import Room
from keenquiet.core.types import FloatArray

_MOST_ALPHA = 0.99  # Eyring's logarithm ends at 1


@dataclass(frozen=True)
class Decay:
    """Reverberation times by octave, each (8,) [s], trusted above the Schroeder frequency [Hz]."""

    sabine_s: FloatArray
    eyring_s: FloatArray
    arau_s: FloatArray
    trusted_above_hz: float

    @property
    def middle_s(self) -> FloatArray:
        """Geometric mean of the three, (8,). [s]"""
        mean: FloatArray = np.cbrt(self.sabine_s * self.eyring_s * self.arau_s)
        return mean

    @property
    def spread(self) -> FloatArray:
        """Half the range of the three over their middle, (8,): the model's own uncertainty. [-]"""
        three = np.stack([self.sabine_s, self.eyring_s, self.arau_s])
        return np.ptp(three, axis=0) / 2 / self.middle_s


def absorption_area_m2(room: Room) -> FloatArray:
    """Equivalent absorption area by octave, surfaces and furniture, air apart, (8,). [m2]"""
    area: FloatArray = room.face_areas_m2 @ room.face_absorption + room.furniture_area_m2
    return area


def decay(room: Room) -> Decay:
    """Reverberation time by Sabine, Eyring and Arau-Puchades, all with air absorption.

    Source: H. Kuttruff, Room Acoustics, chapter 5; H. Arau-Puchades, Acustica 65 (1988) 163, equation for the
    three pairs of walls; in other shapes each face counts towards the three directions by the square of its normal's
    components (our extension; it keeps areas). Furniture is spread over all faces in proportion to their area.
    """
    constant = 24 * np.log(10) / room.air.speed_m_s  # 0.161 s/m at 20 degC
    volume = room.volume_m3
    surface = float(room.face_areas_m2.sum())
    air = 4 * room.air.energy_loss_per_m * volume
    area = absorption_area_m2(room)
    with np.errstate(divide="ignore"):
        sabine = constant * volume / (area + air)
        eyring = constant * volume / (-surface * np.log1p(-np.minimum(area / surface, _MOST_ALPHA)) + air)
        # three directions: a face belongs to each by the squared cosine of its normal (a box's pairs of walls exactly)
        share = np.stack([face.normal for face in room.faces]).T ** 2 * room.face_areas_m2  # (3, n_faces)
        alpha = share @ room.face_absorption / share.sum(axis=1)[:, None]
        alpha = np.minimum(alpha + room.furniture_area_m2 / surface, _MOST_ALPHA)
        weight = (share.sum(axis=1) / surface)[:, None]
        arau = np.prod((constant * volume / (-surface * np.log1p(-alpha) + air)) ** weight, axis=0)
    return Decay(sabine, eyring, arau, trusted_above_hz=schroeder_hz(float(np.mean(sabine[3:5])), volume_m3=volume))


def schroeder_hz(t60_s: float, *, volume_m3: float) -> float:
    """Frequency above which modes overlap enough for statistics: 2000 sqrt(T/V). [Hz]"""
    return 2000 * float(np.sqrt(t60_s / volume_m3))


def critical_distance_m(area_m2: FloatArray, *, q: FloatArray | float = 1.0, efficiency: float = 1.0) -> FloatArray:
    """Distance at which direct and reverberant sound are equal: sqrt(Q A / (16 pi E)). [m]

    area_m2 : equivalent absorption area; q : directivity factor on axis; efficiency : random energy efficiency of the
    microphone.
    """
    distance: FloatArray = np.sqrt(q * area_m2 / (16 * np.pi * efficiency))
    return distance
