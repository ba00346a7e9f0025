"""Long recordings worked through part by part: memory stays that of a part, whatever the length."""

from collections.abc import Callable, Iterator
from typing import Final, Literal

import numpy as np
import scipy

from keenquiet.core.types import FloatArray

_PART_S: Final = 20.0
_SEGMENTS: Final = 32


def block_levels(
    samples: FloatArray,
    sample_rate_hz: float,
    block: int,
    *,
    after: Callable[[FloatArray], FloatArray] | None = None,
    margin_s: float = 2.0,
) -> FloatArray:
    """Mean square of each whole block, (n_blocks,). [-]

    after : what is done to the samples first, such as a filter. It gets a part with `margin_s` of its surroundings on
    either side, in which whatever it does at edges dies away.
    """
    whole = len(samples) // block * block
    if after is None:
        return np.concatenate([_means(part, block) for part in _spans(samples, whole, block, sample_rate_hz)])
    step, margin = _step(block, sample_rate_hz), round(margin_s * sample_rate_hz)
    found = []
    for start in range(0, max(whole, 1), step):
        end = min(start + step, whole)
        low, high = max(start - margin, 0), len(samples) if end == whole else min(end + margin, len(samples))
        found.append(_means(after(np.asarray(samples[low:high], dtype=float))[start - low : end - low], block))
    return np.concatenate(found)


def _step(block: int, sample_rate_hz: float) -> int:
    return max(round(_PART_S * sample_rate_hz) // block, 1) * block


def _spans(samples: FloatArray, whole: int, block: int, sample_rate_hz: float) -> Iterator[FloatArray]:
    step = _step(block, sample_rate_hz)
    for start in range(0, max(whole, 1), step):
        yield samples[start : min(start + step, whole)]


def _means(samples: FloatArray, block: int) -> FloatArray:
    means: FloatArray = np.mean(np.asarray(samples, dtype=float).reshape(-1, block) ** 2, axis=1)
    return means


def power_density(
    samples: FloatArray, sample_rate_hz: float, *, segment: int, average: Literal["mean", "median"] = "mean"
) -> tuple[FloatArray, FloatArray]:
    """Frequencies and one-sided power density by Welch's method, each (segment // 2 + 1,). [Hz], [1/Hz]

    Hann windows that overlap by half; the offset is left in. Source: P. Welch, IEEE Trans. Audio Electroacoust. 15
    (1967) 70; the median's bias as in B. Allen et al., Phys. Rev. D 85 (2012) 122006.
    """
    step = segment - segment // 2
    count = max((len(samples) - segment // 2) // step, 1)
    total = np.zeros(segment // 2 + 1)
    kept = np.zeros((count if average == "median" else 0, segment // 2 + 1), dtype=np.float32)
    f_hz: FloatArray = np.asarray(np.arange(segment // 2 + 1) * (sample_rate_hz / segment), dtype=float)
    for first in range(0, count, _SEGMENTS):
        last = min(first + _SEGMENTS, count)
        part = np.asarray(samples[first * step : (last - 1) * step + segment], dtype=float)
        _, _, density = scipy.signal.spectrogram(
            part, sample_rate_hz, window="hann", nperseg=segment, noverlap=segment // 2, detrend=False
        )
        total += density.sum(axis=1)
        if average == "median":
            kept[first:last] = density.T
    if average == "mean":
        return f_hz, total / count
    return f_hz, np.median(kept, axis=0).astype(float) / _median_bias(count)


def _median_bias(count: int) -> float:
    """How much lower the median of `count` exponential values lies than their mean."""
    even = 2 * np.arange(1.0, (count - 1) // 2 + 1)
    return 1 + float(np.sum(1 / (even + 1) - 1 / even))
