"""Was the gain turned while a silence ran? All pitches then step at once and by the same."""

from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray

_BANDS_HZ: Final = ((60.0, 250.0), (250.0, 1000.0), (1000.0, 4000.0))
_BLOCK_S: Final = 0.5
_LEAST_DB: Final = 3.0
_ALIKE_DB: Final = 1.5  # between bands: a machine that starts has a colour of its own
_EVEN_DB: Final = 1.5  # of either side
_SIDE: Final = 4  # blocks that either side has at least


def gain_step(samples: FloatArray, sample_rate_hz: float) -> tuple[float, float] | None:
    """When the level of every band stepped together [s], and by how much [dB]; None where it did not."""
    block = round(_BLOCK_S * sample_rate_hz)
    count = len(samples) // block
    if count < 2 * _SIDE:
        return None
    levels = np.stack([_levels_db(samples[: count * block], sample_rate_hz, band, block) for band in _BANDS_HZ])
    best: tuple[float, int] | None = None
    for at in range(_SIDE, count - _SIDE + 1):
        before, after = levels[:, :at], levels[:, at:]
        steps = np.median(after, axis=1) - np.median(before, axis=1)
        even = max(float(before.std(axis=1).max()), float(after.std(axis=1).max()))
        step = float(np.median(steps))
        turned = abs(step) >= _LEAST_DB and float(np.ptp(steps)) < _ALIKE_DB and even < _EVEN_DB
        if turned and (best is None or abs(step) > abs(best[0])):
            best = (step, at)
    return None if best is None else (best[1] * _BLOCK_S, best[0])


def _levels_db(samples: FloatArray, sample_rate_hz: float, band: tuple[float, float], block: int) -> FloatArray:
    high = min(band[1], 0.45 * sample_rate_hz)
    sos = scipy.signal.butter(2, (band[0], high), btype="bandpass", fs=sample_rate_hz, output="sos")
    passed = scipy.signal.sosfilt(sos, samples).reshape(-1, block)
    levels: FloatArray = 10 * np.log10(np.mean(passed**2, axis=1) + 1e-20)
    return levels
