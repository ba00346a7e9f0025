"""The data folder as use cases see it: database, audio, clock, and the ledger's pen."""

import hashlib
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from keenquiet.store.audio import AudioStore
from keenquiet.store.database import Database
from keenquiet.store.errors import NotFound
from keenquiet.store.models import LedgerEntry, Reading, Room

Json = dict[str, Any]


class Data:
    """One data folder, opened."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.database = Database(folder)
        self.audio = AudioStore(folder)
        self.kept: dict[str, tuple[int | None, Any]] = {}  # room -> ledger's length and what readings say of its marks

    def close(self) -> None:
        """Let go of the database."""
        self.database.close()


def checked(data: Data) -> Json:
    """What a look over the whole data folder finds: `{sound, database, readings, missing, changed}`."""
    with data.database.session() as session:
        database = str(session.execute(text("PRAGMA integrity_check")).scalar())
        rows = session.scalars(select(Reading)).all()
    missing, changed = [], []
    for row in rows:
        try:
            content = data.audio.path(row.audio_sha256, row.audio_suffix).read_bytes()
        except NotFound:
            missing.append(row.id)
            continue
        if hashlib.sha256(content).hexdigest() != row.audio_sha256:
            changed.append(row.id)
    sound = database == "ok" and not missing and not changed
    return {"sound": sound, "database": database, "readings": len(rows), "missing": missing, "changed": changed}


def now() -> datetime:
    """Current time in UTC."""
    return datetime.now(UTC)


def new_id() -> str:
    """A fresh identifier."""
    return str(uuid4())


def room_row(session: Session, room_id: str, *, fresh: bool = False) -> Room:
    """The room, if it is there and not in the bin; `fresh` after an update by a statement. Raises NotFound."""
    row = session.get(Room, room_id, populate_existing=fresh)
    if row is None or row.deleted_at is not None:
        raise NotFound("There is no such room here; it may have been deleted.")
    return row


def note_in_ledger(
    session: Session,
    room_id: str,
    kind: str,
    title: str,
    detail: Json,
    *,
    reading_id: str | None = None,
    move_id: str | None = None,
) -> None:
    """Add a dated entry in the same transaction as what it tells."""
    session.add(
        LedgerEntry(
            room_id=room_id, at=now(), kind=kind, title=title, detail=detail, reading_id=reading_id, move_id=move_id
        )
    )
