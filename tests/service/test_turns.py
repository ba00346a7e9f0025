"""Recordings wait in the order they came, are told how long the row is, and none keeps another lane waiting."""

import threading

import pytest

from keenquiet.service import turns
from keenquiet.service.jobs import TooMany
from keenquiet.service.turns import Lane, before

from .test_jobs import until


def waiting(lane, name, order, gate):
    def work():
        with lane.turn(name):
            order.append(name)
            gate.wait(10)

    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    until(lambda: lane.before(name) is not None)
    return thread


def test_who_came_first_is_served_first_and_told_his_place():
    lane, order, gate = Lane(), [], threading.Event()
    threads = [waiting(lane, name, order, gate) for name in "abcd"]
    assert [lane.before(name) for name in "abcde"] == [0, 1, 2, 3, None]
    gate.set()
    for thread in threads:
        thread.join(10)
    assert order == list("abcd")
    assert lane.before("d") is None


def test_a_row_that_is_too_long_is_refused_and_frees_up():
    lane, gate = Lane(), threading.Event()
    threads = [waiting(lane, str(number), [], gate) for number in range(17)]
    with pytest.raises(TooMany), lane.turn("one more"):
        pass
    gate.set()
    for thread in threads:
        thread.join(10)
    with lane.turn("now"):
        assert lane.before("now") == 0


def test_a_clap_does_not_wait_for_an_hour_of_song():
    gate = threading.Event()
    hour = waiting(turns.LONG, "hour of song", [], gate)
    try:
        assert before("hour of song") == 0
        with turns.SHORT.turn("clap"), turns.PLAYED.turn():
            assert before("clap") == 0
    finally:
        gate.set()
        hour.join(10)
