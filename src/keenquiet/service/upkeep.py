"""The data folder looked over, tidied after kills, and repaired as far as that goes."""

import contextlib
import json
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final

from sqlalchemy import select

from keenquiet.core.errors import InputError, KeenQuietError
from keenquiet.documents.convert import read_room
from keenquiet.service.data import Data, Json
from keenquiet.store.apart import TEMPORARY
from keenquiet.store.audio import is_whole
from keenquiet.store.database import Database
from keenquiet.store.models import Base, Reading, WatchClip

_DATABASE: Final = "keenquiet.db"


def swept(data: Data, *, older_than_s: float = 600.0) -> Json:
    """Remove what kills left behind: half-written and unreferenced sounds, folders of readers that are gone.

    Names of what went: `{sounds, folders}`.
    """

    def referenced() -> set[str]:
        with data.database.session() as session:
            return {
                f"{sha}{suffix}"
                for table in (Reading, WatchClip)
                for sha, suffix in session.execute(select(table.audio_sha256, table.audio_suffix))
            }

    return {"sounds": data.audio.sweep(referenced, older_than_s=older_than_s), "folders": _swept_folders()}


def _swept_folders() -> list[str]:
    gone = []
    for path in Path(tempfile.gettempdir()).glob(f"{TEMPORARY}*"):
        owner = path.name.removeprefix(TEMPORARY).split("-", 1)[0]
        if owner.isdigit() and not _lives(int(owner)):
            shutil.rmtree(path, ignore_errors=True)
            gone.append(path.name)
    return sorted(gone)


def _lives(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:  # somebody else's
        return True
    return True


def checked(folder: Path) -> Json:
    """What a look over a data folder finds; nothing in it is touched.

    `{sound, database, rooms, readings, missing, changed, broken, left, cure}`. Raises InputError where there is none.
    """
    path = folder / _DATABASE
    if not path.is_file():
        raise InputError("data", f"{folder} is no data folder.", "Choose it with --data; `serve` makes one.")
    found: Json = {"database": "ok", "rooms": 0, "readings": 0, "missing": [], "changed": [], "broken": []}
    used: set[str] = set()
    try:
        with _read_only(path) as connection:
            state = connection.execute("PRAGMA integrity_check").fetchone()[0]
            found["database"] = str(state)
            for room_id, document in connection.execute("SELECT id, document FROM rooms").fetchall():
                found["rooms"] += 1
                if not _stands(document):
                    found["broken"].append(room_id)
            for row_id, sha, suffix in connection.execute("SELECT id, audio_sha256, audio_suffix FROM readings"):
                found["readings"] += 1
                sound = folder / "audio" / f"{sha}{suffix}"
                used.add(sound.name)
                if not sound.is_file():
                    found["missing"].append(row_id)
                elif not is_whole(sound, sha):
                    found["changed"].append(row_id)
            if connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'watch_clips'").fetchone():
                clips = connection.execute("SELECT audio_sha256, audio_suffix FROM watch_clips")
                used |= {f"{sha}{suffix}" for sha, suffix in clips}
    except sqlite3.Error as exc:
        found["database"] = f"damaged: {exc}"
    found["left"] = sorted(p.name for p in (folder / "audio").glob("*") if used and p.name not in used)
    found["sound"] = found["database"] == "ok" and not (found["missing"] or found["changed"] or found["broken"])
    found["cure"] = _cure(found)
    return found


def _stands(document: Any) -> bool:
    try:
        read_room(json.loads(document))
    except (KeenQuietError, ValueError, TypeError):
        return False
    return True


def _cure(found: Json) -> str:
    if found["database"] != "ok":
        return "`check --repair` saves what can still be read into a new database; the damaged one is kept beside it."
    if found["missing"] or found["changed"]:
        return "Bring the recording's file, or a bundle that holds it, again: the same sound heals a damaged one."
    if found["broken"]:
        return "These rooms cannot be opened; they can be exported as they are, and put into the bin."
    return ""


@contextlib.contextmanager
def _read_only(path: Path) -> Iterator[sqlite3.Connection]:
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        yield connection
    finally:
        connection.close()


def repaired(folder: Path) -> Json:
    """A damaged database's readable rows in a new one, the damaged one kept beside it; and what is then found.

    Raises InputError where there is nothing to repair.
    """
    before = checked(folder)
    if before["database"] == "ok":
        raise InputError("data", "has a sound database; there is nothing to repair.", before["cure"] or "Go on.")
    made = folder / f"repair-{datetime.now(UTC):%Y%m%dT%H%M%S}"
    database = Database(made)
    rows = 0
    try:
        with database.engine.begin() as connection:
            for table in Base.metadata.sorted_tables:
                names = [column.name for column in table.columns]
                for row in _readable(folder / _DATABASE, table.name, names):
                    # a row that refers to a lost one, or is twice there, is left behind
                    with contextlib.suppress(Exception), connection.begin_nested():
                        marks = ", ".join("?" for _ in names)
                        listed = ", ".join(names)
                        connection.exec_driver_sql(f"INSERT INTO {table.name} ({listed}) VALUES ({marks})", row)
                        rows += 1
    finally:
        database.close()
    kept = folder / f"{_DATABASE}.damaged-{datetime.now(UTC):%Y%m%dT%H%M%S}"
    for end in ("", "-wal", "-shm"):
        with contextlib.suppress(FileNotFoundError):
            os.replace(f"{folder / _DATABASE}{end}", f"{kept}{end}")
    os.replace(made / _DATABASE, folder / _DATABASE)
    shutil.rmtree(made, ignore_errors=True)
    return {**checked(folder), "rows_saved": rows, "damaged_kept_as": kept.name}


def _readable(path: Path, table: str, names: list[str]) -> Iterator[tuple[Any, ...]]:
    """Rows of a table that can still be read: from the front up to the damage, then from the back down to it."""
    seen: set[int] = set()
    for way in ("ASC", "DESC"):
        with contextlib.suppress(sqlite3.Error), _read_only(path) as connection:
            there = {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}
            listed = ", ".join(name if name in there else "NULL" for name in names)
            for rowid, *row in connection.execute(f"SELECT rowid, {listed} FROM {table} ORDER BY rowid {way}"):
                if rowid not in seen:
                    seen.add(rowid)
                    yield tuple(row)
