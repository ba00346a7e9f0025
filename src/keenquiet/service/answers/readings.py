"""What readings give: one typed result for each form, told apart by `form`; described here and nowhere else."""

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from keenquiet.advice.findings import FINDING_MEASURES, NEEDS_WORDS, VERDICTS, finding_cure, keep_words, noise_cure
from keenquiet.advice.reasons import reason_words, words
from keenquiet.advice.surfaces import note_words
from keenquiet.advice.takes import gain_words, later_words
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.figures import GlideFigures, ResponseFigures, TakeFigures, ToneFigures
from keenquiet.core.read.decay import BandDecay
from keenquiet.core.read.decay_surface import hangs_s
from keenquiet.core.read.quality import Verdict
from keenquiet.core.take.finding import Finding, in_order
from keenquiet.core.take.keeping import kept, washed
from keenquiet.core.take.later import raised_later
from keenquiet.core.take.levels import TakeLevels
from keenquiet.core.take.phrases import BLOCK_S
from keenquiet.core.take.sections import HOT_DBTP
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.response import smoothed_db
from keenquiet.documents.schema import ArrangementDoc
from keenquiet.service.answers.forecast import DecayMiddle
from keenquiet.service.answers.marks import Empty, FigureAnswer, MeasuredFigure
from keenquiet.service.answers.numbers import (
    IF_ANY,
    Answer,
    Gaps,
    Num,
    Num2,
    Num2OrNone,
    Numbers,
    Numbers2,
    NumOrNone,
    Rows,
)


class ReasonAnswer(Answer):
    code: str
    text: str
    cure: str


class VerdictAnswer(Answer):
    usable: bool
    word: Literal["good", "usable", "not usable"]
    reasons: list[ReasonAnswer]


class ThirdLevel(Answer):
    centre_hz: float
    level_db: NumOrNone


class BandAnswer(Answer):
    centre_hz: float
    edt_s: NumOrNone
    t20_s: NumOrNone
    t30_s: NumOrNone
    c50_db: NumOrNone
    c80_db: NumOrNone
    d50: NumOrNone
    ts_ms: NumOrNone
    inr_db: NumOrNone
    flags: list[str]
    curve_s: Numbers | None = IF_ANY
    curve_db: Numbers2 | None = IF_ANY

    @property
    def decay_s(self) -> float | None:
        """T30, or T20 where the range did not reach."""
        return self.t30_s if self.t30_s is not None else self.t20_s


class ModeMatch(Answer):
    f_hz: Num
    t60_s: Num
    indices: tuple[int, int, int] | None = None
    kind: str | None = IF_ANY


class EarlyAnswer(Answer):
    delay_ms: Num
    level_db: Num
    where: str | None = IF_ANY
    predicted_db: NumOrNone = IF_ANY


class RingingAnswer(Answer):
    f_hz: Num
    t60_s: Num
    level_db: Num
    note: str
    mode: ModeMatch | None = IF_ANY


class FlutterHeard(Answer):
    rate_hz: Num
    spacing_m: Num
    strength_db: Num
    between: list[str] | None = IF_ANY


class SweepAnswer(Answer):
    delay_ms: Num
    clock_ppm: Num
    clock_plus_minus_ppm: Num | None = None
    snr_db: Num
    distortion_pct: Num


class LowEnd(Answer):
    f_hz: Numbers
    level_db: Gaps
    smooth_db: Gaps


class Surface(Answer):
    """hangs_s : how long each pitch stays within 30 dB of the highest point, None where it never does."""

    f_hz: Numbers
    time_s: Numbers
    level_db: Rows
    hangs_s: Gaps = []

    @model_validator(mode="after")
    def _hung(self) -> "Surface":
        """Readings of earlier versions are kept without."""
        if not self.hangs_s and self.time_s:
            level = np.array([[-np.inf if v is None else v for v in row] for row in self.level_db], dtype=float)
            found = hangs_s(np.array(self.time_s), level)
            self.hangs_s = [None if np.isnan(value) else round(float(value), 4) for value in found]
        return self


class EnergyTime(Answer):
    time_ms: Numbers2
    level_db: Numbers2


class ReturnAnswer(Answer):
    where: str
    drawn_ms: Num
    heard_ms: NumOrNone
    off_m: NumOrNone


class TapeAnswer(Answer):
    agrees: bool | None
    sentence: str
    suspect: str | None
    off_m: NumOrNone
    returns: list[ReturnAnswer]


class Read(Answer):
    """What every result has. apart : why it could not be set beside the drawing, where that failed."""

    verdict: VerdictAnswer
    apart: str | None = IF_ANY


class ResponseResult(Read):
    """Contract of `analyse ir`, `clap` and, with `sweep`, of `analyse sweep`."""

    form: Literal["response"] = "response"
    sample_rate_hz: float
    bands: list[BandAnswer] = []
    t_mid_s: NumOrNone = None
    early: list[EarlyAnswer] = []
    ringing: list[RingingAnswer] = []
    flutter: FlutterHeard | None = None
    direct_over_room_db: NumOrNone = None
    sweep: SweepAnswer | None = None
    low_end: LowEnd | None = IF_ANY
    surface: Surface | None = IF_ANY
    thirds: list[BandAnswer] | None = IF_ANY
    energy_time: EnergyTime | None = IF_ANY
    trusted_above_hz: NumOrNone = IF_ANY
    tape: TapeAnswer | None = IF_ANY
    judged: DecayMiddle | None = IF_ANY


class ToneFound(Answer):
    f_hz: Num
    level_db: Num
    prominence_db: Num
    kind: str


class EventFound(Answer):
    start_s: Num
    end_s: Num
    rise_db: Num
    kind: str | None = IF_ANY


class NoiseFound(Answer):
    kind: str
    f_hz: Num
    harmonics: list[int]
    level_db: Num
    cure: str


class ToneResult(Read):
    """Contract of `analyse tone`."""

    form: Literal["tone"] = "tone"
    calibrated: bool = False
    laeq_db: NumOrNone = None
    l90_db: NumOrNone = None
    thirds: list[ThirdLevel] = []
    octaves: list[ThirdLevel] = []
    nc: NumOrNone = None
    nr: NumOrNone = None
    tones: list[ToneFound] = []
    events: list[EventFound] = []
    noises: list[NoiseFound] = []


class SwellFound(Answer):
    f_hz: Num2
    rise_db: Num2
    note: str
    mode: ModeMatch | None = IF_ANY


class GlideTrack(Answer):
    time_s: Numbers2
    pitch_hz: Gaps
    level_db: Gaps


class GlideCurve(Answer):
    f_hz: Numbers2
    rise_db: Numbers2


class GlideResult(Read):
    """Contract of `analyse glide`."""

    form: Literal["glide"] = "glide"
    swells: list[SwellFound] = []
    pitch_low_hz: Num2OrNone = None
    pitch_high_hz: Num2OrNone = None
    track: GlideTrack | None = IF_ANY
    curve: GlideCurve | None = IF_ANY


class FindingAnswer(Answer):
    """Something found in a take. measure : what it is told by. f_hz : of a tone, an edge, a beat."""

    kind: str
    start_s: Num
    end_s: Num
    value: Num
    unit: str
    confidence: Num
    cure: str
    measure: str = ""
    f_hz: NumOrNone = IF_ANY


class SectionAnswer(Answer):
    """A part of a take: its peak [dBFS] and by how much to turn the gain for it, in whole decibels."""

    start_s: Num
    end_s: Num
    peak_dbfs: Num2
    gain_db: int


class LaterAnswer(Answer):
    """What is quiet now and raised later. noise_db : under the performance, A-weighted, as recorded, squeezed by 10 dB,
    and with 6 dB more treble besides; room_db : the direct sound over the room, alike; esses_db : over the vowels.
    """

    noise_db: list[Num2] | None
    room_db: list[Num2] | None
    esses_db: list[Num2] | None
    words: str


class TakeResult(Read):
    """Contract of `analyse take`, and of `spoken`, `pops` and `loudest`.

    keep : keep, parts or again; spoilt : what to play again, from and to. [s] phrases : from and to. [s]
    fades_s : how the ends of phrases fade, null where they do not tell; tail_db : where that begins, against the
    phrase. sounds_at_m : as far as it sounds, in the room as drawn. not_looked_for : kinds of findings with why.
    gain_words : what to do about the level; lowest_words : where the dial stands at its lowest already.
    """

    form: Literal["take"] = "take"
    loudness_lufs: NumOrNone = None
    true_peak_dbtp: NumOrNone = None
    sample_peak_dbfs: NumOrNone = None
    average_dbfs: NumOrNone = None
    active_dba: NumOrNone = None
    noise_floor_dbfs: NumOrNone = None
    noise_floor_dba: NumOrNone = None
    snr_db: NumOrNone = None
    gain_advice_db: NumOrNone = None
    findings: list[FindingAnswer] = []
    keep: str = ""
    keep_words: str = ""
    spoilt: list[tuple[Num, Num]] = []
    phrases: list[tuple[Num, Num]] = []
    sections: list[SectionAnswer] = []
    fades_s: NumOrNone = None
    tail_db: NumOrNone = None
    direct_over_room_db: NumOrNone = None
    sounds_at_m: NumOrNone = None
    not_looked_for: dict[str, str] = {}
    later: LaterAnswer | None = IF_ANY
    gain_words: str = ""
    lowest_words: str = ""
    blocks_db: Numbers2 | None = IF_ANY
    thirds: list[ThirdLevel] | None = IF_ANY


class CurveKept(Answer):
    f_hz: Numbers
    level_db: Numbers


class CurveResult(Read):
    """A curve brought from elsewhere."""

    form: Literal["curve"] = "curve"
    curve: CurveKept


Result = Annotated[ResponseResult | ToneResult | GlideResult | TakeResult | CurveResult, Field(discriminator="form")]


class ReadingHeadline(Answer):
    """The few figures that a table of readings shows; null where the reading does not give one. said : in words;
    begins_s : where a take's first line begins; sketch : heights from 0 to 1 of a small drawing.
    """

    said: str = ""
    t_mid_s: NumOrNone = None
    edt_mid_s: NumOrNone = None
    c50_mid_db: NumOrNone = None
    direct_over_room_db: NumOrNone = None
    laeq_db: NumOrNone = None
    calibrated: bool | None = None
    true_peak_dbtp: NumOrNone = None
    snr_db: NumOrNone = None
    loudness_lufs: NumOrNone = None
    swell_hz: NumOrNone = None
    pops: int | None = None
    begins_s: NumOrNone = None
    sketch: list[float | None] = []


class ReadingSettings(Answer):
    """How a reading was taken: its chain, and what happened on the way."""

    device: str | None = IF_ANY
    channel: str | None = IF_ANY
    gain: str | None = IF_ANY
    gain_db: NumOrNone = IF_ANY
    rate_hz: NumOrNone = IF_ANY
    not_raw: list[str] | None = IF_ANY
    was_hidden: bool | None = IF_ANY
    unplugged: bool | None = IF_ANY
    play_db: NumOrNone = IF_ANY
    seed: int | None = IF_ANY
    faults: list[str] | None = IF_ANY
    calibration_db: NumOrNone = IF_ANY
    calibration_plus_minus_db: NumOrNone = IF_ANY
    calibration_method: str | None = IF_ANY
    average_of: list[str] | None = IF_ANY
    likeness: NumOrNone = IF_ANY


class ReadingBrief(Answer):
    """What is kept of a reading's result for lists and marks."""

    verdict: VerdictAnswer
    headline: ReadingHeadline
    t_mid_s: float | None
    laeq_db: float | None
    active_dba: float | None
    pops_db: list[float]


class ReadingSummary(Answer):
    """A reading without its figures. sequence : its place in what happened. current : it was taken in the room as it
    stands; since : what changed meanwhile.
    """

    id: str
    kind: str
    form: str
    way: Literal["import", "browser", "rig"]
    simulated: bool
    taken_at: str
    file_name: str
    sample_rate_hz: float
    seconds: float
    note: str
    tags: list[str]
    counts: bool
    verdict: VerdictAnswer
    measured: dict[str, MeasuredFigure]
    predicted: dict[str, FigureAnswer]
    empty: list[Empty]
    settings: ReadingSettings
    headline: ReadingHeadline
    mic_at: tuple[float, float, float]
    room_revision: int | None
    sequence: int
    current: bool | None = None
    since: str | None = None


class ReadingAnswer(ReadingSummary):
    """A reading with everything that the plots show."""

    result: Result
    arrangement: ArrangementDoc


def verdict_answer(verdict: Verdict) -> VerdictAnswer:
    """A verdict with its words."""
    told = [(reason.code, *reason_words(reason)) for reason in verdict.reasons]
    reasons = [ReasonAnswer(code=code, text=text, cure=cure) for code, text, cure in told]
    return VerdictAnswer.model_validate({"usable": verdict.usable, "word": verdict.word, "reasons": reasons})


def with_reason(
    verdict: VerdictAnswer, code: str, *, usable: bool, figures: Mapping[str, float | str] | None = None
) -> VerdictAnswer:
    """The same verdict with one more reason."""
    text, cure = words(code, figures=figures)
    reasons = [*verdict.reasons, ReasonAnswer(code=code, text=text, cure=cure)]
    return VerdictAnswer(usable=usable, word="usable" if usable else "not usable", reasons=reasons)


def band_answers(bands: Iterable[BandDecay], *, curves: bool = False) -> list[BandAnswer]:
    """Figures of bands, with their curves where asked for."""
    return [BandAnswer.out_of(band, **({} if curves else {"curve_s": None, "curve_db": None})) for band in bands]


def response_result(figures: ResponseFigures, *, curves: bool = False) -> ResponseResult:
    """A response; with curves, what the plots need too."""
    sweep = figures.sweep
    result = ResponseResult(
        verdict=verdict_answer(figures.verdict),
        sample_rate_hz=figures.sample_rate_hz,
        bands=band_answers(figures.bands, curves=curves),
        t_mid_s=figures.t_mid_s,
        early=figures.early,
        ringing=[RingingAnswer.out_of(n, note=note_words(n.f_hz)) for n in figures.ringing],
        flutter=figures.flutter,
        direct_over_room_db=figures.direct_over_room_db,
        sweep=None if sweep is None else SweepAnswer.out_of(sweep, delay_ms=sweep.delay_s * 1000),
    )
    if curves:
        smooth = smoothed_db(figures.low_db, figures.low_f_hz)
        result.low_end = LowEnd(f_hz=figures.low_f_hz, level_db=figures.low_db, smooth_db=smooth)
        if figures.surface is not None:
            surface = figures.surface
            result.surface = Surface(f_hz=surface.f_hz, time_s=surface.time_s, level_db=surface.level_db)
    return result


def _thirds(centres_hz: FloatArray, levels_db: FloatArray) -> list[ThirdLevel]:
    return [ThirdLevel(centre_hz=float(f), level_db=level) for f, level in zip(centres_hz, levels_db, strict=True)]


def tone_result(figures: ToneFigures, *, curves: bool = False) -> ToneResult:
    """A recorded silence."""
    tone = figures.tone
    return ToneResult.out_of(
        tone,
        verdict=verdict_answer(figures.verdict),
        thirds=_thirds(tone.thirds_hz, tone.thirds_db),
        octaves=[ThirdLevel(centre_hz=f, level_db=level) for f, level in zip(OCTAVES_HZ, tone.octaves_db, strict=True)],
        noises=[NoiseFound.out_of(noise, cure=noise_cure(noise)) for noise in figures.noises],
    )


def glide_result(figures: GlideFigures, *, curves: bool = False) -> GlideResult:
    """A hummed glide; with curves the track and the level against pitch."""
    glide = figures.glide
    low, high = (float(np.nanpercentile(glide.pitch_hz, share)) for share in (1, 99))
    result = GlideResult(
        verdict=verdict_answer(figures.verdict),
        swells=[SwellFound.out_of(s, note=note_words(s.f_hz)) for s in glide.swells],
        pitch_low_hz=low,
        pitch_high_hz=high,
    )
    if curves:
        passed = np.isfinite(glide.rise_db)
        result.track = GlideTrack(time_s=glide.time_s, pitch_hz=glide.pitch_hz, level_db=glide.level_db)
        result.curve = GlideCurve(f_hz=glide.curve_hz[passed], rise_db=glide.rise_db[passed])
    return result


def take_result(figures: TakeFigures, *, curves: bool = False) -> TakeResult:
    """A take so far as its level goes; with curves the level in tenths of a second and the sound's thirds."""
    levels = figures.levels
    result = TakeResult.out_of(
        levels,
        verdict=verdict_answer(figures.verdict),
        findings=[],
        gain_advice_db=None,
        blocks_db=None,
        thirds=None,
        phrases=[(phrase.start_s, phrase.end_s) for phrase in levels.phrases],
        fades_s=levels.fading.decay_s if levels.fading is not None and levels.fading.agree else None,
        tail_db=None if levels.fading is None else levels.fading.tail_db,
        direct_over_room_db=None if levels.fading is None else levels.fading.direct_over_room_db,
        not_looked_for={kind: NEEDS_WORDS[needs] for kind, needs in levels.not_looked_for.items()},
    )
    if not levels.mixed:  # a mix has no dial to turn, and is raised no more
        result.gain_advice_db = levels.gain_advice_db
        result.gain_words = gain_words(levels.gain_advice_db, lowest=False, distance_m=None)
        result.lowest_words = gain_words(levels.gain_advice_db, lowest=True, distance_m=None)
        result.later = _later(levels)
    if (
        levels.true_peak_dbtp > HOT_DBTP
        and not levels.mixed
        and not any(r.code == "clipped" for r in result.verdict.reasons)
    ):
        result.verdict = with_reason(
            result.verdict, "hot", usable=result.verdict.usable, figures={"peak_dbfs": levels.true_peak_dbtp}
        )
    result = judged_by(result, levels, dry=True, by_voice=False)
    if curves:
        result.blocks_db = levels.blocks_db.tolist()
        result.thirds = _thirds(levels.thirds_hz, levels.thirds_db)
    return result


def judged_by(result: TakeResult, levels: TakeLevels, *, dry: bool, by_voice: bool) -> TakeResult:
    """The take with its verdict. dry : whether the brief wants it without the room; by_voice : whether a voice is
    heard, which stops at once where no room sounds on.
    """
    seconds = len(levels.blocks_db) * BLOCK_S
    found = list(levels.findings)
    told_of = by_voice and levels.is_played and not levels.mixed
    all_through = washed(levels.fall_db, levels.under_db, found, seconds) if told_of else []
    found = list(in_order([*found, *all_through]))
    told = kept(
        found,
        seconds,
        phrases=levels.phrases,
        under_db=levels.under_db,
        dry=dry,
        is_washed=bool(all_through),
        is_played=levels.is_played,
    )
    spoilt = [(span.start_s, span.end_s) for span in told.spoilt]
    one_gain = len({section.gain_db for section in levels.sections}) < 2
    return result.model_copy(
        update={
            "findings": [finding_answer(f, one_gain=one_gain) for f in found],
            "keep": told.keep,
            "keep_words": VERDICTS["mixed"] if levels.mixed else keep_words(told.keep, told.why, spoilt),
            "spoilt": spoilt,
        }
    )


def finding_answer(found: Finding, *, distance: str = "come back to the mark", one_gain: bool = True) -> FindingAnswer:
    """A finding with its cure. distance : in words, where it tells of one. one_gain : one holds the whole take."""
    cure = finding_cure(found, distance=distance, one_gain=one_gain)
    return FindingAnswer.out_of(found, cure=cure, measure=FINDING_MEASURES[found.kind])


def _later(levels: TakeLevels) -> LaterAnswer:
    found = raised_later(levels)
    return LaterAnswer.out_of(found, words=later_words(found))
