"""A hummed glide: pitch against what was synthesised, swells against filters of known gain, nothing invented where
there is none.
"""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import signal

from keenquiet.advice.reasons import error_words
from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.glide import glide_figures, read_track

RATE = 48_000


def hum(seconds=14.0, low=80.0, high=320.0, noise=1e-4, seed=2):
    """Up and down, harmonics falling by 6 dB an octave, a level that wanders over an octave as voices do."""
    rng = np.random.default_rng(seed)
    t = np.arange(int(seconds * RATE)) / RATE
    octave = np.log2(high / low) * (1 - np.abs(2 * t / seconds - 1))
    pitch = low * 2**octave
    phase = 2 * np.pi * np.cumsum(pitch) / RATE
    wave = sum(np.cos(k * phase + rng.uniform(0, 6)) / k for k in range(1, 12))
    level = 10 ** ((2.5 * np.sin(2 * np.pi * octave / 2.2)) / 20)
    return 0.05 * wave * level + noise * rng.standard_normal(len(t)), pitch


def peaked(samples, *, f_hz, gain_db, q):
    """A resonance of known gain at f_hz: the audio cookbook's peaking filter (R. Bristow-Johnson), gain at f_hz exactly
    as named.
    """
    a, w = 10 ** (gain_db / 40), 2 * np.pi * f_hz / RATE
    alpha = np.sin(w) / (2 * q)
    b = [1 + alpha * a, -2 * np.cos(w), 1 - alpha * a]
    return signal.lfilter(b, [1 + alpha / a, -2 * np.cos(w), 1 - alpha / a], samples)


def test_the_pitch_is_what_was_hummed():
    samples, pitch = hum()
    time, found, _ = read_track(samples, RATE)
    heard = np.isfinite(found)
    assert heard.mean() > 0.95
    true = pitch[np.clip((time * RATE).astype(int), 0, len(pitch) - 1)]
    assert_allclose(np.median(np.abs(found[heard] / true[heard] - 1)), 0, atol=0.003)
    assert np.mean(np.abs(np.log2(found[heard] / true[heard])) < 0.02) > 0.98  # no octave is mistaken


@pytest.mark.parametrize(("f_hz", "gain_db", "q"), [(103.0, 8.0, 12.0), (147.0, 6.0, 10.0), (212.0, 10.0, 18.0)])
def test_a_resonance_of_known_gain_is_found_where_it_is(f_hz, gain_db, q):
    samples, _ = hum()
    found = glide_figures(peaked(samples, f_hz=f_hz, gain_db=gain_db, q=q), RATE)
    assert len(found.swells) == 1
    assert found.swells[0].f_hz == pytest.approx(f_hz, rel=0.02)
    # passed at two octaves in 7 s it does not build up wholly: the sharper, the less
    assert gain_db - 0.2 * q < found.swells[0].rise_db < gain_db + 0.5


def test_two_are_told_apart_and_the_stronger_comes_first():
    samples, _ = hum()
    both = peaked(peaked(samples, f_hz=98.0, gain_db=5.0, q=14.0), f_hz=176.0, gain_db=9.0, q=14.0)
    found = glide_figures(both, RATE).swells
    assert [s.f_hz for s in found] == pytest.approx([176.0, 98.0], rel=0.02)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_no_swell_is_invented_in_free_air(seed):
    samples, _ = hum(seed=seed, noise=3e-4)
    assert glide_figures(samples, RATE).swells == ()


def test_harmonics_on_a_resonance_are_no_swell_of_the_note_itself():
    """At 103 Hz the second harmonic meets a resonance at 206 Hz: the fundamental alone is what swells, at 206 Hz."""
    samples, _ = hum()
    found = glide_figures(peaked(samples, f_hz=206.0, gain_db=9.0, q=15.0), RATE).swells
    assert [s.f_hz for s in found] == pytest.approx([206.0], rel=0.02)


def test_other_rates_read_the_same():
    samples, _ = hum()
    rough = signal.resample_poly(peaked(samples, f_hz=147.0, gain_db=8.0, q=10.0), 441, 480)
    found = glide_figures(rough, 44_100).swells
    assert [s.f_hz for s in found] == pytest.approx([147.0], rel=0.02)


def test_what_is_no_glide_is_refused_with_a_cure():
    rng = np.random.default_rng(1)
    t = np.arange(6 * RATE) / RATE
    for samples, code in (
        (0.05 * rng.standard_normal(6 * RATE), "not_a_recording"),
        (0.1 * np.sin(2 * np.pi * 110 * t), "incomplete"),
        (np.zeros(100), "not_a_recording"),
    ):
        with pytest.raises(MeasurementError) as refused:
            glide_figures(samples, RATE)
        assert refused.value.code == code
        assert error_words(refused.value)[1]
