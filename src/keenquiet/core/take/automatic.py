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
_LEAST_S: Final = 0.3
_OPENS_S: Final = 0.15  # before the next phrase
_SHUTS_DB: Final = 10.0
_AT_ONCE: Final = 4  # moments in which a gate shuts
_SIDE: Final = 6  # moments on either side by which a step is judged
_EVEN_DB: Final = 3.0
_ALIKE_DB: Final = 4.0
_RISES_DB: Final = 1.8
_SHARE: Final = 0.6  # of the pauses
_SLOW_S: Final = 0.45  # time constant from which it is automatic gain
_TAUS_S: Final = np.geomspace(0.05, 3.0, 30)
_LEAST_RUN: Final = 20  # moments
_NOTHING_DBFS: Final = -125.0  # no room and no converter is as still as this
_SIXTEEN_BITS_DBFS: Final = -96.0
_STILL: Final = 4  # moments in a row
_HEARD_DB: Final = 12.0  # over sixteen bits shortly before: a note that fades to nothing by itself hardly has it
_LEAST_SHUT: Final = 3  # times
_ROW_RISES_DB: Final = 1.0
_EARLY: Final = 0.35  # of a rise, that has come by the middle of it
_UNTOLD: Final = 0.5  # of the scatter, that a fit may leave


def automatic(
    moments: Moments, phrases: tuple[Span, ...], seconds: float, *, of_few_bits: bool = False
) -> list[Finding]:
    """Findings about the whole take; value : by how much the room tone falls or rises in the pauses. [dB]

    of_few_bits : whether what is soft has become nothing by itself, as in eight bits.
    """
    shut_db = None if of_few_bits else _to_nothing_db(moments.level("wide"))
    if shut_db is not None:
        return [Finding("gate", 0.0, seconds, shut_db, "dB", 0.85)]
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
    rise = _rise(runs)
    if rise is None:
        return []
    by, takes_s = rise
    return [Finding("compressed" if takes_s < _SLOW_S else "auto_gain", 0.0, seconds, by, "dB", 0.6)]


def _to_nothing_db(level: FloatArray) -> float | None:
    """By how much it falls where sound that is heard is followed by none at all, None where that is not done again
    and again: what a gate or a mute leaves, however soon after a word.
    """
    nothing = np.concatenate([[0], (level < _NOTHING_DBFS).astype(np.int8), [0]])
    edges = np.flatnonzero(np.diff(nothing))
    begins = [
        int(a)
        for a, b in zip(edges[::2], edges[1::2], strict=True)
        if b - a >= _STILL and a >= _SIDE and b < len(level)
    ]
    before = np.array([float(np.max(level[a - _SIDE : a - _SIDE // 2])) for a in begins])
    over = before[before > _SIXTEEN_BITS_DBFS + _HEARD_DB] - _SIXTEEN_BITS_DBFS
    return float(np.median(over)) if len(over) >= _LEAST_SHUT else None


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


def _rise(runs: list[FloatArray]) -> tuple[float, float] | None:
    """By how much pauses' levels rise [dB], and the time constant of it [s]; None where they do not rise alike.

    Fitted is y = c - a exp(-t / tau), each pause with its own end c, all with the same a and tau: what turns the level
    lets go alike after each phrase, whatever noise a pause has besides.
    """
    rows = [row for row in (_after_the_lowest(run) for run in runs) if row is not None]
    if len(rows) < max(_LEAST_PAUSES, _SHARE * len(runs)):
        return None
    time = [(first + np.arange(len(level))) * HOP_S for first, level in rows]
    told = np.concatenate([level - level.mean() for _, level in rows])
    best: tuple[float, float, float] | None = None
    for tau in _TAUS_S:
        shape = np.concatenate([part - part.mean() for part in (-np.exp(-t / tau) for t in time)])
        by = float(shape @ told / (shape @ shape))
        rest = float(np.sum((told - by * shape) ** 2))
        if best is None or rest < best[0]:
            best = (rest, by, float(tau))
    assert best is not None
    rest, by, tau = best
    first, last = (float(np.median([t[which] for t in time])) for which in (0, -1))
    rise = by * float(np.exp(-first / tau) - np.exp(-last / tau))
    if rise < _RISES_DB or rest > _UNTOLD * float(told @ told):
        return None
    return rise, tau


def _after_the_lowest(run: FloatArray) -> tuple[int, FloatArray] | None:
    """A pause from its lowest moment, where the room has faded; None where it then hardly rises, or only at its end as
    before a breath.
    """
    smooth = scipy.ndimage.uniform_filter1d(run, 7)
    lowest = int(np.argmin(smooth[: max(len(smooth) // 2, 1)]))
    level = smooth[lowest:]
    if len(level) < _LEAST_RUN:
        return None
    third = len(level) // 3
    whole = float(np.median(level[-third:]) - level[0])
    early = float(np.median(level[third : 2 * third]) - level[0])
    return (lowest, level) if whole > _ROW_RISES_DB and early > _EARLY * whole else None
