"""The four marks as they are shown everywhere: one value, where it comes from, and the other one beside it.

A mark shows what was measured when a reading still speaks of the room as it stands; else what is predicted. Both are
given, so that no screen has to choose.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Final, Literal

from keenquiet.advice.marks import (
    NO_SILENCE,
    TOUCH_LACK,
    Lack,
    boom_sentence,
    bounce_sentence,
    hush_sentence,
    touch_sentence,
)
from keenquiet.advice.wanted import SOURCES
from keenquiet.core.judge.forecast import Figure, Forecast, boom_range_hz
from keenquiet.core.judge.wanted import PURPOSES, Span, Wanted
from keenquiet.core.waves.noise_at import over_the_day
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.numbers import IF_ANY, Answer, Num, NumOrNone

MARKS: Final = ("bounce", "boom", "hush", "touch")


class WantedAnswer(Answer):
    """What is wanted, where the figure comes from (a standard, a paper, practice), and why it is that."""

    low: NumOrNone
    high: NumOrNone
    source: str
    why: str


class FigureAnswer(Answer):
    value: Num
    plus_minus: Num


class MeasuredFigure(Answer):
    """What a reading says of a mark. raw_value : as the loudspeaker made it, before it is led over to the performer."""

    value: Num
    plus_minus: Num
    raw_value: NumOrNone = None
    note_hz: NumOrNone = IF_ANY
    swing_db: NumOrNone = IF_ANY
    decay_s: NumOrNone = IF_ANY
    performer_correction_db: NumOrNone = IF_ANY
    average_dbfs: NumOrNone = IF_ANY
    noise_floor_dbfs: NumOrNone = IF_ANY
    gain_advice_db: NumOrNone = IF_ANY
    pops: int | None = IF_ANY
    pop_db: NumOrNone = IF_ANY
    by: str | None = IF_ANY


class MeasuredMark(MeasuredFigure):
    """The same with its reading. current : it still speaks of the room as it stands; since : what changed meanwhile;
    beside_id : the other reading that it rests on.
    """

    reading_id: str
    beside_id: str | None = None
    taken_at: str
    simulated: bool
    current: bool
    since: str | None = None


class MeasuredMarks(Answer):
    bounce: MeasuredMark | None = None
    boom: MeasuredMark | None = None
    hush: MeasuredMark | None = None
    touch: MeasuredMark | None = None

    def by_mark(self) -> dict[str, MeasuredMark]:
        """Those there are, by mark."""
        return {mark: found for mark in MARKS if (found := getattr(self, mark)) is not None}


@dataclass(frozen=True)
class Known:
    """What readings say of an arrangement. measured : the marks as last measured, whether they still hold or not; led :
    for those that do not, what was measured and what the models say has changed since; decay_s : the middle of the
    decay, read in this room or led over likewise [s]; is_read : whether it was read as it stands; peak : the loudest
    peak that the last take lets expect [dBFS]; lacks : the reading that a mark waits for.
    """

    measured: Mapping[str, MeasuredMark] = field(default_factory=dict)
    led: Mapping[str, Figure] = field(default_factory=dict)
    decay_s: Figure | None = None
    is_read: bool = False
    peak: FigureAnswer | None = None
    lacks: Mapping[str, Lack] = field(default_factory=lambda: {"hush": NO_SILENCE, "touch": TOUCH_LACK})


class LackAnswer(Answer):
    """The reading that a mark waits for: its kind, what is needed in words, and what its button says."""

    kind: str
    words: str
    button: str


class MarkBase(Answer):
    """value : the one that is shown, `source` says which it is; None where neither is known. led : the predicted one is
    what was measured before something changed, and the change. lacks : the reading that it waits for, if any.
    """

    name: str
    value: NumOrNone
    plus_minus: NumOrNone
    source: Literal["measured", "predicted"] | None
    predicted: FigureAnswer | None
    led: bool = False
    measured: MeasuredMark | None = None
    lacks: LackAnswer | None = None
    unit: str
    meaning: str
    wanted: WantedAnswer
    sentence: str


class BounceMark(MarkBase):
    strongest_early_db: Num
    strongest_early_ms: Num
    decay_s: Num
    decay_plus_minus_s: Num
    critical_distance_m: Num
    decay_wanted_s: tuple[float | None, float | None]


class BoomMark(MarkBase):
    note_hz: Num
    swing_db: Num
    swing_plus_minus_db: Num
    range_hz: tuple[float, float]


class QuietStretch(Answer):
    """A stretch of the day with the same noises: hours, dB under the performance then."""

    start_h: Num
    end_h: Num
    under_db: Num


class HushMark(MarkBase):
    """day : how quiet each stretch of it is, as predicted; empty where no noise is noted. passing_dba : what comes and
    goes, while it is there; it is not in the mark.
    """

    noise_dba: Num
    performance_dba: Num
    sources_dba: dict[str, Num]
    passing_dba: dict[str, Num] = {}
    day: list[QuietStretch] = []


class TouchMark(MarkBase):
    distance_m: Num
    proximity_db: Num
    sway_db: Num
    off_axis_deg: Num


class Marks(Answer):
    bounce: BounceMark
    boom: BoomMark
    hush: HushMark
    touch: TouchMark

    def by_mark(self) -> dict[str, MarkBase]:
        """All four, by mark."""
        return {mark: getattr(self, mark) for mark in MARKS}


class Headline(Answer):
    """A mark's figure as it was promised when a move was done."""

    value: NumOrNone
    plus_minus: NumOrNone
    source: str | None = None


class Empty(Answer):
    """Why a reading settles nothing, or not a mark that its kind should."""

    mark: str
    why: str


def wanted_of(room: RoomDoc) -> Wanted:
    """Wanted values for the room's brief."""
    return PURPOSES[room.brief.purpose]


def wanted_answer(span: Span) -> WantedAnswer:
    """A wanted range with its source in words."""
    source = SOURCES[span.source]
    return WantedAnswer(low=span.low, high=span.high, source=source.name, why=source.why)


def as_measured(result: Forecast, known: Known) -> Forecast:
    """The forecast with figures that readings settled put in their place; those that no longer hold are led over to
    what stands now.
    """
    now = {mark: found for mark, found in known.measured.items() if found.current}
    figures = {**known.led, **{mark: _figure(found) for mark, found in now.items()}}
    bounce, boom, hush = result.bounce, result.boom, result.hush
    bounce = replace(
        bounce,
        direct_over_room_db=figures.get("bounce", bounce.direct_over_room_db),
        decay_s=known.decay_s or bounce.decay_s,
    )
    boom = replace(
        boom,
        ring_s=figures.get("boom", boom.ring_s),
        note_hz=(now["boom"].note_hz if "boom" in now else None) or boom.note_hz,
    )
    if "hush" in figures:
        hush = replace(hush, under_performance_db=figures["hush"], known=True)
    return replace(result, bounce=bounce, boom=boom, hush=hush)


def _figure(found: MeasuredFigure) -> Figure:
    return Figure(found.value, found.plus_minus)


def marks_of(result: Forecast, wanted: Wanted, known: Known | None = None) -> Marks:
    """The four marks: what is measured where that still holds, else predicted, with words for what is shown."""
    known = known or Known()
    measured = known.measured
    shown = as_measured(result, known)
    bounce, boom, hush, touch = result.bounce, result.boom, result.hush, result.touch
    promised_hush = hush.under_performance_db if hush.known else None
    return Marks(
        bounce=BounceMark(
            **_shown("Bounce", "dB", "direct over room", bounce.direct_over_room_db, known),
            wanted=wanted_answer(wanted.bounce_db),
            sentence=bounce_sentence(shown, wanted),
            strongest_early_db=bounce.strongest_early_db,
            strongest_early_ms=bounce.strongest_early_ms,
            decay_s=shown.bounce.decay_s.value,
            decay_plus_minus_s=shown.bounce.decay_s.plus_minus,
            critical_distance_m=result.critical_distance_m,
            decay_wanted_s=(wanted.decay_s.low, wanted.decay_s.high),
        ),
        boom=BoomMark(
            **_shown("Boom", "s", "ring time", boom.ring_s, known),
            wanted=wanted_answer(wanted.boom_s),
            sentence=boom_sentence(shown, wanted),
            note_hz=shown.boom.note_hz,
            swing_db=boom.swing_db.value,
            swing_plus_minus_db=boom.swing_db.plus_minus,
            range_hz=boom_range_hz(result.arrangement, result.room.shape),
        ),
        hush=HushMark(
            # what a house at night may have is no prediction of this one
            **_shown("Hush", "dB", "under the performance", promised_hush, known),
            wanted=wanted_answer(wanted.hush_db),
            sentence=hush_sentence(
                shown,
                wanted,
                measured="hush" in known.led or _holds(measured.get("hush")),
                lack=known.lacks.get("hush", NO_SILENCE),
            ),
            noise_dba=hush.noise_dba,
            performance_dba=hush.performance_dba,
            sources_dba=result.noise.by_source_dba,
            passing_dba=result.noise.passing_dba,
            day=[
                QuietStretch(start_h=start, end_h=end, under_db=hush.performance_dba - noise.level_dba)
                for start, end, noise in over_the_day(result.room, result.arrangement, decay=result.decay)
            ]
            if hush.known
            else [],
        ),
        touch=TouchMark(
            **_shown("Touch", "dBFS", "loudest peak", known.peak, known),
            wanted=wanted_answer(wanted.peak_dbfs),
            sentence=touch_sentence(result),
            distance_m=touch.distance_m,
            proximity_db=touch.proximity_db,
            sway_db=touch.sway_db,
            off_axis_deg=touch.off_axis_deg,
        ),
    )


def _shown(
    name: str, unit: str, meaning: str, predicted: Figure | FigureAnswer | None, known: Known
) -> dict[str, object]:
    """What is shown of one mark: measured when it still holds, else predicted."""
    measured, led = known.measured.get(name.lower()), known.led.get(name.lower())
    predicted = led or predicted
    promised = None if predicted is None else FigureAnswer(value=predicted.value, plus_minus=predicted.plus_minus)
    chosen = measured if _holds(measured) else promised
    return {
        "name": name,
        "value": None if chosen is None else chosen.value,
        "plus_minus": None if chosen is None else chosen.plus_minus,
        "source": None if chosen is None else "predicted" if chosen is promised else "measured",
        "predicted": promised,
        "led": led is not None,
        "measured": measured,
        "lacks": _lack(known.lacks.get(name.lower())),
        "unit": unit,
        "meaning": meaning,
    }


def _lack(lack: Lack | None) -> LackAnswer | None:
    return None if lack is None else LackAnswer(kind=lack.kind, words=lack.words, button=lack.button)


def _holds(measured: MeasuredMark | None) -> bool:
    return measured is not None and measured.current


def headlines(marks: Marks) -> dict[str, Headline]:
    """The four figures as they are shown, to be kept with a move: what was measured, and what is promised after it."""
    return {
        mark: Headline(value=found.value, plus_minus=found.plus_minus, source=found.source)
        for mark, found in marks.by_mark().items()
    }
