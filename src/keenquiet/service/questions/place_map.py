"""Where to stand: how good every free spot of the floor is."""

from typing import Annotated, Literal

from pydantic import Field

from keenquiet.advice.placing import map_sentence, spot_reasons
from keenquiet.core.errors import InputError
from keenquiet.core.judge.places import placing
from keenquiet.core.judge.spots import lifted, place_map
from keenquiet.documents.edits import EditDoc
from keenquiet.service.answers.numbers import Answer, Grid, Num, Numbers, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question

_UNITS = {"bounce": "dB", "boom": "s", "hush": "dB", "all": "lacking"}


class MapAsk(ArrangementAsk):
    """mark : `bounce`, `boom`, `hush` or `all`. height_m : of the mouth. step_m : of the grid."""

    mark: Annotated[str, Field(max_length=20)] = "all"
    height_m: Annotated[float, Field(gt=0, lt=30)] | None = None
    step_m: Annotated[float, Field(ge=0.05, le=1)] = 0.1


class BestSpot(Answer):
    """One of the best places: where, which way, why, and the edits that lead there."""

    at: tuple[Num, Num]
    faces_deg: Num
    bounce_db: Num
    boom_s: Num
    hush_db: NumOrNone
    reasons: list[str]
    edits: list[EditDoc]


class MapAnswer(Answer):
    """Contract of `map`. value : (ny, nx), null where nobody can stand; faces_deg alike. better : which way is better.

    clear_m : how far everybody stays off the walls. sentence : the map in words.
    """

    mark: str
    unit: str
    better: Literal["more", "less"]
    x_m: Numbers
    y_m: Numbers
    value: Grid
    faces_deg: Grid
    best: list[BestSpot]
    here: NumOrNone
    step_m: Num
    clear_m: Num
    sentence: str
    flags: list[str]


def map_of_places(case: Case, asked: MapAsk) -> MapAnswer:
    """How good every free spot of the floor is, and the best three."""
    scenario, mark, height_m = case.scenario, asked.mark, asked.height_m
    if height_m is not None and not 0.3 <= height_m < scenario.room.shape.highest_m:
        raise InputError("height", f"nobody's mouth is at {height_m:.2f} m here.", "Between 0.3 m and the ceiling.")
    stand = lifted(scenario.arrangement, height_m)
    found = place_map(case.acoustics, stand, case.wanted, mark=mark, step_m=asked.step_m, hour=scenario.hour)
    now, (x0, y0) = found.now, case.frame.offset
    best = [
        BestSpot(
            at=(spot.arrangement.performer.at[0] + x0, spot.arrangement.performer.at[1] + y0),
            faces_deg=spot.arrangement.performer.faces_deg,
            bounce_db=spot.result.bounce.direct_over_room_db.value,
            boom_s=spot.result.boom.ring_s.value,
            hush_db=spot.result.hush.under_performance_db.value if now.hush.known else None,
            reasons=spot_reasons(spot, now),
            edits=case.steps(placing(spot.arrangement)),
        )
        for spot in found.best
    ]
    return MapAnswer.out_of(
        found,
        mark=mark,
        unit=_UNITS[mark],
        better="less" if mark in ("boom", "all") else "more",
        x_m=found.x_m + x0,
        y_m=found.y_m + y0,
        best=best,
        sentence=map_sentence(found.best, found.lacks_now, found.clear_m),
        flags=case.flags(cable_too_short=not found.wired),
    )


MAP = Question("map", MapAsk, MapAnswer, map_of_places)
