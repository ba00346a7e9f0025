"""Recordings decoded in a process that can be killed, bounded in time and memory."""

import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Final, TypeVar

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.store.audiofile import HOURS_S, MOST_BYTES, MOST_SECONDS, Audio, Envelope, patience_s
from keenquiet.store.container import HEAD, is_packed
from keenquiet.store.errors import StorageFull, disk_trouble

TEMPORARY: Final = "keenquiet-"  # with the number of the process that made it
T = TypeVar("T")


def decode_apart(
    data: bytes | Path,
    name: str,
    *,
    field: str = "file",
    most_seconds: float = MOST_SECONDS,
    loudest_part: bool = False,
    in_parts: bool = False,
    span_s: tuple[float, float] | None = None,
) -> Audio:
    """Decode uploaded bytes, or a file, in a child process that is bounded in time and memory.

    Raises InputError as `read_audio` does, StorageFull when the temporary folder cannot take it.
    """
    asked = {"field": field, "most_seconds": most_seconds, "loudest_part": loudest_part, "in_parts": in_parts}
    asked["span_s"] = span_s
    found = _apart(data, name, field, _audio_from, read=asked)
    if found.from_s is None:
        return found
    return replace(found, at=lambda from_s, to_s: decode_apart(data, name, field=field, span_s=(from_s, to_s)))


def unpacked_apart(data: bytes | Path, name: str, folder: Path, *, field: str = "file") -> bytes | Path:
    """The recording as it came, or unpacked into a file of the folder where it came as phones make them.

    Raises InputError where it cannot be.
    """
    if isinstance(data, bytes):
        head = data[:HEAD]
    else:
        with data.open("rb") as file:
            head = file.read(HEAD)
    if not is_packed(head):
        return data
    made = folder / "unpacked.flac"
    asked = {"to": str(made), "name": name, "field": field, "most_seconds": HOURS_S}
    _apart(data, name, field, lambda target: None, unpacked=asked)
    return made


def envelope_apart(data: Path, name: str, *, from_s: float, to_s: float, points: int) -> Envelope:
    """The loudest channel's envelope, however long the file is, in a child process. Raises InputError when there is
    nothing between these times.
    """
    asked = {"from_s": from_s, "to_s": to_s, "points": points}
    return _apart(data, name, "from_s", _envelope_from, envelope=asked)


def _apart(data: bytes | Path, name: str, field: str, taken: Callable[[Path], T], **asked: object) -> T:
    """What the worker makes of a file, in its own words of what was asked."""
    if isinstance(data, bytes) and len(data) > MOST_BYTES:
        raise InputError(field, f"{name} is too large.", f"At most {MOST_BYTES / 1e6:.0f} MB are read.")
    try:
        with tempfile.TemporaryDirectory(prefix=f"{TEMPORARY}{os.getpid()}-") as folder:
            source, target = Path(folder) / "upload", Path(folder) / "made.npz"
            if isinstance(data, bytes):
                source.write_bytes(data)
            else:
                source.symlink_to(data.absolute())
            _worked(source, target, name, field, json.dumps(asked))
            return taken(target)
    except OSError as exc:
        raise disk_trouble(exc, "the upload, in the temporary folder,") from exc


def _worked(source: Path, target: Path, name: str, field: str, asked: str) -> None:
    most_s = patience_s(source.stat().st_size)
    command = [sys.executable, "-m", "keenquiet.store.decode_worker", str(source), str(target)]
    try:
        done = subprocess.run(
            [*command, name[:120] or "The file", field, asked], capture_output=True, timeout=most_s, check=False
        )
    except subprocess.TimeoutExpired as exc:
        raise InputError(field, f"{name} took too long to decode.", "Convert it to WAV and try again.") from exc
    if done.returncode == 2:
        where, why, cure = done.stdout.decode().split("\x1f")
        raise InputError(where, why, cure)
    if done.returncode == 3:
        raise StorageFull(f"The temporary folder is full; {name} could not be decoded.")
    if done.returncode != 0 or not target.exists():
        raise InputError(field, f"{name} could not be decoded.", "Convert it to WAV and try again.")


def _audio_from(target: Path) -> Audio:
    with np.load(target) as found:
        partly = found["from_s"] >= 0
        return Audio(
            found["channels"],
            float(found["rate"]),
            int(found["bits"]) or None,
            str(found["suffix"]),
            truncated=bool(found["truncated"]),
            from_s=float(found["from_s"]) if partly else None,
            whole_s=float(found["whole_s"]) if partly else None,
        )


def _envelope_from(target: Path) -> Envelope:
    with np.load(target) as found:
        return Envelope(float(found["from_s"]), float(found["to_s"]), found["low"], found["high"])
