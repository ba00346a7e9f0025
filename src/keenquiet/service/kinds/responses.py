"""Sweep, impulse response and clap: what the room answers."""

from functools import partial

import numpy as np

from keenquiet.advice.surfaces import surface_words
from keenquiet.advice.tape import tape_sentence
from keenquiet.core.figures import ResponseFigures, low_swing_db, read_impulse, read_sweep
from keenquiet.core.judge.forecast import HEARD_WITHIN_DB, Forecast, boom_range_hz
from keenquiet.core.judge.tape_check import tape_check
from keenquiet.core.read.decay import band_decays, onset_index
from keenquiet.core.read.quality import Verdict
from keenquiet.core.read.ringing import Note
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.modes import SAME_MODE
from keenquiet.service.answers.forecast import FlutterAnswer, PathAnswer, flutter_answers, judged_decay, path_answers
from keenquiet.service.answers.marks import Empty, FigureAnswer, MeasuredFigure, marks_of, wanted_of
from keenquiet.service.answers.readings import (
    EarlyAnswer,
    EnergyTime,
    FlutterHeard,
    ModeMatch,
    ReadingHeadline,
    ResponseResult,
    ReturnAnswer,
    RingingAnswer,
    TapeAnswer,
    band_answers,
    response_result,
    verdict_answer,
)
from keenquiet.service.kinds.base import ReadingKind, ReadOptions, Settled, Where
from keenquiet.store.audiofile import Audio

_SAME_MS = 0.35
_SAME_DB = 15.0
_SAME_SPACING = 0.05
_MID_HZ = (500, 1000)
_PLOT_S = 0.05
_MOST_S = 60.0  # a sweep with its decay takes ten


def _sweep(audio: Audio, options: ReadOptions) -> ResponseFigures:
    return read_sweep(
        audio.channels, audio.sample_rate_hz, spec=options.spec, bits=audio.bits, fraction=options.fraction
    )


def _impulse(audio: Audio, options: ReadOptions, *, computed: bool) -> ResponseFigures:
    return read_impulse(
        audio.channels, audio.sample_rate_hz, bits=audio.bits, fraction=options.fraction, computed=computed
    )


def _refused(verdict: Verdict, audio: Audio) -> ResponseResult:
    return ResponseResult(verdict=verdict_answer(verdict), sample_rate_hz=audio.sample_rate_hz)


def _answer(figures: ResponseFigures, curves: bool) -> ResponseResult:
    return response_result(figures, curves=curves)


def _beside(result: ResponseResult, figures: ResponseFigures, where: Where) -> ResponseResult:
    """Returns named by surface, notes matched with modes, flutter's walls, the tape checked."""
    result.thirds = band_answers(band_decays(figures.impulse, figures.sample_rate_hz, fraction=3))
    result.energy_time = energy_time(figures)
    if result.t_mid_s is not None:
        result.judged = judged_decay(result.t_mid_s, where.room)
    if where.trouble is not None:
        result.apart = where.trouble
        return result
    forecast = where.seen
    result.ringing = [matched(note, forecast) for note in result.ringing]
    paths = path_answers(forecast, where.here)
    result.early = [named(early, paths) for early in result.early]
    if result.flutter is not None:
        result.flutter = between(result.flutter, flutter_answers(forecast.acoustics.flutter, forecast, where.here))
    result.trusted_above_hz = round(forecast.decay.trusted_above_hz, 1)
    result.tape = _tape(figures, forecast)
    return result


def matched(note: RingingAnswer, forecast: Forecast) -> RingingAnswer:
    """A ringing note with the predicted mode nearest to it, within 3 %."""
    modes = forecast.modes
    off = np.abs(modes.f_hz / note.f_hz - 1)
    near = np.flatnonzero(off < SAME_MODE)
    if not len(near):
        return note
    best = int(near[np.argmax(forecast.heard_db[near] - 200 * off[near])])
    orders = None if modes.orders is None else tuple(int(n) for n in modes.orders[best])
    match = ModeMatch.model_validate({"f_hz": modes.f_hz[best], "t60_s": modes.t60_s[best], "indices": orders})
    return note.model_copy(update={"mode": match})


def named(early: EarlyAnswer, paths: list[PathAnswer]) -> EarlyAnswer:
    """A measured arrival with the drawn path that fits within 0.35 ms and 15 dB."""
    near = [
        path
        for path in paths
        if abs(path.delay_ms - early.delay_ms) < _SAME_MS and abs(path.level_db - early.level_db) < _SAME_DB
    ]
    if not near:
        return early
    best = max(near, key=lambda path: path.level_db)
    return early.model_copy(update={"where": best.where, "predicted_db": best.level_db})


def between(heard: FlutterHeard, pairs: list[FlutterAnswer]) -> FlutterHeard:
    """A measured flutter with the pair of surfaces whose spacing fits within 5 %, the one that lasts longest first."""
    fits = [pair for pair in pairs if abs(pair.spacing_m / heard.spacing_m - 1) < _SAME_SPACING]
    best = max(fits, key=lambda pair: pair.lasts_s) if fits else None
    return heard.model_copy(update={"between": best.where if best else None})


def _tape(figures: ResponseFigures, forecast: Forecast) -> TapeAnswer | None:
    """Whether the returns heard agree with the lengths taped; None where too few are."""
    room, arrangement = forecast.room, forecast.arrangement
    found = tape_check(room, arrangement, forecast.paths, figures.impulse, figures.sample_rate_hz)
    if not found.returns:
        return None
    return TapeAnswer(
        agrees=found.agrees,
        sentence=tape_sentence(found, forecast),
        suspect=None if found.suspect is None else found.suspect[0],
        off_m=found.off_m,
        returns=[
            ReturnAnswer(
                where=surface_words(room, check.face, arrangement),
                drawn_ms=check.drawn_ms,
                heard_ms=check.heard_ms,
                off_m=check.off_m,
            )
            for check in found.returns
        ],
    )


def energy_time(figures: ResponseFigures) -> EnergyTime:
    """Energy-time curve after the direct sound, thinned for drawing."""
    start = max(onset_index(figures.impulse) - int(0.001 * figures.sample_rate_hz), 0)
    part: FloatArray = figures.impulse[start : start + int(_PLOT_S * figures.sample_rate_hz)]
    block = max(int(0.0001 * figures.sample_rate_hz), 1)
    power = part[: len(part) // block * block].reshape(-1, block) ** 2
    level = 10 * np.log10(np.maximum(power.max(axis=1) / power.max(), 1e-6))
    time_ms = (np.arange(len(level)) + 0.5) * block / figures.sample_rate_hz * 1000 - 1.0
    return EnergyTime(time_ms=time_ms, level_db=level)


def _settle(result: ResponseResult, figures: ResponseFigures, where: Where, *, is_clap: bool) -> Settled:
    """Bounce and Boom, led over from the loudspeaker to the performer by the same models.

    A clap settles Boom only: nobody knows how a clap sends its sound.
    """
    measured: dict[str, MeasuredFigure] = {}
    predicted: dict[str, FigureAnswer] = {}
    empty: list[Empty] = []
    performing, seen = where.performing, where.seen
    marks = marks_of(performing, wanted_of(where.room))
    if is_clap:
        empty.append(Empty(mark="bounce", why="A clap does not send its sound as you do; a sweep settles Bounce."))
    elif figures.direct_over_room_db is None:
        empty.append(Empty(mark="bounce", why="The direct sound and the room could not be told apart."))
    else:
        lead = performing.bounce.direct_over_room_db.value - seen.bounce.direct_over_room_db.value
        measured["bounce"] = MeasuredFigure(
            value=figures.direct_over_room_db + lead,
            plus_minus=0.7,
            raw_value=figures.direct_over_room_db,
            performer_correction_db=lead,
            decay_s=figures.t_mid_s,
        )
    low, high = boom_range_hz(performing.arrangement, performing.room.shape)
    note = hanging_note(figures.ringing, (low, high))
    if note is None:
        empty.append(Empty(mark="boom", why="No note was found to ring on where you perform."))
    else:
        swing = low_swing_db(figures.low_f_hz, figures.low_db, low_hz=min(max(low, 60.0), high / 2), high_hz=high)
        measured["boom"] = MeasuredFigure(
            value=note.t60_s, plus_minus=0.1 * note.t60_s, note_hz=note.f_hz, swing_db=swing
        )
    for mark in measured:
        promised = marks.by_mark()[mark].predicted
        if promised is not None:
            predicted[mark] = promised
    return Settled(measured, predicted, tuple(empty))


def hanging_note(notes: tuple[Note, ...], range_hz: tuple[float, float]) -> Note | None:
    """The note that hangs longest among those heard, by the same rule as the prediction."""
    inside = [note for note in notes if range_hz[0] <= note.f_hz <= range_hz[1]]
    if not inside:
        return None
    loudest = max(note.level_db for note in inside)
    return max((note for note in inside if note.level_db >= loudest - HEARD_WITHIN_DB), key=lambda note: note.t60_s)


def _headline(result: ResponseResult) -> ReadingHeadline:
    mid = [band for band in result.bands if band.centre_hz in _MID_HZ]

    def middle(key: str) -> float | None:
        given = [value for band in mid if (value := getattr(band, key)) is not None]
        return round(sum(given) / len(given), 3) if given else None

    edt = middle("edt_s")
    said = ""
    if result.t_mid_s:
        said = f"Hangs on for {result.t_mid_s:.2f} s"
    elif edt:
        said = f"Begins to fade as in {edt:.2f} s (EDT)"
    return ReadingHeadline(
        said=said,
        t_mid_s=result.t_mid_s,
        edt_mid_s=edt,
        c50_mid_db=middle("c50_db"),
        direct_over_room_db=result.direct_over_room_db,
    )


def _response(key: str, read, *, is_clap: bool = False, **more) -> ReadingKind:  # type: ignore[no-untyped-def]
    return ReadingKind(
        key,
        "response",
        read,
        _answer,
        _refused,
        _beside,
        partial(_settle, is_clap=is_clap),
        _headline,
        settles=("boom",) if is_clap else ("bounce", "boom"),
        most_seconds=_MOST_S,
        **more,
    )


RESPONSES = (
    _response("sweep", _sweep, by_loudspeaker=True, averaged=True),
    _response("clap", partial(_impulse, computed=False), is_clap=True, starts_itself=True, also=("sweep", "ir")),
    _response(
        "ir", partial(_impulse, computed=True), by_loudspeaker=True, averaged=True, shown=False, ways=("import",)
    ),
)
