"""Work that takes seconds, in the background: progress, cancel, found again after a page reload by its key."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Final, Literal

from keenquiet.core.errors import InputError

State = Literal["running", "done", "failed", "cancelled"]
_KEPT: Final = 50


class Cancelled(Exception):
    """Raised inside a job that was told to stop."""


@dataclass
class Job:
    """One piece of work. progress : 0 to 1. error : why it failed."""

    id: str
    what: str
    progress: float = 0.0
    state: State = "running"
    error: InputError | None = None
    stop: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)

    def report(self, share: float) -> None:
        """Note progress; raises Cancelled when the job was told to stop."""
        if self.stop.is_set():
            raise Cancelled
        self.progress = share


_lock = threading.Lock()
_jobs: OrderedDict[str, Job] = OrderedDict()


def started(key: str, what: str, work: Callable[[Callable[[float], None]], Any]) -> Job:
    """The job with this key: the one that runs or ended well, or a new one. `work` gets a function to report progress
    to.
    """
    with _lock:
        job = _jobs.get(key)
        if job is not None and job.state in ("running", "done"):
            return job
        job = _jobs[key] = Job(key, what)
        while len(_jobs) > _KEPT:
            _jobs.popitem(last=False)
    threading.Thread(target=_run, args=(job, work), daemon=True, name=f"job {what}").start()
    return job


def _run(job: Job, work: Callable[[Callable[[float], None]], Any]) -> None:
    try:
        work(job.report)
        job.progress, job.state = 1.0, "done"
    except Cancelled:
        job.state = "cancelled"
    except InputError as exc:
        job.state, job.error = "failed", exc
    except Exception as exc:
        job.state = "failed"
        job.error = InputError(
            "shape", f"could not be worked out ({type(exc).__name__}).", "Simplify the shape, and tell us about it."
        )
    finally:
        job.ended.set()


def job(key: str) -> Job | None:
    """A job by its key."""
    return _jobs.get(key)


def cancel(key: str) -> None:
    """Tell a job to stop; it does so at its next report."""
    found = _jobs.get(key)
    if found is not None:
        found.stop.set()


def job_json(found: Job) -> dict[str, Any]:
    """`{id, what, progress, state, error}`."""
    error = found.error and {"field": found.error.field, "reason": found.error.reason, "cure": found.error.cure}
    return {
        "id": found.id,
        "what": found.what,
        "progress": round(found.progress, 3),
        "state": found.state,
        "error": error,
    }
