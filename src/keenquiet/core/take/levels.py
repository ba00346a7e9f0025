"""How a take was recorded: loudness, peaks, noise under it, gain advice, and its plain faults."""

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.held import holds
from keenquiet.core.read.parts import block_levels, power_density
from keenquiet.core.read.quality import clipped_share
from keenquiet.core.read.tone import a_weighted, by_family, find_tones, third_octave_levels
from keenquiet.core.take.beneath import beneath
from keenquiet.core.take.esses import sharp_esses
from keenquiet.core.take.finding import Finding
from keenquiet.core.take.lost import clicks, dropouts
from keenquiet.core.take.overs import clipped_runs, flat_places
from keenquiet.core.take.phrases import Span, phrases_of
from keenquiet.core.take.pops import Pop, find_pops
from keenquiet.core.take.roominess import Fading, fading, roomy
from keenquiet.core.take.sections import Section, sections_of
from keenquiet.core.take.two_channels import channel_findings
from keenquiet.core.take.wander import phrase_tones, wandering
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
_WORKERS: Final = 2
_NEAR_S: Final = 0.03  # of a cut: its edges are no clicks of their own
_NEARBY_S: Final = 10.0
_MOST_PARTS: Final = 12
_MARGIN: Final = 64  # samples around a piece that is resampled: its own edges ring


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
    phrases: tuple[Span, ...]
    fading: Fading | None
    sections: tuple[Section, ...]
    blocks_db: FloatArray
    thirds_hz: FloatArray
    thirds_db: FloatArray


def take_levels(
    samples: FloatArray | Sequence[FloatArray], sample_rate_hz: float, *, codes: tuple[str, ...] = ()
) -> TakeLevels:
    """Judge the level of a take by all its channels.

    samples : (n,), or (n_channels, n), full scale 1. codes : what the quality check noticed.
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
    with ThreadPoolExecutor(_WORKERS) as workers:
        plain = workers.submit(_mean_levels, channels, sample_rate_hz, block, high_passed)
        weighted = _mean_levels(channels, sample_rate_hz, block, lambda part: a_weighted(part, sample_rate_hz))
        levels = plain.result()
    active = levels > np.percentile(levels, 95) - _ACTIVE_BELOW_LOUD_DB
    average = _mean_db(levels[active])
    thirds = [third_octave_levels(_in_blocks(channel, block, active), sample_rate_hz) for channel in channels]
    pauses = _pauses(weighted)
    peak = 20 * float(np.log10(max(*(max(float(c.max()), -float(c.min())) for c in channels), 1e-9)))
    true_peak = max(peak, *(true_peak_db(channel) for channel in channels))
    floor = _mean_db(levels[pauses]) if np.any(pauses) else None
    floor_a = _mean_db(weighted[pauses]) if np.any(pauses) else None
    active_a = _mean_db(weighted[active])
    phrases = phrases_of(weighted)
    loudest = channels[int(np.argmax([float(np.std(channel)) for channel in channels]))]
    ends = fading(loudest, sample_rate_hz, phrases)
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
        findings=_findings(channels, sample_rate_hz, true_peak, floor, pauses, block, codes, phrases, ends, active_a),
        phrases=phrases,
        fading=ends,
        sections=sections_of(channels, sample_rate_hz, phrases),
        blocks_db=levels,
        thirds_hz=thirds[0][0],
        thirds_db=_decibels(np.mean([10 ** (its / 10) for _, its in thirds], axis=0)),
    )


def _mean_levels(
    channels: Sequence[FloatArray], sample_rate_hz: float, block: int, after: Callable[[FloatArray], FloatArray]
) -> FloatArray:
    """Level of each block, channels averaged in power, (n_blocks,). [dBFS]"""
    return _decibels(
        np.mean([block_levels(channel, sample_rate_hz, block, after=after) for channel in channels], axis=0)
    )


def _in_blocks(samples: FloatArray, block: int, chosen: BoolArray) -> FloatArray:
    """The samples of the chosen blocks, one after another."""
    return samples[: len(chosen) * block].reshape(-1, block)[chosen].ravel()


def true_peak_db(samples: FloatArray) -> float:
    """True peak by 4x oversampling around the highest sample peaks. [dBTP]"""
    block = 2048
    whole = len(samples) // block * block
    tiles = samples[:whole].reshape(-1, block)
    peaks = np.maximum(tiles.max(axis=1), -tiles.min(axis=1)) if whole else np.zeros(0)
    peaks = np.append(peaks, np.max(np.abs(samples[whole:]), initial=0.0))
    highest = 0.0
    for i in np.argsort(peaks)[-24:]:  # an overshoot lies beside a high sample
        first, last = i * block, min((i + 1) * block, len(samples))
        if first >= last:
            continue
        # the piece's own edges ring, those of the file too: within a margin of them the samples themselves must do
        fine = scipy.signal.resample_poly(np.asarray(samples[max(first - _MARGIN, 0) : last + _MARGIN], float), 4, 1)
        highest = max(highest, float(np.max(np.abs(fine[4 * _MARGIN : -4 * _MARGIN]), initial=0.0)))
    return 20 * float(np.log10(max(highest, 1e-9)))


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


def loudness_lufs(channels: Sequence[FloatArray], sample_rate_hz: float) -> float | None:
    """Integrated loudness of all channels, gated; None below the absolute gate. [LUFS]

    channels : each (n,). Source: ITU-R BS.1770-4, with pyloudnorm's filters; worked through in tenths of a second, four
    of which make a gating block.
    """
    import pyloudnorm  # it loads all of scipy.signal, which light commands do without

    stages = [(s.passband_gain, s.b, s.a) for s in pyloudnorm.Meter(int(sample_rate_hz))._filters.values()]
    power = np.sum([_tenths(samples, sample_rate_hz, stages) for samples in channels], axis=0)
    if len(power) < 4:
        return None
    blocks = np.convolve(power, np.ones(4), "valid") / (4 * _HOP_S * sample_rate_hz)
    loud = blocks[_lufs(blocks) > _ABSOLUTE_GATE_LUFS]
    if not len(loud):
        return None
    gated = loud[_lufs(loud) > _lufs(float(np.mean(loud))) - _RELATIVE_GATE_LU]
    return float(_lufs(float(np.mean(gated)))) if len(gated) else None


def _tenths(
    samples: FloatArray, sample_rate_hz: float, stages: Sequence[tuple[float, FloatArray, FloatArray]]
) -> FloatArray:
    """Weighted energy of each tenth of a second, (n_tenths,)."""
    states = [np.zeros(max(len(b), len(a)) - 1) for _, b, a in stages]
    edges = (np.arange(int(len(samples) / sample_rate_hz / _HOP_S) + 1) * _HOP_S * sample_rate_hz).astype(int)
    tenths: list[FloatArray] = []
    for first in range(0, len(edges) - 1, _HOPS_AT_ONCE):
        bounds = edges[first : first + _HOPS_AT_ONCE + 1]
        part = np.asarray(samples[bounds[0] : bounds[-1]], dtype=float)
        for number, (gain, b, a) in enumerate(stages):
            part, states[number] = scipy.signal.lfilter(b, a, gain * part, zi=states[number])
        tenths.append(np.add.reduceat(part**2, bounds[:-1] - bounds[0]))
    return np.concatenate([*tenths, np.zeros(0)])


def _lufs(power: FloatArray | float) -> FloatArray:
    level: FloatArray = np.asarray(-0.691 + 10 * np.log10(np.maximum(power, 1e-30)))
    return level


def _findings(
    channels: Sequence[FloatArray],
    sample_rate_hz: float,
    true_peak: float,
    floor: float | None,
    pauses: BoolArray,
    block: int,
    codes: tuple[str, ...],
    phrases: tuple[Span, ...],
    ends: Fading | None,
    active_dba: float,
) -> tuple[Finding, ...]:
    found: list[Finding] = []
    length_s = len(channels[0]) / sample_rate_hz
    if any(clipped_share(channel) > 0 for channel in channels):
        found += clipped_runs(tuple(channels), sample_rate_hz)
    else:
        found += flat_places(tuple(channels), sample_rate_hz, true_peak_db=true_peak)
    if true_peak < -24:
        found.append(Finding("too_quiet", 0.0, length_s, true_peak, "dBFS", 0.9))
    for code in ("dead_channel", "dc_offset"):
        if code in codes:
            found.append(Finding(code.removesuffix("_offset"), 0.0, length_s, 1.0, "", 0.9))
    pops: list[Pop] = []
    for channel in channels:  # a puff reaches both microphones of a pair: told once, as the stronger
        for pop in find_pops(channel, sample_rate_hz):
            near = [other for other in pops if other.start_s < pop.end_s + 0.05 and pop.start_s < other.end_s + 0.05]
            if all(other.jump_db < pop.jump_db for other in near):
                pops = [other for other in pops if other not in near] + [pop]
    for pop in sorted(pops, key=lambda pop: pop.start_s):
        confidence = float(np.clip(0.5 + (pop.jump_db - 12) / 24, 0.5, 0.95))
        found.append(Finding("pop", pop.start_s, pop.end_s, pop.jump_db, "dB", confidence))
    if floor is not None:
        found += _hums(channels, sample_rate_hz, floor, pauses, block)
    loudest = channels[int(np.argmax([float(np.std(channel)) for channel in channels]))]
    # each looks at the whole take by itself, and most of the time outside of Python
    with ThreadPoolExecutor(_WORKERS) as workers:
        lost = workers.submit(dropouts, loudest, sample_rate_hz, phrases)
        clicked = workers.submit(clicks, loudest, sample_rate_hz)
        sharp = workers.submit(sharp_esses, loudest, sample_rate_hz)
        under = workers.submit(beneath, loudest, sample_rate_hz, phrases, active_dba=active_dba)
        wander = wandering(phrase_tones(loudest, sample_rate_hz, phrases), length_s)
        pair = channel_findings(tuple(channels), sample_rate_hz, length_s)
        found += lost.result()
        cut = [f for f in found if f.kind in ("clipped", "dropout", "flat_top")]
        found += [c for c in clicked.result() if not any(_near(c, f) for f in cut)]
        found += sharp.result()
        jumped = any(f.kind == "jump" for f in wander)
        # where the gain was turned the room tone steps with it: told once
        found += [*(f for f in under.result() if not (jumped and f.kind == "seam")), *wander]
    found += roomy(ends, length_s)
    found += pair
    return tuple(found)


def _near(one: Finding, other: Finding) -> bool:
    return one.start_s < other.end_s + _NEAR_S and one.end_s > other.start_s - _NEAR_S


def _hums(
    channels: Sequence[FloatArray], sample_rate_hz: float, floor: float, pauses: BoolArray, block: int
) -> Iterator[Finding]:
    """Hum in the pauses of each part of a take, told once with the parts that it fills."""
    parts = max(min(int(len(pauses) * _BLOCK_S / _NEARBY_S), _MOST_PARTS), 1)
    edges = np.linspace(0, len(pauses), parts + 1).astype(int)
    seen: dict[float, list[tuple[int, float]]] = {}
    for channel in channels:
        for part, (first, last) in enumerate(pairwise(edges)):
            quiet = _in_blocks(channel[first * block : last * block], block, pauses[first:last])
            if len(quiet) <= sample_rate_hz:
                continue
            f_hz, density = power_density(quiet, sample_rate_hz, segment=int(sample_rate_hz))
            tones = by_family(find_tones(f_hz, density))
            for tone in tones[:3]:
                # what fades in each pause is the end of a note, whatever its pitch
                if (
                    tone.kind == "hum"
                    and tone.level_db > floor - _HUM_OVER_FLOOR_DB
                    and holds([quiet], sample_rate_hz, tone.f_hz)
                ):
                    name = next((f for f in seen if abs(f - tone.f_hz) < 1.5), tone.f_hz)
                    seen.setdefault(name, []).append((part, tone.level_db))
    for f, where in sorted(seen.items(), key=lambda item: -max(level for _, level in item[1]))[:3]:
        first, last = min(part for part, _ in where), max(part for part, _ in where)
        loudest = max(level for _, level in where)
        yield Finding("hum", float(edges[first] * _BLOCK_S), float(edges[last + 1] * _BLOCK_S), loudest, "dBFS", 0.7, f)
