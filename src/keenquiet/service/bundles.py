"""Bundles in and out, loss-free: the room, its readings with sound, moves and ledger."""

import hashlib
import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, BinaryIO, Final

from pydantic import ValidationError
from sqlalchemy import func, select

from keenquiet.core.errors import InputError
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.scene import scene_of
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.rooms import BundleIn
from keenquiet.service.bundle_rows import EntryRow, MoveRow, ReadingRow, row_of
from keenquiet.service.data import Data, Json, new_id, note_in_ledger, now, room_row
from keenquiet.service.rooms import checked_room, dumped
from keenquiet.store.audio import is_whole
from keenquiet.store.bundle import Bundle, OpenBundle, opened_bundle, write_bundle
from keenquiet.store.models import DoneMove, LedgerEntry, Reading, Revision, Room

_AGAIN: Final = "Export the bundle again."


@dataclass(frozen=True)
class Exported:
    """name : for the file. missing : readings whose sound is lost or damaged; they go without it."""

    name: str
    missing: tuple[str, ...]


def export_to(data: Data, room_id: str, to: BinaryIO) -> Exported:
    """Write a room's bundle. Readings in the bin come along, still in the bin; a lost sound holds nothing up."""
    with data.database.session() as session:
        room = room_row(session, room_id)
        readings = session.scalars(select(Reading).where(Reading.room_id == room_id).order_by(Reading.sequence)).all()
        moves = session.scalars(select(DoneMove).where(DoneMove.room_id == room_id).order_by(DoneMove.sequence)).all()
        entries = session.scalars(
            select(LedgerEntry).where(LedgerEntry.room_id == room_id).order_by(LedgerEntry.id)
        ).all()
    sounds, missing = {}, []
    for row in readings:
        path = data.audio.folder / f"{row.audio_sha256}{row.audio_suffix}"
        if is_whole(path, row.audio_sha256):
            sounds[path.name] = path
        else:
            missing.append(row.id)
    bundle = Bundle(
        room=room.document,
        readings=[_plain(row, ReadingRow) for row in readings],
        moves=[_plain(row, MoveRow) for row in moves],
        ledger=[_plain(row, EntryRow) for row in entries],
    )
    write_bundle(bundle, sounds, to)
    return Exported(_file_name(room.name, len(missing)), tuple(missing))


def exported(data: Data, room_id: str) -> tuple[bytes, str]:
    """The same as bytes, with its file name."""
    buffer = io.BytesIO()
    made = export_to(data, room_id, buffer)
    return buffer.getvalue(), made.name


def _plain(row: Any, model: type[ReadingRow | MoveRow | EntryRow]) -> Json:
    values = {name: getattr(row, name) for name in model.model_fields}
    return {name: value.isoformat() if isinstance(value, datetime) else value for name, value in values.items()}


def _file_name(name: str, missing: int) -> str:
    """A name for the file in the room's own script, without what file systems refuse."""
    safe = "".join(ch if ch.isalnum() or ch in "-_" else "-" for ch in name.lower()).strip("-")[:80] or "room"
    lost = f"-without-{missing}-sound{'s' if missing > 1 else ''}" if missing else ""
    return f"{safe}{lost}.kq.zip"


def imported(data: Data, content: bytes | BinaryIO) -> BundleIn:
    """Take a bundle in as a new room. Raises InputError, with nothing kept, when anything in it does not stand.

    A reading whose sound was lost before comes without it.
    """
    file = io.BytesIO(content) if isinstance(content, bytes) else content
    with opened_bundle(file) as bundle:
        room = checked_room(bundle.rows.room)
        found = [_reading(item, number) for number, item in enumerate(bundle.rows.readings)]
        moves = [row_of(MoveRow, item, f"moves.json/{n}") for n, item in enumerate(bundle.rows.moves)]
        entries = [row_of(EntryRow, item, f"ledger.json/{n}") for n, item in enumerate(bundle.rows.ledger)]
        ids = _fresh_ids([*(row.id for row in found), *(row.id for row in moves)])
        used = {f"{row.audio_sha256}{row.audio_suffix}" for row in found}
        if strange := bundle.sounds - used:
            raise InputError("file", f"holds a sound {min(strange)[:20]} that no reading names.", _AGAIN)
        for name in sorted(bundle.sounds):
            if _digest(bundle, name) != name[:64]:
                raise InputError("file", f"the sound {name[:20]} was changed on the way.", _AGAIN)
        for name in sorted(bundle.sounds):
            data.audio.keep_blocks(bundle.blocks(name), name)
    return _filed(data, room, found, moves, entries, ids)


def _reading(item: Any, number: int) -> ReadingRow:
    where = f"readings/{item.get('id') if isinstance(item.get('id'), str) else number}.json"[:60]
    row = row_of(ReadingRow, item, where)
    try:
        row.fits_its_kind()
    except (InputError, ValidationError) as exc:
        raise InputError(f"file/{where}", "its result is none of its kind.", _AGAIN) from exc
    return row


def _fresh_ids(old: list[str]) -> dict[str, str]:
    if len(set(old)) != len(old):
        raise InputError("file", "names two things alike.", _AGAIN)
    return {one: new_id() for one in old}


def _digest(bundle: OpenBundle, name: str) -> str:
    found = hashlib.sha256()
    for block in bundle.blocks(name):
        found.update(block)
    return found.hexdigest()


def _filed(
    data: Data,
    room: RoomDoc,
    found: list[ReadingRow],
    moves: list[MoveRow],
    entries: list[EntryRow],
    ids: dict[str, str],
) -> BundleIn:
    """All of it in one transaction."""
    order = _in_order(found, moves)
    known = set(ids.values())
    with data.database.session() as session:
        made = Room(id=new_id(), name=room.name, revision=1, document=dumped(room), created_at=now(), updated_at=now())
        session.add(made)
        session.flush()
        session.add(Revision(room_id=made.id, number=1, document=made.document, saved_at=now()))
        newest = max(session.scalar(select(func.max(kind.sequence))) or 0 for kind in (Reading, DoneMove))
        for reading in found:
            values = _values(reading, ids) | {"sequence": newest + order[reading.id]}
            if values["scene"] is None:  # an older bundle: the room is all that is known of what it was then
                scene = scene_of(room, read_arrangement(reading.arrangement))
                values["scene"] = scene.model_dump(mode="json", exclude_none=True)
            session.add(Reading(room_id=made.id, **values))
        for move in moves:
            session.add(DoneMove(room_id=made.id, **_values(move, ids) | {"sequence": newest + order[move.id]}))
        session.flush()
        for entry in entries:
            values = _values(entry, ids)
            # what it tells of a reading that is gone stays, without the reference
            values |= {name: values[name] if values[name] in known else None for name in ("reading_id", "move_id")}
            session.add(LedgerEntry(room_id=made.id, **values))
            session.flush()
        note_in_ledger(session, made.id, "import", f"{room.name} was imported from a bundle", {})
        return BundleIn(id=made.id, name=made.name, readings=len(found))


def _in_order(readings: Sequence[ReadingRow], moves: Sequence[MoveRow]) -> dict[str, int]:
    """Places from 1 in what happened: by their numbers, or by the clock in bundles that have none."""
    rows = [*((r.sequence, r.taken_at, r.id) for r in readings), *((m.sequence, m.done_at, m.id) for m in moves)]
    return {row_id: number for number, (_, _, row_id) in enumerate(sorted(rows), start=1)}


def _values(row: ReadingRow | MoveRow | EntryRow, ids: dict[str, str]) -> Json:
    """A row's columns; every old identifier, wherever it stands, is replaced by its new one: nothing refers into
    nowhere.
    """
    times = {name: value for name, value in row if isinstance(value, datetime)}
    plain: Json = _renamed(row.model_dump(mode="json", exclude=set(times)), ids)
    return plain | times


def _renamed(value: Any, ids: dict[str, str]) -> Any:
    if isinstance(value, str):
        return ids.get(value, value)
    if isinstance(value, list):
        return [_renamed(item, ids) for item in value]
    if isinstance(value, dict):
        return {name: _renamed(item, ids) for name, item in value.items()}
    return value
