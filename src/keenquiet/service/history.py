"""Undo and redo of a room as the server keeps them: its revisions, walked again, so that they live through a reload.

A revision that is a former document again was an undo (or a redo, where it had been undone before); any other is a
change. What lies ahead of a change is gone, as on the page.
"""

import json
from dataclasses import dataclass
from typing import Final

from sqlalchemy import Text, select, type_coerce

from keenquiet.core.errors import InputError
from keenquiet.documents.convert import read_room
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.rooms import HistoryAnswer, HistoryStep
from keenquiet.service.candidates import with_somebody
from keenquiet.service.data import Data, room_row
from keenquiet.store.models import Revision

MOST_STEPS: Final = 50


@dataclass(frozen=True)
class Step:
    """A former document, or one ahead, as it is kept; label : what was changed between it and its neighbour towards the
    present.
    """

    document: str
    label: str


def walked(revisions: list[Step]) -> tuple[list[Step], list[Step]]:
    """Past and future after these revisions, oldest first, each with what was changed by it."""
    past: list[Step] = []
    future: list[Step] = []
    present: str | None = None
    for revision in revisions:
        document = revision.document
        if present is None or document == present:
            present = document
            continue
        back = next((i for i in range(len(past) - 1, -1, -1) if past[i].document == document), None)
        ahead = next((i for i, step in enumerate(future) if step.document == document), None)
        if back is not None:
            undone = past[back:]
            later = [*(step.document for step in undone[1:]), present]
            future = [Step(doc, step.label) for doc, step in zip(later, undone, strict=True)] + future
            past = past[:back]
        elif ahead is not None:
            redone = future[: ahead + 1]
            before = [present, *(step.document for step in redone[:-1])]
            past += [Step(doc, step.label) for doc, step in zip(before, redone, strict=True)]
            future = future[ahead + 1 :]
        else:
            past.append(Step(present, revision.label))
            future = []
        present = document
    return past, future


def history(data: Data, room_id: str, revision: int) -> HistoryAnswer:
    """What could be undone and redone when a revision stood, the nearest fifty of each."""
    with data.database.session() as session:
        room_row(session, room_id)
        rows = session.execute(
            select(type_coerce(Revision.document, Text), Revision.label)
            .where(Revision.room_id == room_id, Revision.number <= revision)
            .order_by(Revision.number)
        ).all()
    past, future = walked([Step(document, label) for document, label in rows])
    return HistoryAnswer(past=_read(past[::-1])[::-1], future=_read(future))


def _read(nearest_first: list[Step]) -> list[HistoryStep]:
    """As far as they can be read: one of a former version that cannot ends the way."""
    found = []
    for step in nearest_first[:MOST_STEPS]:
        document = _document(step)
        if document is None:
            break
        found.append(HistoryStep(document=document, label=step.label))
    return found


def _document(step: Step) -> RoomDoc | None:
    try:
        return with_somebody(read_room(json.loads(step.document)))
    except (InputError, ValueError):
        return None
