"""How a take was recorded: loudness, peaks, noise under it, gain advice, and what was found in it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.take.finding import Finding, in_order
from keenquiet.core.take.keeping import NOISY_DB, STEADY_DB, fall_db
from keenquiet.core.take.loudness import gated_lufs
from keenquiet.core.take.moments import Moments
from keenquiet.core.take.part import TakePart, joined, kept_of, read_part
from keenquiet.core.take.phrases import BLOCK_S, Span
from keenquiet.core.take.roominess import Fading
from keenquiet.core.take.sections import WANTED_DBFS, WANTED_PEAK_DBFS, Section, sections_of
from keenquiet.core.types import FloatArray

_MARGIN_S: Final = 10.0  # ahead and behind: what lies on a border is seen whole
_LEAST_S: Final = 1.0
_WANTED_AVERAGE_DBFS: Final = -18.0


@dataclass(frozen=True)
class TakeLevels:
    """Levels of one take. Loudness LUFS, peaks dBTP and dBFS, active average and noise floor dBFS, advice dB.

    under_db : how far steady noise lies under what sounds, None where pauses are not steady; fall_db : as
    `core.take.keeping.fall_db`; is_played : whether it is more than noise.
    """

    loudness_lufs: float | None
    true_peak_dbtp: float
    sample_peak_dbfs: float
    average_dbfs: float
    active_dba: float
    noise_floor_dbfs: float | None
    noise_floor_dba: float | None
    snr_db: float | None
    under_db: float | None
    fall_db: float | None
    is_played: bool
    gain_advice_db: float
    findings: tuple[Finding, ...]
    not_looked_for: Mapping[str, str]
    codes: tuple[str, ...]
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
    Source: loudness ITU-R BS.1770-4 (pyloudnorm); true peak by 16x oversampling (BS.1770-4 annex 2 asks for 4x).
    """
    channels = tuple(np.atleast_2d(samples) if isinstance(samples, np.ndarray) else samples)
    if len(channels[0]) < _LEAST_S * sample_rate_hz:
        raise MeasurementError("incomplete", "take_short")
    return _levels_of(read_part(channels, sample_rate_hz, codes=codes, bits=bits))


def long_take_levels(part_of: Callable[[float, float], TakePart], seconds: float, *, part_s: float) -> TakeLevels:
    """The same of a take that goes on for hours.

    part_of : reads from one time to another. seconds : its length. part_s : of what is read at once, about. [s]
    """
    count = max(round(seconds / part_s), 1)
    edges: list[int] = np.round(np.linspace(0, seconds, count + 1) / BLOCK_S).astype(int).tolist()
    parts = []
    for first, last in pairwise(edges):
        before = min(first, round(_MARGIN_S / BLOCK_S))
        part = part_of((first - before) * BLOCK_S, min(last * BLOCK_S + _MARGIN_S, seconds))
        parts.append(kept_of(part, before_blocks=before, blocks=last - first, from_s=first * BLOCK_S))
    return _levels_of(joined(parts))


def _with_floor(
    findings: tuple[Finding, ...], under_db: float | None, seconds: float, *, is_a_mix: bool
) -> tuple[Finding, ...]:
    """Noise near under the performance is told, also where it has neither pitch nor colour of its own."""
    known = any(f.kind in ("hiss", "rumble", "hum", "tone") for f in findings)
    if is_a_mix or known or under_db is None or under_db >= NOISY_DB:
        return findings
    return in_order([*findings, Finding("floor", 0.0, seconds, under_db, "dB", 0.8)])


def _under_db(take: TakePart) -> float | None:
    course = take.course
    if course.floor_dba is None:
        return None
    softest = float(np.percentile(take.weighted_db, 3))
    return course.active_dba - course.floor_dba if course.floor_dba - softest < STEADY_DB else None


def _levels_of(take: TakePart) -> TakeLevels:
    course = take.course
    under_db = _under_db(take)
    # What stops first decides: peaks must come down to -9 dBFS even when the average is low.
    advice = min(WANTED_PEAK_DBFS - take.true_peak_dbtp, _WANTED_AVERAGE_DBFS - course.average_dbfs + 3.0)
    if WANTED_DBFS[0] <= take.true_peak_dbtp <= WANTED_DBFS[1]:
        advice = 0.0
    return TakeLevels(
        loudness_lufs=gated_lufs(take.tenths),
        true_peak_dbtp=take.true_peak_dbtp,
        sample_peak_dbfs=take.sample_peak_dbfs,
        average_dbfs=course.average_dbfs,
        active_dba=course.active_dba,
        noise_floor_dbfs=course.floor_dbfs,
        noise_floor_dba=course.floor_dba,
        snr_db=course.active_dba - course.floor_dba if course.floor_dba is not None else None,
        under_db=under_db,
        fall_db=fall_db(take.moments),
        is_played=take.is_played,
        gain_advice_db=round(advice),
        findings=_with_floor(take.findings, under_db, len(take.levels_db) * BLOCK_S, is_a_mix=take.mixed),
        not_looked_for=take.lacks,
        codes=take.codes,
        mixed=take.mixed,
        phrases=course.phrases,
        fading=course.ends,
        sections=sections_of(take.peaks, course.phrases),
        blocks_db=take.levels_db,
        thirds_hz=take.thirds_hz,
        thirds_db=take.thirds_db,
        noise_thirds_db=take.noise_thirds_db,
        moments=take.moments,
    )
