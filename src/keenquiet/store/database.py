"""The database: opened with migrations, a backup before each; one write path."""

import contextlib
import json
import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

from sqlalchemy import Engine, create_engine, event, inspect, text
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DatabaseError, StatementError
from sqlalchemy.orm import Session
from sqlalchemy.pool import ConnectionPoolEntry

from keenquiet.core.errors import InputError
from keenquiet.store.errors import Busy, FolderGone, StorageFull, StoreError, disk_trouble

_BUSY_MS = 5000  # writers queue this long
_KEPT_BACKUPS = 5
NEWEST: Final = "a007"  # the last of migrations/versions
_GONE: Final = "Put it back where it was, or start Keen Quiet again."


class Database:
    """SQLite in a data folder, WAL, foreign keys on. Raises StoreError when the folder cannot be used."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "keenquiet.db"
        try:
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            _made_private(self.path)
        except OSError as exc:
            raise disk_trouble(exc, f"the data folder {folder}") from exc
        self.engine: Engine = create_engine(f"sqlite:///{self.path}", json_serializer=_strict_json)
        event.listen(self.engine, "connect", _on_connect)
        with _told():
            self._migrate()
        self._file = _identity(self.path)

    def _migrate(self) -> None:
        with self.engine.connect() as connection:
            known = inspect(connection).has_table("alembic_version")
            current = connection.scalar(text("SELECT version_num FROM alembic_version")) if known else None
        if current == NEWEST:
            return
        # only a folder that is new or old needs the library that migrates
        from alembic import command
        from alembic.config import Config

        if current is not None:
            if current > NEWEST:
                raise StoreError(
                    f"{self.path.parent} was written by a newer Keen Quiet ({current}; this one knows {NEWEST}). "
                    "Update Keen Quiet, or choose another folder with --data; nothing was changed."
                )
            self.backup(f"before-{NEWEST}")
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self.engine.connect() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.commit()

    def backup(self, label: str) -> Path:
        """A consistent copy of the database beside it; the oldest beyond five are removed, never this one.

        Copies are numbered: a clock that was set back does not make the newest look old. Raises StorageFull, leaving
        nothing half-written.
        """
        folder = self.path.parent / "backups"
        partial = folder / f".{label}.part"
        try:
            folder.mkdir(exist_ok=True)
            former = sorted(folder.glob("*.db"), key=_backup_number)
            number = _backup_number(former[-1])[0] + 1 if former else 1
            target = folder / f"{number:06d}-{datetime.now(UTC):%Y%m%dT%H%M%S}-{label}.db"
            _made_private(partial)
            with (
                contextlib.closing(sqlite3.connect(self.path)) as source,
                contextlib.closing(sqlite3.connect(partial)) as copy,
            ):
                source.backup(copy)
            os.replace(partial, target)
            for old in former[: max(len(former) + 1 - _KEPT_BACKUPS, 0)]:
                old.unlink()
        except OSError as exc:
            raise disk_trouble(exc, "the backup") from exc
        except sqlite3.Error as exc:
            raise StorageFull(f"The disk did not take the backup ({exc}).") from exc
        finally:
            for left in (partial, partial.with_name(f"{partial.name}-journal")):
                with contextlib.suppress(OSError):
                    left.unlink()
        return target

    def replace_by(self, made: Path, kept: Path) -> None:
        """As `put_in_place`, while this one is open: what follows is asked of the other one."""
        self.engine.dispose()
        put_in_place(made, self.path, kept)
        self._file = _identity(self.path)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: whole or not at all.

        Raises StorageFull when the disk cannot take it, FolderGone when the file that is open is no longer the one in
        the folder, Busy when another program held it for too long.
        """
        self._check_there()
        with _told(), Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session
        self._check_there()

    def _check_there(self) -> None:
        """An open file that was deleted takes writes that nobody will see again: look before and after."""
        if _identity(self.path) != self._file:
            raise FolderGone(f"The data folder {self.path.parent} was moved, deleted or replaced. {_GONE}")

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()


def _made_private(path: Path) -> None:
    """A file that only its owner reads, made where there is none; its folder likewise where it was ours before."""
    if path.exists():
        if path.parent.stat().st_mode & 0o077:
            with contextlib.suppress(OSError):  # somebody else's, who lets us in, or one that cannot be written
                path.parent.chmod(0o700)
                path.chmod(0o600)
    else:
        os.close(os.open(path, os.O_CREAT, 0o600))


def put_in_place(made: Path, path: Path, kept: Path) -> None:
    """Put a database in another's place, at once or not at all; the former one stays under the name `kept`.

    All in one folder. Raises Busy while somebody is at work in the former one: nothing was changed.
    """
    if path.is_file():
        with _told(), contextlib.closing(sqlite3.connect(path, timeout=_BUSY_MS / 1000)) as connection:
            try:  # into one file; refused while another has it open
                mode = connection.execute("PRAGMA journal_mode=DELETE").fetchone()[0]
                if mode != "delete":
                    raise sqlite3.OperationalError("database is locked")
            except sqlite3.OperationalError:
                raise
            except sqlite3.DatabaseError:
                pass  # damaged: it is put aside as it is
    try:
        for end in ("-wal", "-shm"):  # what is left of a damaged one must not be taken for the other's
            with contextlib.suppress(FileNotFoundError):
                os.replace(f"{path}{end}", f"{kept}{end}")
        if path.is_file():
            try:
                os.link(path, kept)
            except OSError:  # a disk without second names
                shutil.copy2(path, kept)
        os.replace(made, path)
    except OSError as exc:
        raise disk_trouble(exc, "the restored database") from exc


def _strict_json(value: object) -> str:
    """What is no JSON, as an infinite number, is not kept: one such row would close every list that holds it."""
    return json.dumps(value, allow_nan=False)


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _backup_number(path: Path) -> tuple[int, str]:
    """Number and name; copies of former versions had a date only and come first."""
    first = path.name.split("-", 1)[0]
    return (int(first) if first.isdigit() else 0), path.name


@contextmanager
def _told() -> Iterator[None]:
    """The database's failures as the store's own."""
    try:
        yield
    except StatementError as exc:
        if isinstance(exc.orig, ValueError):
            raise InputError("file", "gives a number that is none.", "Check what it holds; nothing was kept.") from exc
        if not isinstance(exc, DatabaseError):
            raise
        told = _in_words(str(exc.orig).lower())
        if told is None:
            raise
        raise told from exc
    except sqlite3.Error as exc:
        told = _in_words(str(exc).lower())
        if told is None:
            raise
        raise told from exc


def _in_words(said: str) -> StoreError | None:
    if "locked" in said or "busy" in said:
        return Busy("Another program holds the data folder; nothing was changed.")
    if "full" in said:
        return StorageFull("The disk is full; nothing was changed.")
    if "readonly" in said or "read-only" in said:
        return StorageFull("The data folder cannot be written; nothing was changed.")
    if "i/o" in said or "unable to open" in said or "no such table" in said:
        return FolderGone(f"The database cannot be reached in its folder. {_GONE}")
    if ("malformed" in said and "json" not in said) or "not a database" in said:
        return StoreError("The database is damaged. Run `keenquiet check --repair`, or take a backup.")
    return None


def _on_connect(connection: DBAPIConnection, record: ConnectionPoolEntry) -> None:
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", f"busy_timeout={_BUSY_MS}"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()
