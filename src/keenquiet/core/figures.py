"""A whole reading at once: recording in, all figures and a verdict out. The one place that knows the order of steps."""

from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.decay import BandDecay, band_decays, onset_index, t_mid_s
from keenquiet.core.read.decay_surface import DecaySurface, decay_surface
from keenquiet.core.read.early import Reflection, direct_over_room_db, early_reflections
from keenquiet.core.read.flutter import Flutter, find_flutter
from keenquiet.core.read.gain_step import gain_step
from keenquiet.core.read.glide import Glide, glide_figures
from keenquiet.core.read.intruders import intruders
from keenquiet.core.read.noises import Noise, noises_in
from keenquiet.core.read.quality import Reason, Verdict, at_the_last_bit, checked, gain_turned, verdict
from keenquiet.core.read.ringing import Note, ringing_notes
from keenquiet.core.read.steadiness import Steadiness
from keenquiet.core.read.sweep import Deconvolved, SweepSpec, deconvolve
from keenquiet.core.read.tone import RoomTone, later, room_tone
from keenquiet.core.take.levels import TakeLevels, long_take_levels, take_levels
from keenquiet.core.take.part import TakePart, read_part
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.response import smoothed_db

SILENCE_S: Final = 10.0
_LEAST_SOUND_S: Final = 0.01
_EDGE_S: Final = 2.0
_EDGE_SHARE: Final = 0.17  # of a brief one
_NO_SILENCE_DB: Final = 10.0
_WORDS_HZ: Final = 0.6  # speech rises from gap to syllable one to three times a second
_PHRASES_HZ: Final = 0.25  # song, when it stands far above the rest, once in some seconds
_NO_VOICE_DB: Final = 6.0
_PART_S: Final = 120.0  # of a take that goes on for hours
_USUAL_RATE_HZ: Final = 48_000.0
_SETTLED_S: Final = 0.45  # after a clap: the decay is over where the hiss is asked
_CARRIED_DB: Final = 20.0  # impulse response over noise in a band from which a ringing note is believed


@dataclass(frozen=True)
class ResponseFigures:
    """Everything read from an impulse response."""

    sample_rate_hz: float
    bands: tuple[BandDecay, ...]
    t_mid_s: float | None
    early: tuple[Reflection, ...]
    ringing: tuple[Note, ...]
    flutter: Flutter | None
    direct_over_room_db: float | None
    low_f_hz: FloatArray
    low_db: FloatArray
    verdict: Verdict
    impulse: FloatArray
    sweep: Deconvolved | None = None
    surface: DecaySurface | None = None


@dataclass(frozen=True)
class ToneFigures:
    """Everything read from a recorded silence. noises : what it is made of."""

    tone: RoomTone
    verdict: Verdict
    noises: tuple[Noise, ...] = ()


@dataclass(frozen=True)
class GlideFigures:
    """Everything read from a hummed glide."""

    glide: Glide
    verdict: Verdict


@dataclass(frozen=True)
class TakeFigures:
    """Everything read from a test take, so far as its level goes."""

    levels: TakeLevels
    verdict: Verdict


@contextmanager
def _noticing(codes: tuple[str, ...]) -> Iterator[None]:
    """A reading that gives up still tells what was noticed before."""
    try:
        yield
    except MeasurementError as exc:
        exc.noticed = codes
        raise


def read_sweep(
    channels: FloatArray,
    sample_rate_hz: float,
    *,
    spec: SweepSpec | None = None,
    bits: int | None = None,
    fraction: int = 1,
) -> ResponseFigures:
    """Read a recording of the sweep. channels : (n_channels, n). Raises MeasurementError when it cannot be read."""
    clean = checked(channels, sample_rate_hz, bits=bits)
    with _noticing(clean.codes):
        try:
            found = deconvolve(clean.samples, sample_rate_hz, spec=spec)
        except MeasurementError as exc:
            if exc.code == "no_sweep":
                _name_wrong_rate(clean.samples, sample_rate_hz, spec)
            raise
    codes: list[str | Reason] = list(clean.codes)
    if not {"clipped", "flat_topped"} & set(clean.codes):  # a cut wave explains whatever the residual holds
        codes += unsteady(found.steady)
    return _response(found.impulse, sample_rate_hz, codes, fraction, found)


def _name_wrong_rate(samples: FloatArray, sample_rate_hz: float, spec: SweepSpec | None) -> None:
    """Raises when the sweep is there but at another speed: the file names a sample rate it was not recorded at."""
    for true_hz in (44_100.0, 48_000.0, 88_200.0, 96_000.0):
        if abs(true_hz - sample_rate_hz) < 1:
            continue
        try:
            deconvolve(samples, true_hz, spec=spec)
        except MeasurementError:
            continue
        raise MeasurementError(
            "no_sweep", "wrong_rate", speed=sample_rate_hz / true_hz, said=sample_rate_hz, true=true_hz
        )


def unsteady(found: Steadiness) -> list[str | Reason]:
    """What changed while a sweep ran. A lost moment or a chain that changed its gain leaves no figure to trust."""
    if found.gain == "down":
        return [Reason("gated", "gain_sweep")]
    if found.gain == "gate":
        return [Reason("gated", "suppressed")]
    if found.lost_ms is not None:
        return [Reason.of("incomplete", "lost_moment", lost_ms=found.lost_ms, at_s=found.bursts_s[0])]
    reasons: list[str | Reason] = []
    if found.moved:
        reasons.append(Reason("disturbed", "moved"))
    if found.bursts_s:
        reasons.append(Reason.of("disturbed", "bursts", when=_times(found.bursts_s[:2], " and ")))
    return reasons


def _times(at_s: Iterable[float], between: str) -> str:
    return between.join(f"{at:.1f} s" for at in at_s)


def read_impulse(
    channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None, fraction: int = 1, computed: bool = False
) -> ResponseFigures:
    """Read an impulse response, a clap or a burst balloon.

    computed : a response, not a recording: exact zeros in its tail are 16 bits ending, not a gate's work.
    """
    clean = checked(channels, sample_rate_hz, bits=bits)
    codes: list[str | Reason] = [
        code for code in clean.codes if code != "too_quiet" and not (code == "gated" and computed)
    ]
    with _noticing(clean.codes):
        _require_impulse(clean.samples, sample_rate_hz)
        start_s = onset_index(clean.samples) / sample_rate_hz
        if not computed and gain_turned(clean.samples, sample_rate_hz, (start_s - 0.02, start_s + _SETTLED_S)):
            codes.append(Reason("gated", "gain_clap"))
        return _response(clean.samples, sample_rate_hz, codes, fraction, None)


def _require_impulse(samples: FloatArray, sample_rate_hz: float) -> None:
    if len(samples) < 0.15 * sample_rate_hz:
        raise MeasurementError("incomplete", "bang_short", length_s=len(samples) / sample_rate_hz)
    start = onset_index(samples)
    energy = samples[start:] ** 2
    if len(energy) < 0.1 * sample_rate_hz:
        raise MeasurementError("incomplete", "bang_cut")
    early = float(np.sum(energy[: int(0.25 * sample_rate_hz)]))
    # an impulse gives its energy within a fraction of a second; speech, music and noise do not
    if len(energy) > 1.0 * sample_rate_hz and early < 0.2 * float(np.sum(energy)):
        raise MeasurementError("not_a_recording", "no_bang")


def _response(
    impulse: FloatArray, sample_rate_hz: float, codes: list[str | Reason], fraction: int, sweep: Deconvolved | None
) -> ResponseFigures:
    with ThreadPoolExecutor(1) as other:  # notes and bands are read apart from each other: on two cores at once
        notes = other.submit(ringing_notes, impulse, sample_rate_hz)
        bands = tuple(band_decays(impulse, sample_rate_hz, fraction=fraction))
        early = tuple(early_reflections(impulse, sample_rate_hz))
        flutter = find_flutter(impulse, sample_rate_hz)
        surface = decay_surface(impulse, sample_rate_hz)
        found = notes.result()
    mid = [band for band in bands if 400 < band.centre_hz < 2500]
    if mid and sum(band.t20_s is None for band in mid) > len(mid) / 2:
        codes.append("low_range" if sweep is not None else Reason("low_range", "bang"))
    if sum("bent_decay" in band.flags for band in mid) > len(mid) / 2:
        codes.append("bent_decay")
    if mid and all(band.inr_db < 10 for band in mid):
        raise MeasurementError("not_a_recording", "no_decay")
    low_f, low = low_end(impulse, sample_rate_hz)
    return ResponseFigures(
        sample_rate_hz=sample_rate_hz,
        bands=bands,
        t_mid_s=t_mid_s(list(bands)),
        early=early,
        ringing=_carried(found, bands),
        flutter=flutter,
        direct_over_room_db=direct_over_room_db(impulse, sample_rate_hz),
        low_f_hz=low_f,
        low_db=low,
        verdict=verdict(codes),
        impulse=impulse,
        sweep=sweep,
        surface=surface,
    )


def _carried(notes: list[Note], bands: tuple[BandDecay, ...]) -> tuple[Note, ...]:
    """Notes whose band stands clear of the noise: a clap has no low end, and what a fit finds there is noise
    ringing.
    """

    def inr_db(note: Note) -> float:
        return min(bands, key=lambda band: abs(np.log(band.centre_hz / note.f_hz))).inr_db

    return tuple(note for note in notes if bands and inr_db(note) >= _CARRIED_DB)


def low_end(impulse: FloatArray, sample_rate_hz: float) -> tuple[FloatArray, FloatArray]:
    """Response 20 to 300 Hz relative to its own mean, third-octave smoothed is left to the reader: (f_hz, level_db)."""
    start = max(onset_index(impulse) - int(0.01 * sample_rate_hz), 0)
    part = impulse[start : start + int(2 * sample_rate_hz)]
    n = 1 << (int(4 * sample_rate_hz) - 1).bit_length()
    magnitude = np.abs(np.fft.rfft(part, n))
    f_hz = np.geomspace(20, 300, 95)
    level = 20 * np.log10(np.maximum(np.interp(f_hz, np.arange(len(magnitude)) * sample_rate_hz / n, magnitude), 1e-12))
    inside = f_hz > 50
    return f_hz, level - float(np.mean(level[inside]))


def low_swing_db(f_hz: FloatArray, level: FloatArray, *, low_hz: float, high_hz: float) -> float:
    """Range of the third-octave smoothed low end between two frequencies. [dB]"""
    shown = (f_hz >= low_hz) & (f_hz <= high_hz)
    return float(np.ptp(smoothed_db(level, f_hz)[shown]))


def read_tone(
    channels: FloatArray, sample_rate_hz: float, *, calibration_db: float | None = None, bits: int | None = None
) -> ToneFigures:
    """Read a recorded silence."""
    clean = checked(channels, sample_rate_hz, bits=bits)
    whole_s = len(clean.samples) / sample_rate_hz
    if whole_s < 2:
        raise MeasurementError("incomplete", "silence_short")
    codes: list[str | Reason] = [code for code in clean.codes if code != "too_quiet"]
    if whole_s < SILENCE_S:
        codes.append(Reason.of("low_range", "silence_brief", seconds=whole_s))
    # the press of a key and the step away, the step back
    edge_s = min(_EDGE_S, _EDGE_SHARE * whole_s)
    edge = round(edge_s * sample_rate_hz)
    still = clean.samples[edge : len(clean.samples) - edge]
    tone = later(room_tone(still, sample_rate_hz, calibration_db=calibration_db), edge_s)
    if at_the_last_bit(clean.raw):
        raise MeasurementError("silent", "last_bit")
    # what passes once or twice is an event; what comes and goes like words or notes is no silence
    if tone.swing_db > _NO_SILENCE_DB and tone.comes_and_goes_hz > (
        _PHRASES_HZ if tone.swing_db > 2 * _NO_SILENCE_DB else _WORDS_HZ
    ):
        error = MeasurementError("not_a_recording", "no_silence", swing_db=tone.swing_db)
        error.noticed = clean.codes
        raise error
    stepped = gain_step(still, sample_rate_hz)
    if stepped is not None:
        error = MeasurementError("disturbed", "gain_changed", when=_times((stepped[0] + edge_s,), ", "), db=stepped[1])
        error.noticed = clean.codes
        raise error
    heard = intruders(clean.samples, sample_rate_hz, tone.events)
    if heard:
        who = next((kind for kind in ("speech", "breath", "rustle") if any(i.who == kind for i in heard)), "rustle")
        when = _times((i.start_s for i in heard if i.who == who), ", ")
        error = MeasurementError("disturbed", who, when=when)
        error.noticed = clean.codes
        raise error
    if tone.events:
        when = _times((event.start_s for event in tone.events[:3]), ", ")
        codes.append(Reason.of("disturbed", "passed", when=when))
    return ToneFigures(tone, verdict(codes), noises_in(tone))


def read_glide(channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None) -> GlideFigures:
    """Read a hum that glides up and down."""
    clean = checked(channels, sample_rate_hz, bits=bits)
    codes: list[str | Reason] = list(clean.codes)
    with _noticing(clean.codes):
        glide = glide_figures(clean.samples, sample_rate_hz)
    hummed = glide.time_s[np.isfinite(glide.pitch_hz)]
    if gain_turned(clean.samples, sample_rate_hz, (float(hummed[0]) - 0.1, float(hummed[-1]) + 0.25)):
        codes.append(Reason("gated", "gain_hum"))
    return GlideFigures(glide, verdict(codes))


def read_take(
    channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None, spoken: bool = False
) -> TakeFigures:
    """Read a test take, a spoken line, words full of p and b, or the loudest passage: levels, pops, plain faults.

    spoken : somebody speaks, so that phrases and pauses must differ; a drone need not.
    """
    clean = checked(channels, sample_rate_hz, bits=bits)
    if max(np.count_nonzero(channel) for channel in clean.alive) < _LEAST_SOUND_S * sample_rate_hz:
        raise MeasurementError("silent")  # a click in digital silence is no take
    with _noticing(clean.codes):
        levels = take_levels(clean.alive, sample_rate_hz, codes=clean.codes, bits=bits)
        return _take_figures(levels, spoken=spoken)


def read_long_take(
    part_of: Callable[[float, float], FloatArray],
    seconds: float,
    sample_rate_hz: float,
    *,
    bits: int | None = None,
    spoken: bool = False,
    part_s: float = _PART_S,
) -> TakeFigures:
    """The same of a take that goes on for hours. part_of : its channels from one time to another. seconds : its length.
    part_s : of what is read at once, about. [s]

    Raises MeasurementError as `read_take` does; a stretch without any sound is none to read, not a reason to refuse.
    """

    def part(from_s: float, to_s: float) -> TakePart:
        channels = part_of(from_s, to_s)
        try:
            clean = checked(channels, sample_rate_hz, bits=bits)
        except MeasurementError:
            nothing = read_part([np.zeros(channels.shape[1])], sample_rate_hz, codes=("silent",), bits=bits)
            return replace(nothing, findings=(), lacks={})
        return read_part(clean.alive, sample_rate_hz, codes=clean.codes, bits=bits)

    # at high sample rates less time is read at once: what is bounded is the memory
    at_once_s = part_s * min(_USUAL_RATE_HZ / sample_rate_hz, 1.0)
    levels = long_take_levels(part, seconds, part_s=at_once_s)
    if "silent" in levels.codes:
        raise MeasurementError("silent")
    with _noticing(levels.codes):
        return _take_figures(levels, spoken=spoken)


def _take_figures(levels: TakeLevels, *, spoken: bool) -> TakeFigures:
    if spoken and np.ptp(np.percentile(levels.blocks_db, (5, 90))) < _NO_VOICE_DB:
        raise MeasurementError("not_a_recording", "no_voice")
    # a clipped take is a finding about the take, not a reason to refuse its figures
    codes = (*levels.codes, "mixed") if levels.mixed else levels.codes
    return TakeFigures(levels, Verdict(True, verdict(codes).reasons))
