"""How a take wanders from phrase to phrase: louder, nearer, back, turned away, or at another level altogether.

Nearer is level and bass together, turned away is treble alone; what is only louder is creeping.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

_LEAST_PHRASES: Final = 4
_CREEP_DB: Final = 3.0
_TILT_DB: Final = 1.5  # of bass against the middle, between the first and the last third, that tells of distance
_TURN_DB: Final = 4.0
_JUMP_DB: Final = 6.0
_EVEN_DB: Final = 2.5  # of either side of a jump
_SURE: Final = 0.75  # correlation with time from which a rise is one
_BANDS_HZ: Final = ((80.0, 250.0), (500.0, 2000.0), (4000.0, 9000.0))


@dataclass(frozen=True)
class PhraseTone:
    """Level of a phrase and how its bass and its treble stand to its middle. [dB]"""

    at_s: float
    level_db: float
    bass_db: float
    treble_db: float


def phrase_tones(samples: FloatArray, sample_rate_hz: float, phrases: Sequence[Span]) -> list[PhraseTone]:
    """One for each phrase. samples : (n,)."""
    found = []
    for phrase in phrases:
        part = samples[round(phrase.start_s * sample_rate_hz) : round(phrase.end_s * sample_rate_hz)]
        if len(part) < 2048:
            continue
        f_hz, power = scipy.signal.welch(part, sample_rate_hz, nperseg=4096 if len(part) >= 4096 else 2048)
        bass, middle, treble = (
            10 * float(np.log10(power[(f_hz >= low) & (f_hz < high)].sum() + 1e-20)) for low, high in _BANDS_HZ
        )
        level = 10 * float(np.log10(np.mean(part**2) + 1e-20))
        found.append(PhraseTone((phrase.start_s + phrase.end_s) / 2, level, bass - middle, treble - middle))
    return found


def wandering(tones: Sequence[PhraseTone], seconds: float) -> list[Finding]:
    """Jump, or drift, turning and creep over a take; nothing under four phrases."""
    if len(tones) < _LEAST_PHRASES:
        return []
    level, bass, treble = (np.array([getattr(t, name) for t in tones]) for name in ("level_db", "bass_db", "treble_db"))
    jump = _jump(level, tones)
    if jump is not None:
        return [jump]
    time = np.array([t.at_s for t in tones])
    risen, tilted, dulled = (_trend(time, values) for values in (level, bass, treble))
    if abs(risen) >= _CREEP_DB and abs(tilted) >= _TILT_DB and risen * tilted > 0:
        return [Finding("drift", 0.0, seconds, risen, "dB", 0.7)]
    if abs(risen) >= _CREEP_DB:
        return [Finding("creep", 0.0, seconds, risen, "dB", 0.7)]
    if abs(dulled) >= _TURN_DB:
        return [Finding("turned", 0.0, seconds, dulled, "dB", 0.5)]
    return []


def _trend(time_s: FloatArray, values: FloatArray) -> float:
    """By how much values rise over the whole time, 0 where they only scatter. [dB]"""
    if np.std(values) < 1e-9:
        return 0.0
    if abs(float(np.corrcoef(time_s, values)[0, 1])) < _SURE:
        return 0.0
    slope = float(scipy.stats.theilslopes(values, time_s)[0])
    return slope * float(time_s[-1] - time_s[0])


def _jump(level: FloatArray, tones: Sequence[PhraseTone]) -> Finding | None:
    best = None
    for at in range(2, len(level) - 1):
        step = float(np.median(level[at:]) - np.median(level[:at]))
        even = max(float(level[:at].std()), float(level[at:].std()))
        if abs(step) >= _JUMP_DB and even < _EVEN_DB and (best is None or abs(step) > abs(best[0])):
            best = (step, at)
    if best is None:
        return None
    step, at = best
    middle = (tones[at - 1].at_s + tones[at].at_s) / 2
    return Finding("jump", tones[at - 1].at_s, max(tones[at].at_s, middle), step, "dB", 0.8)
