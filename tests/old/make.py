"""Folders as former versions left them, made by those versions: `python -m tests.old.make`.

Each is the last commit before a migration came, taken from the repository's own history and asked over its own
interface for the same: a room, renamed; a silence brought; a move done; a watch, where there were any. What is here
was made once; a new migration adds one (`FORMER`).
"""

import io
import json
import os
import subprocess
import sys
import tempfile
import wave
import zipfile
from pathlib import Path

import numpy as np

HERE = Path(__file__).parent
# version of the database -> the migration that ended it
FORMER = {
    "a001": "a002_calibrations",
    "a002": "a003_scenes",
    "a003": "a004_sequence",
    "a004": "a005_watches",
    "a005": "a006_labels",
    "a006": "a007_one_device",
}
MONDAY_MS = 1_767_571_200_000


def lived(folder: Path) -> None:
    """In a process whose `keenquiet` is the former one."""
    from starlette.testclient import TestClient

    from keenquiet.api.app import make_app
    from keenquiet.demo.scenario import cupboard

    client = TestClient(make_app(folder), base_url="http://127.0.0.1")
    room = client.post("/api/rooms", json={"document": cupboard()}).json()
    document = room["document"] | {"name": "Renamed"}
    room = client.put(f"/api/rooms/{room['id']}", json={"revision": room["revision"], "document": document}).json()
    sound = io.BytesIO()
    with wave.open(sound, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(8000)
        file.writeframes((300 * np.random.default_rng(1).standard_normal(24_000)).astype("<i2").tobytes())
    files, fields = {"file": ("silence.wav", sound.getvalue())}, {"kind": "tone", "way": "import"}
    client.post(f"/api/rooms/{room['id']}/readings", files=files, data=fields)
    standing = room["document"]["arrangements"][0]
    tried = json.loads(json.dumps(standing)) | {"id": "what-if"}
    tried["microphone"]["at"] = [0.6, 0.47, 1.42]
    edit = {"do": "place", "who": "microphone", "at": [0.6, 0.47, 1.42], "turn_deg": 180.0, "tilt_deg": 8.0}
    tried["trying"] = {"kind": "distance", "title": "Closer", "edits": [edit]}
    document = room["document"] | {"arrangements": [standing, tried]}
    saved = client.put(f"/api/rooms/{room['id']}", json={"revision": room["revision"], "document": document}).json()
    done = {"revision": saved["revision"], "kind": "distance", "title": "Closer"}
    assert client.post(f"/api/rooms/{room['id']}/moves/done", json=done).status_code == 200
    watch = client.post(f"/api/rooms/{room['id']}/watches", json={"way": "browser"})
    if watch.status_code == 201:
        levels = {"from_ms": MONDAY_MS, "offset_min": 60, "rows": [[-60.0] * 9] * 5}
        client.post(f"/api/watches/{watch.json()['id']}/levels", json=levels)
        client.post(f"/api/watches/{watch.json()['id']}/stop", json={})


def made(version: str, ended_by: str) -> None:
    """One of them, from the history."""
    added = f"src/keenquiet/store/migrations/versions/{ended_by}.py"
    log = ["git", "log", "--diff-filter=A", "--format=%h", "--", added]
    commit = subprocess.run(log, capture_output=True, text=True, check=True).stdout.split()[-1]
    with tempfile.TemporaryDirectory() as folder:
        tree, data = Path(folder) / "tree", Path(folder) / "data"
        subprocess.run(["git", "worktree", "add", "-q", str(tree), f"{commit}^"], check=True)
        try:
            code = f"from tests.old.make import lived; from pathlib import Path; lived(Path({str(data)!r}))"
            paths = os.pathsep.join([str(tree / "src"), str(HERE.parent.parent)])
            subprocess.run(
                [sys.executable, "-c", code], check=True, cwd=folder, env={**os.environ, "PYTHONPATH": paths}
            )
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", str(tree)], check=True)
        with zipfile.ZipFile(HERE / f"{version}.zip", "w", zipfile.ZIP_DEFLATED) as archive:
            for path in sorted(path for path in data.rglob("*") if path.is_file()):
                archive.write(path, path.relative_to(data))


if __name__ == "__main__":
    for version, ended_by in FORMER.items():
        if not (HERE / f"{version}.zip").exists():
            made(version, ended_by)
