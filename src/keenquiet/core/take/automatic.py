"""A chain that turns the level by itself: a gate that shuts, a compressor that lets go, automatic gain.

All three show in the pauses: a room's tone is steady, so that what it does between phrases is the chain's doing. A
gate lets it fall at once, and holds it shut; a compressor lets it rise within a quarter of a second after each phrase,
automatic gain more slowly.
"""

from itertools import pairwise
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

_LEAST_PAUSES: Final = 3
_STOPPED_S: Final = 0.12  # after a phrase: the voice itself has stopped
_LEAST_S: Final = 0.4
_OPENS_S: Final = 0.15  # before the next phrase
_SHUTS_DB: Final = 10.0
_AT_ONCE: Final = 4  # moments in which a gate shuts
_SIDE: Final = 6  # moments on either side by which a step is judged
_EVEN_DB: Final = 3.0
_ALIKE_DB: Final = 4.0
_RISES_DB: Final = 1.8
_SHARE: Final = 0.6  # of the pauses
_STILL: Final = 0.22  # of a rise: what goes on so long is automatic gain


def automatic(moments: Moments, phrases: tuple[Span, ...], seconds: float) -> list[Finding]:
    """Findings about the whole take; value : by how much the room tone falls or rises in the pauses. [dB]"""
    level = moments.level("wide", smooth=3)
    runs = [
        level[round((one.end_s + _STOPPED_S) / HOP_S) : round((other.start_s - _OPENS_S) / HOP_S)]
        for one, other in pairwise(phrases)
    ]
    runs = [run for run in runs if len(run) >= _LEAST_S / HOP_S]
    if len(runs) < _LEAST_PAUSES:
        return []
    shut = [step for step in (_shut_db(run) for run in runs) if step is not None]
    if len(shut) >= _SHARE * len(runs):
        before, after = (np.array(column) for column in zip(*shut, strict=True))
        # a room's tone is the same before each shutting, and what a gate leaves after; notes and tails are not
        if max(float(before.std()), float(after.std())) < _ALIKE_DB:
            return [Finding("gate", 0.0, seconds, float(np.median(before - after)), "dB", 0.7)]
    rise = _rise(_usual_run(runs))
    if rise is None:
        return []
    by, still = rise
    return [Finding("compressed" if still < _STILL else "auto_gain", 0.0, seconds, by, "dB", 0.6)]


def _usual_run(runs: list[FloatArray]) -> FloatArray:
    """The middle of all pauses, moment by moment from their beginning, as long as most of them last."""
    longest = sorted(len(run) for run in runs)[-max(_LEAST_PAUSES, round(_SHARE * len(runs)))]
    columns = np.full((len(runs), longest), np.nan)
    for row, run in zip(columns, runs, strict=True):
        row[: min(len(run), longest)] = run[:longest]
    usual: FloatArray = np.nanmedian(columns, axis=0)
    return usual


def _shut_db(run: FloatArray) -> tuple[float, float] | None:
    """Levels before and after a pause's level falls at once, both sides even; None where it does not."""
    count = len(run) - 2 * _SIDE - _AT_ONCE
    if count <= 0:
        return None
    sides = np.lib.stride_tricks.sliding_window_view(run, _SIDE)
    before, after = sides[:count], sides[_SIDE + _AT_ONCE : _SIDE + _AT_ONCE + count]
    falls = before.mean(axis=1) - after.mean(axis=1)
    even = (np.ptp(before, axis=1) < _EVEN_DB) & (after.max(axis=1) < before.min(axis=1) - 0.7 * _SHUTS_DB)
    for at in np.argsort(-falls):
        if falls[at] < _SHUTS_DB:
            return None
        rest = run[at + _SIDE + _AT_ONCE : -_SIDE]
        if even[at] and (len(rest) <= _SIDE or float(rest.std()) < _EVEN_DB):
            return float(before[at].mean()), float(after[at].mean())
    return None


def _rise(run: FloatArray) -> tuple[float, float] | None:
    """By how much a level rises after its lowest moment, and which share of that in its last two fifths; None where it
    does not rise.
    """
    smooth = scipy.ndimage.uniform_filter1d(run, 7)
    lowest = int(np.argmin(smooth[: max(len(smooth) // 2, 1)]))
    rest = smooth[lowest:]
    if len(rest) < 20:
        return None
    rise = float(np.median(rest[-max(len(rest) // 6, 5) :])) - float(rest[0])
    rank = scipy.stats.spearmanr(np.arange(len(rest)), rest).statistic
    if rise < _RISES_DB or rank < 0.7:
        return None
    late = float(rest[-1]) - float(rest[round(0.6 * len(rest))])
    return rise, late / rise
