"""A clock that is set back while the server works, and a laptop that sleeps: order and answers stay."""

import os
import signal
import threading
import time
from pathlib import Path

import numpy as np

from keenquiet.demo.scenario import cupboard
from keenquiet.store.audiofile import wav_bytes

from .kills import Served, multipart
from .outcome import Outcome

# Debian's package `faketime`; elsewhere it is said that this was not tried
_LIBRARIES = sorted(Path("/usr/lib").glob("*/faketime/libfaketime.so.1"))


def _reading(served, room_id, seed):
    sound = wav_bytes(0.01 * np.random.default_rng(seed).standard_normal(24_000), 8000)
    body, headers = multipart({"kind": "tone"}, sound)
    status, made = served.ask("POST", f"/api/rooms/{room_id}/readings", body, headers=headers)
    assert status == 201, made
    return made["id"]


def set_back(folder: Path, days: int = 400) -> Outcome:
    """What is filed after the clock was set back comes after what was filed before it, everywhere."""
    outcome = Outcome()
    if not _LIBRARIES:
        outcome.answers["not tried, no faketime here"] = 1
        return outcome
    folder.mkdir(parents=True, exist_ok=True)
    clock = folder / "clock"
    clock.write_text("+0d")
    environment = {
        "LD_PRELOAD": str(_LIBRARIES[0]),
        "FAKETIME_TIMESTAMP_FILE": str(clock),
        "FAKETIME_NO_CACHE": "1",
        "FAKETIME_DONT_FAKE_MONOTONIC": "1",
    }
    served = Served(folder / "data", env={**os.environ, **environment}).ready()
    try:
        room = served.ask("POST", "/api/rooms", {"document": cupboard()})[1]
        first = _reading(served, room["id"], 1)
        clock.write_text(f"-{days}d")
        second = _reading(served, room["id"], 2)
        other = served.ask("POST", "/api/rooms", {"document": cupboard() | {"name": "Later"}})[1]
        watches = [served.ask("POST", f"/api/rooms/{room['id']}/watches", {})[1]["id"] for _ in range(2)]
        clock.write_text(f"+{days}d")
        listed = served.ask("GET", f"/api/rooms/{room['id']}/readings")[1]
        dated = [one["taken_at"] for one in listed]
        outcome.expect(dated[0] < dated[1], "the clock was not set back")
        outcome.expect([one["id"] for one in listed] == [second, first], "readings lie in the clock's order")
        outcome.expect(served.ask("GET", "/api/rooms")[1][0]["id"] == other["id"], "the newest room is not first")
        told = served.ask("GET", f"/api/rooms/{room['id']}/watches")[1]
        outcome.expect([one["id"] for one in told] == watches[::-1], "watches lie in the clock's order")
        lines = [line["reading_id"] for line in served.ask("GET", f"/api/rooms/{room['id']}/ledger")[1]]
        outcome.expect([one for one in lines if one] == [second, first], "the ledger lies in the clock's order")
        outcome.answers["set back by days"] = days
    finally:
        served.kill()
    return outcome


def asleep(folder: Path, seconds: float) -> Outcome:
    """A machine that sleeps in the middle of it answers when it wakes, and has lost nothing."""
    outcome = Outcome()
    served = Served(folder).ready()
    try:
        room = served.ask("POST", "/api/rooms", {"document": cupboard()})[1]
        filed: list[str] = []

        def file_one(seed):
            filed.append(_reading(served, room["id"], seed))

        asking = [threading.Thread(target=file_one, args=(seed,)) for seed in range(3)]
        for thread in asking:
            thread.start()
        time.sleep(0.2)
        served.process.send_signal(signal.SIGSTOP)
        time.sleep(seconds)
        served.process.send_signal(signal.SIGCONT)
        for thread in asking:
            thread.join(60 + seconds)
        outcome.expect(len(filed) == len(asking), "some that asked were never answered")
        kept = {one["id"] for one in served.ask("GET", f"/api/rooms/{room['id']}/readings")[1]}
        outcome.expect(kept == set(filed), "what was answered is not what is kept")
        outcome.answers["asleep for s"] = round(seconds)
    finally:
        served.kill()
    return outcome
