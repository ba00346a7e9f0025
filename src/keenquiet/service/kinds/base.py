"""What a kind of reading is: how it is read, what it settles, its headline, its rig, which way it is shown.

One object for each kind (`service.kinds.KINDS`) serves core, API, command line and, through the API's own description,
the page. A new kind is an object here and its words in `advice.kinds`.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

from keenquiet.advice.kinds import KIND_WORDS, KindWords
from keenquiet.core.errors import InputError
from keenquiet.core.figures import GlideFigures, ResponseFigures, TakeFigures, ToneFigures
from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.read.quality import Verdict
from keenquiet.core.read.sweep import SweepSpec
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.marks import Empty, FigureAnswer, MeasuredFigure
from keenquiet.service.answers.readings import ReadingHeadline, Result
from keenquiet.service.predict import predict
from keenquiet.store.audiofile import Audio

Form = Literal["response", "tone", "glide", "take", "curve"]
Figures = ResponseFigures | ToneFigures | GlideFigures | TakeFigures


@dataclass(frozen=True)
class ReadOptions:
    """What a reader may be told: the sweep that was played, a chain's calibration [dB], 3 for third octaves."""

    spec: SweepSpec | None = None
    calibration_db: float | None = None
    fraction: int = 1


@dataclass(frozen=True)
class Where:
    """The room and the arrangement that a reading was taken in, with the forecasts that it is set beside.

    A room that cannot be predicted still keeps its readings: `trouble` then says why nothing stands beside them.
    """

    room: RoomDoc
    arrangement: ArrangementDoc
    by_loudspeaker: bool = False

    @cached_property
    def here(self) -> RoomDoc:
        """The room with this arrangement alone."""
        return self.room.model_copy(update={"arrangements": [self.arrangement]})

    @cached_property
    def seen(self) -> Forecast:
        """What the reading should see: a loudspeaker in the performer's place for sweeps. Raises InputError."""
        return predict(self.here, self.arrangement.id, loudspeaker=self.by_loudspeaker)

    @cached_property
    def performing(self) -> Forecast:
        """The same with the performer. Raises InputError."""
        return predict(self.here, self.arrangement.id)

    @cached_property
    def trouble(self) -> str | None:
        """Why there is no forecast, None when there is one."""
        try:
            _ = self.performing, self.seen
        except InputError as exc:
            return f"{exc.reason} {exc.cure}"
        return None


@dataclass(frozen=True)
class Settled:
    """Marks that a reading settles, what was predicted for it, and why others stay empty."""

    measured: Mapping[str, MeasuredFigure] = field(default_factory=dict)
    predicted: Mapping[str, FigureAnswer] = field(default_factory=dict)
    empty: tuple[Empty, ...] = ()


Reader = Callable[[Audio, ReadOptions], Figures]
Answerer = Callable[[Any, bool], Result]


@dataclass(frozen=True)
class ReadingKind:
    """One kind of reading.

    read : recording to figures; None where nothing is heard. answer : figures to a result, with curves for plots or
    not. refused : the result of a recording that cannot be read. beside : the result set beside the drawing. settle :
    the marks it settles. headline : the figures of a table, with words. settles : marks it can settle. by_loudspeaker :
    a loudspeaker stands in for the performer. spoken : somebody speaks. starts_itself :
    the sound is its own signal to record. by_hand : recorded until it is stopped. averaged : repeats can be averaged.
    shown : on the first page of readings. ways : how it may come in. also : kinds that tell the same and more.
    most_seconds : a longer recording is refused, or read part by part where `in_parts`.
    """

    key: str
    form: Form
    read: Reader | None
    answer: Answerer
    refused: Callable[[Verdict, Audio], Result]
    beside: Callable[[Any, Any, Where], Result]
    settle: Callable[[Any, Any, Where], Settled]
    headline: Callable[[Any], ReadingHeadline]
    settles: tuple[str, ...] = ()
    by_loudspeaker: bool = False
    spoken: bool = False
    starts_itself: bool = False
    averaged: bool = False
    shown: bool = True
    by_hand: bool = False
    ways: tuple[str, ...] = ("browser", "import", "rig")
    also: tuple[str, ...] = ()
    most_seconds: float = 600.0
    in_parts: bool = False

    def heard(self, audio: Audio, options: ReadOptions) -> Figures:
        """A recording read. Raises MeasurementError when it cannot be, InputError for a kind that is no recording."""
        if self.read is None:
            raise InputError("kind", f"{self.key!r} is no recording.", "Bring it as a file of its own kind.")
        return self.read(audio, options)

    @property
    def words(self) -> KindWords:
        """Its words."""
        return KIND_WORDS[self.key]


def unchanged(result: Result, figures: Figures, where: Where) -> Result:
    """A result that nothing on the drawing is set beside."""
    return result


def settles_nothing(result: Result, figures: Figures, where: Where) -> Settled:
    """A reading that settles no mark."""
    return Settled()
