"""Calendars, chances of an undisturbed take, logs: against hand counts and simulated weeks whose truth is known."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from keenquiet.core.errors import InputError
from keenquiet.core.judge.hours import (
    NotedNoise,
    both,
    good_windows,
    jeffreys,
    log_chances,
    noted_chances,
    undisturbed_share,
)
from keenquiet.core.read.sound_log import SoundLog
from keenquiet.core.room.calendar import Calendar, DayHours
from keenquiet.core.room.room import Cycle

from ..conftest import many

MONDAY = 1_767_571_200.0  # 5 January 2026, 00:00 UTC
DAY = 86_400.0
QUARTER = st.integers(0, 96).map(lambda quarters: quarters / 4)


def test_a_night_that_runs_over_midnight_belongs_to_the_day_it_starts_on():
    bar = Calendar(((0.0, 0.0),), (DayHours(frozenset({4}), ((22.0, 3.0),)),))  # Fridays only
    assert bar.runs_at(23.0, 4)
    assert bar.runs_at(2.5, 5)
    assert not bar.runs_at(3.0, 5)
    assert not bar.runs_at(2.5, 4)
    assert bar.on(5) == ((0.0, 3.0),)
    assert bar.on(4) == ((22.0, 24.0),)


def test_no_hours_is_always_and_a_named_day_without_hours_is_never():
    shop = Calendar((), (DayHours(frozenset({6}), ()),))
    assert shop.on(2) == ((0.0, 24.0),)
    assert shop.on(6) == ()
    assert Calendar().always
    assert not shop.always


@given(st.lists(st.tuples(QUARTER, QUARTER), max_size=4), st.integers(0, 6), QUARTER.filter(lambda hour: hour < 24))
def test_a_day_and_an_hour_agree_with_a_week_written_out(spans, weekday, hour):
    calendar = Calendar(tuple(spans))
    if not spans:
        assert calendar.runs_at(hour, weekday)
        return
    at = 24 * weekday + hour
    written = any(
        start + 24 * day + 24 * week <= at < (end if end >= start else end + 24) + 24 * day + 24 * week
        for day in range(7)
        for week in (-7, 0)
        for start, end in spans
    )
    assert calendar.runs_at(hour, weekday) == written


@pytest.mark.parametrize(
    ("period", "share", "minutes", "known"),
    [(12, 0.05, 4, 7.4 / 12), (12, 0.05, 12, 0.0), (60, 0.5, 10, 20 / 60), (30, 1.0, 1, 0.0)],
)
def test_what_comes_regularly_leaves_the_share_of_starts_counted_by_hand(period, share, minutes, known):
    assert undisturbed_share(Cycle(period, share), minutes) == pytest.approx(known)
    starts = np.linspace(0, period, 20_001)[:-1]  # it sounds from 0 on
    clear = (starts >= period * share) & (starts + minutes <= period)
    assert np.mean(clear) == pytest.approx(known, abs=2e-3)


def noted(minutes=4.0, wanted=50.0):
    extractor = NotedNoise("Extractor", Calendar(((3.5, 10.5),)), 40.0)
    tram = NotedNoise("Tram", Calendar(((5.0, 0.5),)), 45.0, Cycle(12, 0.05))
    return noted_chances([extractor, tram], performance_dba=80.0, house_dba=22.0, wanted_db=wanted, minutes=minutes)


def test_the_notes_make_the_day_that_one_would_write_down():
    chances = noted().hourly()
    assert np.all(chances.chance[:, 4:10] == 0)  # the extractor leaves 40 dB where 50 are wanted
    assert chances.chance[2, 1] == 1
    assert chances.chance[2, 14] == pytest.approx(7.4 / 12)
    assert chances.low[2, 14] == pytest.approx((9.6 - 0.48 - 4) / 9.6)
    assert chances.high[2, 14] >= (14.4 - 0.72 - 4) / 14.4 - 1e-9
    assert chances.under_db[2, 14] == pytest.approx(58.0)


def test_a_weekday_can_be_another_and_good_windows_keep_to_what_is_allowed():
    windows = good_windows(noted(), Calendar(((9.0, 22.0),), (DayHours(frozenset({6}), ()),)), minutes=4)
    assert windows
    assert all(w.from_h >= 10.5 and w.to_h <= 22.0 and w.weekday != 6 for w in windows)
    night = good_windows(noted(), Calendar(), minutes=4)[0]
    assert (night.from_h, night.to_h, night.chance) == (0.5, 3.5, 1.0)
    assert good_windows(noted(), Calendar(((4.0, 9.0),)), minutes=4) == ()


def test_a_share_has_the_interval_of_the_published_table():
    # L. Brown et al. (2001), table of Jeffreys' interval for n = 30, x = 3: 0.026 to 0.247
    low, high = jeffreys(3, 30)
    assert low == pytest.approx(0.0278, abs=0.003)
    assert high == pytest.approx(0.2450, abs=0.004)
    assert jeffreys(0, 12)[0] == 0
    assert jeffreys(12, 12)[1] == 1


def week(rng, rates_per_h, seconds, *, days=7, loud_s=20):
    """A log of whole days in which something passes at random, and its rate by hour of the day."""
    n = int(days * DAY)
    level = 25 + rng.normal(0, 0.7, n)
    hour = (np.arange(n) / 3600).astype(int) % 24
    for start in np.flatnonzero(rng.random(n) < rates_per_h[hour] / 3600):
        level[start : start + loud_s] = 45
    return SoundLog.of(MONDAY + np.arange(n, dtype=float), level)


def test_chances_of_simulated_weeks_lie_in_their_intervals():
    rng = np.random.default_rng(11)
    inside = []
    weeks = many(50, 12)
    for _ in range(weeks):
        rates = np.exp(rng.uniform(np.log(0.3), np.log(12), 24))
        minutes = float(rng.choice([2, 4, 8]))
        found = log_chances(week(rng, rates, minutes), minutes=minutes).hourly()
        for hour in range(1, 23):
            # a take is left in peace when nothing begins from 20 s before it until its end: Poisson. The truth mixes
            # into the next hour where the take runs over; hours are asked for at their own rate where they are alike
            spent = minutes / 60
            start = np.linspace(0, 1, 201)
            over = np.clip(start + spent - 1, 0, spent)
            before = np.clip(20 / 3600 - start, 0, 20 / 3600)
            mean = rates[hour] * (spent - over + 20 / 3600 - before) + rates[hour + 1] * over + rates[hour - 1] * before
            true = float(np.mean(np.exp(-mean)))
            inside.append(found.low[2, hour] <= true <= found.high[2, hour])
    assert np.mean(inside) > 0.93
    assert len(inside) == 22 * weeks


def test_two_nights_are_too_little_to_say():
    rng = np.random.default_rng(3)
    log = week(rng, np.full(24, 3.0), 4, days=2)
    assert np.all(np.isnan(log_chances(log, minutes=4).chance))
    assert np.all(np.isfinite(log_chances(week(rng, np.full(24, 3.0), 4, days=3), minutes=4).chance))


def test_a_log_speaks_before_the_notes_where_it_says_something():
    rng = np.random.default_rng(5)
    heard = log_chances(week(rng, np.full(24, 0.001), 4), minutes=4)
    joined = both(noted(), heard)
    assert joined.by_log.all()
    assert joined.chance.min() > 0.95
    with pytest.raises(InputError):
        both(None, None)


def test_gaps_stay_gaps_and_rows_are_put_in_order():
    t = MONDAY + np.concatenate([np.arange(600.0), np.arange(1200.0, 1800.0)])
    level = np.full(1200, 30.0)
    level[300] = 60
    shuffled = np.random.default_rng(1).permutation(1200)
    doubled = np.concatenate([shuffled, [300, 301]])
    log = SoundLog.of(t[doubled], level[doubled])
    assert log.repeated == 2
    assert log.unsorted > 100
    assert len(log.parts) == 2
    assert [(log.local_s[p.start], log.local_s[p.stop - 1]) for p in log.parts] == [
        (MONDAY, MONDAY + 599),
        (MONDAY + 1200, MONDAY + 1799),
    ]
    assert [(p.at_s, p.seconds) for p in log.passing()] == [(MONDAY + 300, 1.0)]
    starts = log.undisturbed_starts(400)
    assert len(starts.clear) == 2 * 201  # only takes that were heard whole
    assert np.count_nonzero(~starts.clear) == 201  # from second 0 to 200 each take meets the 300th; then 201 to 300


def test_clocks_put_back_make_an_hour_that_is_there_twice():
    # 25 October: 03:00 summer time becomes 02:00
    utc = 1_792_890_000.0 + np.arange(0, 3 * 3600, 10.0)
    offset = np.where(utc < utc[0] + 3600, 7200.0, 3600.0)
    log = SoundLog.of(utc, np.full(len(utc), 30.0), offset_s=offset)
    assert len(log.parts) == 1
    assert np.count_nonzero(np.diff(log.local_s) < 0) == 1


@pytest.mark.parametrize("rows", [([], []), ([1.0], [30.0]), ([5.0, 5.0], [30, 31]), ([1.0, np.nan], [30, 31])])
def test_a_log_of_nothing_is_refused(rows):
    with pytest.raises(InputError):
        SoundLog.of(np.array(rows[0], dtype=float), np.array(rows[1], dtype=float))
