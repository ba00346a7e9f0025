"""How much room the microphone hears: direct sound against everything that arrives after it."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.room.box import Arrangement, Box
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.microphone import random_energy_efficiency
from keenquiet.core.waves.paths import Paths, direct_gain, image_cells, image_points, relative_gain, wall_hits
from keenquiet.core.waves.statistics import Decay, absorption_area_m2

_IMAGE_REACH_M: Final = 14.0  # images up to here one by one; what comes later is a diffuse tail
_MOST_ORDER: Final = 14


@dataclass(frozen=True)
class RoomSound:
    """Energy of the room at the microphone relative to the direct sound, by octave.

    early : (8,) reflections up to second order; late : (8,) all the rest.
    """

    early: FloatArray
    late: FloatArray

    @property
    def direct_over_room_db(self) -> float:
        """Direct-to-reverberant ratio, mean over 500 to 2000 Hz. [dB]"""
        return -float(10 * np.log10(np.mean((self.early + self.late)[MID_OCTAVES])))


@lru_cache(maxsize=8)
def _near_cells(size_m: tuple[float, float, float]) -> IntArray:
    cells = image_cells(_MOST_ORDER)
    centre = np.asarray(size_m) / 2
    distance = np.linalg.norm(image_points(cells, centre, size_m) - centre, axis=-1)
    kept: IntArray = cells[distance <= _IMAGE_REACH_M]
    return kept


def room_sound(room: Box, arrangement: Arrangement, *, paths: Paths, decay: Decay) -> RoomSound:
    """Room energy at the microphone: exact second-order paths, image sources to 14 m, then a diffuse tail.

    paths : second-order paths of the same arrangement (finite panels counted). decay : statistical decay of the room.
    """
    cells = _near_cells(room.size_m)
    late_cells = cells[np.abs(cells).sum(axis=1) > 2]
    source = np.asarray(arrangement.performer.at)
    mic = np.asarray(arrangement.microphone.at)
    reflection = np.log(np.clip(1 - room.face_absorption, 1e-6, None))
    images = image_energy(room, arrangement, late_cells, source, mic, reflection)
    return RoomSound(early=paths.energy.sum(axis=0), late=images + tail_energy(room, arrangement, decay=decay))


def room_sound_draws(
    room: Box, arrangement: Arrangement, *, sources: FloatArray, mics: FloatArray, absorption_factor: FloatArray
) -> FloatArray:
    """Direct-to-reverberant ratio for disturbed rooms, walls averaged: for uncertainty, (d,). [dB]

    sources, mics : (d, 3). [m]   absorption_factor : (d, 6, 8) on each face's absorption. [-]
    """
    cells = image_cells(3)
    alpha = np.clip(room.face_absorption * absorption_factor, 0, 0.99)
    energy = image_energy(room, arrangement, cells, sources, mics, np.log1p(-alpha))
    # later arrivals scale as the diffuse field does: inversely with total absorption
    diffuse = tail_share(room, reach_m=9.0) / (alpha * room.face_areas_m2[:, None]).sum(axis=1)
    straight = sources - mics
    distance2 = np.sum(straight**2, axis=1)[:, None]
    gain = 16 * np.pi * distance2 * diffuse_gain(arrangement, straight / np.sqrt(distance2))
    ratio: FloatArray = -10 * np.log10(np.mean((energy + gain * diffuse)[:, MID_OCTAVES], axis=1))
    return ratio


def tail_share(room: Box, *, reach_m: float) -> FloatArray:
    """Share of the diffuse energy that arrives after `reach_m` of travel, (8,). [-]"""
    area = absorption_area_m2(room) + 4 * room.air.energy_loss_per_m * room.volume_m3
    share: FloatArray = np.exp(-area / (4 * room.volume_m3) * reach_m)
    return share


def tail_energy(room: Box, arrangement: Arrangement, *, decay: Decay) -> FloatArray:
    """Diffuse energy arriving after the last single image, relative to the direct sound, (8,). [-]

    Source: steady diffuse field 4 W/A against W/(4 pi r^2) direct (H. Kuttruff, Room Acoustics, chapter 5), decaying with T.
    """
    source, mic = np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at)
    distance = float(np.linalg.norm(source - mic))
    constant = 24 * np.log(10) / room.air.speed_m_s
    area = constant * room.volume_m3 / decay.middle_s
    left = np.exp(-area / (4 * room.volume_m3) * _IMAGE_REACH_M)
    towards = (source - mic) / distance
    return 16 * np.pi * distance**2 / area * left * diffuse_gain(arrangement, towards)


def diffuse_gain(arrangement: Arrangement, towards: FloatArray) -> FloatArray:
    """Diffuse pick-up relative to the direct path by octave, (..., 8) for towards (..., 3): pattern efficiency and directivity. [-]"""
    q = 10 ** (np.array(arrangement.performer.source.directivity_index_db) / 10)
    gain: FloatArray = random_energy_efficiency(arrangement.microphone.a) / q / direct_gain(arrangement, towards)
    return gain


def image_energy(
    room: Box, arrangement: Arrangement, cells: IntArray, source: FloatArray, mic: FloatArray, log_reflection: FloatArray
) -> FloatArray:
    """Summed energy of image sources relative to the direct sound, (..., 8), for source, mic (..., 3)."""
    offset = image_points(cells, source, room.size_m) - mic[..., None, :]
    length = np.linalg.norm(offset, axis=-1)
    straight = source - mic
    distance = np.linalg.norm(straight, axis=-1)
    gain = relative_gain(arrangement, cells, offset / length[..., None], straight / distance[..., None])
    lost = room.air.energy_loss_per_m + room.furniture_area_m2 / (4 * room.volume_m3)
    kept = np.exp(wall_hits(cells) @ log_reflection - lost * (length - distance[..., None])[..., None])
    energy: FloatArray = np.sum(gain * kept * ((distance[..., None] / length) ** 2)[..., None], axis=-2)
    return energy
