"""Bundles in and out, loss-free: the room with its history, readings and watches with their sound, moves, ledger, and
the calibrations of the chains that its readings came through.

Entry by entry, so that a room of years needs no more memory than its largest reading.
"""

import hashlib
import io
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, BinaryIO, Final, TypeVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session

from keenquiet.core.errors import InputError
from keenquiet.core.read.watch import COLUMNS
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.scene import scene_of
from keenquiet.documents.schema import RoomDoc
from keenquiet.service import calibrations
from keenquiet.service.answers.rooms import BundleIn
from keenquiet.service.bundle_rows import CalibrationRow, EntryRow, MoveRow, ReadingRow, RevisionRow, WatchRow, row_of
from keenquiet.service.data import Data, Json, new_id, note_in_ledger, now, room_row
from keenquiet.service.rooms import KEPT_REVISIONS, checked_room, dumped
from keenquiet.store.audio import is_whole
from keenquiet.store.bundle import BundleWriter, OpenBundle, opened_bundle, written_bundle
from keenquiet.store.models import (
    Calibration,
    DoneMove,
    LedgerEntry,
    Reading,
    Revision,
    Room,
    Watch,
    WatchClip,
    WatchPart,
)

_AGAIN: Final = "Export the bundle again."
_AT_A_TIME: Final = 100  # rows
R = TypeVar("R")


@dataclass(frozen=True)
class Exported:
    """name : for the file. missing : readings whose sound is lost or damaged; they go without it."""

    name: str
    missing: tuple[str, ...]


def export_to(data: Data, room_id: str, to: BinaryIO) -> Exported:
    """Write a room's bundle. What is in the bin comes along, still in the bin; a lost sound holds nothing up."""
    missing: list[str] = []
    with written_bundle(to) as out:
        with data.database.session() as session:
            room = room_row(session, room_id)
            out.json("room.json", room.document)
            for revision in _all(session, Revision, room_id, Revision.number):
                out.json(f"revisions/{revision.number:06d}.json", _plain(revision, RevisionRow))
            sounds: dict[str, list[str]] = {}
            chains = set()
            for row in _all(session, Reading, room_id, Reading.sequence):
                out.json(f"readings/{row.id}.json", _plain(row, ReadingRow))
                sounds.setdefault(f"{row.audio_sha256}{row.audio_suffix}", []).append(row.id)
                chains.add(calibrations.chain_of(row.settings))
            out.rows("moves", (_plain(row, MoveRow) for row in _all(session, DoneMove, room_id, DoneMove.sequence)))
            out.rows("ledger", (_plain(row, EntryRow) for row in _all(session, LedgerEntry, room_id, LedgerEntry.id)))
            known = session.scalars(
                select(Calibration).where(Calibration.deleted_at.is_(None)).order_by(Calibration.sequence)
            )
            kept = [_plain(row, CalibrationRow) for row in known if (row.device, row.channel, row.gain) in chains]
            if kept:
                out.json("calibrations.json", kept)
            for watch in _all(session, Watch, room_id, Watch.sequence):
                for clip in _watch_out(session, watch, out):
                    sounds.setdefault(f"{clip.audio_sha256}{clip.audio_suffix}", [])
        for name, readings in sounds.items():
            path = data.audio.folder / name
            if is_whole(path, name[:64]):
                out.sound(path)
            else:
                missing += readings
    return Exported(_file_name(room.name, len(missing)), tuple(missing))


def _all(session: Session, model: type[R], room_id: str, order: Any) -> Iterator[R]:
    """Rows of a room, some at a time."""
    chosen = select(model).where(model.room_id == room_id).order_by(order)  # type: ignore[attr-defined]
    return iter(session.scalars(chosen.execution_options(yield_per=_AT_A_TIME)))


def _watch_out(session: Session, watch: Watch, out: BundleWriter) -> list[WatchClip]:
    """A watch's entries; stretches that follow each other go as one."""
    parts: list[Json] = []
    levels = bytearray()
    for part in session.scalars(select(WatchPart).where(WatchPart.watch_id == watch.id).order_by(WatchPart.from_ms)):
        last = parts[-1] if parts else None
        if (
            last is not None
            and last["offset_min"] == part.offset_min
            and last["from_ms"] + last["count"] * watch.step_ms == part.from_ms
        ):
            last["count"] += part.count
        else:
            parts.append({"from_ms": part.from_ms, "count": part.count, "offset_min": part.offset_min})
        levels += part.levels
    clips = list(session.scalars(select(WatchClip).where(WatchClip.watch_id == watch.id).order_by(WatchClip.at_ms)))
    told = _plain(watch, WatchRow, {"parts": parts, "clips": [_clip(clip) for clip in clips]})
    out.json(f"watches/{watch.id}.json", told)
    out.content(f"watches/{watch.id}.levels", bytes(levels))
    return clips


def _clip(row: WatchClip) -> Json:
    return {name: getattr(row, name) for name in ("at_ms", "seconds", "rise_db", "audio_sha256", "audio_suffix")}


def exported(data: Data, room_id: str) -> tuple[bytes, str]:
    """The same as bytes, with its file name."""
    buffer = io.BytesIO()
    made = export_to(data, room_id, buffer)
    return buffer.getvalue(), made.name


def _plain(row: Any, model: type[BaseModel], more: Json | None = None) -> Json:
    more = more or {}
    values = {name: more[name] if name in more else getattr(row, name) for name in model.model_fields}
    return {name: value.isoformat() if isinstance(value, datetime) else value for name, value in values.items()}


def _file_name(name: str, missing: int) -> str:
    """A name for the file in the room's own script, without what file systems refuse."""
    safe = "".join(ch if ch.isalnum() or ch in "-_" else "-" for ch in name.lower()).strip("-")[:80] or "room"
    lost = f"-without-{missing}-sound{'s' if missing > 1 else ''}" if missing else ""
    return f"{safe}{lost}.kq.zip"


def imported(data: Data, content: bytes | BinaryIO) -> BundleIn:
    """Take a bundle in as a new room. Raises InputError, with nothing kept, when anything in it does not stand.

    A reading whose sound was lost before comes without it. A watch that went on ends where it was exported; a chain
    that is calibrated here keeps its own calibration.
    """
    file = io.BytesIO(content) if isinstance(content, bytes) else content
    with opened_bundle(file) as bundle:
        room = checked_room(bundle.json("room.json"))
        looked = _looked_over(bundle)
        for name in sorted(bundle.sounds):
            if _digest(bundle, name) != name[:64]:
                raise InputError("file", f"the sound {name[:20]} was changed on the way.", _AGAIN)
        for name in sorted(bundle.sounds):
            data.audio.keep_blocks(bundle.blocks(name), name)
        with data.database.session() as session:
            made_id = _filed(session, room, bundle, looked)
            note_in_ledger(session, made_id, "import", f"{room.name} was imported from a bundle", {})
            return BundleIn(id=made_id, name=room.name, readings=looked.readings)


@dataclass
class _Looked:
    """What a first look over a bundle found: that all of it stands, under which new name each thing goes, and in which
    order readings and moves happened.
    """

    ids: dict[str, str] = field(default_factory=dict)
    order: dict[str, int] = field(default_factory=dict)
    readings: int = 0


def _looked_over(bundle: OpenBundle) -> _Looked:
    """Every row checked before any is written. Raises InputError naming the entry that does not stand."""
    looked = _Looked()
    happened: list[tuple[int, datetime, str]] = []
    used: set[str] = set()

    def named(row_id: str) -> None:
        if row_id in looked.ids:
            raise InputError("file", "names two things alike.", _AGAIN)
        looked.ids[row_id] = new_id()

    for name, item in bundle.each("readings"):
        reading = _reading(name, item)
        named(reading.id)
        happened.append((reading.sequence, reading.taken_at, reading.id))
        used.add(f"{reading.audio_sha256}{reading.audio_suffix}")
        looked.readings += 1
    for name, item in bundle.rows("moves"):
        move = row_of(MoveRow, item, name)
        named(move.id)
        happened.append((move.sequence, move.done_at, move.id))
    for name, item in bundle.rows("ledger"):
        row_of(EntryRow, item, name)
    numbers = [row_of(RevisionRow, item, name).number for name, item in bundle.each("revisions")]
    if len(set(numbers)) != len(numbers):
        raise InputError("file/revisions", "has one number twice.", _AGAIN)
    for name, item in bundle.rows("calibrations"):
        row_of(CalibrationRow, item, name)
    for name, item in bundle.each("watches"):
        watch = row_of(WatchRow, item, name)
        named(watch.id)
        _levels_of(bundle, watch)
        used |= {f"{clip.audio_sha256}{clip.audio_suffix}" for clip in watch.clips}
    if strange := bundle.sounds - used:
        raise InputError("file", f"holds a sound {min(strange)[:20]} that nothing in it names.", _AGAIN)
    # by their numbers, or by the clock in bundles that have none
    looked.order = {row_id: number for number, (_, _, row_id) in enumerate(sorted(happened), start=1)}
    return looked


def _levels_of(bundle: OpenBundle, watch: WatchRow) -> bytes:
    name = f"watches/{watch.id}.levels"
    content = bundle.content(name) if name in bundle.names else b""
    if len(content) != COLUMNS * sum(part.count for part in watch.parts):
        raise InputError(f"file/{name}", "does not hold the levels that the watch tells of.", _AGAIN)
    return content


def _reading(where: str, item: Any) -> ReadingRow:
    row = row_of(ReadingRow, item, where)
    try:
        row.fits_its_kind()
    except (InputError, ValidationError) as exc:
        raise InputError(f"file/{where}", "its result is none of its kind.", _AGAIN) from exc
    return row


def _digest(bundle: OpenBundle, name: str) -> str:
    found = hashlib.sha256()
    for block in bundle.blocks(name):
        found.update(block)
    return found.hexdigest()


def _filed(session: Session, room: RoomDoc, bundle: OpenBundle, looked: _Looked) -> str:
    """All of it, read a second time, in the caller's transaction."""
    made = Room(id=new_id(), name=room.name, revision=1, document=dumped(room), created_at=now(), updated_at=now())
    session.add(made)
    session.flush()
    _revisions_in(session, made, bundle)
    newest = max(session.scalar(select(func.max(kind.sequence))) or 0 for kind in (Reading, DoneMove))
    for name, item in bundle.each("readings"):
        reading = row_of(ReadingRow, item, name)
        values = _values(reading, looked.ids) | {"sequence": newest + looked.order[reading.id]}
        if values["scene"] is None:  # an older bundle: the room is all that is known of what it was then
            scene = scene_of(room, read_arrangement(reading.arrangement))
            values["scene"] = scene.model_dump(mode="json", exclude_none=True)
        session.add(Reading(room_id=made.id, **values))
        session.flush()
        session.expunge_all()
    for name, item in bundle.rows("moves"):
        move = row_of(MoveRow, item, name)
        values = _values(move, looked.ids) | {"sequence": newest + looked.order[move.id]}
        session.execute(insert(DoneMove), [{"room_id": made.id, **values}])
    known = set(looked.ids.values())
    for name, item in bundle.rows("ledger"):
        values = _values(row_of(EntryRow, item, name), looked.ids)
        # what it tells of a reading that is gone stays, without the reference
        values |= {one: values[one] if values[one] in known else None for one in ("reading_id", "move_id")}
        session.execute(insert(LedgerEntry), [{"room_id": made.id, **values}])
    _calibrations_in(session, bundle)
    for name, item in bundle.each("watches"):
        _watch_in(session, made.id, row_of(WatchRow, item, name), bundle, looked.ids)
    return made.id


def _revisions_in(session: Session, made: Room, bundle: OpenBundle) -> None:
    """What could be undone can be undone here; what the room is now comes last."""
    rows = [row_of(RevisionRow, item, name) for name, item in bundle.each("revisions")]
    rows = sorted(rows, key=lambda row: row.number)[-KEPT_REVISIONS:]
    for row in rows:
        session.add(Revision(room_id=made.id, **dict(row)))
    made.revision = rows[-1].number if rows else 1
    if not rows or rows[-1].document != made.document:
        made.revision += bool(rows)
        session.add(Revision(room_id=made.id, number=made.revision, document=made.document, saved_at=now()))
    session.flush()


def _calibrations_in(session: Session, bundle: OpenBundle) -> None:
    chains = select(Calibration.device, Calibration.channel, Calibration.gain).where(Calibration.deleted_at.is_(None))
    here = {tuple(chain) for chain in session.execute(chains)}
    for name, item in bundle.rows("calibrations"):
        row = row_of(CalibrationRow, item, name)
        if (row.device, row.channel, row.gain) not in here:
            session.add(Calibration(id=new_id(), **dict(row)))
            session.flush()


def _watch_in(session: Session, room_id: str, row: WatchRow, bundle: OpenBundle, ids: dict[str, str]) -> None:
    values = {name: value for name, value in row if name not in ("parts", "clips", "sequence")}
    if row.ended_at is None:  # the device that listened for it sends to where it came from
        values |= {"ended_at": now(), "stopped_why": "closed"}
    session.add(Watch(**{**values, "id": ids[row.id], "room_id": room_id}))
    session.flush()
    content, at = _levels_of(bundle, row), 0
    for part in row.parts:
        size = COLUMNS * part.count
        session.add(WatchPart(watch_id=ids[row.id], levels=content[at : at + size], **dict(part)))
        at += size
    for clip in row.clips:
        session.add(WatchClip(watch_id=ids[row.id], **dict(clip)))
    session.flush()


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
