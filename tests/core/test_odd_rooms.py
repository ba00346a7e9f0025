"""Advice for twenty-six places from closet to hall, judged as an experienced engineer would (`odd_rooms.py`)."""

import pytest

from keenquiet.advice.costs import PriceList
from keenquiet.advice.moves import move_words
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.forecast import Acoustics, deficits, forecast
from keenquiet.core.judge.moves import next_moves, shortfalls
from keenquiet.core.judge.plans import plans
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.documents.convert import read_room, scenario_of

from .odd_rooms import PLACES


@pytest.mark.parametrize("place", PLACES, ids=lambda place: place.name)
def test_what_is_offered_is_what_an_engineer_would_sign(place):
    document = read_room(place.document)
    scenario = scenario_of(document, document.arrangements[0])
    brief, wanted = document.brief, PURPOSES[document.brief.purpose]
    limits = Limits(brief.budget, brief.may_drill, brief.has_duvet)
    moves = next_moves(scenario, wanted=wanted, limits=limits, costs=PriceList())
    words = [move_words(move.candidate, scenario, move.scenario, limits) for move in moves]
    titles = [title for title, _ in words]

    for part in place.first:
        assert part in titles[0], titles
    for parts in place.must:
        assert any(part in title for part in parts for title in titles), (parts, titles)
    for part in place.must_not:
        assert not any(part in title or part in why for title, why in words), (part, words)

    now = forecast(Acoustics(scenario.described), scenario.arrangement, hour=scenario.hour)
    lacks = deficits(now, wanted)
    standing = 0
    for move in moves:
        after = deficits(move.after, wanted)
        assert sum(after.values()) < sum(lacks.values())  # nothing that worsens
        assert any(  # nothing below its own uncertainty
            abs(effect.value) >= effect.plus_minus and after[mark] < lacks[mark]
            for mark, effect in move.effects.items()
        )
        standing += move.scenario.arrangement.performer.at != scenario.arrangement.performer.at or (
            move.scenario.arrangement.performer.faces_deg != scenario.arrangement.performer.faces_deg
        )
        if move.candidate.kind not in ("distance", "turn", "place", "wardrobe"):  # and nothing moves unsaid
            assert move.scenario.arrangement.microphone == scenario.arrangement.microphone
        assert move.cost.price <= brief.budget
    assert standing <= 1  # one place to stand, not two

    short = {found.lack: found for found in shortfalls(now, moves, wanted)}
    assert bool(place.short) == ("hush" in short), short
    if place.short:
        # what is missing: wanted less what there is and what nearer brings, by hand from the levels at the microphone
        assert short["hush"].by > 15
        assert short["hush"].leading == scenario.room.noises[0].name


def test_more_money_never_leaves_more_lacking():
    # the dearer set of this one lost two moves that were not sure, and was worth less than the cheaper
    place = next(place for place in PLACES if place.name == "Bedroom without a noise noted, voice")
    document = read_room(place.document)
    scenario = scenario_of(document, document.arrangements[0])
    found = plans(
        scenario, wanted=PURPOSES["dry-voice"], limits=Limits(budget=300), costs=PriceList(), budgets=(0.0, 50.0, 300.0)
    )
    lacks = [plan.lacks[-1] for plan in found]
    assert lacks == sorted(lacks, reverse=True)
    assert all(plan.spent <= plan.budget for plan in found)
