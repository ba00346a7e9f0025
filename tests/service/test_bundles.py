"""Any database into a bundle, into an empty database, and out again: equal."""

import io
import json
import re
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import event, insert

from keenquiet.core.errors import InputError
from keenquiet.demo.scenario import bakery_room, cupboard
from keenquiet.service import bundles, calibrations, ledger, readings, rooms, watching
from keenquiet.service.data import Data, new_id, now
from keenquiet.store import bundle as bundle_module
from keenquiet.store.audiofile import wav_bytes
from keenquiet.store.models import LedgerEntry

RATE = 8000
MONDAY_MS = 1_767_571_200_000
_ID = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")


def brought(data, room_id, rng, kind):
    if kind == "curve":
        sound = "\n".join(f"{f},{rng.normal():.2f}" for f in range(20, 200, 7)).encode()
    else:
        sound = wav_bytes(0.01 * rng.standard_normal(3 * RATE), RATE)
    name = "a.csv" if kind == "curve" else "a.wav"
    settings_ = {} if kind == "curve" else {"device": "desk", "channel": "1", "gain": "noon"}
    return readings.take_in(
        data, room_id, kind=kind, way="import", file_name=name, content=sound, arrangement_id=None, settings=settings_
    )


def lived(data, seed, steps):
    """A room in which things happened, in an order drawn from a seed."""
    rng = np.random.default_rng(seed)
    room = rooms.create(data, bakery_room() if seed % 2 else cupboard())
    for step in steps:
        match step:
            case "save":
                document = rooms.opened(data, room.id).document.model_dump(exclude_none=True)
                revision = rooms.opened(data, room.id).revision
                document["name"] = f"Room {rng.integers(1000)} ä 工作室"
                rooms.save(data, room.id, document, revision=revision, label="Called otherwise")
            case "curve" | "tone":
                made = brought(data, room.id, rng, step)
                readings.described(data, made.id, note="Bin?", tags=["one"], counts=bool(rng.random() < 0.5))
                if rng.random() < 0.3:
                    readings.set_binned(data, made.id, binned=True)
            case "watch":
                watch = watching.begun(data, room.id, way="browser").id
                at = MONDAY_MS
                for _ in range(int(rng.integers(1, 5))):
                    loud = 0.001 * rng.standard_normal(RATE * 8)
                    loud[4 * RATE : 6 * RATE] *= 200 if rng.random() < 0.5 else 1
                    pcm = (32767 * np.clip(loud, -1, 1)).astype("<i2").tobytes()
                    watching.add_sound(data, watch, from_ms=at, offset_min=60, rate_hz=RATE, pcm=pcm)
                    at += 8000 if rng.random() < 0.7 else int(rng.integers(9000, 9_000_000))
                watching.stopped(data, watch, why="asked")
                watching.set_counts(data, watch, counts=bool(rng.random() < 0.5))
            case "calibrate":
                chain = ("desk", "1", "noon")
                calibrations.kept(data, chain, method="meter", full_scale_db=float(rng.uniform(90, 120)))
    return room.id


def told(content):
    """What a bundle says, identifiers by the order in which they are met."""
    archive = zipfile.ZipFile(io.BytesIO(content))
    met: dict[str, str] = {}
    found = {}
    order = [n for n in archive.namelist() if n == "ledger.json"]
    # the ledger names readings and moves as they happened: its order numbers them alike on both sides
    for name in [*order, *(n for n in archive.namelist() if n not in order)]:
        raw = archive.read(name)
        if name.startswith("audio/"):
            found[name] = raw
            continue
        if name.endswith(".levels"):
            raw = raw.hex().encode()
        text = _ID.sub(lambda m: met.setdefault(m.group(), f"id {len(met)}"), f"{name}\n{raw.decode()}")
        key, _, value = text.partition("\n")
        found[key] = value
    rows = json.loads(found["ledger.json"])
    found["ledger.json"] = [row for row in rows if row["kind"] != "import"]
    return found


@settings(max_examples=6, deadline=None)
@given(
    st.integers(0, 10_000),
    st.lists(st.sampled_from(["save", "curve", "tone", "watch", "calibrate"]), min_size=1, max_size=6),
)
def test_any_room_goes_through_a_bundle_into_an_empty_folder_and_comes_out_equal(tmp_path_factory, seed, steps):
    here, there = (Data(tmp_path_factory.mktemp(name)) for name in ("here", "there"))
    for data in (here, there):  # nobody pulls this one's plug
        event.listen(data.database.engine, "connect", lambda made, _: made.execute("PRAGMA synchronous=OFF").close())
        data.database.engine.dispose()
    first, name = bundles.exported(here, lived(here, seed, steps))
    came = bundles.imported(there, first)
    second, again = bundles.exported(there, came.id)
    assert told(first) == told(second)
    assert (name, came.readings) == (again, sum(step in ("curve", "tone") for step in steps))
    for data in (here, there):
        data.close()


def test_history_calibrations_and_a_watch_that_went_on_come_along(data, tmp_path):
    room_id = lived(data, 3, ["save", "tone", "calibrate", "save"])
    going = watching.begun(data, room_id, way="browser").id
    watching.add_levels(data, going, from_ms=MONDAY_MS, offset_min=0, rows=[[-60.0] * 9] * 4)
    content, _ = bundles.exported(data, room_id)
    there = Data(tmp_path / "there")
    came = bundles.imported(there, content).id
    assert rooms.opened(there, came).revision == rooms.opened(data, room_id).revision == 3
    assert calibrations.listed(there)[0].full_scale_db == calibrations.listed(data)[0].full_scale_db
    (watch,) = watching.listed(there, came)
    assert (watch.seconds, watch.stopped_why, watch.ended_at is None) == (4, "closed", False)
    began = next(row for row in ledger.ledger(there, came) if row.detail.get("watch_id"))
    assert began.detail["watch_id"] == watch.id
    own = calibrations.kept(there, ("desk", "1", "noon"), method="meter", full_scale_db=77.0)
    bundles.imported(there, content)
    assert next(one.id for one in calibrations.listed(there)) == own.id  # a chain that is calibrated here keeps its own
    there.close()


def test_levels_that_are_not_those_of_the_watch_are_refused(data):
    room_id = lived(data, 5, ["watch"])
    content, _ = bundles.exported(data, room_id)
    spoilt = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as archive, zipfile.ZipFile(spoilt, "w") as out:
        for name in archive.namelist():
            out.writestr(name, archive.read(name)[: -9 if name.endswith(".levels") else None])
    with pytest.raises(InputError, match="levels"):
        bundles.imported(data, spoilt)
    assert len(rooms.list_rooms(data)) == 1


def test_a_ledger_of_many_lines_comes_back_in(data, monkeypatch):
    monkeypatch.setattr(bundle_module, "_ROWS_BYTES", 20_000)
    room_id = rooms.create(data, cupboard()).id
    with data.database.session() as session:
        for number in range(300):
            line = {"room_id": room_id, "at": now(), "kind": "reading", "title": f"{number}", "detail": {"x": new_id()}}
            session.execute(insert(LedgerEntry), [line])
    content, _ = bundles.exported(data, room_id)
    assert sum(name.startswith("ledger") for name in zipfile.ZipFile(io.BytesIO(content)).namelist()) > 2
    came = bundles.imported(data, content).id
    assert len(ledger.ledger(data, came)) == len(ledger.ledger(data, room_id)) + 1
