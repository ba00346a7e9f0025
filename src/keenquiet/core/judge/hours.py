"""When a take stays undisturbed: from what is noted of the noises, and from what a log has heard.

A take is disturbed when the noise leaves it less than what the quietest hour of the week leaves, or what is wanted,
whichever is less, by more than 3 dB. What comes and goes regularly with an unknown phase leaves a take of N minutes in
peace with the chance (P - on - N) / P of its period P: every start from which the next beginning is N or more away.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import NOISE_LEVEL_SPREAD_DB
from keenquiet.core.read.sound_log import SoundLog
from keenquiet.core.room.calendar import WEEKDAYS, Calendar
from keenquiet.core.room.room import Cycle
from keenquiet.core.types import BoolArray, FloatArray, IntArray

QUARTERS: Final = 96  # of a day
LEAST_NIGHTS: Final = 3
_WORSE_DB: Final = 3.0
_PERIOD_SPREAD: Final = 0.2  # of a noted period: nobody times a fridge (our estimate)
_WORTH: Final = 0.8  # of the best chance of the week: what still counts as a good time
_AS_QUIET_DB: Final = 1.0
_LEAST_CHANCE: Final = 0.2
_SURE: Final = 0.95
_BETWEEN_S: Final = 60.0  # looks at a log are taken for independent when a take and a minute lie between


@dataclass(frozen=True)
class NotedNoise:
    """What is noted of one noise: when it runs, how loud it is at the microphone while it sounds [dB(A)], its cycle."""

    name: str
    calendar: Calendar
    level_dba: float
    cycle: Cycle | None = None


@dataclass(frozen=True)
class Chances:
    """Chance of an undisturbed take by weekday and quarter of an hour, (7, 96) each; NaN where nothing is known.

    low, high : an interval, 95 % for what a log says, one standard uncertainty of levels and periods for what is noted.
    under_db : what steady noise leaves under the performance, NaN from a log. by_log : a log says it, not the notes.
    nights : how many of a log speak of it, (7, 96).
    """

    chance: FloatArray
    low: FloatArray
    high: FloatArray
    under_db: FloatArray
    by_log: BoolArray
    nights: IntArray

    def hourly(self) -> "Chances":
        """Means over whole hours, (7, 24)."""

        def mean(values: FloatArray) -> FloatArray:
            found: FloatArray = values.reshape(WEEKDAYS, 24, 4).mean(axis=2)
            return found

        by_log: BoolArray = np.asarray(self.by_log.reshape(WEEKDAYS, 24, 4).all(axis=2))
        nights: IntArray = self.nights.reshape(WEEKDAYS, 24, 4).min(axis=2)
        return Chances(mean(self.chance), mean(self.low), mean(self.high), mean(self.under_db), by_log, nights)


@dataclass(frozen=True)
class Window:
    """A good time: weekday (Monday 0), from and to [h], and its chance."""

    weekday: int
    from_h: float
    to_h: float
    chance: float


def noted_chances(
    noises: Sequence[NotedNoise], *, performance_dba: float, house_dba: float, wanted_db: float, minutes: float
) -> Chances:
    """What the notes let expect. house_dba : what is there with nothing noted. wanted_db : under the performance."""
    if not minutes > 0:
        raise InputError("minutes", f"{minutes} min is no take.", "Give the length of the piece.")
    middle, under = _noted(noises, performance_dba, house_dba, wanted_db, minutes, 0.0, 1.0)
    spreads = [
        _noted(noises, performance_dba, house_dba, wanted_db, minutes, sign * NOISE_LEVEL_SPREAD_DB, 1 + sign * part)[0]
        for sign in (-1.0, 1.0)
        for part in (0.0, _PERIOD_SPREAD, -_PERIOD_SPREAD)
    ]
    every = np.stack([middle, *spreads])
    no_log = np.zeros(middle.shape, dtype=int)
    return Chances(middle, every.min(axis=0), every.max(axis=0), under, no_log.astype(bool), no_log)


def _noted(
    noises: Sequence[NotedNoise],
    performance_dba: float,
    house_dba: float,
    wanted_db: float,
    minutes: float,
    louder_db: float,
    period: float,
) -> tuple[FloatArray, FloatArray]:
    """Chance and what steady noise leaves under the performance, (7, 96) each, with what comes and goes that much
    louder and its periods times that.
    """
    hours = (np.arange(QUARTERS) + 0.5) / 4
    steady = np.full((WEEKDAYS, QUARTERS), 10 ** (house_dba / 10))
    runs = [np.array([[n.calendar.runs_at(h, d) for h in hours] for d in range(WEEKDAYS)]) for n in noises]
    # what comes and goes louder against what stays: all of it louder would change nothing
    powers = [10 ** ((n.level_dba + (louder_db if n.cycle is not None else 0.0)) / 10) for n in noises]
    for noise, running, power in zip(noises, runs, powers, strict=True):
        if noise.cycle is None:
            steady += running * power
    under = performance_dba - 10 * np.log10(steady)
    least = least_under_db(float(under.max()), wanted_db)
    chance = np.where(under >= least, 1.0, 0.0)
    for noise, running, power in zip(noises, runs, powers, strict=True):
        if noise.cycle is not None:
            too_loud = running & (performance_dba - 10 * np.log10(steady + power) < least)
            chance = np.where(too_loud, chance * undisturbed_share(noise.cycle, minutes, period=period), chance)
    return chance, under


def least_under_db(best_db: float, wanted_db: float) -> float:
    """What noise must leave under the performance not to disturb a take: what the quietest hour leaves, or what is
    wanted, whichever is less, and 3 dB less. [dB]
    """
    return min(best_db, wanted_db) - _WORSE_DB


def undisturbed_share(cycle: Cycle, minutes: float, *, period: float = 1.0) -> float:
    """Share of all starts from which a take of so many minutes meets nothing of a cycle. period : factor on its own."""
    whole = cycle.period_min * period
    return max(whole - whole * cycle.on_share - minutes, 0.0) / whole


def log_chances(log: SoundLog, *, minutes: float, too_loud_db: float | None = None) -> Chances:
    """What a log has heard. too_loud_db : level from which a second disturbs; None: 7 dB over the log's own quiet.

    Every second is a start; a start counts where the whole take after it was heard. An hour of a weekday is told from
    its own nights, else from those of all working days or of the weekend, else from all; under three nights of these
    it is NaN. The interval is Jeffreys' for a share, with starts a take and a minute apart taken for independent.
    """
    starts = log.undisturbed_starts(minutes * 60, too_loud_db)
    shape = (WEEKDAYS, QUARTERS)
    chance, low, high, nothing = np.full((4, *shape), np.nan)
    nights = np.zeros(shape, dtype=int)
    # counted once by day and hour: a watch of weeks has millions of starts
    dates, first, which = np.unique(starts.night, return_index=True, return_inverse=True)
    weekday = starts.weekday[first]
    cell = which * 24 + starts.hour_of_day.astype(int)
    heard, clear = (
        np.bincount(cell, weights=weights, minlength=24 * len(dates)).reshape(len(dates), 24)
        for weights in (None, starts.clear)
    )
    for day in range(WEEKDAYS):
        for at in range(24):
            for group in _groups(day):
                here = np.isin(weekday, group) & (heard[:, at] > 0)
                count = int(np.count_nonzero(here))
                if count < LEAST_NIGHTS:
                    continue
                quarters = slice(4 * at, 4 * at + 4)
                asked = float(heard[here, at].sum())
                share = float(clear[here, at].sum()) / asked
                looks = asked * log.step_s / (minutes * 60 + _BETWEEN_S)
                chance[day, quarters], nights[day, quarters] = share, count
                low[day, quarters], high[day, quarters] = jeffreys(share * looks, looks)
                break
    return Chances(chance, low, high, nothing, nights > 0, nights)


def _groups(day: int) -> tuple[tuple[int, ...], ...]:
    """Weekdays that may speak for one, the nearest first."""
    alike = (0, 1, 2, 3, 4) if day < 5 else (5, 6)
    return (day,), alike, tuple(range(WEEKDAYS))


def jeffreys(hits: float, looks: float) -> tuple[float, float]:
    """Jeffreys' 95 % interval of a share; 0 and 1 are its ends where every look agrees.

    Source: L. Brown, T. Cai, A. DasGupta, Statistical Science 16 (2001) 101.
    """
    tail = (1 - _SURE) / 2
    low = 0.0 if hits <= 0 else float(scipy.stats.beta.ppf(tail, hits + 0.5, looks - hits + 0.5))
    high = 1.0 if hits >= looks else float(scipy.stats.beta.ppf(1 - tail, hits + 0.5, looks - hits + 0.5))
    return low, high


def both(noted: Chances | None, heard: Chances | None) -> Chances:
    """What a log says where it says something, else what is noted. Raises InputError where there is neither."""
    if noted is None or heard is None:
        found = noted or heard
        if found is None:
            raise InputError("noises", "nothing is noted and nothing was watched.", "Note a noise, or watch a night.")
        return found
    told = heard.by_log

    def pick(log: FloatArray, note: FloatArray) -> FloatArray:
        chosen: FloatArray = np.where(told, log, note)
        return chosen

    return Chances(
        pick(heard.chance, noted.chance),
        pick(heard.low, noted.low),
        pick(heard.high, noted.high),
        noted.under_db,
        told,
        heard.nights,
    )


def good_windows(chances: Chances, allowed: Calendar, *, minutes: float) -> tuple[Window, ...]:
    """Stretches of the week in which playing is allowed and the chance is near the best, longest chance first.

    Shorter ones than the take are left out; a stretch ends at midnight.
    """
    hours = (np.arange(QUARTERS) + 0.5) / 4
    may = np.array([[allowed.runs_at(h, d) for h in hours] for d in range(WEEKDAYS)])
    chance = np.where(may & np.isfinite(chances.chance), chances.chance, -1.0)
    best = float(chance.max())
    if best < _LEAST_CHANCE:
        return ()
    found = [
        Window(day, first / 4, (last + 1) / 4, float(chance[day, first : last + 1].mean()))
        for day in range(WEEKDAYS)
        for first, last in _stretches(chance[day] >= _WORTH * best)
        if (last + 1 - first) * 15 >= minutes
    ]
    return tuple(sorted(found, key=lambda w: (-round(w.chance, 2), w.from_h - w.to_h, w.weekday, w.from_h)))


def least_bad(chances: Chances, allowed: Calendar, *, minutes: float) -> Window | None:
    """Where nothing stays undisturbed, the stretch in which it is quietest, by chance and then by steady noise; None
    where nobody may play at all.
    """
    hours = (np.arange(QUARTERS) + 0.5) / 4
    may = np.array([[allowed.runs_at(h, d) for h in hours] for d in range(WEEKDAYS)])
    chance = np.where(np.isfinite(chances.chance), chances.chance, 0.0)
    worth = np.where(may & np.isfinite(chances.under_db), 100 * chance + chances.under_db, -np.inf)
    best = float(worth.max())
    if not np.isfinite(best):
        return None
    found = [
        Window(day, first / 4, (last + 1) / 4, float(chance[day, first : last + 1].mean()))
        for day in range(WEEKDAYS)
        for first, last in _stretches(worth[day] >= best - _AS_QUIET_DB)
        if (last + 1 - first) * 15 >= minutes
    ]
    return max(found, key=lambda w: w.to_h - w.from_h, default=None)


def _stretches(holds: BoolArray) -> Iterable[tuple[int, int]]:
    """First and last index of each run that holds."""
    for held, group in groupby(range(len(holds)), key=lambda i: bool(holds[i])):
        if held:
            run = list(group)
            yield run[0], run[-1]
