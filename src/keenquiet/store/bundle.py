"""Bundles: `NAME.kq.zip` with `room.json` and what belongs to it, listed in docs/formats.md. Written and read entry by
entry, each checked; nothing but the entry at hand is held.
"""

import json
import re
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO, Final

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import parsed

MOST_BYTES: Final = 16_000_000_000
_MOST_ENTRIES: Final = 60_000
_MOST_JSON_BYTES: Final = 20_000_000
_ROWS_BYTES: Final = 4_000_000
_MOST_PARTS: Final = 2_000_000
_MOST_RATIO: Final = 200  # an honest recording does not shrink to a two-hundredth
_BLOCK: Final = 1 << 20
_ALLOWED: Final = re.compile(
    r"room\.json|calibrations\.json|(moves|ledger)(-\d{1,4})?\.json|revisions/\d{1,10}\.json"
    r"|readings/[0-9a-f-]{36}\.json|watches/[0-9a-f-]{36}\.(json|levels)"
    r"|audio/[0-9a-f]{64}\.(wav|flac|aiff|ogg|csv)"
)
_AGAIN: Final = "Export the bundle again."
_NOT_OURS: Final = "This is no bundle from here."
# what the library and its decompressors raise for archives that are damaged or use what we do not
_DAMAGED: Final = (zipfile.BadZipFile, zlib.error, EOFError, OSError, RuntimeError, ValueError, OverflowError)


class BundleWriter:
    """A bundle that is being written, an entry after the other; nothing of it is held."""

    def __init__(self, archive: zipfile.ZipFile) -> None:
        self._archive = archive

    def json(self, name: str, value: Any) -> None:
        """One value."""
        self._put(name, json.dumps(value, ensure_ascii=False).encode(), zipfile.ZIP_DEFLATED)

    def rows(self, stem: str, rows: Iterable[Any]) -> None:
        """Rows as lists in `STEM.json`, `STEM-2.json`, ...: none of them is larger than may come back in."""
        part: list[Any] = []
        size, number = 0, 1
        for row in rows:
            length = len(json.dumps(row, ensure_ascii=False).encode())
            if part and size + length > _ROWS_BYTES:
                self.json(_rows_name(stem, number), part)
                part, size, number = [], 0, number + 1
            part.append(row)
            size += length
        self.json(_rows_name(stem, number), part)

    def content(self, name: str, content: bytes) -> None:
        """Bytes as they are."""
        self._put(name, content, zipfile.ZIP_STORED)

    def sound(self, path: Path) -> None:
        """A sound as it lies there."""
        with (
            path.open("rb") as source,
            self._archive.open(_entry(f"audio/{path.name}", zipfile.ZIP_STORED), "w", force_zip64=True) as target,
        ):
            while block := source.read(_BLOCK):
                target.write(block)

    def _put(self, name: str, content: bytes, how: int) -> None:
        self._archive.writestr(_entry(name, how), content)


def _entry(name: str, how: int) -> zipfile.ZipInfo:
    # a date of its own would make two exports of the same room differ
    entry = zipfile.ZipInfo(name)
    entry.compress_type = how
    return entry


def _rows_name(stem: str, number: int) -> str:
    return f"{stem}.json" if number == 1 else f"{stem}-{number}.json"


@contextmanager
def written_bundle(to: BinaryIO) -> Iterator[BundleWriter]:
    """A bundle to write into; whole when all of it went well."""
    with zipfile.ZipFile(to, "w") as archive:
        yield BundleWriter(archive)


@dataclass(frozen=True)
class OpenBundle:
    """A bundle that is being read, entry by entry. names : of its entries."""

    names: frozenset[str]
    _archive: zipfile.ZipFile

    def json(self, name: str, kind: type = dict) -> Any:
        """One value. Raises InputError when it is damaged or not of its kind."""
        found = parsed(self.content(name), field=f"file/{name}", most_bytes=_MOST_JSON_BYTES, most_parts=_MOST_PARTS)
        if not isinstance(found, kind):
            raise InputError(f"file/{name}", "does not hold what it should.", _AGAIN)
        return found

    def rows(self, stem: str) -> Iterator[tuple[str, Any]]:
        """Rows of lists, each with where it stands."""
        number = 1
        while (name := _rows_name(stem, number)) in self.names:
            for place, row in enumerate(self.json(name, list)):
                yield f"{name}/{place}", row
            number += 1

    def each(self, folder: str) -> Iterator[tuple[str, Any]]:
        """Values of a folder by their names, each with where it stands."""
        for name in sorted(self.names):
            if name.startswith(f"{folder}/") and name.endswith(".json"):
                yield name, self.json(name)

    @property
    def sounds(self) -> frozenset[str]:
        """Names of sounds."""
        return frozenset(name.removeprefix("audio/") for name in self.names if name.startswith("audio/"))

    def content(self, name: str) -> bytes:
        """An entry whole."""
        return b"".join(_blocks(self._archive, name))

    def blocks(self, sound: str) -> Iterator[bytes]:
        """A sound in blocks. Raises InputError when it is damaged or not as long as it claims."""
        yield from _blocks(self._archive, f"audio/{sound}")


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
        names = frozenset(entry.filename for entry in entries)
        if "room.json" not in names:
            raise InputError("file", "has no room.json inside.", "Choose a NAME.kq.zip exported from here.")
        yield OpenBundle(names, archive)


def _check_entries(entries: list[zipfile.ZipInfo]) -> None:
    if len(entries) > _MOST_ENTRIES:
        raise InputError("file", f"has {len(entries)} entries.", f"A bundle has at most {_MOST_ENTRIES}.")
    if sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise InputError("file", "would unpack to more than 16 GB.", _NOT_OURS)
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
