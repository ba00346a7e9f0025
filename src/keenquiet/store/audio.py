"""Audio files by content: written to a temporary name, flushed, renamed, then referenced."""

import contextlib
import hashlib
import os
import tempfile
import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO, Final

from keenquiet.store.errors import NotFound, disk_trouble

_BLOCK: Final = 1 << 20
_HALF_S: Final = 600.0  # nobody writes a file for so long


class AudioStore:
    """Files named by the SHA-256 of their bytes, in `audio/`."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / "audio"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as exc:
            raise disk_trouble(exc, "the folder for recordings") from exc

    def keep(self, data: bytes | Path, suffix: str) -> str:
        """Store bytes, or a file's, and return their SHA-256; a damaged copy of the same sound is healed by it.

        Raises StorageFull, leaving nothing half-written.
        """
        digest = digest_of(data)
        if isinstance(data, Path):
            with data.open("rb") as file:
                self.keep_blocks(iter(lambda: file.read(_BLOCK), b""), f"{digest}{suffix}")
            return digest
        target = self.folder / f"{digest}{suffix}"
        if is_whole(target, digest):
            return digest
        with self._new_file(target) as file:
            file.write(data)
        return digest

    def keep_blocks(self, blocks: Iterable[bytes], name: str) -> None:
        """Store what comes in blocks under the name that its content promises. Raises StorageFull, ValueError when the
        content is another.
        """
        digest = name[:64]
        target = self.folder / name
        if is_whole(target, digest):
            return
        found = hashlib.sha256()
        with self._new_file(target) as file:
            for block in blocks:
                found.update(block)
                file.write(block)
            if found.hexdigest() != digest:
                raise ValueError(f"{name} holds something else")

    @contextmanager
    def _new_file(self, target: Path) -> Iterator[BinaryIO]:
        """A file that is there whole or not at all."""
        temporary: str | None = None
        try:
            handle, temporary = tempfile.mkstemp(dir=self.folder, suffix=".part")
            with os.fdopen(handle, "wb") as file:
                yield file
                file.flush()
                os.fsync(file.fileno())
            os.replace(temporary, target)
            temporary = None
            _settle(self.folder)
        except OSError as exc:
            raise disk_trouble(exc, "the recording") from exc
        finally:
            if temporary is not None:
                with contextlib.suppress(OSError):
                    os.unlink(temporary)

    def path(self, digest: str, suffix: str) -> Path:
        """Where the bytes are. Raises NotFound."""
        path = self.folder / f"{digest}{suffix}"
        if not path.is_file():
            raise NotFound(f"The recording {digest[:12]} is missing from the data folder.")
        return path

    def sweep(self, referenced: Callable[[], set[str]] | None, *, older_than_s: float) -> list[str]:
        """Remove what kills left behind: half-written files, and sounds that nothing refers to. Names of what went.

        referenced : names in use, asked for after looking, so that what is filed meanwhile is never taken for left;
        None where nobody knows them: then half-written files alone go. older_than_s : of sounds.
        """
        now = time.time()
        with contextlib.suppress(OSError):
            ages = {path: now - path.stat().st_mtime for path in self.folder.iterdir() if path.is_file()}
            half = [path for path, age in ages.items() if path.suffix == ".part" and age > min(_HALF_S, older_than_s)]
            old = [path for path, age in ages.items() if path.suffix != ".part" and age > older_than_s]
            used = None if referenced is None else referenced()
            left = [*half, *([] if used is None else [path for path in old if path.name not in used])]
            for path in left:
                path.unlink()
            return sorted(path.name for path in left)
        return []


def digest_of(data: bytes | Path) -> str:
    """SHA-256 of bytes, or of a file's."""
    if isinstance(data, bytes):
        return hashlib.sha256(data).hexdigest()
    with data.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def is_whole(path: Path, digest: str) -> bool:
    """Whether a file is there with the content that its name promises."""
    try:
        return digest_of(path) == digest
    except OSError:
        return False


def _settle(folder: Path) -> None:
    """A rename is on the disk only when its folder is."""
    with contextlib.suppress(OSError):  # not every system lets folders be opened
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
