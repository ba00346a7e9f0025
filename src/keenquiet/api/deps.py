"""What routes depend on, named once."""

from collections.abc import Iterator
from contextlib import contextmanager
from threading import BoundedSemaphore
from typing import Annotated, Final, TypeVar

from fastapi import Depends, Header, Request, UploadFile

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import shown_name
from keenquiet.service.answers.jobs import Pending
from keenquiet.service.data import Data
from keenquiet.service.jobs import Job, job_answer
from keenquiet.store.audiofile import MOST_BYTES

_PATIENCE_S = 0.4  # what is quick enough is answered at once
T = TypeVar("T")


def opened_data(request: Request) -> Data:
    """The data folder of this application."""
    data: Data = request.app.state.data
    return data


def asynchronous(prefer: Annotated[str | None, Header()] = None) -> bool:
    """Whether the caller would rather be told of a job than wait: `Prefer: respond-async` (RFC 7240)."""
    return prefer is not None and "respond-async" in prefer


def content_of(file: UploadFile) -> bytes:
    """An uploaded recording. Raises InputError before it is read into memory when it is larger than can be decoded."""
    if file.size is not None and file.size > MOST_BYTES:
        raise InputError(
            "file",
            f"{shown_name(file.filename or 'The file')} has {file.size / 1e6:.0f} MB.",
            f"At most {MOST_BYTES / 1e6:.0f} MB are read: cut it shorter, or save it as FLAC.",
        )
    return file.file.read()


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
    """One recording at once."""
    with _LISTENING:
        yield


DataFolder = Annotated[Data, Depends(opened_data)]
Async = Annotated[bool, Depends(asynchronous)]


def answered(job: Job[T], *, patient: bool) -> T | Pending:
    """The job's result, or the job itself when it takes longer and the caller will not wait.

    Raises what the work raised.
    """
    if not patient and not job.ended.wait(_PATIENCE_S):
        return Pending(pending=job_answer(job))
    return job.value()
