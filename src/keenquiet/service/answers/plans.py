"""Plans as answers."""

from keenquiet.documents.schema import ArrangementDoc
from keenquiet.service.answers.marks import Marks
from keenquiet.service.answers.moves import MoveAnswer
from keenquiet.service.answers.numbers import Answer, Num


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
