"""What is in reach of a place, as an answer."""

from keenquiet.documents.edits import EditDoc
from keenquiet.service.answers.numbers import Answer, Num, NumOrNone


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
