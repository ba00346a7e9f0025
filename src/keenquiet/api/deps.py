"""What routes depend on, named once."""

import contextlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import BoundedSemaphore
from typing import Annotated, Final, TypeVar

from fastapi import Depends, Header, Request, UploadFile

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import shown_name
from keenquiet.service.answers.jobs import Pending
from keenquiet.service.data import Data
from keenquiet.service.jobs import Job, job_answer
from keenquiet.store.apart import TEMPORARY
from keenquiet.store.audiofile import MOST_BYTES
from keenquiet.store.errors import disk_trouble
from keenquiet.threads import give_back

_IN_MEMORY_BYTES: Final = 16_000_000
_PATIENCE_S = 0.4  # what is quick enough is answered at once
T = TypeVar("T")


def opened_data(request: Request) -> Data:
    """The data folder of this application."""
    data: Data = request.app.state.data
    return data


def asynchronous(prefer: Annotated[str | None, Header()] = None) -> bool:
    """Whether the caller would rather be told of a job than wait: `Prefer: respond-async` (RFC 7240)."""
    return prefer is not None and "respond-async" in prefer


@contextmanager
def content_of(file: UploadFile) -> Iterator[bytes | Path]:
    """An uploaded recording: its bytes, or where it lies when it is a large one. Raises InputError when it is larger
    than what is read, StorageFull when the temporary folder cannot take it.
    """
    size = file.size or 0
    if size > MOST_BYTES:
        raise InputError(
            "file",
            f"{shown_name(file.filename or 'The file')} has {size / 1e6:.0f} MB.",
            f"At most {MOST_BYTES / 1e6:.0f} MB are read: cut it shorter, or save it as FLAC.",
        )
    if size <= _IN_MEMORY_BYTES:
        yield file.file.read()
        return
    with contextlib.ExitStack() as stack:
        try:  # the copying alone: what the caller meets later is not the temporary folder's trouble
            folder = stack.enter_context(tempfile.TemporaryDirectory(prefix=f"{TEMPORARY}{os.getpid()}-"))
            path = Path(folder) / "upload"
            with path.open("wb") as copy:
                shutil.copyfileobj(file.file, copy, 1 << 20)
        except OSError as exc:
            raise disk_trouble(exc, "the upload, in the temporary folder,") from exc
        yield path


# what is worked out while the caller waits takes memory: so many at once, the others in turn
_COMPUTING: Final = BoundedSemaphore(3)
_LISTENING: Final = BoundedSemaphore(1)  # ten minutes of sound take half a gigabyte for some seconds


@contextmanager
def computing() -> Iterator[None]:
    """One of a few forecasts at once. Inside the route, never a dependency: what waits must not hold what goes on."""
    with _COMPUTING:
        yield


@contextmanager
def listening() -> Iterator[None]:
    """One recording at once; its memory is given back."""
    with _LISTENING:
        try:
            yield
        finally:
            give_back()


DataFolder = Annotated[Data, Depends(opened_data)]
Async = Annotated[bool, Depends(asynchronous)]


def answered(job: Job[T], *, patient: bool) -> T | Pending:
    """The job's result, or the job itself when it takes longer and the caller will not wait.

    Raises what the work raised.
    """
    if not patient and not job.ended.wait(_PATIENCE_S):
        return Pending(pending=job_answer(job))
    return job.value()
