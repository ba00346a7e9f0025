"""Silences held against each other, as answers."""

from keenquiet.service.answers.numbers import Answer, Num, NumOrNone


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


class ShareAnswer(Answer):
    name: str
    level_db: NumOrNone
    plus_minus_db: NumOrNone


class RoundAnswer(Answer):
    """Contract of `analyse shares`: what each source makes of the whole, loudest first; null where it cannot be told.

    flags : `not_repeated` where all on was not read again, so that nothing says whether the house stayed the same.
    """

    valid: bool
    again_db: NumOrNone
    shares: list[ShareAnswer]
    flags: list[str]
