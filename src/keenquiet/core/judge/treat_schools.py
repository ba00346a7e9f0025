"""Two schools of what to hang, both computed in this room: foam or thick, corners or returns first, the room or the
microphone's surroundings, what a duvet can do where, egg cartons or nothing.

Each side is a set of candidates or pieces judged as plans are (`plans.lacking`); what costs the same is bought for the
same money.
"""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Final

import numpy as np

from keenquiet.core.edits import Hang, PutScreen, applied
from keenquiet.core.errors import InputError
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.carried_out import surroundings
from keenquiet.core.judge.forecast import Acoustics, Forecast, forecast
from keenquiet.core.judge.going_together import go_together
from keenquiet.core.judge.plans import lacking
from keenquiet.core.judge.schools import School
from keenquiet.core.judge.screen_places import fits, screens_of, sort_named
from keenquiet.core.judge.soft import reflection_panels, traps
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.pieces import Piece, pieces

CLOSE_CALL: Final = 0.05
_SHOWN: Final = 6  # panels that are looked at for each side
_AREA_PANELS: Final = 4  # covered with egg cartons
_MOST_PANELS: Final = 24
_PRICE: Final = 50.0  # of a thick panel that the prices do not name


def treat_schools(
    scenario: Scenario, acoustics: Acoustics, wanted: Wanted, prices: Mapping[str, float], *, budget: float = 0.0
) -> list[School]:
    """Every quarrel about treatment that this room can settle. prices : of pieces by their key, in one currency.

    budget : what either side may spend, at least one of its dearer pieces; 0 what two of them cost.
    """
    now = forecast(acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)
    bench = _Bench(scenario, acoustics, wanted, now)
    panels = [one for one in reflection_panels(scenario, now, Limits()) if one.piece == "panel"]
    panels = _apart(panels, bench)
    found: list[School] = []
    if panels:
        # thin foam over much or thick wool in few places; more frames of 5 cm or fewer of 15 cm
        found.append(_for_money(bench, "foam", panels, prices, budget, foam="foam-25", thick="panel"))
        found.append(_for_money(bench, "thickness", panels, prices, budget, thin="panel-50", thick="panel-150"))
    corners = list(traps(scenario, now))
    if panels and corners:
        best = max(corners[:: max(len(corners) // _SHOWN, 1)], key=bench.gain)
        found.append(_school("first", bench, {"corners": [best], "returns": panels[:1]}))
    found += _room_or_screen(bench, panels)
    found += _duvets(bench)
    if panels:
        found += _cartons(bench, panels[:_AREA_PANELS])
    return found


class _Bench:
    """What sets of things win here."""

    def __init__(self, scenario: Scenario, acoustics: Acoustics, wanted: Wanted, now: Forecast) -> None:
        self.scenario, self.acoustics, self.wanted, self.now = scenario, acoustics, wanted, now
        self.lacks = lacking(now, wanted)

    def after(self, candidates: Iterable[Candidate]) -> Forecast | None:
        """The forecast with all of them, None where they cannot be."""
        try:
            done = applied([edit for one in candidates for edit in one.edits], self.scenario)
            done.room.check_treatments(done.arrangement)
            room = done.described
        except InputError:
            return None
        around = surroundings(self.acoustics, room, solved=False)
        return forecast(around, done.arrangement, hour=done.hour, uncertainty=False)

    def gain(self, candidate: Candidate) -> float:
        """What one wins of what is lacking."""
        after = self.after([candidate])
        return -np.inf if after is None else self.lacks - lacking(after, self.wanted)

    def facts(self, candidates: Iterable[Candidate]) -> dict[str, float] | None:
        """Figures of a side, None where it cannot be."""
        after = self.after(candidates)
        if after is None:
            return None
        middle = after.decay.middle_s
        return {
            "bounce_db": after.bounce.direct_over_room_db.value - self.now.bounce.direct_over_room_db.value,
            "ring_s": after.boom.ring_s.value - self.now.boom.ring_s.value,
            "treble": float(middle[6] / middle[3]),
            "gain": self.lacks - lacking(after, self.wanted),
        }


def _apart(panels: list[Candidate], bench: _Bench) -> list[Candidate]:
    """Places for panels that do not overlap: the best of a few all over the walls first, then what room is left."""
    few = sorted(panels[:: max(len(panels) // _MOST_PANELS, 1)], key=bench.gain, reverse=True)
    chosen: list[Candidate] = []
    for panel in (*few, *panels):
        if len(chosen) < _MOST_PANELS and all(go_together(panel, other) for other in chosen):
            chosen.append(panel)
    return chosen


def _made_of(panel: Candidate, piece: Piece) -> Candidate:
    edits = tuple(
        replace(edit, overlay=replace(edit.overlay, material=piece.material)) if isinstance(edit, Hang) else edit
        for edit in panel.edits
    )
    return replace(panel, edits=edits, piece=piece.key)


def _school(key: str, bench: _Bench, sides: Mapping[str, Iterable[Candidate]]) -> School:
    facts = {side: found for side, chosen in sides.items() if (found := bench.facts(chosen)) is not None}
    order = sorted(facts, key=lambda side: -facts[side]["gain"])
    close = len(order) < 2 or facts[order[0]]["gain"] - facts[order[1]]["gain"] < CLOSE_CALL
    return School(key, tuple(facts), None if close else order[0], facts)


def _for_money(
    bench: _Bench, school: str, panels: list[Candidate], prices: Mapping[str, float], budget: float, **sides: str
) -> School:
    """A school whose sides are pieces, each as many as the money buys and the walls hold."""
    dearest = max(prices.get(key, _PRICE) for key in sides.values())
    money = max(budget, dearest) if budget else 2 * dearest
    made = {}
    for side, key in sides.items():
        count = max(int(money // max(prices.get(key, _PRICE), 1.0)), 1)
        made[side] = [_made_of(panel, pieces()[key]) for panel in panels[:count]]
    found = _school(school, bench, made)
    bought = {
        side: {
            "pieces": float(len(made[side])),
            "spent": len(made[side]) * prices.get(key, _PRICE),
            "kg": len(made[side]) * pieces()[key].kg,
        }
        for side, key in sides.items()
    }
    return replace(found, facts={side: {**facts, **bought[side]} for side, facts in found.facts.items()})


def _screen(bench: _Bench, key: str) -> Candidate | None:
    screens = screens_of(sort_named(key), bench.scenario.arrangement)
    if not fits(bench.scenario.room, screens):
        return None
    return Candidate("screen", tuple(PutScreen(screen) for screen in screens), f"screen-{key}")


def _room_or_screen(bench: _Bench, panels: list[Candidate]) -> list[School]:
    """Two panels on the walls, or foam round the microphone for about as much."""
    arc = _screen(bench, "desk-arc")
    if arc is None or len(panels) < 2:
        return []
    return [_school("around", bench, {"room": panels[:2], "screen": [arc]})]


def _duvets(bench: _Bench) -> list[School]:
    """A box round the head, a duvet on a T of stands, or a booth of duvets."""
    sides = {
        side: [one]
        for side, key in (("box", "head-box"), ("t", "duvet-on-t"), ("booth", "booth"))
        if (one := _screen(bench, key)) is not None
    }
    return [_school("duvets", bench, sides)] if len(sides) > 1 else []


def _cartons(bench: _Bench, panels: list[Candidate]) -> list[School]:
    """Egg cartons over four panels' area, or nothing."""
    cartons = [_made_of(panel, pieces()["egg-cartons"]) for panel in panels]
    return [_school("cartons", bench, {"cartons": cartons, "nothing": []})]
