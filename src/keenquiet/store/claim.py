"""One server to a data folder: a lock that the system lets go of when its holder dies, however it dies."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from keenquiet.store.errors import StoreError, disk_trouble


@contextmanager
def claimed(folder: Path) -> Iterator[None]:
    """Hold the folder while serving it. Raises StoreError when another server holds it. Commands may still use it."""
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        lock = FileLock(folder / "serving.lock")
        lock.acquire(timeout=0)
    except Timeout as exc:
        raise StoreError(
            f"Another Keen Quiet is serving {folder}. Use that one, stop it, or choose another folder with --data."
        ) from exc
    except OSError as exc:
        raise disk_trouble(exc, f"the lock in {folder}") from exc
    try:
        yield
    finally:
        lock.release()
