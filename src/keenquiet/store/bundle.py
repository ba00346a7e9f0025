"""Bundles: `NAME.kq.zip` with `room.json`, `readings/*.json`, `moves.json`, `ledger.json` and the audio. Checked entry
by entry.
"""

import io
import json
import re
import zipfile
from dataclasses import dataclass, field
from typing import Any

from keenquiet.core.errors import InputError

MOST_BYTES = 1_000_000_000
_MOST_ENTRIES = 5000
_MOST_JSON_BYTES = 20_000_000
_MOST_RATIO = 200  # an honest recording does not shrink to a two-hundredth
_ALLOWED = re.compile(
    r"^(room\.json|moves\.json|ledger\.json|readings/[0-9a-f-]{36}\.json|audio/[0-9a-f]{64}\.(wav|flac|aiff|ogg|csv))$"
)


@dataclass
class Bundle:
    """Contents of a bundle. audio: name in the bundle -> bytes."""

    room: dict[str, Any]
    readings: list[dict[str, Any]] = field(default_factory=list)
    moves: list[dict[str, Any]] = field(default_factory=list)
    ledger: list[dict[str, Any]] = field(default_factory=list)
    audio: dict[str, bytes] = field(default_factory=dict)


def write_bundle(bundle: Bundle) -> bytes:
    """The bundle as a zip file; audio is stored as it is."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("room.json", json.dumps(bundle.room, ensure_ascii=False, indent=1))
        archive.writestr("moves.json", json.dumps(bundle.moves, ensure_ascii=False, indent=1))
        archive.writestr("ledger.json", json.dumps(bundle.ledger, ensure_ascii=False, indent=1))
        for reading in bundle.readings:
            archive.writestr(f"readings/{reading['id']}.json", json.dumps(reading, ensure_ascii=False, indent=1))
        for name, data in bundle.audio.items():
            archive.writestr(f"audio/{name}", data, compress_type=zipfile.ZIP_STORED)
    return buffer.getvalue()


def read_bundle(data: bytes) -> Bundle:
    """Read and check a bundle. Raises InputError for anything unexpected; nothing is written anywhere."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except zipfile.BadZipFile as exc:
        raise InputError("file", "is not a bundle (no zip file).", "Choose a NAME.kq.zip exported from here.") from exc
    with archive:
        entries = archive.infolist()
        _check_entries(entries)
        names = {entry.filename for entry in entries}
        if "room.json" not in names:
            raise InputError("file", "has no room.json inside.", "Choose a NAME.kq.zip exported from here.")
        bundle = Bundle(room=_json(archive, "room.json", dict))
        bundle.moves = _json(archive, "moves.json", list) if "moves.json" in names else []
        bundle.ledger = _json(archive, "ledger.json", list) if "ledger.json" in names else []
        for name in sorted(names):
            if name.startswith("readings/"):
                bundle.readings.append(_json(archive, name, dict))
            elif name.startswith("audio/"):
                bundle.audio[name.removeprefix("audio/")] = _read(archive, name)
    return bundle


def _check_entries(entries: list[zipfile.ZipInfo]) -> None:
    if len(entries) > _MOST_ENTRIES:
        raise InputError("file", f"has {len(entries)} entries.", f"A bundle has at most {_MOST_ENTRIES}.")
    if sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise InputError("file", "would unpack to more than 1 GB.", "This is no bundle from here.")
    seen = set()
    for entry in entries:
        if not _ALLOWED.match(entry.filename) or entry.filename in seen:
            raise InputError(
                "file", f"holds an unexpected entry {entry.filename[:80]!r}.", "This is no bundle from here."
            )
        seen.add(entry.filename)
        if entry.file_size > _MOST_RATIO * max(entry.compress_size, 1) + 100_000:
            raise InputError(
                "file", f"{entry.filename} unpacks to far more than it should.", "This is no bundle from here."
            )
        if entry.filename.endswith(".json") and entry.file_size > _MOST_JSON_BYTES:
            raise InputError("file", f"{entry.filename} is too large.", "This is no bundle from here.")


def _read(archive: zipfile.ZipFile, name: str) -> bytes:
    size = archive.getinfo(name).file_size
    try:
        with archive.open(name) as entry:
            data = entry.read(size + 1)
    except (zipfile.BadZipFile, EOFError, OSError, RuntimeError) as exc:
        raise InputError("file", f"{name} is damaged.", "Export the bundle again.") from exc
    if len(data) != size:
        raise InputError("file", f"{name} is not as long as it claims.", "Export the bundle again.")
    return data


def _json(archive: zipfile.ZipFile, name: str, kind: type) -> Any:
    try:
        found = json.loads(_read(archive, name))
    except (ValueError, RecursionError) as exc:
        raise InputError(f"file/{name}", "is not valid JSON.", "Export the bundle again.") from exc
    if not isinstance(found, kind):
        raise InputError(f"file/{name}", "does not hold what it should.", "Export the bundle again.")
    return found
