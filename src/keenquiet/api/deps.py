"""What routes depend on, named once."""

from typing import Annotated, TypeVar

from fastapi import Depends, Header, Request

from keenquiet.service.answers.jobs import Pending
from keenquiet.service.data import Data
from keenquiet.service.jobs import Job, job_answer

_PATIENCE_S = 0.4  # what is quick enough is answered at once
T = TypeVar("T")


def opened_data(request: Request) -> Data:
    """The data folder of this application."""
    data: Data = request.app.state.data
    return data


def asynchronous(prefer: Annotated[str | None, Header()] = None) -> bool:
    """Whether the caller would rather be told of a job than wait: `Prefer: respond-async` (RFC 7240)."""
    return prefer is not None and "respond-async" in prefer


DataFolder = Annotated[Data, Depends(opened_data)]
Async = Annotated[bool, Depends(asynchronous)]


def answered(job: Job[T], *, patient: bool) -> T | Pending:
    """The job's result, or the job itself when it takes longer and the caller will not wait.

    Raises what the work raised.
    """
    if not patient and not job.ended.wait(_PATIENCE_S):
        return Pending(pending=job_answer(job))
    return job.value()
