"""Silences held against each other, as answers."""

from keenquiet.service.answers.numbers import Answer, Gaps, Num, Num2, Num2OrNone, Numbers2, NumOrNone


class WorstThird(Answer):
    centre_hz: Num
    db: Num


class SpliceAnswer(Answer):
    """Contract of `analyse splice`: whether a cut between two room tones is heard."""

    heard: bool
    broadband_db: Num
    worst: WorstThird
    new_tones: list[Num]
    crossfade_ms: Num
    words: str


class ShareAnswer(Answer):
    """thirds_db : by third octave, null where it cannot be told."""

    name: str
    level_db: NumOrNone
    plus_minus_db: NumOrNone
    thirds_db: Gaps
    off_wins_db: Num2OrNone


class RoundAnswer(Answer):
    """Contract of `analyse shares`: what each source makes of the whole, loudest first; null where it cannot be told.

    flags : `not_repeated` where all on was not read again, so that nothing says whether the house stayed the same.
    """

    valid: bool
    again_db: NumOrNone
    shares: list[ShareAnswer]
    thirds_hz: Numbers2
    all_db: Num2
    all_thirds_db: Gaps
    words: str
    flags: list[str]


class GainsAnswer(Answer):
    """Contract of `analyse gains`: what two gains tell apart, at the lower one. [dBFS, A-weighted]"""

    gain_db: Num2
    room_db: Num2
    chain_db: Num2OrNone
    chain_share: Num
    wins_db: Num2
    advice: str
    thirds_hz: Numbers2
    room_thirds_db: Gaps
    chain_thirds_db: Gaps
    words: str


class RoomToneAnswer(Answer):
    """Contract of `analyse room-tone`: the evenest ten seconds."""

    start_s: Num
    end_s: Num
    swing_db: Num2
    disturbed: bool
    words: str


class FamilyChange(Answer):
    """A family of tones in two silences; null where it is not there."""

    kind: str
    f_hz: Num
    before_db: Num2OrNone
    after_db: Num2OrNone
    change_db: Num2OrNone
    outcome: str


class HumAnswer(Answer):
    """Contract of `analyse hum`: which tones went with what was changed between two silences."""

    families: list[FamilyChange]
    words: str
    caution: str


class HumStep(Answer):
    """One question of the tree. went, stayed : the key of the next, or of an end."""

    key: str
    ask: str
    do: str
    went: str
    stayed: str


class HumEnd(Answer):
    key: str
    cause: str
    cure: str
    caution: str


class HumTree(Answer):
    start: str
    steps: list[HumStep]
    ends: list[HumEnd]
    caution: str
