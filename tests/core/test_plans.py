"""Plans: against every set there is, against rules of thumb, sets that only help together, locks and limits."""

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from bench.plans_beside_rules import plan_rule_and_chance

from keenquiet.advice.costs import PriceList
from keenquiet.advice.pieces import PIECE_WORDS
from keenquiet.core.air import Air
from keenquiet.core.edits import Hang, SetHour, Switch
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.going_together import go_together, together
from keenquiet.core.judge.plans import Rules, _Branch, _Search, in_order, lacking, plans
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.room import NoiseSource, Overlay
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.pieces import membrane_for, pieces
from keenquiet.core.things.porous import octave_absorption

from ..conftest import many, plain_box, standing

DRY = PURPOSES["dry-voice"]
ANY = Rules()
ROOM = plain_box(size=(3.6, 2.9, 2.4), alpha=0.1)
SUNG = standing((1.3, 1.4, 1.5), (1.9, 1.5, 1.45), pattern="cardioid", source="voice-sung", faces=10.0, aims=190.0)
FAN = NoiseSource("Fan", np.full(8, 42.0), (0.5, 0.5, 0.8), kind="inside")
STREET = NoiseSource("Street", np.full(8, 42.0), (0.1, 1.5, 1.2), hours=((6.0, 20.0),))


def planned(room=ROOM, arrangement=SUNG, *, budgets=(150.0,), limits=None, rules=ANY, hour=None, **more):
    scenario = Scenario(room, arrangement, hour)
    return plans(
        scenario,
        wanted=DRY,
        limits=limits or Limits(budget=max(budgets)),
        costs=PriceList(),
        budgets=budgets,
        rules=rules,
        **more,
    )


@pytest.mark.parametrize("seed", range(many(60, 4)))
def test_a_search_is_within_two_per_cent_of_every_set_there_is(seed):
    rng = np.random.default_rng(seed)
    room = plain_box(size=tuple(rng.uniform((2.6, 2.2, 2.2), (4.2, 3.4, 2.6))), alpha=float(rng.uniform(0.06, 0.2)))
    x, y, _ = room.shape.bounds_m
    arrangement = standing(
        (0.4 * x, 0.5 * y, 1.5), (0.4 * x + 0.5, 0.5 * y, 1.5), pattern="cardioid", source="voice-sung"
    )
    search = _Search(Scenario(room, arrangement), DRY, Limits(budget=140.0), PriceList(), Rules())
    branch = _Branch(search, None, search.scenario)
    branch.fill(quick=True)
    kept = sorted(range(len(branch.pool)), key=lambda i: -branch.single[i])[:8]
    branch.pool, branch.costs = [branch.pool[i] for i in kept], [branch.costs[i] for i in kept]
    branch.single, branch._lacks, branch._pairs = [branch.single[i] for i in kept], {frozenset(): branch.lacks(())}, {}
    every = [
        chosen
        for count in range(5)
        for chosen in combinations(range(8), count)
        if sum(branch.costs[i].price for i in chosen) <= 140.0
        and all(go_together(branch.pool[a], branch.pool[b]) for a, b in combinations(chosen, 2))
    ]
    best = max(branch.worth(chosen) for chosen in every)
    found = max(branch.worth(branch.exchanged(chosen, 140.0)) for chosen in branch.searched(140.0))
    assert found >= best - 0.02 * abs(best)


def test_more_money_is_never_worse_and_nothing_is_spent_that_is_not_there():
    found = planned(budgets=(0.0, 60.0, 200.0))
    assert [plan.spent <= plan.budget for plan in found] == [True] * 3
    assert found[0].spent == 0.0
    ends = [plan.lacks[-1] for plan in found]
    assert ends[0] >= ends[1] - 0.02 >= ends[2] - 0.04
    for plan in found:
        assert all(later < sooner for sooner, later in zip(plan.lacks, plan.lacks[1:], strict=False))
        # each gain is what it adds to those above it
        for move, sooner, later in zip(plan.moves, plan.lacks, plan.lacks[1:], strict=False):
            assert move.benefit == pytest.approx(sooner - later)
        assert plan.lacks[-1] == pytest.approx(lacking(plan.after, DRY), abs=1e-9)


def test_two_noises_that_hide_each_other_are_silenced_together():
    room = replace(ROOM, noises=(FAN, STREET))
    plan = planned(room, budgets=(0.0,), hour=10.0, rules=Rules(only=frozenset({"silence", "hour", "together"})))[0]
    edits = [edit for move in plan.moves for edit in move.candidate.edits]
    assert Switch("Fan") in edits
    assert any(isinstance(edit, SetHour) for edit in edits)
    # alone each leaves the other: 3 dB at most; together nearly all of it goes
    alone = list(together([Candidate("silence", (Switch("Fan"),), facts={"noise": "Fan"})]))
    assert len(alone) == 1


def test_what_may_not_be_is_not():
    reversible = planned(budgets=(200.0,), limits=Limits(budget=200.0, may_drill=True), rules=Rules(reversible=True))[0]
    assert all(move.cost.reversible for move in reversible.moves)
    free = planned(budgets=(200.0,), rules=Rules(keep_free=frozenset({0, 1, 2, 3})))[0]
    hung = [e.overlay.face for move in free.moves for e in move.candidate.edits if isinstance(e, Hang)]
    assert not set(hung) & {0, 1, 2, 3}
    no_duvet = planned(budgets=(0.0,), limits=Limits(budget=0.0, has_duvet=False))[0]
    assert not any("duvet" in str(move.candidate.piece) for move in no_duvet.moves)


def test_a_mark_that_does_not_matter_does_not_lead():
    room = replace(ROOM, noises=(FAN,))
    quiet_only = planned(room, budgets=(150.0,), rules=Rules(weights={"bounce": 0.1, "boom": 0.1, "touch": 0.1}))[0]
    assert Switch("Fan") in quiet_only.moves[0].candidate.edits or quiet_only.moves[0].effects["hush"].value > 3


def test_only_one_duvet_and_nothing_over_another():
    duvet = pieces()["duvet"].material
    one = Candidate("soft-behind", (Hang(Overlay("a", 0, (0, 1, 0, 2), duvet, True, "duvet")),), "duvet")
    other = Candidate("soft-behind", (Hang(Overlay("b", 1, (0, 1, 0, 2), duvet, True, "duvet")),), "duvet")
    over = Candidate("reflection", (Hang(Overlay("c", 0, (0.5, 1.5, 1, 2), duvet, True, "panel")),), "panel")
    beside = Candidate("reflection", (Hang(Overlay("d", 0, (1.0, 1.5, 1, 2), duvet, True, "panel")),), "panel")
    assert not go_together(one, other)
    assert not go_together(one, over)
    assert go_together(one, beside)
    assert in_order([SetHour(9.0), one.edits[0]])[0] == one.edits[0]


def test_the_first_answer_comes_from_few_pieces_and_tells_how_far_it_is():
    told = []
    quick = planned(budgets=(150.0,), quick=True, report=told.append)[0]
    assert quick.moves
    assert told == sorted(told)
    with pytest.raises(RuntimeError, match="stop"):
        planned(report=lambda share: (_ for _ in ()).throw(RuntimeError("stop")) if share > 0.3 else None)


def test_plans_beat_panels_at_the_first_returns_and_panels_by_chance():
    # a plan need not win in every room (first order misjudges some modes); over rooms it must, by a margin. Fifty rooms
    # in `python -m bench.plans_beside_rules`
    rng = np.random.default_rng(0)
    lacks: dict[str, list[float]] = {"plan": [], "rule": [], "chance": []}
    for seed in range(3):
        found = plan_rule_and_chance(seed, rng)
        for name, values in lacks.items():
            values.append(found[name])
    mean = {name: float(np.mean(values)) for name, values in lacks.items()}
    assert mean["plan"] < mean["rule"] - 0.02
    assert mean["plan"] < mean["chance"] - 0.02


@pytest.mark.parametrize(
    ("key", "published"), [("panel", None), ("foam-25", (0.09, 0.19, 0.33)), ("membrane", None), ("trap", None)]
)
def test_pieces_swallow_what_their_layers_do(key, published):
    piece = pieces()[key]
    alpha = piece.material.absorption
    assert np.all((alpha >= 0) & (alpha <= 1.2))
    if published is not None:
        # measured on foam of 25 mm: 125, 250 and 500 Hz
        np.testing.assert_allclose(alpha[1:4], published, atol=0.09)
    if key == "trap":
        assert alpha[1] > 2 * pieces()["panel-50"].material.absorption[1]


@pytest.mark.parametrize("note_hz", [60.0, 90.0, 130.0])
def test_a_board_is_tuned_to_its_note(note_hz):
    board = membrane_for(note_hz)
    assert board.resonance_hz(air=Air()) == pytest.approx(note_hz, rel=0.01)
    assert octave_absorption(board, air=Air())[1].max() > 0.4


def test_the_shelf_tells_the_boards_own_note():
    made = pieces()["membrane"].material.absorber
    assert f" {made.resonance_hz(air=Air()):.0f} Hz" in PIECE_WORDS["membrane"]
