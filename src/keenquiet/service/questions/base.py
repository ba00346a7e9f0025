"""What a question about a room is: one object for each serves the API, the command line and, through the API's own
description, the page.

A new one is a module here with what is asked, what is answered and how it is worked out, and its line in
`service.questions.QUESTIONS`.
"""

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Generic, Literal, Self, TypeVar

from pydantic import BaseModel, ValidationError

from keenquiet.documents.convert import read_room
from keenquiet.documents.errors import input_error
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.numbers import Answer
from keenquiet.service.case import Case
from keenquiet.service.data import Data
from keenquiet.service.jobs import LEASE_S, Job, Report, started
from keenquiet.service.known import room_as_read
from keenquiet.service.shapes import modes_job


class DocumentAsk(BaseModel):
    document: dict[str, Any]

    @classmethod
    def of(cls, **given: Any) -> Self:
        """Of a document that is at hand already. Raises InputError."""
        try:
            return cls(document={}, **{name: value for name, value in given.items() if value is not None})
        except ValidationError as exc:
            raise input_error(exc) from exc


class ArrangementAsk(DocumentAsk):
    """room_id : with it what that room's readings say counts: marks are set beside it, noted noises held against it."""

    arrangement_id: str | None = None
    room_id: str | None = None


A = TypeVar("A", bound=DocumentAsk)
R = TypeVar("R", bound=Answer)
Work = Literal["quick", "modes", "job"]


@dataclass(frozen=True)
class Filed(Generic[A]):
    """The same answer as a file."""

    media: str
    made: Callable[[Case, A], bytes | str]


@dataclass(frozen=True)
class Question(Generic[A, R]):
    """Something that is asked of a document.

    compute : raises InputError for what cannot be; its first line says what is asked. work : whether it needs the
    room's modes, which take long for some shapes, or is a search that is reported on (`what`). heard : whether noises
    are held against the silence of a kept room: at its hour, at all hours, or not here. files : by suffix.
    """

    key: str
    ask: type[A]
    answer: type[R]
    compute: Callable[[Case, A], R]
    work: Work = "modes"
    heard: Literal["now", "always", "not here"] = "now"
    what: str = ""
    files: Mapping[str, Filed[A]] = field(default_factory=dict)

    @property
    def says(self) -> str:
        """What it answers, in a sentence."""
        return (self.compute.__doc__ or "").strip()

    def case(self, asked: A, data: Data | None = None) -> Case:
        """What an ask is about."""
        room = read_room(asked.document)
        given = asked if isinstance(asked, ArrangementAsk) else ArrangementAsk(document={})
        if data is not None and self.heard != "not here":
            at_all_hours = self.heard == "always"
            room = room_as_read(data, given.room_id, room, given.arrangement_id, at_all_hours=at_all_hours)
        return Case(room, given.arrangement_id, data, given.room_id)

    def begun(self, case: Case, asked: A) -> Job[Any] | None:
        """The job that must end first, None where nothing takes long: of a search its own, else the room's modes."""
        if self.work == "quick":
            return None
        if self.work == "modes":
            return modes_job(case.room)
        rows = [(row.id, row.counts) for row in case.rows]
        rests_on = f"{case.room.model_dump_json()}{asked.model_dump_json(exclude={'document'})}{rows}"
        key = f"{self.key}-{hashlib.sha256(rests_on.encode()).hexdigest()[:20]}"

        def work(report: Report) -> R:
            return self.compute(replace(case, report=report), asked)

        return started(key, self.what, work, lease_s=LEASE_S)

    def at(self, room: RoomDoc, arrangement_id: str | None = None, **given: Any) -> R:
        """The answer for a document at hand. given : what is asked besides, None as if it were not. Raises
        InputError.
        """
        return self.compute(Case(room, arrangement_id), self.ask.of(**given))
