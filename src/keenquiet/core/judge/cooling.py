"""Cool first, then switch the fan off: how long a closed room stays near its temperature, and what it does to pitch."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Room

PERSON_W: Final = 100.0  # standing, singing or playing: sensible heat, ISO 7730 (1.6 met, half of it dry) and more
ALLOWED_K: Final = 1.5
_SKIN_J_M2K: Final = 10_000.0  # of walls that warm along within an hour, about 8 mm of plaster (our estimate)
_AIR_J_M3K: Final = 1206.0  # 1.2 kg/m3 times 1005 J/(kg K)
_SPREAD: Final = 0.4


@dataclass(frozen=True)
class Warming:
    """minutes : until the room is ALLOWED_K warmer, with the spread of an estimate. cents_per_k : by which winds rise.
    allowed_k, heat_w : what it was worked out for.
    """

    minutes: float
    plus_minus_min: float
    cents_per_k: float
    allowed_k: float
    heat_w: float


def warming(room: Room, *, people: int = 1, devices_w: float = 40.0, allowed_k: float = ALLOWED_K) -> Warming:
    """How long a closed room takes to warm by so much, no heat leaving it. Raises InputError for nobody and nothing.

    A wind's pitch follows the speed of sound, which rises with the root of the absolute temperature.
    """
    heat = people * PERSON_W + devices_w
    if not (heat > 0 and allowed_k > 0):
        raise InputError("people", "nothing warms the room.", "Say who is in it.")
    capacity = _AIR_J_M3K * room.volume_m3 + _SKIN_J_M2K * float(room.face_areas_m2.sum())
    kelvin = room.air.temperature_c + 273.15
    cents = 1200 * float(np.log2(np.sqrt((kelvin + 1) / kelvin)))
    minutes = capacity * allowed_k / heat / 60
    return Warming(minutes, _SPREAD * minutes, cents, allowed_k, heat)
