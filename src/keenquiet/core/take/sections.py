"""Gain by section: one for the whole take where loud and quiet lie within 12 dB, else steps in whole decibels."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.take.phrases import BLOCK_S, Span
from keenquiet.core.types import FloatArray

WANTED_DBFS: Final = (-12.0, -6.0)
HOT_DBTP: Final = -3.0  # half of what is wanted above the loudest passage is gone
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


def sections_of(peaks: FloatArray, phrases: Sequence[Span]) -> tuple[Section, ...]:
    """Parts of a take with a gain each; all the same gain where 12 dB hold them.

    peaks : highest sample of each tenth of a second, (n_blocks,).
    """
    parts: list[list[Span]] = []
    for phrase in phrases:
        if parts and phrase.start_s - parts[-1][-1].end_s < _LONG_PAUSE_S:
            parts[-1].append(phrase)
        else:
            parts.append([phrase])
    tops = []
    for part in parts:
        first, last = (round(edge / BLOCK_S) for edge in (part[0].start_s, part[-1].end_s))
        tops.append(20 * float(np.log10(np.max(peaks[first:last], initial=1e-9))))
    if not tops:
        return ()
    one = max(tops) - min(tops) <= ONE_GAIN_DB
    gains = [_gain_db(max(tops) if one else top) for top in tops]
    return tuple(
        Section(part[0].start_s, part[-1].end_s, top, gain) for part, top, gain in zip(parts, tops, gains, strict=True)
    )


def _gain_db(peak_dbfs: float) -> int:
    """What brings a peak to the middle of the wanted span, nothing where it lies within. [dB, whole]"""
    return 0 if WANTED_DBFS[0] <= peak_dbfs <= WANTED_DBFS[1] else round(WANTED_PEAK_DBFS - peak_dbfs)
