"""How a take was recorded: loudness, peaks, noise under it, gain advice, and its plain faults."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.parts import block_levels, power_density
from keenquiet.core.read.quality import clipped_share, flat_tops
from keenquiet.core.read.tone import a_weighted, find_tones, third_octave_levels
from keenquiet.core.take.pops import find_pops
from keenquiet.core.types import BoolArray, FloatArray

_BLOCK_S: Final = 0.1
_HOP_S: Final = 0.1  # gating blocks of 0.4 s that overlap by three quarters
_HOPS_AT_ONCE: Final = 200
_ABSOLUTE_GATE_LUFS: Final = -70.0
_RELATIVE_GATE_LU: Final = 10.0
_ACTIVE_BELOW_LOUD_DB: Final = 20.0
_WANTED_PEAK_DBFS: Final = -9.0  # middle of -12 to -6
_WANTED_AVERAGE_DBFS: Final = -18.0
_HUM_OVER_FLOOR_DB: Final = 15.0


@dataclass(frozen=True, slots=True)
class Finding:
    """Something found in a take: when, how large, how sure. f_hz : of a tone. Its cure is in `advice.findings`."""

    kind: str
    start_s: float
    end_s: float
    value: float
    unit: str
    confidence: float
    f_hz: float | None = None


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
    blocks_db: FloatArray
    thirds_hz: FloatArray
    thirds_db: FloatArray


def take_levels(samples: FloatArray, sample_rate_hz: float, *, codes: tuple[str, ...] = ()) -> TakeLevels:
    """Judge the level of a take.

    samples : (n,) one channel, full scale 1. codes : what the quality check noticed.
    Raises MeasurementError `incomplete` when shorter than 1 s.
    Source: loudness ITU-R BS.1770-4 (pyloudnorm); true peak by 4x oversampling (BS.1770-4 annex 2).
    """
    if len(samples) < sample_rate_hz:
        raise MeasurementError("incomplete", "take_short")
    block = int(_BLOCK_S * sample_rate_hz)
    n_blocks = len(samples) // block
    levels = _decibels(block_levels(samples, sample_rate_hz, block))
    weighted = _decibels(
        block_levels(samples, sample_rate_hz, block, after=lambda part: a_weighted(part, sample_rate_hz))
    )
    active = levels > np.percentile(levels, 95) - _ACTIVE_BELOW_LOUD_DB
    average = _mean_db(levels[active])
    sounding = samples[: n_blocks * block].reshape(-1, block)[active].ravel()
    thirds_hz, thirds_db = third_octave_levels(sounding, sample_rate_hz)
    del sounding  # a second copy of the take
    pauses = _pauses(weighted)
    peak = 20 * float(np.log10(max(float(samples.max()), -float(samples.min()), 1e-9)))
    true_peak = max(peak, true_peak_db(samples))
    floor = _mean_db(levels[pauses]) if np.any(pauses) else None
    floor_a = _mean_db(weighted[pauses]) if np.any(pauses) else None
    active_a = _mean_db(weighted[active])
    # What stops first decides: peaks must come down to -9 dBFS even when the average is low.
    advice = min(_WANTED_PEAK_DBFS - true_peak, _WANTED_AVERAGE_DBFS - average + 3.0)
    if -12 <= true_peak <= -6:
        advice = 0.0
    return TakeLevels(
        loudness_lufs=loudness_lufs(samples, sample_rate_hz),
        true_peak_dbtp=true_peak,
        sample_peak_dbfs=peak,
        average_dbfs=average,
        active_dba=active_a,
        noise_floor_dbfs=floor,
        noise_floor_dba=floor_a,
        snr_db=active_a - floor_a if floor_a is not None else None,
        gain_advice_db=round(advice),
        findings=_findings(samples, sample_rate_hz, true_peak, floor, pauses, block, codes),
        blocks_db=levels[:n_blocks],
        thirds_hz=thirds_hz,
        thirds_db=thirds_db,
    )


def true_peak_db(samples: FloatArray) -> float:
    """True peak by 4x oversampling around the highest sample peaks. [dBTP]"""
    block = 2048
    whole = len(samples) // block * block
    tiles = samples[:whole].reshape(-1, block)
    peaks = np.maximum(tiles.max(axis=1), -tiles.min(axis=1)) if whole else np.zeros(0)
    peaks = np.append(peaks, np.max(np.abs(samples[whole:]), initial=0.0))
    highest = 0.0
    for i in np.argsort(peaks)[-24:]:  # an overshoot lies beside a high sample
        piece = np.asarray(samples[max(i * block - 64, 0) : (i + 1) * block + 64], dtype=float)
        if not len(piece):
            continue
        highest = max(highest, float(np.max(np.abs(scipy.signal.resample_poly(piece, 4, 1)))))
    return 20 * float(np.log10(max(highest, 1e-9)))


def _decibels(power: FloatArray) -> FloatArray:
    levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-16))
    return levels


def _mean_db(levels: FloatArray) -> float:
    return 10 * float(np.log10(np.mean(10 ** (levels / 10))))


def _pauses(levels: FloatArray) -> BoolArray:
    """Blocks between phrases: the quietest, if they lie 12 dB under the loud ones, else none."""
    quiet = levels <= np.percentile(levels, 10) + 2.0
    if np.percentile(levels, 90) - np.percentile(levels, 10) < 12.0:
        return np.zeros(len(levels), dtype=bool)
    return quiet


def loudness_lufs(samples: FloatArray, sample_rate_hz: float) -> float | None:
    """Integrated loudness of one channel, gated; None below the absolute gate. [LUFS]

    Source: ITU-R BS.1770-4, with pyloudnorm's filters; worked through in tenths of a second, four of which make a
    gating block.
    """
    import pyloudnorm  # it loads all of scipy.signal, which light commands do without

    stages = [(s.passband_gain, s.b, s.a) for s in pyloudnorm.Meter(int(sample_rate_hz))._filters.values()]
    states = [np.zeros(max(len(b), len(a)) - 1) for _, b, a in stages]
    edges = (np.arange(int(len(samples) / sample_rate_hz / _HOP_S) + 1) * _HOP_S * sample_rate_hz).astype(int)
    tenths: list[FloatArray] = []
    for first in range(0, len(edges) - 1, _HOPS_AT_ONCE):
        bounds = edges[first : first + _HOPS_AT_ONCE + 1]
        part = np.asarray(samples[bounds[0] : bounds[-1]], dtype=float)
        for number, (gain, b, a) in enumerate(stages):
            part, states[number] = scipy.signal.lfilter(b, a, gain * part, zi=states[number])
        tenths.append(np.add.reduceat(part**2, bounds[:-1] - bounds[0]))
    power = np.concatenate([*tenths, np.zeros(0)])
    if len(power) < 4:
        return None
    blocks = np.convolve(power, np.ones(4), "valid") / (4 * _HOP_S * sample_rate_hz)
    loud = blocks[_lufs(blocks) > _ABSOLUTE_GATE_LUFS]
    if not len(loud):
        return None
    gated = loud[_lufs(loud) > _lufs(float(np.mean(loud))) - _RELATIVE_GATE_LU]
    return float(_lufs(float(np.mean(gated)))) if len(gated) else None


def _lufs(power: FloatArray | float) -> FloatArray:
    level: FloatArray = np.asarray(-0.691 + 10 * np.log10(np.maximum(power, 1e-30)))
    return level


def _findings(
    samples: FloatArray,
    sample_rate_hz: float,
    true_peak: float,
    floor: float | None,
    pauses: BoolArray,
    block: int,
    codes: tuple[str, ...],
) -> tuple[Finding, ...]:
    found: list[Finding] = []
    length_s = len(samples) / sample_rate_hz
    if clipped_share(samples) > 0:
        at = np.flatnonzero(np.abs(samples) >= 0.9995) / sample_rate_hz
        found.append(Finding("clipped", float(at[0]), float(at[-1]), float(len(at)), "samples", 0.99))
    elif flat_tops(samples):
        found.append(Finding("flat_top", 0.0, length_s, true_peak, "dBFS", 0.8))
    if true_peak < -24:
        found.append(Finding("too_quiet", 0.0, length_s, true_peak, "dBFS", 0.9))
    for code in ("dead_channel", "dc_offset"):
        if code in codes:
            found.append(Finding(code.removesuffix("_offset"), 0.0, length_s, 1.0, "", 0.9))
    for pop in find_pops(samples, sample_rate_hz):
        confidence = float(np.clip(0.5 + (pop.jump_db - 12) / 24, 0.5, 0.95))
        found.append(Finding("pop", pop.start_s, pop.end_s, pop.jump_db, "dB", confidence))
    if floor is not None:
        quiet = samples[: len(pauses) * block].reshape(-1, block)[pauses].ravel()
        if len(quiet) > sample_rate_hz:
            f_hz, density = power_density(quiet, sample_rate_hz, segment=int(sample_rate_hz))
            for tone in find_tones(f_hz, density)[:3]:
                if tone.kind == "hum" and tone.level_db > floor - _HUM_OVER_FLOOR_DB:
                    found.append(Finding("hum", 0.0, length_s, tone.level_db, "dBFS", 0.7, tone.f_hz))
    return tuple(found)
