"""What a listener hears: thresholds by staircases, the comb of a sound heard twice, what comes back from the phones."""

import numpy as np
import pytest
import scipy

from keenquiet.core.read.tone import a_weighted
from keenquiet.core.take.latency import comb_db, latency_of, notches_of
from keenquiet.core.take.threshold import SCALES, changed, staircase
from keenquiet.core.waves.comb import ripple_db

RATE = 48_000


def answered_by(rng, scale, chance_right):
    """Answers of a listener who is right with a known chance at each change, until it is over."""
    answers: list[bool] = []
    while (step := staircase(answers, scale)).next_db is not None:
        answers.append(bool(rng.random() < chance_right(step.next_db)))
    return step


@pytest.mark.parametrize(
    ("what", "middle", "width"), [("noise", -48.0, 2.0), ("louder", 1.5, 0.4), ("brighter", 3.0, 1.0)]
)
def test_a_staircase_settles_where_a_listener_is_right_seven_times_of_ten(what, middle, width):
    scale = SCALES[what]
    rng = np.random.default_rng(5)

    def chance(db):
        return 0.5 + 0.5 / (1 + np.exp(-(db - middle) / width))

    found = [answered_by(rng, scale, chance).threshold_db for _ in range(60)]
    told = [db for db in found if db is not None]
    assert len(told) > 55
    # by the listener's own curve: 0.707 = 0.5 + 0.5 / (1 + exp(-x))
    wanted = middle + width * np.log(0.414 / 0.586)
    assert np.median(told) == pytest.approx(wanted, abs=1.5 if what == "noise" else 0.35 * wanted)


def test_who_only_guesses_has_no_threshold_and_who_hears_all_is_at_the_bottom():
    rng = np.random.default_rng(1)
    guessed = [answered_by(rng, SCALES["louder"], lambda db: 0.5) for _ in range(80)]
    # by luck some climb down a little before they stumble
    assert np.mean([step.threshold_db is None or step.threshold_db > 1.0 for step in guessed]) > 0.85
    sharp = answered_by(rng, SCALES["louder"], lambda db: 1.0)
    assert sharp.threshold_db == SCALES["louder"].least  # as small as can be asked
    assert sharp.answered < 30
    assert staircase([False] * 3, SCALES["noise"]).next_db is None


def test_a_sound_is_changed_by_what_was_asked():
    rng = np.random.default_rng(2)
    sound = rng.standard_normal(2 * RATE)
    assert np.std(changed(sound, RATE, "louder", 2.0, seed=0)) / np.std(sound) == pytest.approx(10**0.1, rel=1e-6)
    f_hz, plain = scipy.signal.welch(sound, RATE, nperseg=4096)
    _, brighter = scipy.signal.welch(changed(sound, RATE, "brighter", 6.0, seed=0), RATE, nperseg=4096)
    rise = 10 * np.log10(brighter / plain)
    assert np.mean(rise[(f_hz > 100) & (f_hz < 2500)]) == pytest.approx(0.0, abs=0.1)
    assert np.mean(rise[f_hz > 6500]) == pytest.approx(6.0, abs=0.1)
    # against what sounds, A-weighted: by another road to the weighting, and a pause of a second changes nothing
    paused = np.concatenate([sound, np.zeros(RATE)])
    noise = changed(paused, RATE, "noise", -30.0, seed=0) - paused
    apart = a_weighted(noise, RATE).std() / a_weighted(sound, RATE).std()
    assert 20 * np.log10(apart) == pytest.approx(-30.0, abs=0.3)


def test_two_ways_at_once_are_a_comb_with_its_notches_at_odd_halves():
    f_hz, level = comb_db(5.0, 0.0)
    assert level.max() == pytest.approx(6.02, abs=0.05)
    for notch in notches_of(5.0):
        assert level[np.argmin(np.abs(f_hz - notch))] < -12
    assert notches_of(5.0)[0] == pytest.approx(100.0)
    _, half = comb_db(5.0, -6.02)
    assert half.max() - half.min() == pytest.approx(ripple_db(10 ** (-6.02 / 20)), abs=0.2)
    assert ripple_db(10 ** (-6.02 / 20)) == pytest.approx(20 * np.log10(1.5 / 0.5), abs=0.01)
    turned_f_hz, turned = comb_db(5.0, 0.0, turned=True)
    for notch in notches_of(5.0, turned=True):  # upside down it is lost where it was added
        assert turned[np.argmin(np.abs(turned_f_hz - notch))] < -12
    assert notches_of(5.0, turned=True)[0] == pytest.approx(200.0)


@pytest.mark.parametrize(("late", "gain_db", "sign"), [(96, -6.0, 1.0), (1000, -20.0, -1.0), (5, 3.0, 1.0)])
def test_what_comes_back_is_as_late_and_as_loud_as_it_was_made(late, gain_db, sign):
    rng = np.random.default_rng(3)
    sound = scipy.signal.lfilter([1], [1, -0.9], rng.standard_normal(3 * RATE)) * 0.05
    back = np.concatenate([np.zeros(late), sound]) * sign * 10 ** (gain_db / 20)
    found = latency_of(sound, back + 1e-4 * rng.standard_normal(len(back)), RATE)
    assert found.latency_ms == pytest.approx(1000 * late / RATE, abs=0.02)
    assert found.gain_db == pytest.approx(gain_db, abs=0.1)
    assert found.turned == (sign < 0)
