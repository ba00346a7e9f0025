"""Screens that could be set up here, each judged by the whole forecast with it, best first."""

from typing import Final

import numpy as np

from keenquiet.advice.screens import SCREEN_CAUTIONS, SCREEN_NAMES, screen_words
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import Forecast, forecast
from keenquiet.core.judge.screen_places import SORTS, Sort, uprights
from keenquiet.core.judge.screen_worth import screen_worths
from keenquiet.documents.edits import PutScreenDoc, edited
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import AbsorberDoc, ArrangementDoc, RoomDoc, ScreenDoc
from keenquiet.service.answers.placing import ScreenChoice, ScreensAnswer
from keenquiet.service.predict import acoustics_of

_DUVET: Final = AbsorberDoc(thickness_m=0.05, flow_resistivity=4000, gap_m=0.1)
_LAYERS: Final = {
    "desk-arc": AbsorberDoc(thickness_m=0.05, flow_resistivity=9000),
    "duvet-behind-mic": _DUVET,
    "duvet-on-t": _DUVET,
    "panel-on-feet": AbsorberDoc(thickness_m=0.1, flow_resistivity=12000),
    "mattress": AbsorberDoc(thickness_m=0.16, flow_resistivity=6000),
    "booth": _DUVET,
    "head-box": AbsorberDoc(thickness_m=0.05, flow_resistivity=9000),
}


def screens_answer(room: RoomDoc, arrangement_id: str | None = None) -> ScreensAnswer:
    """Every sort that fits, best first; those that do not fit are left out and named."""
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    now = forecast(acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)
    frame = Frame.of(room)
    choices, lacking = [], []
    for sort in SORTS:
        edits = [PutScreenDoc(screen=screen) for screen in _docs(sort, room, doc, frame)]
        try:
            choices.append(_choice(sort, edits, room, doc, now))
        except InputError:
            lacking.append(SCREEN_NAMES[sort.key])
    choices.sort(key=lambda choice: -choice.bounce_db)
    return ScreensAnswer(choices=choices, no_room_for=lacking)


def _docs(sort: Sort, room: RoomDoc, doc: ArrangementDoc, frame: Frame) -> list[ScreenDoc]:
    scenario, _ = acoustics_of(room, doc)
    x0, y0 = frame.offset
    return [
        ScreenDoc(
            kind=sort.key,
            at=(round(u.at[0] + x0, 3), round(u.at[1] + y0, 3), round(u.at[2], 3)),
            faces_deg=u.faces_deg,
            width_m=u.width_m,
            height_m=u.height_m,
            absorber=_LAYERS[sort.key],
        )
        for u in uprights(sort, scenario.arrangement)
    ]


def _choice(sort: Sort, edits: list[PutScreenDoc], room: RoomDoc, doc: ArrangementDoc, now: Forecast) -> ScreenChoice:
    """Raises InputError where it would stand in a wall."""
    after = edited(room, doc, list(edits))
    scenario, acoustics = acoustics_of(room, after)
    for screen in scenario.arrangement.screens:
        top = (*screen.at[:2], min(screen.at[2] + screen.height_m, acoustics.room.shape.highest_m) - 0.02)
        if not acoustics.room.shape.contains(np.array([top]))[0]:
            raise InputError("screens", "it does not fit under the ceiling.", "Choose a lower one.")
    result = forecast(acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)
    worths = screen_worths(result)[-len(edits) :]
    bounce = result.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value
    colour = max(worth.colour_db for worth in worths)
    return ScreenChoice(
        kind=sort.key,
        name=SCREEN_NAMES[sort.key],
        bounce_db=bounce,
        room_fed_db=sum(worth.room_fed_db for worth in worths),
        gathered_db=sum(worth.gathered_db for worth in worths),
        colour_db=colour,
        words=screen_words(bounce, colour),
        cautions=list(SCREEN_CAUTIONS.get(sort.key, ())),
        edits=list(edits),
    )
