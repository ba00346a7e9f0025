"""A plan: moves one after the other, each the best of those that remain after the ones before it, within a budget.

Greedy: it takes what gains most for effort and money first. It is no search over sets of pieces.
"""

from collections.abc import Callable, Mapping
from typing import Final

from keenquiet.core.errors import InputError
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.forecast import forecast_answer
from keenquiet.service.answers.marks import Marks
from keenquiet.service.answers.moves import MoveAnswer
from keenquiet.service.answers.numbers import Answer, Num
from keenquiet.service.predict import moves_for, predict

_SORTS: Final[Mapping[str, frozenset[str]]] = {
    "places": frozenset({"turn", "place", "distance", "wardrobe", "open-door"}),
    "panels": frozenset({"soft-behind", "reflection", "trap", "take-down"}),
    "quiet": frozenset({"silence", "hour"}),
}
_MOST_MOVES: Final = 8


class PlanAnswer(Answer):
    """Contract of `plan`. spent : in the brief's currency."""

    before: Marks
    after: Marks
    moves: list[MoveAnswer]
    short: list[str]
    spent: Num
    arrangement: ArrangementDoc


def plan_for(
    room: RoomDoc,
    arrangement_id: str | None = None,
    *,
    budget: float | None = None,
    only: str | None = None,
    report: Callable[[float], None] | None = None,
) -> PlanAnswer:
    """Moves in the order in which to do them. Raises InputError for a sort that is not known."""
    if only is not None and only not in _SORTS:
        raise InputError("only", f"{only!r} is no sort of moves.", f"Use one of {', '.join(_SORTS)}.")
    doc = room.arrangement_doc(arrangement_id)
    here = room.model_copy(update={"arrangements": [doc]})
    left = room.brief.budget if budget is None else budget
    before = forecast_answer(predict(here), here, to_hz=200).marks
    chosen: list[MoveAnswer] = []
    short: list[str] = []
    for number in range(_MOST_MOVES):
        affordable = here.model_copy(update={"brief": here.brief.model_copy(update={"budget": left})})
        answer = moves_for(affordable)
        offered, short = answer.moves, answer.short
        fitting = [move for move in offered if only is None or move.kind in _SORTS[only]]
        if not fitting:
            break
        best = fitting[0]
        chosen.append(best)
        left -= best.cost
        here = here.model_copy(update={"arrangements": [best.arrangement]})
        if report is not None:
            report((number + 1) / _MOST_MOVES)
    return PlanAnswer(
        before=before,
        after=forecast_answer(predict(here), here, to_hz=200).marks,
        moves=chosen,
        short=short,
        spent=sum(move.cost for move in chosen),
        arrangement=here.arrangements[0],
    )
