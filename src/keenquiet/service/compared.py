"""Two readings held against each other: both sides of a microphone, the same spot before and after."""

from typing import Final, cast

import numpy as np

from keenquiet.advice.put_back import put_back_words
from keenquiet.advice.reasons import error_words
from keenquiet.advice.sides import side_words
from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.judge.put_back import PutBack, Trace, line_back, put_back
from keenquiet.core.take.levels import take_levels
from keenquiet.core.take.sides import which_side
from keenquiet.core.things.microphone import pressure_part
from keenquiet.service.answers.readings import ResponseResult
from keenquiet.service.answers.tools import PutBackAnswer, SidesAnswer
from keenquiet.service.briefs import result_of
from keenquiet.service.data import Data
from keenquiet.service.kinds import kind_named
from keenquiet.service.reading_set import loudest_channel, sound_of, words_answer
from keenquiet.service.readings import row_of
from keenquiet.store.audiofile import Audio

PROVING: Final = ("sweep", "ir", "spoken")


def sides_compared(data: Data, front_id: str, back_id: str, pattern: str) -> SidesAnswer:
    """Two recordings of a spoken line, one into each side."""
    rows = [row_of(data, reading_id) for reading_id in (front_id, back_id)]
    if any(kind_named(row.kind).form != "take" for row in rows):
        raise InputError("reading", "is no take or spoken line.", "Choose two recordings of the same line.")
    front, back = (sound_of(data, row) for row in rows)
    return sides_answer(front, back, pattern)


def sides_answer(front: Audio, back: Audio, pattern: str) -> SidesAnswer:
    """Contract of `analyse sides`. Raises InputError for an unknown pattern or a line too short to judge."""
    pressure_part(pattern)
    try:
        levels = [take_levels(loudest_channel(audio), audio.sample_rate_hz) for audio in (front, back)]
    except MeasurementError as exc:
        raise InputError("file", *error_words(exc)) from exc
    found = which_side(levels[0], levels[1], pattern)
    text, cure = side_words(found, pattern)
    return SidesAnswer(difference_db=found.difference_db, pattern=pattern, outcome=found.outcome, text=text, cure=cure)


def back_in_place(data: Data, now_id: str, then_id: str) -> PutBackAnswer:
    """A sweep or a spoken line held against an earlier one of the same place. A clap is refused: it proves nothing."""
    then, now = (row_of(data, reading_id) for reading_id in (then_id, now_id))
    if then.kind != now.kind or then.kind not in PROVING:
        raise InputError("reading", "cannot prove a place.", "Choose two sweeps, or the same line spoken twice.")
    if then.kind == "spoken":
        return line_answer(sound_of(data, then), sound_of(data, now))
    before, after = result_of(then), result_of(now)
    return back_answer(cast(ResponseResult, before), cast(ResponseResult, after))


def back_answer(then: ResponseResult, now: ResponseResult) -> PutBackAnswer:
    """Contract of `analyse put-back` for sweeps."""
    return _told(put_back(_trace(then), _trace(now)))


def line_answer(then: Audio, now: Audio) -> PutBackAnswer:
    """The same for a spoken line. Raises InputError where one is too quiet to compare."""
    words = words_answer(then, now)
    known = [third for third in words.thirds if third.difference_db is not None]
    centres, apart = (np.array([getattr(t, name) for t in known]) for name in ("centre_hz", "difference_db"))
    return _told(line_back(-words.gain_db, centres, apart))


def _told(found: PutBack) -> PutBackAnswer:
    text, reasons = put_back_words(found)
    return PutBackAnswer(
        proved=found.proved,
        shared=found.shared,
        of=found.of,
        bounce_db=found.bounce_db,
        decay_share=found.decay_share,
        level_db=found.level_db,
        moved=list(found.moved),
        text=text,
        reasons=reasons,
    )


def _trace(result: ResponseResult) -> Trace:
    early = tuple((one.delay_ms, one.level_db) for one in result.early)
    return Trace(result.direct_over_room_db, early, result.t_mid_s)
