"""What lies under a take against a silence of the same room at the same gain, by noises of known size."""

import numpy as np
import pytest
import scipy

from keenquiet.advice.takes import underneath_words
from keenquiet.core.figures import read_take
from keenquiet.core.read.tone import room_tone
from keenquiet.core.take.underneath import Underneath, underneath
from tests.core.made_otherwise import RATE, made


def held(noise_of, silence_of, seed=3):
    """A spoken take over one noise against a silence that holds another. Each : (rng, n) -> (n,)."""
    take = made(seed)
    n = len(take.direct)
    samples = take.direct + 0.2 * take.room + noise_of(np.random.default_rng(1), n)
    tone = room_tone(silence_of(np.random.default_rng(2), 10 * RATE), float(RATE))
    return underneath(read_take(samples[None], RATE, bits=24).levels, tone)


def hiss(rng, n):
    return 1e-3 * rng.standard_normal(n)


def with_fan(rng, n):
    """A band of the third octave round 500 Hz, 10 dB over what the hiss has there."""
    low, high = 500 / 2 ** (1 / 6), 500 * 2 ** (1 / 6)
    sos = scipy.signal.butter(6, (low, high), "bandpass", fs=RATE, output="sos")
    return hiss(rng, n) + np.sqrt(10 - 1) * scipy.signal.sosfilt(sos, hiss(rng, n))


def with_hum(rng, n):
    return hiss(rng, n) + 2e-3 * np.sin(2 * np.pi * 100 * np.arange(n) / RATE)


@pytest.mark.parametrize("seed", [3, 4, 5])
def test_the_same_noise_under_both_is_told_as_the_same(seed):
    found = held(hiss, hiss, seed)
    assert abs(found.more_db) < 1.0
    assert not found.told


def test_what_was_on_during_the_take_is_told_by_pitch_and_size():
    found = held(with_fan, hiss)
    assert found.worst_hz == 500
    assert found.worst_db == pytest.approx(10.0, abs=1.0)
    assert found.told
    back = held(hiss, with_fan)
    assert back.worst_hz == 500
    assert back.worst_db == pytest.approx(-10.0, abs=1.0)


def test_a_hum_that_the_silence_has_as_well_is_not_new():
    assert held(with_hum, hiss).new_hz == pytest.approx((100.0,), abs=1.0)
    assert held(with_hum, with_hum).new_hz == ()


def test_a_take_without_pauses_says_nothing_of_what_lies_under_it():
    t = np.arange(8 * RATE) / RATE
    drone = 0.1 * np.sin(2 * np.pi * 220 * t) + hiss(np.random.default_rng(1), len(t))
    assert (
        underneath(read_take(drone[None], RATE).levels, room_tone(hiss(np.random.default_rng(2), len(t)), RATE)) is None
    )


def test_what_is_missing_at_one_pitch_is_not_told_as_something_that_was_on():
    said = underneath_words(Underneath(more_db=0.4, worst_hz=500.0, worst_db=-7.0, new_hz=()))
    assert said.startswith("It differs at 500 Hz")
    assert "was off that was on then" in said
    assert "was on that was off then" in underneath_words(Underneath(3.0, 125.0, 6.0, ()))
