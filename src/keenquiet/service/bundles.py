"""Bundles in and out, loss-free: the room, its readings with sound, moves and ledger."""

import hashlib
from datetime import datetime
from typing import Any, Final

from sqlalchemy import select

from keenquiet.core.errors import InputError
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.scene import scene_of
from keenquiet.service.answers.rooms import BundleIn
from keenquiet.service.data import Data, Json, new_id, note_in_ledger, now, room_row
from keenquiet.service.kinds import kind_named
from keenquiet.service.readings import result_of
from keenquiet.service.rooms import checked_room, dumped
from keenquiet.store.bundle import Bundle, read_bundle, write_bundle
from keenquiet.store.models import DoneMove, LedgerEntry, Reading, Revision, Room

_READING_FIELDS: Final = (
    "id",
    "kind",
    "way",
    "simulated",
    "taken_at",
    "arrangement",
    "audio_sha256",
    "audio_suffix",
    "file_name",
    "sample_rate_hz",
    "seconds",
    "settings",
    "result",
    "measured",
    "predicted",
    "note",
    "tags",
    "counts",
    "empty",
    "room_revision",
    "scene",
    "deleted_at",
)
_MOVE_FIELDS: Final = ("id", "kind", "title", "done_at", "before", "after", "arrangement", "measured_before", "edits")
_LEDGER_FIELDS: Final = ("at", "kind", "title", "detail", "reading_id", "move_id")
# fields that older bundles lack
_SINCE: Final[dict[str, Any]] = {
    "tags": [],
    "counts": True,
    "empty": [],
    "room_revision": None,
    "scene": None,
    "edits": [],
}
_TIMES: Final = ("taken_at", "done_at", "at", "deleted_at")


def _plain(row: Any, fields: tuple[str, ...]) -> Json:
    values = {name: getattr(row, name) for name in fields}
    return {name: value.isoformat() if isinstance(value, datetime) else value for name, value in values.items()}


def exported(data: Data, room_id: str) -> tuple[bytes, str]:
    """A room's bundle and a file name for it. Readings in the bin come along, still in the bin."""
    with data.database.session() as session:
        room = room_row(session, room_id)
        readings = session.scalars(select(Reading).where(Reading.room_id == room_id).order_by(Reading.taken_at)).all()
        moves = session.scalars(select(DoneMove).where(DoneMove.room_id == room_id).order_by(DoneMove.done_at)).all()
        entries = session.scalars(
            select(LedgerEntry).where(LedgerEntry.room_id == room_id).order_by(LedgerEntry.id)
        ).all()
    audio = {
        f"{row.audio_sha256}{row.audio_suffix}": data.audio.path(row.audio_sha256, row.audio_suffix).read_bytes()
        for row in readings
    }
    bundle = Bundle(
        room=room.document,
        readings=[_plain(row, _READING_FIELDS) for row in readings],
        moves=[_plain(row, _MOVE_FIELDS) for row in moves],
        ledger=[_plain(row, _LEDGER_FIELDS) for row in entries],
        audio=audio,
    )
    safe = "".join(ch if ch.isalnum() or ch in "-_" else "-" for ch in room.name.lower()).strip("-") or "room"
    return write_bundle(bundle), f"{safe}.kq.zip"


def imported(data: Data, content: bytes) -> BundleIn:
    """Take a bundle in as a new room. Raises InputError, with nothing kept, when anything in it does not stand."""
    bundle = read_bundle(content)
    room = checked_room(bundle.room)
    needed = {f"{r.get('audio_sha256')}{r.get('audio_suffix')}" for r in bundle.readings}
    if missing := needed - set(bundle.audio):
        raise InputError("file", f"lacks the sound {sorted(missing)[0][:20]} of a reading.", "Export the bundle again.")
    try:
        ids = {str(item["id"]): new_id() for item in (*bundle.readings, *bundle.moves)}
        readings = [Reading(**_times(_only(_renamed(item, ids), _READING_FIELDS))) for item in bundle.readings]
        moves = [DoneMove(**_times(_only(_renamed(item, ids), _MOVE_FIELDS))) for item in bundle.moves]
        known = set(ids.values())
        entries = [LedgerEntry(**_times(_entry(_renamed(item, ids), known))) for item in bundle.ledger]
        for reading in readings:
            kind_named(reading.kind)
            result_of(reading)
            if reading.scene is None:  # an older bundle: the room is all that is known of what it was then
                scene = scene_of(room, read_arrangement(reading.arrangement))
                reading.scene = scene.model_dump(mode="json", exclude_none=True)
    except (KeyError, TypeError, ValueError, AttributeError) as exc:
        raise InputError(
            "file", "holds a reading, move or entry that is not complete.", "Export the bundle again."
        ) from exc
    for name, sound in bundle.audio.items():
        if hashlib.sha256(sound).hexdigest() != name[:64]:
            raise InputError("file", f"the sound {name[:20]} was changed on the way.", "Export the bundle again.")
    for name, sound in bundle.audio.items():
        data.audio.keep(sound, name[64:])
    with data.database.session() as session:
        row = Room(id=new_id(), name=room.name, revision=1, document=dumped(room), created_at=now(), updated_at=now())
        session.add(row)
        session.flush()
        session.add(Revision(room_id=row.id, number=1, document=row.document, saved_at=now()))
        for reading in readings:
            reading.room_id = row.id
        for move in moves:
            move.room_id = row.id
        session.add_all([*readings, *moves])
        session.flush()
        for entry in entries:
            entry.room_id = row.id
            session.add(entry)
        session.flush()
        note_in_ledger(session, row.id, "import", f"{room.name} was imported from a bundle", {})
        return BundleIn(id=row.id, name=row.name, readings=len(readings))


def _renamed(value: Any, ids: dict[str, str]) -> Any:
    """The same with every old identifier, wherever it stands, replaced by its new one: nothing refers into nowhere."""
    if isinstance(value, str):
        return ids.get(value, value)
    if isinstance(value, list):
        return [_renamed(item, ids) for item in value]
    if isinstance(value, dict):
        return {name: _renamed(item, ids) for name, item in value.items()}
    return value


def _entry(item: Json, known: set[str]) -> Json:
    """An entry; what it tells of a reading that is gone stays, without the reference."""
    kept = _only(item, _LEDGER_FIELDS)
    return {**kept, **{name: kept[name] if kept[name] in known else None for name in ("reading_id", "move_id")}}


def _only(item: Json, fields: tuple[str, ...]) -> Json:
    return {name: item.get(name, _SINCE[name]) if name in _SINCE else item[name] for name in fields}


def _times(item: Json) -> Json:
    return {name: datetime.fromisoformat(value) if name in _TIMES and value else value for name, value in item.items()}
