"""Two takes of one song held against each other line by line: which lines belong together, which is the better one of
each, and whether the cuts between them would be heard.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final, Literal

import numpy as np
import scipy

from keenquiet.core.bands import a_weighting_db
from keenquiet.core.read.tone import third_octave_levels
from keenquiet.core.take.finding import KINDS, Finding
from keenquiet.core.take.levels import TakeLevels
from keenquiet.core.take.moments import BANDS_HZ, HOP_S
from keenquiet.core.take.phrases import Span
from keenquiet.core.take.splice import BROADBAND_DB, THIRD_DB
from keenquiet.core.types import FloatArray

_POINTS: Final = 40  # of a phrase's course of level and colour
_SKIPPED: Final = 0.55  # cost of a line that the other take does not have
_WEIGHT: Final = {"lost": 10.0, "mendable": 3.0, "taste": 1.0}
_COUNTS_DB: Final = 25.0
_LEAST_PAUSE_S: Final = 0.2
_SOUNDS_DB: Final = 15.0

Side = Literal["a", "b"]


@dataclass(frozen=True)
class Pair:
    """One line in both takes. gain_db : what makes the second as loud as the first (A-weighted). bass_db, treble_db :
    second less first at equal loudness. faults : in each, weighed. better : None where neither is.
    """

    a: Span
    b: Span
    gain_db: float
    bass_db: float
    treble_db: float
    faults_a: tuple[Finding, ...]
    faults_b: tuple[Finding, ...]
    better: Side | None


@dataclass(frozen=True)
class Join:
    """A cut from one take's line to the other's next: the room tone's step at equal loudness [dB], and whether it would
    be heard; None where a pause is too short to tell.
    """

    after: int
    step_db: float | None
    heard: bool | None


@dataclass(frozen=True)
class Lines:
    """only_a, only_b : lines that the other does not have. chosen : take of each pair. joins : where they change."""

    pairs: tuple[Pair, ...]
    only_a: tuple[Span, ...]
    only_b: tuple[Span, ...]
    chosen: tuple[Side, ...]
    joins: tuple[Join, ...]


def lines_of(
    a: TakeLevels, b: TakeLevels, *, samples_a: FloatArray, samples_b: FloatArray, sample_rate_hz: float
) -> Lines:
    """samples_a, samples_b : (n,), one rate. Lines are paired in order by their course, some left out of either."""
    matched = _matched([_course(a, p) for p in a.phrases], [_course(b, p) for p in b.phrases])
    pairs = tuple(_pair(a, b, a.phrases[i], b.phrases[k]) for i, k in matched)
    chosen = _chosen(pairs)
    joins = []
    for number, (one, other) in enumerate(pairwise(chosen)):
        if one != other:
            levels = {"a": (a, samples_a), "b": (b, samples_b)}
            gain = pairs[number + 1].gain_db
            gains = {"a": 0.0, "b": gain}
            tones = [
                _tone_after(*levels[side], pairs[number], side, sample_rate_hz, gains[side]) for side in (one, other)
            ]
            joins.append(_join(number, tones[0], tones[1]))
    used_a, used_b = {i for i, _ in matched}, {k for _, k in matched}
    return Lines(
        pairs,
        tuple(p for i, p in enumerate(a.phrases) if i not in used_a),
        tuple(p for k, p in enumerate(b.phrases) if k not in used_b),
        chosen,
        tuple(joins),
    )


def _course(take: TakeLevels, phrase: Span) -> FloatArray:
    """Level, bass and treble over a phrase at forty points, each about its own mean, and its length, (3 * 40 + 1,)."""
    first, last = round(phrase.start_s / HOP_S), max(round(phrase.end_s / HOP_S), round(phrase.start_s / HOP_S) + 4)
    rows = []
    for band in ("body", "bass", "treble"):
        level = scipy.ndimage.uniform_filter1d(take.moments.level(band)[first:last], 5)
        row = np.interp(np.linspace(0, len(level) - 1, _POINTS), np.arange(len(level)), level)
        rows.append((row - row.mean()) / max(float(row.std()), 1.0))
    return np.concatenate([*rows, [np.log2(max(phrase.seconds, 0.1))]])


def _unlike(one: FloatArray, other: FloatArray) -> float:
    """0 alike to about 1 unlike."""
    course = 1 - float(np.mean(one[:-1] * other[:-1]))
    return 0.7 * course + 0.6 * abs(float(one[-1] - other[-1]))


def _matched(a: Sequence[FloatArray], b: Sequence[FloatArray]) -> list[tuple[int, int]]:
    """Pairs in order at the least cost (S. Needleman, C. Wunsch, J. Mol. Biol. 48 (1970) 443)."""
    cost = np.zeros((len(a) + 1, len(b) + 1))
    cost[:, 0], cost[0, :] = _SKIPPED * np.arange(len(a) + 1), _SKIPPED * np.arange(len(b) + 1)
    unlike = np.array([[_unlike(x, y) for y in b] for x in a]).reshape(len(a), len(b))
    for i in range(1, len(a) + 1):
        for k in range(1, len(b) + 1):
            skipped = min(cost[i - 1, k], cost[i, k - 1]) + _SKIPPED
            cost[i, k] = min(cost[i - 1, k - 1] + unlike[i - 1, k - 1], skipped)
    i, k, found = len(a), len(b), []
    while i and k:
        if np.isclose(cost[i, k], cost[i - 1, k - 1] + unlike[i - 1, k - 1]):
            i, k = i - 1, k - 1
            found.append((i, k))
        elif np.isclose(cost[i, k], cost[i - 1, k] + _SKIPPED):
            i -= 1
        else:
            k -= 1
    return found[::-1]


def _pair(a: TakeLevels, b: TakeLevels, of_a: Span, of_b: Span) -> Pair:
    loud = [_mean_dba(take, phrase) for take, phrase in ((a, of_a), (b, of_b))]
    tilt = [
        [_mean(take, phrase, band) - _mean(take, phrase, "middle") for band in ("bass", "treble")]
        for take, phrase in ((a, of_a), (b, of_b))
    ]
    faults_a, faults_b = _faults(a, of_a), _faults(b, of_b)
    weights = [_weight(faults) for faults in (faults_a, faults_b)]
    better: Side | None = None if weights[0] == weights[1] else ("a" if weights[0] < weights[1] else "b")
    return Pair(
        of_a, of_b, loud[0] - loud[1], tilt[1][0] - tilt[0][0], tilt[1][1] - tilt[0][1], faults_a, faults_b, better
    )


def _mean_dba(take: TakeLevels, phrase: Span) -> float:
    part = take.moments.level_dba()[round(phrase.start_s / HOP_S) : round(phrase.end_s / HOP_S)]
    sounds = part[part > part.max() - _SOUNDS_DB]  # where a phrase begins and ends is known to a tenth only
    return 10 * float(np.log10(np.mean(10 ** (sounds / 10))))


def _mean(take: TakeLevels, phrase: Span, band: str) -> float:
    assert band in BANDS_HZ
    return take.moments.mean_level(band, round(phrase.start_s / HOP_S), round(phrase.end_s / HOP_S))


def _faults(take: TakeLevels, phrase: Span) -> tuple[Finding, ...]:
    """What was found in a line and in the breath before it; what lies under the whole take is no line's own."""
    seconds = len(take.blocks_db) * 0.1
    return tuple(
        f
        for f in take.findings
        if f.start_s < phrase.end_s + 0.3 and f.end_s > phrase.start_s - 0.4 and f.end_s - f.start_s < 0.9 * seconds
    )


def _weight(faults: Sequence[Finding]) -> float:
    return sum(_WEIGHT[KINDS[f.kind].group] * f.confidence for f in faults)


def _chosen(pairs: Sequence[Pair]) -> tuple[Side, ...]:
    """The better line of each; where neither is, the take goes on that was chosen before: no cut without need."""
    chosen: list[Side] = []
    start: Side = next((pair.better for pair in pairs if pair.better), "a")
    for pair in pairs:
        chosen.append(pair.better or (chosen[-1] if chosen else start))
    return tuple(chosen)


def _tone_after(
    take: TakeLevels, samples: FloatArray, pair: Pair, side: Side, sample_rate_hz: float, gain_db: float
) -> tuple[FloatArray, FloatArray] | None:
    """Third octaves of the pause after a line, raised to the other take's loudness; None where it is too short."""
    phrase = pair.a if side == "a" else pair.b
    later = [p.start_s for p in take.phrases if p.start_s > phrase.end_s]
    end = min(later, default=len(samples) / sample_rate_hz) - 0.1
    start = min(phrase.end_s + 0.25, end - _LEAST_PAUSE_S)
    if start < phrase.end_s + 0.1:
        return None
    part = samples[round(start * sample_rate_hz) : round(end * sample_rate_hz)]
    centres, thirds = third_octave_levels(part, sample_rate_hz)
    return centres, thirds + gain_db


def _join(after: int, one: tuple[FloatArray, FloatArray] | None, other: tuple[FloatArray, FloatArray] | None) -> Join:
    if one is None or other is None:
        return Join(after, None, None)
    centres, of_one, of_other = np.intersect1d(one[0], other[0], return_indices=True)
    a, b = one[1][of_one], other[1][of_other]
    known = np.isfinite(a) & np.isfinite(b) & (centres >= 100)  # a pause is too short for lower bands
    weight = a_weighting_db(centres[known])
    a, b = a[known], b[known]
    step = 10 * float(np.log10(np.sum(10 ** ((b + weight) / 10)) / np.sum(10 ** ((a + weight) / 10))))
    audible = np.maximum(a, b) + weight
    # thirds of so short a pause scatter by some decibels of themselves: twice the limit of long room tones
    worst = float(np.max(np.abs(b - a)[audible > audible.max() - _COUNTS_DB / 2]))
    return Join(after, step, abs(step) > BROADBAND_DB or worst > 2 * THIRD_DB + BROADBAND_DB)
