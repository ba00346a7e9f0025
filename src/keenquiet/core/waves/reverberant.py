"""How much room the microphone hears: direct sound against everything that arrives after it.

A box gives its image sources to high order in closed form. Any other shape gives the ones to second order with
visibility, and a
diffuse field takes over after them.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.things.microphone import random_energy_efficiency
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.box_images import image_arrivals, image_cells, image_points
from keenquiet.core.waves.direct_part import direct_and_room
from keenquiet.core.waves.images import reflections
from keenquiet.core.waves.paths import Paths, direct_gain, reflected_paths, relative_gain
from keenquiet.core.waves.screens import screened
from keenquiet.core.waves.statistics import Decay, decaying_area_m2

_IMAGE_REACH_M: Final = 14.0  # images of a box up to here one by one; what comes later is a diffuse tail
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


@lru_cache(maxsize=8)
def _near_cells(size_m: tuple[float, float, float], reach_m: float = _IMAGE_REACH_M) -> IntArray:
    """Cells of all images within reach of the middle, however many reflections they take, (n, 3)."""
    most = [int(reach_m // side) + 1 for side in size_m]
    axes = np.meshgrid(*(np.arange(-n, n + 1) for n in most), indexing="ij")
    cells = np.stack(axes, axis=-1).reshape(-1, 3)
    centre = np.asarray(size_m) / 2
    distance = np.linalg.norm(image_points(cells, centre, size_m) - centre, axis=-1)
    kept: IntArray = cells[distance <= reach_m]
    return kept


def room_sound(room: Room, arrangement: Arrangement, *, paths: Paths, decay: Decay) -> RoomSound:
    """Room energy at the microphone: exact second-order paths, later images of a box to 14 m, then a diffuse tail.

    paths : second-order paths of the same arrangement (finite panels counted). decay : statistical decay of the room.
    """
    direct, early = direct_and_room(paths.energy, paths.delay_s)
    if room.shape.box_size_m is None:
        return RoomSound(
            direct=direct,
            early=early,
            late=tail_energy(room, arrangement, decay=decay, reach_m=3 * mean_free_path_m(room)),
        )
    cells = _near_cells(room.shape.bounds_m)
    late_cells = cells[np.abs(cells).sum(axis=1) > 2]
    source = np.asarray(arrangement.performer.at)
    mic = np.asarray(arrangement.microphone.at)
    reflection = np.log(np.clip(1 - room.face_absorption, 1e-6, None))
    images = image_arrivals(room, arrangement, late_cells, source, mic, reflection)[0].sum(axis=0)
    left = screened(arrangement)
    images = images * left.fed * left.gathered
    return RoomSound(
        direct=direct, early=early, late=images + tail_energy(room, arrangement, decay=decay, reach_m=_IMAGE_REACH_M)
    )


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
    box_order: int = 3,
) -> FloatArray:
    """Direct-to-reverberant ratio by octave at many places or in many draws, walls averaged over their pieces, (n, 8).
    [dB]

    For maps and uncertainty; `room_sound` is exact in the pieces but takes one place at a time. decay : of the room as
    it is. sources, mics : (n, 3) performer and microphone, both facing as in `arrangement`. [m]   absorption_factor :
    (n, n_faces, 8) on each face's absorption, None for 1. [-]   box_order : of the images that are counted one by one.
    """
    # later arrivals scale as the diffuse field does: inversely with all that swallows, of which only faces are drawn
    rest = room.furniture_area_m2 + 4 * room.air.energy_loss_per_m * room.volume_m3
    area, alpha = decaying_area_m2(room, decay), np.minimum(room.face_absorption, 0.99)
    if absorption_factor is not None:
        alpha = np.clip(room.face_absorption * absorption_factor, 0, 0.99)
        drawn = (alpha * room.face_areas_m2[:, None]).sum(axis=1) + rest
        area = area * drawn / (room.face_areas_m2 @ room.face_absorption + rest)
    direct, early, reach_m = early_energy(room, arrangement, sources, mics, np.log1p(-alpha), box_order=box_order)
    straight = sources - mics
    distance2 = np.sum(straight**2, axis=1)[:, None]
    late = 16 * np.pi * distance2 / area * np.exp(-area / (4 * room.volume_m3) * reach_m)
    ratio: FloatArray = -10 * np.log10(
        (early + late * diffuse_gain(arrangement, straight / np.sqrt(distance2))) / direct
    )
    return ratio


def mid_band_db(by_octave_db: FloatArray) -> FloatArray:
    """Direct over room as one figure, of 500 to 2000 Hz, from (..., 8). [dB]"""
    middle: FloatArray = -10 * np.log10(np.mean(10 ** (-by_octave_db[..., MID_OCTAVES] / 10), axis=-1))
    return middle


def early_energy(
    room: Room,
    arrangement: Arrangement,
    sources: FloatArray,
    mics: FloatArray,
    log_reflection: FloatArray,
    *,
    box_order: int,
) -> tuple[FloatArray, FloatArray, float]:
    """Energy of the direct sound with what fuses with it and of first reflections at many places, walls averaged, each
    (d, 8) [-], and the way after which a diffuse tail goes on [m].

    sources, mics : (d, 3). [m]   log_reflection : (n_faces, 8) or (d, n_faces, 8).
    """
    if room.shape.box_size_m is not None:
        reach_m = 9.0 if box_order >= 3 else 6.0
        arrivals = image_arrivals(room, arrangement, image_cells(box_order), sources, mics, log_reflection)
        return *direct_and_room(*arrivals), reach_m
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
    return *direct_and_room(energy, later_s), (order + 1) * mean_free_path_m(room)


def tail_energy(room: Room, arrangement: Arrangement, *, decay: Decay, reach_m: float) -> FloatArray:
    """Diffuse energy arriving after `reach_m` of travel, relative to the direct sound, (8,). [-]

    Source: steady diffuse field 4 W/A against W/(4 pi r^2) direct (H. Kuttruff, Room Acoustics, chapter 5), decaying
    with T.
    """
    source, mic = np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at)
    distance = float(np.linalg.norm(source - mic))
    area = decaying_area_m2(room, decay)
    left = np.exp(-area / (4 * room.volume_m3) * reach_m)
    towards = (source - mic) / distance
    return 16 * np.pi * distance**2 / area * left * diffuse_gain(arrangement, towards)


def diffuse_gain(arrangement: Arrangement, towards: FloatArray) -> FloatArray:
    """Diffuse pick-up relative to the direct path by octave, (..., 8) for towards (..., 3): pattern efficiency,
    directivity, and what screens leave of both. [-]
    """
    q = 10 ** (np.array(arrangement.performer.source.directivity_index_db) / 10)
    left = screened(arrangement)
    gathered = random_energy_efficiency(arrangement.microphone.a) * left.gathered * left.fed
    gain: FloatArray = gathered / q / direct_gain(arrangement, towards)
    return gain
