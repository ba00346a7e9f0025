"""Rooms: made, saved with revisions, conflicts shown, deleted to a bin."""

from functools import partial
from typing import Any, Final

from sqlalchemy import CursorResult, delete, func, select, update
from sqlalchemy.orm import Session

from keenquiet.core.errors import InputError
from keenquiet.documents.convert import check_document, read_room
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.rooms import RoomAnswer, RoomSummary, Sketch
from keenquiet.service.candidates import another_corner, with_somebody
from keenquiet.service.data import Data, Json, new_id, note_in_ledger, now, room_row
from keenquiet.store.errors import RevisionConflict
from keenquiet.store.models import Revision, Room

KEPT_REVISIONS: Final = 200


def dumped(room: RoomDoc) -> Json:
    """The document as JSON, without fields that say nothing."""
    return room.model_dump(mode="json", exclude_none=True)


def checked_room(document: Any) -> RoomDoc:
    """A document read and checked as a whole, with somebody in it. Raises InputError when it does not stand."""
    room = with_somebody(read_room(document))
    check_document(room)
    return room


def list_rooms(
    data: Data, *, binned: bool = False, after: int = 0, most: int | None = None, project: str | None = None
) -> list[RoomSummary]:
    """Rooms, or those in the bin, the last changed first. after : so many others; most : of them; project : of one."""
    with data.database.session() as session:
        chosen = Room.deleted_at.is_not(None) if binned else Room.deleted_at.is_(None)
        # the number of the newest revision, not the clock: one that was set back would bury what was just changed
        newest = select(func.max(Revision.id)).where(Revision.room_id == Room.id).scalar_subquery()
        found = select(Room).where(chosen).order_by(newest.desc()).offset(after).limit(most)
        if project is not None:
            found = found.where(func.coalesce(Room.document["project"].as_string(), "") == project)
        rows = session.scalars(found).all()
        return [data.summaries.find((row.id, row.revision), partial(_summary, row)) for row in rows]


def rooms_beside(data: Data, room_id: str, *, project: str) -> list[RoomDoc]:
    """The other rooms of a project that can be read, the last changed first."""
    found = []
    for row in list_rooms(data, project=project):
        if row.id != room_id and row.broken is None:
            with data.database.session() as session:
                found.append(with_somebody(read_room(room_row(session, row.id).document)))
    return found


def _summary(row: Room) -> RoomSummary:
    """A room in brief; one that cannot be read breaks no list: it says so, and can be exported as it is and binned."""
    try:
        return RoomSummary(**_brief(row), broken=_broken(row))
    except (KeyError, TypeError, ValueError, IndexError, AttributeError):
        return RoomSummary(
            id=row.id,
            name=row.name or "A room without a name",
            revision=row.revision,
            updated_at=row.updated_at.isoformat(),
            broken="What was kept of it is damaged. Its readings, if they are whole, go with it when it is saved.",
        )


def _broken(row: Room) -> str | None:
    try:
        read_room(row.document)
    except InputError as exc:
        return f"{exc.field} {exc.reason}"
    return None


def _brief(row: Room) -> dict[str, Any]:
    plan = row.document["shape"]["plan"]
    xs, ys = [p[0] for p in plan], [p[1] for p in plan]
    return {
        "id": row.id,
        "name": row.name,
        "revision": row.revision,
        "updated_at": row.updated_at.isoformat(),
        "size_m": (max(xs) - min(xs), max(ys) - min(ys), _highest_m(row.document["shape"]["ceiling"])),
        "project": row.document.get("project"),
        "sketch": Sketch.model_validate(row.document),
    }


def room_answer(row: Room) -> RoomAnswer:
    """A room with its document, one of a former version brought up to date."""
    document = with_somebody(read_room(row.document))  # first: what is wrong with it is said by its field
    return RoomAnswer(**_brief(row), document=document)


def _highest_m(ceiling: Json) -> float:
    return float(ceiling.get("height_m") or max(height for _, height in ceiling["profile"]))


def opened(data: Data, room_id: str) -> RoomAnswer:
    """A room with its newest document."""
    with data.database.session() as session:
        return room_answer(room_row(session, room_id))


def create(data: Data, document: Any) -> RoomAnswer:
    """Keep a new room. Raises InputError when the document does not stand."""
    room = checked_room(document)
    with data.database.session() as session:
        row = Room(id=new_id(), name=room.name, revision=1, document=dumped(room), created_at=now(), updated_at=now())
        session.add(row)
        session.flush()
        session.add(Revision(room_id=row.id, number=1, document=row.document, saved_at=now()))
        note_in_ledger(session, row.id, "room", f"{room.name} was taped out", {})
        return room_answer(row)


def free_name(data: Data, name: str) -> str:
    """The name, or with the first number under which no room is called so: three box rooms are told apart."""
    with data.database.session() as session:
        taken = set(session.scalars(select(Room.name).where(Room.deleted_at.is_(None))))
    numbered = (f"{name[:110]} {number}" for number in range(2, len(taken) + 3))
    return name if name not in taken else next(other for other in numbered if other not in taken)


def save(data: Data, room_id: str, document: Any, *, revision: int, label: str = "") -> RoomAnswer:
    """Save a changed document over `revision`; label : what was changed, as undo says it. Raises RevisionConflict when
    another one stands by now.
    """
    room = checked_room(document)
    with data.database.session() as session:
        return room_answer(save_in(session, room_id, room, revision=revision, label=label))


def save_in(session: Session, room_id: str, room: RoomDoc, *, revision: int, label: str) -> Room:
    """The same within a transaction: one conditional update, so that of two at once one is refused."""
    document = dumped(room)
    changed = session.execute(
        update(Room)
        .where(Room.id == room_id, Room.revision == revision, Room.deleted_at.is_(None))
        .values(document=document, name=room.name, revision=revision + 1, updated_at=now())
    )
    assert isinstance(changed, CursorResult)
    row = room_row(session, room_id, fresh=True)
    if changed.rowcount != 1:
        raise RevisionConflict(row.revision)
    session.add(Revision(room_id=room_id, number=row.revision, document=document, saved_at=now(), label=label))
    session.execute(
        delete(Revision).where(Revision.room_id == room_id, Revision.number <= row.revision - KEPT_REVISIONS)
    )
    return row


def remove(data: Data, room_id: str) -> None:
    """Put a room into the bin."""
    with data.database.session() as session:
        room_row(session, room_id).deleted_at = now()


def restore(data: Data, room_id: str) -> RoomSummary:
    """Take a room out of the bin."""
    with data.database.session() as session:
        row = session.get(Room, room_id)
        if row is not None:
            row.deleted_at = None
        return _summary(room_row(session, room_id))


def add_corner(data: Data, room_id: str) -> RoomAnswer:
    """A new room like this one with performer and microphone across it, to be read and compared on its own."""
    with data.database.session() as session:
        document = dumped(with_somebody(read_room(room_row(session, room_id).document)))
    return create(data, another_corner(document))
