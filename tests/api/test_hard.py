"""Hard to break, in short: what `make soak` does for hours. And who may come in."""

import contextlib
import os
import socket
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from fastapi.testclient import TestClient

from keenquiet.api.app import make_app
from keenquiet.api.guard import Guard
from keenquiet.api.visitors import TooManyGuesses, Visitors, made_up
from keenquiet.core.errors import InputError
from keenquiet.demo.scenario import attic, bakery_room, cupboard
from keenquiet.service import bundles, readings
from keenquiet.store.audiofile import wav_bytes

from ..conftest import HERE
from ..soak import damaged, kills, requests
from ..soak.outcome import resident_mb


@pytest.fixture(scope="module")
def shared(tmp_path_factory):
    app = make_app(tmp_path_factory.mktemp("hard"))
    with TestClient(app, base_url=HERE, raise_server_exceptions=False) as client:
        client.room_id = client.post("/api/rooms", json={"document": cupboard()}).json()["id"]
        readings.from_rig(app.state.data, client.room_id, kind="tone", arrangement_id=None, gain_db=0.0, seed=1)
        yield client


def test_a_server_killed_at_work_loses_nothing_that_it_acknowledged(tmp_path):
    outcome = kills.killed(tmp_path / "data", 2)
    assert outcome.wrong == []
    assert outcome.answers["acknowledged"] > 0
    assert outcome.answers["stopped within s"] < 3


def test_a_move_is_written_whole_or_not_at_all(tmp_path):
    outcome = kills.killed(tmp_path / "data", 1, aimed=True)
    assert outcome.wrong == []


def test_damaged_bundles_are_refused_or_come_in_whole(shared):
    bundle, _ = bundles.exported(shared.app.state.data, shared.room_id)
    outcome = damaged.bundles(shared, bundle, 40)
    assert outcome.wrong == []
    assert outcome.answers[422] > 15


def test_damaged_sounds_are_read_or_refused(shared):
    outcome = damaged.sounds(shared, shared.room_id, 12)
    assert outcome.wrong == []


def test_generated_requests_are_answered(shared):
    before_mb = resident_mb(os.getpid())
    # a room of its own: some of the requests delete it
    room_id = shared.post("/api/rooms", json={"document": cupboard()}).json()["id"]
    outcome = requests.asked(shared, [bakery_room(), cupboard(), attic()], [room_id], 300)
    assert outcome.wrong == []
    assert outcome.most_mb - before_mb < 500


@pytest.mark.parametrize(
    ("body", "status"),
    [
        (b"[" * 100_000 + b"]" * 100_000, 422),
        (b'{"document": ' * 60 + b"1" + b"}" * 60, 422),
        (b'{"name": "\\ud800", "length": "4", "width": "3", "height": "2.4"}', 422),
        (b'{"name": "a\\u0000b", "length": "4", "width": "3", "height": "2.4"}', 422),
        (b'{"name": "' + b"x" * 30_000 + b'"}', 422),
        (b'{"a": ' + b"9" * 6000 + b"}", 422),
        (b"\xff\xfe", 422),
        (b" " * 5_000_000, 413),
    ],
)
def test_json_is_bounded_before_anything_reads_it(client, body, status):
    answer = client.post("/api/rooms", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == status, answer.text[:200]
    assert answer.json()["error"]["cure"]
    assert "default-src 'self'" in answer.headers["content-security-policy"]


def test_a_request_that_calls_itself_an_upload_where_none_is_taken_has_the_bounds_of_any_other(client):
    kind = {"content-type": "multipart/form-data; boundary=x"}
    assert client.post("/api/rooms", content=b" " * 5_000_000, headers=kind).status_code == 413
    assert client.post("/api/rooms", content=b"--x--", headers=kind).status_code == 422


def test_a_chunked_body_has_the_same_bounds(client):
    def chunks():
        for _ in range(5000):
            yield b" " * 1000

    answer = client.post("/api/rooms", content=chunks(), headers={"content-type": "application/json"})
    assert answer.status_code == 413


@pytest.mark.parametrize(
    ("part", "value"),
    [
        ("furnishings", [{"kind": "chair", "at": [1, 1]}] * 10_000),
        ("noises", [{"name": "n", "octaves_db": {"63": 40}, "kind": "inside", "at": [1, 1, 1]}] * 500),
        ("openings", [{"kind": "door", "surface": "wall-1", "x_m": 0, "z_m": 0, "width_m": 0.1, "height_m": 1}] * 500),
        ("surfaces", {f"s{n}": {} for n in range(1000)}),
    ],
)
def test_too_many_of_anything_is_refused_at_once_with_its_name(client, part, value):
    began = time.monotonic()
    answer = client.post("/api/rooms", json={"document": bakery_room() | {part: value}})
    assert answer.status_code == 422
    assert answer.json()["error"]["field"].startswith(part)
    assert time.monotonic() - began < 2


@pytest.mark.parametrize("name", ["工作室", "Студия", "מקלט", "🎻 loft", "a/b\\c", "..", "?", "x" * 120])
def test_a_room_of_any_name_goes_out_and_comes_back(client, name):
    room = client.post("/api/rooms", json={"document": cupboard() | {"name": name}}).json()
    answer = client.get(f"/api/rooms/{room['id']}/bundle")
    assert answer.status_code == 200
    assert answer.headers["content-disposition"].isascii()
    again = client.post("/api/bundles", files={"file": ("a.kq.zip", answer.content)})
    assert again.json()["name"] == name
    assert client.post("/api/drawing?kind=svg", json={"document": room["document"]}).status_code == 200
    assert client.post("/api/drawing?kind=dxf", json={"document": room["document"]}).status_code == 200


def test_a_table_starts_no_formula_and_no_row_of_its_own(client, room_id):
    sound = {"file": ("=cmd|x.wav", wav_bytes(0.1 * noise(), 48_000))}
    reading = client.post(f"/api/rooms/{room_id}/readings", files=sound, data={"kind": "tone"}).json()
    client.patch(f"/api/readings/{reading['id']}", json={"note": "calm\r\n=1+1\r@x", "tags": ["=2"]})
    table = client.get(f"/api/rooms/{room_id}/readings.csv").text
    assert len(table.splitlines()) == 2
    assert "\r" not in table
    assert all(not cell.startswith(("=", "@", "+")) for cell in table.splitlines()[1].split(","))


def noise():
    return np.random.default_rng(1).standard_normal(3 * 48_000)


def test_one_broken_row_breaks_neither_lists_nor_the_other_rooms(shared):
    data = shared.app.state.data
    made = shared.post("/api/rooms", json={"document": cupboard() | {"name": "Broken", "project": "p"}}).json()["id"]
    kept = readings.from_rig(data, made, kind="tone", arrangement_id=None, gain_db=0.0, seed=2)
    with data.database.engine.begin() as connection:
        connection.exec_driver_sql("update reading_results set result = '{}' where reading_id like ?", (kept.id,))
        connection.exec_driver_sql("update readings set brief = null, brief_version = 0 where room_id = ?", (made,))
    listed = shared.get(f"/api/rooms/{made}/readings").json()
    assert [(r["form"], r["verdict"]["word"]) for r in listed] == [("broken", "not usable")]
    assert shared.get(f"/api/readings/{listed[0]['id']}").status_code == 422
    for part in ("", "/marks", "/ledger", "/readings.csv", "/bundle"):
        assert shared.get(f"/api/rooms/{made}{part}").status_code == 200, part
    for document in ("[]", '{"shape": 3}', '{"shape": {"plan": []}, "name": 7}'):
        with data.database.engine.begin() as connection:
            connection.exec_driver_sql("update rooms set document = ? where id = ?", (document, made))
        rooms = {room["id"]: room for room in shared.get("/api/rooms").json()}
        assert rooms[made]["broken"]
        assert not rooms[shared.room_id]["broken"]
        assert shared.get("/api/places").status_code == 200
        assert shared.get(f"/api/rooms/{made}").status_code == 422
        assert shared.get(f"/api/rooms/{made}/bundle").status_code == 200  # as it is
    assert shared.delete(f"/api/rooms/{made}").status_code == 204


def test_a_reading_sent_twice_is_filed_once(client, room_id):
    sound = wav_bytes(0.01 * noise(), 48_000)

    def send(key):
        files, fields = {"file": ("a.wav", sound)}, {"kind": "tone", "way": "browser"}
        return client.post(f"/api/rooms/{room_id}/readings", files=files, data=fields, headers={"idempotency-key": key})

    with ThreadPoolExecutor(4) as pool:
        answers = list(pool.map(send, ["the-same-key"] * 4))
    assert {answer.status_code for answer in answers} == {201}
    assert len({answer.json()["id"] for answer in answers}) == 1
    assert len(client.get(f"/api/rooms/{room_id}/readings").json()) == 1
    assert send("another-key").json()["id"] != answers[0].json()["id"]
    other = client.post("/api/rooms", json={"document": cupboard()}).json()["id"]
    files, fields = {"file": ("a.wav", sound)}, {"kind": "tone"}
    taken = client.post(
        f"/api/rooms/{other}/readings", files=files, data=fields, headers={"idempotency-key": "the-same-key"}
    )
    assert taken.status_code == 409
    files = {"file": ("a.wav", wav_bytes(0.02 * noise(), 48_000))}
    other_sound = client.post(
        f"/api/rooms/{room_id}/readings", files=files, data=fields, headers={"idempotency-key": "the-same-key"}
    )
    assert other_sound.status_code == 409
    assert other_sound.json()["error"]["field"] == "Idempotency-Key"


def test_more_places_than_anybody_can_choose_from_are_left_out_and_said(client):
    for number in range(42):
        client.post("/api/rooms", json={"document": cupboard() | {"name": f"Cupboard {number}"}})
    answer = client.get("/api/places").json()
    assert len(answer["places"]) == 40
    assert [room["name"] for room in answer["left_out"]] == ["Cupboard 1", "Cupboard 0"]
    assert "projects" in answer["left_out"][0]["why"]


class Clock:
    def __init__(self):
        self.now = 1000.0

    def __call__(self):
        return self.now


def test_a_passcode_is_long_hashed_slow_to_guess_and_gives_a_session_that_ends():
    for short in ("", "amber", "1234567", "  abc   "):
        with pytest.raises(InputError):
            Visitors(short)
    assert len(made_up().split("-")) == 5
    assert made_up() != made_up()
    clock = Clock()
    visitors = Visitors("пароль-Ünï", clock=clock)
    assert "пароль" not in repr(vars(visitors))
    for guess in ("wrong", "", "пароль"):
        assert visitors.let_in(guess, "one") is None
    secret = visitors.let_in("  пароль-U\u0308ni\u0308 ", "one")  # composed otherwise, as another keyboard does
    assert secret is not None
    assert visitors.knows(secret)
    assert not visitors.knows("пароль-Ünï")
    assert [visitors.let_in("wrong", "one") for _ in range(2)] == [None, None]
    with pytest.raises(TooManyGuesses):
        visitors.let_in("пароль-Ünï", "one")
    tried = []

    def guess_from_everywhere():
        for number in range(100):
            tried.append(visitors.let_in("wrong", f"address {number}"))

    with pytest.raises(TooManyGuesses):
        guess_from_everywhere()
    assert len(tried) <= 20
    clock.now += 61
    assert visitors.let_in("пароль-Ünï", "one") is not None
    visitors.end_all()
    assert not visitors.knows(secret)


def test_a_scanned_word_lets_one_device_in_within_ten_minutes():
    clock = Clock()
    visitors = Visitors("five-wooden-words", clock=clock)
    used, late = visitors.word(), visitors.word()
    secret = visitors.let_in_by(used)
    assert visitors.knows(secret)
    assert visitors.let_in_by(used) is None
    assert visitors.let_in_by("five-wooden-words") is None
    clock.now += 601
    assert visitors.let_in_by(late) is None


def test_a_scanned_code_lets_in_at_a_press_and_once(tmp_path):
    visitors = Visitors("five-wooden-words")
    app = make_app(tmp_path, guarded=False)
    app.add_middleware(Guard, visitors=visitors)
    word = visitors.word()
    with TestClient(app, base_url="http://192.168.1.7:8765", follow_redirects=False) as phone:
        assert word in phone.get(f"/enter?word={word}").text
        assert phone.get("/api/rooms").status_code == 401  # looked at, not pressed
        assert phone.post("/enter", data={"word": word}).headers["location"] == "/"
        assert phone.get("/api/rooms").status_code == 200
        assert phone.post("/enter", data={"word": word}).status_code == 401


def test_with_a_passcode_only_names_of_this_machine_are_served(tmp_path):
    """A page elsewhere whose name is made to lead here (DNS rebinding) reads nothing."""
    app = make_app(tmp_path, passcode="five-wooden-words")
    own = socket.gethostname().lower()
    for host, served in (
        ("192.168.1.20:8765", True),
        ("[fe80::1]:8765", True),
        ("localhost", True),
        (f"{own}:8765", True),
        (f"{own.split('.')[0]}.local", True),
        ("evil.example", False),
        ("192.168.1.20.evil.example", False),
        ("", False),
    ):
        with TestClient(app, base_url=HERE) as client:
            answer = client.get("/enter", headers={"host": host})
        assert (answer.status_code != 403) == served, host
    called = Guard(app, Visitors("five-wooden-words"), ["studio.example"])
    with TestClient(called, base_url="http://studio.example") as client:
        assert client.get("/enter").status_code == 200


def test_what_is_kept_is_read_by_its_owner_alone(tmp_path):
    folder = tmp_path / "data"
    folder.mkdir(mode=0o755)
    before = os.umask(0o022)
    try:
        with TestClient(make_app(folder), base_url=HERE) as client:
            room = client.post("/api/rooms", json={"document": cupboard()}).json()["id"]
            sound = {"file": ("a.wav", wav_bytes(0.01 * noise(), 48_000))}
            client.post(f"/api/rooms/{room}/readings", files=sound, data={"kind": "tone"})
            made = client.app.state.data.database.backup("by-hand")
            files = [*folder.glob("keenquiet.db*"), *(folder / "audio").iterdir(), made]
            assert len(files) >= 4
            assert [path.name for path in files if path.stat().st_mode & 0o077] == []
        with TestClient(make_app(folder), base_url=HERE):  # one of a former version, open to all, is closed
            assert folder.stat().st_mode & 0o077 == 0
    finally:
        os.umask(before)


def unbounded(schema, schemas, seen=()):
    """Numbers that a request may hold without a least and a most."""
    if "$ref" in schema:
        name = schema["$ref"].rsplit("/", 1)[1]
        return [] if name in seen else [f"{name}.{n}" for n in unbounded(schemas[name], schemas, (*seen, name))]
    found = []
    if schema.get("type") in ("number", "integer") and not {"const", "enum"} & schema.keys():
        has = [
            any(key in schema for key in pair)
            for pair in (("minimum", "exclusiveMinimum"), ("maximum", "exclusiveMaximum"))
        ]
        found += [] if all(has) else ["number"]
    inner = [*schema.get("anyOf", ()), *schema.get("oneOf", ()), *schema.get("prefixItems", ())]
    inner += [part for key in ("items", "additionalProperties") if isinstance(part := schema.get(key), dict)]
    found += [name for part in inner for name in unbounded(part, schemas, seen)]
    for key, part in schema.get("properties", {}).items():
        found += [f"{key}.{name}" for name in unbounded(part, schemas, seen)]
    return found


def test_every_number_that_may_be_asked_has_a_least_and_a_most(shared):
    described = shared.get("/api/openapi.json").json()
    schemas, wide, looked = described["components"]["schemas"], [], 0
    for path, ways in described["paths"].items():
        for way in ways.values():
            asked = [one["schema"] for one in way.get("parameters", ())]
            asked += [one["schema"] for one in way.get("requestBody", {}).get("content", {}).values()]
            looked += len(asked)
            wide += [f"{path}: {name}" for schema in asked for name in unbounded(schema, schemas)]
    assert looked > 150
    assert wide == []


@pytest.mark.parametrize("document", ["1e308", "-1e16", "1e999", "123456789012345678901234567890"])
def test_a_number_beyond_any_use_is_refused_wherever_it_stands(shared, document):
    body = '{"document": {"air": {"temperature_c": ' + document + "}}}"
    refused = shared.post("/api/rooms", content=body, headers={"content-type": "application/json"})
    assert refused.status_code == 422
    settings_ = {"kind": "tone", "settings": '{"gain_db": ' + document + "}"}
    sound = {"file": ("a.wav", wav_bytes(0.01 * noise(), 48_000))}
    assert shared.post(f"/api/rooms/{shared.room_id}/readings", files=sound, data=settings_).status_code == 422


def test_small_things_that_were_failures_of_ours_are_answered_in_words(shared):
    watch = shared.post(f"/api/rooms/{shared.room_id}/watches", json={}).json()["id"]
    long = "a" * 300

    def log(row):
        return shared.post(
            f"/api/rooms/{shared.room_id}/watches/import",
            files={"file": ("log.csv", f"time,level_db\n{row}\n")},
            data={"unit": "dBA", "offset_min": 0},
        )

    def calibrator(seconds):
        tone = 0.5 * np.sin(2 * np.pi * 1000 * np.arange(round(48_000 * seconds)) / 48_000)
        fields = {"device": "desk", "gain": "noon"}
        return shared.post(
            "/api/calibrations/calibrator", files={"file": ("c.wav", wav_bytes(tone, 48_000))}, data=fields
        )

    for answer, status in (
        (shared.get(f"/api/watches/{watch}/clips/{10**30}"), 422),
        (shared.get(f"/{long}"), 404),
        (shared.get(f"/assets/{long}"), 404),
        (shared.get(f"/api/readings/{long}"), 404),
        (log("2026-05-03T21:15:00," + "4" * 140_000), 422),
        (log("1" * 140_000 + ",40"), 422),
        (calibrator(1 / 48_000), 422),
        (calibrator(0.5), 422),
        (calibrator(3.0), 201),
    ):
        assert answer.status_code == status, answer.text[:200]


def test_an_address_with_the_passcode_opens_nothing_and_one_with_a_word_waits_for_a_press(tmp_path):
    app = make_app(tmp_path, passcode="five-wooden-words")
    with TestClient(app, base_url="http://192.168.1.7:8765", follow_redirects=False) as phone:
        assert "set-cookie" not in phone.get("/enter?passcode=five-wooden-words").headers
        shown = phone.get('/enter?word=ab"><script>')
        assert "set-cookie" not in shown.headers
        assert "<script>" not in shown.text
        assert "Come in" in shown.text
        assert phone.post("/enter", data={"word": "ab"}).status_code == 401
        assert phone.get("/api/rooms").status_code == 401


def test_other_machines_come_in_by_the_passcode_once(tmp_path):
    app = make_app(tmp_path, passcode="five-wooden-words")
    with TestClient(app, base_url="http://192.168.1.7:8765", follow_redirects=False) as phone:
        assert phone.get("/api/rooms").status_code == 401
        assert phone.get("/").headers["location"] == "/enter"
        assert "Passcode" in phone.get("/enter").text
        assert phone.get("/api/rooms?passcode=five-wooden-words").status_code == 401
        assert phone.post("/enter", data={"passcode": "wrong"}).status_code == 401
        entered = phone.get("//evil.example/x?passcode=five-wooden-words")
        assert entered.headers.get("location") == "/enter"
        entered = phone.post("/enter?next=//evil.example", data={"passcode": "five-wooden-words"})
        assert (entered.status_code, entered.headers["location"]) == (303, "/")
        cookie = entered.headers["set-cookie"]
        assert "five-wooden-words" not in cookie
        assert "HttpOnly" in cookie
        assert "Secure" not in cookie
        assert phone.get("/api/rooms").status_code == 200
        assert phone.post("/enter", data={"everywhere": "1"}).status_code == 200
        assert phone.get("/api/rooms").status_code == 401
    with TestClient(app, base_url="https://192.168.1.7", follow_redirects=False) as phone:
        cookie = phone.post("/enter", data={"passcode": "five-wooden-words"}).headers["set-cookie"]
        assert "Secure" in cookie
        assert cookie.startswith("__Host-")
        assert phone.get("/api/rooms").status_code == 200


def test_every_answer_carries_the_safety_headers_refusals_and_failures_too(client, room_id, monkeypatch):
    monkeypatch.setattr(readings, "listed", lambda *_, **__: 1 / 0)
    answers = [
        client.get("/api/health"),
        client.get("/"),
        client.get("/api/none"),
        client.get("/api/rooms", headers={"host": "evil.example"}),
        client.get(f"/api/rooms/{room_id}/readings"),
        client.request("TRACE", "/api/rooms"),
        client.get("/api/%00"),
        client.get("/%00"),
    ]
    assert [answer.status_code for answer in answers][3:5] == [403, 500]
    for answer in answers:
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert "default-src 'self'" in answer.headers["content-security-policy"]
        assert "microphone=(self)" in answer.headers["permissions-policy"]
    assert answers[4].json()["error"]["cure"]
    assert answers[0].headers["cache-control"] == "no-store"


def test_another_site_reads_nothing_of_the_api(client):
    assert client.get("/api/rooms", headers={"sec-fetch-site": "cross-site"}).status_code == 403
    assert client.get("/api/rooms", headers={"sec-fetch-site": "same-origin"}).status_code == 200
    assert client.get("/", headers={"sec-fetch-site": "cross-site"}).status_code != 403  # a link to it may be followed


def test_a_server_stops_within_three_seconds_whatever_is_under_way(tmp_path):
    served = kills.Served(tmp_path / "data").ready()
    _, room = served.ask("POST", "/api/rooms", {"document": attic()})
    body = {"document": room["document"], "arrangement_id": None}
    for _ in range(4):
        threading.Thread(target=lambda: _ignoring(served.ask, "POST", "/api/moves", body), daemon=True).start()
    half = socket.create_connection(("127.0.0.1", served.port))
    half.sendall(b"POST /api/rooms HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 100\r\n\r\n{")
    assert served.ask("GET", "/api/health")[0] == 200
    kept = [tmp_path / "data", *(tmp_path / "data").rglob("*")]
    assert [path.name for path in kept if path.stat().st_mode & 0o077] == []  # its owner's alone
    assert served.interrupted() < 3
    half.close()


def _ignoring(ask, *args):
    with contextlib.suppress(OSError, ValueError):
        ask(*args)


def test_a_second_server_on_the_same_folder_says_so_and_leaves_it_alone(tmp_path):
    first = kills.Served(tmp_path / "data").ready()
    second = kills.Served(tmp_path / "data")
    said = second.said()
    assert second.process.returncode == 2
    assert "Another Keen Quiet is serving" in said
    assert first.ask("GET", "/api/rooms")[0] == 200
    first.kill()
    third = kills.Served(tmp_path / "data").ready()  # a lock dies with its holder
    third.kill()
