"""Working part by part gives what working on the whole gives, by the libraries' own functions."""

import numpy as np
import pyloudnorm
import pytest
import scipy
from numpy.testing import assert_allclose

from keenquiet.core.read.parts import block_levels, power_density
from keenquiet.core.read.tone import a_weighted
from keenquiet.core.take.loudness import loudness_lufs

RATE = 8000


@pytest.fixture
def long(rng):
    """Five minutes: noise that swells, a hum, a knock across the border of two parts."""
    t = np.arange(300 * RATE + 137) / RATE
    sound = 0.02 * rng.standard_normal(len(t)) * (1.2 + np.sin(0.3 * t)) + 0.01 * np.sin(2 * np.pi * 50 * t)
    sound[60 * RATE - 400 : 60 * RATE + 300] += 0.3 * np.sin(2 * np.pi * 90 * t[:700])
    return sound


@pytest.mark.parametrize("average", ["mean", "median"])
@pytest.mark.parametrize("seconds", [0.5, 1.0, 3.3, 300])
def test_the_density_is_welchs(long, average, seconds):
    samples = long[: int(seconds * RATE)]
    segment = min(RATE, len(samples))
    f_hz, found = power_density(samples, RATE, segment=segment, average=average)
    known_hz, known = scipy.signal.welch(samples, RATE, nperseg=segment, detrend=False, average=average)
    assert_allclose(f_hz, known_hz)
    assert_allclose(found, known, rtol=1e-5, atol=1e-16)


def test_levels_of_blocks_are_those_of_the_whole(long):
    block = 1000
    whole = long[: len(long) // block * block]
    assert_allclose(block_levels(long, RATE, block), np.mean(whole.reshape(-1, block) ** 2, axis=1))
    sos = scipy.signal.butter(2, (25, 125), btype="bandpass", fs=RATE, output="sos")
    for change in (lambda part: a_weighted(part, RATE), lambda part: scipy.signal.sosfiltfilt(sos, part)):
        known = np.mean(change(long)[: len(whole)].reshape(-1, block) ** 2, axis=1)
        found = block_levels(long, RATE, block, after=change)
        assert np.max(np.abs(10 * np.log10(found / known))) < 0.02  # [dB]


@pytest.mark.parametrize("rate", [44_100, 48_000, 8000])
def test_loudness_is_that_of_the_library_that_keeps_to_the_recommendation(rng, rate):
    t = np.arange(70 * rate) / rate
    sung = 0.2 * np.sin(2 * np.pi * 220 * t) * (np.sin(0.5 * t) > 0.2) + 0.001 * rng.standard_normal(len(t))
    assert loudness_lufs([sung], rate) == pytest.approx(pyloudnorm.Meter(rate).integrated_loudness(sung), abs=0.01)
    tone = np.sin(2 * np.pi * 997 * t)  # the recommendation's own check: a full-scale sine of 997 Hz reads -3.01
    if rate > 40_000:  # the filters of the library are made for these rates
        assert loudness_lufs([tone], rate) == pytest.approx(-3.01, abs=0.05)
    assert loudness_lufs([np.zeros(rate)], rate) is None
