"""Test take, spoken line, pop words, loudest passage: how the microphone is used, and the noise in the pauses."""

from collections.abc import Callable
from functools import partial

from keenquiet.advice.takes import gain_words, ring_words
from keenquiet.core.figures import TakeFigures, read_long_take, read_take
from keenquiet.core.read.quality import Verdict
from keenquiet.core.take.levels import TakeLevels
from keenquiet.core.waves.puff import FROM_THE_MOUTH
from keenquiet.documents.schema import ArrangementDoc, RoomDoc
from keenquiet.service.answers.marks import Empty, FigureAnswer, MeasuredFigure, marks_of, wanted_of
from keenquiet.service.answers.readings import ReadingHeadline, TakeResult, judged_by, take_result, verdict_answer
from keenquiet.service.kinds.base import ReadingKind, ReadOptions, Settled, Where
from keenquiet.service.kinds.silences import signed
from keenquiet.service.predict import predict
from keenquiet.store.audiofile import Audio

_Settle = Callable[[TakeResult, TakeFigures, Where], Settled]
_A_MIX = "It was a finished mix, not one microphone."
_NO_PAUSE = "There was no pause to read the noise in."


def _beside(result: TakeResult, figures: TakeFigures, where: Where) -> TakeResult:
    """How far away it sounds, and what to do about the level, with the distance that is drawn."""
    if result.true_peak_dbtp is None:
        return result
    result = judged_in(result, figures.levels, where.room, where.arrangement)
    if where.trouble is not None:
        return result
    away = where.performing.touch.distance_m
    told = result.direct_over_room_db
    sounds = None if told is None else away * 10 ** ((where.performing.bounce.direct_over_room_db.value - told) / 20)
    hot = "" if result.gain_advice_db is None else gain_words(result.gain_advice_db, lowest=True, distance_m=away)
    return result.model_copy(update={"sounds_at_m": sounds, "lowest_words": hot})


def judged_in(result: TakeResult, levels: TakeLevels, room: RoomDoc, arrangement: ArrangementDoc) -> TakeResult:
    """The verdict by a room's brief and by who performs."""
    voice = arrangement.performer.source in FROM_THE_MOUTH
    return judged_by(result, levels, dry=wanted_of(room).bounce_db.high is None, by_voice=voice)


def _take(audio: Audio, options: ReadOptions, *, spoken: bool) -> TakeFigures:
    """All of it: what is longer than what was decoded is read stretch by stretch."""
    rate, at = audio.sample_rate_hz, audio.at
    if at is None or audio.whole_s is None:
        return read_take(audio.channels, rate, bits=audio.bits, spoken=spoken)
    return read_long_take(lambda a, b: at(a, b).channels, audio.whole_s, rate, bits=audio.bits, spoken=spoken)


def _refused(verdict: Verdict, audio: Audio) -> TakeResult:
    return TakeResult(verdict=verdict_answer(verdict))


def _answer(figures: TakeFigures, curves: bool) -> TakeResult:
    return take_result(figures, curves=curves)


def speaking(arrangement: ArrangementDoc) -> ArrangementDoc:
    """The same places with somebody who speaks."""
    return arrangement.model_copy(
        update={"performer": arrangement.performer.model_copy(update={"source": "voice-spoken"})}
    )


def _touch(result: TakeResult) -> dict[str, MeasuredFigure]:
    if result.true_peak_dbtp is None:
        return {}
    figure = MeasuredFigure(
        value=result.true_peak_dbtp,
        plus_minus=0.5,
        average_dbfs=result.average_dbfs,
        noise_floor_dbfs=result.noise_floor_dbfs,
        gain_advice_db=result.gain_advice_db,
    )
    return {"touch": figure}


def _hush(result: TakeResult, where: Where, *, louder_db: float, plus_minus: float, by: str) -> Settled:
    """Hush by what lies between the phrases. louder_db : by how much the performance is louder than what was heard."""
    if result.snr_db is None:
        return Settled(empty=(Empty(mark="hush", why=_NO_PAUSE),))
    found = MeasuredFigure(value=round(result.snr_db + louder_db, 2), plus_minus=plus_minus, by=by)
    promised = marks_of(where.performing, wanted_of(where.room)).hush.predicted
    predicted: dict[str, FigureAnswer] = {} if promised is None else {"hush": promised}
    return Settled({"hush": found}, predicted)


def _settle_take(result: TakeResult, figures: TakeFigures, where: Where) -> Settled:
    hush = _hush(result, where, louder_db=0.0, plus_minus=2.0, by="the pauses of the take")
    return Settled({**_touch(result), **hush.measured}, hush.predicted, hush.empty)


def _settle_spoken(result: TakeResult, figures: TakeFigures, where: Where) -> Settled:
    """A spoken line is led over to the performance by the usual levels, as uncertain as one person's effort is."""
    spoken = predict(
        where.room.model_copy(update={"arrangements": [speaking(where.arrangement)]}), where.arrangement.id
    )
    louder = where.performing.hush.performance_dba - spoken.hush.performance_dba
    return _hush(result, where, louder_db=louder, plus_minus=6.0, by="a spoken line")


def _settle_loudest(result: TakeResult, figures: TakeFigures, where: Where) -> Settled:
    return Settled(_touch(result))


def _settle_pops(result: TakeResult, figures: TakeFigures, where: Where) -> Settled:
    """Pops stand beside a take's Touch (`service.standing`); words alone say nothing of the loudest note."""
    return Settled()


def _headline(result: TakeResult, *, with_noise: bool = False) -> ReadingHeadline:
    said = ""
    if result.true_peak_dbtp is not None:
        noise = f", noise {result.snr_db:.0f} dB under you" if with_noise and result.snr_db else ""
        room = (
            ""
            if not with_noise or result.fades_s is None
            else f"; {ring_words(result.fades_s, result.direct_over_room_db)}"
        )
        said = f"Peak {signed(result.true_peak_dbtp, 1)} dBFS{noise}{room}"
    return ReadingHeadline(
        said=said,
        true_peak_dbtp=result.true_peak_dbtp,
        snr_db=result.snr_db,
        loudness_lufs=result.loudness_lufs,
        begins_s=result.phrases[0][0] if result.phrases else None,
    )


def _pops_headline(result: TakeResult) -> ReadingHeadline:
    plain = _headline(result)
    if not result.verdict.usable and result.true_peak_dbtp is None:
        return plain
    pops = sum(finding.kind == "pop" for finding in result.findings)
    return plain.model_copy(
        update={"pops": pops, "said": "No pop" if pops == 0 else "One pop" if pops == 1 else f"{pops} pops"}
    )


def _of_one_microphone(
    settle: _Settle, marks: tuple[str, ...], result: TakeResult, figures: TakeFigures, where: Where
) -> Settled:
    """A finished mix says nothing of this room, of this microphone and of its dial."""
    if any(reason.code == "mixed" for reason in result.verdict.reasons):
        return Settled(empty=tuple(Empty(mark=mark, why=_A_MIX) for mark in marks))
    return settle(result, figures, where)


def _kind(key: str, settle, headline, *, spoken: bool = False, **more) -> ReadingKind:  # type: ignore[no-untyped-def]
    read = partial(_take, spoken=spoken)
    settled = partial(_of_one_microphone, settle, more.get("settles", ()))
    return ReadingKind(
        key, "take", read, _answer, _refused, _beside, settled, headline, spoken=spoken, in_parts=True, **more
    )


TAKES = (
    _kind(
        "spoken", _settle_spoken, partial(_headline, with_noise=True), spoken=True, settles=("hush",), also=("take",)
    ),
    _kind("pops", _settle_pops, _pops_headline, spoken=True),
    _kind("loudest", _settle_loudest, _headline, settles=("touch",)),
    _kind("take", _settle_take, _headline, settles=("touch", "hush"), by_hand=True),
)
