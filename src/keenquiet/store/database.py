"""The database: opened with migrations, a backup before each; one write path."""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

from sqlalchemy import Engine, create_engine, event, inspect, text
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session
from sqlalchemy.pool import ConnectionPoolEntry

from keenquiet.store.errors import StorageFull

_BUSY_MS = 5000  # writers queue this long
_KEPT_BACKUPS = 5
NEWEST: Final = "a003"  # the last of migrations/versions


class Database:
    """SQLite in a data folder, WAL, foreign keys on."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "keenquiet.db"
        folder.mkdir(parents=True, exist_ok=True)
        self.engine: Engine = create_engine(f"sqlite:///{self.path}")
        event.listen(self.engine, "connect", _on_connect)
        self._migrate()

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
            self.backup(f"before-{NEWEST}")
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self.engine.connect() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.commit()

    def backup(self, label: str) -> Path:
        """A consistent copy of the database beside it; the oldest beyond five are removed."""
        folder = self.path.parent / "backups"
        folder.mkdir(exist_ok=True)
        target = folder / f"{datetime.now(UTC):%Y%m%dT%H%M%S}-{label}.db"
        with sqlite3.connect(self.path) as source, sqlite3.connect(target) as copy:
            source.backup(copy)
        source.close()
        copy.close()
        for old in sorted(folder.glob("*.db"))[:-_KEPT_BACKUPS]:
            old.unlink()
        return target

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: whole or not at all. Raises StorageFull when the disk cannot take it."""
        try:
            with Session(self.engine, expire_on_commit=False) as session, session.begin():
                yield session
        except OperationalError as exc:
            if any(word in str(exc).lower() for word in ("full", "readonly", "i/o", "unable to open")):
                raise StorageFull("The disk is full or cannot be written; nothing was changed.") from exc
            raise

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()


def _on_connect(connection: DBAPIConnection, record: ConnectionPoolEntry) -> None:
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", f"busy_timeout={_BUSY_MS}"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()
