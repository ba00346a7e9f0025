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
from sqlalchemy.exc import SQLAlchemyError

from keenquiet.core.errors import InputError, KeenQuietError
from keenquiet.documents.convert import read_room
from keenquiet.service.data import Data, Json
from keenquiet.store.apart import TEMPORARY
from keenquiet.store.audio import is_whole
from keenquiet.store.database import Database
from keenquiet.store.models import Base, Reading, WatchClip

_DATABASE: Final = "keenquiet.db"
SET_ASIDE: Final = "set-aside-"
FORMER: Final = f"{_DATABASE}.before-restore-"
_MONTH_S: Final = 30 * 86_400.0


def swept(data: Data, *, older_than_s: float = _MONTH_S) -> Json:
    """Remove what kills left behind: half-written sounds, unreferenced ones of a month and more, folders of readers
    that are gone. After a repair or a restore no sound goes: it may belong to a row that is in the database no more.

    Names of what went: `{sounds, folders}`.
    """

    def referenced() -> set[str]:
        with data.database.session() as session:
            return {
                f"{sha}{suffix}"
                for table in (Reading, WatchClip)
                for sha, suffix in session.execute(select(table.audio_sha256, table.audio_suffix))
            }

    if any(any(data.folder.glob(kept)) for kept in (f"{SET_ASIDE}*", f"{_DATABASE}.damaged-*", f"{FORMER}*")):
        return {"sounds": data.audio.sweep(None, older_than_s=older_than_s), "folders": _swept_folders()}
    return {"sounds": data.audio.sweep(referenced, older_than_s=older_than_s), "folders": _swept_folders()}


def _swept_folders() -> list[str]:
    gone = []
    for path in Path(tempfile.gettempdir()).glob(f"{TEMPORARY}*"):
        owner = path.name.removeprefix(TEMPORARY).split("-", 1)[0]
        if owner.isdigit() and not _lives(int(owner)):
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:  # what an export had written when it was killed
                with contextlib.suppress(OSError):
                    path.unlink()
            if not path.exists():
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


def checked(folder: Path, *, database: Path | None = None) -> Json:
    """What a look over a data folder finds; nothing in it is touched.

    database : another one than the folder's, with its sounds. `{sound, database, writable, rooms, readings, missing,
    changed, broken, left, cure}`. Raises InputError where there is none.
    """
    path = database or folder / _DATABASE
    if not path.is_file():
        raise InputError("data", f"{folder} is no data folder.", "Choose it with --data; `serve` makes one.")
    writable = os.access(folder, os.W_OK)
    found: Json = {
        "database": "ok",
        "writable": writable,
        "rooms": 0,
        "readings": 0,
        "missing": [],
        "changed": [],
        "broken": [],
    }
    used: set[str] = set()
    try:
        with _looked_at(path, writable=writable) as connection:
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
    if found["database"] != "ok" and not found["writable"]:
        return "This folder cannot be written: copy it to where it can be, and repair that with `check --repair`."
    if found["database"] != "ok":
        return "`check --repair` saves what can still be read into a new database; the damaged one is kept beside it."
    if found["missing"] or found["changed"]:
        return "Bring the recording's file, or a bundle that holds it, again: the same sound heals a damaged one."
    if found["broken"]:
        return "These rooms cannot be opened; they can be exported as they are, and put into the bin."
    return (
        "" if found["writable"] else "This folder cannot be written: what is in it is sound, and nothing can be added."
    )


@contextlib.contextmanager
def _looked_at(path: Path, *, writable: bool) -> Iterator[sqlite3.Connection]:
    """As `_read_only`; of a folder that cannot be written a copy, for the last writes beside a database are read by way
    of a file that must be made there.
    """
    if writable:
        with _read_only(path) as connection:
            yield connection
        return
    with tempfile.TemporaryDirectory(prefix=f"{TEMPORARY}{os.getpid()}-") as folder:
        for one in path.parent.glob(f"{path.name}*"):
            if one.name in (path.name, f"{path.name}-wal"):
                shutil.copy2(one, folder)
        with _read_only(Path(folder) / path.name) as connection:
            yield connection


@contextlib.contextmanager
def _read_only(path: Path) -> Iterator[sqlite3.Connection]:
    connection = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
    try:
        yield connection
    finally:
        connection.close()


def repaired(folder: Path) -> Json:
    """A damaged database's readable rows in a new one, the damaged one kept beside it; and what is then found.

    Nothing is thrown away: rows that could be read and not saved, and every sound that no saved row refers to, go into
    a dated folder that nothing sweeps (`rows.jsonl`, `audio/`). `{rows_saved, rows_set_aside, sounds_set_aside,
    set_aside, damaged_kept_as}` besides what `checked` finds; `sound` only where nothing was set aside or unreadable.
    Raises InputError where there is nothing to repair.
    """
    before = checked(folder)
    if before["database"] == "ok":
        raise InputError("data", "has a sound database; there is nothing to repair.", before["cure"] or "Go on.")
    now = f"{datetime.now(UTC):%Y%m%dT%H%M%S}"
    made, aside = folder / f"repair-{now}", folder / f"{SET_ASIDE}{now}"
    rows, left, stopped = _saved(folder / _DATABASE, made)
    kept = folder / f"{_DATABASE}.damaged-{now}"
    for end in ("", "-wal", "-shm"):
        with contextlib.suppress(FileNotFoundError):
            os.replace(f"{folder / _DATABASE}{end}", f"{kept}{end}")
    os.replace(made / _DATABASE, folder / _DATABASE)
    shutil.rmtree(made, ignore_errors=True)
    sounds = _put_aside(folder, aside, left)
    found = checked(folder)
    lost = bool(left or sounds or stopped)
    return {
        **found,
        "sound": found["sound"] and not lost,
        "rows_saved": rows,
        "rows_set_aside": len(left),
        "sounds_set_aside": len(sounds),
        "tables_with_unreadable_rows": stopped,
        "set_aside": aside.name if left or sounds else None,
        "damaged_kept_as": kept.name,
        "cure": _repair_cure(aside.name, len(left), len(sounds), stopped) if lost else found["cure"],
    }


def _repair_cure(aside: str, rows: int, sounds: int, stopped: list[str]) -> str:
    said = f"{rows} rows and {sounds} recordings could not be brought back where they were: they lie in {aside}."
    if stopped:
        said += f" Of {', '.join(stopped)} some rows could not be read at all; the damaged database is kept, too."
    return f"{said} A backup or a bundle may hold them whole."


def _saved(damaged: Path, made: Path) -> tuple[int, list[Json], list[str]]:
    """Rows saved into a new database: how many, those that could not be, and tables that were not read to their end."""
    database = Database(made)
    rows, left, stopped = 0, list[Json](), list[str]()
    try:
        with database.engine.begin() as connection:
            for table in Base.metadata.sorted_tables:
                readable = _Readable(damaged, table.name, [column.name for column in table.columns])
                for row in readable:
                    # columns that came later are left to what their migration says
                    names, marks = ", ".join(row), ", ".join("?" for _ in row)
                    try:
                        with connection.begin_nested():
                            connection.exec_driver_sql(
                                f"INSERT INTO {table.name} ({names}) VALUES ({marks})", tuple(row.values())
                            )
                            rows += 1
                    except (SQLAlchemyError, ValueError) as exc:
                        # it refers to a lost one, or is twice there
                        left.append({"table": table.name, "row": row, "why": str(exc.__cause__ or exc)[:300]})
                if readable.stopped:
                    stopped.append(table.name)
    finally:
        database.close()
    return rows, left, stopped


def _put_aside(folder: Path, aside: Path, left: list[Json]) -> list[str]:
    """Rows that were not saved, and sounds that no saved row refers to, where nothing sweeps them; names of those."""
    with _read_only(folder / _DATABASE) as connection:
        used = {
            f"{sha}{suffix}"
            for table in ("readings", "watch_clips")
            for sha, suffix in connection.execute(f"SELECT audio_sha256, audio_suffix FROM {table}")
        }
    sounds = [path for path in (folder / "audio").glob("*") if path.is_file() and path.name not in used]
    if left or sounds:
        (aside / "audio").mkdir(parents=True)
        with (aside / "rows.jsonl").open("w", encoding="utf-8") as file:
            file.writelines(json.dumps(one, default=_as_text) + "\n" for one in left)
        for path in sounds:
            os.replace(path, aside / "audio" / path.name)
    return sorted(path.name for path in sounds)


def _as_text(value: object) -> str:
    return value.hex() if isinstance(value, bytes) else str(value)


def _columns(connection: sqlite3.Connection, table: str) -> set[str]:
    return {row[1] for row in connection.execute(f"PRAGMA table_info({table})")}


class _Readable:
    """Rows of a table that can still be read: from the front up to the damage, then from the back down to it.

    stopped : whether the damage ended one of both ways.
    """

    def __init__(self, path: Path, table: str, names: list[str]) -> None:
        self._path, self._table, self._names = path, table, names
        self.stopped = False

    def __iter__(self) -> Iterator[Json]:
        seen: set[int] = set()
        for way in ("ASC", "DESC"):
            try:
                with _read_only(self._path) as connection:
                    connection.text_factory = lambda raw: raw.decode("utf-8", "surrogateescape")
                    names, table = self._names, self._table
                    there = _columns(connection, table)
                    if table == "reading_results" and not there and "result" in _columns(connection, "readings"):
                        # of a former version, whose readings held it themselves
                        columns, table = ["id", "result"], "readings"
                    else:
                        columns = names = [name for name in names if name in there]
                    if not names:
                        return
                    asked = f"SELECT rowid, {', '.join(columns)} FROM {table} ORDER BY rowid {way}"
                    for rowid, *row in connection.execute(asked):
                        if rowid not in seen:
                            seen.add(rowid)
                            yield dict(zip(names, row, strict=True))
                return  # read to its end: nothing is left for the other way
            except sqlite3.Error:
                self.stopped = True
