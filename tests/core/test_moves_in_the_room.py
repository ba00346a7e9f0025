"""Moves fit the room they are made for: cloth keeps clear of wardrobes, panels of windows, words of nonsense."""

from dataclasses import replace

import numpy as np
import pytest

from keenquiet.advice.costs import PriceList
from keenquiet.advice.marks import boom_sentence, bounce_sentence, hush_sentence, touch_sentence
from keenquiet.advice.moves import move_words, shortfall_words
from keenquiet.advice.surfaces import surface_words
from keenquiet.core.bands import at_frequencies
from keenquiet.core.edits import applied
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.forecast import Acoustics, Figure, deficits, forecast
from keenquiet.core.judge.move_kinds import Offer, candidates
from keenquiet.core.judge.moves import shortfalls
from keenquiet.core.judge.plans import plans
from keenquiet.core.judge.soft import _clear_of_furniture, _face_behind, livelier, wardrobes
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.furnishings import KINDS, Furnishing
from keenquiet.core.room.room import Microphone, NoiseSource, Overlay, Performer
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.things.pieces import pieces
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.waves.reverberant import direct_over_room_at_db, mid_band_db
from keenquiet.documents.convert import read_room, scenario_of

from ..conftest import moves_in, plain_box, standing, titles_of
from .odd_rooms import Building

DRY, LIVELY = PURPOSES["dry-voice"], PURPOSES["lively"]


def kinds_of(moves):
    return [move.candidate.kind for move in moves]


def test_cloth_keeps_clear_of_a_wardrobe_and_is_not_offered_where_too_little_is_left():
    room = plain_box(size=(4.0, 3.0, 2.5))
    wardrobe = Furnishing(KINDS["wardrobe"], (3.7, 2.5), (0.85, 0.56, 1.95), 90.0)
    furnished = replace(room, furnishings=(wardrobe,))
    # turned by 90 degrees it takes y from 2.075 to 2.925 along the wall at x = 4
    assert _clear_of_furniture(furnished, 1, (1.0, 3.0, 0.4, 2.2)) == pytest.approx((1.0, 2.075, 0.4, 2.2))
    assert _clear_of_furniture(furnished, 1, (1.5, 3.0, 0.4, 2.2)) is None
    assert _clear_of_furniture(furnished, 0, (1.0, 3.0, 0.4, 2.2)) == (1.0, 3.0, 0.4, 2.2)
    low = replace(room, furnishings=(Furnishing(KINDS["day-bed"], (3.6, 1.5), (1.9, 0.8, 0.45), 90.0),))
    assert _clear_of_furniture(low, 1, (1.0, 3.0, 0.4, 2.2)) == (1.0, 3.0, 0.4, 2.2)  # cloth hangs above a bed


@pytest.mark.parametrize(("faces", "face"), [(0, 3), (90, 0), (180, 1), (270, 2)])  # x = 0 is the last wall
def test_the_wall_behind_is_the_one_the_microphone_sees_past_the_performer(faces, face):
    room = plain_box(size=(4.0, 4.0, 2.5))
    ahead = np.array([np.cos(np.radians(faces)), np.sin(np.radians(faces))])
    arrangement = standing((2.0, 2.0, 1.5), (2.0 + 0.4 * ahead[0], 2.0 + 0.4 * ahead[1], 1.5), faces=faces)
    assert _face_behind(room, arrangement)[0] == face


def test_no_panel_is_hung_over_a_window_or_a_door(placed):
    box, arrangement = placed
    for move in moves_in(box, arrangement, wanted=DRY, limits=Limits(budget=500, may_drill=True)):
        for added in move.scenario.arrangement.treatments:
            if added.kind != "panel":
                continue
            for opening in (o for o in box.overlays if o.face == added.face):
                a, b = added.rect, opening.rect
                assert min(a[1], b[1]) <= max(a[0], b[0]) or min(a[3], b[3]) <= max(a[2], b[2])


def test_what_hangs_already_is_not_offered_again(placed):
    box, arrangement = placed
    first = next(m for m in moves_in(box, arrangement, wanted=DRY) if m.candidate.piece == "duvet")
    again = moves_in(box, first.scenario.arrangement, wanted=DRY)
    assert all(move.candidate.piece != "duvet" for move in again)


def test_an_open_wardrobe_is_the_wardrobe_itself_and_can_have_the_back_to_its_clothes(placed):
    box, arrangement = placed
    here, before = wardrobes(Scenario(box, arrangement))
    opened = applied(before.edits, Scenario(box, arrangement))
    # the wardrobe stands at the window wall, its front into the room: so does the performer then look
    assert opened.arrangement.performer.faces_deg == pytest.approx(270)
    assert opened.arrangement.performer.at[0] == pytest.approx(3.06, abs=0.01)
    wardrobe = opened.room.furnishings[1]
    assert wardrobe.is_open
    # its front swallows more: 0.85 x 1.95 m, 0.7 full of what the treatment of that name is, at 1 kHz 0.12 empty, less
    # the doors' own
    clothes = CATALOGUE["wardrobe-open"].absorption[4]
    front = 0.85 * 1.95 * (0.7 * clothes + 0.3 * 0.12 - wardrobe.kind.alpha[4])
    more = opened.described.furniture_area_m2 - box.furniture_area_m2
    assert more[4] == pytest.approx(front, abs=1e-6)
    assert applied(here.edits, Scenario(box, arrangement)).arrangement == arrangement


def test_a_live_purpose_is_not_dried_out():
    # the same room and player: what is far too live for a dry voice is nearly right for brass
    room = plain_box(size=(4.4, 3.8, 2.7), alpha=0.12)
    arrangement = standing((2.2, 1.9, 1.5), (2.7, 1.9, 1.5), source="brass", faces=0)
    now = forecast(Acoustics(room), arrangement)
    dry, lively = (sum(deficits(now, w).values()) for w in (DRY, LIVELY))
    assert dry > 1.2 * lively


def test_a_noise_in_the_room_is_switched_off_only_when_it_matters(placed):
    box, arrangement = placed
    roaring = NoiseSource("Fan", np.full(8, 60.0), (1.0, 1.0, 1.0), kind="inside")
    whispering = NoiseSource("Clock", np.full(8, -10.0), (1.0, 1.0, 1.0), kind="inside")
    for noise, offered in ((roaring, True), (whispering, False)):
        only = replace(box, noises=(noise,))
        offers = [m for m in moves_in(only, arrangement, wanted=DRY, hour=12.0) if m.candidate.kind == "silence"]
        assert bool(offers) is offered


def test_the_hour_offered_is_free_of_what_runs_now(placed):
    box, arrangement = placed
    box = replace(box, noises=tuple(noise for noise in box.noises if noise.name != "Laptop fan"))  # it is put out along
    (move,) = (m for m in moves_in(box, arrangement, wanted=DRY, hour=9.5) if m.candidate.kind == "hour")
    assert titles_of([move], box, arrangement) == ["Record after 10:30"]
    assert move.effects["hush"].value > 1
    assert abs(move.effects["bounce"].value) < 1e-9


def test_the_place_map_agrees_with_the_full_forecast_in_its_order(placed):
    box, arrangement = placed
    mics = np.array([[2.32 - 0.25 * i, 1.28 - 0.2 * i, 1.48] for i in range(4)])
    source = np.array(arrangement.performer.at)
    acoustics = Acoustics(box)
    sources = np.tile(source, (4, 1))
    quick = mid_band_db(direct_over_room_at_db(box, arrangement, decay=acoustics.decay, sources=sources, mics=mics))
    full = [
        forecast(
            acoustics,
            replace(arrangement, microphone=replace(arrangement.microphone, at=tuple(mic))),
            uncertainty=False,
        ).bounce.direct_over_room_db.value
        for mic in mics
    ]
    assert np.all(np.diff(quick) < 0)
    assert np.all(np.diff(full) < 0)
    # walls are averaged over their pieces here: that is all that may lie between them
    assert np.max(np.abs(np.subtract(quick, full))) < 0.8
    assert np.max(np.abs(quick - full)) < 2.0


def test_the_critical_distance_parts_direct_from_room(placed):
    box, arrangement = placed
    omni = replace(
        arrangement,
        performer=Performer(arrangement.performer.at, 218, SOURCES["omni"]),
        microphone=Microphone(arrangement.microphone.at, 38, 0, "omni"),
    )
    acoustics = Acoustics(box)
    reach = forecast(acoustics, omni).critical_distance_m
    towards = np.subtract(omni.microphone.at, omni.performer.at)
    at = np.add(omni.performer.at, towards / np.linalg.norm(towards) * reach)
    there = forecast(acoustics, replace(omni, microphone=replace(omni.microphone, at=tuple(at))))
    assert there.bounce.direct_over_room_db.value == pytest.approx(0.0, abs=2.0)


@pytest.mark.parametrize(
    ("mic", "words"),
    [((2.60, 1.5, 1.48), "bass is lifted"), ((1.2, 1.0, 1.48), "cm away"), ((2.3, 1.27, 1.48), "swaying")],
)
def test_touch_says_what_the_distance_does(placed, mic, words):
    box, arrangement = placed
    result = forecast(
        Acoustics(box),
        replace(arrangement, microphone=Microphone(mic, 38, 0, "figure-8" if "bass" in words else "cardioid")),
    )
    assert words in touch_sentence(result)


def test_each_sentence_changes_with_its_mark(placed):
    box, arrangement = placed
    result = forecast(Acoustics(box), arrangement, hour=9.5)
    assert bounce_sentence(result, DRY).startswith("The ceiling comes back first")
    assert "swells and hangs on" in boom_sentence(result, DRY)
    assert hush_sentence(result, DRY, measured=True) == "Bakery extractor sits under the quiet phrases."
    assert hush_sentence(result, DRY).startswith("Not known yet. By what is noted, bakery extractor leads")
    good = replace(
        result,
        bounce=replace(result.bounce, direct_over_room_db=Figure(20.0, 1.0)),
        boom=replace(result.boom, ring_s=Figure(0.2, 0.02)),
        hush=replace(result.hush, under_performance_db=Figure(60.0, 3.0)),
    )
    assert bounce_sentence(good, DRY) == "Your voice stands clear of the room."
    assert "Drier than you asked" in bounce_sentence(good, LIVELY)
    assert boom_sentence(good, DRY).startswith("No note hangs on")
    assert hush_sentence(good, DRY, measured=True).startswith("Quiet enough")


@pytest.mark.parametrize(
    ("faces", "words"), [(0, "in front of you"), (180, "behind you"), (90, "to your right"), (270, "to your left")]
)
def test_a_plain_wall_is_named_from_where_the_performer_looks(faces, words):
    room = plain_box()
    arrangement = standing((2.0, 1.5, 1.5), (2.4, 1.5, 1.5), faces=faces)
    assert surface_words(room, 1, arrangement) == f"the wall {words}"
    assert surface_words(room, 4, arrangement) == "the floor"
    assert surface_words(room, 5, arrangement) == "the ceiling"


def test_what_hangs_in_a_room_too_dead_for_its_purpose_is_taken_down_by_its_name():
    room = plain_box(size=(2.4, 2.0, 2.3), alpha=0.6)
    hung = Overlay("arrangements.a.treatments.0", 1, (0.3, 1.7, 0.4, 2.0), CATALOGUE["duvet-hung"], True, "duvet")
    arrangement = replace(standing((0.7, 1.0, 1.5), (1.4, 1.0, 1.5), source="trumpet"), treatments=(hung,))
    (candidate,) = livelier(Scenario(room, arrangement))
    after = applied(candidate.edits, Scenario(room, arrangement))
    assert after.arrangement.treatments == ()
    title, _ = move_words(candidate, Scenario(room, arrangement), after, Limits())
    assert title.startswith("Take the duvet down from the wall")


@pytest.mark.parametrize(
    ("level_db", "said"),
    [(-14.0, "A strong single return"), (-25.0, "A return comes"), (-50.0, "Hardly anything"), (-300.0, "Hardly")],
)
def test_a_return_is_called_strong_where_it_is(placed, level_db, said):
    """-300 dB was called a strong single return."""
    box, arrangement = placed
    here = Scenario(box, arrangement)
    facts = {"face": 0, "delay_ms": 5.0, "level_db": level_db}
    _, why = move_words(Candidate("reflection", (), "panel", facts=facts), here, here, Limits())
    assert why.startswith(said)
    assert ("300" in why) is False


def test_another_place_claims_nothing_that_its_figures_do_not_say(placed):
    """ "Less of the room comes back" was said at -4.6 dB."""
    box, arrangement = placed
    here = Scenario(box, arrangement)
    place = Candidate("place", (), facts={"face": 0, "away_m": 1.0})
    for changes, told, untold in (
        ({"bounce": -4.6, "boom": -0.2, "hush": 0.0}, "hangs on less", "room"),
        ({"bounce": 2.0, "boom": 0.1, "hush": 3.0}, "noise lies further", "hangs on"),
        ({"bounce": 0.1, "boom": 0.0, "hush": 0.1}, "changes little", "room"),
    ):
        _, why = move_words(place, here, here, Limits(), changes=changes)
        assert told in why
        assert untold not in why


@pytest.mark.parametrize(("note_hz", "said"), [(75.0, "only thick panels"), (290.0, "what lies above")])
def test_only_low_notes_need_thick_panels(placed, note_hz, said):
    here = Scenario(*placed)
    facts = {"face": 0, "where": "corner", "note_hz": note_hz}
    assert said in move_words(Candidate("trap", (), "trap", facts=facts), here, here, Limits())[1]


def clothed():
    """A small room full of cloth in which lively brass is wanted."""
    size = {"x_m": 0.1, "z_m": 0.1, "width_m": 2.2, "height_m": 2.1}
    cloth = [{"kind": "curtain", "surface": f"wall-{n}", **size} for n in (1, 2)]
    rug = {"kind": "rug", "surface": "floor", "x_m": 0.2, "z_m": 0.2, "width_m": 2.0, "height_m": 1.8}
    building = Building((2.6, 2.4, 2.3), purpose="lively", source="trumpet", distance=0.3, ceiling="mineral-wool-50")
    return read_room({**building.document("Cloth"), "covers": [*cloth, rug]})


def test_a_room_too_dry_for_its_purpose_loses_cloth_and_is_told_what_it_still_lacks():
    document = clothed()
    scenario = scenario_of(document, document.arrangements[0])
    lively = PURPOSES["lively"]
    offer = Offer(scenario, Acoustics(scenario.described), lively, Limits(budget=300))
    assert offer.now.bounce.direct_over_room_db.value > lively.bounce_db.high
    offered = list(candidates(offer))
    assert {one.facts["what"] for one in offered if one.kind == "undrape"} == {"curtain", "rug"}
    assert not {"soft-behind", "reflection", "trap", "screen", "wardrobe"} & {one.kind for one in offered}
    for one in offered:
        if one.kind == "undrape":  # less cloth: the room answers more
            after = forecast(Acoustics(applied(one.edits, scenario).described), scenario.arrangement)
            assert after.bounce.decay_s.value > offer.now.bounce.decay_s.value
    short = {found.lack: found.by for found in shortfalls(offer.now, (), lively)}
    assert short["dry"] == pytest.approx(offer.now.bounce.direct_over_room_db.value - 12.0)
    assert short["dead"] == pytest.approx(0.3 - offer.now.bounce.decay_s.value)
    best = plans(scenario, wanted=lively, limits=Limits(budget=300), costs=PriceList(), budgets=(300.0,))[0]
    assert best.spent == 0.0
    assert best.after.bounce.direct_over_room_db.value < offer.now.bounce.direct_over_room_db.value - 3


def test_a_note_that_hangs_on_is_told_with_the_wool_that_would_end_it():
    room = plain_box((5.0, 4.0, 2.6), faces=[0.02] * 6)
    now = forecast(Acoustics(room), standing((1.5, 1.5, 1.5), (1.8, 1.5, 1.5)))
    (boom,) = [short for short in shortfalls(now, (), DRY) if short.lack == "boom"]
    # by hand: Sabine at the note, 55.3 V / c (1 / wanted - 1 / now), over what 20 cm of wool takes there
    wool = at_frequencies(pieces()["trap"].material.absorption, np.array([boom.note_hz]))[0]
    ring = now.boom.ring_s.value
    area = 55.26 * 52.0 / room.air.speed_m_s * (1 / (ring - boom.by) - 1 / ring)
    assert boom.wool_m3 == pytest.approx(area / wool * 0.2, rel=0.01)
    assert f"{boom.wool_m3:.1f} m³" in shortfall_words(boom)


def test_boards_tuned_to_the_note_that_hangs_on_are_offered_and_take_it_and_little_else():
    room = plain_box((3.4, 2.6, 2.4), faces=[0.05] * 6)
    scenario = Scenario(room, standing((1.0, 1.0, 1.5), (1.4, 1.0, 1.5)))
    offer = Offer(scenario, Acoustics(room), DRY, Limits(budget=500))
    boards = [one for one in candidates(offer, {"trap"}) if one.piece == "membrane"]
    note_hz = offer.now.boom.note_hz
    made = boards[0].edits[0].overlay.material.absorber
    # the zero of its reactance, seen from its front at right angles
    z = made.impedance(np.array([note_hz]), angle_rad=np.zeros(1), air=room.air)[0, 0]
    assert abs(z.imag) < 0.05
    after = forecast(Acoustics(applied(boards[0].edits, scenario).described), scenario.arrangement, uncertainty=False)
    longest = offer.now.boom.ring_s.value
    near = np.abs(after.modes.f_hz / note_hz - 1) < 0.05
    assert np.min(after.modes.t60_s[near]) < 0.75 * longest
    assert after.decay.middle_s[4] > 0.9 * offer.now.decay.middle_s[4]  # 1 kHz: hardly anything
