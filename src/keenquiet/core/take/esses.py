"""Esses and t's: sibilance over the vowels beside it."""

from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import BANDS_HZ, HOP_S, Moments
from keenquiet.core.types import FloatArray

_SHARP_DB: Final = -3.0  # over the vowels' own level, from which an ess hurts (our estimate)
_WANTED_DB: Final = -9.0
_MOST_DB: Final = 8.0  # more makes a lisp
_LEAST_S, _LONGEST_S = 0.03, 0.45
_BRIEF_S: Final = 0.05
_BRIEF_DB: Final = 3.0
_EVERY_S: Final = 1.0
_AROUND_S: Final = 4.0
_SOFTEST_DB: Final = 15.0  # under the take's own
_OVER_OWN_DB: Final = 6.0  # over the same moment's body: a cymbal-bright vowel is no ess


def _vowels_db(body: FloatArray) -> FloatArray:
    """Level of the vowels around each moment: an ess of a soft verse is held against the soft verse, (n,). [dBFS]"""
    every, around = round(_EVERY_S / HOP_S), round(_AROUND_S / HOP_S)
    at = np.arange(0, len(body), every)
    local = [float(np.percentile(body[max(i - around, 0) : i + around], 88)) for i in at.tolist()]
    # a pause has no vowels of its own
    least = float(np.percentile(body, 85)) - _SOFTEST_DB
    levels: FloatArray = np.interp(np.arange(len(body)), at, np.maximum(local, least))
    return levels


def sharp_esses(moments: Moments, sample_rate_hz: float) -> list[Finding]:
    """Esses whose 5 to 10 kHz come within 3 dB of the vowels' body; value: how many decibels to tame, 8 at most."""
    if sample_rate_hz < 2.2 * BANDS_HZ["sibilant"][1]:
        return []
    high, body = (moments.level(band, smooth=2) for band in ("sibilant", "body"))
    if not len(high):
        return []
    vowels = _vowels_db(body)
    sharp = (high > vowels + _SHARP_DB) & (high > body + _OVER_OWN_DB)
    sharp = scipy.ndimage.binary_closing(sharp, np.ones(4, dtype=bool))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], sharp.astype(int), [0]])))
    found = []
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        seconds = (last - first) * HOP_S
        top = float(np.max(high[first:last] - vowels[first:last]))
        # a t is over before it is heard as loud as an ess would be
        sharp_for_it = top > _SHARP_DB + (_BRIEF_DB if seconds < _BRIEF_S else 0.0)
        if _LEAST_S <= seconds <= _LONGEST_S and sharp_for_it:
            over = top - _WANTED_DB
            found.append(Finding("ess", float(first) * HOP_S, float(last) * HOP_S, min(over, _MOST_DB), "dB", 0.75))
    return found
