"""How much room the microphone hears: direct sound against everything that arrives after it.

Reflections to second order path by path; of all the rest, how much energy goes round by walks (`energy_walks.py`), as
even as a diffuse field.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.room.room import Arrangement, Room, direction
from keenquiet.core.things.sources import Source
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.box_images import image_arrivals, image_cells
from keenquiet.core.waves.direct_part import direct_and_room
from keenquiet.core.waves.energy_walks import Part
from keenquiet.core.waves.images import reflections
from keenquiet.core.waves.paths import Paths, direct_gain, reflected_paths, relative_gain
from keenquiet.core.waves.screens import screened
from keenquiet.core.waves.statistics import Decay, late_mean, reverberant_area_m2

_MANY_FACES: Final = 9  # rooms with more faces are drawn with first reflections only: pairs grow with the square


@dataclass(frozen=True)
class RoomSound:
    """Energy of the room at the microphone relative to the direct sound, by octave.

    direct : (8,) the direct sound with what fuses with it, alone 1; early : (8,) other reflections up to second order;
    late : (8,) all the rest.
    """

    direct: FloatArray
    early: FloatArray
    late: FloatArray

    @property
    def direct_over_room_db(self) -> float:
        """Direct-to-reverberant ratio, mean over 500 to 2000 Hz. [dB]"""
        return -float(10 * np.log10(np.mean(((self.early + self.late) / self.direct)[MID_OCTAVES])))


def room_sound(room: Room, arrangement: Arrangement, *, paths: Paths, decay: Decay) -> RoomSound:
    """Room energy at the microphone: exact second-order paths, and all other sound spread evenly.

    paths : second-order paths of the same arrangement (finite panels counted). decay : statistical decay of the room.
    """
    direct, early = direct_and_room(paths.energy, paths.delay_s)
    straight = np.subtract(arrangement.performer.at, arrangement.microphone.at)
    distance = float(np.linalg.norm(straight))
    late = (
        later_energy(room, decay, Part.BEYOND_PATHS) * distance**2 * late_gain(arrangement, straight / distance, decay)
    )
    return RoomSound(direct, early, late)


def place_bounce_db(room: Room, arrangement: Arrangement, *, decay: Decay) -> float:
    """Direct over room of one place, as the forecast has it, without all else that a forecast works out. [dB]"""
    return room_sound(room, arrangement, paths=reflected_paths(room, arrangement), decay=decay).direct_over_room_db


def mean_free_path_m(room: Room) -> float:
    """Mean way between two reflections in a diffuse field, 4 V / S. [m]"""
    return 4 * room.volume_m3 / float(room.face_areas_m2.sum())


def direct_over_room_at_db(
    room: Room,
    arrangement: Arrangement,
    *,
    decay: Decay,
    sources: FloatArray,
    mics: FloatArray,
    absorption_factor: FloatArray | None = None,
) -> FloatArray:
    """Direct-to-reverberant ratio by octave at many places or in many draws, walls averaged over their pieces, (n, 8).
    [dB]

    For maps and uncertainty; `room_sound` is exact in the pieces but takes one place at a time. decay : of the room as
    it is. sources, mics : (n, 3) performer and microphone, both facing as in `arrangement`. [m]   absorption_factor :
    (n, n_faces, 8) on each face's absorption, None for 1. [-]
    """
    area, alpha = room.face_areas_m2, np.minimum(room.face_absorption, 0.99)
    drawn = alpha if absorption_factor is None else np.clip(room.face_absorption * absorption_factor, 0, 0.99)
    direct, early, part = early_energy(room, arrangement, sources, mics, np.log1p(-drawn))
    late = later_energy(room, decay, part)
    if absorption_factor is not None:  # it scales inversely with all that swallows, of which only faces are drawn
        rest = room.furniture_area_m2 + 4 * room.air.energy_loss_per_m * room.volume_m3
        swallows, then = area @ alpha, (drawn * area[:, None]).sum(axis=1)
        kept = (area.sum() - then) / (area.sum() - swallows)
        before = 3 if part == Part.BEYOND_TWO else 2  # reflections that it has behind it at least
        late = late * (swallows + rest) / (then + rest) * kept**before
    straight = sources - mics
    distance2 = np.sum(straight**2, axis=1)[:, None]
    gathered = late_gain(arrangement, straight / np.sqrt(distance2), decay)
    ratio: FloatArray = -10 * np.log10((early + late * distance2 * gathered) / direct)
    return ratio


def mid_band_db(by_octave_db: FloatArray) -> FloatArray:
    """Direct over room as one figure, of 500 to 2000 Hz, from (..., 8). [dB]"""
    middle: FloatArray = -10 * np.log10(np.mean(10 ** (-by_octave_db[..., MID_OCTAVES] / 10), axis=-1))
    return middle


def early_energy(
    room: Room, arrangement: Arrangement, sources: FloatArray, mics: FloatArray, log_reflection: FloatArray
) -> tuple[FloatArray, FloatArray, Part]:
    """Energy of the direct sound with what fuses with it and of first reflections at many places, walls averaged, each
    (d, 8) [-], and which part of the sound is all the rest.

    sources, mics : (d, 3). [m]   log_reflection : (n_faces, 8) or (d, n_faces, 8).
    """
    if room.shape.box_size_m is not None:
        arrivals = image_arrivals(room, arrangement, image_cells(2), sources, mics, log_reflection)
        return *direct_and_room(*arrivals), Part.BEYOND_TWO
    order = 2 if len(room.faces) <= _MANY_FACES and len(sources) <= 100 else 1
    faces, exists, points, length = reflections(room.shape, sources, mics, order=order)
    straight = sources - mics
    distance = np.linalg.norm(straight, axis=-1)
    twice = faces[:, 1] >= 0
    last = np.where(twice[:, None], points[..., 1, :], points[..., 0, :])
    leaving, towards = points[..., 0, :] - sources[:, None], last - mics[:, None]
    leaving = leaving / np.linalg.norm(leaving, axis=-1, keepdims=True)
    towards = towards / np.linalg.norm(towards, axis=-1, keepdims=True)
    gain = relative_gain(arrangement, leaving, towards, straight / distance[:, None])
    kept = np.exp(
        log_reflection[..., faces[:, 0], :] + np.where(twice[:, None], log_reflection[..., faces[:, 1], :], 0.0)
    )
    energy = np.where(exists[..., None], gain * kept * ((distance[:, None] / length) ** 2)[..., None], 0.0)
    later_s = np.where(exists, (length - distance[:, None]) / room.air.speed_m_s, np.inf)
    return *direct_and_room(energy, later_s), Part.BEYOND_TWO if order == 2 else Part.BEYOND_ONE


def later_energy(room: Room, decay: Decay, part: Part) -> FloatArray:
    """Energy of a part of the room's sound over the direct sound at 1 m, both all round, (8,). [-]

    Source: steady diffuse field 4 W/A against W/(4 pi r^2) direct (H. Kuttruff, Room Acoustics, chapter 5).
    """
    return 16 * np.pi / reverberant_area_m2(room, decay, part)


def late_gain(arrangement: Arrangement, towards: FloatArray, decay: Decay) -> FloatArray:
    """Pick-up of late sound relative to the direct path by octave, (..., 8) for towards (..., 3): pattern and
    directivity over the directions that walks come from, and what screens leave of both. [-]
    """
    mic, performer = arrangement.microphone, arrangement.performer
    a, b = mic.a, 1 - mic.a
    picked = late_mean(decay, direction(mic.aims_deg, mic.tilt_deg), np.array([a * a, 2 * a * b, b * b]))
    sent = late_mean(decay, direction(performer.faces_deg), _square_of(performer.source))
    left = screened(arrangement)
    gain: FloatArray = np.maximum(picked * sent, 1e-6) * left.gathered * left.fed / direct_gain(arrangement, towards)
    return gain


@lru_cache(maxsize=64)
def _square_of(source: Source) -> FloatArray:
    """The directivity's square as c0 + c1 cos + c2 cos^2 by least squares over all directions, (3, 8)."""
    cosine, weight = np.polynomial.legendre.leggauss(64)
    powers = np.stack([np.ones(64), cosine, cosine**2], axis=1) * np.sqrt(weight)[:, None]
    square = np.linalg.lstsq(powers, source.gain(cosine) ** 2 * np.sqrt(weight)[:, None], rcond=None)[0]
    return np.asarray(square, dtype=float)
