"""A map of good and bad places: direct over room for many positions at once."""

import numpy as np

from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.reverberant import diffuse_gain, early_energy, tail_share


def direct_over_room_map_db(
    room: Room, arrangement: Arrangement, *, sources: FloatArray, mics: FloatArray
) -> FloatArray:
    """Direct-to-reverberant ratio by octave at many places, walls averaged over their pieces.

    sources, mics : (n, 3) performer and microphone, both facing as in `arrangement`. [m]
    Returns (n, 8). [dB]  For ranking places; `room_sound` is exact in the pieces but takes one place at a time.
    """
    log_reflection = np.log1p(-np.minimum(room.face_absorption, 0.99))
    direct, early, reach_m = early_energy(room, arrangement, sources, mics, log_reflection, box_order=2)
    straight = sources - mics
    distance2 = np.sum(straight**2, axis=1)[:, None]
    area = room.face_areas_m2 @ room.face_absorption + room.furniture_area_m2
    gathered = diffuse_gain(arrangement, straight / np.sqrt(distance2))
    late = 16 * np.pi * distance2 / area * tail_share(room, reach_m=reach_m) * gathered
    return -10 * np.log10((early + late) / direct)
