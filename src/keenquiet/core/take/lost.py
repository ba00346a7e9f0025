"""Lost moments and clicks: what a chain that stumbles leaves in the wave itself."""

from typing import Final

import numpy as np

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_LEAST_S: Final = 0.001
_LONGEST_S: Final = 0.5
_AROUND_S: Final = 0.02
_BESIDE_S: Final = 0.004  # on either side, where a wave that was lost goes on; what rises out of silence only follows
_TOP: Final = 0.9
_FINE_STEP: Final = 1e-3
_ZEROS: Final = 0.5  # of the samples of pauses
_MOVES: Final = 1e-4  # of the wave beside, at least
_STEPS: Final = 6.0  # likewise, in steps of the converter
_CLICK: Final = 40.0  # times the usual bend of the wave around it
_CLICK_DB: Final = -40.0  # under the take's peak: smaller ones are not heard
_ALONE_S: Final = 0.004
_MOST: Final = 40
_BESIDE: Final = 7  # samples of a click itself
# set on 62 takes strung from real recordings (`python -m bench.recorded`), with single samples put in and without
# the top of the band against its middle: a chain's click 2 to -14, tongues and strokes -25 to -53
_SHARP_DB: Final = -20.0
_FOLLOWS: Final = 1.5  # the bend of what comes after against before: 1.3 in nine of ten clicks, 2 to 30 of strokes
_AFTER_S: Final = (0.0006, 0.012, 0.004)  # left out at both sides; looked at before; after
_WINDOW_S: Final = 0.002
_STRETCH: Final = 1 << 20


def dropouts(samples: FloatArray, sample_rate_hz: float, phrases: tuple[Span, ...]) -> list[Finding]:
    """Stretches of a millisecond and more inside phrases in which the wave stands still. samples : (n,)."""
    if is_coarse(samples):
        return []
    still: BoolArray = np.diff(samples) == 0.0
    edges = np.flatnonzero(np.diff(np.concatenate([[0], still.astype(np.int8), [0]]).astype(np.int8)))
    lasts_s = (edges[1::2] - edges[::2]) / sample_rate_hz
    # of 16 bits two samples are often equal: millions of runs, of which hardly one is long
    long_enough = np.flatnonzero((lasts_s >= _LEAST_S) & (lasts_s <= _LONGEST_S))
    silent = _is_without_noise(samples, sample_rate_hz, phrases)
    found = []
    for first, last in zip(edges[::2][long_enough].tolist(), edges[1::2][long_enough].tolist(), strict=True):
        seconds = (last - first) / sample_rate_hz
        at_s = first / sample_rate_hz
        if abs(samples[first]) > 0.98:
            continue
        if not any(p.start_s < at_s < p.end_s for p in phrases):
            continue
        around = round(_AROUND_S * sample_rate_hz)
        beside = np.concatenate([samples[max(first - around, 0) : first], samples[last + 1 : last + around]])
        # a wave that stands still at its top is cut flat, not lost
        if silent and samples[first] == 0.0:
            continue
        at_the_top = len(beside) and abs(samples[first]) > _TOP * np.max(np.abs(beside))
        near = round(_BESIDE_S * sample_rate_hz)
        sides = samples[max(first - near, 0) : first], samples[last + 1 : last + 1 + near]
        least = max(_MOVES, _STEPS * _step(beside))
        if not at_the_top and all(len(side) and np.std(side) > least for side in sides):
            found.append(Finding("dropout", at_s, at_s + seconds, 1000 * seconds, "ms", 0.95))
    return found[:_MOST]


def _is_without_noise(samples: FloatArray, sample_rate_hz: float, phrases: tuple[Span, ...]) -> bool:
    """Whether the pauses are nothing but zeros: in a file made or gated so a voice's own stops are, too."""
    outside = np.ones(len(samples), dtype=bool)
    for phrase in phrases:
        outside[round(phrase.start_s * sample_rate_hz) : round(phrase.end_s * sample_rate_hz)] = False
    return bool(np.any(outside)) and float(np.mean(samples[outside] == 0.0)) > _ZEROS


def is_coarse(samples: FloatArray) -> bool:
    """Whether steps are so large, as of eight bits, that every soft wave stands still between them by itself."""
    return _step(samples) > _FINE_STEP


def _step(samples: FloatArray) -> float:
    """The smallest change there is: of few bits a soft passage stands still between its steps by itself."""
    changes = np.abs(np.diff(samples))
    moving = changes[changes > 0]
    return float(moving.min()) if len(moving) else 0.0


def clicks(samples: FloatArray, sample_rate_hz: float) -> list[Finding]:
    """Single samples that the wave around them does not explain: its bend there is far beyond the usual.

    samples : (n,). A plucked string's attack bends the wave for milliseconds, a click for a few samples; a tongue's or
    a stroke's snap comes through air and room, is no sharper than they let it be, and something follows it.
    """
    bend = np.abs(np.diff(samples, 3))
    narrow, around = round(_ALONE_S * sample_rate_hz), round(_AROUND_S * sample_rate_hz / 2)
    peak = float(np.max(np.abs(samples)))
    bent = np.flatnonzero(bend > 8 * peak * 10 ** (_CLICK_DB / 20))
    high = bent[_alone(bend, bent, around)]
    found: list[Finding] = []
    for group in np.split(high, np.flatnonzero(np.diff(high) > narrow) + 1) if len(high) else []:
        if len(group) == 0 or group[-1] - group[0] > 12:
            continue
        if not _is_of_the_chain(samples, bend, int(group[np.argmax(bend[group])]), sample_rate_hz):
            continue
        at_s = float(group[0]) / sample_rate_hz
        size = 20 * float(np.log10(max(float(bend[group].max()) / 8 / max(peak, 1e-9), 1e-6)))
        found.append(Finding("click", at_s, at_s + 0.001, size, "dB", 0.8))
    return found[:_MOST]


def _is_of_the_chain(samples: FloatArray, bend: FloatArray, at: int, sample_rate_hz: float) -> bool:
    """Whether a bend is as sharp as single samples are, and nothing follows it that was not there before."""
    piece = np.diff(samples[max(at - 13, 0) : at + 19], 2)
    power = np.abs(np.fft.rfft(piece * np.hanning(len(piece)), 256)) ** 2
    middle, top = power[64:103].mean(), power[118:].mean()
    if top < middle * 10 ** (_SHARP_DB / 10):
        return False
    window = round(_WINDOW_S * sample_rate_hz)
    clear, before_s, after_s = (round(s * sample_rate_hz) for s in _AFTER_S)
    clear += _BESIDE - 1

    def most(part: FloatArray) -> float:
        return float(np.convolve(part**2, np.ones(window) / window, "valid").max()) if len(part) >= window else 0.0

    before = most(bend[max(at - clear - window - before_s, 0) : max(at - clear, 0)])
    after = most(bend[at + clear : at + clear + window + after_s])
    return after <= _FOLLOWS**2 * before or before == 0.0


def _alone(bend: FloatArray, at: IntArray, around: int) -> BoolArray:
    """Whether bends stand far over what is around them, themselves and their few neighbours left out."""
    alone = np.zeros(len(at), dtype=bool)
    # stretch by stretch: sums of minutes of sound would fill the memory
    for start in range(0, len(bend), _STRETCH):
        first, last = np.searchsorted(at, (start, start + _STRETCH))
        if first == last:
            continue
        low = max(start - around, 0)
        part, here = bend[low : start + _STRETCH + around], at[first:last] - low
        energy = np.concatenate([[0.0], np.cumsum(part.astype(float) ** 2)])
        left, right = np.maximum(here - around, 0), np.minimum(here + around, len(part))
        inner, outer = np.maximum(here - _BESIDE + 1, 0), np.minimum(here + _BESIDE, len(part))
        beside = np.maximum((inner - left) + np.maximum(right - outer, 0), 1)
        power = (energy[inner] - energy[left] + energy[np.maximum(right, outer)] - energy[outer]) / beside
        alone[first:last] = part[here] > 0.5 * _CLICK * np.sqrt(np.maximum(power, 0.0) + 1e-14)
    return alone
