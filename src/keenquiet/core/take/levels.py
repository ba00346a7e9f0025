"""How a take was recorded: loudness, peaks, noise under it, gain advice, and what was found in it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.take.finding import Finding
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


def _levels_of(take: TakePart) -> TakeLevels:
    course = take.course
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
        gain_advice_db=round(advice),
        findings=take.findings,
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
