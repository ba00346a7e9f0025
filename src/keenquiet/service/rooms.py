"""Rooms: made, saved with revisions, conflicts shown, deleted to a bin."""

from typing import Any

from sqlalchemy import select

from keenquiet.documents import RoomDoc, check_document, read_room
from keenquiet.service.answers import Json
from keenquiet.service.candidates import another_corner
from keenquiet.service.data import Data, new_id, note_in_ledger, now, room_row
from keenquiet.store.errors import RevisionConflict
from keenquiet.store.models import Reading, Revision, Room

_KEPT_REVISIONS = 200


def dumped(room: RoomDoc) -> Json:
    """The document as JSON, without fields that say nothing."""
    return room.model_dump(mode="json", exclude_none=True)


def list_rooms(data: Data, *, binned: bool = False) -> list[Json]:
    """All rooms, or those in the bin, the last changed first."""
    with data.database.session() as session:
        chosen = Room.deleted_at.is_not(None) if binned else Room.deleted_at.is_(None)
        rows = session.scalars(select(Room).where(chosen).order_by(Room.updated_at.desc())).all()
        return [_summary(row) for row in rows]


def _summary(row: Room) -> Json:
    plan = row.document["shape"]["plan"]
    xs, ys = [p[0] for p in plan], [p[1] for p in plan]
    return {
        "id": row.id,
        "name": row.name,
        "revision": row.revision,
        "updated_at": row.updated_at.isoformat(),
        "size_m": [max(xs) - min(xs), max(ys) - min(ys), _highest_m(row.document["shape"]["ceiling"])],
        "project": row.document.get("project"),
        "sketch": {part: row.document.get(part) for part in ("shape", "surfaces", "openings", "furnishings")},
    }


def _highest_m(ceiling: Json) -> float:
    return float(ceiling.get("height_m") or max(height for _, height in ceiling["profile"]))


def opened(data: Data, room_id: str) -> Json:
    """A room with its newest document."""
    with data.database.session() as session:
        row = room_row(session, room_id)
        return {**_summary(row), "document": row.document}


def create(data: Data, document: Any) -> Json:
    """Keep a new room. Raises InputError when the document does not stand."""
    room = read_room(document)
    check_document(room)
    with data.database.session() as session:
        row = Room(id=new_id(), name=room.name, revision=1, document=dumped(room), created_at=now(), updated_at=now())
        session.add(row)
        session.flush()
        session.add(Revision(room_id=row.id, number=1, document=row.document, saved_at=now()))
        note_in_ledger(session, row.id, "room", f"{room.name} was taped out", {})
        return {**_summary(row), "document": row.document}


def save(data: Data, room_id: str, document: Any, *, revision: int) -> Json:
    """Save a changed document over `revision`. Raises RevisionConflict when another one stands by now."""
    room = read_room(document)
    check_document(room)
    with data.database.session() as session:
        row = room_row(session, room_id)
        if row.revision != revision:
            raise RevisionConflict(row.revision)
        row.document, row.name, row.revision, row.updated_at = dumped(room), room.name, revision + 1, now()
        session.add(Revision(room_id=row.id, number=row.revision, document=row.document, saved_at=now()))
        for old in session.scalars(
            select(Revision).where(Revision.room_id == row.id, Revision.number <= row.revision - _KEPT_REVISIONS)
        ):
            session.delete(old)
        return {**_summary(row), "document": row.document}


def remove(data: Data, room_id: str) -> None:
    """Put a room into the bin."""
    with data.database.session() as session:
        room_row(session, room_id).deleted_at = now()


def restore(data: Data, room_id: str) -> Json:
    """Take a room out of the bin."""
    with data.database.session() as session:
        row = session.get(Room, room_id)
        if row is not None:
            row.deleted_at = None
        return _summary(room_row(session, room_id))


def add_corner(data: Data, room_id: str) -> Json:
    """A new room like this one with performer and microphone across it, to be read and compared on its own."""
    with data.database.session() as session:
        document = room_row(session, room_id).document
    return create(data, another_corner(document))


def reading_rows(data: Data, room_id: str, *, binned: bool = False) -> list[Reading]:
    """Readings of a room, newest first."""
    with data.database.session() as session:
        room_row(session, room_id)
        chosen = Reading.deleted_at.is_not(None) if binned else Reading.deleted_at.is_(None)
        return list(
            session.scalars(select(Reading).where(Reading.room_id == room_id, chosen).order_by(Reading.taken_at.desc()))
        )
