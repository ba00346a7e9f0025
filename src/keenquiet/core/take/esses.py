"""Esses and t's: sibilance over the vowels beside it."""

from functools import partial
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.parts import block_levels
from keenquiet.core.take.finding import Finding
from keenquiet.core.types import FloatArray

_BAND_HZ: Final = (5000.0, 10_000.0)
_BODY_HZ: Final = (200.0, 4000.0)
_HOP_S: Final = 0.01
_SHARP_DB: Final = -3.0  # over the vowels' own level, from which an ess hurts (our estimate)
_WANTED_DB: Final = -9.0
_MOST_DB: Final = 8.0  # more makes a lisp
_LEAST_S, _LONGEST_S = 0.03, 0.45
_OVER_OWN_DB: Final = 6.0  # over the same moment's body: a cymbal-bright vowel is no ess


def sharp_esses(samples: FloatArray, sample_rate_hz: float) -> list[Finding]:
    """Esses whose 5 to 10 kHz come within 3 dB of the vowels' body; value: how many decibels to tame, 8 at most."""
    if sample_rate_hz < 2.2 * _BAND_HZ[1]:
        return []
    hop = round(_HOP_S * sample_rate_hz)
    high, body = (_levels(samples, sample_rate_hz, hop, band) for band in (_BAND_HZ, _BODY_HZ))
    if not len(high):
        return []
    vowels = float(np.percentile(body, 85))
    sharp = (high > vowels + _SHARP_DB) & (high > body + _OVER_OWN_DB)
    sharp = scipy.ndimage.binary_closing(sharp, np.ones(4, dtype=bool))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], sharp.astype(int), [0]])))
    found = []
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        if _LEAST_S <= (last - first) * _HOP_S <= _LONGEST_S:
            over = float(high[first:last].max()) - vowels - _WANTED_DB
            found.append(Finding("ess", float(first) * _HOP_S, float(last) * _HOP_S, min(over, _MOST_DB), "dB", 0.75))
    return found


def _levels(samples: FloatArray, sample_rate_hz: float, hop: int, band: tuple[float, float]) -> FloatArray:
    sos = scipy.signal.butter(4, band, btype="bandpass", fs=sample_rate_hz, output="sos")
    power = block_levels(samples, sample_rate_hz, hop, after=partial(scipy.signal.sosfilt, sos))
    levels: FloatArray = 10 * np.log10(np.maximum(scipy.ndimage.uniform_filter1d(power, 3), 1e-16))
    return levels
