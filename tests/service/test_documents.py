"""room.json: the published skeleton reads, every wrong field is named, nothing is lost on the way."""

import copy
import json

import jsonschema
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from keenquiet.core.errors import InputError, OutsideRoom
from keenquiet.documents.convert import arrangement_of, check_document, read_room, room_of
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import RoomDoc, TreatmentDoc

from ..conftest import boxed_bakery as bakery_room

CONTRACT = {
    "format": "keen-quiet/room",
    "version": 1,
    "name": "Over the bakery",
    "air": {"temperature_c": 20, "humidity_pct": 50},
    "shape": {"plan": [[0, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]], "ceiling": {"kind": "flat", "height_m": 2.41}},
    "surfaces": {
        "floor": {"material": "carpet-on-felt"},
        "ceiling": {"absorption": {"125": 0.1, "250": 0.08, "500": 0.05, "1000": 0.04, "2000": 0.04, "4000": 0.04}},
        "wall-1": {"material": "plasterboard-on-studs"},
        "wall-2": {"material": "plaster-on-brick"},
    },
    "openings": [
        {
            "kind": "window",
            "surface": "wall-1",
            "x_m": 1.2,
            "z_m": 0.9,
            "width_m": 1.0,
            "height_m": 1.2,
            "material": "glass-single",
        }
    ],
    "furnishings": [{"kind": "day-bed", "at": [0.9, 2.3], "size_m": [1.9, 0.8, 0.45], "turn_deg": 0}],
    "noises": [
        {
            "name": "Extractor",
            "kind": "outside",
            "surface": "wall-3",
            "hours": [[3.5, 10.5]],
            "octaves_db": {"63": 52, "125": 47, "250": 41, "500": 36, "1000": 30, "2000": 24, "4000": 18},
        }
    ],
    "arrangements": [
        {
            "id": "as-is",
            "name": "As it is",
            "performer": {"at": [1.1, 0.9, 1.5], "faces_deg": 30, "source": "voice-sung"},
            "microphone": {"at": [1.9, 1.3, 1.45], "aims_deg": 210, "tilt_deg": 0, "pattern": "cardioid"},
            "monitors": [{"at": [0.4, 0.5, 1.2], "faces_deg": 45}],
            "listener": {"at": [1.4, 1.42, 1.2], "faces_deg": 180},
            "treatments": [
                {
                    "kind": "panel",
                    "surface": "wall-2",
                    "x_m": 1.0,
                    "z_m": 0.7,
                    "width_m": 0.6,
                    "height_m": 1.2,
                    "absorber": {"thickness_m": 0.1, "flow_resistivity": 12000, "gap_m": 0.05},
                }
            ],
        }
    ],
}


def test_the_contracts_skeleton_reads_and_validates_against_the_published_schema():
    jsonschema.validate(CONTRACT, RoomDoc.model_json_schema())
    check_document(read_room(CONTRACT))


def _changed(path, value):
    document = copy.deepcopy(CONTRACT)
    at = document
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = value
    return document


@pytest.mark.parametrize(
    ("path", "value", "field"),
    [
        (("shape", "plan"), [[0, 0], [0, 0], [0, 2], [0, 2]], "shape.plan"),
        (("shape", "plan"), [[0, 0], [40, 0], [40, 2.84], [0, 2.84]], "shape.plan"),
        (("shape", "plan"), [[0, 0], [3, 3], [3, 0], [0, 3]], "shape.plan"),
        (("shape", "plan"), [[0, 0], [0, 2.84], [3.62, 2.84], [3.62, 0]], "shape.plan"),
        (("shape", "plan", 1), [float("nan"), 0], "shape.plan.1.0"),
        (("shape", "ceiling", "height_m"), -2.4, "shape.ceiling.height_m"),
        (("shape", "ceiling", "height_m"), 0, "shape.ceiling.height_m"),
        (("shape", "ceiling", "height_m"), 40, "shape.ceiling.height_m"),
        (("surfaces", "floor"), {"material": "unobtainium"}, "surfaces.floor.material"),
        (("surfaces", "wall-9"), {"material": "plaster-on-brick"}, "surfaces.wall-9"),
        (("surfaces", "ceiling", "absorption"), {"125": -0.1}, "surfaces.ceiling.absorption.125"),
        (("openings", 0, "x_m"), 3.0, "openings.0"),
        (("arrangements", 0, "performer", "at"), [5.0, 1.0, 1.5], "arrangements.as-is.performer.at"),
        (("arrangements", 0, "microphone", "at"), [1.1, 0.9, 1.5], "arrangements.as-is.microphone.at"),
        (("arrangements", 0, "microphone", "at"), [1.1, 0.9, float("inf")], "arrangements.0.microphone.at.2"),
        (("arrangements", 0, "microphone", "pattern"), "shotgun", "arrangements.0.microphone.pattern"),
        (("arrangements", 0, "treatments", 0, "width_m"), 9.0, "arrangements.as-is.treatments.0"),
        (
            ("arrangements", 0, "treatments", 0, "absorber", "thickness_m"),
            5.0,
            "arrangements.as-is.treatments.0.absorber.thickness_m",
        ),
        (("noises", 0, "surface"), "roof", "noises.0.surface"),
        (("version",), 2, "version"),
    ],
)
def test_a_wrong_field_is_named_with_a_reason_and_a_cure(path, value, field):
    with pytest.raises(InputError) as caught:
        check_document(read_room(_changed(path, value)))
    assert caught.value.field == field
    assert caught.value.reason
    assert caught.value.cure


def test_outside_says_how_far_to_move():
    with pytest.raises(OutsideRoom, match=r"x = 5\.00 m.*3\.62 m.*1\.43 m"):
        check_document(read_room(_changed(("arrangements", 0, "performer", "at"), [5.0, 1.0, 1.5])))


def test_walls_run_along_the_plan_seen_from_inside():
    room = read_room(bakery_room())
    frame = Frame.of(room)
    window = room_of(room).overlays[0]
    wall = frame.shape.faces[frame.face("wall-3", field="")]
    u0, u1, v0, v1 = window.rect
    # wall-3 runs from x = 3.62 back to 0: 1.45 m along it and 0.98 m wide is x from 2.17 down to 1.19
    assert_allclose(wall.to_space(np.array([[u0, v0], [u1, v1]])), [[2.17, 2.84, 0.85], [1.19, 2.84, 2.10]], atol=1e-9)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.6, 20),
    st.floats(0.6, 20),
    st.floats(0.6, 20),
    st.sampled_from(["wall-1", "wall-2", "wall-3", "wall-4", "floor", "ceiling"]),
    st.floats(-5, 5),
    st.floats(-5, 5),
)
def test_a_patch_comes_back_where_it_was_from_any_room(lx, ly, lz, surface, x0, y0):
    plan = [[x0, y0], [x0 + lx, y0], [x0 + lx, y0 + ly], [x0, y0 + ly]]
    room = RoomDoc(name="r", shape={"plan": plan, "ceiling": {"kind": "flat", "height_m": lz}})
    frame = Frame.of(room)
    base = (x0, y0) if surface in ("floor", "ceiling") else (0.0, 0.0)
    patch = TreatmentDoc(
        kind="panel", surface=surface, x_m=base[0] + 0.1, z_m=base[1] + 0.05, width_m=0.3, height_m=0.4
    )
    back = frame.patch_fields(*frame.rect(patch, field="p"))
    assert back["surface"] == surface
    for key in ("x_m", "z_m", "width_m", "height_m"):
        assert back[key] == pytest.approx(getattr(patch, key), abs=2e-4)


def test_fields_of_a_newer_version_survive():
    document = CONTRACT | {"future": {"a": 1}}
    assert json.loads(read_room(document).model_dump_json())["future"] == {"a": 1}


def test_performer_and_microphone_come_out_in_the_boxes_own_frame():
    moved = copy.deepcopy(CONTRACT)
    for point in moved["shape"]["plan"]:
        point[0] += 2
        point[1] -= 1
    moved["arrangements"][0] |= {"monitors": [], "listener": None, "treatments": []}
    moved["furnishings"] = []
    moved["arrangements"][0]["performer"]["at"] = [3.1, -0.1, 1.5]
    moved["arrangements"][0]["microphone"]["at"] = [3.9, 0.3, 1.45]
    room = read_room(moved)
    assert arrangement_of(room, room.arrangements[0], room_of(room)).performer.at == pytest.approx((1.1, 0.9, 1.5))


def test_an_opening_of_a_kind_nobody_knows_lets_sound_in_as_a_window_does():
    def ways(kind):
        opening = {"kind": kind, "surface": "wall-1", "x_m": 0.5, "z_m": 0.9, "width_m": 1.0, "height_m": 1.0}
        shape = {"plan": [[0, 0], [3, 0], [3, 2.5], [0, 2.5]], "ceiling": {"kind": "flat", "height_m": 2.4}}
        room = {"format": "keen-quiet/room", "version": 1, "name": "Odd", "shape": shape, "openings": [opening]}
        return [way.share for way in room_of(read_room(room)).ways]

    assert ways("") == ways("window")
