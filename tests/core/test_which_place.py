"""Which place: the order follows what is lacking, reasons carry their figures, close calls are not decided by a
hair.
"""

from dataclasses import replace

import numpy as np
import pytest

from keenquiet.advice.places import recommendation, trait_words
from keenquiet.core.judge.forecast import Acoustics, Figure, deficits, forecast
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.judge.which_place import CLOSE_CALL, Candidate, character, ranked
from keenquiet.core.room.room import NoiseSource

from ..conftest import plain_box, standing

DRY = PURPOSES["dry-voice"]


@pytest.fixture(scope="module")
def result():
    clock = NoiseSource("Clock", np.full(8, 5.0), (1.0, 1.0, 1.0), kind="inside")
    room = replace(plain_box((3.6, 2.8, 2.4), alpha=0.2), noises=(clock,))
    return forecast(Acoustics(room), standing((1.0, 1.2, 1.5), (1.4, 1.4, 1.45), pattern="cardioid"), uncertainty=False)


def with_marks(result, *, bounce=None, ring=None, hush=None):
    made = result
    if bounce is not None:
        made = replace(made, bounce=replace(made.bounce, direct_over_room_db=Figure(bounce, 0.5)))
    if ring is not None:
        made = replace(made, boom=replace(made.boom, ring_s=Figure(ring, 0.05)))
    if hush is not None:
        made = replace(made, hush=replace(made.hush, under_performance_db=Figure(hush, 2.0)))
    return made


def fading(result, *, mid_s, treble_s):
    seconds = np.array([mid_s] * 6 + [treble_s] * 2)
    faded = dict.fromkeys(("sabine_s", "eyring_s", "arau_s", "middle_s"), seconds)
    return replace(result, decay=replace(result.decay, **faded))


def test_the_place_that_lacks_least_comes_first(result):
    better, worse = with_marks(result, bounce=16.0, hush=50.0), with_marks(result, bounce=4.0, hush=30.0)
    order = ranked([Candidate("w", "Kitchen", worse), Candidate("b", "Landing", better)], wanted=DRY)
    assert [v.key for v in order] == ["b", "w"]
    assert order[0].total == pytest.approx(sum(deficits(better, DRY).values()))
    assert recommendation(order, {"b": "Landing", "w": "Kitchen"}).startswith("Landing: mostly for its")
    assert order[0].would_change is None
    assert order[1].would_change


def test_the_mark_that_decides_is_named(result):
    quiet, loud = with_marks(result, hush=55.0), with_marks(result, hush=15.0)
    order = ranked([Candidate("q", "Attic", quiet), Candidate("l", "Shop", loud)], wanted=DRY)
    assert "mostly for its Hush" in recommendation(order, {"q": "Attic", "l": "Shop"})
    assert "better Hush" in trait_words(order[1].would_change)


def test_level_places_are_called_level(result):
    near = with_marks(result, bounce=result.bounce.direct_over_room_db.value - 0.5)
    order = ranked([Candidate("a", "One", result), Candidate("b", "Two", near)], wanted=DRY)
    assert abs(order[1].total - order[0].total) < CLOSE_CALL
    assert "level within what can be predicted" in recommendation(order, {"a": "One", "b": "Two"})


def test_a_noise_that_rests_can_turn_the_order(result):
    noisy, rested = with_marks(result, bounce=15.0, hush=20.0), with_marks(result, bounce=15.0, hush=55.0)
    steady = with_marks(result, bounce=12.0, hush=45.0)
    order = ranked([Candidate("n", "Bakery", noisy, rested), Candidate("s", "Cellar", steady)], wanted=DRY)
    assert order[0].key == "s"
    assert trait_words(order[1].would_change).startswith("It would win while")


def test_a_closet_is_told_by_its_numbers(result):
    closet = fading(result, mid_s=0.18, treble_s=0.09)
    words = " ".join(map(trait_words, character(with_marks(closet, ring=0.45))))
    assert "Dead: it fades in 0.18 s" in words
    assert "4 kHz fades in 50 % of the time of 500 Hz" in words
    assert "Boxy" in words
    assert "2.5 times as long" in words
    assert "Live: it takes 0.80 s" in " ".join(map(trait_words, character(fading(result, mid_s=0.8, treble_s=0.7))))


def test_none_and_one_are_answered_too(result):
    assert "No place yet" in recommendation([], {})
    assert "only place so far" in recommendation(ranked([Candidate("a", "One", result)], wanted=DRY), {"a": "One"})
