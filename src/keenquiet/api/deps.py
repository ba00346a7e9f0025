"""What routes depend on, named once."""

import contextlib
import math
import os
import re
import shutil
import tempfile
import time
from asyncio import sleep
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any, Final, TypeVar
from urllib.parse import quote

from anyio import CapacityLimiter
from anyio.to_thread import run_sync
from fastapi import Depends, Header, Request, Response, UploadFile
from fastapi.responses import JSONResponse

from keenquiet.core.errors import InputError
from keenquiet.documents.plain import shown_name
from keenquiet.service.answers.jobs import Pending
from keenquiet.service.data import Data
from keenquiet.service.jobs import Job, job_answer
from keenquiet.service.turns import LONG, SHORT, Lane
from keenquiet.store.apart import TEMPORARY
from keenquiet.store.audiofile import MOST_BYTES
from keenquiet.store.errors import disk_trouble
from keenquiet.threads import give_back

_IN_MEMORY_BYTES: Final = 16_000_000
_PATIENCE_S: Final = 0.4  # what is quick enough is answered at once
_LOOKS_EVERY_S: Final = 0.02
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
    lying = Path(f"/proc/{os.getpid()}/fd/{file.file.fileno()}")
    if lying.exists():  # it lies on the disk already, without a name
        yield lying
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


# what is worked out while the caller waits takes memory: so many at once, the others in turn, and none of them holds a
# thread that answers something light
_COMPUTING: Final = CapacityLimiter(3)


async def in_turn(work: Callable[..., T], *given: Any) -> T:
    """One of a few computations at once, on a thread of its own."""
    return await run_sync(work, *given, limiter=_COMPUTING)


@contextmanager
def listening(lane: Lane = LONG, name: str | None = None) -> Iterator[None]:
    """One recording of a lane at once (ten minutes of sound take half a gigabyte for some seconds); its memory is given
    back. name : under which whoever waits may ask for its place.
    """
    with lane.turn(name):
        try:
            yield
        finally:
            give_back()


def lane_of(file: UploadFile) -> Lane:
    """Where an uploaded recording waits: a clap does not wait for an hour of song."""
    return SHORT if (file.size or 0) <= _IN_MEMORY_BYTES else LONG


def handed_out(content: bytes | str, name: str, media: str) -> Response:
    """A file to keep, under a name in any script (RFC 6266, RFC 8187)."""
    plain = re.sub(r"[^\w. -]", "-", name, flags=re.ASCII)
    said = f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}"
    return Response(content, media_type=media, headers={"content-disposition": said})


DataFolder = Annotated[Data, Depends(opened_data)]
Async = Annotated[bool, Depends(asynchronous)]
LATER: Final[dict[int | str, dict[str, Any]]] = {202: {"model": Pending}}


async def answered(job: Job[T], *, later: bool, result_at: str | None = None) -> T | JSONResponse:
    """The job's result; 202 with the job when it takes longer and the caller will not wait (`later`). No thread waits.

    result_at : where its result will be, for what must not be asked for twice. Raises what the work raised.
    """
    patience_s = _PATIENCE_S if later else math.inf
    while not job.ended.is_set():
        if patience_s <= 0:
            pending = Pending(pending=job_answer(job)).model_dump(mode="json")
            where = {} if result_at is None else {"location": result_at.format(job.id)}
            return JSONResponse(pending, status_code=202, headers=where)
        await sleep(_LOOKS_EVERY_S)
        patience_s -= _LOOKS_EVERY_S
        job.asked_at = time.monotonic()  # whoever waits still asks
    return job.value()
