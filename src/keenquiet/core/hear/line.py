"""A dry line through a room, made as loud as its other versions: what differs is the room, not the volume."""

from collections.abc import Sequence
from typing import Final

import numpy as np
import pyloudnorm
from scipy import signal

from keenquiet.core.errors import InputError
from keenquiet.core.hear.impulse import RATE_HZ
from keenquiet.core.types import FloatArray

LOUDNESS_LUFS: Final = -24.0  # leaves room for peaks of a bare voice; EBU R 128 lies at -23
_PEAK: Final = 0.89  # -1 dBFS
_FADE_S: Final = 0.02


def heard_through(dry: FloatArray, impulses: Sequence[FloatArray]) -> list[FloatArray]:
    """The line through every response, alike in loudness (ITU-R BS.1770) and length, (n,) each at RATE_HZ.

    Should one peak too high, all become quieter together. Raises InputError for a line that is silent.
    """
    longest = len(dry) + max(len(impulse) for impulse in impulses)
    wet = []
    for impulse in impulses:
        played = signal.oaconvolve(dry, impulse)
        wet.append(np.pad(played, (0, longest - len(played)))[:longest])
    matched = [line * 10 ** ((LOUDNESS_LUFS - loudness_lufs(line)) / 20) for line in wet]
    loudest = max(float(np.max(np.abs(line))) for line in matched)
    fade = int(_FADE_S * RATE_HZ)
    ends = np.ones(longest)
    ends[-fade:] = np.linspace(1, 0, fade)
    return [line * ends * min(_PEAK / loudest, 1.0) for line in matched]


def loudness_lufs(line: FloatArray) -> float:
    """Integrated loudness. Raises InputError for silence or a line shorter than 0.4 s. [LUFS]"""
    if len(line) < 0.4 * RATE_HZ or not np.any(line):
        raise InputError("dry", "the line is silent or too short to be heard.", "Use a line of a second or more.")
    loudness = float(pyloudnorm.Meter(RATE_HZ).integrated_loudness(line))
    if not np.isfinite(loudness):
        raise InputError("dry", "the line is too quiet to be heard.", "Use a louder one.")
    return loudness


def at_rate(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """A line at RATE_HZ. Raises InputError for a rate that is none."""
    rate = round(sample_rate_hz)
    if rate == RATE_HZ:
        return samples
    common = int(np.gcd(rate, RATE_HZ))
    resampled: FloatArray = signal.resample_poly(samples, RATE_HZ // common, rate // common)
    return resampled
