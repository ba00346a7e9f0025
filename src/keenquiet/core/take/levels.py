"""How a take was recorded: loudness, peaks, noise under it, gain advice, and what was found in it."""

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.parts import block_levels
from keenquiet.core.read.tone import third_octave_levels
from keenquiet.core.take.finding import Finding
from keenquiet.core.take.findings import WORKERS, Heard, findings_of, not_looked_for
from keenquiet.core.take.hum import in_blocks
from keenquiet.core.take.loudness import loudness_lufs, true_peak_db
from keenquiet.core.take.mixed import sounds_mixed
from keenquiet.core.take.moments import Moments, moments_of
from keenquiet.core.take.phrases import Span, phrases_of
from keenquiet.core.take.roominess import Fading, fading
from keenquiet.core.take.sections import Section, sections_of
from keenquiet.core.types import BoolArray, FloatArray

_BLOCK_S: Final = 0.1
_ACTIVE_BELOW_LOUD_DB: Final = 20.0
_WANTED_PEAK_DBFS: Final = -9.0  # middle of -12 to -6
_WANTED_AVERAGE_DBFS: Final = -18.0
_NEARBY_S: Final = 10.0
_LEAST_NOISE_S: Final = 0.5


@dataclass(frozen=True)
class TakeLevels:
    """Levels of one take. Loudness LUFS, peaks dBTP and dBFS, active average and noise floor dBFS, advice dB."""

    loudness_lufs: float | None
    true_peak_dbtp: float
    sample_peak_dbfs: float
    average_dbfs: float
    active_dba: float
    noise_floor_dbfs: float | None
    noise_floor_dba: float | None
    snr_db: float | None
    gain_advice_db: float
    findings: tuple[Finding, ...]
    not_looked_for: Mapping[str, str]
    mixed: bool
    phrases: tuple[Span, ...]
    fading: Fading | None
    sections: tuple[Section, ...]
    blocks_db: FloatArray
    thirds_hz: FloatArray
    thirds_db: FloatArray
    noise_thirds_db: FloatArray | None
    moments: Moments


def take_levels(
    samples: FloatArray | Sequence[FloatArray],
    sample_rate_hz: float,
    *,
    codes: tuple[str, ...] = (),
    bits: int | None = None,
) -> TakeLevels:
    """Judge the level of a take by all its channels.

    samples : (n,), or (n_channels, n), full scale 1. codes : what the quality check noticed. bits : of the file.
    Peaks and faults are those of the worst channel, loudness is summed as BS.1770 sums it, levels are the channels'
    mean power. An offset and what lies below 20 Hz count nowhere but in the peaks.
    Raises MeasurementError `incomplete` when shorter than 1 s.
    Source: loudness ITU-R BS.1770-4 (pyloudnorm); true peak by 4x oversampling (BS.1770-4 annex 2).
    """
    channels = tuple(np.atleast_2d(samples) if isinstance(samples, np.ndarray) else samples)
    if len(channels[0]) < sample_rate_hz:
        raise MeasurementError("incomplete", "take_short")
    block = int(_BLOCK_S * sample_rate_hz)
    high_passed = partial(
        scipy.signal.sosfilt, scipy.signal.butter(2, 20.0, "highpass", fs=sample_rate_hz, output="sos")
    )
    with ThreadPoolExecutor(WORKERS) as workers:
        plain = workers.submit(_mean_levels, channels, sample_rate_hz, block, high_passed)
        seen = [moments_of(channel, sample_rate_hz) for channel in channels]
        levels = plain.result()
    moments = seen[int(np.argmax([float(part.power[:, -1].sum()) for part in seen]))]
    weighted = _decibels(np.mean([10 ** (part.level_dba(over=10) / 10) for part in seen], axis=0))[: len(levels)]
    levels = levels[: len(weighted)]
    active = levels > np.percentile(levels, 95) - _ACTIVE_BELOW_LOUD_DB
    average = _mean_db(levels[active])
    mixed = sounds_mixed(moments)
    # what a mix is between its beats is no pause, and nobody's phrase
    pauses = np.zeros(len(weighted), dtype=bool) if mixed else _pauses(weighted)
    peak = 20 * float(np.log10(max(*(max(float(c.max()), -float(c.min())) for c in channels), 1e-9)))
    true_peak = max(peak, *(true_peak_db(channel) for channel in channels))
    floor = _mean_db(levels[pauses]) if np.any(pauses) else None
    floor_a = _mean_db(weighted[pauses]) if np.any(pauses) else None
    active_a = _mean_db(weighted[active])
    phrases = () if mixed else phrases_of(weighted)
    ends = fading(moments, phrases)
    heard = Heard(
        channels, sample_rate_hz, moments, phrases, pauses, block, true_peak, active_a, floor, ends, bits, codes, mixed
    )
    centres, thirds = _thirds(channels, sample_rate_hz, block, active)
    # What stops first decides: peaks must come down to -9 dBFS even when the average is low.
    advice = min(_WANTED_PEAK_DBFS - true_peak, _WANTED_AVERAGE_DBFS - average + 3.0)
    if -12 <= true_peak <= -6:
        advice = 0.0
    return TakeLevels(
        loudness_lufs=loudness_lufs(channels, sample_rate_hz),
        true_peak_dbtp=true_peak,
        sample_peak_dbfs=peak,
        average_dbfs=average,
        active_dba=active_a,
        noise_floor_dbfs=floor,
        noise_floor_dba=floor_a,
        snr_db=active_a - floor_a if floor_a is not None else None,
        gain_advice_db=round(advice),
        findings=findings_of(heard),
        not_looked_for=not_looked_for(heard),
        mixed=mixed,
        phrases=phrases,
        fading=ends,
        sections=sections_of(channels, sample_rate_hz, phrases),
        blocks_db=levels,
        thirds_hz=centres,
        thirds_db=thirds,
        noise_thirds_db=_thirds(channels, sample_rate_hz, block, pauses)[1] if _long_enough(pauses) else None,
        moments=moments,
    )


def _long_enough(chosen: BoolArray) -> bool:
    return bool(np.count_nonzero(chosen) * _BLOCK_S >= _LEAST_NOISE_S)


def _thirds(
    channels: Sequence[FloatArray], sample_rate_hz: float, block: int, chosen: BoolArray
) -> tuple[FloatArray, FloatArray]:
    """Third octaves of the chosen blocks, channels averaged in power: centres [Hz], levels [dBFS]."""
    found = [third_octave_levels(in_blocks(channel, block, chosen), sample_rate_hz) for channel in channels]
    return found[0][0], _decibels(np.mean([10 ** (its / 10) for _, its in found], axis=0))


def _mean_levels(
    channels: Sequence[FloatArray], sample_rate_hz: float, block: int, after: Callable[[FloatArray], FloatArray]
) -> FloatArray:
    """Level of each block, channels averaged in power, (n_blocks,). [dBFS]"""
    return _decibels(
        np.mean([block_levels(channel, sample_rate_hz, block, after=after) for channel in channels], axis=0)
    )


def _decibels(power: FloatArray) -> FloatArray:
    levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-16))
    return levels


def _mean_db(levels: FloatArray) -> float:
    return 10 * float(np.log10(np.mean(10 ** (levels / 10))))


def _pauses(levels: FloatArray) -> BoolArray:
    """Blocks between phrases: the quietest of their ten seconds, if they lie 12 dB under the loud ones, else none.

    Quietest nearby and not of all: a hum that starts halfway makes later pauses louder, and they are pauses still.
    """
    around = 2 * int(_NEARBY_S / 2 / _BLOCK_S) + 1
    low = scipy.ndimage.percentile_filter(levels, 10, size=min(around, len(levels)), mode="nearest")
    pauses: BoolArray = np.asarray((levels <= low + 2.0) & (levels <= np.percentile(levels, 90) - 12.0))
    return pauses
