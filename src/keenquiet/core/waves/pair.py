"""Two microphones summed to one: the comb that the way between them makes of the direct sound."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.room.room import Arrangement, Microphone, Room, direction
from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.comb import notches_hz, ripple_db
from keenquiet.core.waves.stereo import kind_of, recording_angle_deg

_TOP_HZ: Final = 20_000.0
_MOST_NOTCHES: Final = 8
_LOST_DB: Final = -60.0  # nothing is left


@dataclass(frozen=True)
class Pair:
    """delay_s : how much later the further one hears. notches_hz : the first ones. ripple_db : peak over notch, 0 where
    no notch lies among what is heard.

    mono_loss_db : (8,) octaves of the sum against both powers added, negative where the sum loses, at least -60. [dB]
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

    Source: |1 + g exp(-j w t)|^2; notches at odd multiples of 1 / (2 t), as deep as the two levels are alike. g is
    below 0 where one of them hears with its back lobe: then notches lie at whole multiples of 1 / t, and at 0.
    """
    second = arrangement.second_microphone
    if second is None:
        return None
    at = np.asarray(arrangement.performer.at)
    heard = [_heard(mic, at) for mic in (arrangement.microphone, second)]
    delay = abs(heard[0][1] - heard[1][1]) / room.air.speed_m_s
    quieter, louder = sorted((gain for gain, _ in heard), key=abs)
    share = quieter / louder if louder else 0.0
    notches = [f for f in notches_hz(delay, turned=share < 0, count=_MOST_NOTCHES) if f <= _TOP_HZ]
    f_hz = np.array(OCTAVES_HZ)[:, None] * 2 ** np.linspace(-0.5, 0.5, 65)
    power = np.mean(np.abs(1 + share * np.exp(-2j * np.pi * f_hz * delay)) ** 2, axis=1)
    return Pair(
        delay,
        tuple(notches),
        ripple_db(abs(share)) if notches else 0.0,
        np.maximum(10 * np.log10(np.maximum(power, 1e-12) / (1 + share**2)), _LOST_DB),
        max(way for _, way in heard) / min(way for _, way in heard),
        *_as_a_pair(arrangement.microphone, second, room.air.speed_m_s),
    )


def _as_a_pair(one: Microphone, other: Microphone, speed_m_s: float) -> tuple[str, float | None]:
    """What kind of pair it is, and the angle that it records."""
    kind = kind_of(one.at, other.at)
    if kind == "apart" or one.pattern != other.pattern:
        return kind, None
    between = (other.aims_deg - one.aims_deg + 180) % 360 - 180
    # what lies across the middle line makes a difference of time; what lies along it or above does not, from the front
    middle = np.deg2rad(one.aims_deg + between / 2)
    away = np.subtract(one.at, other.at)
    across = float(abs(away[1] * np.cos(middle) - away[0] * np.sin(middle)))
    return kind, recording_angle_deg(a=one.a, between_deg=abs(between), spacing_m=across, speed_m_s=speed_m_s)


def _heard(mic: Microphone, at: FloatArray) -> tuple[float, float]:
    """Gain, below 0 for a back lobe, and way of the direct sound at a microphone. [1/m, m]"""
    away = at - np.asarray(mic.at)
    distance = float(np.linalg.norm(away))
    gain = float(sensitivity(mic.a, np.asarray(away / distance @ direction(mic.aims_deg, mic.tilt_deg))))
    return gain / distance, distance
