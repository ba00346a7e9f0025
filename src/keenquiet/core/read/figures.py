"""A whole reading at once: recording in, all figures and a verdict out. The one place that knows the order of steps."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.decay import BandDecay, band_decays, onset_index, t_mid_s
from keenquiet.core.read.early import Reflection, direct_over_room_db, early_reflections
from keenquiet.core.read.flutter import Flutter, find_flutter
from keenquiet.core.read.glide import Glide, glide_figures
from keenquiet.core.read.quality import Verdict, checked, verdict
from keenquiet.core.read.ringing import Note, ringing_notes
from keenquiet.core.read.sweep import Deconvolved, SweepSpec, deconvolve
from keenquiet.core.read.tone import RoomTone, room_tone
from keenquiet.core.take.levels import TakeLevels, take_levels
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.response import smoothed_db

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


@dataclass(frozen=True)
class ToneFigures:
    """Everything read from a recorded silence."""

    tone: RoomTone
    verdict: Verdict


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


def read_sweep(
    channels: FloatArray, sample_rate_hz: float, *, spec: SweepSpec | None = None, bits: int | None = None, fraction: int = 1
) -> ResponseFigures:
    """Read a recording of the sweep. channels : (n_channels, n). Raises MeasurementError when it cannot be read."""
    clean = checked(channels, sample_rate_hz, bits=bits)
    found = deconvolve(clean.samples, sample_rate_hz, spec=spec)
    return _response(found.impulse, sample_rate_hz, list(clean.codes), fraction, found)


def read_impulse(
    channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None, fraction: int = 1, computed: bool = False
) -> ResponseFigures:
    """Read an impulse response, a clap or a burst balloon.

    computed : a response, not a recording: exact zeros in its tail are 16 bits ending, not a gate's work.
    """
    clean = checked(channels, sample_rate_hz, bits=bits)
    codes = [code for code in clean.codes if code != "too_quiet" and not (code == "gated" and computed)]
    _require_impulse(clean.samples, sample_rate_hz)
    return _response(clean.samples, sample_rate_hz, codes, fraction, None)


def _require_impulse(samples: FloatArray, sample_rate_hz: float) -> None:
    if len(samples) < 0.15 * sample_rate_hz:
        raise MeasurementError("incomplete", f"Only {len(samples) / sample_rate_hz:.2f} s long.", "Record at least one second.")
    start = onset_index(samples)
    energy = samples[start:] ** 2
    if len(energy) < 0.1 * sample_rate_hz:
        raise MeasurementError("incomplete", "The recording ends right after the bang.", "Let it run one second longer.")
    early = float(np.sum(energy[: int(0.25 * sample_rate_hz)]))
    # an impulse gives its energy within a fraction of a second; speech, music and noise do not
    if len(energy) > 1.0 * sample_rate_hz and early < 0.2 * float(np.sum(energy)):
        raise MeasurementError(
            "not_a_recording",
            "No single bang with a decay after it was found.",
            "Check that it is an impulse response or a clap.",
        )


def _response(
    impulse: FloatArray, sample_rate_hz: float, codes: list[str], fraction: int, sweep: Deconvolved | None
) -> ResponseFigures:
    bands = tuple(band_decays(impulse, sample_rate_hz, fraction=fraction))
    mid = [band for band in bands if 400 < band.centre_hz < 2500]
    if mid and sum(band.t20_s is None for band in mid) > len(mid) / 2:
        codes.append("low_range")
    if sum("bent_decay" in band.flags for band in mid) > len(mid) / 2:
        codes.append("bent_decay")
    if mid and all(band.inr_db < 10 for band in mid):
        raise MeasurementError("not_a_recording", "No decay rises above the noise.", "Check the file; clap or play louder.")
    low_f, low = low_end(impulse, sample_rate_hz)
    return ResponseFigures(
        sample_rate_hz=sample_rate_hz, bands=bands, t_mid_s=t_mid_s(list(bands)),
        early=tuple(early_reflections(impulse, sample_rate_hz)), ringing=_carried(ringing_notes(impulse, sample_rate_hz), bands),
        flutter=find_flutter(impulse, sample_rate_hz), direct_over_room_db=direct_over_room_db(impulse, sample_rate_hz),
        low_f_hz=low_f, low_db=low, verdict=verdict(codes), impulse=impulse, sweep=sweep,
    )  # fmt: skip


def _carried(notes: list[Note], bands: tuple[BandDecay, ...]) -> tuple[Note, ...]:
    """Notes whose band stands clear of the noise: a clap has no low end, and what a fit finds there is noise ringing."""

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
    if len(clean.samples) < 2 * sample_rate_hz:
        raise MeasurementError("incomplete", "A silence needs two seconds or more.", "Record ten seconds of nothing.")
    codes = [code for code in clean.codes if code != "too_quiet"]
    tone = room_tone(clean.samples, sample_rate_hz, calibration_db=calibration_db)
    if tone.events:
        codes.append("disturbed")
    return ToneFigures(tone, verdict(codes))


def read_glide(channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None) -> GlideFigures:
    """Read a hum that glides up and down."""
    clean = checked(channels, sample_rate_hz, bits=bits)
    return GlideFigures(glide_figures(clean.samples, sample_rate_hz), verdict(clean.codes))


def read_take(channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None) -> TakeFigures:
    """Read a test take's levels."""
    clean = checked(channels, sample_rate_hz, bits=bits)
    levels = take_levels(clean.samples, sample_rate_hz, codes=clean.codes)
    # a clipped take is a finding about the take, not a reason to refuse its figures
    return TakeFigures(levels, Verdict(True, verdict(clean.codes).reasons))
