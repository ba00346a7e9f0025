"""Work in the background: found again, cancelled for good, given up when nobody asks, and never too much of it."""

import threading
import time

import pytest

from keenquiet.service import jobs
from keenquiet.service.jobs import Cancelled, TooMany, cancel, job, job_answer, started


def until(holds):
    end = time.monotonic() + 20
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.005)


def endless(begun: threading.Event):
    def work(report):
        while True:
            begun.set()
            report(0.5)
            time.sleep(0.002)

    return work


def test_a_job_is_found_again_by_its_key_and_keeps_its_result():
    first = started("again", "Work", lambda report: 7)
    assert first.value() == 7
    assert started("again", "Work", lambda report: 8) is first
    assert job(first.id) is first
    assert "/" not in first.id  # part of an address


def test_a_cancelled_job_stops_working_and_can_be_asked_for_anew():
    begun = threading.Event()
    going = started("cancel", "Work", endless(begun))
    assert begun.wait(20)
    cancel(going.id)
    assert job_answer(going).state == "cancelled"
    assert going.ended.wait(20)
    with pytest.raises(Cancelled):
        going.value()
    assert started("cancel", "Work", lambda report: "new").value() == "new"


def test_a_search_that_nobody_asks_after_stops_by_itself():
    begun = threading.Event()
    going = started("lease", "Work", endless(begun), lease_s=0.05)
    assert going.ended.wait(20)
    assert going.state == "cancelled"


def test_what_fails_says_why():
    def wrong(report):
        raise ValueError("no")

    failed = started("wrong", "Work", wrong)
    failed.ended.wait(20)
    answer = job_answer(failed)
    assert answer.state == "failed"
    assert answer.error is not None
    assert answer.error.cure


def test_too_much_at_once_is_refused_and_nothing_is_begun():
    gate = threading.Event()
    waiting = []

    def fill():
        while True:
            waiting.append(started(f"many-{len(waiting)}", "Work", lambda report: gate.wait(20)))

    with pytest.raises(TooMany):
        fill()
    gate.set()
    assert len(waiting) <= jobs._MOST_WAITING + 2
    for each in waiting:
        each.value()


def test_a_job_that_waits_leaves_its_place_when_it_is_cancelled():
    gate = threading.Event()
    running = [started(f"running-{n}", "Work", lambda report: gate.wait(20)) for n in range(jobs._WORKERS)]
    until(lambda: all(each.state == "running" for each in running))
    waiting = [started(f"in-the-row-{n}", "Work", lambda report: None) for n in range(jobs._MOST_WAITING)]
    with pytest.raises(TooMany):
        started("one-more", "Work", lambda report: None)
    cancel(waiting[3].id)
    assert waiting[3].ended.is_set()
    assert job_answer(waiting[3]).state == "cancelled"
    assert started("one-more", "Work", lambda report: "mine").state == "waiting"
    gate.set()
    for each in (*waiting[:3], *waiting[4:]):
        each.value()
