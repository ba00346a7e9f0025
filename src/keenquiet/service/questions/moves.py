"""Ranked next moves for one arrangement of a document."""

from collections.abc import Mapping
from typing import Final

from keenquiet.advice.costs import CAUTIONS
from keenquiet.advice.moves import move_words, shortfall_words
from keenquiet.core.judge.moves import Move, next_moves, shortfalls
from keenquiet.core.scenario import Scenario
from keenquiet.documents.edits import EditDoc, edited
from keenquiet.documents.schema import ArrangementDoc
from keenquiet.service.answers.numbers import Answer, Num
from keenquiet.service.case import Case
from keenquiet.service.predict import find_modes
from keenquiet.service.questions.base import ArrangementAsk, Question

UNITS: Final[Mapping[str, str]] = {"bounce": "dB", "boom": "s", "hush": "dB", "touch": "dB"}


class Effect(Answer):
    change: Num
    plus_minus: Num
    unit: str


class MoveAnswer(Answer):
    """One move: what it changes, what it costs, its single steps and the arrangement that they lead to."""

    kind: str
    title: str
    why: str
    effects: dict[str, Effect]
    cost: Num
    minutes: int
    reversible: bool
    cautions: list[str]
    edits: list[EditDoc]
    arrangement: ArrangementDoc


class MovesAnswer(Answer):
    """Ranked moves, and what stays missing whatever of them is done, in words."""

    moves: list[MoveAnswer]
    short: list[str]


def moves(case: Case, asked: ArrangementAsk) -> MovesAnswer:
    """Ranked next moves, each with its edits and the arrangement that they lead to, and what stays missing."""
    find_modes(case.room, case.report, upto=0.1)
    found = next_moves(case.scenario, wanted=case.wanted, limits=case.limits, costs=case.prices, report=case.report)
    return MovesAnswer(
        moves=[move_answer(move, case.scenario, case, case.doc) for move in found],
        short=[shortfall_words(short) for short in shortfalls(case.now, found, case.wanted)],
    )


def move_answer(move: Move, before: Scenario, case: Case, doc: ArrangementDoc) -> MoveAnswer:
    """A move in words and edits, from the scenario and the arrangement that stand before it."""
    changes = {mark: effect.value for mark, effect in move.effects.items()}
    title, why = move_words(move.candidate, before, move.scenario, case.limits, changes=changes)
    edits = case.steps(move.candidate.edits)
    return MoveAnswer(
        kind=move.candidate.kind,
        title=title,
        why=why,
        effects={
            mark: Effect(change=effect.value, plus_minus=effect.plus_minus, unit=UNITS[mark])
            for mark, effect in move.effects.items()
        },
        cost=move.cost.price,
        minutes=move.cost.minutes,
        reversible=move.cost.reversible,
        cautions=[CAUTIONS[key] for key in move.cost.cautions],
        edits=edits,
        arrangement=edited(case.room, doc, edits),
    )


MOVES = Question("moves", ArrangementAsk, MovesAnswer, moves, work="job", what="Looking for next moves")
