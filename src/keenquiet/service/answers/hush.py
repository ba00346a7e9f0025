"""What is there when nobody plays, as answers."""

from typing import Annotated

from pydantic import ConfigDict, Field

from keenquiet.documents.edits import EditDoc
from keenquiet.documents.schema import NoiseDoc
from keenquiet.service.answers.numbers import Answer, Num, Num2, Num2OrNone, Numbers2, NumOrNone


class SourceHeard(Answer):
    """One noise at the microphone while it sounds. share : of the power of what goes on, null for what only passes.
    step_db : by how much the whole rises when it comes. way : steady, cycles or passes.
    """

    name: str
    level_dba: Num2
    share: NumOrNone
    step_db: Num2OrNone
    way: str
    warns: bool


class UnderAnswer(Answer):
    """How far the noise lies under the performance: as recorded, under a quiet phrase, squeezed by 10 dB, with a treble
    shelf besides, and after so many layers. [dB]
    """

    now: Num2
    quiet: Num2
    squeezed: Num2
    lifted: Num2
    layered: Num2
    layers: int


class EffortRow(Answer):
    """under_db : one for each distance. [dB]"""

    source: str
    name: str
    under_db: Numbers2


class AudibleAnswer(Answer):
    """By third octave at the microphone [dB]; heard : never, in pauses, under quiet phrases, always."""

    centre_hz: Numbers2
    noise_db: Numbers2
    performance_db: Numbers2
    heard: list[str]
    worst: str
    first_hz: Num2OrNone
    last_hz: Num2OrNone
    words: str


class Buys(Answer):
    """What closing a way with something wins: through its surface, in Hush now, and under what passes, null where
    nothing does. words : the same. [dB]
    """

    means: str
    label: str
    through_db: Num2
    hush_db: Num2
    passing_db: Num2 | None
    words: str
    cost: Num
    minutes: int
    edits: list[EditDoc]


class WayAnswer(Answer):
    """A way in. share : of the power through its surface in the octave that matters most. at : in the document's
    metres, null for a whole surface. closed_with : what closes it now.
    """

    key: str
    kind: str
    label: str
    surface: str
    share: Num2
    at: tuple[Num, Num, Num] | None
    note: str
    closed_with: str | None
    buys: list[Buys]


class QuietMove(Answer):
    """Moves against noise, one or several together. alone_db : what each wins by itself."""

    title: str
    parts: list[str]
    kinds: list[str]
    gain_db: Num2
    plus_minus_db: Num2
    alone_db: Numbers2
    surprising: bool
    cost: Num
    minutes: int
    reversible: bool
    cautions: list[str]
    edits: list[EditDoc]


class WarmingAnswer(Answer):
    minutes: Num2
    plus_minus_min: Num2
    cents_per_k: Num2
    allowed_k: Num2
    words: str
    caution: str


class RestoreItem(Answer):
    """Something switched off for the recording; must : it has to be on again."""

    name: str
    must: bool


class HushAnswer(Answer):
    """known : whether a noise is noted. sources : what spoils takes most first. distances_m : of the efforts' rows.

    flags : `noise_unknown` where nothing is noted.
    """

    known: bool
    performance_dba: Num2
    noise_dba: Num2
    sources: list[SourceHeard]
    under: UnderAnswer
    distances_m: Numbers2
    efforts: list[EffortRow]
    audible: AudibleAnswer
    audible_squeezed: AudibleAnswer
    ways: list[WayAnswer]
    ways_words: str
    moves: list[QuietMove]
    warming: WarmingAnswer
    restore: list[RestoreItem]
    restore_words: str
    cautions: list[str]
    flags: list[str]


class NotedAnswer(Answer):
    """A noise as a silence heard it. plus_minus_db : of its level; by : calibrated, voice or guessed."""

    noise: NoiseDoc
    plus_minus_db: Num2
    by: str


class HourChance(Answer):
    """weekday : Monday 0. chance, low, high : null where nothing can be said. known : noted, log, or null."""

    weekday: int
    hour: int
    chance: NumOrNone
    low: NumOrNone
    high: NumOrNone
    attempts: NumOrNone
    under_db: Num2OrNone
    known: str | None
    nights: int
    allowed: bool


class WindowAnswer(Answer):
    """from, to : hours of the weekday."""

    model_config = ConfigDict(from_attributes=True, populate_by_name=True, serialize_by_alias=True)

    weekday: int
    from_h: Annotated[Num, Field(alias="from")]
    to_h: Annotated[Num, Field(alias="to")]
    chance: Num


class LogSaid(Answer):
    """What was found of a log: rows that came twice or out of order, gaps, nights, its quiet. [dB]"""

    seconds: Num
    nights: int
    gaps: int
    repeated: int
    unsorted: int
    quiet_db: Num2


class HoursAnswer(Answer):
    """Contract of `hours`. now : the chance at the arrangement's hour. flags : `too_little` where a log speaks of fewer
    than three nights, `noise_unknown`, `no_window`.
    """

    minutes: Num
    hours: list[HourChance]
    windows: list[WindowAnswer]
    least_bad: WindowAnswer | None = None
    quarters: list[list[NumOrNone]]
    now: NumOrNone
    words: str
    now_words: str
    log: LogSaid | None
    flags: list[str]
