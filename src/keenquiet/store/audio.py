"""Audio files by content: written to a temporary name, flushed, renamed, then referenced."""

import contextlib
import hashlib
import os
import tempfile
from pathlib import Path

from keenquiet.store.errors import NotFound, StorageFull


class AudioStore:
    """Files named by the SHA-256 of their bytes, in `audio/`."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / "audio"
        self.folder.mkdir(parents=True, exist_ok=True)

    def keep(self, data: bytes, suffix: str) -> str:
        """Store bytes and return their SHA-256. Raises StorageFull, leaving nothing half-written."""
        digest = hashlib.sha256(data).hexdigest()
        target = self.folder / f"{digest}{suffix}"
        if target.exists():
            return digest
        temporary: str | None = None
        try:
            handle, temporary = tempfile.mkstemp(dir=self.folder, suffix=".part")
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            os.replace(temporary, target)
        except OSError as exc:
            if temporary is not None:
                with contextlib.suppress(OSError):
                    os.unlink(temporary)
            raise StorageFull("The disk is full or cannot be written; the recording was not kept.") from exc
        return digest

    def path(self, digest: str, suffix: str) -> Path:
        """Where the bytes are. Raises NotFound."""
        path = self.folder / f"{digest}{suffix}"
        if not path.is_file():
            raise NotFound(f"The recording {digest[:12]} is missing from the data folder.")
        return path
