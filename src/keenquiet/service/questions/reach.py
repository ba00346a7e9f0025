"""Stands, cables, laptop, open monitors and a second source: what is in reach of an arrangement's place."""

from keenquiet.advice.reach import DESK, OPEN_MONITORS, TRIP, howl_words, reach_words, second_words
from keenquiet.advice.taping import CAUTIONS, stand_words
from keenquiet.core.edits import ChoosePattern, Place
from keenquiet.core.judge.reach import reach
from keenquiet.core.judge.second_source import in_the_hands, nulls_on_second
from keenquiet.core.room.room import Point
from keenquiet.core.waves.howl import howl
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.core.waves.stands import STANDS, check_stand
from keenquiet.documents.edits import EditDoc
from keenquiet.documents.schema import At3
from keenquiet.service.answers.numbers import Answer, Num, NumOrNone
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question

_SEATED_BOOM_M = 0.5


class ReachAsk(ArrangementAsk):
    """second : where another source is, null in the hands or at the mouth of who performs. [m]"""

    second: At3 | None = None


class LaptopReach(Answer):
    """Cables needed and missing [m]; sight_deg : of the meter; walk_m : to the keys; fan : the laptop's own noise."""

    mic_cable_m: Num
    mic_short_m: Num
    phones_cable_m: Num
    phones_short_m: Num
    sight_deg: Num
    walk_m: Num
    fan: str | None
    fan_share: NumOrNone
    words: list[str]


class HowlAnswer(Answer):
    """loudest_db : of the performer at the chair with open monitors; live_db : of the performer alone there."""

    loudest_db: Num
    live_db: Num
    worst_hz: Num
    may_be_open: bool
    words: str
    caution: str


class PatternNull(Answer):
    """One pattern's null on the other source: kept_db of the first, apart_db by how much it is over the other, aimed
    as now and with the null. edits : pattern and aim.
    """

    pattern: str
    kept_db: Num
    apart_now_db: Num
    apart_db: Num
    edits: list[EditDoc]


class SecondSourceAnswer(Answer):
    """at : where the other source is. patterns : the one that tells both apart best first."""

    at: tuple[Num, Num, Num]
    between_deg: NumOrNone
    words: str
    patterns: list[PatternNull]


class ReachAnswer(Answer):
    """stands : one line each. laptop, howl : null without a laptop, without monitors. second : a mouth over an
    instrument or an instrument under a mouth, or the place that was asked.
    """

    stands: list[str]
    laptop: LaptopReach | None
    howl: HowlAnswer | None
    second: SecondSourceAnswer
    cautions: list[str]


def in_reach(case: Case, asked: ReachAsk) -> ReachAnswer:
    """Stands, cables, the laptop, open monitors and a second source at this place."""
    stand, space, laptop, decay = case.stand, case.space, case.doc.laptop, case.acoustics.decay
    found = reach(space, stand, decay=decay, hour=case.scenario.hour)
    loop = howl(space, stand, decay=decay)
    if asked.second is not None:
        other = case.frame.local(asked.second)
        space.check_point(other, field="second", label="other source")
    else:
        other = in_the_hands(stand, sings=stand.performer.source.key in FROM_THE_MOUTH)
    return ReachAnswer(
        stands=stand_lines(case),
        laptop=None
        if found is None or laptop is None
        else LaptopReach.out_of(
            found, words=reach_words(found, mic_cable_m=laptop.mic_cable_m, phones_cable_m=laptop.phones_cable_m)
        ),
        howl=None if loop is None else HowlAnswer.out_of(loop, words=howl_words(loop), caution=OPEN_MONITORS),
        second=_second(case, other),
        cautions=[TRIP, CAUTIONS[1], DESK],
    )


def _second(case: Case, other: Point) -> SecondSourceAnswer:
    mic = case.stand.microphone
    found = nulls_on_second(case.space, case.stand, other, decay=case.acoustics.decay)
    return SecondSourceAnswer(
        at=case.frame.document(other),
        between_deg=found[0].between_deg if found else None,
        words=second_words(found[0] if found else None),
        patterns=[
            PatternNull.out_of(
                one,
                edits=case.steps([ChoosePattern(one.pattern), Place("microphone", mic.at, one.aims_deg, one.tilt_deg)]),
            )
            for one in found
        ],
    )


def stand_lines(case: Case) -> list[str]:
    """Every common stand: whether it reaches and stands. Seated, it reaches over the lap with a boom."""
    boom_m = 0.0 if case.room.brief.posture == "standing" else _SEATED_BOOM_M
    capsule = case.stand.microphone.at
    return [stand_words(check_stand(case.space, stand, capsule, boom_m=boom_m)) for stand in STANDS.values()]


REACH = Question("reach", ReachAsk, ReachAnswer, in_reach)
