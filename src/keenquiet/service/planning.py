"""Plans for a document: nothing spent, some of the budget, all of it; each as moves one after the other."""

from collections.abc import Callable, Sequence
from typing import Final

import numpy as np

from keenquiet.advice.moves import shortfall_words
from keenquiet.advice.plans import first_words, gain_words, knee_words, note_words_of, plan_name
from keenquiet.core.edits import applied
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import Forecast, forecast
from keenquiet.core.judge.moves import shortfalls
from keenquiet.core.judge.plans import Plan, Rules, plans
from keenquiet.core.judge.which_place import character
from keenquiet.documents.convert import check_document
from keenquiet.documents.edits import EditDoc, edited
from keenquiet.documents.frame import Frame
from keenquiet.documents.scene import scene_of
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.marks import Marks, marks_of, wanted_of
from keenquiet.service.answers.plans import PlanAnswer, PlannedMove, PlanSheet
from keenquiet.service.known import known_of
from keenquiet.service.making import cost_of
from keenquiet.service.predict import acoustics_of, find_modes, limits_of, move_answer, prices_of
from keenquiet.service.standing import Kept, Standing

SORTS: Final = {
    "places": frozenset({"turn", "place", "distance", "wardrobe", "open-door", "microphone"}),
    "panels": frozenset({"soft-behind", "reflection", "trap", "take-down"}),
    "screens": frozenset({"screen"}),
    "quiet": frozenset({"silence", "hour", "together", "seal"}),
}
MARKS: Final = ("bounce", "boom", "hush", "touch")
MODEST: Final = 0.4  # of the budget
_IGNORED: Final = 0.1  # what a mark counts that does not matter to the user: never nothing


def plan_for(
    room: RoomDoc,
    arrangement_id: str | None = None,
    *,
    budget: float | None = None,
    only: str | None = None,
    locked: Sequence[EditDoc] = (),
    locked_cost: float = 0.0,
    keep_free: Sequence[str] = (),
    reversible: bool = False,
    marks: Sequence[str] = (),
    quick: bool = False,
    rows: tuple[Kept, ...] = (),
    report: Callable[[float], None] | None = None,
) -> PlanAnswer:
    """Contract of `plan`. locked : what stays as it was chosen; keep_free : surfaces on which nothing is hung; marks :
    those that matter, all when none is named; rows : usable readings of the room, which the marks start from. Raises
    InputError for what is unknown, negative or cannot stand.
    """
    doc = room.arrangement_doc(arrangement_id)
    rules = _rules(room, only=only, keep_free=keep_free, reversible=reversible, marks=marks)
    money = room.brief.budget if budget is None else budget
    if money < 0:
        raise InputError("budget", f"{money:g} cannot be spent.", "Give 0 or more.")
    if report is not None:
        find_modes(room, lambda share: report(0.2 * share))
    start = _with_locked(room, doc, locked)
    scenario, _ = acoustics_of(room, start)
    limits, wanted = limits_of(room), wanted_of(room)
    left = max(money - locked_cost, 0.0)
    budgets = (left,) if quick else tuple(dict.fromkeys((0.0, round(MODEST * left, 2), left)))
    found = plans(
        scenario,
        wanted=wanted,
        limits=limits,
        costs=prices_of(room),
        budgets=budgets,
        rules=rules,
        quick=quick,
        report=None if report is None else lambda share: report(0.2 + 0.8 * share),
    )

    def marks_at(doc: ArrangementDoc, result: Forecast) -> Marks:
        known = known_of(Standing(rows, scene_of(room, doc)), room, result) if rows else None
        return marks_of(result, wanted, known)

    sheets = [_sheet(plan, number, len(found), room, start, marks_at) for number, plan in enumerate(found)]
    best, told = found[-1], sheets[-1]
    before = forecast(best.before.acoustics, best.before.arrangement, hour=scenario.hour)
    return PlanAnswer(
        before=marks_at(start, before),
        after=told.after,
        moves=told.moves,
        short=[shortfall_words(short) for short in shortfalls(best.after, (), wanted)],
        spent=told.spent + locked_cost,
        arrangement=told.arrangement,
        plans=sheets,
        first=first_words(best.alone),
        alone={kind: gain for kind, gain in best.alone.items() if np.isfinite(gain)},
        quick=quick,
    )


def _rules(
    room: RoomDoc, *, only: str | None, keep_free: Sequence[str], reversible: bool, marks: Sequence[str]
) -> Rules:
    if only is not None and only not in SORTS:
        raise InputError("only", f"{only!r} is no sort of moves.", f"Use one of {', '.join(SORTS)}.")
    unknown = next((mark for mark in marks if mark not in MARKS), None)
    if unknown is not None:
        raise InputError("marks", f"{unknown!r} is no mark.", f"Use some of {', '.join(MARKS)}.")
    frame = Frame.of(room)
    return Rules(
        weights={mark: _IGNORED for mark in MARKS if marks and mark not in marks},
        keep_free=frozenset(frame.face(name, field="keep_free") for name in keep_free),
        reversible=reversible,
        only=None if only is None else SORTS[only],
    )


def _with_locked(room: RoomDoc, doc: ArrangementDoc, locked: Sequence[EditDoc]) -> ArrangementDoc:
    """The arrangement with what is locked already done. Raises InputError where it cannot stand together."""
    if not locked:
        return doc
    scenario, _ = acoustics_of(room, doc)
    frame = Frame.of(room)
    try:
        applied([edit.core(frame) for edit in locked], scenario)
        start = edited(room, doc, list(locked))
        check_document(room.model_copy(update={"arrangements": [start]}))
    except InputError as exc:
        cure = "Unlock one of them, or move it: they cannot stand together any more."
        raise InputError("locked", f"{exc.field}: {exc.reason}", cure) from exc
    return start


def _sheet(
    plan: Plan,
    number: int,
    count: int,
    room: RoomDoc,
    start: ArrangementDoc,
    marks_at: Callable[[ArrangementDoc, Forecast], Marks],
) -> PlanSheet:
    limits = limits_of(room)
    scenario, _ = acoustics_of(room, start)
    moves: list[PlannedMove] = []
    costs = [cost_of(room, scenario)]
    doc = start
    for move, lacks in zip(plan.moves, plan.lacks[1:], strict=True):
        answer = move_answer(move, scenario, room, doc, limits)
        # one after the other, as bought together: boards and cloth are shared, so that the sum is what Make it says
        costs.append(cost_of(room, move.scenario))
        planned = {**answer.model_dump(), "cost": costs[-1] - costs[-2]}
        moves.append(PlannedMove(**planned, gain=move.benefit, lacks=lacks))
        doc, scenario = answer.arrangement, move.scenario
    after = forecast(plan.after.acoustics, plan.after.arrangement, hour=scenario.hour)
    notes = note_words_of(plan.dull, character(after) if plan.moves else ())
    louder_db = 20 * float(np.log10(plan.before.touch.distance_m / after.touch.distance_m))
    notes += gain_words(louder_db)
    return PlanSheet(
        name=plan_name(number, count),
        budget=plan.budget,
        spent=costs[-1] - costs[0],
        minutes=sum(move.minutes for move in moves),
        moves=moves,
        lacks_before=plan.lacks[0],
        after=marks_at(doc, after),
        knee=plan.knee,
        knee_words=knee_words(plan.knee, [move.cost for move in moves], room.brief.currency),
        notes=notes,
        arrangement=doc,
    )
