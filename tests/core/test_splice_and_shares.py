"""Cuts between room tones and house rounds: made sounds whose truth is known."""

import numpy as np
import pytest

from keenquiet.core.read.shares import difference_db, house_round
from keenquiet.core.read.tone import room_tone
from keenquiet.core.take.splice import splice

FS = 48_000


def hiss(seed, level=1e-3, seconds=12, tilt=0.0):
    rng = np.random.default_rng(seed)
    spectrum = np.fft.rfft(rng.standard_normal(seconds * FS))
    f_hz = np.maximum(np.fft.rfftfreq(seconds * FS, 1 / FS), 20)
    return level * np.fft.irfft(spectrum * (f_hz / 1000) ** tilt)


def read(samples):
    return room_tone(samples, FS)


def test_one_room_tone_cut_with_itself_is_not_heard():
    found = splice(read(hiss(1)), read(hiss(2)))
    assert not found.heard
    assert abs(found.broadband_db) < 0.5
    assert found.new_tones_hz == ()
    assert found.crossfade_ms < 200


@pytest.mark.parametrize("db", [-6.0, -2.5, 2.5, 6.0])
def test_a_step_of_level_is_heard_from_two_decibels(db):
    found = splice(read(hiss(1)), read(hiss(2) * 10 ** (db / 20)))
    assert found.heard
    assert found.broadband_db == pytest.approx(db, abs=0.4)
    assert found.crossfade_ms >= 200


def test_a_step_that_is_too_small_is_not():
    assert not splice(read(hiss(1)), read(hiss(2) * 10 ** (1.2 / 20))).heard


def test_one_band_that_grows_is_heard_and_named():
    quiet = hiss(1)
    spectrum = np.fft.rfft(hiss(2))
    f_hz = np.fft.rfftfreq(len(quiet), 1 / FS)
    spectrum[(f_hz > 1780) & (f_hz < 2240)] *= 10 ** (5 / 20)
    found = splice(read(quiet), read(np.fft.irfft(spectrum)))
    assert found.heard
    assert found.worst_hz == 2000
    assert found.worst_db == pytest.approx(5, abs=1)


def test_a_new_tone_is_heard_though_the_level_hardly_grows():
    t = np.arange(12 * FS) / FS
    whine = hiss(2) + 2.5e-4 * np.sin(2 * np.pi * 3150 * t)
    found = splice(read(hiss(1)), read(whine))
    assert found.heard
    assert any(abs(f - 3150) < 5 for f in found.new_tones_hz)
    assert splice(read(whine), read(hiss(1))).heard


def test_what_is_missing_is_what_was_added():
    # powers add: 60 and 54 make 60.97; taking 54 away leaves 60
    whole = 10 * np.log10(10**6 + 10**5.4)
    level, spread = difference_db(whole, 60.0)
    assert level == pytest.approx(54.0, abs=1e-9)
    assert spread == pytest.approx(0.2 * np.hypot(1, 0.8) / 0.2, rel=0.05)
    assert difference_db(60.0, 60.5) == (None, None)


@pytest.mark.parametrize(("below_db", "plus_minus"), [(6.0, 1.0), (10.0, 3.0)])
def test_how_sure_a_share_is(below_db, plus_minus):
    share = 10 ** (-below_db / 10)
    _, spread = difference_db(0.0, 10 * np.log10(1 - share))
    assert spread == pytest.approx(plus_minus, rel=0.15)


def test_a_round_finds_the_fridge_and_does_not_claim_the_charger():
    fridge, fan, house = hiss(1, 2e-3, tilt=-0.5), hiss(2, 1e-3, tilt=0.3), hiss(3, 4e-4)
    charger = hiss(4, 2e-5)
    every = fridge + fan + house + charger
    found = house_round(
        read(every),
        {
            "Fridge": read(fan + house + charger),
            "Fan": read(fridge + house + charger),
            "Charger": read(fridge + fan + house),
        },
        read(every + hiss(9, 1e-5)),
    )
    assert found.valid
    shares = {share.name: share for share in found.shares}
    for name, alone in (("Fridge", fridge), ("Fan", fan)):
        truth = read(alone).laeq_db
        assert shares[name].level_db == pytest.approx(truth, abs=2 * shares[name].plus_minus_db + 0.3)
    assert shares["Charger"].level_db is None
    assert found.shares[-1].name == "Charger"
    louder = house_round(read(every), {"Fan": read(fridge + house)}, read(every * 10 ** (1.5 / 20)))
    assert not louder.valid
    assert louder.again_db == pytest.approx(1.5, abs=0.1)
