"""What the page rests on: saves that collide, work that is waited for, pages that come packed and are kept."""

import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from fastapi.testclient import TestClient

from keenquiet.api.app import make_app
from keenquiet.api.pages import WEB
from keenquiet.cli.folders import demo_begun
from keenquiet.demo.load import load_demo
from keenquiet.demo.scenario import bakery_room

STEPS_ASK = ("", "/marks", "/readings", "/readings?binned=true", "/ledger")


def test_of_six_saves_at_once_one_is_kept_and_five_meet_a_conflict(client, room_id):
    document = client.get(f"/api/rooms/{room_id}").json()["document"]

    def save(number):
        body = {"revision": 1, "document": document | {"name": f"Name {number}"}}
        return client.put(f"/api/rooms/{room_id}", json=body)

    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(save, range(6)))
    assert sorted(answer.status_code for answer in answers) == [200, 409, 409, 409, 409, 409]
    assert {answer.json()["newest"] for answer in answers if answer.status_code == 409} == {2}


def test_every_step_of_a_demo_a_fresh_room_and_an_empty_folder_is_answered(client):
    assert client.get("/api/rooms").json() == []
    assert client.get("/api/places").json()["places"] == []
    demo = load_demo(client.app.state.data)
    fresh = client.post("/api/rooms", json={"name": "New", "length": "4", "width": "3", "height": "2.4"}).json()["id"]
    bare = client.post("/api/rooms", json={"document": bakery_room() | {"arrangements": []}}).json()["id"]
    for room in (fresh, bare, demo):
        for part in STEPS_ASK:
            assert client.get(f"/api/rooms/{room}{part}").status_code == 200, (room, part)
        document = client.get(f"/api/rooms/{room}").json()["document"]
        assert document["arrangements"]
        assert client.post("/api/forecast", json={"document": document, "room_id": room}).status_code == 200


def answered(client, method, url, **more):
    """An answer that is worked on in the background, waited for."""
    end = time.monotonic() + 60
    while time.monotonic() < end:
        answer = client.request(method, url, headers={"Prefer": "respond-async"}, **more).json()
        if not (isinstance(answer, dict) and "pending" in answer):
            return answer
        job = f"/api/jobs/{answer['pending']['id']}"
        while client.get(job).json()["state"] in ("waiting", "running"):
            time.sleep(0.02)
        assert client.get(job).json()["state"] == "done"
    raise AssertionError("never answered")


def test_what_takes_long_is_waited_for_and_is_the_same_as_asked_at_once(client, room_id):
    document = client.get(f"/api/rooms/{room_id}").json()["document"]
    document["shape"]["ceiling"]["height_m"] = 2.37  # nobody asked for this one before
    later = answered(client, "POST", "/api/moves", json={"document": document})
    assert later == client.post("/api/moves", json={"document": document}).json()
    assert later["moves"][0]["edits"][0]["do"]


def test_a_search_that_is_given_up_is_stopped(client, room_id):
    document = client.get(f"/api/rooms/{room_id}").json()["document"]
    document["shape"]["ceiling"]["height_m"] = 2.33
    pending = client.post("/api/moves", json={"document": document}, headers={"Prefer": "respond-async"}).json()
    job = f"/api/jobs/{pending['pending']['id']}"
    client.delete(job)
    assert client.get(job).json()["state"] == "cancelled"


def test_a_rigs_reading_is_taken_in_the_background(client, room_id):
    ask = {"kind": "tone", "seed": 3}
    url = f"/api/rooms/{room_id}/readings/rig"
    answer = client.post(url, json=ask, headers={"Prefer": "respond-async"}).json()
    if "pending" in answer:
        job = f"/api/jobs/{answer['pending']['id']}"
        while client.get(job).json()["state"] in ("waiting", "running"):
            time.sleep(0.02)
        answer = client.get(f"{job}/reading").json()
    assert answer["result"]["form"] == "tone"
    assert len(client.get(f"/api/rooms/{room_id}/readings").json()) == 1


@pytest.mark.skipif(not (WEB / "index.html").is_file(), reason="the interface is not built")
def test_scripts_come_packed_and_are_kept_for_good(client):
    page = client.get("/", headers={"Accept-Encoding": "identity"})
    script = next(part for part in page.text.split('"') if part.startswith("/assets/") and part.endswith(".js"))
    plain = client.get(script, headers={"Accept-Encoding": "identity"})
    for coding in ("br", "gzip"):
        packed = client.get(script, headers={"Accept-Encoding": coding})
        assert packed.headers["content-encoding"] == coding
        assert int(packed.headers["content-length"]) < 0.4 * len(plain.content)
        assert "immutable" in packed.headers["cache-control"]
        assert "accept-encoding" in packed.headers["vary"].lower()
    assert "immutable" not in page.headers.get("cache-control", "")  # the page itself names the newest scripts


def test_no_wanted_value_names_a_file_of_ours(client, room_id):
    document = client.get(f"/api/rooms/{room_id}").json()["document"]
    for purpose in ("dry-voice", "spoken", "some-room", "lively"):
        document["brief"]["purpose"] = purpose
        marks = client.post("/api/forecast", json={"document": document}).json()["marks"]
        for mark in marks.values():
            assert mark["wanted"]["why"]
            assert not any(word in mark["wanted"]["source"] for word in (".md", "project", "section"))


def test_a_light_command_loads_no_signal_package():
    """Seconds depend on the machine; what is loaded does not: SciPy's signal package alone took 1.1 s."""
    said = "import sys, keenquiet.cli as c\nsys.argv[1:] = ['--help']\ntry:\n c.main()\nexcept SystemExit: pass\n"
    script = said + "print([m for m in ('scipy.signal', 'skfem', 'sqlalchemy', 'fastapi') if m in sys.modules])"
    found = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)
    assert found.stdout.strip().endswith("[]"), found.stdout[-300:] + found.stderr[-600:]


def test_the_demo_is_served_before_its_readings_are_made_and_a_broken_off_one_is_completed(tmp_path):
    app = make_app(tmp_path)
    with TestClient(app, base_url="http://127.0.0.1") as page:
        job = app.state.preparing = demo_begun(app.state.data)
        rooms = page.get("/api/rooms").json()
        assert next(room["name"] for room in rooms) == "Over the bakery"
        assert len(rooms) == 3
        assert page.get("/api/health").json()["preparing"]["state"] in ("waiting", "running")
        while page.get("/api/health").json()["preparing"]["progress"] == 0:
            assert job.going, job.error
        job.stop.set()  # as at Ctrl-C
        assert job.ended.wait(60)
        assert job.state == "cancelled"
        assert page.get("/api/health").json()["preparing"] is None
        job = demo_begun(app.state.data)
        assert job.ended.wait(120)
        assert job.state == "done"
        kinds = [sorted(r["kind"] for r in page.get(f"/api/rooms/{room['id']}/readings").json()) for room in rooms]
        assert kinds == [["sweep", "take", "tone"], ["sweep", "tone"], ["sweep", "tone"]]
        assert len(page.get("/api/rooms").json()) == 3
