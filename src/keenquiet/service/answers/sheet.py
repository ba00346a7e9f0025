"""What has to be written down to put everybody back to the centimetre."""

from keenquiet.documents.schema import ChainDoc
from keenquiet.service.answers.numbers import Answer, Num, NumOrNone


class TapedMark(Answer):
    """Somebody's place as two lengths of tape and a height. walls : as a musician calls them, with their number."""

    who: str
    name: str
    walls: tuple[str, str]
    away_m: tuple[Num, Num]
    height_m: Num
    faces: str
    says: str
    at: tuple[Num, Num, Num]


class MarksSheet(Answer):
    """One page. settings : what is known of the chain, name and value; by_hand : what only the person knows and has not
    said; chain : what they said; last : what they said when something was last recorded; cautions : of the
    microphone's kind.
    sounding : mouth or instrument.
    """

    room: str
    arrangement: str
    marks: list[TapedMark]
    sounding: str
    mouth_to_mic_m: Num
    off_axis_deg: Num
    stand: list[str]
    settings: list[tuple[str, str]]
    by_hand: list[str]
    chain: ChainDoc = ChainDoc()
    last: ChainDoc | None = None
    cautions: list[str] = []
    proof: str
    bounce_db: NumOrNone
