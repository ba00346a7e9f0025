"""A database put back from a backup: made in a new folder, looked at, then swapped; the former one is kept."""

import contextlib
import os
import shutil
import sqlite3
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from keenquiet.core.errors import InputError
from keenquiet.service.answers.backups import BackupAnswer, RestoreAnswer
from keenquiet.service.data import Data
from keenquiet.service.upkeep import FORMER, checked
from keenquiet.store.database import Database, put_in_place
from keenquiet.store.errors import NotFound, StoreError, disk_trouble

_DATABASE = "keenquiet.db"


def backups(folder: Path) -> list[BackupAnswer]:
    """All backups of a data folder, the newest first; without figures where one cannot be read."""
    return [_told(path) for path in sorted((folder / "backups").glob("*.db"), reverse=True)]


def restored(folder: Path, name: str | None = None, *, data: Data | None = None) -> RestoreAnswer:
    """The folder as a backup has it, by default the newest. data : the folder, where it is open.

    Raises NotFound where there is none of that name, InputError where it is damaged itself, and the store's own where
    the disk does not take it or somebody is at work; nothing was changed then.
    """
    named = {path.name: path for path in (folder / "backups").glob("*.db")}
    if not named:
        raise NotFound("There is no backup in this data folder; `keenquiet backup` makes one.")
    source = named.get(name or max(named))
    if source is None:
        raise NotFound(f"There is no backup {name} here.")
    now = f"{datetime.now(UTC):%Y%m%dT%H%M%S%f}"
    made = folder / f"restore-{now}"
    try:
        made.mkdir()
        _copied(source, made / _DATABASE)
        Database(made).close()  # an older one is brought up to date
        found = checked(folder, database=made / _DATABASE)
        if found["database"] != "ok":
            raise _damaged(source)
        _backed_up(folder, data)  # now that the chosen one is copied: of six the oldest goes
        kept = folder / f"{FORMER}{now}"
        if data is not None:
            data.database.replace_by(made / _DATABASE, kept)
            data.forget()
        else:
            put_in_place(made / _DATABASE, folder / _DATABASE, kept)
    except OSError as exc:
        raise disk_trouble(exc, "the restored database") from exc
    finally:
        shutil.rmtree(made, ignore_errors=True)
    return RestoreAnswer(
        backup=source.name,
        former_kept_as=kept.name if kept.is_file() else None,
        rooms=found["rooms"],
        readings=found["readings"],
        missing=found["missing"],
    )


def _backed_up(folder: Path, data: Data | None) -> None:
    """What stands now as one more backup, so that there is a way back to it, too; a damaged one is only kept."""
    if data is not None:
        data.database.backup("before-restore")
    elif (folder / _DATABASE).is_file():
        with contextlib.suppress(StoreError):
            database = Database(folder)
            database.backup("before-restore")
            database.close()


def _copied(source: Path, target: Path) -> None:
    """By the database's own interface: never a file that somebody may be writing."""
    try:
        with contextlib.closing(_opened(source)) as there, contextlib.closing(sqlite3.connect(target)) as here:
            there.backup(here)
    except sqlite3.Error as exc:
        raise _damaged(source) from exc
    os.chmod(target, 0o600)


def _opened(backup: Path) -> sqlite3.Connection:
    """To be read only; nobody writes it, and nothing is laid beside it."""
    return sqlite3.connect(f"{backup.resolve().as_uri()}?mode=ro&immutable=1", uri=True)


def _damaged(source: Path) -> InputError:
    return InputError("backup", f"{source.name} is damaged itself.", "Choose an older one; nothing was changed.")


def _told(path: Path) -> BackupAnswer:
    figures: dict[str, Any] = {}
    with contextlib.suppress(sqlite3.Error), contextlib.closing(_opened(path)) as connection:
        for table in ("rooms", "readings"):
            alive = f"SELECT count(*) FROM {table} WHERE deleted_at IS NULL"
            figures[table] = connection.execute(alive).fetchone()[0]
    known = path.stat()
    return BackupAnswer(
        name=path.name, made_at=datetime.fromtimestamp(known.st_mtime, UTC), bytes=known.st_size, **figures
    )
