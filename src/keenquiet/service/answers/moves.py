"""Next moves as answers."""

from collections.abc import Mapping
from typing import Final

from keenquiet.documents.edits import EditDoc
from keenquiet.documents.schema import ArrangementDoc
from keenquiet.service.answers.numbers import Answer, Num

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
