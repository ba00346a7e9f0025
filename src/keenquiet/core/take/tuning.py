"""By how much one take is tuned higher than another: their long spectra shifted against each other by pitch."""

from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.parts import power_density
from keenquiet.core.types import FloatArray

_SEGMENT_S: Final = 1.0
_BAND_HZ: Final = (150.0, 2500.0)
_STEP_CENTS: Final = 1.0
_MOST_CENTS: Final = 70.0
_AROUND: Final = 121  # steps of the running median that takes the colour away
_LEAST_LIKENESS: Final = 0.35
CENTS_PER_K: Final = 600 / float(np.log(2)) / 293.15  # of an air column at 20 degC, as its speed of sound grows


def cents_apart(first: FloatArray, second: FloatArray, sample_rate_hz: float) -> float | None:
    """How many cents the second lies over the first, None where their notes do not agree. Each (n,), one rate."""
    one, other = (_lines(samples, sample_rate_hz) for samples in (first, second))
    most = round(_MOST_CENTS / _STEP_CENTS)
    scale = float(np.sqrt(np.sum(one**2) * np.sum(other**2))) + 1e-12
    shifts = np.arange(-most, most + 1)
    likeness = np.array([np.sum(one[most:-most] * other[most + s : len(other) - most + s]) for s in shifts]) / scale
    best = int(np.argmax(likeness))
    if likeness[best] < _LEAST_LIKENESS or best in (0, len(shifts) - 1):
        return None
    left, top, right = likeness[best - 1 : best + 2]
    return float(shifts[best] + 0.5 * (left - right) / (left - 2 * top + right)) * _STEP_CENTS


def _lines(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """What stands over its surroundings, by pitch: amplitude over a running median, in steps of a cent."""
    segment = round(_SEGMENT_S * sample_rate_hz)
    f_hz, density = power_density(samples, sample_rate_hz, segment=min(segment, len(samples)))
    count = round(1200 * np.log2(_BAND_HZ[1] / _BAND_HZ[0]) / _STEP_CENTS)
    pitches = _BAND_HZ[0] * 2 ** (np.arange(count) * _STEP_CENTS / 1200)
    level = np.interp(pitches, f_hz, 10 * np.log10(density + 1e-20))
    over = np.maximum(level - scipy.ndimage.median_filter(level, size=_AROUND), 0.0)
    lines: FloatArray = over - over.mean()
    return lines
