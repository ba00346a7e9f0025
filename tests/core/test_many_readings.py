"""Averages, decay surface, noises in words, pops, the same words twice, curves: each against what was put in."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import signal

from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.read.average import averaged
from keenquiet.core.read.curve import read_curve
from keenquiet.core.read.decay_surface import decay_surface
from keenquiet.core.read.noises import noises_in
from keenquiet.core.read.tone import room_tone
from keenquiet.core.take.moments import moments_of
from keenquiet.core.take.pops import find_pops
from keenquiet.core.take.same_words import same_words

RATE = 48_000


def response(rng, delay):
    x = np.zeros(RATE)
    x[: RATE // 2] = rng.standard_normal(RATE // 2) * np.exp(-6.9 * np.arange(RATE // 2) / RATE / 0.4) * 0.05
    x[0], x[200] = 1.0, 0.4
    band = signal.sosfilt(signal.butter(2, [100, 12_000], btype="bandpass", fs=RATE, output="sos"), x)
    n = 1 << 17
    spectrum = np.fft.rfft(np.pad(band, (500, 0)), n) * np.exp(-2j * np.pi * np.fft.rfftfreq(n) * delay)
    return np.fft.irfft(spectrum, n)[: len(x) + 500]


def test_four_repeats_leave_a_quarter_of_the_noise_power():
    clean = response(np.random.default_rng(1), 0.0)
    rng = np.random.default_rng(2)
    repeats = [
        response(np.random.default_rng(1), shift) + 3e-3 * rng.standard_normal(len(clean))
        for shift in (0.0, 11.3, 40.7, 3.5)
    ]
    mean = averaged(repeats, RATE)
    lead = round(0.05 * RATE)
    tail = slice(lead + int(0.7 * RATE), lead + int(0.95 * RATE))  # the response is over: what is left is noise
    assert 20 * np.log10(np.std(mean.impulse[tail]) / 3e-3) == pytest.approx(-6.02, abs=0.4)
    assert mean.likeness > 0.98
    # in step to a fraction of a sample: the top octave is not lost
    first = averaged(repeats[:1] * 2, RATE).impulse
    top = [np.sum(np.abs(np.fft.rfft(x[lead - 50 : lead + 400], 8192))[1500:2000] ** 2) for x in (mean.impulse, first)]
    assert 10 * np.log10(top[0] / top[1]) == pytest.approx(0.0, abs=0.3)


def test_repeats_that_are_none_are_refused():
    with pytest.raises(MeasurementError) as refused:
        averaged([response(np.random.default_rng(1), 0.0), np.random.default_rng(9).standard_normal(RATE)], RATE)
    assert refused.value.code == "disturbed"


def test_a_ridge_of_the_decay_surface_falls_as_its_note_does():
    t = np.arange(int(1.4 * RATE)) / RATE
    x = np.exp(-6.9078 / 0.9 * t) * np.sin(2 * np.pi * 80 * t) + 0.8 * np.exp(-6.9078 / 0.3 * t) * np.sin(
        2 * np.pi * 160 * t
    )
    x[0] = 3.0
    found = decay_surface(x, RATE)
    slow, fast = (int(np.argmin(np.abs(found.f_hz - f))) for f in (80, 160))
    k = int(np.argmin(np.abs(found.time_s - 0.3)))
    # 60 dB in 0.9 s: 20 dB in 0.3 s; the other has lost 60 dB
    assert found.level_db[0, slow] - found.level_db[k, slow] == pytest.approx(20, abs=2.0)
    assert found.level_db[0, fast] - found.level_db[k, fast] > 30
    assert found.level_db.max() == 0


def test_a_silence_is_told_in_families(rng):
    t = np.arange(20 * RATE) / RATE
    hum = sum(a * np.sin(2 * np.pi * 50 * k * t) for k, a in ((1, 3e-3), (3, 2e-3), (5, 1e-3)))
    fan = sum(a * np.sin(2 * np.pi * 81 * k * t) for k, a in ((1, 2e-3), (2, 1e-3), (3, 6e-4)))
    whine = 8e-4 * np.sin(2 * np.pi * 7210 * t)
    noise = signal.sosfilt(signal.butter(1, 300, fs=RATE, output="sos"), rng.standard_normal(len(t))) * 1e-3
    found = {n.kind: n for n in noises_in(room_tone(hum + fan + whine + noise, RATE))}
    assert set(found) == {"hum", "fan", "whine"}
    assert (found["hum"].f_hz, found["hum"].harmonics) == (50.0, (1, 3, 5))
    assert found["fan"].f_hz == pytest.approx(81, abs=0.5)
    assert found["fan"].harmonics == (1, 2, 3)
    assert found["whine"].f_hz == pytest.approx(7210, abs=1)
    power = 10 * np.log10(sum(a**2 / 2 for a in (3e-3, 2e-3, 1e-3)))
    assert found["hum"].level_db == pytest.approx(power, abs=1)


def test_rumble_and_hiss_are_told_and_an_even_rush_is_not(rng):
    white = 1e-3 * rng.standard_normal(12 * RATE)
    pink = signal.sosfilt(signal.butter(1, 60, fs=RATE, output="sos"), rng.standard_normal(12 * RATE))
    room = signal.sosfilt(signal.butter(1, 250, fs=RATE, output="sos"), rng.standard_normal(12 * RATE)) * 1e-2
    deep = signal.sosfilt(signal.butter(4, [28, 60], btype="bandpass", fs=RATE, output="sos"), pink)
    assert [n.kind for n in noises_in(room_tone(white, RATE))] == ["hiss"]
    assert [n.kind for n in noises_in(room_tone(room, RATE))] == []
    assert "rumble" in [n.kind for n in noises_in(room_tone(room * 0.03 + deep, RATE))]


def test_a_knock_and_a_lorry_are_events_each_of_its_kind(rng):
    t = np.arange(12 * RATE) / RATE
    noise = 1e-3 * rng.standard_normal(len(t))
    knock = np.where((t > 3) & (t < 3.08), 0.05, 0) * np.sin(2 * np.pi * 600 * t)
    lorry = 0.02 * np.exp(-(((t - 8) / 0.7) ** 2)) * np.sin(2 * np.pi * 45 * t)
    events = room_tone(noise + knock + lorry, RATE).events
    assert [e.kind for e in events] == ["knock", "rumble"]
    assert events[0].start_s == pytest.approx(3.0, abs=0.2)
    assert events[1].start_s < 8 < events[1].end_s


def voice(rng, seconds=12.0):
    t = np.arange(int(seconds * RATE)) / RATE
    sung = sum(np.sin(2 * np.pi * 190 * k * t + k) / k for k in range(1, 12)) * (np.mod(t, 2.0) < 1.4)
    return t, 0.05 * sung + 1e-4 * rng.standard_normal(len(t))


def test_puffs_are_found_when_they_came_and_low_notes_are_none(rng):
    t, x = voice(rng)
    at = (1.0, 4.3, 9.1)
    puffs = sum(
        0.2 * np.where((t > s) & (t < s + 0.06), np.sin(np.pi * (t - s) / 0.06) * np.sin(2 * np.pi * 45 * (t - s)), 0)
        for s in at
    )
    found = find_pops(x + puffs, RATE, moments_of(x + puffs, RATE))
    assert_allclose([p.start_s for p in found], at, atol=0.05)
    assert min(p.jump_db for p in found) > 12
    assert find_pops(x, RATE, moments_of(x, RATE)) == ()
    low = 0.1 * np.sin(2 * np.pi * 98 * t) * (np.mod(t, 3.0) < 1.5)  # a low G held for a second and a half is no puff
    assert find_pops(x + low, RATE, moments_of(x + low, RATE)) == ()


def test_the_same_words_louder_and_brighter_differ_by_just_that(rng):
    _, x = voice(rng)
    second = 0.5 * signal.sosfilt([[1, 0, 0, 1, 0, 0]], x)
    found = same_words(x, RATE, second, RATE)
    assert found.gain_db == pytest.approx(6.02, abs=0.05)
    assert_allclose(found.difference_db[found.centres_hz >= 160], 0.0, atol=0.05)
    bright = signal.sosfilt(signal.butter(1, 1000, btype="highpass", fs=RATE, output="sos"), x) * 2 + x
    differs = same_words(x, RATE, bright, RATE)
    by = dict(zip(differs.centres_hz, differs.difference_db, strict=True))
    assert by[2000.0] - by[200.0] > 4
    assert same_words(bright, RATE, x, RATE).gain_db == pytest.approx(-differs.gain_db, abs=0.01)


@pytest.mark.parametrize(
    "text",
    [
        "Hz,dB\n20,-3.5\n40,0\n80,2.25\n160,1\n",
        "20;-3,5\n40;0\n80;2,25\n160;1",
        "\ufeffFrequency\tSPL\n160\t1\n20\t-3.5\n40\t0\n80\t2.25\n",
        "* made elsewhere\n20 -3.5 180\n40 0 170\n80 2.25 160\n160 1 150",
    ],
)
def test_curves_are_read_however_their_columns_are_parted(text):
    f_hz, level = read_curve(text)
    assert_allclose(f_hz, [20, 40, 80, 160])
    assert_allclose(level, [-3.5, 0, 2.25, 1])


@pytest.mark.parametrize("text", ["", "nothing here", "1,2\n3,4", "0,1\n10,1\n20,1\n30,1", "1,nan\n2,1\n3,1\n4,1"])
def test_what_is_no_curve_is_refused(text):
    with pytest.raises(InputError):
        read_curve(text)
