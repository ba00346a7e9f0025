"""Noise at a point: each source by its direct and reverberant part, through the microphone's pattern."""

from dataclasses import dataclass, field
from itertools import pairwise
from typing import Final

import numpy as np

from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, sum_db
from keenquiet.core.room.room import Arrangement, NoiseSource, Room, direction
from keenquiet.core.things.microphone import random_energy_efficiency, sensitivity
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.statistics import Decay, reverberant_area_m2

THE_HOUSE: Final = "the house itself"
_CLOSEST_M: Final = 0.1
# A bedroom at night with nothing named: ventilation of the house and distant traffic, about 20 dB(A) (our estimate).
BACKGROUND_DB = np.array([36.0, 28.0, 21.0, 16.0, 12.0, 9.0, 8.0, 8.0])


@dataclass(frozen=True)
class NoiseAt:
    """Levels at the microphone's output, referred to an omni in the same place. [dB re 20 uPa]

    by_source : name -> A-weighted level. octaves_db : (8,) sum of all that goes on. passing : what comes and goes,
    while it is there; it is not in the sum. source_octaves_db : name -> (8,), of both.
    """

    octaves_db: FloatArray
    by_source_dba: dict[str, float]
    passing_dba: dict[str, float] = field(default_factory=dict)
    source_octaves_db: dict[str, FloatArray] = field(default_factory=dict)

    @property
    def level_dba(self) -> float:
        """A-weighted sum. [dB]"""
        return float(sum_db(self.octaves_db + A_WEIGHTING_OCTAVES_DB))


def noise_at_microphone(room: Room, arrangement: Arrangement, *, decay: Decay, hour: float | None = None) -> NoiseAt:
    """Noise picked up by the microphone.

    A noise's octave levels are its sound pressure at 1 m. One behind a surface or in the structure radiates into half
    space, so its power is L + 8 dB; one inside radiates all round, L + 11 dB. Reverberant part: Lw + 10 log(4/A).
    Source: H. Kuttruff, Room Acoustics, chapter 5 (direct and diffuse field).
    """
    mic = arrangement.microphone
    efficiency = random_energy_efficiency(mic.a)
    area = reverberant_area_m2(room, decay)
    levels = [BACKGROUND_DB + 10 * np.log10(efficiency)]
    by_source = {THE_HOUSE: float(sum_db(levels[0] + A_WEIGHTING_OCTAVES_DB))}
    passing: dict[str, float] = {}
    octaves = {THE_HOUSE: levels[0]}
    for noise in room.noises:
        if noise.runs_at(hour):
            level = _from(noise, room, mic.at, mic_axis=direction(mic.aims_deg, mic.tilt_deg), a=mic.a, area_m2=area)
            octaves[noise.name] = level
            if noise.passes:
                passing[noise.name] = float(sum_db(level + A_WEIGHTING_OCTAVES_DB))
                continue
            levels.append(level)
            by_source[noise.name] = float(sum_db(level + A_WEIGHTING_OCTAVES_DB))
    return NoiseAt(sum_db(np.stack(levels), axis=0), by_source, passing, octaves)


def noise_levels_dba(
    room: Room, arrangement: Arrangement, mics: FloatArray, *, decay: Decay, hour: float | None = None
) -> FloatArray:
    """The same sum for many places of the microphone (n, 3), all aimed as in `arrangement`, (n,). [dB]"""
    mic = arrangement.microphone
    efficiency, axis = random_energy_efficiency(mic.a), direction(mic.aims_deg, mic.tilt_deg)
    area = reverberant_area_m2(room, decay)
    power = np.broadcast_to(10 ** (BACKGROUND_DB / 10) * efficiency, (len(mics), 8)).copy()
    for noise in room.noises:
        if noise.runs_at(hour) and not noise.passes:
            offset = np.asarray(noise.at) - mics
            distance = np.maximum(np.linalg.norm(offset, axis=1), _CLOSEST_M)[:, None]
            picked = sensitivity(mic.a, offset / distance @ axis)[:, None] ** 2
            straight = _share_direct(noise) * picked / (_solid_angle(noise) * distance**2)
            power += _power(noise) * (straight + 4 / area * efficiency)
    weighted: FloatArray = 10 * np.log10(np.sum(power * 10 ** (A_WEIGHTING_OCTAVES_DB / 10), axis=1))
    return weighted


def over_the_day(room: Room, arrangement: Arrangement, *, decay: Decay) -> list[tuple[float, float, NoiseAt]]:
    """Stretches of the day between which something starts or stops: from and to [h], and the noise then."""
    edges = sorted({0.0, 24.0, *(hour for noise in room.noises for span in noise.hours for hour in span)})
    known: dict[tuple[str, ...], NoiseAt] = {}
    day = []
    for start, end in pairwise(edges):
        hour = (start + end) / 2
        running = tuple(noise.name for noise in room.noises if noise.runs_at(hour))
        if running not in known:
            known[running] = noise_at_microphone(room, arrangement, decay=decay, hour=hour)
        day.append((start, end, known[running]))
    return day


def _from(
    noise: NoiseSource,
    room: Room,
    at: tuple[float, float, float],
    *,
    mic_axis: FloatArray,
    a: float,
    area_m2: FloatArray,
) -> FloatArray:
    offset = np.subtract(noise.at, at)
    distance = max(float(np.linalg.norm(offset)), _CLOSEST_M)
    picked = float(sensitivity(a, np.asarray(offset / distance @ mic_axis))) ** 2
    power = _power(noise)
    direct = _share_direct(noise) * power / (_solid_angle(noise) * distance**2) * picked
    diffuse = power * 4 / area_m2 * random_energy_efficiency(a)
    level: FloatArray = 10 * np.log10(direct + diffuse)
    return level


def _solid_angle(noise: NoiseSource) -> float:
    return 4 * np.pi if noise.kind == "inside" else 2 * np.pi


def _share_direct(noise: NoiseSource) -> float:
    """What comes through the building radiates from whole surfaces: there is no place to turn a null to. [-]"""
    return 0.0 if noise.kind == "structure" else 1.0


def _power(noise: NoiseSource) -> FloatArray:
    """Sound power over (p0^2 / rho c), radiated through 1 m, (8,)."""
    power: FloatArray = 10 ** (noise.level_db / 10) * _solid_angle(noise)
    return power
