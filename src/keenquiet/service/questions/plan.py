"""Plans for a document: nothing spent, some of the budget, all of it; each as moves one after the other."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Annotated, Final

import numpy as np
from pydantic import Field

from keenquiet.advice.moves import shortfall_words
from keenquiet.advice.plans import first_words, gain_words, knee_words, note_words_of, plan_name
from keenquiet.core.edits import applied
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import Forecast, forecast
from keenquiet.core.judge.move_kinds import MOVE_KINDS
from keenquiet.core.judge.moves import shortfalls
from keenquiet.core.judge.plans import Plan, Rules, plans
from keenquiet.core.judge.which_place import character
from keenquiet.documents.convert import check_document
from keenquiet.documents.edits import EditDoc, edited
from keenquiet.documents.scene import scene_of
from keenquiet.documents.schema import ArrangementDoc
from keenquiet.service.answers.marks import MARKS, Marks, marks_of
from keenquiet.service.answers.numbers import Answer, Num
from keenquiet.service.case import Case
from keenquiet.service.known import known_of
from keenquiet.service.predict import find_modes
from keenquiet.service.questions.base import ArrangementAsk, Question
from keenquiet.service.questions.make import cost_of
from keenquiet.service.questions.moves import MoveAnswer, move_answer
from keenquiet.service.standing import Standing

SORTS: Final = tuple(dict.fromkeys(kind.sort for kind in MOVE_KINDS.values()))
MODEST: Final = 0.4  # of the budget
_IGNORED: Final = 0.1  # what a mark counts that does not matter to the user: never nothing
_MODES_SHARE: Final = 0.2  # of the work


class PlanAsk(ArrangementAsk):
    """budget : of the brief when null. locked : edits of moves that stay as they were chosen, locked_cost what they
    cost. keep_free : surfaces on which nothing is hung. marks : those that matter, all when none is named. quick : a
    first answer from few pieces.
    """

    budget: Annotated[float, Field(ge=-1e6, le=100_000)] | None = None
    only: Annotated[str, Field(max_length=20)] | None = None
    locked: Annotated[list[EditDoc], Field(max_length=60)] = []
    locked_cost: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    keep_free: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=60)] = []
    reversible: bool = False
    marks: Annotated[list[Annotated[str, Field(max_length=10)]], Field(max_length=4)] = []
    quick: bool = False


class PlannedMove(MoveAnswer):
    """A move of a plan. gain : of what is lacking, after the moves above it; lacks : what is still lacking then."""

    gain: Num
    lacks: Num


class PlanSheet(Answer):
    """One plan in the order in which to do it. knee : after so many moves money buys little. notes : what it does to
    the room's sound beside the marks.
    """

    name: str
    budget: Num
    spent: Num
    minutes: int
    moves: list[PlannedMove]
    lacks_before: Num
    after: Marks
    knee: int | None
    knee_words: str
    notes: list[str]
    arrangement: ArrangementDoc


class PlanAnswer(Answer):
    """Contract of `plan`: before, after, moves and arrangement are those of the last of `plans`, which spends most.

    first : bass or reflections first, in words; alone : what the best single move of each kind wins. quick : a first
    answer from few pieces.
    """

    before: Marks
    after: Marks
    moves: list[PlannedMove]
    short: list[str]
    spent: Num
    arrangement: ArrangementDoc
    plans: list[PlanSheet]
    first: str
    alone: dict[str, Num]
    quick: bool


def plan(case: Case, asked: PlanAsk) -> PlanAnswer:
    """Sets of moves within a budget: nothing spent, some of it, all of it, each in its order.

    Raises InputError for what is unknown, negative or cannot stand.
    """
    room, wanted, report = case.room, case.wanted, case.report
    rules = _rules(case, asked)
    money = room.brief.budget if asked.budget is None else asked.budget
    if money < 0:
        raise InputError("budget", f"{money:g} cannot be spent.", "Give 0 or more.")
    find_modes(room, report, upto=_MODES_SHARE)
    start = _with_locked(case, asked.locked)
    left = max(money - asked.locked_cost, 0.0)
    found = plans(
        start.scenario,
        wanted=wanted,
        limits=case.limits,
        costs=case.prices,
        budgets=(left,) if asked.quick else tuple(dict.fromkeys((0.0, round(MODEST * left, 2), left))),
        rules=rules,
        quick=asked.quick,
        report=None if report is None else lambda share: report(_MODES_SHARE + (1 - _MODES_SHARE) * share),
    )

    def marks_at(doc: ArrangementDoc, result: Forecast) -> Marks:
        rows = case.rows
        known = known_of(Standing(rows, scene_of(room, doc)), room, result) if rows else None
        return marks_of(result, wanted, known)

    sheets = [_sheet(plan, number, len(found), start, marks_at) for number, plan in enumerate(found)]
    best, told = found[-1], sheets[-1]
    before = forecast(best.before.acoustics, best.before.arrangement, hour=start.scenario.hour)
    return PlanAnswer(
        before=marks_at(start.doc, before),
        after=told.after,
        moves=told.moves,
        short=[
            shortfall_words(replace(short, money=best.dearer))
            for short in shortfalls(best.after, (), wanted, done=best.moves)
        ],
        spent=told.spent + asked.locked_cost,
        arrangement=told.arrangement,
        plans=sheets,
        first=first_words(best.alone),
        alone={kind: gain for kind, gain in best.alone.items() if np.isfinite(gain)},
        quick=asked.quick,
    )


def _rules(case: Case, asked: PlanAsk) -> Rules:
    if asked.only is not None and asked.only not in SORTS:
        raise InputError("only", f"{asked.only!r} is no sort of moves.", f"Use one of {', '.join(SORTS)}.")
    unknown = next((mark for mark in asked.marks if mark not in MARKS), None)
    if unknown is not None:
        raise InputError("marks", f"{unknown!r} is no mark.", f"Use some of {', '.join(MARKS)}.")
    return Rules(
        weights={mark: _IGNORED for mark in MARKS if asked.marks and mark not in asked.marks},
        keep_free=frozenset(case.frame.face(name, field="keep_free") for name in asked.keep_free),
        reversible=asked.reversible,
        only=None
        if asked.only is None
        else frozenset(key for key, kind in MOVE_KINDS.items() if kind.sort == asked.only),
    )


def _with_locked(case: Case, locked: Sequence[EditDoc]) -> Case:
    """The arrangement with what is locked already done. Raises InputError where it cannot stand together."""
    if not locked:
        return case
    try:
        applied([edit.core(case.frame) for edit in locked], case.scenario)
        start = case.room.model_copy(update={"arrangements": [edited(case.room, case.doc, list(locked))]})
        check_document(start)
    except InputError as exc:
        cure = "Unlock one of them, or move it: they cannot stand together any more."
        raise InputError("locked", f"{exc.field}: {exc.reason}", cure) from exc
    return Case(start)


def _sheet(
    plan: Plan, number: int, count: int, case: Case, marks_at: Callable[[ArrangementDoc, Forecast], Marks]
) -> PlanSheet:
    room, scenario, doc = case.room, case.scenario, case.doc
    moves: list[PlannedMove] = []
    costs = [cost_of(room, scenario)]
    for move, lacks in zip(plan.moves, plan.lacks[1:], strict=True):
        answer = move_answer(move, scenario, case, doc)
        # one after the other, as bought together: boards and cloth are shared, so that the sum is what Make it says
        costs.append(cost_of(room, move.scenario))
        moves.append(PlannedMove.out_of(answer, cost=costs[-1] - costs[-2], gain=move.benefit, lacks=lacks))
        doc, scenario = answer.arrangement, move.scenario
    after = forecast(plan.after.acoustics, plan.after.arrangement, hour=scenario.hour)
    notes = note_words_of(
        plan.dull, character(after) if plan.moves else (), [move.candidate.piece or "" for move in plan.moves]
    )
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


PLAN = Question("plan", PlanAsk, PlanAnswer, plan, work="job", what="Making plans")
