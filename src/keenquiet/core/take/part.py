"""A stretch of a take that is read at once, and a long take put together again from its stretches.

What lies in one moment, or in one file, is found stretch by stretch; how a take goes on from phrase to phrase, its
pauses and its levels are told of the whole.
"""

from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.parts import block_levels
from keenquiet.core.read.tone import third_octave_levels
from keenquiet.core.take.course import Course, course_of
from keenquiet.core.take.finding import OF_A_MIX, Finding, in_order
from keenquiet.core.take.findings import OF_THE_COURSE, WORKERS, Heard, course_findings, findings_of, not_looked_for
from keenquiet.core.take.hum import in_blocks
from keenquiet.core.take.keeping import sounds_played
from keenquiet.core.take.loudness import tenths_of, true_peak_db
from keenquiet.core.take.mixed import sounds_mixed
from keenquiet.core.take.moments import HOP_S, Moments, moments_of
from keenquiet.core.take.phrases import BLOCK_S
from keenquiet.core.types import BoolArray, FloatArray

_MOMENTS: Final = round(BLOCK_S / HOP_S)  # of a block
_LEAST_NOISE_BLOCKS: Final = 5
_TOUCH_S: Final = 0.02  # findings of one kind that a border has cut
_SAME_HZ: Final = 1.5
# said of a whole take only where all of its stretches have it
_OF_ALL: Final = frozenset({"too_quiet", "dead_channel", "silent"})


@dataclass(frozen=True, eq=False)
class TakePart:
    """levels_db, weighted_db : of each tenth of a second, channels averaged in power, plain and A-weighted, each
    (n_blocks,). [dBFS]  peaks : highest sample of any channel, (n_blocks,). tenths : energy as loudness has it,
    (n_tenths,). thirds_db, noise_thirds_db : of what sounds and, where long enough, of the pauses. [dBFS]  codes : what
    the quality check noticed. is_played : whether it is more than noise.
    """

    levels_db: FloatArray
    weighted_db: FloatArray
    peaks: FloatArray
    tenths: FloatArray
    moments: Moments
    course: Course
    true_peak_dbtp: float
    sample_peak_dbfs: float
    thirds_hz: FloatArray
    thirds_db: FloatArray
    noise_thirds_db: FloatArray | None
    findings: tuple[Finding, ...]
    lacks: Mapping[str, str]
    codes: tuple[str, ...]
    mixed: bool
    is_played: bool

    @property
    def seconds(self) -> float:
        """Length, in whole tenths. [s]"""
        return len(self.levels_db) * BLOCK_S


def read_part(
    channels: Sequence[FloatArray], sample_rate_hz: float, *, codes: tuple[str, ...] = (), bits: int | None = None
) -> TakePart:
    """Everything about a stretch of a second and more. channels : each (n,), full scale 1. bits : of the file."""
    block = int(BLOCK_S * sample_rate_hz)
    high_passed = partial(
        scipy.signal.sosfilt, scipy.signal.butter(2, 20.0, "highpass", fs=sample_rate_hz, output="sos")
    )
    with ThreadPoolExecutor(WORKERS) as workers:
        plain = workers.submit(
            lambda: np.mean([block_levels(c, sample_rate_hz, block, after=high_passed) for c in channels], axis=0)
        )
        seen = [moments_of(channel, sample_rate_hz) for channel in channels]
        levels = _decibels(plain.result())
    moments = seen[int(np.argmax([float(part.power[:, -1].sum()) for part in seen]))]
    weighted = _decibels(np.mean([10 ** (part.level_dba(over=_MOMENTS) / 10) for part in seen], axis=0))[: len(levels)]
    levels = levels[: len(weighted)]
    mixed = sounds_mixed(moments)
    course = course_of(levels, weighted, moments, mixed=mixed)
    peak = 20 * float(np.log10(max(*(max(float(c.max()), -float(c.min())) for c in channels), 1e-9)))
    true_peak = max(peak, *(true_peak_db(channel) for channel in channels))
    heard = Heard(tuple(channels), sample_rate_hz, moments, course, block, true_peak, bits, codes, mixed)
    centres, thirds = _thirds(channels, sample_rate_hz, block, course.performed)
    enough = np.count_nonzero(course.pauses) >= _LEAST_NOISE_BLOCKS
    findings = findings_of(heard)
    found = {finding.kind for finding in findings}
    return TakePart(
        levels_db=levels,
        weighted_db=weighted,
        peaks=np.max([_peaks(channel, block, len(levels)) for channel in channels], axis=0),
        tenths=tenths_of(channels, sample_rate_hz),
        moments=moments,
        course=course,
        true_peak_dbtp=true_peak,
        sample_peak_dbfs=peak,
        thirds_hz=centres,
        thirds_db=thirds,
        noise_thirds_db=_thirds(channels, sample_rate_hz, block, course.pauses)[1] if enough else None,
        findings=findings,
        lacks={kind: lack for kind, lack in not_looked_for(heard).items() if kind not in found},
        codes=codes,
        mixed=mixed,
        is_played=any(sounds_played(channel, sample_rate_hz, weighted) for channel in channels),
    )


def kept_of(part: TakePart, *, before_blocks: int, blocks: int, from_s: float) -> TakePart:
    """The part without the margins it was read with, its findings timed from the take's beginning.

    before_blocks : of the margin ahead. blocks : that are kept. from_s : where these begin in the take.
    """
    seconds = blocks * BLOCK_S
    late = from_s - before_blocks * BLOCK_S
    shifted = (replace(f, start_s=f.start_s + late, end_s=f.end_s + late) for f in part.findings)
    clipped = (
        replace(f, start_s=max(f.start_s, from_s), end_s=min(f.end_s, from_s + seconds))
        for f in shifted
        if f.start_s < from_s + seconds and f.end_s >= from_s
    )
    chosen = slice(before_blocks, before_blocks + blocks)
    return replace(
        part,
        levels_db=part.levels_db[chosen],
        weighted_db=part.weighted_db[chosen],
        peaks=part.peaks[chosen],
        tenths=part.tenths[chosen],
        moments=Moments(part.moments.power[chosen.start * _MOMENTS : chosen.stop * _MOMENTS]),
        findings=tuple(clipped),
    )


def joined(parts: Sequence[TakePart]) -> TakePart:
    """One take of parts that follow each other, without margins; their course and all that hangs on it told anew."""
    if len(parts) == 1:
        return parts[0]
    levels, weighted = (np.concatenate([getattr(p, name) for p in parts]) for name in ("levels_db", "weighted_db"))
    moments = Moments(np.concatenate([part.moments.power for part in parts]))
    mixed = sum(part.seconds for part in parts if part.mixed) > sum(part.seconds for part in parts) / 2
    course = course_of(levels, weighted, moments, mixed=mixed)
    seconds = len(levels) * BLOCK_S
    sounding = [part for part in parts if "silent" not in part.codes] or parts
    everywhere = frozenset.intersection(*(frozenset(f.kind for f in part.findings) for part in sounding))
    told_anew = OF_THE_COURSE | (_OF_ALL - everywhere)
    found = _mended([f for part in parts for f in part.findings if f.kind not in told_anew])
    found = [f for f in found if f.kind in OF_A_MIX] if mixed else found + course_findings(moments, course, seconds)
    codes = dict.fromkeys(code for part in parts for code in part.codes)
    return TakePart(
        levels_db=levels,
        weighted_db=weighted,
        peaks=np.concatenate([part.peaks for part in parts]),
        tenths=np.concatenate([part.tenths for part in parts]),
        moments=moments,
        course=course,
        true_peak_dbtp=max(part.true_peak_dbtp for part in parts),
        sample_peak_dbfs=max(part.sample_peak_dbfs for part in parts),
        thirds_hz=parts[0].thirds_hz,
        thirds_db=_decibels(_mean_power([part.thirds_db for part in parts], _counts(parts, course.performed))),
        noise_thirds_db=_noise_thirds(parts, _counts(parts, course.pauses)),
        findings=in_order(found),
        lacks={k: why for k, why in sounding[0].lacks.items() if all(k in part.lacks for part in sounding)},
        codes=tuple(code for code in codes if code not in _OF_ALL or all(code in part.codes for part in sounding)),
        mixed=mixed,
        is_played=any(part.is_played for part in parts),
    )


def _mended(found: list[Finding]) -> list[Finding]:
    """What a border between parts has cut in two is one again, as large as its larger half."""
    out: list[Finding] = []
    for f in sorted(found, key=lambda f: f.start_s):
        cut = next((i for i, one in enumerate(out) if _goes_on(one, f)), None)
        if cut is None:
            out.append(f)
        else:
            one = out[cut]
            larger = max(one, f, key=lambda each: abs(each.value))
            out[cut] = replace(larger, start_s=one.start_s, end_s=max(one.end_s, f.end_s))
    return out


def _goes_on(one: Finding, after: Finding) -> bool:
    """Whether the second begins where the first ends, and is of its kind and pitch."""
    same_pitch = abs((one.f_hz or 0.0) - (after.f_hz or 0.0)) < _SAME_HZ
    return one.kind == after.kind and same_pitch and abs(after.start_s - one.end_s) < _TOUCH_S


def _counts(parts: Sequence[TakePart], chosen: BoolArray) -> list[int]:
    """How many of the chosen blocks lie in each part."""
    edges = np.cumsum([len(part.levels_db) for part in parts])[:-1]
    return [int(np.count_nonzero(its)) for its in np.split(chosen, edges)]


def _noise_thirds(parts: Sequence[TakePart], counts: list[int]) -> FloatArray | None:
    told = [(p.noise_thirds_db, n) for p, n in zip(parts, counts, strict=True) if p.noise_thirds_db is not None and n]
    return _decibels(_mean_power(*zip(*told, strict=True))) if told else None


def _mean_power(levels_db: Sequence[FloatArray], weights: Sequence[int]) -> FloatArray:
    """Mean of levels in power, each with its weight. [-]"""
    mean: FloatArray = np.average([10 ** (db / 10) for db in levels_db], axis=0, weights=weights)
    return mean


def _peaks(samples: FloatArray, block: int, count: int) -> FloatArray:
    tiles = samples[: count * block].reshape(count, block)
    highest: FloatArray = np.maximum(tiles.max(axis=1), -tiles.min(axis=1)).astype(float)
    return highest


def _thirds(
    channels: Sequence[FloatArray], sample_rate_hz: float, block: int, chosen: BoolArray
) -> tuple[FloatArray, FloatArray]:
    """Third octaves of the chosen blocks, channels averaged in power: centres [Hz], levels [dBFS]."""
    found = [third_octave_levels(in_blocks(channel, block, chosen), sample_rate_hz) for channel in channels]
    return found[0][0], _decibels(np.mean([10 ** (its / 10) for _, its in found], axis=0))


def _decibels(power: FloatArray) -> FloatArray:
    levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-16))
    return levels
