"""Whether everything is in reach: cables, the meter in sight, the keys, and how loud the laptop is at the microphone.

A cable runs down to the floor, along it and up again, so that nobody trips over one in the air; headphones hang free.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.room.room import Arrangement, Laptop, Point, Room, direction
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.core.waves.statistics import Decay

SIGHT_DEG: Final = 30.0  # the eyes turn so far without the head (ISO 9241-5 and ergonomists' usual cone)
ARM_M: Final = 0.65
_EYES_M: Final = 0.07  # above the mouth
_SLACK_M: Final = 0.3  # for a head that moves
_FAN_M: Final = 0.5  # a noise noted so near is the laptop's own


@dataclass(frozen=True)
class Reach:
    """mic_cable_m, phones_cable_m : needed; short_m : how much of each is missing, 0 when it reaches.

    sight_deg : between where the performer looks and the screen. walk_m : to the keys, 0 within an arm's reach.
    fan, fan_share : the noise that is the laptop's own and its share of all noise at the microphone, None without.
    """

    mic_cable_m: float
    phones_cable_m: float
    mic_short_m: float
    phones_short_m: float
    sight_deg: float
    walk_m: float
    fan: str | None
    fan_share: float | None

    @property
    def in_sight(self) -> bool:
        """Whether the meter is seen without turning the head."""
        return self.sight_deg <= SIGHT_DEG


def reach(room: Room, arrangement: Arrangement, *, decay: Decay, hour: float | None = None) -> Reach | None:
    """None without a laptop."""
    laptop = arrangement.laptop
    if laptop is None:
        return None
    mouth = np.array(arrangement.performer.at)
    needed = float(mic_cable_m(laptop, np.array([arrangement.microphone.at]))[0])
    phones = float(np.linalg.norm(mouth - laptop.at)) + _SLACK_M
    eyes = mouth + np.array([0.0, 0.0, _EYES_M])
    gaze = np.subtract(laptop.at, eyes)
    facing = direction(arrangement.performer.faces_deg)
    sight = float(np.degrees(np.arccos(np.clip(facing @ gaze / max(float(np.linalg.norm(gaze)), 1e-9), -1, 1))))
    fan, share = _fan(room, arrangement, laptop.at, decay=decay, hour=hour)
    return Reach(
        mic_cable_m=needed,
        phones_cable_m=phones,
        mic_short_m=max(needed - laptop.mic_cable_m, 0.0),
        phones_short_m=max(phones - laptop.phones_cable_m, 0.0),
        sight_deg=sight,
        walk_m=max(float(np.hypot(*np.subtract(laptop.at, mouth)[:2])) - ARM_M, 0.0),
        fan=fan,
        fan_share=share,
    )


def mic_cable_m(laptop: Laptop, mics: FloatArray) -> FloatArray:
    """The cable that microphones at (n, 3) need: down from the laptop, along the floor, up the stand, (n,). [m]"""
    level = np.hypot(mics[:, 0] - laptop.at[0], mics[:, 1] - laptop.at[1])
    needed: FloatArray = level + laptop.at[2] + mics[:, 2]
    return needed


def _fan(
    room: Room, arrangement: Arrangement, at: Point, *, decay: Decay, hour: float | None
) -> tuple[str | None, float | None]:
    inside = [noise for noise in room.noises if noise.kind == "inside" and noise.runs_at(hour) and not noise.passes]
    near = [noise for noise in inside if float(np.linalg.norm(np.subtract(noise.at, at))) <= _FAN_M]
    if not near:
        return None, None
    heard = noise_at_microphone(room, arrangement, decay=decay, hour=hour)
    loudest = max(near, key=lambda noise: heard.by_source_dba[noise.name])
    return loudest.name, float(10 ** ((heard.by_source_dba[loudest.name] - heard.level_dba) / 10))
