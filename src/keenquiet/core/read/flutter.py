"""Flutter: a regular repetition in the decay between 1 and 4 kHz, as parallel hard walls give."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.decay import onset_index
from keenquiet.core.types import FloatArray

_RATE_HZ: Final = 4000.0  # of the envelope
_SPACING_M: Final = (1.2, 9.0)  # walls nearer or further apart are not heard as flutter
_LEAST_CORRELATION: Final = 0.35
_WINDOW_S: Final = (0.03, 0.5)
_PAD_S: Final = 0.1


@dataclass(frozen=True, slots=True)
class Flutter:
    """Repetition rate [1/s], spacing of the walls it fits [m], depth of the repetition [dB]."""

    rate_hz: float
    spacing_m: float
    strength_db: float


def find_flutter(impulse: FloatArray, sample_rate_hz: float, *, speed_m_s: float = 343.2) -> Flutter | None:
    """The regular repetition in a response after 30 ms, or None where there is none.

    The decay is divided out of the 1 to 4 kHz envelope first; a repetition counts when the envelope resembles itself
    one period later (correlation above 0.35) and two periods later.
    """
    start = onset_index(impulse)
    top = min(4000.0, 0.45 * sample_rate_hz)
    sos = scipy.signal.butter(3, [1000.0, top], btype="bandpass", fs=sample_rate_hz, output="sos")
    # the envelope is taken before anything is cut, and of a padded signal: its transform would wrap the direct sound
    # round into the quiet end
    through = np.pad(scipy.signal.sosfiltfilt(sos, impulse), int(_PAD_S * sample_rate_hz))
    envelope = np.abs(scipy.signal.hilbert(through, scipy.fft.next_fast_len(len(through), real=True)))
    begin = start + int(_PAD_S * sample_rate_hz)
    power = envelope[begin : begin + len(impulse) - start] ** 2
    block = int(sample_rate_hz / _RATE_HZ)
    power = power[: len(power) // block * block].reshape(-1, block).mean(axis=1)
    rate = sample_rate_hz / block
    first, last = (int(edge * rate) for edge in _WINDOW_S)
    floor = float(np.mean(power[-len(power) // 10 :])) if len(power) >= 20 else 0.0
    tail = power[first:last]
    loud = np.flatnonzero(tail > 10 * floor)
    if len(loud) < 8 or loud[-1] < 0.06 * rate:
        return None
    tail = tail[: int(loud[-1]) + 1]
    time = np.arange(len(tail))
    slope = np.polyfit(time, np.log(tail + 1e-30), 1)
    flat = np.sqrt(tail / np.exp(np.polyval(slope, time)))
    flat = scipy.signal.lfilter([0.25, 0.5, 0.25], [1.0], flat - flat.mean())
    full = np.asarray(scipy.signal.correlate(flat, flat, mode="full", method="fft"), dtype=float)
    correlation = full[len(flat) - 1 :] / np.arange(len(flat), 0, -1)  # as many products in each lag's mean
    correlation = correlation / correlation[0]
    low, high = (int(2 * spacing / speed_m_s * rate) for spacing in _SPACING_M)
    high = min(high, len(flat) // 3)
    if high <= low + 2:
        return None
    lag = low + int(np.argmax(correlation[low:high]))
    if (
        correlation[lag] < _LEAST_CORRELATION
        or correlation[max(2 * lag - 2, 0) : 2 * lag + 3].max() < 0.6 * _LEAST_CORRELATION
    ):
        return None
    y0, y1, y2 = correlation[lag - 1 : lag + 2]
    exact = lag + 0.5 * (y0 - y2) / (y0 - 2 * y1 + y2)
    repeat = rate / exact
    strength = 10 * float(np.log10((1 + correlation[lag]) / max(1 - correlation[lag], 1e-3)))
    return Flutter(float(repeat), float(speed_m_s / (2 * repeat)), strength)
