"""Folders of every former version open, are complete, and go into a bundle and back; a newer one is refused."""

import sqlite3
import zipfile

import pytest

from keenquiet.service import bundles, ledger, readings, rooms, watching
from keenquiet.service.data import Data
from keenquiet.service.upkeep import checked, repaired
from keenquiet.store.database import NEWEST
from keenquiet.store.errors import StoreError

from ..old.make import FORMER, HERE


def unpacked(tmp_path, version):
    folder = tmp_path / version
    with zipfile.ZipFile(HERE / f"{version}.zip") as archive:
        archive.extractall(folder)
    return folder


def version_of(path):
    connection = sqlite3.connect(path)
    found = connection.execute("SELECT version_num FROM alembic_version").fetchone()[0]
    connection.close()
    return found


def complete(data, room_id, *, has_watch):
    """What such a folder was given, all of it there and to be opened."""
    assert rooms.opened(data, room_id).name == "Renamed"
    (reading,) = readings.listed(data, room_id)
    assert (reading.kind, reading.form, round(reading.seconds, 1)) == ("tone", "tone", 3.0)
    assert reading.verdict.word
    assert readings.opened(data, reading.id).result.thirds
    kinds = [line.kind for line in ledger.ledger(data, room_id)]
    assert kinds.count("move") == kinds.count("room") == 1
    assert next(line for line in ledger.ledger(data, room_id) if line.kind == "move").title == "Closer"
    assert [watch.seconds for watch in watching.listed(data, room_id)] == ([5] if has_watch else [])


@pytest.mark.parametrize("version", FORMER)
def test_a_folder_of_a_former_version_opens_is_complete_and_goes_through_a_bundle(tmp_path, version):
    folder = unpacked(tmp_path, version)
    assert version_of(folder / "keenquiet.db") == version
    data, there = Data(folder), Data(tmp_path / "there")
    has_watch = version >= "a005"
    (room,) = rooms.list_rooms(data)
    complete(data, room.id, has_watch=has_watch)
    content, _ = bundles.exported(data, room.id)
    complete(there, bundles.imported(there, content).id, has_watch=has_watch)
    (backup,) = (folder / "backups").glob("*.db")
    assert version_of(backup) == version  # as it was, beside it
    data.close()
    there.close()
    assert checked(folder)["sound"]
    assert version_of(folder / "keenquiet.db") == NEWEST


@pytest.mark.parametrize("version", FORMER)
def test_a_damaged_one_is_repaired_into_the_newest_with_all_that_can_be_read(tmp_path, version):
    folder = unpacked(tmp_path, version)
    path = folder / "keenquiet.db"
    connection = sqlite3.connect(path)
    root = connection.execute("SELECT rootpage FROM sqlite_master WHERE name = 'ix_ledger_room_id'").fetchone()[0]
    size = connection.execute("PRAGMA page_size").fetchone()[0]
    connection.close()
    with path.open("r+b") as file:  # an index alone: every row can be read
        file.seek((root - 1) * size)
        file.write(b"\xff" * size)
    found = repaired(folder)
    assert found["rows_set_aside"] == 0
    data = Data(folder)
    (room,) = rooms.list_rooms(data)
    complete(data, room.id, has_watch=version >= "a005")
    data.close()


def test_a_folder_of_a_newer_version_is_refused_in_words_and_left_as_it_is(tmp_path):
    Data(tmp_path).close()
    connection = sqlite3.connect(tmp_path / "keenquiet.db")
    connection.execute("UPDATE alembic_version SET version_num = 'b042'")
    connection.commit()
    connection.close()
    before = (tmp_path / "keenquiet.db").read_bytes()
    with pytest.raises(StoreError, match="newer"):
        Data(tmp_path)
    assert (tmp_path / "keenquiet.db").read_bytes() == before
    assert not (tmp_path / "backups").exists()
