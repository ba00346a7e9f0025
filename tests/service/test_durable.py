"""What a data folder goes through: full, read-only, locked, moved, deleted, damaged, a clock set back."""

import errno
import json
import os
import shutil
import sqlite3
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from keenquiet.core.errors import InputError
from keenquiet.demo.scenario import bakery_room, cupboard
from keenquiet.service import briefs, bundles, calibrations, ledger, readings, rooms
from keenquiet.service import data as data_module
from keenquiet.service.data import Data
from keenquiet.service.standing import usable_readings
from keenquiet.service.upkeep import checked, repaired, swept
from keenquiet.store import audio as audio_module
from keenquiet.store import database as database_module
from keenquiet.store.apart import decode_apart
from keenquiet.store.audiofile import wav_bytes
from keenquiet.store.errors import Busy, FolderGone, StorageFull, StoreError
from keenquiet.store.models import Reading

TRYING = {
    "kind": "distance",
    "title": "Closer",
    "edits": [{"do": "place", "who": "microphone", "at": [0.6, 0.47, 1.42], "turn_deg": 180.0, "tilt_deg": 8.0}],
}


def by_rig(data, room_id, kind="tone", seed=1):
    return readings.from_rig(data, room_id, kind=kind, arrangement_id=None, gain_db=0.0, seed=seed)


def moved(data, room_id):
    room = rooms.opened(data, room_id)
    document = room.document.model_dump(exclude_none=True)
    standing = document["arrangements"][0]
    tried = standing | {"id": "what-if", "trying": TRYING}
    tried = tried | {"microphone": standing["microphone"] | {"at": [0.6, 0.47, 1.42]}}
    saved = rooms.save(data, room_id, document | {"arrangements": [standing, tried]}, revision=room.revision)
    return ledger.mark_done(data, room_id, revision=saved.revision, kind="distance", title="Closer")


@pytest.mark.parametrize(
    ("number", "kind", "said"),
    [
        (errno.ENOSPC, StorageFull, "disk is full"),
        (errno.EROFS, StorageFull, "cannot be written"),
        (errno.ENOENT, FolderGone, "is gone"),
        (errno.EIO, StorageFull, "did not take it"),
    ],
)
def test_a_sound_that_the_disk_does_not_take_is_told_apart_and_leaves_nothing(data, monkeypatch, number, kind, said):
    room_id = rooms.create(data, cupboard()).id

    def fails(_handle):
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(audio_module.os, "fsync", fails)
    with pytest.raises(kind, match=said):
        by_rig(data, room_id)
    monkeypatch.undo()
    assert list(data.audio.folder.iterdir()) == []
    assert briefs.reading_rows(data, room_id) == []
    assert by_rig(data, room_id).verdict.usable  # and then it goes on


def test_a_full_temporary_folder_is_no_bad_file(monkeypatch):
    def full(*_args, **_kwargs):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("tempfile.mkdtemp", full)
    with pytest.raises(StorageFull, match="temporary folder"):
        decode_apart(b"RIFF", "take.wav")


def test_a_folder_that_is_moved_away_takes_no_write_into_nothing_and_goes_on_when_it_is_back(tmp_path):
    folder = tmp_path / "data"
    data = Data(folder)
    room_id = rooms.create(data, cupboard()).id
    folder.rename(tmp_path / "elsewhere")
    for look in (
        lambda: rooms.create(data, cupboard()),
        lambda: rooms.save(data, room_id, cupboard() | {"name": "New"}, revision=1),
        lambda: by_rig(data, room_id),
        lambda: rooms.list_rooms(data),
    ):
        with pytest.raises(FolderGone):
            look()
    (tmp_path / "elsewhere").rename(folder)
    assert rooms.save(data, room_id, cupboard() | {"name": "New"}, revision=1).revision == 2
    shutil.copytree(folder, tmp_path / "copy")
    shutil.rmtree(folder)
    (tmp_path / "copy").rename(folder)  # the same content in other files: this server writes to the ones that are gone
    with pytest.raises(FolderGone):
        rooms.create(data, cupboard())
    data.close()
    again = Data(folder)
    assert [room.name for room in rooms.list_rooms(again)] == ["New"]
    again.close()


def test_a_locked_database_is_waited_for_and_then_said(data, monkeypatch):
    room_id = rooms.create(data, cupboard()).id
    data.database.engine.dispose()
    monkeypatch.setattr(database_module, "_BUSY_MS", 200)
    holder = sqlite3.connect(data.database.path, isolation_level=None)
    holder.execute("BEGIN IMMEDIATE")
    with pytest.raises(Busy):
        rooms.save(data, room_id, cupboard() | {"name": "New"}, revision=1)
    holder.execute("ROLLBACK")
    holder.close()
    assert rooms.save(data, room_id, cupboard() | {"name": "New"}, revision=1).revision == 2


def test_a_folder_that_cannot_be_made_or_is_a_file_says_so(tmp_path):
    (tmp_path / "file").write_text("x")
    with pytest.raises(StorageFull):
        Data(tmp_path / "file" / "inside")
    folder = tmp_path / "damaged"
    folder.mkdir()
    (folder / "keenquiet.db").write_bytes(b"no database at all" * 100)
    with pytest.raises(StoreError, match="damaged"):
        Data(folder)


def test_with_the_clock_set_back_the_order_is_that_of_what_happened(data, monkeypatch):
    room_id = rooms.create(data, cupboard()).id
    first = by_rig(data, room_id, "sweep", seed=1)
    moved(data, room_id)
    now = data_module.now
    for module in (data_module, readings, ledger, rooms, calibrations):
        monkeypatch.setattr(module, "now", lambda: now() - timedelta(days=400))
    second = by_rig(data, room_id, "sweep", seed=2)
    assert [r.id for r in readings.listed(data, room_id)] == [second.id, first.id]
    proof = next(entry.proof for entry in ledger.ledger(data, room_id) if entry.kind == "move")
    assert {row.reading_id for row in proof if row.measured is not None} == {second.id}
    assert next(entry.reading_id for entry in ledger.ledger(data, room_id) if entry.kind == "reading") == second.id
    chain = ("desk", "1", "noon")
    for level in (100.0, 110.0):
        calibrations.kept(data, chain, method="meter", full_scale_db=level)
    found = calibrations.for_chain(data, dict(zip(("device", "channel", "gain"), chain, strict=True)))
    assert found["calibration_db"] == 110.0
    newest = rooms.create(data, bakery_room()).id
    assert rooms.list_rooms(data)[0].id == newest
    content, _ = bundles.exported(data, room_id)
    came = bundles.imported(data, content).id
    assert [r.headline for r in readings.listed(data, came)] == [r.headline for r in readings.listed(data, room_id)]
    theirs = next(entry.proof for entry in ledger.ledger(data, came) if entry.kind == "move")
    assert [row.measured for row in theirs] == [row.measured for row in proof]


def test_a_backup_never_removes_itself_and_five_are_kept_whatever_the_clock_says(data, monkeypatch):
    class Clock(datetime):
        year_now = 2030

        @classmethod
        def now(cls, tz=None):
            return datetime(cls.year_now, 1, 1, tzinfo=UTC)

    monkeypatch.setattr(database_module, "datetime", Clock)
    made = []
    for year in range(2030, 2022, -1):
        Clock.year_now = year
        made.append(data.database.backup("by-hand"))
        assert made[-1].is_file()
    assert sorted(path.name for path in made[0].parent.iterdir()) == sorted(path.name for path in made[-5:])


def test_a_backup_that_the_disk_does_not_take_leaves_no_broken_file(data, monkeypatch):
    def full(*_args):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(database_module.os, "replace", full)
    with pytest.raises(StorageFull):
        data.database.backup("by-hand")
    assert list((data.folder / "backups").iterdir()) == []


def test_what_kills_leave_behind_is_swept_and_what_is_used_stays(data):
    room_id = rooms.create(data, cupboard()).id
    kept = by_rig(data, room_id)
    binned = by_rig(data, room_id, seed=2)
    readings.set_binned(data, binned.id, binned=True)
    used = {path.name for path in data.audio.folder.iterdir()}
    (data.audio.folder / "tmpabc.part").write_bytes(b"half")
    (data.audio.folder / f"{'0' * 64}.wav").write_bytes(b"unreferenced")
    assert swept(data)["sounds"] == []  # young: somebody may be about to refer to it
    assert len(swept(data, older_than_s=-1)["sounds"]) == 2
    assert {path.name for path in data.audio.folder.iterdir()} == used
    assert readings.opened(data, kept.id).id == kept.id


def test_a_check_makes_no_folder_and_touches_nothing(tmp_path):
    with pytest.raises(InputError):
        checked(tmp_path / "never")
    assert not (tmp_path / "never").exists()


def test_the_same_sound_heals_a_damaged_one_and_a_lost_one_holds_no_bundle_up(data):
    room_id = rooms.create(data, cupboard()).id
    sound = wav_bytes(0.1 * np.random.default_rng(3).standard_normal(3 * 8000), 8000)

    def bring():
        return readings.take_in(
            data, room_id, kind="tone", way="import", file_name="a.wav", content=sound, arrangement_id=None, settings={}
        )

    reading = bring()
    whole, _ = bundles.exported(data, room_id)
    path = readings.audio_of(data, reading.id)
    for injure in (lambda: path.write_bytes(b"damaged"), path.unlink):
        injure()
        assert not checked(data.folder)["sound"]
        content, name = bundles.exported(data, room_id)
        assert "without-1-sound" in name
        came = bundles.imported(data, content).id
        assert len(readings.listed(data, came)) == 1
        bundles.imported(data, whole)
        assert checked(data.folder)["sound"]
        assert path.read_bytes() == sound
    path.write_bytes(b"damaged")
    bring()
    assert checked(data.folder)["sound"]


def test_a_damaged_database_is_told_and_what_can_be_read_is_saved(tmp_path):
    folder = tmp_path / "data"
    data = Data(folder)
    for number in range(30):
        rooms.create(data, cupboard() | {"name": f"Room {number}"})
    by_rig(data, rooms.list_rooms(data)[0].id)
    with pytest.raises(InputError):
        repaired(folder)
    data.close()
    path = folder / "keenquiet.db"
    content = bytearray(path.read_bytes())
    pages = len(content) // 4096
    for page in (pages // 2, pages // 2 + 1):
        content[page * 4096 : (page + 1) * 4096] = b"\xa5" * 4096
    path.write_bytes(content)
    found = checked(folder)
    assert not found["sound"]
    assert "repair" in found["cure"]
    after = repaired(folder)
    assert after["database"] == "ok"
    assert (folder / after["damaged_kept_as"]).is_file()
    assert after["rooms"] >= 15  # two of some sixty pages were lost
    again = Data(folder)
    assert rooms.create(again, cupboard()).revision == 1
    again.close()


def damaged_folder(tmp_path, *, lose):
    """A folder with a room and seven readings whose database is damaged, and rows of it taken out by hand."""
    folder = tmp_path / "data"
    data = Data(folder)
    room_id = rooms.create(data, bakery_room()).id
    for seed in range(7):
        by_rig(data, room_id, "tone", seed=seed)
    data.close()
    path = folder / "keenquiet.db"
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA foreign_keys = OFF")
        lose(connection)
        connection.commit()
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    connection.close()
    # an index that contradicts its table: damaged by SQLite's own check, and every row can be read
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA writable_schema = ON")
        connection.execute("CREATE TABLE spoilt (a INTEGER)")
        connection.execute("INSERT INTO spoilt VALUES (1)")
        connection.execute("CREATE INDEX on_spoilt ON spoilt (a)")
        root = connection.execute("SELECT rootpage FROM sqlite_master WHERE name = 'on_spoilt'").fetchone()[0]
        connection.commit()
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    connection.close()
    content = bytearray(path.read_bytes())
    size = int.from_bytes(content[16:18], "big") or 65536
    content[(root - 1) * size : root * size] = b"\x0a" + bytes(size - 1)
    path.write_bytes(content)
    return folder, room_id


def test_repair_deletes_no_sound_and_says_what_could_not_be_saved(tmp_path):
    folder, _ = damaged_folder(tmp_path, lose=lambda db: db.execute("DELETE FROM rooms"))
    before = {path.name for path in (folder / "audio").iterdir()}
    after = repaired(folder)
    assert after["database"] == "ok"
    assert not after["sound"]  # seven readings belong to a room that is lost
    assert after["rows_set_aside"] >= 7
    assert after["sounds_set_aside"] == len(before) == 7
    data = Data(folder)
    assert swept(data, older_than_s=-1)["sounds"] == []
    data.close()
    kept = folder / after["set_aside"]
    assert {path.name for path in (kept / "audio").iterdir()} == before
    told = [json.loads(line) for line in (kept / "rows.jsonl").read_text().splitlines()]
    assert {one["row"]["audio_sha256"] for one in told if one["table"] == "readings"} == {
        name.split(".")[0] for name in before
    }


def test_repair_of_a_database_without_the_newest_columns_saves_every_row(tmp_path):
    def as_before(db):
        db.execute("ALTER TABLE revisions DROP COLUMN label")

    folder, room_id = damaged_folder(tmp_path, lose=as_before)
    after = repaired(folder)
    assert after["sound"]
    assert (after["rows_set_aside"], after["set_aside"]) == (0, None)
    data = Data(folder)
    assert len(readings.listed(data, room_id)) == 7
    assert len(swept(data)["sounds"]) == 0
    data.close()


@pytest.mark.parametrize("text", ["100,1e308\n200,1e308\n400,-1e308\n800,3\n", "1,2\n2,3\n3,4\n4,-401\n"])
def test_a_curve_beyond_all_levels_is_refused_and_nothing_of_it_is_kept(data, text):
    room_id = rooms.create(data, cupboard()).id
    with pytest.raises(InputError, match="no level is"):
        readings.take_in(
            data, room_id, kind="curve", way="import", file_name="c.csv", content=text.encode(), arrangement_id=None,
            settings={},
        )  # fmt: skip
    assert readings.listed(data, room_id) == []


def test_a_number_that_is_none_reaches_no_row(data):
    room_id = rooms.create(data, cupboard()).id
    reading = by_rig(data, room_id)
    with pytest.raises(InputError, match="number that is none"), data.database.session() as session:
        session.get(Reading, reading.id).result = {"verdict": {"usable": True}, "laeq_db": float("inf")}
    assert readings.opened(data, reading.id).id == reading.id


def test_one_row_that_is_no_json_is_told_alone_and_closes_no_list(data):
    room_id = rooms.create(data, cupboard()).id
    bad, good = by_rig(data, room_id), by_rig(data, room_id, seed=2)
    with data.database.engine.begin() as connection:  # as a former version left it
        connection.exec_driver_sql(
            "UPDATE reading_results SET result = ? WHERE reading_id = ?", ('{"laeq_db": Infinity}', bad.id)
        )
        connection.exec_driver_sql("UPDATE readings SET brief = NULL, brief_version = 0 WHERE id = ?", (bad.id,))
        connection.exec_driver_sql("INSERT INTO ledger (room_id, at, kind, title, detail) VALUES (?, ?, ?, ?, ?)",
                                   (room_id, "2026-01-01 00:00:00", "reading", "Silence", "{}"))  # fmt: skip
    told = {row.id: row for row in readings.listed(data, room_id)}
    assert told[bad.id].headline.said == "cannot be shown"
    assert told[good.id].verdict.usable
    assert [row.id for row in usable_readings(data, room_id)] == [good.id]
    assert ledger.ledger(data, room_id)
    readings.set_binned(data, bad.id, binned=True)
    assert [row.id for row in readings.listed(data, room_id)] == [good.id]


def test_what_an_export_left_when_it_was_killed_goes_and_what_is_told_gone_is_gone(data, monkeypatch, tmp_path):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    dead = f"keenquiet-{2**22 - 1}-"  # beyond any process
    half, folder = tmp_path / f"{dead}abc.zip", tmp_path / f"{dead}def"
    half.write_bytes(b"half a bundle")
    folder.mkdir()
    living = tmp_path / f"keenquiet-{os.getpid()}-mine.zip"
    living.write_bytes(b"being written")
    assert swept(data)["folders"] == sorted([half.name, folder.name])
    assert [path.name for path in tmp_path.iterdir() if path.name.startswith("keenquiet-")] == [living.name]


def test_a_folder_that_cannot_be_written_is_looked_at_whole_and_told(tmp_path, monkeypatch):
    data = Data(tmp_path / "data")
    rooms.create(data, cupboard())
    copied = tmp_path / "copied"
    copied.mkdir()
    for end in ("", "-wal"):  # as a disk that is only to be read holds them after a crash
        shutil.copy2(f"{data.database.path}{end}", copied)
    data.close()
    monkeypatch.setattr(os, "access", lambda path, mode: False)
    before = {path: path.read_bytes() for path in copied.iterdir()}
    found = checked(copied)
    assert (found["sound"], found["rooms"], found["writable"]) == (True, 1, False)
    assert "cannot be written" in found["cure"]
    assert {path: path.read_bytes() for path in copied.iterdir()} == before
