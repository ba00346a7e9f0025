"""Stands, cables, laptop, open monitors and a second source: what is in reach of an arrangement's place."""

from keenquiet.advice.reach import DESK, OPEN_MONITORS, TRIP, howl_words, reach_words, second_words
from keenquiet.advice.taping import CAUTIONS, stand_words
from keenquiet.core.edits import ChoosePattern, Place
from keenquiet.core.judge.reach import reach
from keenquiet.core.judge.second_source import in_the_hands, nulls_on_second
from keenquiet.core.room.room import Arrangement, Point, Room
from keenquiet.core.waves.howl import howl
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.core.waves.stands import STANDS, check_stand
from keenquiet.core.waves.statistics import Decay
from keenquiet.documents.edits import edit_doc
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import At3, RoomDoc
from keenquiet.service.answers.reach import HowlAnswer, LaptopReach, PatternNull, ReachAnswer, SecondSourceAnswer
from keenquiet.service.predict import acoustics_of

_SEATED_BOOM_M = 0.5


def reach_answer(room: RoomDoc, arrangement_id: str | None = None, *, second: At3 | None = None) -> ReachAnswer:
    """Contract of `reach`. second : where another source is, in the document's metres."""
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    arrangement, space, frame = scenario.arrangement, acoustics.room, Frame.of(room)
    found = reach(space, arrangement, decay=acoustics.decay, hour=scenario.hour)
    loop = howl(space, arrangement, decay=acoustics.decay)
    sings = arrangement.performer.source.key in FROM_THE_MOUTH
    other: Point = frame.local(second) if second is not None else in_the_hands(arrangement, sings=sings)
    if second is not None:
        space.check_point(other, field="second", label="other source")
    mic = arrangement.microphone
    return ReachAnswer(
        stands=stand_lines(room, space, mic.at),
        laptop=None
        if found is None or doc.laptop is None
        else LaptopReach(
            **found.__dict__,
            words=reach_words(found, mic_cable_m=doc.laptop.mic_cable_m, phones_cable_m=doc.laptop.phones_cable_m),
        ),
        howl=None
        if loop is None
        else HowlAnswer(**loop.__dict__, may_be_open=loop.may_be_open, words=howl_words(loop), caution=OPEN_MONITORS),
        second=_second(room, space, arrangement, other, acoustics.decay),
        cautions=[TRIP, CAUTIONS[1], DESK],
    )


def _second(doc: RoomDoc, space: Room, arrangement: Arrangement, other: Point, decay: Decay) -> SecondSourceAnswer:
    mic, frame, x = arrangement.microphone, Frame.of(doc), Frame.of(doc).offset
    found = nulls_on_second(space, arrangement, other, decay=decay)
    return SecondSourceAnswer(
        at=(other[0] + x[0], other[1] + x[1], other[2]),
        between_deg=found[0].between_deg if found else None,
        words=second_words(found[0] if found else None),
        patterns=[
            PatternNull(
                pattern=one.pattern,
                kept_db=one.kept_db,
                apart_now_db=one.apart_now_db,
                apart_db=one.apart_db,
                edits=[
                    edit_doc(edit, frame)
                    for edit in (ChoosePattern(one.pattern), Place("microphone", mic.at, one.aims_deg, one.tilt_deg))
                ],
            )
            for one in found
        ],
    )


def stand_lines(room: RoomDoc, space: Room, capsule: Point) -> list[str]:
    """Every common stand: whether it reaches and stands. Seated, it reaches over the lap with a boom."""
    boom_m = 0.0 if room.brief.posture == "standing" else _SEATED_BOOM_M
    return [stand_words(check_stand(space, stand, capsule, boom_m=boom_m)) for stand in STANDS.values()]
