"""Words, cautions and prices: each thing that the core says has its sentence, each piece its price and its care."""

import ast
import string
from pathlib import Path

import pytest

import keenquiet.core
from keenquiet.advice.costs import CAUTIONS, CURRENCIES, PriceList, price_rows
from keenquiet.advice.everyday import everyday_names, likely_places
from keenquiet.advice.kinds import KIND_WORDS
from keenquiet.advice.reasons import WORDS, words
from keenquiet.advice.wanted import SOURCES
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.waves.modes import note_hz
from keenquiet.documents.convert import read_room
from keenquiet.service.answers.readings import Result
from keenquiet.service.catalogue import catalogue
from keenquiet.service.kinds import KINDS, kind_named, of_form

from ..conftest import boxed_bakery

CORE = Path(keenquiet.core.__file__).parent


def said_by_the_core():
    """Each code, with its variant, that the core gives a reason or refuses a recording with."""
    for path in CORE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call) or getattr(node.func, "id", "") not in ("Reason", "MeasurementError"):
                continue
            parts = [part.value if isinstance(part, ast.Constant) else None for part in node.args[:2]]
            if parts and isinstance(parts[0], str):
                variant = parts[1] if len(parts) > 1 and isinstance(parts[1], str) else ""
                yield f"{parts[0]}/{variant}" if variant else parts[0], {word.arg for word in node.keywords}


SAID = sorted({code for code, _ in said_by_the_core()})


def test_the_core_says_many_things():
    assert len(SAID) > 15


@pytest.mark.parametrize("code", SAID)
def test_what_the_core_says_has_words_and_a_cure(code):
    text, cure = WORDS[code]
    assert text.endswith(".")
    assert cure.endswith(".")


def test_no_words_wait_for_figures_that_nobody_gives():
    wanted = {name for text, _ in WORDS.values() for _, name, _, _ in string.Formatter().parse(text) if name}
    source = "".join(path.read_text() for path in CORE.rglob("*.py"))
    assert [name for name in sorted(wanted) if name not in source] == []


def test_a_code_without_words_is_an_error_of_ours():
    with pytest.raises(KeyError):
        words("never-heard-of")


@pytest.mark.parametrize("key", list(price_rows()))
def test_a_piece_has_a_price_in_each_currency_its_time_and_cautions_that_exist(key):
    row = price_rows()[key]
    made = key in ("panel", "panel-overhead", "trap", "panel-50", "panel-150", "corner-straddle", "cloud")
    assert set(row.prices) == (set() if made else set(CURRENCIES.values()))
    assert all(price >= 0 for price in row.prices.values())
    if key.startswith("make-"):  # what frames are made of takes no time of its own
        assert row.minutes == row.minutes_fixed == 0
    else:
        assert 0 < row.minutes <= row.minutes_fixed <= 300
    assert row.source.startswith("ours")
    assert all(caution == "mount" or caution in CAUTIONS for caution in row.cautions if caution)


def test_prices_follow_the_currency_and_ones_own_come_first():
    rug = Candidate("reflection", (), "rug", 2)
    limits = Limits()
    euros, pounds = PriceList()(rug, limits).price, PriceList("£")(rug, limits).price
    assert euros == 2 * price_rows()["rug"].prices["EUR"]
    assert pounds == 2 * price_rows()["rug"].prices["GBP"]
    assert PriceList(own={"rug": 15.0})(rug, limits).price == 30.0
    assert PriceList("¤")(rug, limits).price == euros  # an unknown sign counts as euros


def test_a_frame_costs_what_its_boards_wool_and_cloth_do():
    """By hand: 2 x 1.2 and 2 x 0.564 m fit in two boards of 2.4 m; two batts of 0.72 m2; 1 m of cloth turned across."""
    by_hand = 2 * 2.4 * 2.6 + 2 * 0.72 * 9 + 1.0 * 7 + 2.5
    assert PriceList().price("panel") == pytest.approx(by_hand)
    assert PriceList(own={"make-wool": 0.0}).price("panel") == pytest.approx(by_hand - 2 * 0.72 * 9)
    assert PriceList().price("panel", fixed=True) > by_hand  # its plugs and screws


def test_what_is_drilled_leaves_holes_and_says_what_lies_behind_a_wall():
    panel = Candidate("reflection", (), "panel")
    standing, fixed = (PriceList()(panel, Limits(may_drill=drill)) for drill in (False, True))
    assert standing.reversible
    assert not fixed.reversible
    assert "wall" in fixed.cautions
    assert "wall" not in standing.cautions
    assert all(caution in CAUTIONS for cost in (standing, fixed) for caution in cost.cautions)


def test_a_close_microphone_warns_of_breath():
    near, far = (Candidate("distance", (), facts={"distance_m": m}) for m in (0.08, 0.6))
    assert "breath" in PriceList()(near, Limits()).cautions
    assert "breath" not in PriceList()(far, Limits()).cautions


def test_the_room_may_bring_its_own_prices():
    document = boxed_bakery()
    document["brief"] = {**document.get("brief", {}), "prices": {"rug": 12.5}}
    assert read_room(document).brief.prices == {"rug": 12.5}
    assert "rug" in {row.key for row in catalogue().prices}


@pytest.mark.parametrize("key", list(KINDS))
def test_a_kind_of_reading_is_complete(key):
    kind = kind_named(key)
    answer = next(found for found in catalogue().kinds if found.key == key)
    assert (answer.name, answer.form) == (KIND_WORDS[key].name, kind.form)
    assert len(answer.steps) == 3
    assert all(step.endswith(".") for step in answer.steps)
    assert kind.key in of_form(kind.form)
    assert kind.form in {shape.model_fields["form"].default for shape in Result.__args__[0].__args__}
    assert set(kind.also) <= set(KINDS)
    if "browser" in kind.ways:
        assert answer.seconds >= 4
        assert answer.cue
        assert answer.good_dbfs[0] < answer.good_dbfs[1] <= 0


def test_what_is_sent_by_a_loudspeaker_or_loud_warns_of_ears():
    for kind in catalogue().kinds:
        if kind.by_loudspeaker and "browser" in kind.ways:
            assert "ear" in kind.caution
    assert KIND_WORDS["loudest"].caution


def test_every_wanted_value_names_a_standard_a_paper_or_practice_and_says_why():
    for wanted in PURPOSES.values():
        for span in (
            wanted.bounce_db,
            wanted.boom_s,
            wanted.decay_s,
            wanted.early_db,
            wanted.hush_db,
            wanted.peak_dbfs,
        ):
            source = SOURCES[span.source]
            assert len(source.why) > 40
            assert source.name == "practice" or any(c.isdigit() for c in source.name)


def test_an_open_wardrobe_of_an_old_document_is_the_wardrobe_opened():
    document = boxed_bakery()
    number = next(i for i, piece in enumerate(document["furnishings"]) if piece["kind"] == "wardrobe")
    old = {"kind": "open-wardrobe", "surface": "wall-3", "x_m": 1, "z_m": 0, "width_m": 1, "height_m": 1.8}
    document["arrangements"][0]["treatments"] = [old | {"material": "clothes-hung"}]
    room = read_room(document)
    arrangement = room.arrangements[0]
    assert arrangement.treatments == []
    assert [(opened.what, opened.state) for opened in arrangement.opened] == [(f"furnishings.{number}", "open")]


def test_every_everyday_name_is_of_a_material_there_is_and_ranks_are_told_once():
    known = {material.key for material in catalogue().materials}
    assert everyday_names().keys() <= known
    for place in ("floor", "wall", "ceiling"):
        ranks = sorted(where[place] for where in likely_places().values() if place in where)
        assert ranks == list(dict.fromkeys(ranks))
        assert ranks[0] == 1


@pytest.mark.parametrize(
    ("text", "f_hz"), [("A4", 440.0), ("G3", 195.998), ("bb1", 58.270), ("F#2", 92.499), ("196 Hz", 196)]
)
def test_a_note_as_typed_has_the_pitch_of_equal_temperament(text, f_hz):  # tables of A4 = 440 Hz
    assert note_hz(text) == pytest.approx(f_hz, abs=2e-3)
