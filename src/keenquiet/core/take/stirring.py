"""What stirs in the pauses: breaths, lips, thumps, cloth, a chair, keys; told apart by length, pitch and what follows.

A breath is a rush of a quarter of a second and more that ends as the phrase begins; lips are single ticks; a thump is
low; cloth rushes anywhere; a chair creaks in lines, as a voice does; keys are ticks in a row.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import BoolArray, FloatArray

_RISES_DB: Final = 9.0  # over the pause's own floor
_LOW_RISES_DB: Final = 16.0  # of the low end, which wanders by itself
_JOINED: Final = 4  # moments of a lull within one event
_CLEAR_S: Final = 0.16  # after a phrase: its own end
_CORE_DB: Final = 9.0
_FAINT_DB: Final = 14.0  # under the usual phrase: what is so short and faint is none
_SHORT_S: Final = 0.5
_RUNS_ON: Final = 6  # moments before a phrase
_ALONE: Final = 10  # moments of quiet before and after what only a chair does
_TICK_S: Final = 0.07
_TICK_DB: Final = 9.0  # over what is around it
_CHAIR_DB: Final = 14.0
_BREATH_S: Final = (0.12, 1.5)
_BEFORE_PHRASE_S: Final = 0.4
_LONGEST_S: Final = 1.6  # what lasts longer passes, and is told by `beneath`
_LINES_DB: Final = 7.2  # spread of a spectrum's bins from which it has lines: that of noise is 5.6
_LOW_DB: Final = 6.0  # of a thump's low end over its rest
_ROW: Final = 3  # ticks that make a row
_ROW_S: Final = 2.5
_LIPS_S: Final = 0.03
# under the performance, from which each is told: what ten decibels of squeezing make plain (our estimates)
_HEARD_DB: Final = {"breath": -24.0, "lips": -34.0, "thump": -18.0, "cloth": -32.0, "chair": -32.0, "keys": -32.0}


@dataclass(frozen=True)
class _Event:
    first: int
    last: int
    kind: str
    level_db: float


def stirring(samples: FloatArray, sample_rate_hz: float, moments: Moments, phrases: tuple[Span, ...]) -> list[Finding]:
    """Findings in the pauses; value : level against the performance. [dB]  samples : (n,)."""
    if len(phrases) < 2:
        return []
    wide, low = moments.level("wide"), moments.level("low")
    loud = _performance_db(wide, phrases)
    events: list[_Event] = []
    for start, end, leads in _pauses(_cores(wide, phrases), len(wide)):
        if end - start < 12:
            continue
        for first, last in _rising(wide[start:end], low[start:end], loud):
            span = (start + first, start + last)
            alone = first >= _ALONE and last <= end - start - _ALONE
            event = _named(samples, sample_rate_hz, moments, span, end if leads else None, alone)
            # a voiced consonant murmurs before its vowel: what runs on into the phrase is the phrase's own
            runs_on = leads and last >= end - start - _RUNS_ON and event is not None and event.kind != "breath"
            if event is not None and not runs_on:
                events.append(event)
    return [
        Finding(e.kind, e.first * HOP_S, e.last * HOP_S, e.level_db - loud, "dB", 0.6)
        for e in _rows(events)
        if e.level_db - loud > _HEARD_DB[e.kind]
    ]


def _performance_db(wide: FloatArray, phrases: tuple[Span, ...]) -> float:
    inside = np.concatenate([wide[round(p.start_s / HOP_S) : round(p.end_s / HOP_S)] for p in phrases])
    return 10 * float(np.log10(np.mean(10 ** (inside / 10)))) if len(inside) else 0.0


def _cores(wide: FloatArray, phrases: tuple[Span, ...]) -> tuple[Span, ...]:
    """Phrases without the soft beginnings and ends that a breath or a creak can be taken for."""
    cores = []
    bounds = [(round(phrase.start_s / HOP_S), round(phrase.end_s / HOP_S)) for phrase in phrases]
    usual = float(np.median([np.percentile(wide[first:last], 75) for first, last in bounds if last > first]))
    for first, last in bounds:
        part = wide[first:last]
        if (last - first) * HOP_S <= _SHORT_S and len(part) and np.percentile(part, 75) < usual - _FAINT_DB:
            continue
        loud = np.flatnonzero(part > np.percentile(part, 75) - _CORE_DB) if len(part) else np.zeros(0, dtype=int)
        if len(loud):
            cores.append(Span((first + int(loud[0])) * HOP_S, (first + int(loud[-1]) + 1) * HOP_S))
    return tuple(cores)


def _pauses(phrases: tuple[Span, ...], count: int) -> list[tuple[int, int, bool]]:
    """Moments from and to of each pause, those before the first phrase and after the last too; whether one follows."""
    edges = [0.3, *(p.end_s + _CLEAR_S for p in phrases)]
    ends = [*(p.start_s - 0.02 for p in phrases), count * HOP_S - 0.3]
    return [
        (round(a / HOP_S), round(b / HOP_S), number < len(phrases))
        for number, (a, b) in enumerate(zip(edges, ends, strict=True))
        if b > a
    ]


def _rising(wide: FloatArray, low: FloatArray, loud: float) -> list[tuple[int, int]]:
    """Stretches that stand over a pause's floor, and over what the phrase before has left: a room only falls.

    Left out is what a pause begins or ends with: a phrase's own.
    """
    over: BoolArray = np.zeros(len(wide), dtype=bool)
    for level, rises in ((wide, _RISES_DB), (scipy.ndimage.uniform_filter1d(low, 5), _LOW_RISES_DB)):
        floor = max(float(np.percentile(level, 30)), loud - 60)
        left = np.minimum.accumulate(level)
        over |= np.asarray(level > np.maximum(floor, left) + rises)
    over = scipy.ndimage.binary_closing(over, np.ones(_JOINED + 1, dtype=bool), border_value=0)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], over.astype(np.int8), [0]])))
    return [
        (int(first), int(last))
        for first, last in zip(edges[::2], edges[1::2], strict=True)
        if first > 0 and last < len(over)
    ]


def _named(
    samples: FloatArray,
    sample_rate_hz: float,
    moments: Moments,
    span: tuple[int, int],
    phrase_at: int | None,
    alone: bool,
) -> _Event | None:
    first, last = span
    seconds = (last - first) * HOP_S
    if seconds > _LONGEST_S:
        return None
    level = float(np.max(moments.level("wide")[first:last]))
    low = float(np.max(moments.level("low")[first:last]))
    if low > level - 10 and low > moments.mean_level("crisp", first, last) + _LOW_DB:
        rest = float(np.max(moments.level("middle")[first:last]))
        if low > rest + _LOW_DB:
            return _Event(first, last, "thump", max(low, level))
    if seconds <= _TICK_S:
        if _stands_out_db(moments.level("wide"), span) < _TICK_DB:
            return None
        short = seconds <= _LIPS_S + 0.02 and moments.mean_level("crisp", first, last) > low
        return _Event(first, last, "lips" if short else "keys", level)
    if _lines_db(samples, sample_rate_hz, span) > _LINES_DB:
        if not alone or _stands_out_db(moments.level("wide"), span) < _CHAIR_DB:
            return None
        return _Event(first, last, "chair", level)
    leads = phrase_at is not None and (phrase_at - last) * HOP_S <= _BEFORE_PHRASE_S
    if leads and _BREATH_S[0] <= seconds <= _BREATH_S[1]:
        return _Event(first, last, "breath", moments.mean_level("wide", first, last))
    return _Event(first, last, "cloth", moments.mean_level("wide", first, last))


def _stands_out_db(level: FloatArray, span: tuple[int, int]) -> float:
    """How far a tick stands over what is around it, on its louder side. [dB]"""
    first, last = span
    beside = [level[max(first - 9, 0) : max(first - 2, 1)], level[last + 2 : last + 9]]
    return float(np.max(level[first:last])) - max(float(np.median(part)) for part in beside if len(part))


def _lines_db(samples: FloatArray, sample_rate_hz: float, span: tuple[int, int]) -> float:
    """Spread of the bins between 200 and 6000 Hz about their own trend: noise about 5.6, lines more. [dB]"""
    part = samples[round(span[0] * HOP_S * sample_rate_hz) : round(span[1] * HOP_S * sample_rate_hz)]
    spectrum = np.abs(np.fft.rfft(part * np.hanning(len(part)))) ** 2
    f_hz = np.fft.rfftfreq(len(part), 1 / sample_rate_hz)
    level = 10 * np.log10(spectrum[(f_hz > 200) & (f_hz < 6000)] + 1e-20)
    if len(level) < 24:
        return 0.0
    return float(np.std(level - scipy.ndimage.median_filter(level, size=min(2 * (len(level) // 8) + 1, 101))))


def _rows(events: list[_Event]) -> list[_Event]:
    """Ticks in a row are keys, told once; single ones are lips."""
    ticks = [e for e in events if e.kind in ("lips", "keys")]
    rest = [e for e in events if e.kind not in ("lips", "keys")]
    told: list[_Event] = []
    row: list[_Event] = []
    for tick in [*ticks, None]:
        if tick is not None and (not row or (tick.first - row[-1].last) * HOP_S < _ROW_S / _ROW):
            row.append(tick)
            continue
        if len(row) >= _ROW:
            told.append(_Event(row[0].first, row[-1].last, "keys", max(e.level_db for e in row)))
        else:
            told += row
        row = [tick] if tick is not None else []
    return sorted([*rest, *told], key=lambda e: e.first)
