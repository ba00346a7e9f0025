"""The data folder as use cases see it: database, audio, clock, and the ledger's pen."""

from collections.abc import Hashable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import uuid4

from sqlalchemy.orm import Session

from keenquiet.core.kept import Kept
from keenquiet.service.answers.rooms import RoomSummary
from keenquiet.store.audio import AudioStore
from keenquiet.store.database import Database
from keenquiet.store.errors import NotFound
from keenquiet.store.models import LedgerEntry, Room

Json = dict[str, Any]


class Data:
    """One data folder, opened."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.database = Database(folder)
        self.audio = AudioStore(folder)
        # what readings of a room say of its marks, by room and the ledger's length
        # rooms in brief by their revision: to read each whole for every list would take a second for a few hundred
        self.summaries: Kept[tuple[str, int], RoomSummary] = Kept(most_bytes=20_000_000, most=4000)
        # what was worked out of recordings, by what they hold: a take is opened again and again
        self.worked: Kept[tuple[Hashable, ...], Any] = Kept(most_bytes=80_000_000, most=400)
        self.kept: Kept[tuple[str, int | None], Any] = Kept(most_bytes=40_000_000, most=32)

    def forget(self) -> None:
        """Nothing that was kept of the database: another one stands in its place."""
        for kept in (self.summaries, self.worked, self.kept):
            kept.clear()

    def close(self) -> None:
        """Let go of the database."""
        self.database.close()


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
