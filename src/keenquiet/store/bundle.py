"""Bundles: `NAME.kq.zip` with `room.json`, `readings/*.json`, `moves.json`, `ledger.json` and the audio. Checked entry
by entry; sounds go through block by block.
"""

import json
import re
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, Final

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import parsed

MOST_BYTES: Final = 1_000_000_000
_MOST_ENTRIES: Final = 5000
_MOST_JSON_BYTES: Final = 20_000_000
_MOST_PARTS: Final = 2_000_000
_MOST_RATIO: Final = 200  # an honest recording does not shrink to a two-hundredth
_BLOCK: Final = 1 << 20
_ALLOWED: Final = re.compile(
    r"(room\.json|moves\.json|ledger\.json|readings/[0-9a-f-]{36}\.json|audio/[0-9a-f]{64}\.(wav|flac|aiff|ogg|csv))"
)
_AGAIN: Final = "Export the bundle again."
_NOT_OURS: Final = "This is no bundle from here."
# what the library and its decompressors raise for archives that are damaged or use what we do not
_DAMAGED: Final = (
    zipfile.BadZipFile,
    zlib.error,
    EOFError,
    OSError,
    RuntimeError,
    NotImplementedError,
    ValueError,
    OverflowError,
)


@dataclass
class Bundle:
    """Rows of a bundle."""

    room: dict[str, Any]
    readings: list[dict[str, Any]] = field(default_factory=list)
    moves: list[dict[str, Any]] = field(default_factory=list)
    ledger: list[dict[str, Any]] = field(default_factory=list)


def write_bundle(bundle: Bundle, sounds: Mapping[str, Path], to: BinaryIO) -> None:
    """Write a zip file. sounds : name in the bundle -> where it lies; stored as they are."""
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("room.json", json.dumps(bundle.room, ensure_ascii=False, indent=1))
        archive.writestr("moves.json", json.dumps(bundle.moves, ensure_ascii=False, indent=1))
        archive.writestr("ledger.json", json.dumps(bundle.ledger, ensure_ascii=False, indent=1))
        for reading in bundle.readings:
            archive.writestr(f"readings/{reading['id']}.json", json.dumps(reading, ensure_ascii=False, indent=1))
        for name, path in sounds.items():
            # a date of its own would make two exports of the same room differ
            entry = zipfile.ZipInfo(f"audio/{name}")
            with path.open("rb") as source, archive.open(entry, "w", force_zip64=True) as target:
                while block := source.read(_BLOCK):
                    target.write(block)


@dataclass(frozen=True)
class OpenBundle:
    """A bundle that is being read: its rows, and its sounds block by block."""

    rows: Bundle
    sounds: frozenset[str]
    _archive: zipfile.ZipFile

    def blocks(self, name: str) -> Iterator[bytes]:
        """A sound in blocks. Raises InputError when it is damaged or not as long as it claims."""
        yield from _blocks(self._archive, f"audio/{name}")


@contextmanager
def opened_bundle(file: BinaryIO) -> Iterator[OpenBundle]:
    """Open and check a bundle; nothing is written anywhere. Raises InputError naming the entry that is wrong."""
    try:
        archive = zipfile.ZipFile(file)
    except _DAMAGED as exc:
        raise InputError("file", "is not a bundle (no zip file).", "Choose a NAME.kq.zip exported from here.") from exc
    with archive:
        entries = archive.infolist()
        _check_entries(entries)
        names = {entry.filename for entry in entries}
        if "room.json" not in names:
            raise InputError("file", "has no room.json inside.", "Choose a NAME.kq.zip exported from here.")
        rows = Bundle(room=_json(archive, "room.json", dict))
        rows.moves = _json(archive, "moves.json", list) if "moves.json" in names else []
        rows.ledger = _json(archive, "ledger.json", list) if "ledger.json" in names else []
        rows.readings = [_json(archive, name, dict) for name in sorted(names) if name.startswith("readings/")]
        sounds = frozenset(name.removeprefix("audio/") for name in names if name.startswith("audio/"))
        yield OpenBundle(rows, sounds, archive)


def _check_entries(entries: list[zipfile.ZipInfo]) -> None:
    if len(entries) > _MOST_ENTRIES:
        raise InputError("file", f"has {len(entries)} entries.", f"A bundle has at most {_MOST_ENTRIES}.")
    if sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise InputError("file", "would unpack to more than 1 GB.", _NOT_OURS)
    seen = set()
    for entry in entries:
        if not _ALLOWED.fullmatch(entry.filename) or entry.filename in seen:
            raise InputError("file", f"holds an unexpected entry {entry.filename[:80]!a}.", _NOT_OURS)
        seen.add(entry.filename)
        if entry.file_size > _MOST_RATIO * max(entry.compress_size, 1) + 100_000:
            raise InputError("file", f"{entry.filename} unpacks to far more than it should.", _NOT_OURS)
        if entry.filename.endswith(".json") and entry.file_size > _MOST_JSON_BYTES:
            raise InputError("file", f"{entry.filename} is too large.", _NOT_OURS)


def _blocks(archive: zipfile.ZipFile, name: str) -> Iterator[bytes]:
    size = archive.getinfo(name).file_size
    got = 0
    try:
        with archive.open(name) as entry:
            while block := entry.read(min(_BLOCK, size + 1 - got)):
                got += len(block)
                if got > size:
                    break
                yield block
    except _DAMAGED as exc:
        raise InputError("file", f"{name} is damaged.", _AGAIN) from exc
    if got != size:
        raise InputError("file", f"{name} is not as long as it claims.", _AGAIN)


def _json(archive: zipfile.ZipFile, name: str, kind: type) -> Any:
    content = b"".join(_blocks(archive, name))
    found = parsed(content, field=f"file/{name}", most_bytes=_MOST_JSON_BYTES, most_parts=_MOST_PARTS)
    if not isinstance(found, kind):
        raise InputError(f"file/{name}", "does not hold what it should.", _AGAIN)
    return found
