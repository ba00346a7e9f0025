"""Screens that could be set up here, each judged by the whole forecast with it, best first."""

from keenquiet.advice.screens import SCREEN_CAUTIONS, SCREEN_NAMES, screen_words
from keenquiet.core.errors import InputError
from keenquiet.core.judge.screen_places import SORTS, Sort, fits, uprights
from keenquiet.core.judge.screen_worth import screen_worths
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.core.waves.reverberant import place_bounce_db
from keenquiet.core.waves.statistics import decay
from keenquiet.documents.convert import scenario_of
from keenquiet.documents.edits import EditDoc, PutScreenDoc, edited
from keenquiet.documents.schema import AbsorberDoc, ScreenDoc
from keenquiet.service.answers.numbers import Answer, Num
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question


class ScreenChoice(Answer):
    """A screen that could stand here. bounce_db : what it wins in direct over room, all told. cautions : what can go
    wrong with it. [dB]
    """

    kind: str
    name: str
    bounce_db: Num
    room_fed_db: Num
    gathered_db: Num
    colour_db: Num
    words: str
    cautions: list[str]
    edits: list[EditDoc]


class ScreensAnswer(Answer):
    """Best first. no_room_for : what does not fit."""

    choices: list[ScreenChoice]
    no_room_for: list[str]


def screens(case: Case, asked: ArrangementAsk) -> ScreensAnswer:
    """Screens that could be set up here, each judged by the whole forecast with it, best first; what does not fit is
    named.
    """
    now_db = place_bounce_db(case.space, case.stand, decay=case.acoustics.decay)
    choices, lacking = [], []
    voice = case.stand.performer.source.key in FROM_THE_MOUTH
    for sort in (sort for sort in SORTS if voice or sort.key != "head-box"):
        try:
            choices.append(_choice(sort, case, now_db))
        except InputError:
            lacking.append(SCREEN_NAMES[sort.key])
    choices.sort(key=lambda choice: -choice.bounce_db)
    return ScreensAnswer(choices=choices, no_room_for=lacking)


def _choice(sort: Sort, case: Case, now_db: float) -> ScreenChoice:
    """Raises InputError where it would stand in a wall."""
    layer = AbsorberDoc(
        thickness_m=sort.layer.thickness_m, flow_resistivity=sort.layer.flow_resistivity, gap_m=sort.layer.gap_m
    )
    edits = []
    for upright in uprights(sort, case.stand):
        x, y, z = (round(along, 3) for along in case.frame.document(upright.at))
        screen = ScreenDoc(
            kind=sort.key,
            at=(x, y, z),
            faces_deg=upright.faces_deg,
            width_m=upright.width_m,
            height_m=upright.height_m,
            absorber=layer,
        )
        edits.append(PutScreenDoc(screen=screen))
    scenario = scenario_of(case.room, edited(case.room, case.doc, list(edits)))
    described, stand = scenario.described, scenario.arrangement
    if not fits(described, stand.screens):
        raise InputError("screens", "it does not fit under the ceiling.", "Choose a lower one.")
    bounce_db = place_bounce_db(described, stand, decay=decay(described))
    worths = screen_worths(described, stand, bounce_db=bounce_db)[-len(edits) :]
    colour = max(worth.colour_db for worth in worths)
    return ScreenChoice(
        kind=sort.key,
        name=SCREEN_NAMES[sort.key],
        bounce_db=bounce_db - now_db,
        room_fed_db=sum(worth.room_fed_db for worth in worths),
        gathered_db=sum(worth.gathered_db for worth in worths),
        colour_db=colour,
        words=screen_words(bounce_db - now_db, colour),
        cautions=list(SCREEN_CAUTIONS.get(sort.key, ())),
        edits=list(edits),
    )


SCREENS = Question("screens", ArrangementAsk, ScreensAnswer, screens)
