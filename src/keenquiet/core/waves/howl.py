"""Howl: microphone and monitors open together. How loud the chair may hear the performer before the loop sings.

The loop's mean gain in an octave is what the microphone gets from the monitors while they replay the performer,
against what it gets from the performer. A room's response has peaks above its mean, and the loop howls at the first
that reaches 0 dB (M. R. Schroeder, Improvement of acoustic-feedback stability by frequency shifting, JASA 36, 1964).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import exact_octaves_hz, sum_db
from keenquiet.core.room.room import Arrangement, Facing, Microphone, Point, Room, direction
from keenquiet.core.things.microphone import random_energy_efficiency, sensitivity
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.statistics import Decay, reverberant_area_m2

MARGIN_DB: Final = 6.0  # to ringing on: usual practice in sound reinforcement
_MONITOR: Final = SOURCES["loudspeaker-small"]
_OCTAVES: Final = slice(1, 7)  # 125 Hz to 4 kHz: below, the chain's low cut; above, neither has much gain
_CLOSEST_M: Final = 0.05


@dataclass(frozen=True)
class Howl:
    """loudest_db : level at the chair at which the loop keeps its margin; live_db : of the performer there without any
    monitors. worst_hz : octave that howls first. [dB re 20 uPa]
    """

    loudest_db: float
    live_db: float
    worst_hz: float

    @property
    def may_be_open(self) -> bool:
        """Whether the performer can be heard over the monitors as loud as from their own mouth."""
        return self.loudest_db >= self.live_db


def peaks_db(ring_s: float) -> float:
    """How far the highest peak of a room's response stands over its mean power. [dB]

    Power at independent frequencies is exponentially distributed: the highest of n is ln n times the mean, n about the
    bandwidth times the ring time (holds 200 synthetic rooms of 0.2 to 1.2 s within 0.2 dB in the mean).
    """
    low, high = exact_octaves_hz()[_OCTAVES][[0, -1]]
    return float(10 * np.log10(np.log(max((high - low) * ring_s, 3.0))))


def howl(room: Room, arrangement: Arrangement, *, decay: Decay) -> Howl | None:
    """None without monitors. Without a chair the performer's own place is where they are heard."""
    if not arrangement.monitors:
        return None
    mic, performer = arrangement.microphone, arrangement.performer
    ear: Point = arrangement.chair.at if arrangement.chair is not None else performer.at
    area = reverberant_area_m2(room, decay)
    at_mic = received_db(arrangement.monitors, mic, area_m2=area)
    at_ear = received_db(arrangement.monitors, Microphone(ear, 0.0, 0.0, "omni"), area_m2=area)
    source = performer.source
    level = np.array(source.level_db)
    playing = (Facing(performer.at, performer.faces_deg),)
    own = _spread(playing, mic, source.gain, source.directivity_index_db, area)
    heard = _spread(playing, Microphone(ear, 0.0, 0.0, "omni"), source.gain, source.directivity_index_db, area)
    # with the monitors' gain at 1, a replay at 1 m on the axis is as loud as the performer at the capsule
    replayed = level + own
    worst = int(np.argmax(at_mic[_OCTAVES])) + (_OCTAVES.start or 0)
    gain = -(at_mic[worst] + peaks_db(float(np.mean(decay.middle_s[3:5]))) + MARGIN_DB)
    return Howl(
        loudest_db=float(sum_db((replayed + at_ear)[_OCTAVES])) + gain,
        live_db=float(sum_db((level + heard)[_OCTAVES])),
        worst_hz=float(exact_octaves_hz()[worst]),
    )


def received_db(monitors: Sequence[Facing], mic: Microphone, *, area_m2: FloatArray) -> FloatArray:
    """What a microphone gets of monitors that all play alike, over one's level at 1 m on its axis, (8,). [dB]"""
    return _spread(monitors, mic, _MONITOR.gain, _MONITOR.directivity_index_db, area_m2)


def _spread(
    sources: Sequence[Facing], mic: Microphone, gain: object, index_db: Sequence[float], area_m2: FloatArray
) -> FloatArray:
    """Direct part through both directivities, and the diffuse one: 16 pi / (Q A) of the power on the axis."""
    assert callable(gain)
    axis = direction(mic.aims_deg, mic.tilt_deg)
    diffuse = 16 * np.pi / (10 ** (np.array(index_db) / 10) * area_m2) * random_energy_efficiency(mic.a)
    energy = np.zeros(8)
    for one in sources:
        offset = np.subtract(one.at, mic.at)
        away = max(float(np.linalg.norm(offset)), _CLOSEST_M)
        picked = float(sensitivity(mic.a, np.asarray(offset / away @ axis))) ** 2
        sent = gain(np.asarray(-offset / away @ direction(one.faces_deg))) ** 2
        energy += sent * picked / away**2 + diffuse
    level: FloatArray = 10 * np.log10(energy)
    return level
