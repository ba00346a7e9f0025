"""Pops: puffs of breath that hit the microphone, as short bursts below 150 Hz that jump over what is around them."""

from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.parts import block_levels
from keenquiet.core.take.moments import Moments
from keenquiet.core.types import FloatArray

_BAND_HZ: Final = (20.0, 150.0)
_DEEP_HZ: Final = (15.0, 62.0)
_DEEP_DB: Final = -9.0  # of the burst, that a puff has below 62 Hz at least
_ABOVE_HZ: Final = (150.0, 300.0)
# of the deep part over what lies just above it, at least, and as much as the burst lies under the voice: onsets of low
# voices and of strings in real recordings have -19 to 3, twenty-four puffs put into takes 3.5 to 26
_OVER_ABOVE_DB: Final = 2.0
_HOP_S: Final = 0.01
_LOW_RATE_HZ: Final = 3000.0  # enough for what lies below 150 Hz
_FIRST: Final = 4
_AROUND_S: Final = 1.0
_LEAST_JUMP_DB: Final = 12.0
_LONGEST_S: Final = 0.25  # a sung low note lasts longer
_LEAST_STROKES: Final = 4
_MOST_STROKES: Final = 40
_STROKE_S: Final = 0.25
# correlation of neighbours: middle of 24 of the rig's puffs 0.88, of 11 made otherwise 0.74, of a drum's strokes 1.00
_ALIKE: Final = 0.95
_UNDER_VOICE_DB: Final = -12.0  # a burst this far under the loud parts is not heard as a pop


@dataclass(frozen=True, slots=True)
class Pop:
    """start, end [s]; jump over the low end around it [dB]; level of the burst against the loud parts of the voice
    [dB]; of it below 62 Hz [dB].
    """

    start_s: float
    end_s: float
    jump_db: float
    level_db: float
    deep_db: float


def find_pops(samples: FloatArray, sample_rate_hz: float, moments: Moments) -> tuple[Pop, ...]:
    """Bursts between 20 and 150 Hz of at most 0.25 s that jump 12 dB over the running median of 1 s, in order of time.

    samples : (n,). A low sung or plucked note swells the same band, but stays; a puff has passed within a quarter of a
    second.
    """
    every = max(int(sample_rate_hz / _LOW_RATE_HZ), 1)
    # means of four first: their nulls lie where sound would fold down to the low end
    coarse = _FIRST if every % _FIRST == 0 else 1
    slow = samples[: len(samples) // coarse * coarse].reshape(-1, coarse).mean(axis=1) if coarse > 1 else samples
    slow = scipy.signal.resample_poly(slow, 1, every // coarse) if every > coarse else slow
    rate = sample_rate_hz / every
    hop = round(_HOP_S * rate)
    hop_s = hop / rate  # 32 samples at 3150 Hz are no hundredth of a second
    if len(slow) < 60 * hop:
        return ()
    low = _burst_level(slow, rate, hop, _BAND_HZ)
    body = moments.level("body", smooth=2)
    if not len(body):
        return ()
    voice = float(np.percentile(body, 95))
    usual = scipy.ndimage.median_filter(low, size=2 * int(_AROUND_S / 2 / hop_s) + 1, mode="nearest")
    # over silence everything jumps: the yardstick is never lower than 30 dB under the voice
    jump = low - np.maximum(usual, voice - 30)
    high = (jump > _LEAST_JUMP_DB) & (low > voice + _UNDER_VOICE_DB)
    aside = round(_AROUND_S / hop_s)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], high.astype(np.int8), [0]])))
    found = []
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        top = int(first + np.argmax(low[first:last]))
        start = max(int(first) - aside, 0)
        # a low note's attack jumps too, but at its own pitch: a puff has more below that
        near = slow[start * hop : (int(last) + aside) * hop]
        deep, above = (_burst_level(near, rate, hop, band) for band in (_DEEP_HZ, _ABOVE_HZ))
        below = float(np.max(deep[first - start : last - start], initial=-200.0)) - float(low[top])
        at = min(top - start, len(deep) - 1)
        steep = deep[at] - above[at] > max(_OVER_ABOVE_DB, voice - float(low[top]))
        if below < _DEEP_DB or not steep or (last - first) * hop_s > _LONGEST_S:
            continue
        edges_s = float(first * hop_s), float(last * hop_s)
        found.append(Pop(*edges_s, float(jump[top]), float(low[top] - voice), below))
    return () if _are_strokes(found, slow, rate) else tuple(found)


def _are_strokes(found: list[Pop], slow: FloatArray, rate: float) -> bool:
    """Whether bursts are one after the other the same wave: strokes of a drum or a plucked string. Breath never is."""
    if len(found) < _LEAST_STROKES:
        return False
    length = round(_STROKE_S * rate)
    starts = [max(round((pop.start_s - _STROKE_S / 4) * rate), 0) for pop in found[:_MOST_STROKES]]
    sos = scipy.signal.butter(2, _BAND_HZ, btype="bandpass", fs=rate, output="sos")
    waves = [scipy.signal.sosfilt(sos, slow[start : start + length]) for start in starts if start + length <= len(slow)]
    alike = [
        float(np.max(scipy.signal.correlate(one, other, method="fft")))
        / max(float(np.linalg.norm(one) * np.linalg.norm(other)), 1e-12)
        for one, other in pairwise(waves)
    ]
    return len(alike) >= _LEAST_STROKES - 1 and float(np.median(alike)) > _ALIKE


def _burst_level(samples: FloatArray, sample_rate_hz: float, hop: int, band_hz: tuple[float, float]) -> FloatArray:
    """Level of a band over 30 ms every 10 ms. [dBFS]"""
    sos = scipy.signal.butter(2, band_hz, btype="bandpass", fs=sample_rate_hz, output="sos")
    power = block_levels(samples, sample_rate_hz, hop, after=partial(scipy.signal.sosfiltfilt, sos))
    levels: FloatArray = 10 * np.log10(np.maximum(scipy.ndimage.uniform_filter1d(power, 3), 1e-16))
    return levels
