"""A real server killed while it works: what it acknowledged stays, nothing is half done, nothing is left over."""

import contextlib
import http.client
import json
import os
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
import uuid
from pathlib import Path

import numpy as np

from keenquiet.demo.scenario import cupboard
from keenquiet.store.audiofile import wav_bytes

from .outcome import Outcome

COMMAND = (sys.executable, "-c", "from keenquiet.cli import main; main()")
CLOSER = {"do": "place", "who": "microphone", "at": [0.6, 0.47, 1.42], "turn_deg": 180.0, "tilt_deg": 8.0}


class Served:
    """`keenquiet serve` in a process of its own."""

    def __init__(self, folder: Path, *more: str, port: int | None = None, env: dict[str, str] | None = None):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = port or probe.getsockname()[1]
        command = [*COMMAND, "serve", "--data", str(folder), "--port", str(self.port)]
        self.folder = folder
        # a file, not a pipe: one that nobody reads fills up, and the server waits for it
        self.output = tempfile.TemporaryFile("w+", encoding="utf-8")  # noqa: SIM115 - closed when the server is
        self.process = subprocess.Popen(
            [*command, *more], stdout=self.output, stderr=subprocess.STDOUT, text=True, env=env
        )

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def ready(self):
        end = time.monotonic() + 60
        while True:
            try:
                self.ask("GET", "/api/rooms")
                return self
            except (OSError, urllib.error.URLError) as exc:
                if isinstance(exc, urllib.error.HTTPError) or self.process.poll() is not None:
                    raise AssertionError(self.said()) from exc
                assert time.monotonic() < end
                time.sleep(0.05)

    def said(self) -> str:
        """What it printed by its end."""
        self.process.wait(timeout=60)
        self.output.seek(0)
        said = self.output.read()
        self.output.close()
        return said

    def answering(self):
        """Once its port is open, whatever it says there."""
        end = time.monotonic() + 60
        while True:
            try:
                socket.create_connection(("127.0.0.1", self.port)).close()
                return self
            except OSError:
                assert time.monotonic() < end
                time.sleep(0.05)

    def ask(self, method: str, path: str, body=None, *, headers=None, timeout=60):
        """Status and answer. Raises OSError when the server is gone."""
        content = body if isinstance(body, bytes | None) else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.url}{path}", content, method=method)
        for name, value in (headers or {"content-type": "application/json"}).items():
            request.add_header(name, value)
        try:
            with urllib.request.urlopen(request, timeout=timeout) as answer:
                return answer.status, json.loads(answer.read() or b"null")
        except urllib.error.HTTPError as exc:
            with exc:
                return exc.code, json.loads(exc.read() or b"null")

    def kill(self):
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        self.output.close()

    def interrupted(self) -> float:
        """Seconds from Ctrl-C to the end."""
        began = time.monotonic()
        self.process.send_signal(signal.SIGINT)
        self.process.wait(timeout=60)
        took = time.monotonic() - began
        self.output.close()
        return took


def multipart(fields: dict[str, str], content: bytes) -> tuple[bytes, dict[str, str]]:
    """A form with one file."""
    mark = uuid.uuid4().hex
    parts = [
        f'--{mark}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'.encode() for k, v in fields.items()
    ]
    head = f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="a.wav"\r\n\r\n'.encode()
    return b"".join([*parts, head, content, f"\r\n--{mark}--\r\n".encode()]), {
        "content-type": f"multipart/form-data; boundary={mark}"
    }


class Writer(threading.Thread):
    """One person at work: renames, tries and does moves, files readings; remembers what was acknowledged."""

    def __init__(self, served: Served, seed: int, kinds: tuple[str, ...]):
        super().__init__(daemon=True)
        self.served, self.rng, self.kinds = served, np.random.default_rng(seed), kinds
        self.names: dict[str, tuple[int, str]] = {}
        self.readings: dict[str, str] = {}
        self.moves: list[tuple[str, str]] = []
        self.unsure: dict[str, bytes] = {}

    def run(self):
        with contextlib.suppress(OSError, AssertionError, ValueError, http.client.HTTPException):
            status, room = self.served.ask("POST", "/api/rooms", {"document": cupboard()})
            assert status == 201
            while True:
                room = getattr(self, str(self.rng.choice(self.kinds)))(room)

    def rename(self, room):
        name = f"Name {self.rng.integers(10**6)}"
        body = {"revision": room["revision"], "document": room["document"] | {"name": name}}
        status, saved = self.served.ask("PUT", f"/api/rooms/{room['id']}", body)
        assert status == 200, saved
        self.names[room["id"]] = (saved["revision"], name)
        return saved

    def move(self, room):
        document = room["document"]
        title = f"Closer {self.rng.integers(10**6)}"
        standing = document["arrangements"][0]
        x = round(0.55 + 0.2 * float(self.rng.random()), 3)
        edit = CLOSER | {"at": [x, 0.47, 1.42]}
        tried = standing | {
            "id": "what-if",
            "name": title,
            "trying": {"kind": "distance", "title": title, "edits": [edit]},
        }
        tried = tried | {"microphone": standing["microphone"] | {"at": edit["at"]}}
        body = {"revision": room["revision"], "document": document | {"arrangements": [standing, tried]}}
        status, saved = self.served.ask("PUT", f"/api/rooms/{room['id']}", body)
        assert status == 200, saved
        done = {"revision": saved["revision"], "kind": "distance", "title": title, "edits": []}
        status, after = self.served.ask("POST", f"/api/rooms/{room['id']}/moves/done", done)
        assert status == 200, after
        self.names[room["id"]] = (after["revision"], after["document"]["name"])
        self.moves.append((room["id"], title))
        return after

    def reading(self, room):
        sound = wav_bytes(0.05 * self.rng.standard_normal(3 * 8000), 8000)
        key = uuid.uuid4().hex
        self.unsure[key] = sound
        content, headers = multipart({"kind": "tone", "way": "browser"}, sound)
        headers["idempotency-key"] = key
        status, filed = self.served.ask("POST", f"/api/rooms/{room['id']}/readings", content, headers=headers)
        assert status == 201, filed
        self.readings[filed["id"]] = room["id"]
        return room


def killed(folder: Path, count: int, *, aimed: bool = False, seed: int = 5) -> Outcome:
    """Kill the server `count` times. aimed : at moments at which moves are being written, else at any."""
    rng, outcome = np.random.default_rng(seed), Outcome()
    kinds = ("move",) if aimed else ("rename", "move", "reading")
    for number in range(count):
        served = Served(folder).ready()
        writers = [Writer(served, seed * 1000 + number * 10 + n, kinds) for n in range(1 if aimed else 2)]
        for writer in writers:
            writer.start()
        if aimed:
            # a move of this room takes some tenths of a second and commits at its end
            while not writers[0].moves and writers[0].is_alive():
                time.sleep(0.005)
        time.sleep(float(rng.uniform(0, 0.6 if aimed else 3.0)))
        outcome.weighed(served.process.pid)
        served.kill()
        for writer in writers:
            writer.join(timeout=20)
        outcome.answers["kill"] += 1
        outcome.answers["acknowledged"] += sum(
            len(writer.names) + len(writer.readings) + len(writer.moves) for writer in writers
        )
        outcome.wrong += [f"kill {number}: {line}" for line in _lost(folder, writers)]
    _tidied(folder, outcome)
    return outcome


def _lost(folder: Path, writers: list[Writer]) -> list[str]:
    """What was acknowledged and is not there; what is half there."""
    wrong = []
    with contextlib.closing(sqlite3.connect(f"file:{folder / 'keenquiet.db'}?mode=ro", uri=True)) as database:
        rooms = {row[0]: row[1:] for row in database.execute("SELECT id, revision, name, document FROM rooms")}
        readings = {row[0]: f"{row[1]}{row[2]}" for row in database.execute(
            "SELECT id, audio_sha256, audio_suffix FROM readings"
        )}  # fmt: skip
        moves = set(database.execute("SELECT room_id, title FROM moves"))
        told = {row[0] for row in database.execute("SELECT move_id FROM ledger WHERE move_id IS NOT NULL")}
        move_ids = {row[0] for row in database.execute("SELECT id FROM moves")}
        told_readings = {row[0] for row in database.execute("SELECT reading_id FROM ledger")}
        arranged = dict(database.execute("SELECT room_id, arrangement FROM moves ORDER BY sequence"))
    for writer in writers:
        for room_id, (revision, name) in writer.names.items():
            there = rooms.get(room_id)
            if there is None or there[0] < revision:
                wrong.append(f"room {room_id} lost revision {revision} ({name})")
            elif there[0] == revision and there[1] != name:
                wrong.append(f"room {room_id} lost its name {name}")
        wrong += [f"reading {r} lost" for r in writer.readings if r not in readings]
        wrong += [f"move {title} lost" for room_id, title in writer.moves if (room_id, title) not in moves]
    wrong += [
        f"reading {r} without its sound" for r, name in readings.items() if not (folder / "audio" / name).is_file()
    ]
    wrong += [f"move {m} without its ledger line" for m in move_ids - told]
    wrong += [f"reading {r} without its ledger line" for r in set(readings) - told_readings]
    for room_id, arrangement in arranged.items():
        document = json.loads(rooms[room_id][2])
        standing = document["arrangements"][0]
        if standing["microphone"]["at"] != json.loads(arrangement)["microphone"]["at"]:
            wrong.append(f"move in {room_id} is in the ledger, its arrangement is not")
    return wrong


def _tidied(folder: Path, outcome: Outcome):
    """After the next start nothing is left over of what kills left behind."""
    for path in (folder / "audio").iterdir():
        os.utime(path, (time.time() - 40 * 86_400,) * 2)  # what is younger than a month may belong to somebody
    served = Served(folder).ready()
    outcome.answers["stopped within s"] = round(served.interrupted(), 1)
    found = subprocess.run(
        [*COMMAND, "check", "--data", str(folder), "--json"], capture_output=True, text=True, check=False
    )
    said = json.loads(found.stdout)
    if not said["sound"] or said["left"]:
        outcome.wrong.append(f"after the next start: {said}")
