"""Cables, meter, open monitors, a second source, places off the middle line: by hand and by brute force."""

from dataclasses import replace

import numpy as np
import pytest
from scipy import signal

from keenquiet.core.judge.forecast import Acoustics
from keenquiet.core.judge.listening import best_listening, candidates, listening_place
from keenquiet.core.judge.reach import reach
from keenquiet.core.judge.second_source import in_the_hands, null_on_second, nulls_on_second
from keenquiet.core.judge.spots import place_map
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.room import Facing, Laptop, Microphone, NoiseSource, direction
from keenquiet.core.things.microphone import PATTERNS
from keenquiet.core.waves.howl import MARGIN_DB, howl, peaks_db, received_db
from keenquiet.core.waves.statistics import decay

from ..conftest import plain_box, standing

DEAD = plain_box(size=(8.0, 7.0, 5.0), alpha=0.99)
LIVE = plain_box(size=(3.6, 2.9, 2.4), alpha=0.1)


def _mid_s(room):
    return float(np.mean(decay(room).middle_s[3:5]))


def test_cables_run_along_the_floor_and_the_meter_is_seen_within_its_angle():
    laptop = Laptop((2.0, 1.0, 0.8), 180.0, mic_cable_m=3.0, phones_cable_m=1.2)
    # the performer at (1, 1, 1.5) looks along x; the microphone stands at (1.3, 1, 1.4)
    found = reach(LIVE, replace(standing((1.0, 1.0, 1.5), (1.3, 1.0, 1.4)), laptop=laptop), decay=decay(LIVE))
    assert found.mic_cable_m == pytest.approx(0.7 + 0.8 + 1.4)
    assert found.mic_short_m == 0.0
    assert found.phones_short_m == pytest.approx(np.hypot(1.0, 0.7) + 0.3 - 1.2)
    assert found.sight_deg == pytest.approx(np.degrees(np.arctan2(0.77, 1.0)), abs=0.01)
    assert not found.in_sight
    assert found.walk_m == pytest.approx(0.35)
    assert found.fan is None


def test_a_fan_beside_the_laptop_is_its_own_and_has_its_share_of_the_noise():
    fan = NoiseSource("Fan", np.array([20.0, 26, 32, 36, 36, 32, 26, 20]) + 20, (2.1, 1.0, 0.8), kind="inside")
    room = replace(LIVE, noises=(fan,))
    placed = replace(standing((1.0, 1.0, 1.5), (1.3, 1.0, 1.4)), laptop=Laptop((2.0, 1.0, 0.8), 180.0))
    found = reach(room, placed, decay=decay(room))
    assert found.fan == "Fan"
    assert found.fan_share > 0.95


def test_the_loop_gain_of_a_monitor_that_looks_at_an_open_microphone_is_its_distance():
    mic = Microphone((3.0, 3.0, 2.0), 0.0, 0.0, "omni")
    for away in (1.0, 2.0):
        looked_at = (Facing((3.0 + away, 3.0, 2.0), 180.0),)
        got = received_db(looked_at, mic, area_m2=np.full(8, 1e6))
        np.testing.assert_allclose(got, -20 * np.log10(away), atol=0.01)


def test_how_loud_open_monitors_may_be_by_hand():
    # nothing comes back from a dead room: the performer is 6 dB up at 50 cm, the monitor 1 m from the microphone
    placed = replace(
        standing((3.0, 3.0, 2.0), (3.5, 3.0, 2.0), source="omni", pattern="omni"),
        monitors=(Facing((3.5, 4.0, 2.0), 270.0),),
        chair=Facing((3.5, 2.0, 2.0), 90.0),
    )
    found = howl(DEAD, placed, decay=decay(DEAD))
    at_chair = 20 * np.log10(1 / 2.0)
    sum_of_octaves = 70 + 10 * np.log10(6)
    assert found.loudest_db == pytest.approx(
        sum_of_octaves + 20 * np.log10(2) + at_chair - MARGIN_DB - peaks_db(_mid_s(DEAD)), abs=0.4
    )
    assert found.live_db == pytest.approx(sum_of_octaves - 20 * np.log10(np.hypot(0.5, 1.0)), abs=0.4)
    # twice as far from the microphone the monitors may be twice as loud
    further = replace(placed, monitors=(Facing((3.5, 5.0, 2.0), 270.0),), chair=Facing((3.5, 3.0, 2.0), 90.0))
    assert howl(DEAD, further, decay=decay(DEAD)).loudest_db == pytest.approx(found.loudest_db + 6, abs=0.8)
    assert howl(DEAD, replace(placed, monitors=()), decay=decay(DEAD)) is None


@pytest.mark.parametrize("ring_s", [0.2, 0.4, 0.9])
def test_how_far_a_room_s_peaks_stand_over_its_mean(ring_s):
    # independent of the formula: noise that fades as a room's does, the highest peak of its spectrum
    t = np.arange(48_000) / 48_000
    f_hz = np.fft.rfftfreq(1 << 17, 1 / 48_000)
    inside = (f_hz > 125) & (f_hz < 4000)
    peaks = []
    for seed in range(24):
        faded = np.random.default_rng(seed).standard_normal(48_000) * 10 ** (-3 * t / ring_s)
        power = np.abs(np.fft.rfft(faded, 1 << 17)[inside]) ** 2
        peaks.append(10 * np.log10(power.max() / power.mean()))
    assert np.mean(peaks) == pytest.approx(peaks_db(ring_s), abs=0.5)


def test_a_null_on_the_second_source_is_the_best_of_all_aims():
    rng = np.random.default_rng(2)
    looks = [direction(turn, tilt) for turn in range(0, 360, 2) for tilt in range(-88, 89, 2)]
    axes = np.array(looks)
    for pattern in ("figure-8", "hypercardioid", "supercardioid"):
        a = PATTERNS[pattern]
        for _ in range(4):
            first, other = rng.uniform((1, 1, 0.8), (2.5, 2.0, 1.8), (2, 3))
            placed = standing(tuple(first), (1.8, 1.4, 1.3), pattern=pattern)
            found = null_on_second(LIVE, placed, tuple(other), decay=decay(LIVE))
            ways = [np.subtract(at, placed.microphone.at) for at in (first, other)]
            ways = [way / np.linalg.norm(way) for way in ways]
            heard = [np.abs(a + (1 - a) * axes @ way) for way in ways]
            best = heard[0][heard[1] < 0.03].max()
            axis = direction(found.aims_deg, found.tilt_deg)
            assert a + (1 - a) * axis @ ways[1] == pytest.approx(0.0, abs=1e-9)
            assert 10 ** (found.kept_db / 20) >= best - 0.04


def test_a_figure_8_keeps_a_mouth_at_right_angles_to_the_instrument_whole():
    # mouth and hands at right angles as seen from the microphone, both 50 cm away, nothing comes back
    placed = standing((3.0, 3.0, 2.0), (3.5, 3.0, 2.0), pattern="figure-8")
    found = null_on_second(DEAD, placed, (3.5, 3.0, 1.5), decay=decay(DEAD))
    assert found.between_deg == pytest.approx(90.0)
    assert found.kept_db == pytest.approx(0.0, abs=1e-6)
    assert 15 < found.apart_db <= 25.1
    listed = nulls_on_second(DEAD, placed, (3.5, 3.0, 1.5), decay=decay(DEAD))
    assert max(listed, key=lambda one: one.kept_db).pattern == "figure-8"
    assert [one.apart_db for one in listed] == sorted((one.apart_db for one in listed), reverse=True)
    assert {one.pattern for one in listed} == {"cardioid", "supercardioid", "hypercardioid", "figure-8"}
    in_line = (2.0, 3.0, 2.0)
    assert null_on_second(DEAD, placed, in_line, decay=decay(DEAD)) is None
    assert in_the_hands(placed, sings=True)[2] < placed.performer.at[2] < in_the_hands(placed, sings=False)[2]


def test_spots_out_of_the_cable_s_reach_are_left_out_and_a_hopeless_cable_is_told():
    acoustics = Acoustics(LIVE)
    bare = standing((1.0, 1.0, 1.5), (1.3, 1.0, 1.4))
    wired = replace(bare, laptop=Laptop((0.5, 0.5, 0.8), 0.0, mic_cable_m=3.6))
    found = place_map(acoustics, wired, PURPOSES["dry-voice"], step_m=0.3)
    everywhere = place_map(acoustics, bare, PURPOSES["dry-voice"], step_m=0.3)
    assert found.wired
    assert 0 < np.isfinite(found.value).sum() < np.isfinite(everywhere.value).sum()
    for spot in found.best:
        x, y, z = spot.arrangement.microphone.at
        assert np.hypot(x - 0.5, y - 0.5) + 0.8 + z <= 3.6 + 1e-9
    short = replace(bare, laptop=Laptop((0.5, 0.5, 0.8), 0.0, mic_cable_m=1.0))
    told = place_map(acoustics, short, PURPOSES["dry-voice"], step_m=0.3)
    assert not told.wired
    np.testing.assert_array_equal(told.value, everywhere.value)


def test_a_free_search_is_never_worse_than_the_middle_line_and_close_to_every_spot_there_is():
    acoustics = Acoustics(LIVE)
    line, free = best_listening(acoustics), best_listening(acoustics, free=True)
    assert free[0].objective_db <= line[0].objective_db + 1e-9
    # against 150 spots drawn anywhere along the best wall
    rng = np.random.default_rng(4)
    drawn = np.column_stack([rng.uniform(0.2, 1, 400), rng.uniform(0.8, 2, 400), rng.uniform(-0.7, 0.7, 400)])
    sources, ears, _ = candidates(LIVE, free[0].wall, 1.2, drawn)
    bare = standing((1, 1, 1), (2, 2, 1))
    others = []
    for i in range(min(len(ears), 150)):
        ahead = [np.degrees(np.arctan2(*(ears[i] - at)[1::-1])) for at in sources[i]]
        monitors = tuple(Facing(tuple(at), turn) for at, turn in zip(sources[i], ahead, strict=True))
        placed = replace(bare, monitors=monitors, chair=Facing(tuple(ears[i]), 0.0))
        others.append(listening_place(acoustics, placed).objective_db)
    assert free[0].objective_db <= min(others) + 0.2


def test_signal_is_used_for_what_a_loop_does():
    # a loop through a room rings up at once above unity and dies below: the margin's meaning, by simulation
    rng = np.random.default_rng(7)
    n = 4800
    room = rng.standard_normal(n) * 10 ** (-3 * np.arange(n) / 12_000)
    room[:120] = 0  # the way from the monitor
    peak = np.abs(np.fft.rfft(room, 1 << 16)).max()
    for gain_db, grows in ((-1.0, False), (3.0, True)):
        loop = room / peak * 10 ** (gain_db / 20)
        out = signal.lfilter([1.0], np.concatenate([[1.0], -loop[1:]]), np.eye(1, 96_000)[0])
        early, late = np.abs(out[:9600]).max(), np.abs(out[-9600:]).max()
        assert (late > early) == grows
