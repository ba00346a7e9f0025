"""The marks and the moves: laws they must obey, and a fair test against the rig."""

from dataclasses import replace

import numpy as np
import pytest

from keenquiet.advice.marks import bounce_sentence
from keenquiet.advice.surfaces import side_words, surface_words
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.forecast import Acoustics, as_loudspeaker, deficits, forecast
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.read.early import direct_over_room_db
from keenquiet.core.room.room import Overlay
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.documents.convert import arrangement_of, read_room, room_of
from keenquiet.rig.impulse import rig_impulse
from keenquiet.rig.truth import true_room

from ..conftest import boxed_bakery, moves_in, plain_box, standing

DRY = PURPOSES["dry-voice"]


@pytest.fixture(scope="module")
def ranked():
    room = read_room(boxed_bakery())
    box = room_of(room)
    arrangement = arrangement_of(room, room.arrangements[0], box)
    return box, arrangement, moves_in(box, arrangement, wanted=DRY, hour=9.5)


def test_softness_behind_the_performer_beats_the_same_softness_behind_the_microphone():
    # a cardioid looks past the performer: 2 x 2 m of curtain on either end wall of an even room
    room = plain_box(size=(4.0, 3.0, 2.5), alpha=0.08)
    arrangement = standing((2.4, 1.5, 1.5), (2.0, 1.5, 1.5), pattern="cardioid", source="voice-sung", faces=180, aims=0)
    curtain = CATALOGUE["mineral-wool-50"]
    behind_performer = Overlay("p", 1, (0.5, 2.5, 0.4, 2.4), curtain)
    behind_microphone = Overlay("m", 3, (0.5, 2.5, 0.4, 2.4), curtain)

    def bounce(*overlays):
        return forecast(Acoustics(room.with_overlays(overlays)), arrangement).bounce.direct_over_room_db.value

    bare = bounce()
    assert bounce(behind_performer) - bare > bounce(behind_microphone) - bare + 0.2 > 0.5


def test_half_the_distance_is_6_db_more_direct_over_room():
    room = plain_box(alpha=0.1)
    near, far = (forecast(Acoustics(room), standing((2.0, 1.5, 1.3), (2.0 + r, 1.5, 1.3))) for r in (0.2, 0.4))
    gained = near.bounce.direct_over_room_db.value - far.bounce.direct_over_room_db.value
    assert gained == pytest.approx(6.02, abs=0.4)


def test_more_absorption_means_more_bounce_mark_and_shorter_ringing():
    arrangement = standing((1.2, 1.0, 1.5), (2.0, 1.5, 1.4))
    marks = [forecast(Acoustics(plain_box(alpha=a)), arrangement) for a in (0.05, 0.15, 0.4)]
    assert np.all(np.diff([m.bounce.direct_over_room_db.value for m in marks]) > 1)
    assert np.all(np.diff([m.boom.ring_s.value for m in marks]) < 0)


def test_every_figure_carries_an_uncertainty(placed):
    box, arrangement = placed
    found = forecast(Acoustics(box), arrangement)
    for figure in (
        found.bounce.direct_over_room_db,
        found.bounce.decay_s,
        found.boom.ring_s,
        found.boom.swing_db,
        found.hush.under_performance_db,
    ):
        assert 0 < figure.plus_minus < abs(figure.value)


def test_same_input_same_answer(placed):
    box, arrangement = placed
    one, two = (forecast(Acoustics(box), arrangement) for _ in range(2))
    assert one.bounce == two.bounce
    assert one.boom == two.boom


@pytest.mark.parametrize("distance", [0.3, 0.6, 1.0])
def test_bounce_agrees_with_the_rig_within_its_uncertainty(placed, distance):
    box, arrangement = placed
    mic = replace(arrangement.microphone, at=(2.66 - distance * 0.78, 1.55 - distance * 0.62, 1.5))
    seen = as_loudspeaker(replace(arrangement, microphone=mic))
    predicted = forecast(Acoustics(box), seen).bounce.direct_over_room_db
    truth = direct_over_room_db(rig_impulse(true_room(box), seen, seed=5).impulse, 48_000)
    assert predicted.value == pytest.approx(truth, abs=2 * np.hypot(predicted.plus_minus, 0.7))


def test_the_rigs_truth_differs_from_the_catalogue_and_stays_the_same(placed):
    box, _ = placed
    once, again = true_room(box), true_room(box)
    ratio = once.face_absorption / box.face_absorption
    assert np.array_equal(once.face_absorption, again.face_absorption)
    assert 0.05 < np.std(np.log(ratio)) < 0.4


def test_moves_of_three_kinds_help_and_are_ranked(ranked):
    _, _, moves = ranked
    assert len({move.candidate.kind for move in moves}) >= 3
    assert [m.score for m in moves] == sorted((m.score for m in moves), reverse=True)
    assert all(move.benefit > 0 for move in moves)


def test_each_moves_effect_is_the_difference_of_two_forecasts(ranked):
    box, arrangement, moves = ranked
    now = forecast(Acoustics(box), arrangement, hour=9.5)
    for move in moves:
        then = move.scenario
        after = forecast(Acoustics(then.described), then.arrangement, hour=then.hour)
        change = after.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value
        assert move.effects["bounce"].value == pytest.approx(change, abs=1e-6)
        gains = {mark: lack - deficits(after, DRY)[mark] for mark, lack in deficits(now, DRY).items()}
        lacks = deficits(now, DRY)  # what lacks most counts twice, what lacks half as much a sixteenth more
        leads = {mark: (lack / max(lacks.values())) ** 4 for mark, lack in lacks.items()}
        known = sum(gain + leads[mark] * max(gain, 0) for mark, gain in gains.items())
        assert move.benefit == pytest.approx(known, abs=1e-6)


def test_moves_respect_budget_and_walls_and_carry_their_cautions(ranked):
    box, arrangement, _ = ranked
    free = moves_in(box, arrangement, wanted=DRY, limits=Limits(budget=0, has_duvet=False), hour=9.5)
    assert free
    assert all(m.cost.price == 0 and m.candidate.piece != "duvet" for m in free)
    for drill in (False, True):
        for move in moves_in(box, arrangement, wanted=DRY, limits=Limits(budget=500, may_drill=drill), hour=9.5):
            overhead = any(o.face == 5 for o in move.scenario.arrangement.treatments)
            assert drill or not overhead
            if overhead:
                assert "overhead" in move.cost.cautions
            if move.candidate.kind in ("soft-behind", "reflection", "trap"):
                assert move.cost.cautions


def test_every_move_leaves_everybody_inside_the_room(ranked):
    box, _, moves = ranked
    for move in moves:
        box.check_arrangement(move.scenario.arrangement)


def test_noise_falls_when_the_extractor_stops_and_the_cardioid_turns_its_back(placed):
    box, arrangement = placed
    decay = Acoustics(box).decay
    morning, noon = (noise_at_microphone(box, arrangement, decay=decay, hour=h) for h in (9.5, 12.0))
    assert "Bakery extractor" in morning.by_source_dba
    assert "Bakery extractor" not in noon.by_source_dba
    assert noon.level_dba < morning.level_dba - 1
    assert [n.name for n in box.noises if n.runs_at(0.5)] != [
        n.name for n in box.noises if n.runs_at(2.0)
    ]  # last tram 00:40


def test_walls_are_named_as_the_performer_knows_them(placed):
    box, arrangement = placed
    assert surface_words(box, 2, arrangement) == "the window wall"
    assert surface_words(box, 0, arrangement) == "the door wall"
    assert side_words(box, 1, arrangement) == "behind you"  # facing 218 degrees, the wall at x = L is behind
    assert "ms after you" in bounce_sentence(forecast(Acoustics(box), arrangement), DRY)
