"""A log of sound levels over hours and nights: what disturbed, what was quiet, what was not heard at all.

Gaps are gaps: nothing is filled in, and a stretch with one in it says nothing.
"""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_DAY_S: Final = 86_400.0
_MONDAY_S: Final = 4 * _DAY_S  # 1 January 1970 was a Thursday
_NOON_S: Final = 43_200.0  # a night belongs to the day it began on
_QUIET_SHARE: Final = 10.0  # per cent of the time that is taken for its quiet
RISE_DB: Final = 7.0  # over it disturbs, as in a silence


@dataclass(frozen=True)
class Starts:
    """Starts of takes that were heard whole: clear (n,), weekday (n,) Monday 0, hour_of_day (n,), night (n,)."""

    clear: BoolArray
    weekday: IntArray
    hour_of_day: FloatArray
    night: IntArray


@dataclass(frozen=True)
class Passing:
    """Something that stood out of a log: its second of the log's time, how long [s], how far over the quiet [dB]."""

    at_s: float
    seconds: float
    rise_db: float


@dataclass(frozen=True)
class SoundLog:
    """utc_s : (n,) increasing, seconds since 1970. offset_s : (n,) of local time against it. level_db : (n,).

    step_s : between one level and the next where nothing is missing. repeated, unsorted : how many rows came twice or
    out of order and were put right.
    """

    utc_s: FloatArray
    offset_s: FloatArray
    level_db: FloatArray
    step_s: float
    repeated: int = 0
    unsorted: int = 0

    @staticmethod
    def of(utc_s: FloatArray, level_db: FloatArray, *, offset_s: FloatArray | float = 0.0) -> "SoundLog":
        """A log from rows in any order; of rows for one time the loudest counts. Raises InputError for too few."""
        utc_s, level_db = np.asarray(utc_s, dtype=float), np.asarray(level_db, dtype=float)
        offset = np.broadcast_to(np.asarray(offset_s, dtype=float), utc_s.shape)
        good = np.isfinite(utc_s) & np.isfinite(level_db)
        utc_s, level_db, offset = utc_s[good], level_db[good], offset[good]
        if len(utc_s) < 2:
            raise InputError("log", "has fewer than two levels.", "Watch for some minutes at least.")
        unsorted = int(np.count_nonzero(np.diff(utc_s) < 0))
        order = np.lexsort((-level_db, utc_s))
        first = np.concatenate([[True], np.diff(utc_s[order]) > 0])
        kept = order[first]
        if len(kept) < 2:
            raise InputError("log", "holds one time only.", "Watch for some minutes at least.")
        step = float(np.median(np.diff(utc_s[kept])))
        return SoundLog(utc_s[kept], offset[kept], level_db[kept], step, len(order) - len(kept), unsorted)

    @cached_property
    def local_s(self) -> FloatArray:
        """Local time, (n,). [s]"""
        local: FloatArray = self.utc_s + self.offset_s
        return local

    @cached_property
    def quiet_db(self) -> float:
        """Level that nine tenths of the time pass. [dB]"""
        return float(np.percentile(self.level_db, _QUIET_SHARE))

    @cached_property
    def parts(self) -> list[slice]:
        """Stretches without a gap."""
        breaks = np.flatnonzero(np.diff(self.utc_s) > 1.5 * self.step_s) + 1
        edges = [0, *breaks.tolist(), len(self.utc_s)]
        return [slice(a, b) for a, b in pairwise(edges)]

    @property
    def nights(self) -> int:
        """How many nights or days it speaks of."""
        return len(np.unique(night_of(self.local_s)))

    def disturbed(self, too_loud_db: float | None = None) -> BoolArray:
        """Seconds that are too loud, (n,)."""
        limit = self.quiet_db + RISE_DB if too_loud_db is None else too_loud_db
        loud: BoolArray = self.level_db > limit
        return loud

    def undisturbed_starts(self, seconds: float, too_loud_db: float | None = None) -> Starts:
        """Whether a take of so many seconds from each heard second meets nothing too loud."""
        length = max(round(seconds / self.step_s), 1)
        loud = np.concatenate([[0], np.cumsum(self.disturbed(too_loud_db))])
        at = np.concatenate([np.arange(p.start, max(p.stop - length + 1, p.start)) for p in self.parts]).astype(int)
        clear: BoolArray = loud[at + length] == loud[at]
        local = self.local_s[at]
        weekday = (np.floor((local - _MONDAY_S) / _DAY_S) % 7).astype(int)
        return Starts(clear, weekday, local % _DAY_S / 3600, np.floor(local / _DAY_S).astype(int))

    def passing(self, too_loud_db: float | None = None) -> list[Passing]:
        """What stood out, in order of time; never across a gap."""
        loud = self.disturbed(too_loud_db)
        found = []
        for part in self.parts:
            here = loud[part]
            edges = np.flatnonzero(np.diff(np.concatenate([[0], here.astype(int), [0]])))
            for start, end in zip(edges[::2], edges[1::2], strict=True):
                top = float(self.level_db[part][start:end].max()) - self.quiet_db
                found.append(Passing(float(self.utc_s[part][start]), float(end - start) * self.step_s, top))
        return found


def night_of(local_s: FloatArray) -> IntArray:
    """Number of the night that a local time belongs to, from noon to noon."""
    night: IntArray = np.floor((local_s - _NOON_S) / _DAY_S).astype(int)
    return night
