"""Where to listen: what the chair hears of the monitors, and the best places for both."""

from dataclasses import replace
from typing import Any

import numpy as np

from keenquiet.advice.placing import listening_sentence, triangle_words
from keenquiet.advice.surfaces import surface_words
from keenquiet.advice.taping import wall_words
from keenquiet.core.edits import Place
from keenquiet.core.judge.listening import Found, best_listening, listening_place
from keenquiet.documents.edits import EditDoc
from keenquiet.service.answers.forecast import Curve, curve_answer
from keenquiet.service.answers.numbers import Answer, Num, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question

_EAR_M = 1.2  # seated


class ListeningAsk(ArrangementAsk):
    """free : the search leaves the walls' middle lines, too."""

    search: bool = False
    free: bool | None = None


class CancellationAnswer(Answer):
    monitor: int
    boundary: str
    where: str
    f_hz: Num
    depth_db: Num


class ReturnAnswer(Answer):
    monitor: int
    where: str
    delay_ms: Num
    level_db: Num


class TriangleAnswer(Answer):
    apart_m: NumOrNone
    sides_m: list[Num]
    angle_deg: NumOrNone
    toe_in_deg: list[Num]
    above_ears_m: list[Num]
    behind_m: list[Num]
    is_behind: bool
    words: list[str]


class StandsAt(Answer):
    at: tuple[Num, Num, Num]
    faces_deg: Num


class BestListening(Answer):
    """Monitors and chair along one wall."""

    wall: str
    wall_m: Num
    monitors: list[StandsAt]
    listener: StandsAt
    swing_db: Num
    early_db: Num
    symmetry_db: Num
    objective_db: Num
    edits: list[EditDoc]


class ListeningAnswer(Answer):
    """Contract of `listening`. Figures are null where no monitors or no chair stand; best : of a search, null without.

    symmetry_db : how far left and right early energy differ. walls : the best along each wall, best first.
    """

    swing_db: NumOrNone = None
    response: Curve | None = None
    cancellations: list[CancellationAnswer] = []
    early: list[ReturnAnswer] = []
    symmetry_db: NumOrNone = None
    triangle: TriangleAnswer | None = None
    objective_db: NumOrNone = None
    best: BestListening | None
    walls: list[BestListening]
    sentence: str
    flags: list[str]


def listening(case: Case, asked: ListeningAsk) -> ListeningAnswer:
    """What monitors and chair give, and with `search` the best places along each wall."""
    stand, space = case.stand, case.space
    place = listening_place(case.acoustics, stand)
    searched = asked.search or bool(asked.free)
    ear_m = stand.chair.at[2] if stand.chair else _EAR_M
    found = best_listening(case.acoustics, ear_m=ear_m, free=bool(asked.free)) if searched else []
    walls = [_best(best, case) for best in found]
    sentence = listening_sentence(place, found[0] if found else None, walls[0].wall if walls else "", searched=searched)
    told: dict[str, Any] = {"best": walls[0] if walls else None, "walls": walls, "sentence": sentence}
    if place is None:
        return ListeningAnswer(**told, flags=["no_monitors" if not stand.monitors else "no_chair"])
    facing = stand.chair.faces_deg if stand.chair else stand.performer.faces_deg
    seated = replace(stand, performer=replace(stand.performer, faces_deg=facing))
    return ListeningAnswer.out_of(
        place,
        response=curve_answer(place.f_hz, place.response_db, place.f_hz[-1]),
        cancellations=[
            CancellationAnswer.out_of(
                one,
                monitor=one.monitor + 1,
                boundary=space.surface_name(one.face),
                where=surface_words(space, one.face, seated),
            )
            for one in place.cancellations
        ],
        early=[
            ReturnAnswer.out_of(
                one, monitor=one.monitor + 1, where=surface_words(space, one.face, seated), delay_ms=one.delay_s * 1000
            )
            for one in place.early
        ],
        triangle=TriangleAnswer.out_of(place.triangle, words=triangle_words(place.triangle, space.volume_m3)),
        **told,
        flags=[],
    )


def _best(found: Found, case: Case) -> BestListening:
    def stands(one: Any) -> StandsAt:
        return StandsAt.out_of(one, at=case.frame.document(one.at))

    shape = case.space.shape
    start, end = (shape.corners[i % len(shape.plan)] for i in (found.wall, found.wall + 1))
    who = {**{f"monitor-{i}": one for i, one in enumerate(found.monitors, 1)}, "chair": found.chair}
    return BestListening.out_of(
        found,
        wall=wall_words(case.space, found.wall),
        wall_m=float(np.linalg.norm(end - start)),
        monitors=[stands(one) for one in found.monitors],
        listener=stands(found.chair),
        edits=case.steps(Place(name, one.at, one.faces_deg) for name, one in who.items()),
    )


LISTENING = Question("listening", ListeningAsk, ListeningAnswer, listening)
