"""Soft overload: tops that are pressed rather than cut, the more the louder it is played.

A round wave spends half of the time that it lies within 4 d of its top within d of it. What is pressed spends more of
it there; told only where quieter passages of the same take are round, so that a bright, square or mastered sound, which
is so at every level, is none.
"""

from typing import Final

import numpy as np

from keenquiet.core.take.finding import Finding
from keenquiet.core.types import BoolArray, FloatArray

_FRAME_S: Final = 0.03
_DEPTH: Final = 0.1
_LOUD_DB: Final = 4.0  # under the loudest frames
_MIDDLE_DB: Final = (8.0, 24.0)
_LEAST: Final = 12
_PRESSED: Final = 0.53  # of its most pressed quarter: a sine half of the time, a square all of it
_MORE: Final = 0.1  # than in quieter passages
_CREST_DB: Final = 3.8  # a sine 3.0, a voice 5 to 10
_LOST_DB: Final = 1.5


def soft_over(samples: FloatArray, sample_rate_hz: float) -> list[Finding]:
    """Where the loudest passages are pressed; value : by how much higher their tops would be, about. [dB]"""
    length = round(_FRAME_S * sample_rate_hz)
    frames = samples[: len(samples) // length * length].reshape(-1, length)
    peak = np.abs(frames).max(axis=1)
    level = 20 * np.log10(np.maximum(peak, 1e-9))
    top = float(np.percentile(level, 99.5))
    loud: BoolArray = np.asarray(level > top - _LOUD_DB)
    middle: BoolArray = np.asarray((level < top - _MIDDLE_DB[0]) & (level > top - _MIDDLE_DB[1]))
    if np.count_nonzero(loud) < _LEAST or np.count_nonzero(middle) < 2 * _LEAST:
        return []
    pressed, plain = (_at_the_top(frames[which], peak[which]) for which in (loud, middle))
    crest = [float(np.median(_crest_db(frames[which], peak[which]))) for which in (middle, loud)]
    share, usual = (float(np.percentile(part, 75)) for part in (pressed, plain))
    round_still = crest[1] > _CREST_DB or crest[0] - crest[1] < _LOST_DB
    if round_still or share < _PRESSED or share - usual < _MORE:
        return []
    places = np.flatnonzero(loud) * _FRAME_S
    return [
        Finding("soft_over", float(part[0]), float(part[-1]) + _FRAME_S, crest[0] - crest[1], "dB", 0.5)
        for part in np.split(places, np.flatnonzero(np.diff(places) > 1.0) + 1)
        if len(part) >= 4
    ]


def _at_the_top(frames: FloatArray, peak: FloatArray) -> FloatArray:
    """Share of the time near each frame's top that is spent at it, the side of the higher tops, (n_frames,)."""
    sign = np.where(frames.max(axis=1) >= -frames.min(axis=1), 1.0, -1.0)
    upright = frames * sign[:, None] / peak[:, None]
    near = np.count_nonzero(upright > 1 - 4 * _DEPTH, axis=1)
    at: FloatArray = np.count_nonzero(upright > 1 - _DEPTH, axis=1) / np.maximum(near, 1)
    return at


def _crest_db(frames: FloatArray, peak: FloatArray) -> FloatArray:
    crest: FloatArray = 20 * np.log10(peak / np.sqrt(np.mean(frames**2, axis=1) + 1e-20))
    return crest
