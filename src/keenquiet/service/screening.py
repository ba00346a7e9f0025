"""Screens that could be set up here, each judged by the whole forecast with it, best first."""

from keenquiet.advice.screens import SCREEN_CAUTIONS, SCREEN_NAMES, screen_words
from keenquiet.core.errors import InputError
from keenquiet.core.judge.screen_places import SORTS, Sort, fits, uprights
from keenquiet.core.judge.screen_worth import screen_worths
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.core.waves.reverberant import place_bounce_db
from keenquiet.core.waves.statistics import decay
from keenquiet.documents.convert import scenario_of
from keenquiet.documents.edits import PutScreenDoc, edited
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import AbsorberDoc, ArrangementDoc, RoomDoc, ScreenDoc
from keenquiet.service.answers.placing import ScreenChoice, ScreensAnswer
from keenquiet.service.predict import acoustics_of


def screens_answer(room: RoomDoc, arrangement_id: str | None = None) -> ScreensAnswer:
    """Every sort that fits, best first; those that do not fit are left out and named."""
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    now_db = place_bounce_db(acoustics.room, scenario.arrangement, decay=acoustics.decay)
    frame = Frame.of(room)
    choices, lacking = [], []
    voice = scenario.arrangement.performer.source.key in FROM_THE_MOUTH
    for sort in (sort for sort in SORTS if voice or sort.key != "head-box"):
        edits = [PutScreenDoc(screen=screen) for screen in _docs(sort, room, doc, frame)]
        try:
            choices.append(_choice(sort, edits, room, doc, now_db))
        except InputError:
            lacking.append(SCREEN_NAMES[sort.key])
    choices.sort(key=lambda choice: -choice.bounce_db)
    return ScreensAnswer(choices=choices, no_room_for=lacking)


def _docs(sort: Sort, room: RoomDoc, doc: ArrangementDoc, frame: Frame) -> list[ScreenDoc]:
    scenario, _ = acoustics_of(room, doc)
    x0, y0 = frame.offset
    made_of = sort.layer
    layer = AbsorberDoc(thickness_m=made_of.thickness_m, flow_resistivity=made_of.flow_resistivity, gap_m=made_of.gap_m)
    return [
        ScreenDoc(
            kind=sort.key,
            at=(round(u.at[0] + x0, 3), round(u.at[1] + y0, 3), round(u.at[2], 3)),
            faces_deg=u.faces_deg,
            width_m=u.width_m,
            height_m=u.height_m,
            absorber=layer,
        )
        for u in uprights(sort, scenario.arrangement)
    ]


def _choice(sort: Sort, edits: list[PutScreenDoc], room: RoomDoc, doc: ArrangementDoc, now_db: float) -> ScreenChoice:
    """Raises InputError where it would stand in a wall."""
    after = edited(room, doc, list(edits))
    scenario = scenario_of(room, after)
    described = scenario.described
    if not fits(described, scenario.arrangement.screens):
        raise InputError("screens", "it does not fit under the ceiling.", "Choose a lower one.")
    bounce_db = place_bounce_db(described, scenario.arrangement, decay=decay(described))
    worths = screen_worths(described, scenario.arrangement, bounce_db=bounce_db)[-len(edits) :]
    bounce = bounce_db - now_db
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
