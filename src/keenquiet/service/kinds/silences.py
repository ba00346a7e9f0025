"""Silence and hum glide: what is there when nobody plays, and where the room swells under a hum."""

import numpy as np

from keenquiet.core.figures import GlideFigures, ToneFigures, read_glide, read_tone
from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.read.quality import Verdict
from keenquiet.core.waves.modes import SAME_MODE
from keenquiet.service.answers.readings import (
    GlideResult,
    ModeMatch,
    ReadingHeadline,
    SwellFound,
    ToneResult,
    glide_result,
    tone_result,
    verdict_answer,
)
from keenquiet.service.kinds.base import ReadingKind, ReadOptions, Where, settles_nothing, unchanged
from keenquiet.store.audiofile import Audio


def _tone(audio: Audio, options: ReadOptions) -> ToneFigures:
    return read_tone(audio.channels, audio.sample_rate_hz, bits=audio.bits, calibration_db=options.calibration_db)


def _tone_refused(verdict: Verdict, audio: Audio) -> ToneResult:
    return ToneResult(verdict=verdict_answer(verdict))


def _tone_answer(figures: ToneFigures, curves: bool) -> ToneResult:
    return tone_result(figures)


def _tone_headline(result: ToneResult) -> ReadingHeadline:
    if result.laeq_db is None:
        return ReadingHeadline()
    unit = "dB(A)" if result.calibrated else "dBFS"
    said = f"{signed(result.laeq_db)} {unit} when nobody plays"
    return ReadingHeadline(said=said, laeq_db=result.laeq_db, calibrated=result.calibrated)


def signed(value: float, digits: int = 0) -> str:
    """A figure with a true minus."""
    return f"{value:.{digits}f}".replace("-", "−")


def _glide(audio: Audio, options: ReadOptions) -> GlideFigures:
    return read_glide(audio.channels, audio.sample_rate_hz, bits=audio.bits)


def _glide_refused(verdict: Verdict, audio: Audio) -> GlideResult:
    return GlideResult(verdict=verdict_answer(verdict))


def _glide_answer(figures: GlideFigures, curves: bool) -> GlideResult:
    return glide_result(figures, curves=curves)


def _glide_beside(result: GlideResult, figures: GlideFigures, where: Where) -> GlideResult:
    if where.trouble is not None:
        result.apart = where.trouble
        return result
    result.swells = [_swelling(swell, where.seen) for swell in result.swells]
    return result


def _swelling(swell: SwellFound, forecast: Forecast) -> SwellFound:
    """A swell with the predicted mode within 3 % that is heard most at the microphone."""
    modes = forecast.modes
    near = np.flatnonzero(np.abs(modes.f_hz / swell.f_hz - 1) < SAME_MODE)
    if not len(near):
        return swell
    best = int(near[np.argmax(forecast.heard_db[near])])
    match = ModeMatch(f_hz=modes.f_hz[best], t60_s=modes.t60_s[best], kind=modes.kinds[best])
    return swell.model_copy(update={"mode": match})


def _glide_headline(result: GlideResult) -> ReadingHeadline:
    if not result.swells:
        return ReadingHeadline(said="No note swells" if result.verdict.usable else "")
    first = result.swells[0].f_hz
    return ReadingHeadline(said=f"Swells most at {first:.0f} Hz", swell_hz=first)


SILENCES = (
    ReadingKind(
        "glide",
        "glide",
        _glide,
        _glide_answer,
        _glide_refused,
        _glide_beside,
        settles_nothing,
        _glide_headline,
        most_seconds=120.0,
    ),
    # with a take through the same chain it settles Hush: `service.standing` puts the two together
    ReadingKind("tone", "tone", _tone, _tone_answer, _tone_refused, unchanged, settles_nothing, _tone_headline),
)
