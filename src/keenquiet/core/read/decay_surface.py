"""The decay surface: level by pitch and time after the direct sound, in which a ringing note stands as a ridge."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.read.decay import onset_index
from keenquiet.core.types import FloatArray

_LOW_HZ, _HIGH_HZ = 25.0, 320.0
_PER_OCTAVE: Final = (
    44  # at 250 Hz 4 Hz apart, as wide as a note that rings for half a second: none falls between two points
)
_STEP_S: Final = 0.02
_SLICES: Final = 36
_RISE_S: Final = 0.01  # a hard edge would splash over all pitches


@dataclass(frozen=True)
class DecaySurface:
    """f_hz (n_f,), time_s (n_t,), level_db (n_t, n_f) relative to the highest point."""

    f_hz: FloatArray
    time_s: FloatArray
    level_db: FloatArray


HANGS_WITHIN_DB: Final = 30.0


def hangs_s(time_s: FloatArray, level_db: FloatArray) -> FloatArray:
    """How long each pitch stays within 30 dB of the highest point of a surface (n_t, n_f), (n_f,). [s]

    NaN where it never does; the last time seen where it has not fallen by then. Straight between two moments.
    """
    within = level_db >= -HANGS_WITHIN_DB
    last = len(time_s) - 1 - np.argmax(within[::-1], axis=0)
    after = np.minimum(last + 1, len(time_s) - 1)
    each = np.arange(level_db.shape[1])
    here, there = level_db[last, each], level_db[after, each]
    share = np.clip((here + HANGS_WITHIN_DB) / np.maximum(here - there, 1e-9), 0.0, 1.0)
    hangs: FloatArray = time_s[last] + share * (time_s[after] - time_s[last])
    return np.where(np.any(within, axis=0), hangs, np.nan)


def decay_surface(impulse: FloatArray, sample_rate_hz: float) -> DecaySurface:
    """Spectra of what is left of a response from ever later moments on (cumulative spectral decay).

    impulse : (n,). Source: J. Bunton, R. Small, J. Audio Eng. Soc. 30 (1982) 888. Each slice is one sum over time for
    each pitch, so
    that pitches can lie evenly in octaves. Time and pitch cannot both be sharp: a ridge is as wide as its note decays
    fast, 2.2 / T60.
    """
    start = onset_index(impulse)
    step = max(int(sample_rate_hz // 2000), 1)
    length = int((_SLICES * _STEP_S + 0.6) * sample_rate_hz)
    part = impulse[start : start + length]
    n = len(part) // step * step
    slow = part[:n].reshape(-1, step).mean(axis=1)  # below 320 Hz the mean over a block loses less than 0.4 dB
    rate = sample_rate_hz / step
    t = np.arange(len(slow)) / rate
    f_hz = _LOW_HZ * 2 ** (np.arange(int(np.log2(_HIGH_HZ / _LOW_HZ) * _PER_OCTAVE) + 1) / _PER_OCTAVE)
    turning = np.exp(-2j * np.pi * f_hz[:, None] * t)
    all_times = np.arange(_SLICES, dtype=float) * _STEP_S
    times = all_times[all_times < (t[-1] - 0.15 if len(t) else 0.0)]
    gates = np.sin(0.5 * np.pi * np.clip((t - times[:, None]) / _RISE_S + (times[:, None] == 0), 0, 1)) ** 2
    level: FloatArray = 20 * np.log10(np.maximum(np.abs((gates * slow) @ turning.T), 1e-12))
    level -= np.max(level, initial=-240.0)
    return DecaySurface(f_hz, times, level)
