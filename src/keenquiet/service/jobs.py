"""Work that takes more than half a second, in the background: progress, cancel, results that outlive the page.

A few workers take jobs in turn from a bounded queue. A job is found again by its key, so that a page that was reloaded
meets its own work; a search that nobody asks after any more stops by itself.
"""

import threading
import time
from collections import OrderedDict, deque
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Final, Generic, Literal, TypeVar
from uuid import uuid4

from keenquiet.core.errors import InputError
from keenquiet.service.answers.jobs import JobAnswer, JobError

State = Literal["waiting", "running", "done", "failed", "cancelled"]
Report = Callable[[float], None]
T = TypeVar("T")
_KEPT: Final = 50
_WORKERS: Final = 2
_MOST_WAITING: Final = 24
LEASE_S: Final = 12.0  # so long may a page be gone that reloads


class Cancelled(Exception):
    """Raised inside a job that was told to stop."""


class TooMany(Exception):
    """The queue is full; nothing was begun."""


@dataclass(eq=False)
class Job(Generic[T]):
    """One piece of work. progress : 0 to 1. result : of a job that is done. error : why it failed.

    lease_s : a job that nobody has asked after for so long stops; None works to its end.
    """

    id: str
    key: str
    what: str
    work: Callable[[Report], T]
    lease_s: float | None = None
    progress: float = 0.0
    state: State = "waiting"
    result: T | None = None
    error: Exception | None = None
    stop: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)
    asked_at: float = field(default_factory=time.monotonic)

    @property
    def going(self) -> bool:
        """Whether it is still to be waited for: neither ended nor told to stop."""
        return self.state in ("waiting", "running") and not self.stop.is_set()

    def report(self, share: float) -> None:
        """Note progress; raises Cancelled when the job was told to stop or is asked after no more."""
        if self.lease_s is not None and time.monotonic() - self.asked_at > self.lease_s:
            self.stop.set()
        if self.stop.is_set():
            raise Cancelled
        self.progress = share

    def value(self) -> T:
        """Wait for the end and give the result. Raises what the work raised, Cancelled when it was stopped."""
        while not self.ended.wait(1.0):
            self.asked_at = time.monotonic()  # whoever waits still asks
        if self.error is not None:
            raise self.error
        if self.state != "done":
            raise Cancelled
        return self.result  # type: ignore[return-value]


_lock = threading.Lock()
_by_key: OrderedDict[str, Job[Any]] = OrderedDict()
_by_id: OrderedDict[str, Job[Any]] = OrderedDict()
_waiting: deque[Job[Any]] = deque()
_came = threading.Condition(_lock)
_workers: list[threading.Thread] = []


def started(key: str, what: str, work: Callable[[Report], T], *, lease_s: float | None = None) -> Job[T]:
    """The job with this key: the one that goes on or ended well, or a new one. `work` gets a function to report
    progress to. Raises TooMany when too much is waiting.
    """
    with _lock:
        job = _by_key.get(key)
        if job is not None and (job.going or job.state == "done"):
            job.asked_at = time.monotonic()
            return job
        job = Job(uuid4().hex, key, what, work, lease_s)
        if len(_waiting) >= _MOST_WAITING:
            raise TooMany("Too much is being worked out at once.")
        _waiting.append(job)
        _came.notify()
        for kept, name in ((_by_key, key), (_by_id, job.id)):
            kept[name] = job
            kept.move_to_end(name)
            while len(kept) > _KEPT:
                kept.popitem(last=False)
        while len(_workers) < _WORKERS:
            worker = threading.Thread(target=_work, daemon=True, name=f"worker {len(_workers) + 1}")
            _workers.append(worker)
            worker.start()
    return job


def _work() -> None:
    while True:
        with _came:
            _came.wait_for(lambda: _waiting)
            job = _waiting.popleft()
        try:
            job.report(0.0)
            job.state = "running"
            job.result = job.work(job.report)
            job.progress, job.state = 1.0, "done"
        except Cancelled:
            job.state = "cancelled"
        except Exception as exc:
            job.error, job.state = exc, "failed"
        finally:
            job.ended.set()


def job(job_id: str) -> Job[Any] | None:
    """A job by its id; asking keeps it going."""
    found = _by_id.get(job_id)
    if found is not None:
        found.asked_at = time.monotonic()
    return found


def cancel(job_id: str) -> None:
    """Tell a job to stop: one that waits leaves the row at once, one that runs stops at its next report."""
    found = _by_id.get(job_id)
    if found is None:
        return
    found.stop.set()
    with _lock:
        if found in _waiting:
            _waiting.remove(found)
            found.state = "cancelled"
            found.ended.set()


def stop_all() -> None:
    """Tell every job to stop: the server is going down."""
    for found in list(_by_id.values()):
        found.stop.set()


def job_answer(found: Job[Any]) -> JobAnswer:
    """How far a job is. One that was told to stop counts as cancelled at once."""
    state = "cancelled" if found.stop.is_set() and found.state in ("waiting", "running") else found.state
    return JobAnswer.model_validate(
        {
            "id": found.id,
            "what": found.what,
            "progress": round(found.progress, 3),
            "state": state,
            "error": None if found.error is None else _error(found.error),
        }
    )


def _error(exc: Exception) -> JobError:
    if isinstance(exc, InputError):
        return JobError(field=exc.field, reason=exc.reason, cure=exc.cure)
    reason = f"could not be worked out ({type(exc).__name__})."
    return JobError(field="work", reason=reason, cure="Simplify the room, and tell us about it.")
