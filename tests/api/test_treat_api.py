"""Plans, making, hearing, proof: API and command line say the same, refuse alike, and lose nothing."""

import io
import json

import numpy as np
import pytest
import soundfile

from keenquiet.demo.scenario import attic, bakery_room, cupboard

from .test_cli import run

__all__ = ["run"]


@pytest.fixture
def closet(tmp_path):
    path = tmp_path / "closet.json"
    path.write_text(json.dumps(cupboard()))
    return path


def test_a_plan_has_the_contracts_shape_and_page_and_terminal_agree(client, run, closet):
    said = client.post("/api/plan", json={"document": cupboard(), "budget": 60}).json()
    assert [plan["name"] for plan in said["plans"]] == ["Nothing spent", "Modest", "All of the budget"]
    assert {"bounce", "boom", "hush", "touch"} <= set(said["before"])
    assert said["plans"][-1]["moves"] == said["moves"]
    assert said["spent"] <= 60
    for plan in said["plans"]:
        lacks = [plan["lacks_before"], *(move["lacks"] for move in plan["moves"])]
        assert lacks == sorted(lacks, reverse=True)
        for move in plan["moves"]:
            assert {"title", "effects", "cost", "minutes", "cautions"} <= set(move)
    # the arrangement that it leads to can be read and predicted
    after = cupboard()
    after["arrangements"] = [said["arrangement"]]
    predicted = client.post("/api/forecast", json={"document": after}).json()
    assert predicted["marks"]["bounce"]["predicted"]["value"] == pytest.approx(
        said["after"]["bounce"]["predicted"]["value"], abs=0.05
    )
    assert run("plan", closet, "--budget", "60", "--json") == said


def test_locks_limits_and_what_cannot_be_is_said(client, run, closet):
    document = cupboard()
    plan = client.post("/api/plan", json={"document": document, "budget": 60, "quick": True}).json()
    bought = next(move for move in plan["moves"] if move["cost"] > 0)
    around = client.post(
        "/api/plan",
        json={
            "document": document,
            "budget": 60,
            "locked": bought["edits"],
            "locked_cost": bought["cost"],
            "quick": True,
        },
    ).json()
    assert around["spent"] <= 60
    locked = bought["edits"][0].get("treatment") or bought["edits"][0].get("screen")
    kept = [*around["arrangement"]["treatments"], *around["arrangement"]["screens"]]
    assert any(piece["width_m"] == locked["width_m"] and piece["kind"] == locked["kind"] for piece in kept)
    twice = client.post("/api/plan", json={"document": document, "locked": [{"do": "take-down", "number": 7}]})
    assert twice.status_code == 422
    for words, field in (
        (("--budget", "-5"), "budget"),
        (("--only", "magic"), "only"),
        (("--marks", "loud"), "marks"),
        (("--keep-free", "wall-99"), "keep_free"),
    ):
        assert run("plan", closet, *words, "--json", code=2)["error"]["field"] == field
    free = run("plan", closet, "--budget", "0", "--only", "panels", "--json")
    assert free["spent"] == 0


def test_a_cut_list_from_json_in_every_spelling(run, tmp_path):
    pieces, stock = tmp_path / "pieces.json", tmp_path / "stock.json"
    for given, bars in (
        ([1200, 1200, 564, 564], [2400, 3000]),
        ([{"length_mm": 1200, "count": 2}, {"length_mm": 564, "count": 2}], [{"length_mm": 2400}, {"length_mm": 3000}]),
        ({"pieces": [1200, 1200, 564, 564], "kerf_mm": 3}, {"stock": [2400, 3000]}),
    ):
        pieces.write_text(json.dumps(given))
        stock.write_text(json.dumps(bars))
        said = run("cut", pieces, "--stock", stock, "--json")
        assert sorted(c for bar in said["bars"] for c in bar["cuts_mm"]) == [564, 564, 1200, 1200]
        assert said["lower_bound_bars"] == len(said["bars"]) == 2
        assert 0 <= said["waste_pct"] < 40
    for wrong in ({"pieces": "long"}, [True], [{"length_mm": 5, "count": -1}], [4000], 5):
        pieces.write_text(json.dumps(wrong))
        assert run("cut", pieces, "--stock", stock, "--json", code=2)["error"]["field"].startswith("pieces")


def test_what_hangs_is_made_with_cautions_and_printed(client, run, tmp_path):
    document = bakery_room()
    nothing = client.post("/api/make", json={"document": document}).json()
    assert nothing["frames"] == []
    assert nothing["cost"] == 0
    wool = {"thickness_m": 0.1, "flow_resistivity": 12000, "gap_m": 0.05}
    document["arrangements"][0]["treatments"] = [
        {
            "kind": "panel",
            "surface": "wall-8",
            "x_m": 0.2,
            "z_m": 0.9,
            "width_m": 0.6,
            "height_m": 1.2,
            "absorber": wool,
        },
        {
            "kind": "panel",
            "surface": "ceiling",
            "x_m": 1.2,
            "z_m": 1.2,
            "width_m": 1.2,
            "height_m": 0.6,
            "absorber": wool,
        },
        {"kind": "duvet", "surface": "wall-6", "x_m": 0.4, "z_m": 0.3, "width_m": 1.2, "height_m": 1.6},
    ]
    said = client.post("/api/make", json={"document": document}).json()
    assert len(said["frames"]) == 2
    assert said["cost"] == pytest.approx(sum(item["cost"] for item in said["items"]))
    cautions = " ".join(text for step in said["steps"] for text in step["cautions"])
    assert "gloves, mask" in cautions
    assert "second safety line" in cautions  # one hangs overhead, whether walls may be drilled or not
    assert [fixing["name"] for fixing in said["fixings"]] == [said["frames"][1]["name"]]
    document["brief"] = {"prices": {"make-wool": 100.0}}
    dearer = client.post("/api/make", json={"document": document}).json()
    assert dearer["cost"] > said["cost"]
    path = tmp_path / "room.json"
    path.write_text(json.dumps(document))
    assert run("make", path, "--out", tmp_path / "list.pdf", "--json") == dearer
    assert (tmp_path / "list.pdf").read_bytes().startswith(b"%PDF")
    run("make", path, "--out", tmp_path / "list.csv", "--json")
    assert "Mineral wool" in (tmp_path / "list.csv").read_text()
    assert run("make", path, "--out", tmp_path / "list.txt", "--json", code=2)["error"]["field"] == "out"
    assert client.post("/api/make.pdf", json={"document": document}).content.startswith(b"%PDF")


def test_a_line_is_heard_in_every_version_alike_in_loudness(client):
    document = attic()
    asked = {"document": document, "versions": [document["arrangements"][0]["id"], "outdoors"]}
    heard = client.post("/api/hear.wav", json=asked)
    assert heard.headers["content-type"] == "audio/wav"
    assert heard.headers["x-room-twice"] == "no"
    samples, rate = soundfile.read(io.BytesIO(heard.content))
    assert rate == 48_000
    assert samples.shape[1] == 2
    assert np.max(np.abs(samples)) <= 0.9
    assert client.post("/api/hear.wav", json={**asked, "versions": []}).status_code == 422
    assert client.post("/api/hear.wav", json={**asked, "versions": ["nobody"]}).status_code == 422


def test_a_click_heard_in_a_room_reads_as_the_room_is_predicted(run, tmp_path):
    room, click, out = tmp_path / "attic.json", tmp_path / "click.wav", tmp_path / "heard.wav"
    room.write_text(json.dumps(attic()))
    soundfile.write(click, np.eye(1, 48_000, 100)[0] * 0.5, 48_000)
    said = run("hear", room, "--dry", click, "--out", out, "--json")
    assert said["peak_dbfs"] == pytest.approx(-1.0, abs=0.2)
    read = run("analyse", "ir", out, "--json")
    decay = {row["centre_hz"]: row["middle_s"] for row in run("predict", room, "--json")["decay"]}
    mid = [band["t20_s"] for band in read["bands"] if band["centre_hz"] in (500, 1000)]
    assert np.mean(mid) == pytest.approx(np.mean([decay[500], decay[1000]]), rel=0.10)
    soundfile.write(click, np.zeros(4800), 48_000)
    assert run("hear", room, "--dry", click, "--out", out, "--json", code=2)["error"]["field"] == "dry"


def test_treatment_schools_compute_both_sides(client, run, closet):
    said = client.post("/api/schools", json={"document": cupboard(), "about": "treatment"}).json()["schools"]
    assert {"foam", "thickness", "cartons"} <= {school["key"] for school in said}
    assert run("schools", closet, "--treatment", "--json")["schools"] == said
    cartons = next(school for school in said if school["key"] == "cartons")
    assert any("burn" in side["gives"] for side in cartons["sides"])


@pytest.mark.parametrize(("low", "high"), [(20, 50), (50, 200)])
def test_foam_and_wool_for_the_same_money_spend_it(client, low, high):
    def facts(budget):
        document = bakery_room()
        document["brief"] = {**document.get("brief", {}), "budget": budget}
        said = client.post("/api/schools", json={"document": document, "about": "treatment"}).json()["schools"]
        return next(school for school in said if school["key"] == "foam")

    cheap, dear, full = facts(low), facts(high), facts(2000)
    for side in ("foam", "thick"):
        assert cheap["facts"][side]["pieces"] <= dear["facts"][side]["pieces"]
        one = dear["facts"][side]["spent"] / dear["facts"][side]["pieces"]
        # as many as the money buys: what is left would buy no other, unless the walls are full
        is_full = dear["facts"][side]["pieces"] == full["facts"][side]["pieces"]
        assert high - dear["facts"][side]["spent"] < one or is_full
    assert dear["facts"]["foam"]["pieces"] > cheap["facts"]["foam"]["pieces"]
    assert any(f"{dear['facts']['foam']['kg']:.0f} kg" in side["gives"] for side in dear["sides"])


def test_the_shelf_carries_what_each_piece_swallows(client):
    pieces = {piece["key"]: piece for piece in client.get("/api/catalogue").json()["pieces"]}
    assert {piece["group"] for piece in pieces.values()} == {"home", "make", "buy"}
    assert all(len(piece["absorption"]) == 8 for piece in pieces.values())
    assert any("fire" in text or "heaters" in text for text in pieces["egg-cartons"]["cautions"])
    # every piece is something that a room can hold as it is on the shelf
    for piece in pieces.values():
        made = {"absorber": piece["absorber"]} if piece["absorber"] else {"material": piece["material"]}
        document = bakery_room()
        patch = {"kind": piece["kind"], "surface": "wall-8", "x_m": 0.1, "z_m": 0.0, "width_m": 0.5, "height_m": 1.0}
        document["arrangements"][0]["treatments"] = [{**patch, **made}]
        assert client.post("/api/make", json={"document": document}).status_code == 200, piece["key"]


def test_a_move_is_proved_by_its_change_and_the_best_reading_is_asked_for(client):
    room = client.post("/api/rooms", json={"document": bakery_room()}).json()
    address = f"/api/rooms/{room['id']}"
    client.post(f"{address}/readings/rig", json={"kind": "sweep", "seed": 3})
    document = client.get(address).json()["document"]
    plan = client.post("/api/plan", json={"document": document, "budget": 0, "only": "panels", "quick": True}).json()
    move = plan["moves"][0]
    tried = {
        **move["arrangement"],
        "id": "what-if",
        "trying": {"kind": move["kind"], "title": move["title"], "edits": move["edits"]},
    }
    document["arrangements"] = [document["arrangements"][0], tried]
    saved = client.put(address, json={"revision": client.get(address).json()["revision"], "document": document}).json()
    done = client.post(
        f"{address}/moves/done", json={"revision": saved["revision"], "kind": move["kind"], "title": move["title"]}
    )
    assert done.status_code == 200, done.text
    entry = next(e for e in client.get(f"{address}/ledger").json() if e["kind"] == "move")
    assert entry["prove_with"] == "sweep"
    client.post(f"{address}/readings/rig", json={"kind": "sweep", "seed": 4})
    entry = next(e for e in client.get(f"{address}/ledger").json() if e["kind"] == "move")
    assert entry["prove_with"] is None
    rows = {row["mark"]: row for row in entry["proof"]}
    bounce = rows["bounce"]
    assert bounce["change_measured"] == pytest.approx(bounce["measured"] - bounce["measured_before"])
    assert bounce["outcome"] in ("proved", "partly")
    assert bounce["words"]


@pytest.mark.parametrize("budget", [300, 400])
def test_a_plan_costs_what_make_it_says_it_does(client, run, tmp_path, budget):
    document = bakery_room()
    planned = client.post("/api/plan", json={"document": document, "budget": budget, "quick": True}).json()
    bought = [move["cost"] for move in planned["moves"] if move["cost"] > 0]
    assert len(bought) >= 2
    document["arrangements"] = [planned["arrangement"]]
    made = client.post("/api/make", json={"document": document}).json()
    assert made["cost"] == pytest.approx(planned["spent"])
    assert planned["spent"] == pytest.approx(sum(bought))
    assert planned["spent"] <= budget
    assert all(board["left_over"] == f"{board['waste_pct']:.0f} % left over" for board in made["timber"])
