"""What stages are given: a reading as strokes, the day by what runs, moves that use what is owned."""

from itertools import pairwise
from pathlib import Path

import pytest

from keenquiet.advice.costs import price_rows
from keenquiet.advice.moves import _WORDS
from keenquiet.core.judge.move_kinds import MOVE_KINDS
from keenquiet.core.judge.moves import next_moves
from keenquiet.demo.scenario import bakery_room
from keenquiet.documents.convert import read_room
from keenquiet.service.answers.marks import marks_of, wanted_of
from keenquiet.service.answers.readings import TakeResult, ThirdLevel, ToneResult
from keenquiet.service.answers.sketch import sketch
from keenquiet.service.predict import acoustics_of, limits_of, predict, prices_of
from keenquiet.service.questions import QUESTIONS

from ..conftest import boxed_bakery


def at_hour(document: dict, hour: float) -> dict:
    first, *others = document["arrangements"]
    return document | {"arrangements": [first | {"hour": hour}, *others]}


def test_a_take_is_drawn_by_its_loudest_moments_and_silence_by_its_thirds():
    blocks = [-60.0] * 320
    blocks[100] = -6.0  # a tenth of a second must not be lost among thirty
    drawn = sketch(TakeResult(verdict={"usable": True, "word": "good", "reasons": []}, blocks_db=blocks))
    assert len(drawn) == 32
    assert drawn[10] == 1.0
    assert sum(height == 0.0 for height in drawn) == 31
    thirds = [ThirdLevel(centre_hz=f, level_db=level) for f, level in ((100, 40.0), (125, None), (160, 20.0))]
    tone = ToneResult(verdict={"usable": True, "word": "good", "reasons": []}, thirds=thirds)
    assert sketch(tone) == [1.0, None, 0.0]


def test_the_day_says_for_each_stretch_what_the_forecast_says_at_its_hours():
    document = bakery_room()
    room = read_room(at_hour(document, 12.0))
    day = marks_of(predict(room, None), wanted_of(room)).hush.day
    assert [day[0].start_h, day[-1].end_h] == [0.0, 24.0]
    assert all(one.end_h == two.start_h for one, two in pairwise(day))
    for hour in (2.0, 4.0, 9.0, 15.0):
        there = read_room(at_hour(document, hour))
        said = next(stretch.under_db for stretch in day if stretch.start_h <= hour < stretch.end_h)
        assert said == pytest.approx(predict(there, None).hush.under_performance_db.value, abs=0.01)


def test_without_a_noise_noted_the_day_is_empty():
    room = read_room(bakery_room() | {"noises": []})
    assert marks_of(predict(room, None), wanted_of(room)).hush.day == []


def moves_with(owned: dict, pattern: str = "omni"):
    document = boxed_bakery()
    document["brief"] |= {"budget": 0, "has_duvet": False, "owned": owned}
    document["arrangements"][0]["microphone"]["pattern"] = pattern
    room = read_room(document)
    scenario, _ = acoustics_of(room, room.arrangement_doc(None))
    return next_moves(scenario, wanted=wanted_of(room), limits=limits_of(room), costs=prices_of(room), most=12)


def test_what_is_owned_costs_nothing_and_another_microphone_at_hand_is_a_move():
    nothing = moves_with({})
    assert not any(move.candidate.kind in ("microphone", "trap", "reflection") for move in nothing)
    at_hand = moves_with({"microphones": [{"pattern": "omni"}, {"pattern": "cardioid"}], "cloth": ["panel"]})
    swapped = [move for move in at_hand if move.candidate.kind == "microphone"]
    assert [move.candidate.facts["pattern"] for move in swapped] == ["cardioid"]
    # a cardioid hears a third of a diffuse room: 10 log 3 = 4.8 dB less, somewhat more or less by what comes first
    assert swapped[0].effects["bounce"].value == pytest.approx(4.8, abs=1.5)
    panels = [move for move in at_hand if move.candidate.piece == "panel"]
    assert panels
    assert all(move.cost.price == 0 for move in panels)


def test_every_question_says_what_it_answers_and_stands_in_the_formats():
    formats = (Path(__file__).parents[2] / "docs/formats.md").read_text(encoding="utf-8")
    for key, question in QUESTIONS.items():
        assert f"`{key}`" in formats, key
        assert len(question.says) > 20, key
        assert all(file.made.__doc__ for file in question.files.values())


def test_every_kind_of_move_has_its_words_and_its_price():
    hung = {"soft-behind", "reflection", "trap", "screen", "seal"}  # priced by the piece
    assert set(MOVE_KINDS) == set(_WORDS)
    assert set(MOVE_KINDS) - hung <= set(price_rows())
