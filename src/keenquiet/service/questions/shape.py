"""What follows from a shape alone: its sizes, tape readings made to agree, drawings."""

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.room.tape import Reading, squared_up
from keenquiet.documents.convert import room_of
from keenquiet.service.answers.forecast import ShapeAnswer, shape_answer
from keenquiet.service.answers.numbers import Answer, Num, Numbers, Points2
from keenquiet.service.case import Case
from keenquiet.service.questions.base import DocumentAsk, Question


class TapeResidual(Answer):
    start: int
    end: int
    length_m: Num
    residual_m: Num


class SquaredAnswer(Answer):
    plan: Points2
    rms_m: Num
    suspect: int | None
    angles_deg: Numbers
    readings: list[TapeResidual]


def shape(case: Case, asked: DocumentAsk) -> ShapeAnswer:
    """Volume, areas and faces of a document's shape."""
    return shape_answer(room_of(case.room), case.frame)


def square(case: Case, asked: DocumentAsk) -> SquaredAnswer:
    """The plan that fits the document's tape readings best, how far each is off, and which is suspect."""
    room = case.room
    readings = [Reading(r.start - 1, r.end - 1, r.length_m) for r in room.tape]
    if not readings:
        raise InputError("tape", "has no readings yet.", "Measure the walls and two diagonals.")
    plan = np.array(room.shape.plan)
    try:
        found = squared_up(plan, readings)
    except InputError as exc:
        raise InputError(f"tape.{exc.field}", exc.reason, exc.cure) from exc
    return SquaredAnswer.out_of(
        found,
        readings=[
            TapeResidual(start=r.start + 1, end=r.end + 1, length_m=r.length_m, residual_m=residual)
            for r, residual in zip(readings, found.residual_m, strict=True)
        ],
    )


SHAPE = Question("shape", DocumentAsk, ShapeAnswer, shape, work="quick", heard="not here")
SQUARE = Question("square", DocumentAsk, SquaredAnswer, square, work="quick", heard="not here")
