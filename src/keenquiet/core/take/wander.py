"""How a take wanders from phrase to phrase: louder, nearer or further, or at another level altogether.

Nearer is level and bass together; what is only louder is creeping.
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
_CREEP_DB: Final = 2.5
_TILT_DB: Final = 1.0  # of bass against the middle, between the first and the last third, that tells of distance
_JUMP_DB: Final = 6.0
_EVEN_DB: Final = 2.5  # of either side of a jump
_SURE: Final = 0.93  # correlation with time from which a rise is creeping, and no phrasing
_BANDS_HZ: Final = ((80.0, 300.0), (500.0, 2000.0))
_PIECE_S: Final = 0.2
_SIGMAS: Final = 3.0


@dataclass(frozen=True)
class PhraseTone:
    """Level of a phrase. [dB]  tilts : bass against the middle in each fifth of a second of it, with its time [s]."""

    at_s: float
    level_db: float
    tilts: tuple[tuple[float, float], ...]


def phrase_tones(samples: FloatArray, sample_rate_hz: float, phrases: Sequence[Span]) -> list[PhraseTone]:
    """One for each phrase. samples : (n,)."""
    found = []
    length = round(_PIECE_S * sample_rate_hz)
    f_hz = np.fft.rfftfreq(length, 1 / sample_rate_hz)
    bass, middle = ((f_hz >= low) & (f_hz < high) for low, high in _BANDS_HZ)
    for phrase in phrases:
        part = samples[round(phrase.start_s * sample_rate_hz) : round(phrase.end_s * sample_rate_hz)]
        if len(part) < length:
            continue
        pieces = part[: len(part) // length * length].reshape(-1, length) * np.hanning(length)
        power = np.abs(np.fft.rfft(pieces, axis=1)) ** 2
        tilt = 10 * np.log10((power[:, bass].sum(axis=1) + 1e-20) / (power[:, middle].sum(axis=1) + 1e-20))
        level = 10 * float(np.log10(np.mean(part**2) + 1e-20))
        times = phrase.start_s + (np.arange(len(pieces)) + 0.5) * _PIECE_S
        tilts = tuple((float(t), float(db)) for t, db in zip(times, tilt, strict=True))
        found.append(PhraseTone((phrase.start_s + phrase.end_s) / 2, level, tilts))
    return found


def wandering(tones: Sequence[PhraseTone], seconds: float) -> list[Finding]:
    """A jump, or drift or creep over a take; nothing under four phrases.

    What is sung changes the bass by far more than a step nearer does: drift is told where its rise is sure, else the
    rise of level alone is told, as creep.
    """
    if len(tones) < _LEAST_PHRASES:
        return []
    level = np.array([t.level_db for t in tones])
    jump = _jump(level, tones)
    if jump is not None:
        return [jump]
    time = np.array([t.at_s for t in tones])
    risen = _trend(time, level, seconds)
    if abs(risen) < _CREEP_DB:
        return []
    at, tilt = (np.array(column) for column in zip(*(pair for t in tones for pair in t.tilts), strict=True))
    fitted = scipy.stats.linregress(at, tilt)
    nearer = float(fitted.slope) * seconds
    sure = abs(float(fitted.slope)) > _SIGMAS * float(fitted.stderr)
    kind = "drift" if sure and nearer * risen > 0 and abs(nearer) >= _TILT_DB else "creep"
    return [Finding(kind, 0.0, seconds, risen, "dB", 0.7)]


def _trend(time_s: FloatArray, values: FloatArray, seconds: float) -> float:
    """By how much values rise over the whole take, 0 where they only scatter. [dB]"""
    if np.std(values) < 1e-9 or abs(float(np.corrcoef(time_s, values)[0, 1])) < _SURE:
        return 0.0
    return float(scipy.stats.theilslopes(values, time_s)[0]) * seconds


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
