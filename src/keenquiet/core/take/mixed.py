"""Whether a recording is a finished mix and not one microphone: whether low, middle and high go ways of their own.

All that one source sounds rises and falls together, or its treble alone goes its own way, as esses do. Drums, bass and
whoever sings over them each have their own time. A band without drums is not told by this.
"""

from typing import Final

import numpy as np

from keenquiet.core.take.moments import Moments
from keenquiet.core.types import FloatArray

_OVER: Final = 10  # moments
_BANDS: Final = ("low", "middle", "sibilant")
# correlation of low with middle, low with high, middle with high, below which each goes its own way
_OWN: Final = (0.3, 0.3, 0.5)
_MOVES_DB: Final = (1.8, 1.8, 4.0)  # spread of a band's level in time, below which it is a drone or hiss
_COUNTS_DB: Final = (14.0, 14.0, 32.0)  # under the loudest band
_NO_PAUSE_DB: Final = 20.0  # of the quietest tenth under the loudest


def sounds_mixed(moments: Moments) -> bool:
    """True for a mix with a rhythm; False for what has pauses, one voice or instrument, and less than five seconds."""
    count = len(moments.power) // _OVER * _OVER
    if count < 500:
        return False
    wide = _levels(moments, "wide", count)
    if float(np.percentile(wide, 90) - np.percentile(wide, 10)) > _NO_PAUSE_DB:
        return False
    bands = np.stack([_levels(moments, band, count) for band in _BANDS])
    usual, moves = np.median(bands, axis=1), bands.std(axis=1)
    if np.any(usual < usual.max() - np.array(_COUNTS_DB)) or np.any(moves < np.array(_MOVES_DB)):
        return False
    pairs = ((0, 1), (0, 2), (1, 2))
    together = [float(np.corrcoef(bands[one], bands[other])[0, 1]) for one, other in pairs]
    return bool(np.all(np.array(together) < np.array(_OWN)))


def _levels(moments: Moments, band: str, count: int) -> FloatArray:
    """Levels of each tenth of a second, (n,). [dBFS]"""
    power = 10 ** (moments.level(band)[:count] / 10)
    levels: FloatArray = 10 * np.log10(power.reshape(-1, _OVER).mean(axis=1))
    return levels
