"""A take in moments: the power of its bands every hundredth of a second, worked out once for all that ask for it."""

from dataclasses import dataclass
from types import MappingProxyType
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import a_weighting_db
from keenquiet.core.types import FloatArray

HOP_S: Final = 0.01
_WINDOW_S: Final = 0.021
_AT_ONCE: Final = 2000
# nominal edges; what lies over 0.48 of the sample rate is left out
BANDS_HZ: Final = MappingProxyType(
    {
        "low": (30.0, 150.0),
        "bass": (80.0, 300.0),
        "body": (200.0, 4000.0),
        "middle": (500.0, 2000.0),
        "speech": (500.0, 4000.0),
        "wide": (100.0, 16_000.0),
        "crisp": (2000.0, 8000.0),
        "sibilant": (5000.0, 10_000.0),
        "treble": (4000.0, 10_000.0),
    }
)


@dataclass(frozen=True)
class Moments:
    """power : mean square of each band in each moment, A-weighted in the last column, (n_moments, n_bands + 1). [-]"""

    power: FloatArray

    def level(self, band: str, *, smooth: int = 1) -> FloatArray:
        """Level of a band, over so many moments, (n_moments,). [dBFS]"""
        power = self.power[:, list(BANDS_HZ).index(band)]
        if smooth > 1:
            power = scipy.ndimage.uniform_filter1d(power, smooth)
        levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-16))
        return levels

    def level_dba(self, *, over: int = 1) -> FloatArray:
        """A-weighted level of each so many moments, (n_moments // over,). [dBFS]"""
        power = self.power[: len(self.power) // over * over, -1].reshape(-1, over).mean(axis=1)
        levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-16))
        return levels

    def mean_level(self, band: str, first: int, last: int) -> float:
        """Mean level of a band from one moment to another. [dBFS]"""
        part = self.power[max(first, 0) : max(last, first + 1), list(BANDS_HZ).index(band)]
        return 10 * float(np.log10(max(float(part.mean()) if len(part) else 0.0, 1e-16)))


def moments_of(samples: FloatArray, sample_rate_hz: float) -> Moments:
    """samples : (n,), full scale 1. Hann windows of 21 ms; their mean square is that of the samples (Parseval)."""
    # at rates without a whole hop each moment begins where it belongs: 220 samples for 220.5 are eight seconds an hour
    hop, length = HOP_S * sample_rate_hz, round(_WINDOW_S * sample_rate_hz)
    count = int(len(samples) / hop + 1e-9)
    starts = ((np.arange(count) + 0.5) * hop + 1e-9).astype(int)
    window = np.hanning(length).astype(np.float32)
    f_hz = np.fft.rfftfreq(length, 1 / sample_rate_hz)
    top = 0.48 * sample_rate_hz
    sides = 2.0 / (length * float(np.sum(window**2)))
    bands = [(f_hz >= low) & (f_hz < min(high, top)) for low, high in BANDS_HZ.values()]
    loudness = 10 ** (np.maximum(a_weighting_db(np.maximum(f_hz, 1.0)), -100.0) / 10)
    weights = np.stack([*bands, loudness], axis=1)
    # an offset would leak into the lowest band
    level = samples - np.mean(samples) if len(samples) else samples
    padded = np.concatenate([np.zeros(length // 2), level, np.zeros(length + round(hop))]).astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(padded, length)
    power = np.empty((count, weights.shape[1]))
    for first in range(0, count, _AT_ONCE):
        spectra = scipy.fft.rfft(frames[starts[first : first + _AT_ONCE]] * window, axis=1)
        density = spectra.real**2 + spectra.imag**2
        power[first : first + _AT_ONCE] = density @ weights.astype(np.float32) * sides
    return Moments(power)
