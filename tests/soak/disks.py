"""Real disks that are full or only to be read, under a running server: each told in words, and recovered from.

Needs the right to mount a small file system in memory (root has it); says so where it cannot be had.
"""

import contextlib
import json
import os
import subprocess
import uuid
from pathlib import Path

import numpy as np

from keenquiet.demo.scenario import cupboard
from keenquiet.store.audiofile import wav_bytes

from .kills import COMMAND, Served, multipart
from .outcome import Outcome

SMALL_MB = 24


def _mount(*words: str) -> bool:
    return subprocess.run(["mount", *words], capture_output=True, check=False).returncode == 0


@contextlib.contextmanager
def disk(place: Path):
    """A file system of its own, `SMALL_MB` large; None where it may not be mounted."""
    place.mkdir(parents=True)
    if not _mount("-t", "tmpfs", "-o", f"size={SMALL_MB}m", "tmpfs", str(place)):
        yield None
        return
    try:
        yield place
    finally:
        subprocess.run(["umount", "-l", str(place)], check=True)


def filled(place: Path) -> Path:
    """Written to until nothing fits any more."""
    ballast = place / "ballast"
    with contextlib.suppress(OSError), ballast.open("wb", buffering=0) as file:
        while file.write(bytes(4096)):
            pass
    return ballast


def told(folder: Path) -> Outcome:
    outcome = Outcome()
    with disk(folder / "disk") as place:
        if place is None:
            outcome.answers["no right to mount: not tried"] = 1
            return outcome
        _at_work(place, outcome)
    with disk(folder / "temporary") as place:
        _temporary(folder / "roomy", place, outcome)
    return outcome


def _sound(seed: int) -> tuple[bytes, dict[str, str]]:
    noise = 0.05 * np.random.default_rng(seed).standard_normal(4 * 48000)
    content, headers = multipart({"kind": "tone", "way": "browser"}, wav_bytes(noise, 48000))
    return content, headers | {"idempotency-key": uuid.uuid4().hex}


def _at_work(place: Path, outcome: Outcome):
    served = Served(place / "data").ready()
    room = served.ask("POST", "/api/rooms", {"document": cupboard()})[1]
    readings = f"/api/rooms/{room['id']}/readings"

    def writes(what: str, wanted: set[int], *, room_too: set[int] | None = None):
        nonlocal room
        body = {"revision": room["revision"], "document": room["document"] | {"name": f"{what} {uuid.uuid4().hex}"}}
        content, headers = _sound(len(outcome.answers))
        for name, (status, said) in {
            "room": served.ask("PUT", f"/api/rooms/{room['id']}", body),
            "reading": served.ask("POST", readings, content, headers=headers),
        }.items():
            outcome.answers[f"{what}, {name}: {status} {said.get('error', {}).get('reason', '')[:90]}".strip()] += 1
            if status not in (room_too or wanted if name == "room" else wanted):
                outcome.wrong.append(f"{what}, {name}: {status} {said}")
            if status == 200:
                room = said
        there = served.ask("GET", f"/api/rooms/{room['id']}")
        if there[0] != 200 or there[1]["revision"] != room["revision"]:
            outcome.wrong.append(f"{what}: the room is not as it was acknowledged")

    writes("roomy", {200, 201})
    ballast = filled(place)
    writes("full", {507})
    backup = subprocess.run(
        [*COMMAND, "backup", "--data", str(place / "data"), "--json"], capture_output=True, text=True, check=False
    )
    outcome.answers[f"full, backup: exit {backup.returncode} {backup.stdout[:160].strip()}"] += 1
    if backup.returncode != 2 or "error" not in json.loads(backup.stdout):
        outcome.wrong.append(f"backup on a full disk: {backup.returncode} {backup.stdout} {backup.stderr}")
    served.interrupted()
    _started(place, "full", outcome)
    ballast.unlink()
    served = Served(place / "data").ready()
    writes("roomy again", {200, 201})
    # a second, read-only mount over the first: whatever is opened from here on can only be read
    if _mount("--bind", str(place), str(place)) and _mount("-o", "remount,bind,ro", str(place)):
        # the database was opened before and may go on by that: what it acknowledges is then there, as is seen below
        writes("read-only", {507}, room_too={200, 507})
        subprocess.run(["umount", "-l", str(place)], check=True)
        writes("writable again", {200, 201})
    served.interrupted()
    if _mount("-o", "remount,ro", str(place)):
        _started(place, "read-only", outcome)
        _mount("-o", f"remount,rw,size={SMALL_MB}m", str(place))
    check = subprocess.run(
        [*COMMAND, "check", "--data", str(place / "data"), "--json"], capture_output=True, text=True, check=False
    )
    if not json.loads(check.stdout)["sound"]:
        outcome.wrong.append(f"after all of it: {check.stdout}")


def _started(place: Path, how: str, outcome: Outcome):
    """A server begins on this disk: serves, or says in words why it does not."""
    served = Served(place / "data")
    try:
        served.ready()
    except AssertionError as exc:  # it has ended; what it printed
        said = " ".join(str(exc).split())
        outcome.answers[f"start on a disk {how}: {said[:200]}"] += 1
        if "Traceback" in said or not said:
            outcome.wrong.append(f"start on a disk {how}: {said}")
        return
    outcome.answers[f"start on a disk {how}: serves"] += 1
    served.interrupted()


def _temporary(roomy: Path, place: Path, outcome: Outcome):
    """The folder for temporary files is full, the data folder is not."""
    before = os.environ.get("TMPDIR")
    os.environ["TMPDIR"] = str(place)
    try:
        served = Served(roomy).ready()
        room = served.ask("POST", "/api/rooms", {"document": cupboard()})[1]
        ballast = filled(place)
        # longer than what is held in memory while it comes in
        noise = 0.05 * np.random.default_rng(1).standard_normal(20 * 48000)
        content, headers = multipart({"kind": "tone", "way": "browser"}, wav_bytes(noise, 48000))
        for what, wanted in (("temporary folder full", 507), ("temporary folder roomy again", 201)):
            status, said = served.ask("POST", f"/api/rooms/{room['id']}/readings", content, headers=headers)
            outcome.answers[f"{what}: {status} {said.get('error', {}).get('reason', '')[:90]}".strip()] += 1
            if status != wanted:
                outcome.wrong.append(f"{what}: {status} {said}")
            ballast.unlink(missing_ok=True)
        served.interrupted()
    finally:
        os.environ.pop("TMPDIR")
        if before is not None:
            os.environ["TMPDIR"] = before
