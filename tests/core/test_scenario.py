"""Edits do what is said, and the quick search finds what solving every candidate finds."""

import json
import re
from pathlib import Path

import numpy as np
import pytest

from keenquiet.core import edits
from keenquiet.core.errors import InputError
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.scenario import Scenario
from keenquiet.core.waves.pair import pair_of
from keenquiet.demo.scenario import bakery_room, cupboard
from keenquiet.documents.convert import read_room, scenario_of
from keenquiet.documents.edits import _EDITS, edit_doc, edited
from keenquiet.documents.frame import Frame

from ..conftest import moves_in, plain_box, standing

SHARED = json.loads((Path(__file__).parents[1] / "shared/edits.json").read_text())
ROOM = read_room(SHARED["room"])
FRAME = Frame.of(ROOM)


def scenario() -> Scenario:
    return scenario_of(ROOM, ROOM.arrangements[0])


def said(scene: Scenario) -> str:
    """What a scenario says: materials are the same only as objects, overlays are named by where they are listed."""
    return re.sub(r"name='[^']*treatment[^']*'", "", repr(scene))


@pytest.mark.parametrize("case", SHARED["cases"], ids=lambda case: case["does"])
def test_an_edit_of_a_document_does_what_is_said_and_what_the_core_does(case):
    (doc,) = _EDITS.validate_python([case["edit"]])
    after = edited(ROOM, ROOM.arrangements[0], [doc])
    plain = after.model_dump(mode="json")
    for path, value in case["then"].items():
        seen = plain
        for key in path.split("."):
            seen = seen[int(key)] if isinstance(seen, list) else seen[key]
        assert seen == value, path
    # the other way round: the core's edit of the room leads to the same scenario
    changed = ROOM.model_copy(update={"arrangements": [after]})
    here, there = edits.applied([doc.core(FRAME)], scenario()), scenario_of(changed, after)
    assert said(here) == said(there)
    assert edit_doc(doc.core(FRAME), FRAME).do == doc.do


def test_an_edit_of_what_is_not_there_is_refused():
    for edit in (edits.TakeDown(7), edits.SetState("covers.5", "drawn"), edits.SetState("openings.0", "drawn")):
        with pytest.raises(InputError):
            edit.apply(scenario())


@pytest.mark.parametrize("made", [bakery_room, cupboard])
def test_the_quick_search_offers_what_solving_every_candidate_offers(made):
    room = read_room(made())
    scene = scenario_of(room, room.arrangements[0])
    more = {"wanted": PURPOSES[room.brief.purpose], "limits": Limits(budget=120), "hour": scene.hour}
    quick, full = (moves_in(scene.room, scene.arrangement, all_solved=every, **more) for every in (False, True))
    assert [move.candidate.edits for move in quick] == [move.candidate.edits for move in full]
    assert [move.benefit for move in quick] == pytest.approx([move.benefit for move in full], rel=1e-6)


def test_a_search_of_a_hundred_candidates_is_told_step_by_step():
    room = read_room(bakery_room())
    scene = scenario_of(room, room.arrangements[0])
    seen = []
    limits = Limits(budget=500, may_drill=True)
    moves_in(scene.room, scene.arrangement, wanted=PURPOSES[room.brief.purpose], limits=limits, report=seen.append)
    assert len([share for share in seen if 0.3 <= share < 0.7]) > 100


def test_two_microphones_comb_where_the_way_between_them_says():
    """Closed form: 0.343 m further is 1 ms at 343 m/s: notches at 500, 1500, 2500 Hz."""
    room = plain_box((6.0, 5.0, 3.0))
    c = room.air.speed_m_s
    placed = standing((1.0, 2.5, 1.5), (2.0, 2.5, 1.5))
    further = placed.microphone.__class__((2.0 + c * 1e-3, 2.5, 1.5), 180.0, 0.0, "omni")
    pair = pair_of(room, placed.__class__(placed.performer, placed.microphone, second_microphone=further))
    assert pair.delay_s == pytest.approx(1e-3, rel=1e-6)
    assert pair.notches_hz[:3] == pytest.approx((500, 1500, 2500), rel=1e-6)
    share = 1 / (1 + c * 1e-3)
    assert pair.ripple_db == pytest.approx(20 * np.log10((1 + share) / (1 - share)), rel=1e-6)
    assert pair_of(room, placed) is None
