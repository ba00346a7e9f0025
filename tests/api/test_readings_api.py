"""Readings over HTTP: rig faults, words about readings, averages, parts, tables, calibrations, and what is refused."""

import io

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from keenquiet.api.app import make_app
from keenquiet.store.audiofile import wav_bytes

from ..conftest import HERE, boxed_bakery
from ..core.made_otherwise import made

RATE = 48_000


@pytest.fixture
def client(tmp_path):
    with TestClient(make_app(tmp_path / "data"), base_url=HERE) as opened:
        yield opened


@pytest.fixture
def room_id(client):
    return client.post("/api/rooms", json={"document": boxed_bakery()}).json()["id"]


def rig(client, room_id, **body):
    return client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "sweep", "seed": 1, **body})


def test_the_rig_tells_its_faults_and_makes_them(client, room_id):
    faults = {fault["key"] for fault in client.get("/api/catalogue").json()["faults"]}
    assert {"gain-too-high", "fan-on", "window-open", "moving"} <= faults
    answer = rig(client, room_id, faults=["gain-too-high"]).json()
    assert answer["simulated"]
    assert answer["settings"]["faults"] == ["gain-too-high"]
    assert "clipped" in [reason["code"] for reason in answer["verdict"]["reasons"]]
    refused = rig(client, room_id, faults=["earthquake"])
    assert refused.status_code == 422
    assert refused.json()["error"]["field"] == "faults"


def test_a_reading_is_described_and_the_table_says_so(client, room_id):
    reading = rig(client, room_id).json()
    assert reading["result"]["tape"]["agrees"] is not False
    assert len(reading["result"]["thirds"]) > 20
    assert len(reading["result"]["surface"]["level_db"]) == len(reading["result"]["surface"]["time_s"])
    said = client.patch(
        f"/api/readings/{reading['id']}", json={"note": "as it was", "tags": ["before"], "counts": False}
    ).json()
    assert (said["note"], said["tags"], said["counts"]) == ("as it was", ["before"], False)
    table = client.get(f"/api/rooms/{room_id}/readings.csv")
    assert table.headers["content-type"].startswith("text/csv")
    assert "as it was" in table.text
    assert client.patch(f"/api/readings/{reading['id']}", json={"note": "x" * 2001}).status_code == 422
    assert client.patch("/api/readings/none", json={"note": "x"}).status_code == 404


def test_an_average_and_its_impulse_response(client, room_id):
    ids = [rig(client, room_id, seed=seed).json()["id"] for seed in (1, 2)]
    average = client.post(f"/api/rooms/{room_id}/readings/average", json={"reading_ids": ids})
    assert average.status_code == 201
    sound = client.get(f"/api/readings/{average.json()['id']}/impulse.wav")
    samples, rate = soundfile.read(io.BytesIO(sound.content))
    assert rate == RATE
    assert np.max(np.abs(samples)) == pytest.approx(0.9, abs=1e-3)
    assert client.post(f"/api/rooms/{room_id}/readings/average", json={"reading_ids": ids[:1]}).status_code == 422


def test_a_part_to_listen_to_and_one_that_lies_outside(client, room_id):
    reading = rig(client, room_id, kind="tone").json()
    part = client.get(f"/api/readings/{reading['id']}/part.wav", params={"from_s": 1, "to_s": 2})
    assert float(part.headers["x-raised-db"]) > 0
    assert soundfile.info(io.BytesIO(part.content)).duration == pytest.approx(1.0, abs=0.01)
    assert client.get(f"/api/readings/{reading['id']}/part.wav", params={"from_s": 99}).status_code == 422


def test_the_same_words_are_compared_and_others_refused(client, room_id):
    first, second = (rig(client, room_id, kind="spoken", seed=seed).json()["id"] for seed in (1, 2))
    answer = client.get(f"/api/readings/{first}/same-words/{second}").json()
    assert answer["simulated"] == [True, True]
    assert abs(answer["gain_db"]) < 6
    tone = rig(client, room_id, kind="tone").json()["id"]
    assert client.get(f"/api/readings/{first}/same-words/{tone}").status_code == 422


def test_a_calibrator_is_kept_for_its_chain_and_put_aside(client):
    t = np.arange(3 * RATE) / RATE
    tone = wav_bytes(0.2 * np.sin(2 * np.pi * 1000 * t), RATE)
    fields = {"device": "Blue interface", "gain": "dial at 2", "level_db": "94"}
    made = client.post("/api/calibrations/calibrator", data=fields, files={"file": ("cal.wav", tone)})
    assert made.status_code == 201
    assert made.json()["full_scale_db"] == pytest.approx(94 - 20 * np.log10(0.2 / np.sqrt(2)), abs=0.02)
    assert [c["id"] for c in client.get("/api/calibrations").json()] == [made.json()["id"]]
    assert client.delete(f"/api/calibrations/{made.json()['id']}").status_code == 200
    assert client.get("/api/calibrations").json() == []
    noise = wav_bytes(0.1 * np.random.default_rng(1).standard_normal(3 * RATE), RATE)
    refused = client.post("/api/calibrations/calibrator", data=fields, files={"file": ("noise.wav", noise)})
    assert refused.json()["error"]["field"] == "file"
    assert client.post("/api/calibrations", json={"reading_id": "none", "method": "meter"}).status_code == 404


def test_what_was_made_elsewhere_is_judged_and_settles_nothing_from_the_first_moment(client, room_id):
    sound = wav_bytes(made(3).samples, 48_000)
    sent = {"kind": "take", "counts": "false"}
    filed = client.post(f"/api/rooms/{room_id}/readings", data=sent, files={"file": ("elsewhere.wav", sound)}).json()
    assert (filed["counts"], filed["verdict"]["usable"]) == (False, True)
    assert client.get(f"/api/rooms/{room_id}/marks").json()["touch"] is None
