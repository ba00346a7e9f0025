"""Hear it, as an answer."""

from keenquiet.service.answers.numbers import Answer, Num, NumOrNone


class HeardAnswer(Answer):
    """Contract of `hear`: what was written. loudness_lufs : null for a click."""

    sample_rate_hz: int
    seconds: Num
    loudness_lufs: NumOrNone
    peak_dbfs: Num
    direct_over_room_db: NumOrNone
    flags: list[str]
