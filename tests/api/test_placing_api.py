"""Distance, map, listening, aim, screens, schools, marks sheet: API and command line say the same, and refuse alike."""

import json
import math
import re

import pytest

from keenquiet.demo.scenario import attic, bakery_room, cupboard

from .test_cli import run

ROUTES = {
    "distance": "distance",
    "map": "map",
    "listening": "listening",
    "aim": "aim",
    "marks-sheet": "marks",
    "reach": "reach",
}
__all__ = ["run"]


@pytest.mark.parametrize("route", ROUTES)
def test_the_page_and_the_command_line_say_the_same(client, run, tmp_path, route):
    document = attic()
    path = tmp_path / "attic.json"
    path.write_text(json.dumps(document))
    answered = client.post(f"/api/{route}", json={"document": document})
    assert answered.status_code == 200, answered.text
    assert answered.json() == run(ROUTES[route], path, "--json")


def test_distance_has_the_contracts_shape_for_every_place_of_the_demo(client):
    for document in (bakery_room(), cupboard(), attic()):
        said = client.post("/api/distance", json={"document": document, "role": "backing", "screen": "off"}).json()
        n = len(said["distance_m"])
        assert said["distance_m"][0] == 0.03
        assert said["distance_m"][-1] == 1.5
        for curve in ("bounce_db", "under_noise_db", "proximity_db", "puff", "sway_db", "own_noise_db", "sounds_m"):
            assert len(said[curve]) == n, curve
        assert {"from_m", "to_m", "limits"} <= set(said["span"])
        assert {limit["end"] for limit in said["span"]["limits"]} <= {"near", "far"}
        assert [pin["name"] for pin in said["pins"]][:3] == ["lips on it", "a hand's width", "six inches"]


def test_a_map_is_null_where_nobody_can_stand_and_its_best_can_be_tried(client):
    document = bakery_room()
    said = client.post("/api/map", json={"document": document, "step_m": 0.2}).json()
    assert len(said["value"]) == len(said["y_m"])
    assert {len(row) for row in said["value"]} == {len(said["x_m"])}
    bed = next(piece for piece in document["furnishings"] if piece["kind"] == "day-bed")["at"]
    column = min(range(len(said["x_m"])), key=lambda i: abs(said["x_m"][i] - bed[0]))
    row = min(range(len(said["y_m"])), key=lambda i: abs(said["y_m"][i] - bed[1]))
    assert said["value"][row][column] is None
    best = said["best"][0]
    assert best["reasons"]
    performer = next(edit for edit in best["edits"] if edit["who"] == "performer")
    assert performer["at"][:2] == pytest.approx(best["at"])
    seated = client.post("/api/map", json={"document": document, "step_m": 0.2, "height_m": 1.15}).json()
    assert seated["best"][0]["edits"][0]["at"][2] == pytest.approx(1.15)


def test_a_cupboard_is_mapped_closer_to_its_walls_and_has_no_listening_place(client):
    said = client.post("/api/map", json={"document": cupboard()}).json()
    assert said["clear_m"] < 0.3
    assert said["best"]
    listening = client.post("/api/listening", json={"document": cupboard(), "search": True}).json()
    assert listening["best"] is None
    assert "headphones" in listening["sentence"]


def test_the_searched_listening_place_is_what_it_says_once_it_stands(client):
    document = attic()
    found = client.post("/api/listening", json={"document": document, "search": True}).json()
    best = found["best"]
    assert best["objective_db"] < found["objective_db"]
    now = document["arrangements"][0]
    moved = now | {"monitors": best["monitors"], "listener": best["listener"]}
    there = client.post("/api/listening", json={"document": document | {"arrangements": [moved]}}).json()
    # one figure, one value: the forecast of the same arrangement
    marks = client.post("/api/forecast", json={"document": document | {"arrangements": [moved]}}).json()
    assert there["swing_db"] == marks["listening"]["swing_db"]
    assert there["swing_db"] == pytest.approx(best["swing_db"], abs=0.1)
    assert there["triangle"]["angle_deg"] == pytest.approx(60, abs=0.1)


def test_a_cello_has_no_mouth_and_pops_no_p(client):
    document = bakery_room()
    document["arrangements"][0]["performer"]["source"] = "cello"
    said = {
        route: client.post(f"/api/{route}", json={"document": document}).text
        for route in ("distance", "aim", "screens", "schools", "marks-sheet")
    }
    for route, text in said.items():
        for word in ("mouth", "Mouth", "lip,", "head", "pop screen", " p pushes", "voice"):
            assert word not in re.sub("[Hh]eadphones|dry-voice|mouth_to_mic_m", "", text), (route, word)


def test_a_chair_turned_away_is_told(client):
    document = attic()
    now = document["arrangements"][0]
    away = now | {"listener": now["listener"] | {"faces_deg": now["listener"].get("faces_deg", 0) + 180}}
    said = client.post("/api/listening", json={"document": document | {"arrangements": [away]}}).json()
    assert said["triangle"]["is_behind"]
    assert "turn the chair round" in " ".join(said["triangle"]["words"])


def test_screens_are_ranked_and_predict_tells_what_one_is_worth(client):
    document = bakery_room()
    ranked = client.post("/api/screens", json={"document": document}).json()["choices"]
    assert [c["bounce_db"] for c in ranked] == sorted((c["bounce_db"] for c in ranked), reverse=True)
    assert all(c["cautions"] for c in ranked if c["kind"] in ("booth", "head-box", "mattress"))
    cloth = next(c for c in ranked if c["kind"] == "duvet-on-t")
    hung = document["arrangements"][0] | {"screens": [edit["screen"] for edit in cloth["edits"]]}
    # one figure, one value: the school that quarrels over it has the same duvet
    schools = client.post("/api/schools", json={"document": document}).json()["schools"]
    shield = next(school for school in schools if school["key"] == "shield")
    assert shield["facts"]["cloth"]["bounce_db"] == pytest.approx(cloth["bounce_db"], abs=0.05)
    asked = {"document": document | {"arrangements": [hung]}, "screens": True}
    said = client.post("/api/forecast", json=asked).json()
    assert said["screens"][0]["bounce_db"] == pytest.approx(cloth["bounce_db"], abs=0.05)
    assert {"kind", "bounce_db", "room_fed_db", "colour_db"} <= set(said["screens"][0])


def test_a_hall_is_mapped_more_coarsely_and_answers_in_seconds(client):
    hall = attic() | {"furnishings": [], "openings": []}
    hall["shape"] = {"plan": [[0, 0], [25, 0], [25, 20], [0, 20]], "ceiling": {"kind": "flat", "height_m": 5.0}}
    hall["surfaces"] = {}
    said = client.post("/api/map", json={"document": hall, "step_m": 0.05}).json()
    assert len(said["x_m"]) * len(said["y_m"]) < 3300
    assert said["step_m"] > 0.3
    for route in ("distance", "aim", "schools", "screens"):
        assert client.post(f"/api/{route}", json={"document": hall}).status_code == 200


def test_a_screen_taller_than_the_room_is_not_offered(client):
    document = bakery_room()
    document["shape"]["ceiling"] = {"kind": "flat", "height_m": 2.0}
    document |= {"openings": [], "furnishings": [], "covers": [], "tape": []}
    said = client.post("/api/screens", json={"document": document}).json()
    assert "Duvet on a T of two stands behind you" in said["no_room_for"]


def test_the_best_places_for_one_mark_lack_least_of_it(client):
    document = bakery_room()
    best = {
        mark: client.post("/api/map", json={"document": document, "mark": mark, "step_m": 0.2}).json()["best"][0]
        for mark in ("hush", "bounce")
    }
    assert best["hush"]["hush_db"] >= best["bounce"]["hush_db"]
    assert best["bounce"]["bounce_db"] >= best["hush"]["bounce_db"]


def test_schools_name_a_side_or_say_too_close(client):
    for school in client.post("/api/schools", json={"document": bakery_room()}).json()["schools"]:
        assert sum(side["wins"] for side in school["sides"]) == (0 if school["too_close"] else 1)
        assert len(school["sides"]) >= 2
        assert all(math.isfinite(v) for facts in school["facts"].values() for v in facts.values())


def test_the_marks_sheet_is_one_page_in_any_script(client):
    for name in ("Over the bakery", "工作室", "Kötű <b>"):
        page = client.post("/api/marks-sheet.pdf", json={"document": bakery_room() | {"name": name}})
        assert page.headers["content-type"] == "application/pdf"
        assert page.content.startswith(b"%PDF")
        assert page.content.count(b"/Type /Page\n") == 1


@pytest.mark.parametrize(
    ("route", "ask", "field"),
    [
        ("distance", {"role": "crooner"}, "role"),
        ("distance", {"screen": "sock"}, "screen"),
        ("map", {"mark": "touch"}, "mark"),
        ("map", {"height_m": 9.0}, "height"),
    ],
)
def test_what_is_not_offered_is_refused_with_a_cure(client, route, ask, field):
    refused = client.post(f"/api/{route}", json={"document": bakery_room()} | ask)
    assert refused.status_code == 422
    assert refused.json()["error"]["field"] == field
    assert refused.json()["error"]["cure"]


def test_both_sides_of_a_recording_by_the_command_line(run, tmp_path):
    room = tmp_path / "room.json"
    room.write_text(json.dumps(bakery_room()))
    front, back = tmp_path / "front.wav", tmp_path / "back.wav"
    run("simulate", room, "--reading", "take", "--out", front, "--seed", 1, "--json")
    document = bakery_room()
    mic = document["arrangements"][0]["microphone"]
    mic["aims_deg"] = (mic["aims_deg"] + 180) % 360
    room.write_text(json.dumps(document))
    run("simulate", room, "--reading", "take", "--out", back, "--seed", 1, "--json")
    said = run("analyse", "sides", front, back, "--json")
    assert said["difference_db"] > 3  # at 44 cm in a live room the back hears the room: less than at a hand's width
    assert said["outcome"] in ("proved", "weak")
    assert run("analyse", "sides", back, front, "--json")["difference_db"] == pytest.approx(-said["difference_db"])
    refused = run("analyse", "sides", front, back, "--pattern", "shotgun", "--json", code=2)
    assert refused["error"]["field"] == "microphone.pattern"


def test_a_sweep_proves_that_everybody_is_back_and_names_what_is_not(run, tmp_path):
    """On the rig: the same spot again, the microphone half as far, the performer a step aside."""

    def swept(name, change=lambda arrangement: None, seed=1):
        document = bakery_room()
        change(document["arrangements"][0])
        room, wav = tmp_path / f"{name}.json", tmp_path / f"{name}.wav"
        room.write_text(json.dumps(document))
        run("simulate", room, "--reading", "sweep", "--out", wav, "--seed", seed, "--json")
        return wav

    def nearer(arrangement):
        at, mic = arrangement["performer"]["at"], arrangement["microphone"]
        mic["at"] = [(a + b) / 2 for a, b in zip(at, mic["at"], strict=True)]

    def aside(arrangement):
        for who in ("performer", "microphone"):
            arrangement[who]["at"][0] -= 0.5

    first = swept("first")
    again = run("analyse", "put-back", first, swept("again", seed=2), "--json")
    assert again["proved"], again
    assert "nearer" in run("analyse", "put-back", first, swept("nearer", nearer), "--json")["moved"]
    moved = run("analyse", "put-back", first, swept("aside", aside), "--json")
    assert not moved["proved"]
    assert moved["shared"] < moved["of"]
    # a clap is never twice the same: it is not believed
    assert run("analyse", "put-back", first, first, "--kind", "clap", "--json", code=2)["error"]["field"] == "kind"


def test_reach_tells_cables_meter_howl_and_a_second_source(client, run, tmp_path):
    document = attic()
    document["arrangements"][0]["laptop"] = {"at": [0.6, 0.6, 0.75], "faces_deg": 0, "mic_cable_m": 1.5}
    said = client.post("/api/reach", json={"document": document, "second": [2.0, 1.5, 1.0]}).json()
    assert said["laptop"]["mic_short_m"] > 0
    assert any("short" in words for words in said["laptop"]["words"])
    assert said["second"]["at"] == [2.0, 1.5, 1.0]
    assert said["howl"]["caution"]
    path = tmp_path / "attic.json"
    path.write_text(json.dumps(document))
    assert run("reach", path, "--second", "2.0,1.5,1.0", "--json") == said
    assert run("reach", path, "--second", "here", "--json", code=2)["error"]["field"] == "second"
    outside = client.post("/api/reach", json={"document": document, "second": [20, 1, 1]})
    assert outside.status_code == 422
    assert client.post("/api/map", json={"document": document, "step_m": 0.3}).json()["flags"][-1] == "cable_too_short"


def test_the_smallest_place_of_a_project_is_held_against_the_room(client, run, tmp_path):
    kept = client.post("/api/rooms", json={"document": bakery_room()}).json()
    asked = {"document": bakery_room(), "room_id": kept["id"]}
    alone = client.post("/api/schools", json=asked).json()["schools"]
    assert "closet" not in [school["key"] for school in alone]
    client.post("/api/rooms", json={"document": cupboard()})
    closet = client.post("/api/schools", json=asked).json()["schools"][0]
    assert closet["key"] == "closet"
    assert [side["name"] for side in closet["sides"]] == [cupboard()["name"], bakery_room()["name"]]
    paths = [tmp_path / "room.json", tmp_path / "closet.json"]
    for path, document in zip(paths, (bakery_room(), cupboard()), strict=True):
        path.write_text(json.dumps(document))
    assert run("schools", paths[0], "--beside", paths[1], "--json")["schools"][0] == closet
