"""What goes wrong while a sweep runs is found where it was put, and a steady recording draws no remark."""

import numpy as np
import pytest
from scipy import ndimage

from keenquiet.advice.reasons import error_words, reason_words
from keenquiet.core.errors import MeasurementError
from keenquiet.core.figures import read_impulse, read_sweep, read_take, read_tone
from keenquiet.core.read.sweep import deconvolve

from .test_read_response import RATE as RATE_HZ
from .test_read_response import _recorded

RATE = int(RATE_HZ)


@pytest.fixture
def clean(rng):
    return _recorded(rng)[0]


def codes(figures):
    return [reason.code for reason in figures.verdict.reasons]


@pytest.mark.parametrize("seed", range(6))
def test_a_steady_recording_draws_no_remark(seed):
    recording, _ = _recorded(np.random.default_rng(seed), ppm=(-60, 0, 60)[seed % 3], noise_db=(-75, -55)[seed % 2])
    found = deconvolve(recording, RATE).steady
    assert (found.bursts_s, found.lost_ms, found.gain, found.moved) == ((), None, None, False)
    assert found.moved_ms < 0.03


@pytest.mark.parametrize("at_s", [3.0, 4.7, 6.2])
def test_a_slam_is_found_when_it_happened(clean, rng, at_s):
    t = np.arange(len(clean)) / RATE - at_s
    slam = 0.05 * np.where(t > 0, np.exp(-np.maximum(t, 0) / 0.05) * np.sin(2 * np.pi * 90 * t), 0.0)
    slam += 0.02 * np.where(t > 0, np.exp(-np.maximum(t, 0) / 0.02), 0.0) * rng.standard_normal(len(t))
    found = deconvolve(clean + slam, RATE).steady
    assert found.bursts_s == pytest.approx([at_s], abs=0.2)
    figures = read_sweep((clean + slam)[None], RATE)
    assert codes(figures) == ["disturbed"]
    assert figures.verdict.usable
    assert f"{found.bursts_s[0]:.1f} s" in reason_words(figures.verdict.reasons[0])[0]


@pytest.mark.parametrize("lost_ms", [12, 35, 90])
def test_a_lost_moment_has_its_length_and_spoils_the_reading(clean, lost_ms):
    cut = int(4.8 * RATE)
    holed = np.delete(clean, np.s_[cut : cut + int(lost_ms / 1000 * RATE)])
    assert deconvolve(holed, RATE).steady.lost_ms == pytest.approx(lost_ms, abs=1.5)
    figures = read_sweep(holed[None], RATE)
    assert codes(figures)[0] == "incomplete"
    assert not figures.verdict.usable


@pytest.mark.parametrize("sway_m", [0.10, 0.25])
def test_a_swaying_microphone_is_noticed_by_the_marks(rng, sway_m):
    here, there = (_recorded(rng, seed=seed)[0] for seed in (1, 2))  # high up the tail of another place is another one
    t = np.arange(len(here)) / RATE
    part = (1 - np.cos(2 * np.pi * t / 2.6)) / 2
    late = sway_m / 343.2 * part
    mixed = (1 - part) * here + part * there
    moved = ndimage.map_coordinates(mixed, [np.arange(len(here)) - late * RATE], order=3, mode="nearest")
    assert deconvolve(moved, RATE).steady.moved
    assert codes(read_sweep(moved[None], RATE)) == ["disturbed"]


def test_automatic_gain_is_told_from_a_room_that_only_grew_quieter_at_once(clean, rng):
    hiss = 10 ** (-62 / 20) * rng.standard_normal(len(clean))
    t = np.arange(len(clean)) / RATE
    # held at -20 dB while the sweep plays, back within a second after it
    gain_db = np.interp(t, [0, 1.2, 1.4, 7.5, 8.8], [0, 0, -20, -20, 0])
    figures = read_sweep(((clean + hiss) * 10 ** (gain_db / 20))[None], RATE)
    assert "gated" in codes(figures)
    assert not figures.verdict.usable
    # somebody rustles for a moment before the sweep and steps back: no automatic gain
    rustle = np.where((t > 0.1) & (t < 0.35), 0.02, 0.0) * rng.standard_normal(len(t))
    assert "gated" not in codes(read_sweep((clean + hiss + rustle)[None], RATE))


def test_a_gate_that_leaves_a_little_is_noise_suppression(clean, rng):
    hiss = 10 ** (-50 / 20) * rng.standard_normal(len(clean))
    t = np.arange(len(clean)) / RATE
    gate = np.where((t > 1.3) & (t < 7.8), 1.0, 0.03)
    assert "gated" in codes(read_sweep(((clean + hiss) * gate)[None], RATE))


def test_a_sweep_at_a_wrong_rate_is_named_with_the_right_one(rng):
    recording, _ = _recorded(rng, rate=44_100.0)
    with pytest.raises(MeasurementError) as refused:
        read_sweep(recording[None], 48_000.0)
    assert refused.value.code == "no_sweep"
    assert "was recorded at 44100 Hz" in error_words(refused.value)[0]


def test_a_refused_reading_still_tells_what_was_noticed(rng):
    noise = np.clip(rng.standard_normal((1, 3 * RATE)), -1, 1)
    with pytest.raises(MeasurementError) as refused:
        read_sweep(noise, RATE)
    assert "clipped" in refused.value.noticed


def test_a_clap_through_automatic_gain_is_not_believed(rng):
    n, at = 3 * RATE, RATE
    t = (np.arange(n) - at) / RATE
    clap = np.where(t >= 0, np.exp(-6.9 * np.maximum(t, 0) / 0.35), 0.0) * rng.standard_normal(n) * 0.15
    hiss = 10 ** (-72 / 20) * rng.standard_normal(n)
    assert codes(read_impulse((clap + hiss)[None], RATE)) == []
    ducked = (clap + 8 * hiss) * 10 ** (np.interp(t, [-1, 0, 0.01, 0.9, 2.0], [0, 0, -22, -18, 0]) / 20)
    assert "gated" in codes(read_impulse(ducked[None], RATE))


def test_speech_is_no_silence_and_a_silence_is_no_speech(rng):
    t = np.arange(8 * RATE) / RATE
    quiet = 1e-3 * rng.standard_normal(len(t))
    phrases = quiet + np.where(np.mod(t, 2.0) < 1.2, 0.1, 0.0) * np.sin(2 * np.pi * 180 * t)
    with pytest.raises(MeasurementError, match="no_silence"):
        read_tone(phrases[None], RATE)
    with pytest.raises(MeasurementError, match="no_voice"):
        read_take(quiet[None], RATE, spoken=True)
    assert read_take(phrases[None], RATE, spoken=True).verdict.usable
