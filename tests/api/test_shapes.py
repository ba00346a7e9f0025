"""True shapes through the application: sizes, jobs, swells, drawings, squaring, fit, places; what is refused and
why.
"""

import base64
import copy
import io
import json
import threading
import time
import xml.etree.ElementTree as ET

import ezdxf
import numpy as np
import pytest

from keenquiet.core.waves import rigid
from keenquiet.demo.scenario import attic, bakery_room, cupboard, demo_rooms
from keenquiet.service import jobs

PLAN_L = [[0, 0], [4, 0], [4, 2], [2, 2], [2, 3.5], [0, 3.5]]


def el(**more):
    room = bakery_room()
    room["shape"] = {"plan": PLAN_L, "ceiling": {"kind": "flat", "height_m": 2.5}}
    room |= {"openings": [], "covers": [], "furnishings": [], "tape": [], "noises": []}
    room["surfaces"] = {}
    room["arrangements"][0]["performer"]["at"] = [1.0, 1.0, 1.5]
    room["arrangements"][0]["microphone"]["at"] = [1.4, 1.2, 1.45]
    return room | more


def test_sizes_and_faces_of_the_demo_rooms(client):
    for document, floor, volume in (
        (el(), 11.0, 27.5),
        (bakery_room(), 3.62 * 2.84 + 1.2 * 0.3, 2.41 * (3.62 * 2.84 + 1.2 * 0.3)),
    ):
        shape = client.post("/api/shape", json={"document": document}).json()
        assert shape["floor_area_m2"] == pytest.approx(floor, abs=0.01)
        assert shape["volume_m3"] == pytest.approx(volume, abs=0.01)
        assert sum(f["area_m2"] for f in shape["faces"]) == pytest.approx(shape["surface_area_m2"], abs=0.05)
        assert shape["method"] == "prism"


def test_a_small_place_swells_among_the_notes_and_says_one_first_swell(client):
    for document, small in ((cupboard(), True), (attic(), False)):
        found = client.post("/api/forecast", json={"document": document}).json()
        assert found["in_voice_range"] is small
        assert found["first_mode_hz"] == pytest.approx(found["modes"][0]["f_hz"], abs=0.001)


BAD = [
    ({"shape": {"plan": [[0, 0], [3, 3], [3, 0], [0, 3]], "ceiling": {"kind": "flat", "height_m": 2.4}}}, "shape.plan"),
    ({"shape": {"plan": PLAN_L[::-1], "ceiling": {"kind": "flat", "height_m": 2.4}}}, "shape.plan"),
    ({"shape": {"plan": [*PLAN_L, [0, 3.47]], "ceiling": {"kind": "flat", "height_m": 2.4}}}, "shape.plan"),
    (
        {"shape": {"plan": PLAN_L, "ceiling": {"kind": "pitched", "along": "x", "profile": [[0, 2.4], [4, 0]]}}},
        "shape.ceiling",
    ),
    (
        {"shape": {"plan": PLAN_L, "ceiling": {"kind": "pitched", "along": "x", "profile": [[3, 2.4], [1, 2]]}}},
        "shape.ceiling",
    ),
    ({"furnishings": [{"kind": "wardrobe", "at": [2.9, 1.9], "size_m": [1, 0.6, 2]}]}, "furnishings.0"),
    ({"furnishings": [{"kind": "wardrobe", "at": [1, 0.5], "size_m": [1, 0.6, 2.7]}]}, "furnishings.0.size_m"),
    ({"furnishings": [{"kind": "throne", "at": [1, 0.5]}]}, "furnishings.0.kind"),
    ({"surfaces": {"wall-1": {"absorption": {"500": 1.3}}}}, "surfaces.wall-1.absorption"),
    ({"surfaces": {"wall-1": {"absorption": {"500": -0.1}}}}, "surfaces.wall-1.absorption"),
    ({"surfaces": {"wall-9": {"material": "brick-rendered"}}}, "surfaces.wall-9"),
    (
        {
            "surfaces": {
                "wall-1": {
                    "material": "plaster-on-brick",
                    "regions": [{"x_m": 3.5, "z_m": 0.5, "width_m": 1, "height_m": 1, "material": "mirror"}],
                }
            }
        },
        "surfaces.wall-1.regions.0",
    ),
    (
        {"covers": [{"kind": "curtain", "surface": "wall-1", "x_m": 0, "z_m": 0, "width_m": 9, "height_m": 2}]},
        "covers.0",
    ),
    (
        {"surfaces": {"wall-1": {"absorber": {"kind": "membrane", "mass_kg_m2": 0, "gap_m": 0.1}}}},
        "surfaces.wall-1.absorber",
    ),
]


@pytest.mark.parametrize(("change", "field"), BAD)
def test_what_cannot_be_is_named_and_the_last_good_state_is_kept(client, change, field):
    made = client.post("/api/rooms", json={"document": el()}).json()
    answer = client.put(f"/api/rooms/{made['id']}", json={"revision": 1, "document": el(**change)})
    assert answer.status_code == 422
    error = answer.json()["error"]
    assert error["field"].startswith(field)
    assert error["reason"]
    assert error["cure"]
    kept = client.get(f"/api/rooms/{made['id']}").json()
    assert (kept["revision"], kept["document"]) == (1, made["document"])


@pytest.mark.parametrize(
    ("who", "at", "says"),
    [
        ("performer", [3.0, 3.0, 1.5], "behind a wall"),
        ("microphone", [1.0, 0.5, 1.0], "inside the wardrobe"),
        ("performer", [1, 1, 2.6], "z = 2.60"),
    ],
)
def test_marks_behind_walls_and_inside_furniture_are_refused(client, who, at, says):
    document = el(furnishings=[{"kind": "wardrobe", "at": [1.0, 0.5], "size_m": [1, 0.6, 2]}])
    document["arrangements"][0][who]["at"] = at
    answer = client.post("/api/forecast", json={"document": document})
    assert answer.status_code == 422
    assert says in answer.json()["error"]["reason"]


def test_a_panel_across_a_window_is_refused(client):
    document = bakery_room()
    document["arrangements"][0]["treatments"] = [
        {
            "kind": "panel",
            "surface": "wall-7",
            "x_m": 1.5,
            "z_m": 1.0,
            "width_m": 0.6,
            "height_m": 1.0,
            "absorber": {"thickness_m": 0.1},
        }
    ]
    error = client.post("/api/forecast", json={"document": document}).json()["error"]
    assert "across the window" in error["reason"]


def solid_room():
    """An L under a slope: neither box nor prism, so its modes are a job. A height of its own keeps others' caches
    out.
    """
    document = el()
    document["shape"]["ceiling"] = {"kind": "pitched", "along": "x", "profile": [[0, 2.513], [4, 1.9]]}
    return document


def test_a_room_that_needs_elements_in_space_is_a_job_with_progress(client):
    rigid._kept.clear()
    jobs._by_key.clear()
    answer = client.post("/api/forecast", json={"document": solid_room()}).json()
    seen = []
    while "pending" in answer:
        job = client.get(f"/api/jobs/{answer['pending']['id']}").json()
        seen.append(job["progress"])
        assert job["state"] in ("waiting", "running", "done"), job
        time.sleep(0.2)
        answer = client.post("/api/forecast", json={"document": solid_room()}).json()
    assert seen == sorted(seen)
    assert answer["shape"]["method"] == "solid"
    assert answer["shape"]["top_hz"] == 220
    assert all(a["f_hz"] <= b["f_hz"] for a, b in zip(answer["modes"], answer["modes"][1:], strict=False))


def test_a_job_that_is_stopped_leaves_nothing_and_can_be_asked_again():
    begun, finished = threading.Event(), []

    def slow(report):
        for k in range(20_000):
            report((k + 1) / 20_001)
            begun.set()
            time.sleep(0.01)
        finished.append(True)

    job = jobs.started("slow", "Slow work", slow)
    assert jobs.started("slow", "Slow work", slow) is job  # asked twice, done once
    assert begun.wait(30)
    jobs.cancel(job.id)
    assert job.ended.wait(30)
    assert (job.state, finished) == ("cancelled", [])
    assert 0 < job.progress < 1
    again = jobs.started("slow", "Slow work", lambda report: report(1.0))
    assert again is not job
    assert again.ended.wait(2)
    assert again.state == "done"


def test_a_job_that_fails_says_why(client):
    failed = jobs.started("fails", "Work", lambda report: 1 / 0)
    assert failed.ended.wait(2)
    answer = client.get(f"/api/jobs/{failed.id}").json()
    assert (answer["state"], answer["error"]["field"]) == ("failed", "work")
    assert client.get("/api/jobs/unheard-of").status_code == 404


def test_a_swell_is_the_pressure_of_each_mode(client):
    """In a box the first length mode is cos(pi x / L): its map at ear height must be that, to the 8 bits it is
    sent in.
    """
    document = el(shape={"plan": [[0, 0], [4, 0], [4, 3], [0, 3]], "ceiling": {"kind": "flat", "height_m": 2.5}})
    found = client.post("/api/swell", json={"document": document, "plane": "plan", "height_m": 1.2}).json()
    values = np.frombuffer(base64.b64decode(found["values"]), dtype=np.int8).reshape(
        len(found["f_hz"]), found["ny"], found["nx"]
    )
    first = int(np.argmin(np.abs(np.array(found["f_hz"]) - 343.2 / 8)))
    x = found["start_m"][0] + found["step_m"][0] * np.arange(found["nx"])
    shape = values[first].astype(float)
    expected = np.cos(np.pi * x / 4) * 127 / np.cos(np.pi * x[0] / 4)
    assert np.allclose(np.abs(shape), np.abs(np.broadcast_to(expected, shape.shape)), atol=3)
    assert client.post("/api/swell", json={"document": document, "plane": "sideways"}).status_code == 422


@pytest.mark.parametrize("view", ["plan", "walls", "section-x", "section-y"])
def test_drawings_open_as_what_they_claim_to_be(client, view):
    ask = {"document": attic()}
    svg = client.post("/api/drawing", params={"view": view, "kind": "svg"}, json=ask)
    root = ET.fromstring(svg.content)
    assert root.tag.endswith("svg")
    assert float(root.get("width").removesuffix("mm")) > 50
    drawing = ezdxf.read(io.StringIO(client.post("/api/drawing", params={"view": view, "kind": "dxf"}, json=ask).text))
    assert drawing.units == ezdxf.units.M
    assert {"WALLS", "FURNITURE", "MARKS", "DIMENSIONS"} <= {layer.dxf.name for layer in drawing.layers}
    points = np.array([p[:2] for e in drawing.modelspace().query('LWPOLYLINE[layer=="WALLS"]') for p in e.get_points()])
    if view == "plan":
        inner = {tuple(np.round(p, 3)) for p in points}
        assert {(0.0, 0.0), (4.4, 0.0), (4.4, 3.3), (0.0, 3.3)} <= inner
    if view == "section-y":
        assert points[:, 1].max() == pytest.approx(2.3, abs=0.01)
        assert np.ptp(points[:, 0]) == pytest.approx(3.3, abs=0.01)


def test_the_model_is_drawn_in_space_in_true_metres(client):
    ask = {"document": attic()}
    root = ET.fromstring(client.post("/api/drawing", params={"view": "model", "kind": "svg"}, json=ask).content)
    assert len(list(root.iter("{http://www.w3.org/2000/svg}polygon"))) > 12
    drawing = ezdxf.read(
        io.StringIO(client.post("/api/drawing", params={"view": "model", "kind": "dxf"}, json=ask).text)
    )
    walls = [
        np.array([v.dxf.location for v in e.vertices]) for e in drawing.modelspace().query('POLYLINE[layer=="WALLS"]')
    ]
    points = np.concatenate(walls)
    assert np.allclose(np.ptp(points, axis=0), (4.4, 3.3, 2.3), atol=1e-6)
    assert len(walls) == 5  # four walls and the floor


def test_tape_readings_are_squared_up_and_the_wrong_one_named(client):
    document = el(
        shape={"plan": [[0, 0], [3.6, 0], [3.6, 2.8], [0, 2.8]], "ceiling": {"kind": "flat", "height_m": 2.4}}
    )
    lengths = {
        (1, 2): 3.62,
        (2, 3): 2.84,
        (3, 4): 3.62,
        (1, 4): 2.84,
        (1, 3): np.hypot(3.62, 2.84),
        (2, 4): np.hypot(3.62, 2.84) + 0.12,
    }
    document["tape"] = [{"start": a, "end": b, "length_m": round(float(v), 3)} for (a, b), v in lengths.items()]
    found = client.post("/api/square", json={"document": document}).json()
    assert found["suspect"] == 5
    del document["tape"][5]
    found = client.post("/api/square", json={"document": document}).json()
    assert found["suspect"] is None
    assert np.allclose(found["plan"], [[0, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]], atol=0.005)
    document["tape"] = [{"start": 1, "end": 9, "length_m": 2.0}]
    assert client.post("/api/square", json={"document": document}).json()["error"]["field"].startswith("tape")


def test_a_fit_to_the_rigs_readings_comes_nearer_and_is_tighter(client, room_id):
    for seed in range(2):
        client.post(
            f"/api/rooms/{room_id}/readings/rig",
            json={"kind": "sweep", "arrangement_id": "as-is", "gain_db": 0, "seed": seed},
        )
    found = client.post(f"/api/rooms/{room_id}/fit").json()
    known = [o for o in found["octaves"] if o["measured_s"]]
    assert len(known) >= 4

    def off(key):
        return float(np.mean([abs(np.log(o[key] / o["measured_s"])) for o in known]))

    assert off("after_s") < off("before_s")
    before, after = found["marks"]["before"], found["marks"]["after"]
    assert after["boom"]["plus_minus"] < before["boom"]["plus_minus"]
    opened = client.get(f"/api/rooms/{room_id}").json()
    document = opened["document"] | {"fit": found["fit"]}
    assert (
        client.put(f"/api/rooms/{room_id}", json={"revision": opened["revision"], "document": document}).status_code
        == 200
    )
    forecast = client.post("/api/forecast", json={"document": document}).json()
    assert forecast["marks"]["boom"]["plus_minus"] == pytest.approx(after["boom"]["plus_minus"])


def test_a_fit_without_readings_says_what_is_missing(client, room_id):
    error = client.post(f"/api/rooms/{room_id}/fit").json()["error"]
    assert (error["field"], "Take a reading" in error["cure"]) == ("readings", True)


def test_places_are_weighed_with_reasons_and_the_closet_is_told_by_numbers(client):
    for document in demo_rooms():
        client.post("/api/rooms", json={"document": document})
    found = client.get("/api/places", params={"project": "Hurdy-gurdy and alto"}).json()
    assert {p["name"] for p in found["places"]} == {"Over the bakery", "Cupboard under the stairs", "Attic"}
    totals = [p["total"] for p in found["places"]]
    assert totals == sorted(totals)
    for place in found["places"]:
        assert place["total"] == pytest.approx(sum(place["deficits"].values()), abs=1e-3)
        assert place["reasons"]
    closet = next(p for p in found["places"] if p["name"].startswith("Cupboard"))
    words = " ".join(closet["reasons"])
    assert "Dead" in words
    assert "first swell" in words
    assert all(p["would_change"] for p in found["places"][1:])
    assert client.get("/api/places", params={"project": "None such"}).json()["places"] == []


def test_a_guessed_place_is_made_from_three_sizes_and_carries_a_wider_uncertainty(client):
    ask = {"name": "Kitchen", "length": "3.6", "width": "2.8", "height": "2.5", "softness": "bare", "project": "P"}
    taped, guessed = (client.post("/api/rooms", json=ask | {"guessed": g}).json() for g in (False, True))
    marks = [client.post("/api/forecast", json={"document": r["document"]}).json()["marks"] for r in (taped, guessed)]
    assert marks[1]["boom"]["plus_minus"] > 1.3 * marks[0]["boom"]["plus_minus"]
    softer = client.post("/api/rooms", json=ask | {"softness": "packed"}).json()["document"]
    decay = [
        client.post("/api/forecast", json={"document": d}).json()["decay"][4]["eyring_s"]
        for d in (taped["document"], softer)
    ]
    assert decay[1] < 0.4 * decay[0]
    assert client.post("/api/rooms", json=ask | {"softness": "fluffy"}).json()["error"]["field"] == "softness"


def test_another_corner_is_the_same_room_with_the_marks_across_it(client):
    document = el(shape={"plan": [[0, 0], [4, 0], [4, 3], [0, 3]], "ceiling": {"kind": "flat", "height_m": 2.5}})
    made = client.post("/api/rooms", json={"document": document}).json()
    other = client.post(f"/api/rooms/{made['id']}/corner").json()["document"]
    first, second = document["arrangements"][0], other["arrangements"][0]
    assert second["performer"]["at"] == pytest.approx([3.0, 2.0, 1.5])
    assert (second["performer"]["faces_deg"] - first["performer"]["faces_deg"]) % 360 == 180
    assert other["name"] == "Over the bakery, other corner"
    blocked = copy.deepcopy(document)
    blocked["furnishings"] = [  # nothing is free across the room, whichever way
        {"kind": "wardrobe", "at": at, "size_m": [0.9, 0.9, 2]} for at in ([3.0, 2.0], [3.0, 1.0], [1.0, 2.0])
    ]
    kept = client.post("/api/rooms", json={"document": blocked}).json()
    assert client.post(f"/api/rooms/{kept['id']}/corner").json()["error"]["field"] == "arrangements"


@pytest.mark.parametrize(
    ("spec", "low", "high"),
    [
        ({"kind": "membrane", "mass_kg_m2": 4, "gap_m": 0.1}, 90, 100),
        (
            {"kind": "perforated", "open_share": 0.05, "gap_m": 0.05},
            425,
            431,
        ),  # by hand: w t / (e c) = cot(w d / c), t 15.5 mm, d 50 mm: 428 Hz
    ],
)
def test_an_absorber_is_computed_with_its_curve(client, spec, low, high):
    found = client.post("/api/absorber", json=spec).json()
    assert low < found["resonance_hz"] < high
    f, alpha = np.array(found["curve"]["f_hz"]), np.array(found["curve"]["diffuse"])
    assert low * 0.7 < f[np.argmax(alpha)] < high * 1.6
    assert json.dumps(found)
