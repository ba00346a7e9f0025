"""Two microphones summed to one: the comb that the way between them makes of the direct sound."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.room.room import Arrangement, Microphone, Room, direction
from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.stereo import COINCIDENT_M, NEAR_COINCIDENT_M, recording_angle_deg, ripple_db

_TOP_HZ: Final = 20_000.0
_MOST_NOTCHES: Final = 8


@dataclass(frozen=True)
class Pair:
    """delay_s : how much later the further one hears. notches_hz : the first ones. ripple_db : peak over notch.

    mono_loss_db : (8,) octaves of the sum against both powers added, negative where the sum loses. [dB]
    ratio : how many times as far the further one is. kind : `coincident`, `near-coincident`, or `apart`.
    recording_angle_deg : the angle that fills the stage, of pairs of one kind that stand together, else None.
    """

    delay_s: float
    notches_hz: tuple[float, ...]
    ripple_db: float
    mono_loss_db: FloatArray
    ratio: float
    kind: str
    recording_angle_deg: float | None


def pair_of(room: Room, arrangement: Arrangement) -> Pair | None:
    """The pair's comb for the performer's direct sound; None without a second microphone.

    Source: |1 + g exp(-j w t)|^2; notches at odd multiples of 1 / (2 t), as deep as the two levels are alike.
    """
    second = arrangement.second_microphone
    if second is None:
        return None
    at = np.asarray(arrangement.performer.at)
    heard = [_heard(mic, at) for mic in (arrangement.microphone, second)]
    delay = abs(heard[0][1] - heard[1][1]) / room.air.speed_m_s
    quieter, louder = sorted(gain for gain, _ in heard)
    share = quieter / max(louder, 1e-9)
    first = 1 / (2 * delay) if delay > 1 / (2 * _TOP_HZ) else np.inf
    notches = first * (2 * np.arange(_MOST_NOTCHES) + 1) if np.isfinite(first) else np.zeros(0)
    f_hz = np.array(OCTAVES_HZ)[:, None] * 2 ** np.linspace(-0.5, 0.5, 65)
    power = np.mean(np.abs(1 + share * np.exp(-2j * np.pi * f_hz * delay)) ** 2, axis=1)
    return Pair(
        delay,
        tuple(float(f) for f in notches[notches <= _TOP_HZ]),
        ripple_db(share),
        10 * np.log10(power / (1 + share**2)),
        max(way for _, way in heard) / min(way for _, way in heard),
        *_as_a_pair(arrangement.microphone, second, room.air.speed_m_s),
    )


def _as_a_pair(one: Microphone, other: Microphone, speed_m_s: float) -> tuple[str, float | None]:
    """What kind of pair it is, and the angle that it records."""
    spacing = float(np.linalg.norm(np.subtract(one.at, other.at)))
    if spacing > NEAR_COINCIDENT_M:
        return "apart", None
    kind = "coincident" if spacing <= COINCIDENT_M else "near-coincident"
    if one.pattern != other.pattern:
        return kind, None
    between = abs((one.aims_deg - other.aims_deg + 180) % 360 - 180)
    return kind, recording_angle_deg(a=one.a, between_deg=between, spacing_m=spacing, speed_m_s=speed_m_s)


def _heard(mic: Microphone, at: FloatArray) -> tuple[float, float]:
    """Gain and way of the direct sound at a microphone. [-, m]"""
    away = at - np.asarray(mic.at)
    distance = float(np.linalg.norm(away))
    gain = float(np.abs(sensitivity(mic.a, np.asarray(away / distance @ direction(mic.aims_deg, mic.tilt_deg)))))
    return gain / distance, distance
