"""Background work as answers."""

from typing import Literal

from keenquiet.service.answers.numbers import Answer


class JobError(Answer):
    field: str
    reason: str
    cure: str


class JobAnswer(Answer):
    """How far a piece of work is: ask again for its result when it is done."""

    id: str
    what: str
    progress: float
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    error: JobError | None


class HealthAnswer(Answer):
    """The server answers. preparing : what still comes into the data folder, such as the demo's readings."""

    status: Literal["ok"] = "ok"
    preparing: JobAnswer | None


class Pending(Answer):
    """The answer is being worked out; ask again when the job has ended."""

    pending: JobAnswer
