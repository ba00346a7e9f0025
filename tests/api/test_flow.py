"""The loop through the real application and a real SQLite file: describe, measure, try, do, prove, keep."""

import io
import json
import sqlite3
import zipfile

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from sqlalchemy import event

from keenquiet.api.app import make_app
from keenquiet.core.read.sweep import deconvolve
from keenquiet.store.audiofile import wav_bytes

from ..conftest import HERE

RATE = 48_000


def _upload(client, room_id, content, kind, name="x.wav"):
    return client.post(f"/api/rooms/{room_id}/readings", files={"file": (name, content)}, data={"kind": kind})


def _tried(client, room_id):
    room = client.get(f"/api/rooms/{room_id}").json()
    moves = client.post("/api/moves", json={"document": room["document"]}).json()["moves"]
    duvet = next(m for m in moves if "duvet" in m["title"])
    document = room["document"]
    document["arrangements"].append(
        duvet["arrangement"] | {"id": "what-if", "trying": {"kind": duvet["kind"], "title": duvet["title"]}}
    )
    saved = client.put(f"/api/rooms/{room_id}", json={"revision": room["revision"], "document": document})
    assert saved.status_code == 200, saved.text
    return saved.json(), duvet


def test_a_move_is_tried_done_and_proved_by_a_new_reading(client, room_id):
    first = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "sweep", "seed": 1}).json()
    assert first["simulated"]
    assert first["verdict"]["usable"]
    room, duvet = _tried(client, room_id)
    ask = {"document": room["document"], "arrangement_id": "what-if"}
    tried = client.post("/api/forecast", json=ask).json()["marks"]
    before = client.post("/api/forecast", json=ask | {"arrangement_id": "as-is"}).json()["marks"]
    assert tried["bounce"]["value"] - before["bounce"]["value"] == pytest.approx(
        duvet["effects"]["bounce"]["change"], abs=0.01
    )

    done = client.post(
        f"/api/rooms/{room_id}/moves/done",
        json={"revision": room["revision"], "kind": duvet["kind"], "title": duvet["title"]},
    )
    standing = done.json()["document"]["arrangements"]
    assert [a["id"] for a in standing] == ["as-is"]
    assert [t["kind"] for t in standing[0]["treatments"]] == ["duvet"]
    assert client.get(f"/api/rooms/{room_id}/marks").json()["bounce"]["current"] is False

    client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "sweep", "seed": 2})
    ledger = client.get(f"/api/rooms/{room_id}/ledger").json()
    assert [entry["kind"] for entry in ledger] == ["reading", "move", "reading", "room"]
    proof = {row["mark"]: row for row in ledger[1]["proof"]}["bounce"]
    assert proof["measured"] > proof["measured_before"] + 0.7  # the room did get drier, by measurement
    assert proof["predicted"] > proof["predicted_before"] + 0.7
    assert proof["simulated"]
    marks = client.get(f"/api/rooms/{room_id}/marks").json()
    assert marks["bounce"]["current"]


def test_an_imported_sweep_recovers_the_rigs_decay_within_5_percent(client, room_id, tmp_path, bakery):
    from keenquiet.core.read.decay import band_decays
    from keenquiet.service.reading import rig_recording

    recording = rig_recording(bakery, bakery.arrangements[0], "sweep", seed=9)
    truth = band_decays(recording.response.impulse, RATE)
    reading = _upload(client, room_id, wav_bytes(recording.samples, RATE), "sweep").json()
    compared = 0
    for got, want in zip(reading["result"]["bands"], truth, strict=True):
        if got["t20_s"] is not None and want.t20_s is not None and got["centre_hz"] >= 500:
            assert got["t20_s"] == pytest.approx(want.t20_s, rel=0.05)
            compared += 1
    assert compared >= 3
    assert reading["result"]["sweep"]["clock_ppm"] == pytest.approx(recording.clock_ppm, abs=5)
    named = [e["where"] for e in reading["result"]["early"] if "where" in e]
    assert "the ceiling" in named


def test_everything_is_there_after_a_restart(tmp_path, room_id, client):
    client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "tone", "seed": 3})
    with TestClient(make_app(tmp_path / "data"), base_url=HERE) as again:
        (reading,) = again.get(f"/api/rooms/{room_id}/readings").json()
        assert reading["kind"] == "tone"
        sound = again.get(f"/api/readings/{reading['id']}/audio")
        samples, rate = soundfile.read(io.BytesIO(sound.content))
        assert rate == RATE
        assert len(samples) == 12 * RATE


def test_a_bundle_comes_back_the_same_elsewhere(client, room_id, tmp_path):
    room, duvet = _tried(client, room_id)
    client.post(
        f"/api/rooms/{room_id}/moves/done",
        json={"revision": room["revision"], "kind": duvet["kind"], "title": duvet["title"]},
    )
    client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 4})
    bundle = client.get(f"/api/rooms/{room_id}/bundle").content
    with TestClient(make_app(tmp_path / "other"), base_url=HERE) as other:
        brought = other.post("/api/bundles", files={"file": ("a.kq.zip", bundle)}).json()
        assert brought["readings"] == 1
        one, two = client.get(f"/api/rooms/{room_id}").json(), other.get(f"/api/rooms/{brought['id']}").json()
        assert one["document"] == two["document"]
        ours, theirs = (
            c.get(f"/api/rooms/{i}/readings").json()[0] for c, i in ((client, room_id), (other, brought["id"]))
        )
        assert {k: v for k, v in ours.items() if k != "id"} == {k: v for k, v in theirs.items() if k != "id"}
        assert (
            client.get(f"/api/readings/{ours['id']}/audio").content
            == other.get(f"/api/readings/{theirs['id']}/audio").content
        )
        kinds = [entry["kind"] for entry in other.get(f"/api/rooms/{brought['id']}/ledger").json()]
        assert kinds == ["import", "reading", "move", "room"]


def test_two_windows_meet_and_neither_loses(client, room_id):
    room = client.get(f"/api/rooms/{room_id}").json()
    mine, theirs = json.loads(json.dumps(room["document"])), json.loads(json.dumps(room["document"]))
    mine["name"], theirs["name"] = "Mine", "Theirs"
    assert client.put(f"/api/rooms/{room_id}", json={"revision": 1, "document": theirs}).status_code == 200
    refused = client.put(f"/api/rooms/{room_id}", json={"revision": 1, "document": mine})
    assert refused.status_code == 409
    assert refused.json()["newest"] == 2
    assert client.get(f"/api/rooms/{room_id}").json()["name"] == "Theirs"
    assert client.put(f"/api/rooms/{room_id}", json={"revision": 2, "document": mine}).json()["revision"] == 3


def test_a_room_by_three_dimensions_as_typed(client):
    room = client.post(
        "/api/rooms", json={"name": "Room", "length": "11' 10 1/2\"", "width": "284 cm", "height": "2,41"}
    ).json()
    assert room["size_m"] == pytest.approx([3.6195, 2.84, 2.41])
    assert client.post("/api/forecast", json={"document": room["document"]}).status_code == 200
    for length, said in (("0", "length"), ("-3", "length"), ("40 m", "length"), ("wide", "length")):
        answer = client.post("/api/rooms", json={"length": length, "width": "3", "height": "2.4"})
        assert answer.status_code == 422
        assert answer.json()["error"]["field"] == said


def test_the_sweep_file_is_the_sweep_and_is_known_for_no_recording_of_a_room(client, room_id):
    wav = client.get("/api/sweep.wav").content
    samples, rate = soundfile.read(io.BytesIO(wav))
    found = deconvolve(samples, rate)
    assert found.delay_s == pytest.approx(1.2, abs=1e-4)
    assert found.clock_ppm == pytest.approx(0.0, abs=0.5)
    assert found.clock_plus_minus_ppm < 1  # by its marks
    assert np.max(np.abs(samples)) == pytest.approx(0.25, abs=0.01)  # starts at -12 dBFS, for the ears' sake
    verdict = _upload(client, room_id, wav, "sweep").json()["verdict"]
    assert not verdict["usable"]


def test_binned_readings_come_back(client, room_id):
    reading = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "tone"}).json()
    client.delete(f"/api/readings/{reading['id']}")
    assert client.get(f"/api/rooms/{room_id}/readings").json() == []
    client.post(f"/api/readings/{reading['id']}/restore")
    assert len(client.get(f"/api/rooms/{room_id}/readings").json()) == 1


def test_hush_comes_from_a_silence_and_a_take_at_one_gain(client, room_id):
    for kind in ("tone", "take"):
        client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": kind, "seed": 6})
    marks = client.get(f"/api/rooms/{room_id}/marks").json()
    predicted = client.post(
        "/api/forecast", json={"document": client.get(f"/api/rooms/{room_id}").json()["document"]}
    ).json()["marks"]
    assert marks["hush"]["value"] == pytest.approx(predicted["hush"]["value"], abs=2 * predicted["hush"]["plus_minus"])
    client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 7, "gain_db": 14})
    hot = client.get(f"/api/rooms/{room_id}/readings").json()[0]
    assert hot["measured"]["touch"]["gain_advice_db"] < -8


def test_an_imported_silence_and_take_are_not_set_against_each_other(client, room_id):
    """Nothing is known of their gains: Hush comes from the take's own pauses alone."""
    t = np.arange(12 * RATE) / RATE
    rng = np.random.default_rng(4)
    take = 0.3 * np.sin(2 * np.pi * 220 * t) * (np.mod(t, 3) < 2) + 1e-3 * rng.standard_normal(len(t))
    for kind, samples in (("take", take), ("tone", 1e-5 * rng.standard_normal(len(t)))):
        assert _upload(client, room_id, wav_bytes(samples, RATE, subtype="FLOAT"), kind).json()["verdict"]["usable"]
    hush = client.get(f"/api/rooms/{room_id}/marks").json()["hush"]
    taken = next(r for r in client.get(f"/api/rooms/{room_id}/readings").json() if r["kind"] == "take")
    assert hush["value"] == taken["measured"]["hush"]["value"]
    assert hush["reading_id"] == taken["id"]


def test_simulated_readings_never_stand_in_for_real_ones(client, room_id, bakery):
    from keenquiet.service.reading import rig_recording

    sweep = rig_recording(bakery, bakery.arrangements[0], "sweep", seed=9)
    real = _upload(client, room_id, wav_bytes(sweep.samples, RATE), "sweep").json()
    client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "sweep", "seed": 2})
    marks = client.get(f"/api/rooms/{room_id}/marks").json()
    assert marks["bounce"]["reading_id"] == real["id"]
    assert not marks["bounce"]["simulated"]


# Bad input


def _wav(samples, rate=RATE, subtype="PCM_16"):
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, rate, format="WAV", subtype=subtype)
    return buffer.getvalue()


NOISE = 0.1 * np.random.default_rng(1).standard_normal(3 * RATE)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"not audio at all" * 100, "not a recording"),
        (_wav(NOISE)[:20], "not a recording"),
        (_wav(NOISE[:0]), "no samples"),
        (_wav(np.zeros((100, 17))), "17 channels"),
        (_wav(NOISE[:8000], 4000), "4000 Hz"),
        (_wav(np.zeros(8000 * 7200), 8000, "PCM_U8"), "120 minutes"),
    ],
    ids=["empty", "renamed", "truncated", "zero-length", "channels", "rate", "two-hours"],
)
def test_files_that_cannot_be_read_are_refused_by_name(client, room_id, content, words):
    answer = _upload(client, room_id, content, "tone", name="mine.wav")
    assert answer.status_code == 422
    assert words in answer.json()["error"]["reason"]
    assert answer.json()["error"]["cure"]
    assert client.get(f"/api/rooms/{room_id}/readings").json() == []


def test_a_header_that_claims_4_gigabytes_is_read_as_far_as_it_goes(client, room_id):
    wav = bytearray(_wav(NOISE))
    at = wav.find(b"data")
    wav[at + 4 : at + 8] = (0xFFFFFF00).to_bytes(4, "little")
    reading = _upload(client, room_id, bytes(wav), "tone").json()
    assert "truncated_file" in [r["code"] for r in reading["verdict"]["reasons"]]
    assert reading["seconds"] == pytest.approx(3.0, abs=0.01)


@pytest.mark.parametrize(
    ("content", "code"),
    [
        (_wav(np.zeros(3 * RATE)), "silent"),
        (_wav(np.clip(60 * NOISE, -1, 1)), "clipped"),
        (_wav(np.where(np.arange(3 * RATE) == 900, np.nan, NOISE), subtype="FLOAT"), "not_a_number"),
        (_wav(NOISE[: 8000 * 3], 8000), "narrow_band"),
        (_wav(NOISE, subtype="PCM_U8"), "low_resolution"),
    ],
)
def test_a_faulty_recording_is_kept_with_its_verdict(client, room_id, content, code):
    reading = _upload(client, room_id, content, "tone").json()
    assert code in [reason["code"] for reason in reading["verdict"]["reasons"]]


@pytest.mark.parametrize(
    ("rate", "subtype"), [(44_100, "PCM_24"), (96_000, "PCM_32"), (192_000, "FLOAT"), (48_000, "DOUBLE")]
)
def test_ordinary_rates_and_depths_are_read(client, room_id, rate, subtype):
    reading = _upload(client, room_id, _wav(np.resize(NOISE, 3 * rate), rate, subtype), "tone").json()
    assert reading["sample_rate_hz"] == rate
    assert reading["verdict"]["usable"]


def _zip(entries):
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in entries:
            archive.writestr(name, content)
    return buffer.getvalue()


@pytest.mark.parametrize(
    "bundle",
    [
        b"no zip",
        _zip([("../room.json", "{}")]),
        _zip([("/etc/passwd", "x")]),
        _zip([("room.json", "{}"), ("readings/../../x.json", "{}")]),
        _zip([("room.json", b"0" * 30_000_000)]),
        _zip([("room.json", "[1]")]),
        _zip([("moves.json", "[]")]),
        _zip([("room.json", "{")]),
    ],
    ids=["no-zip", "dots", "absolute", "inner-dots", "bomb", "list", "no-room", "broken"],
)
def test_a_bundle_with_tricks_is_refused_and_nothing_is_kept(client, bundle):
    answer = client.post("/api/bundles", files={"file": ("a.kq.zip", bundle)})
    assert answer.status_code == 422
    assert client.get("/api/rooms").json() == []


def test_sound_that_was_changed_on_the_way_is_noticed(client, room_id):
    client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "tone"})
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/rooms/{room_id}/bundle").content)) as archive:
        entries = [(name, archive.read(name)) for name in archive.namelist()]
    forged = _zip([(n, c[:-4] + b"ABCD" if n.startswith("audio/") else c) for n, c in entries])
    answer = client.post("/api/bundles", files={"file": ("a.kq.zip", forged)})
    assert answer.status_code == 422
    assert "changed on the way" in answer.json()["error"]["reason"]


def test_a_full_disk_says_so_and_leaves_what_was_there(client, room_id, monkeypatch):
    import keenquiet.store.audio as audio

    def full(*_args):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(audio.os, "fsync", full)
    answer = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "tone"})
    assert answer.status_code == 507
    monkeypatch.undo()
    assert client.get(f"/api/rooms/{room_id}/readings").json() == []
    folder = client.app.state.data.folder / "audio"
    assert list(folder.iterdir()) == []


def test_a_full_database_says_so_and_keeps_the_room(client, room_id):
    database = client.app.state.data.database
    room = client.get(f"/api/rooms/{room_id}").json()
    database.engine.dispose()
    with sqlite3.connect(database.path) as plain:
        pages = plain.execute("PRAGMA page_count").fetchone()[0]
    plain.close()
    event.listen(
        database.engine, "connect", lambda connection, _: connection.execute(f"PRAGMA max_page_count={pages + 2}")
    )
    big = room["document"] | {"padding": ["x" * 10_000] * 40}
    answer = client.put(f"/api/rooms/{room_id}", json={"revision": 1, "document": big})
    assert answer.status_code == 507
    assert client.get(f"/api/rooms/{room_id}").json() == room


def test_other_hosts_and_pages_are_kept_out(client, room_id):
    assert client.get("/api/rooms", headers={"host": "testserver"}).status_code == 403
    assert client.get("/api/rooms", headers={"host": "evil.example"}).status_code == 403
    moved = client.delete(f"/api/rooms/{room_id}", headers={"origin": "http://evil.example"})
    assert moved.status_code == 403
    assert "default-src 'self'" in client.get("/api/health").headers["content-security-policy"]


def test_unknown_things_are_not_found(client):
    for path in ("/api/rooms/none", "/api/readings/none", "/api/rooms/none/ledger"):
        answer = client.get(path)
        assert answer.status_code == 404
        assert answer.json()["error"]["cure"]
