import sqlite3
from pathlib import Path

import pytest
from alembic import command
from alembic.script import ScriptDirectory

from keenquiet.demo.load import load_demo
from keenquiet.demo.scenario import bakery_room, cupboard
from keenquiet.documents.convert import read_room
from keenquiet.service import briefs, readings, rooms
from keenquiet.service.data import Data
from keenquiet.service.upkeep import checked
from keenquiet.store import database as module
from keenquiet.store.database import NEWEST, Database
from keenquiet.store.models import Base

from ..conftest import document_of, stored_room

MIGRATIONS = Path(module.__file__).parent / "migrations"


def test_the_migrations_make_what_the_models_say(tmp_path):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    database = Database(tmp_path)
    with database.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
    assert ScriptDirectory(str(MIGRATIONS)).get_current_head() == NEWEST
    database.close()


def test_a_migration_is_preceded_by_a_backup_and_one_that_stops_leaves_the_data(tmp_path, monkeypatch):
    data = Data(tmp_path)
    rooms.create(data, bakery_room())
    with data.database.engine.begin() as connection:
        connection.exec_driver_sql("update alembic_version set version_num = 'a000'")
    data.close()

    def stops(*_args, **_kwargs):
        raise RuntimeError("stopped halfway")

    monkeypatch.setattr(command, "upgrade", stops)
    with pytest.raises(RuntimeError):
        Database(tmp_path)
    (backup,) = (tmp_path / "backups").glob(f"*before-{NEWEST}.db")
    for path in (backup, tmp_path / "keenquiet.db"):
        connection = sqlite3.connect(path)
        assert connection.execute("select name from rooms").fetchall() == [("Over the bakery",)]
        connection.close()


def test_old_revisions_are_kept_to_a_number_and_deleting_goes_to_a_bin(data):
    made = rooms.create(data, bakery_room())
    for revision in range(1, 4):
        rooms.save(data, made.id, bakery_room() | {"name": f"Name {revision}"}, revision=revision)
    assert rooms.opened(data, made.id).revision == 4
    rooms.remove(data, made.id)
    assert rooms.list_rooms(data) == []
    assert rooms.restore(data, made.id).name == "Name 3"


def test_a_list_reads_each_room_once_until_it_is_changed(data, monkeypatch):
    room_id = stored_room(data)
    read = []
    monkeypatch.setattr(rooms, "read_room", lambda document: read.append(document["name"]) or read_room(document))
    assert [rooms.list_rooms(data)[0].name for _ in range(3)] == ["Over the bakery"] * 3
    assert len(read) == 1
    rooms.save(data, room_id, document_of(data, room_id) | {"name": "Over the bakery still"}, revision=1)
    assert rooms.list_rooms(data)[0].name == "Over the bakery still"


def test_the_demo_loads_once_and_is_labelled_simulated(data):
    room_id = load_demo(data)
    assert load_demo(data) is None
    readings = briefs.reading_rows(data, room_id)
    assert {row.kind for row in readings} == {"tone", "sweep", "take"}
    assert all(row.simulated and row.brief["verdict"]["usable"] for row in readings)


def test_a_check_of_the_folder_finds_what_was_lost_or_altered(data):
    room_id = rooms.create(data, cupboard()).id
    for seed in (1, 2):
        readings.from_rig(data, room_id, kind="tone", arrangement_id=None, gain_db=0.0, seed=seed)
    assert checked(data.folder)["sound"]
    rows = briefs.reading_rows(data, room_id)
    data.audio.path(rows[0].audio_sha256, ".wav").unlink()
    altered = data.audio.path(rows[1].audio_sha256, ".wav")
    altered.write_bytes(altered.read_bytes()[:-2] + b"xx")
    found = checked(data.folder)
    assert (found["sound"], found["missing"], found["changed"]) == (False, [rows[0].id], [rows[1].id])
