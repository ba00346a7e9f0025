"""Watches as answers."""

from datetime import datetime
from typing import Literal

from keenquiet.service.answers.numbers import Answer, Gaps, Num, Num2, Num2OrNone

Why = Literal["", "asked", "disk", "microphone", "closed"]


class ClipAnswer(Answer):
    """A sound round something that passed: when it begins [ms since 1970], how long, how far it stood out."""

    at_ms: int
    seconds: Num2
    rise_db: Num2


class WatchSummary(Answer):
    """next_ms : where it goes on, null before the first second. seconds : heard; gaps : stretches that were not.
    megabytes : kept of levels and clips. device : that listens, by its own name.
    """

    id: str
    way: str
    name: str
    unit: str
    started_at: datetime
    ended_at: datetime | None
    stopped_why: str
    next_ms: int | None
    seconds: int
    gaps: int
    nights: int
    clips: int
    megabytes: Num2
    counts: bool
    device: str


class Passed(Answer):
    """Something that stood out: when [ms since 1970], how long [s], over the quiet [dB]. clip_ms : of its sound."""

    at_ms: int
    seconds: Num2
    rise_db: Num2
    clip_ms: int | None


class WatchAnswer(WatchSummary):
    """every_s : width of a step of the curves. at_ms : where each begins. level_db, loudest_db : A-weighted mean and
    maximum of it, null in a gap. quiet_db : nine tenths of the time are louder.
    """

    every_s: int
    at_ms: list[int]
    offset_min: int
    level_db: Gaps
    loudest_db: Gaps
    quiet_db: Num2OrNone
    passed: list[Passed]
    words: str


class BlockKept(Answer):
    """next_ms : where the next block is wanted from. level_dba : of the last second. seconds : of it that were not
    heard before, and are kept now. clips : kept from this block. flags : `clips_full` when sounds are kept no more.
    """

    next_ms: int
    level_dba: Num2OrNone
    seconds: int
    clips: int
    flags: list[str]


class PracticeBlock(Answer):
    """Levels of a practice watch, A-weighted and by octave, a row a second. [dBFS]"""

    from_ms: int
    rows: list[list[Num]]
