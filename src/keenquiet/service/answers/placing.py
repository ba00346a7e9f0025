"""Where to stand, how far from the microphone, how to aim it, where to listen: as answers."""

from typing import Literal

from keenquiet.documents.edits import EditDoc
from keenquiet.service.answers.forecast import Curve
from keenquiet.service.answers.numbers import Answer, Gaps, Num, Num2, Numbers, NumOrNone


class LimitAnswer(Answer):
    """end : of the span. mark : which of the four ends it. words : why, as a musician says it."""

    end: Literal["near", "far"]
    mark: str
    words: str


class SpanAnswer(Answer):
    """Distances that give all that is wanted. meets : False where none does; then where least is lacking."""

    from_m: Num
    to_m: Num
    meets: bool
    limits: list[LimitAnswer]


class PinAnswer(Answer):
    """A usual piece of advice, and what it gives here; null where no microphone can stand."""

    name: str
    distance_m: Num
    bounce_db: NumOrNone
    under_noise_db: NumOrNone
    proximity_db: Num
    puff: Num
    sway_db: Num
    sounds_m: NumOrNone


class LiftAnswer(Answer):
    f_hz: Num
    db: Numbers


class DistanceAnswer(Answer):
    """Contract of `distance`. By distance, null where no microphone can stand. [m, dB]

    room_noise_db, own_noise_db : how far the room's and the chain's own noise lie under the performance, under_noise_db
    both, quietest_db both under a quietest phrase. lift : of bass, beside proximity_db at 100 Hz. puff : push of a puff
    against 10 cm straight on. sway_db, sway_bass_db : of 5 cm nearer. sounds_m : as far away as this much room sounds.
    bleed_db : how far the owned headphones' leak lies under the performance, null without any. usual_m : from and to,
    where practice puts such a microphone.
    """

    distance_m: Numbers
    bounce_db: Gaps
    under_noise_db: Gaps
    room_noise_db: Gaps
    own_noise_db: Gaps
    quietest_db: Gaps
    proximity_db: Numbers
    lift: list[LiftAnswer]
    puff: Numbers
    sway_db: Numbers
    sway_bass_db: Numbers
    sounds_m: Gaps
    bleed_db: Numbers | None
    span: SpanAnswer | None
    usual_m: tuple[Num, Num]
    pins: list[PinAnswer]
    here_m: Num
    role: str
    own_noise_dba: Num
    sentence: str
    flags: list[str]


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
    value: list[list[NumOrNone]]
    faces_deg: list[list[NumOrNone]]
    best: list[BestSpot]
    here: NumOrNone
    step_m: Num
    clear_m: Num
    sentence: str
    flags: list[str]


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

    swing_db: NumOrNone
    response: Curve | None
    cancellations: list[CancellationAnswer]
    early: list[ReturnAnswer]
    symmetry_db: NumOrNone
    triangle: TriangleAnswer | None
    objective_db: NumOrNone
    best: BestListening | None
    walls: list[BestListening]
    sentence: str
    flags: list[str]


class AimedAnswer(Answer):
    """One way to stand to the microphone, against straight on at the same distance. [dB]"""

    name: str
    angle_deg: Num2
    level_db: Num2
    bass_db: Num2
    treble_db: Num2
    puff: Num


class NullAnswer(Answer):
    """The null turned to the worst noise. Below zero is a loss. left_deg : how far the null still is from the noise."""

    noise: str
    aims_deg: Num
    tilt_deg: Num
    left_deg: Num
    under_db: Num2
    level_db: Num2
    bounce_db: Num2
    treble_db: Num2
    bass_db: Num2
    words: str
    edits: list[EditDoc]


class AimAnswer(Answer):
    """past : singing past the microphone by some degrees. loud : three ways to take a loud note. aim_at : where on this
    instrument. front_share : of the room's sound that the pattern gathers from the half that it looks into. [-]
    """

    past: list[AimedAnswer]
    loud: list[AimedAnswer]
    null_deg: NumOrNone
    null: NullAnswer | None
    front_share: Num
    front_words: str
    aim_at: str


class SchoolSide(Answer):
    key: str
    name: str
    gives: str
    wins: bool


class SchoolAnswer(Answer):
    """A quarrel among practitioners, both sides computed here. facts : the figures behind the words, by side."""

    key: str
    question: str
    sides: list[SchoolSide]
    verdict: str
    too_close: bool
    facts: dict[str, dict[str, Num]]


class SchoolsAnswer(Answer):
    schools: list[SchoolAnswer]


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
