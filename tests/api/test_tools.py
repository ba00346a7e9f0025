"""Computation without storage, and the page itself."""

import copy

import pytest

from keenquiet.api.pages import WEB
from keenquiet.core.units import parse_length_m
from keenquiet.demo.scenario import bakery_room


def test_the_catalogue_offers_what_the_core_knows(client):
    found = client.get("/api/catalogue").json()
    assert len(found["materials"]) >= 30
    assert all(len(m["absorption"]) == 8 and m["source"] for m in found["materials"])
    assert {"omni", "voice-spoken", "voice-sung"} <= {s["key"] for s in found["sources"]}
    assert [p["key"] for p in found["patterns"]] == [
        "omni",
        "subcardioid",
        "cardioid",
        "supercardioid",
        "hypercardioid",
        "figure-8",
    ]
    assert {p["key"] for p in found["purposes"]} == {"dry-voice", "spoken", "some-room", "lively"}


@pytest.mark.parametrize("text", ["3,62 m", "11' 10 1/2\"", "362cm"])
def test_lengths_are_read_for_the_page_as_for_everybody(client, text):
    assert client.get("/api/length", params={"text": text}).json()["metres"] == pytest.approx(
        parse_length_m(text), abs=1e-5
    )
    refused = client.get("/api/length", params={"text": f"{text} or so", "field": "width"})
    assert refused.status_code == 422
    assert refused.json()["error"]["field"] == "width"


def _forecast(client, change):
    document = copy.deepcopy(bakery_room())
    change(document)
    return client.post("/api/forecast", json={"document": document})


def test_a_forecast_follows_the_document(client):
    def bounce(change):
        return _forecast(client, change).json()["marks"]["bounce"]["value"]

    bare = bounce(lambda d: None)
    carpet = bounce(lambda d: d["surfaces"].update(floor={"material": "carpet-heavy"}))
    near = bounce(lambda d: d["arrangements"][0]["microphone"].update(at=[2.52, 1.44, 1.5]))
    omni = bounce(lambda d: d["arrangements"][0]["microphone"].update(pattern="omni"))
    assert omni < bare < carpet < near


def test_hush_follows_the_hour_and_what_is_switched_off(client):
    def hush(**set_):
        return _forecast(client, lambda d: d["arrangements"][0].update(set_)).json()["marks"]["hush"]

    morning, noon, quiet = hush(hour=9.5), hush(hour=12), hush(hour=12, silenced=["Laptop fan"])
    assert morning["value"] < noon["value"] < quiet["value"]
    assert "Bakery extractor" in morning["sources_dba"]
    assert "Laptop fan" not in quiet["sources_dba"]


def test_wanted_values_follow_the_purpose(client):
    dry = _forecast(client, lambda d: None).json()["marks"]
    lively = _forecast(client, lambda d: d["brief"].update(purpose="lively")).json()["marks"]
    assert dry["bounce"]["wanted"]["low"] == 15
    assert lively["bounce"]["wanted"]["high"] == 12
    assert all(mark["wanted"]["source"] for mark in dry.values())


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda d: d["arrangements"][0]["performer"].update(at=[9, 1, 1]), "arrangements.as-is.performer.at"),
        (lambda d: d["shape"]["ceiling"].update(height_m=-1), "shape.ceiling.height_m"),
        (lambda d: d.update(arrangements=[]), "arrangements"),
        (lambda d: d["shape"].update(plan=[[0, 0], [3, 2], [3, 0], [0, 2]]), "shape.plan"),
    ],
)
def test_a_document_that_cannot_be_names_its_field(client, change, field):
    answer = _forecast(client, change)
    assert answer.status_code == 422
    assert answer.json()["error"]["field"] == field


def test_moves_come_with_the_arrangement_they_lead_to(client):
    moves = client.post("/api/moves", json={"document": bakery_room()}).json()["moves"]
    assert len({m["kind"] for m in moves}) >= 3
    for move in moves:
        changed = bakery_room()
        changed["arrangements"].append(move["arrangement"] | {"id": "what-if"})
        answer = client.post("/api/forecast", json={"document": changed, "arrangement_id": "what-if"})
        assert answer.status_code == 200
        assert move["title"]
        assert move["minutes"] > 0


def test_the_page_is_served_for_every_address_of_its_own_and_nothing_outside(client):
    assert (WEB / "index.html").is_file()
    for path in ("/", "/rooms/x/marks", "/%2e%2e/%2e%2e/pyproject.toml", "/..%2f..%2fpyproject.toml"):
        assert '<div id="root">' in client.get(path).text
    assert client.get("/api/nothing").status_code == 404
    assert client.get("/recorder-worklet.js").text.startswith("// Hands raw input")


def test_settings_that_are_no_json_are_refused(client, room_id):
    for settings in ("{", "[1]"):
        answer = client.post(
            f"/api/rooms/{room_id}/readings",
            files={"file": ("a.wav", b"x")},
            data={"kind": "tone", "settings": settings},
        )
        assert answer.json()["error"]["field"] == "settings"
    for form in ({"kind": "dance"}, {"kind": "tone", "way": "rig"}):
        assert (
            client.post(f"/api/rooms/{room_id}/readings", files={"file": ("a.wav", b"x")}, data=form).status_code == 422
        )
    assert client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "tone", "gain_db": 99}).status_code == 422


def test_done_needs_something_tried(client, room_id):
    answer = client.post(f"/api/rooms/{room_id}/moves/done", json={"revision": 1, "kind": "own", "title": "Mine"})
    assert answer.status_code == 422
    assert "Try a move first" in answer.json()["error"]["cure"]


def test_a_room_goes_to_the_bin_and_comes_back(client, room_id):
    assert client.delete(f"/api/rooms/{room_id}").status_code == 204
    assert client.get("/api/rooms").json() == []
    assert client.get(f"/api/rooms/{room_id}").status_code == 404
    assert client.post(f"/api/rooms/{room_id}/restore").json()["name"] == "Over the bakery"
    assert len(client.get("/api/rooms").json()) == 1
