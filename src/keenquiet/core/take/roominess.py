"""The room heard in a take: how the ends of phrases fade.

A voice stops within some hundredths of a second; what is left then is the room. Of many ends the fastest count: a voice
may stop slowly, a room never fades faster than it does.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

_BAND_HZ: Final = (500.0, 4000.0)
_HOP_S: Final = 0.01
_LEAST_ENDS: Final = 3
_RANGE_DB: Final = 15.0  # of decay that must be seen over the pause's noise
_ROOMY_S: Final = 0.45
_ROOMY_OVER_DB: Final = -20.0  # the tail's first level under the phrase, from which a room is plainly heard
_AFTER_S: Final = 0.04  # of a phrase's end, in which a voice stops


@dataclass(frozen=True)
class Fading:
    """decay_s : of the room, T60 by the ends' slope. tail_db : its first level under the phrase, what direct sound is
    over it. ends : how many told it.
    """

    decay_s: float
    tail_db: float
    ends: int


def fading(samples: FloatArray, sample_rate_hz: float, phrases: tuple[Span, ...]) -> Fading | None:
    """How the ends of phrases fade, None where fewer than three can be read. samples : (n,)."""
    hop = round(_HOP_S * sample_rate_hz)
    high = min(_BAND_HZ[1], 0.45 * sample_rate_hz)
    sos = scipy.signal.butter(2, (_BAND_HZ[0], high), btype="bandpass", fs=sample_rate_hz, output="sos")
    passed = scipy.signal.sosfilt(sos, samples)
    power = np.mean(passed[: len(passed) // hop * hop].reshape(-1, hop) ** 2, axis=1)
    level = 10 * np.log10(scipy.ndimage.uniform_filter1d(power, 3) + 1e-16)
    ends = []
    for number, phrase in enumerate(phrases):
        until = phrases[number + 1].start_s - 0.1 if number + 1 < len(phrases) else len(samples) / sample_rate_hz - 0.1
        found = _end(level, phrase, until)
        if found is not None:
            ends.append(found)
    if len(ends) < _LEAST_ENDS:
        return None
    decays, tails = (np.array(column) for column in zip(*ends, strict=True))
    return Fading(float(np.percentile(decays, 30)), float(np.median(tails)), len(ends))


def _end(level: FloatArray, phrase: Span, until_s: float) -> tuple[float, float] | None:
    """Decay time and first level of the tail under the phrase, of one end."""
    first, last = round((phrase.end_s - 0.25) / _HOP_S), round(min(until_s, phrase.end_s + 1.6) / _HOP_S)
    part = level[max(first, 0) : last]
    if len(part) < 40:
        return None
    loud = float(np.percentile(part[:30], 80))
    floor = float(np.percentile(part[-max(len(part) // 4, 8) :], 50))
    above = np.flatnonzero(part > loud - 6)
    stop = int(above[-1]) + round(_AFTER_S / _HOP_S) if len(above) else 0
    usable = part[stop:]
    low = np.flatnonzero(usable < floor + 5)
    end = int(low[0]) if len(low) else len(usable)
    if end < 5 or float(usable[0]) - floor < _RANGE_DB:
        return None
    time = np.arange(end) * _HOP_S
    slope, start = np.polyfit(time, usable[:end], 1)
    if slope >= -10:
        return None
    return -60 / float(slope), float(start) - loud


def roomy(found: Fading | None, seconds: float) -> list[Finding]:
    """A finding where the room is plainly heard: it fades slowly and begins loud."""
    if found is None or found.decay_s < _ROOMY_S or found.tail_db < _ROOMY_OVER_DB:
        return []
    return [Finding("roomy", 0.0, seconds, found.decay_s, "s", 0.6)]
