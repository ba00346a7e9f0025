"""Moves carried out and proved, and the ledger that keeps everything dated."""

from datetime import datetime

from sqlalchemy import select

from keenquiet.core.errors import InputError
from keenquiet.documents import read_room
from keenquiet.service.answers import Json, marks_json
from keenquiet.service.data import Data, new_id, note_in_ledger, now
from keenquiet.service.predict import predict
from keenquiet.service.readings import measured_now
from keenquiet.service.rooms import opened, reading_rows, save
from keenquiet.store.models import DoneMove, LedgerEntry, Reading

TRYING = "what-if"
_MARKS = ("bounce", "boom", "hush", "touch")


def mark_done(data: Data, room_id: str, *, revision: int, kind: str, title: str) -> Json:
    """The arrangement being tried becomes the standing one; the move is kept with what was predicted for it."""
    room = read_room(opened(data, room_id)["document"])
    before = room.arrangement_doc(None)
    tried = next((arrangement for arrangement in room.arrangements if arrangement.id == TRYING), None)
    if tried is None or before.id == TRYING:
        raise InputError("arrangements", "no move is being tried.", "Try a move first, then mark it done.")
    forecasts = {
        "before": predict(room, before.id),
        "after": predict(room, TRYING),
        "reading_before": predict(room, before.id, loudspeaker=True),
        "reading_after": predict(room, TRYING, loudspeaker=True),
    }
    marks = {name: _headlines(marks_json(result, room)) for name, result in forecasts.items()}
    measured = measured_now(data, room_id)
    standing = tried.model_dump(mode="json", exclude_none=True) | {"id": before.id, "name": before.name or "As it is"}
    standing.pop("trying", None)
    document = room.model_dump(mode="json", exclude_none=True)
    document["arrangements"] = [standing] + [a for a in document["arrangements"] if a["id"] not in (before.id, TRYING)]
    saved = save(data, room_id, document, revision=revision)
    with data.database.session() as session:
        move = DoneMove(
            id=new_id(),
            room_id=room_id,
            kind=kind[:24],
            title=title[:300],
            done_at=now(),
            before={"marks": marks["before"], "reading": marks["reading_before"]},
            after={"marks": marks["after"], "reading": marks["reading_after"]},
            arrangement=standing,
            measured_before=measured,
        )
        session.add(move)
        session.flush()
        note_in_ledger(session, room_id, "move", title[:300], {}, move_id=move.id)
    return saved


def _headlines(marks: Json) -> Json:
    return {mark: {"value": marks[mark]["value"], "plus_minus": marks[mark]["plus_minus"]} for mark in _MARKS}


def ledger(data: Data, room_id: str) -> list[Json]:
    """Everything that happened in a room, newest first; moves carry their proof as far as readings give one."""
    readings = sorted(reading_rows(data, room_id), key=lambda row: row.taken_at)
    with data.database.session() as session:
        entries = session.scalars(
            select(LedgerEntry)
            .where(LedgerEntry.room_id == room_id)
            .order_by(LedgerEntry.at.desc(), LedgerEntry.id.desc())
        ).all()
        moves = {
            move.id: move
            for move in session.scalars(select(DoneMove).where(DoneMove.room_id == room_id).order_by(DoneMove.done_at))
        }
    ends = _until_next(list(moves.values()))
    return [
        {
            "id": entry.id,
            "at": entry.at.isoformat(),
            "kind": entry.kind,
            "title": entry.title,
            "detail": entry.detail,
            "reading_id": entry.reading_id,
            "move_id": entry.move_id,
            "proof": _proof(moves[entry.move_id], readings, ends[entry.move_id]) if entry.move_id in moves else None,
        }
        for entry in entries
    ]


def _until_next(moves: list[DoneMove]) -> dict[str, datetime | None]:
    return {
        move.id: following.done_at if following else None
        for move, following in zip(moves, [*moves[1:], None], strict=True)
    }


def _proof(move: DoneMove, readings: list[Reading], until: datetime | None) -> list[Json]:
    """For each mark: predicted after and measured after, side by side, and both changes where a former reading
    allows.
    """
    later = [
        row
        for row in readings
        if row.taken_at > move.done_at
        and (until is None or row.taken_at < until)
        and row.counts
        and row.result["verdict"]["usable"]
    ]
    rows = []
    for mark in _MARKS:
        settling = [row for row in later if mark in row.measured]
        found = next((row for row in settling if not row.simulated), settling[0] if settling else None)
        by_loudspeaker = mark in ("bounce", "boom")
        after = move.after["reading" if by_loudspeaker else "marks"][mark]
        before = move.before["reading" if by_loudspeaker else "marks"][mark]
        if after["value"] is None:
            continue
        former = move.measured_before.get(mark)
        row: Json = {
            "mark": mark,
            "predicted_before": before["value"],
            "predicted": after["value"],
            "plus_minus": after["plus_minus"],
            "measured": None,
            "measured_plus_minus": None,
            "measured_before": former.get("raw_value", former["value"]) if former else None,
            "simulated": None,
            "reading_id": None,
            "within": None,
        }
        if found is not None:
            figure = found.measured[mark]
            spread = 2 * (after["plus_minus"] ** 2 + figure["plus_minus"] ** 2) ** 0.5
            row |= {
                "measured": figure["value"],
                "measured_plus_minus": figure["plus_minus"],
                "simulated": found.simulated,
                "reading_id": found.id,
                "within": abs(figure["value"] - after["value"]) <= spread,
            }
        rows.append(row)
    return rows
