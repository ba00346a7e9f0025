"""What is answered about takes beyond a reading: one's own line, line by line, bleed, waves, trials, latency."""

from typing import Annotated

from pydantic import Field

from keenquiet.service.answers.numbers import IF_ANY, Answer, Num, Num2, Num2OrNone, Numbers, NumOrNone
from keenquiet.service.answers.readings import FindingAnswer
from keenquiet.service.answers.tools import ThirdDifference


class BlindCount(Answer):
    """How a blind test went: trials, and how many of them were told apart."""

    right: Annotated[int, Field(ge=0, le=1000)]
    trials: Annotated[int, Field(ge=1, le=1000)]


class BetterAnswer(Answer):
    """One take is better than another. blind : how a test of both went, null where names were seen."""

    better_id: str
    than_id: str
    blind: BlindCount | None = None


class AgainstAnswer(Answer):
    """A take against the performer's own line. level_db : at the same gain; bass_db, treble_db : against the middle.

    line_id : the reading that it is held against, null from files. other : another voice or another line.
    """

    line_id: str | None
    level_db: Num2
    bass_db: Num2OrNone
    treble_db: Num2OrNone
    direct_over_room_db: Num2OrNone
    cents: Num2OrNone
    temperature_c: list[NumOrNone] = []
    spread_db: Num2
    other: bool
    thirds: list[ThirdDifference]
    findings: list[FindingAnswer]
    text: str


class UnderneathAnswer(Answer):
    """What lies in a take's pauses against the room's silence. more_db : A-weighted; worst : the third octave that
    differs most; new_hz : tones that the silence does not have. silence_id : null from files. told : another noise lies
    under it; null where the take has no pauses.
    """

    silence_id: str | None
    when: str
    more_db: Num2OrNone
    worst_hz: NumOrNone
    worst_db: Num2OrNone
    new_hz: list[Num2]
    told: bool | None
    text: str


class BleedAnswer(Answer):
    """A backing track in a take. under_db : against the performance, A-weighted; null where the take has no pauses."""

    under_db: Num2OrNone
    late_ms: Num2OrNone
    explained: NumOrNone = Field(description="Share of the pauses' sound that it accounts for")
    findings: list[FindingAnswer]
    text: str


class LineFault(Answer):
    kind: str
    name: str
    start_s: Num


class LineAnswer(Answer):
    """One line in both takes: from and to in each [s], what makes the second as loud as the first, how it differs."""

    a: tuple[Num, Num]
    b: tuple[Num, Num]
    gain_db: Num2
    bass_db: Num2
    treble_db: Num2
    faults_a: list[LineFault]
    faults_b: list[LineFault]
    better: str | None
    chosen: str


class JoinAnswer(Answer):
    """A cut after so many lines. step_db : of the room tone; heard : null where a pause is too short to tell."""

    after: int
    step_db: Num2OrNone
    heard: bool | None
    text: str


class LinesAnswer(Answer):
    """Two takes line by line. only_a, only_b : lines that the other does not have."""

    lines: list[LineAnswer]
    only_a: list[tuple[Num, Num]]
    only_b: list[tuple[Num, Num]]
    joins: list[JoinAnswer]
    text: str


class WaveAnswer(Answer):
    """Lowest and highest sample of each so long a stretch from start_s on. [-]"""

    start_s: Num
    step_s: Num
    low: Numbers
    high: Numbers


class LatencyAnswer(Answer):
    """How late and how loud a recording of a sound comes after it; null where the sound is not found. notches_hz : the
    first of the doubled way. ripple_db : from its tops to its notches. comb_hz, comb_db : its curve.
    """

    latency_ms: Num2OrNone
    plus_minus_ms: Num2OrNone = IF_ANY
    likeness: NumOrNone
    gain_db: Num2OrNone = IF_ANY
    turned: bool = False
    notches_hz: list[Num]
    ripple_db: Num2OrNone = IF_ANY
    comb_hz: list[Num] = []
    comb_db: list[Num2] = []
    text: str


class BesideAnswer(Answer):
    """A reading that goes with a take: how long after it [min, below 0 before], by the same chain, in the same room."""

    reading_id: str
    name: str
    minutes_after: Num
    same_chain: bool
    same_room: bool
    when: str
    text: str


class StaircaseAnswer(Answer):
    """A listener's threshold on its way: the change of the next pair [dB], null when it is over. plain_db : of its
    other half. threshold_db, plus_minus_db : null before, and where not even the easiest is heard.
    """

    what: str
    next_db: Num2OrNone
    plain_db: float
    answered: int
    threshold_db: Num2OrNone
    plus_minus_db: Num2OrNone
    text: str


class TrialStep(Answer):
    """One step of a series: what is set, what is predicted of it [dB against the first step], what was measured."""

    key: str
    name: str
    predicted: dict[str, Num2]
    measured: dict[str, Num2] | None = IF_ANY
    reading_id: str | None = IF_ANY


class TrialsAnswer(Answer):
    """A guided series with predicted beside measured."""

    series: str
    name: str
    say: str
    steps: list[TrialStep]
    columns: dict[str, str]
    text: str
