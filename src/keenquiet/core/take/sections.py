"""Gain by section: one for the whole take where loud and quiet lie within 12 dB, else steps in whole decibels."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

WANTED_PEAK_DBFS: Final = -9.0
ONE_GAIN_DB: Final = 12.0
_LONG_PAUSE_S: Final = 1.5  # parts of a take are set apart by longer pauses than phrases are


@dataclass(frozen=True)
class Section:
    """From and to [s], its sample peak [dBFS], and by how much to turn the gain for it [dB, whole]."""

    start_s: float
    end_s: float
    peak_dbfs: float
    gain_db: int


def sections_of(channels: Sequence[FloatArray], sample_rate_hz: float, phrases: Sequence[Span]) -> tuple[Section, ...]:
    """Parts of a take with a gain each; all the same gain where 12 dB hold them. channels : each (n,)."""
    parts: list[list[Span]] = []
    for phrase in phrases:
        if parts and phrase.start_s - parts[-1][-1].end_s < _LONG_PAUSE_S:
            parts[-1].append(phrase)
        else:
            parts.append([phrase])
    peaks = []
    for part in parts:
        first, last = (round(edge * sample_rate_hz) for edge in (part[0].start_s, part[-1].end_s))
        top = max((float(np.max(np.abs(channel[first:last]), initial=0.0)) for channel in channels), default=0.0)
        peaks.append(20 * float(np.log10(max(top, 1e-9))))
    if not peaks:
        return ()
    one = max(peaks) - min(peaks) <= ONE_GAIN_DB
    gains = [round(WANTED_PEAK_DBFS - (max(peaks) if one else peak)) for peak in peaks]
    return tuple(
        Section(part[0].start_s, part[-1].end_s, peak, gain)
        for part, peak, gain in zip(parts, peaks, gains, strict=True)
    )
