"""A backup put back: what was saved since is kept beside it, nothing of it is lost, nothing half done is left."""

import sqlite3
from contextlib import closing

import pytest

from keenquiet.core.errors import InputError
from keenquiet.service import rooms
from keenquiet.service.data import Data
from keenquiet.service.restoring import backups, restored
from keenquiet.service.upkeep import checked, swept
from keenquiet.store.errors import Busy, NotFound

from ..conftest import boxed_bakery


def names(data):
    return sorted(room.name for room in rooms.list_rooms(data))


@pytest.fixture
def backed_up(data):
    rooms.create(data, boxed_bakery() | {"name": "Before"})
    data.database.backup("by-hand")
    rooms.create(data, boxed_bakery() | {"name": "After"})
    return data


def test_a_backup_put_back_under_an_open_folder_is_what_is_seen_from_then_on(backed_up):
    assert names(backed_up) == ["After", "Before"]
    found = restored(backed_up.folder, data=backed_up)
    assert (found.rooms, found.missing) == (1, [])
    assert names(backed_up) == ["Before"]
    rooms.create(backed_up, boxed_bakery() | {"name": "Later"})
    assert names(backed_up) == ["Before", "Later"]
    assert checked(backed_up.folder)["sound"]
    # what stood before is whole, and its sounds are not swept
    with closing(sqlite3.connect(backed_up.folder / found.former_kept_as)) as former:
        assert {name for (name,) in former.execute("SELECT name FROM rooms")} == {"Before", "After"}
    (backed_up.folder / "audio" / "0000.wav").write_bytes(b"x")
    swept(backed_up, older_than_s=-1)
    assert (backed_up.folder / "audio" / "0000.wav").is_file()
    assert not list(backed_up.folder.glob("restore-*"))


def test_a_damaged_database_is_put_aside_with_all_that_lay_beside_it(backed_up):
    folder = backed_up.folder
    backed_up.close()
    path = folder / "keenquiet.db"
    path.write_bytes(b"no database" * 500)
    (folder / "keenquiet.db-wal").write_bytes(b"left over")
    found = restored(folder)
    assert (folder / found.former_kept_as).read_bytes().startswith(b"no database")
    again = Data(folder)
    assert names(again) == ["Before"]
    again.close()
    path.unlink()
    assert restored(folder).former_kept_as is None  # nor is one needed
    assert checked(folder)["rooms"] == 1


def test_what_cannot_be_put_back_changes_nothing(backed_up):
    folder = backed_up.folder
    with pytest.raises(NotFound):
        restored(folder, "000009-none.db", data=backed_up)
    (folder / "backups" / "000007-bad.db").write_bytes(b"SQLite format 3\0" + b"x" * 4000)
    with pytest.raises(InputError, match="damaged itself"):
        restored(folder, "000007-bad.db", data=backed_up)
    assert backups(folder)[0].rooms is None
    for at_work in ("BEGIN IMMEDIATE", "SELECT count(*) FROM rooms"):  # writing, or only open
        with closing(sqlite3.connect(folder / "keenquiet.db")) as other:
            other.execute(at_work).fetchall()
            with pytest.raises(Busy):
                restored(folder, next(one.name for one in backups(folder) if one.rooms == 1), data=backed_up)
    assert names(backed_up) == ["After", "Before"]
    assert not list(folder.glob("restore-*"))
    assert not list(folder.glob("keenquiet.db.before-*"))


def test_the_oldest_of_five_can_be_put_back_and_then_what_stood_before(backed_up):
    for _ in range(4):
        backed_up.database.backup("by-hand")
    oldest = backups(backed_up.folder)[-1]
    assert (len(backups(backed_up.folder)), oldest.rooms) == (5, 1)
    restored(backed_up.folder, oldest.name, data=backed_up)
    assert names(backed_up) == ["Before"]
    assert all(path.suffix == ".db" for path in (backed_up.folder / "backups").iterdir())  # nothing left beside them
    backed_up.close()
    restored(backed_up.folder)  # the newest, by command: what stood before
    again = Data(backed_up.folder)
    assert names(again) == ["After", "Before"]
    again.close()


def test_without_a_backup_it_is_said(data):
    with pytest.raises(NotFound, match="no backup"):
        restored(data.folder, data=data)
