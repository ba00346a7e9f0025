"""A hum gliding slowly up and down: pitch, level against pitch, and the notes on which the room swells."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import MeasurementError
from keenquiet.core.types import BoolArray, FloatArray

LOW_HZ, HIGH_HZ = 55.0, 500.0
_RATE_HZ: Final = 4000.0  # enough for the fundamental and a few harmonics
_WINDOW_S: Final = 0.08
_HOP_S: Final = 0.02
_APERIODIC: Final = 0.25  # above it a frame has no pitch (YIN's threshold for voiced speech is 0.1 to 0.3)
_DIP: Final = 0.12
_BINS_PER_OCTAVE: Final = 36
_TREND_OCTAVES: Final = (
    0.9  # the voice itself grows and shrinks over about an octave, a room's swell over a few semitones
)
_LEAST_RISE_DB: Final = 3.0
_LEAST_FRAMES: Final = 40
_LEAST_OCTAVES: Final = 0.6


@dataclass(frozen=True, slots=True)
class Swell:
    """A note that swells: frequency [Hz], rise over the notes around it [dB]."""

    f_hz: float
    rise_db: float


@dataclass(frozen=True)
class Glide:
    """time_s, pitch_hz, level_db : (n,) the track, NaN where no pitch is heard. [s, Hz, dBFS]
    curve_hz, rise_db : (m,) level of the fundamental over its trend, by pitch, NaN where the glide did not pass. [Hz,
    dB]
    swells : strongest first.
    """

    time_s: FloatArray
    pitch_hz: FloatArray
    level_db: FloatArray
    curve_hz: FloatArray
    rise_db: FloatArray
    swells: tuple[Swell, ...]


def read_track(samples: FloatArray, sample_rate_hz: float) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Pitch and level of the fundamental every 20 ms: time_s, pitch_hz, level_db, (n,); NaN where there is no pitch.

    Source: A. de Cheveigne, H. Kawahara, J. Acoust. Soc. Am. 111 (2002) 1917 (YIN: cumulative mean normalised
    difference,
    first dip below the threshold, parabola); level by a Hann-windowed projection on the found pitch.
    """
    step = sample_rate_hz / _RATE_HZ
    slow = scipy.signal.resample_poly(samples, 1, max(round(step), 1)) if step > 1.5 else samples
    rate = sample_rate_hz / max(round(step), 1) if step > 1.5 else sample_rate_hz
    if len(slow) < 2 * (round(_WINDOW_S * rate) + int(rate / LOW_HZ)):
        return np.empty(0), np.empty(0), np.empty(0)
    slow = scipy.signal.sosfiltfilt(scipy.signal.butter(2, 35.0, btype="highpass", fs=rate, output="sos"), slow)
    window, hop, most = round(_WINDOW_S * rate), round(_HOP_S * rate), int(rate / LOW_HZ) + 2
    starts = np.arange(0, len(slow) - window - most, hop)
    frames = np.lib.stride_tricks.sliding_window_view(slow, window + most)[starts]
    difference = _difference(frames, window, most)
    lag, depth = _first_dip(difference, least=int(rate / HIGH_HZ))
    pitch: FloatArray = np.full(len(lag), np.nan)
    pitch[depth < _APERIODIC] = rate / lag[depth < _APERIODIC]
    time = np.asarray((starts + (window + most) / 2) / rate, dtype=float)
    level = _level_at(slow, time, pitch, rate)
    # between notes the tracker follows hums and breath: what is far below the usual level is no hum
    usual = np.nanpercentile(level, 75) if np.isfinite(level).any() else 0.0
    heard = np.isfinite(pitch) & (level > usual - 30) & _steady(pitch)
    nothing = np.full(len(time), np.nan)
    return time, np.where(heard, pitch, nothing), np.where(heard, level, nothing)


def _steady(pitch_hz: FloatArray) -> BoolArray:
    """Whether each frame's pitch lies within three semitones of the frames around it: what jumps an octave is a slip of
    the tracker.
    """
    padded = np.pad(pitch_hz, 5, constant_values=np.nan)
    around = np.lib.stride_tricks.sliding_window_view(padded, 11)
    some = np.isfinite(around).sum(axis=1) >= 4
    middle = np.full(len(pitch_hz), np.nan)
    middle[some] = np.nanmedian(around[some], axis=1)
    with np.errstate(invalid="ignore"):
        steady: BoolArray = np.abs(np.log2(pitch_hz / middle)) < 0.25
    return steady


def _difference(frames: FloatArray, window: int, most: int) -> FloatArray:
    """Cumulative mean normalised difference by lag, (n_frames, most). [-]"""
    n = 1 << (2 * frames.shape[1] - 1).bit_length()
    head = np.fft.rfft(frames[:, :window], n)
    both = np.fft.irfft(np.fft.rfft(frames, n) * np.conj(head), n)[:, :most]
    energy = np.cumsum(np.pad(frames**2, ((0, 0), (1, 0))), axis=1)
    moving = energy[:, window : window + most] - energy[:, :most]
    difference = np.maximum(moving[:, :1] + moving - 2 * both, 0.0)
    lags = np.arange(most)
    mean = np.cumsum(difference, axis=1) / np.maximum(lags, 1)
    normal: FloatArray = np.where(lags > 0, difference / np.maximum(mean, 1e-20), 1.0)
    return normal


def _first_dip(difference: FloatArray, *, least: int) -> tuple[FloatArray, FloatArray]:
    """Lag of the first deep enough dip of each frame, refined by a parabola, and its depth, (n,). [samples, -]"""
    inner = difference[:, least:-1]
    dips: BoolArray = (inner <= difference[:, least - 1 : -2]) & (inner < difference[:, least + 1 :])
    deep = dips & (inner < _DIP)
    found = np.where(deep.any(axis=1), np.argmax(deep, axis=1), np.argmin(np.where(dips, inner, 9.0), axis=1)) + least
    rows = np.arange(len(difference))
    before, at, after = (difference[rows, found + k] for k in (-1, 0, 1))
    curve = before - 2 * at + after
    shift = np.where(curve > 1e-12, 0.5 * (before - after) / np.maximum(curve, 1e-12), 0.0)
    return found + np.clip(shift, -0.5, 0.5), at


def _level_at(samples: FloatArray, time_s: FloatArray, pitch_hz: FloatArray, rate: float) -> FloatArray:
    """Level of the fundamental around each time, (n,). [dB re a sine of full scale]"""
    half = round(0.6 * _WINDOW_S * rate)
    taper = np.hanning(2 * half + 1)
    padded = np.pad(samples, half)
    centre = np.clip(np.round(time_s * rate).astype(int), 0, len(samples) - 1)
    pieces = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1)[centre]
    t = np.arange(-half, half + 1) / rate
    turning = np.exp(-2j * np.pi * np.nan_to_num(pitch_hz, nan=1.0)[:, None] * t)
    amplitude = np.abs(np.sum(pieces * taper * turning, axis=1)) * 2 / taper.sum()
    level: FloatArray = np.where(np.isfinite(pitch_hz), 20 * np.log10(np.maximum(amplitude, 1e-9)), np.nan)
    return level


def glide_figures(samples: FloatArray, sample_rate_hz: float) -> Glide:
    """Swells of a glide. samples : (n,) full scale 1.

    Level is averaged by pitch over all passes, its trend (a running median over most of an octave) taken off; what is
    left and
    stands out by 3 dB is a swell. A sharp resonance passed at speed has no time to build up: 8 dB of Q 12 passed at two
    octaves in 7 s
    read 6.4 dB.
    Raises MeasurementError when no steady pitch is found or the glide covers too little.
    """
    time, pitch, level = read_track(samples, sample_rate_hz)
    heard = np.isfinite(pitch)
    if np.count_nonzero(heard) < _LEAST_FRAMES:
        raise MeasurementError("not_a_recording", "no_hum")
    octaves = float(np.log2(np.nanpercentile(pitch, 97) / np.nanpercentile(pitch, 3)))
    if octaves < _LEAST_OCTAVES:
        raise MeasurementError("incomplete", "hum_narrow", semitones=octaves * 12)
    edges = LOW_HZ * 2 ** (np.arange(int(np.log2(HIGH_HZ / LOW_HZ) * _BINS_PER_OCTAVE) + 2) / _BINS_PER_OCTAVE)
    number = np.digitize(pitch[heard], edges) - 1
    curve_hz = np.sqrt(edges[:-1] * edges[1:])
    power = np.bincount(number, 10 ** (level[heard] / 10), minlength=len(curve_hz))[: len(curve_hz)]
    counted = np.bincount(number, minlength=len(curve_hz))[: len(curve_hz)]
    with np.errstate(divide="ignore", invalid="ignore"):
        curve = 10 * np.log10(power / counted)
    rise = _smooth(curve) - _trend(curve)
    return Glide(time, pitch, level, curve_hz, rise, _swells(curve_hz, rise))


def _smooth(curve: FloatArray) -> FloatArray:
    """Weighted mean over three neighbouring bins, holes left as holes."""
    weight = np.isfinite(curve).astype(float)
    filled = np.nan_to_num(curve)
    kernel = np.array([1.0, 6.0, 1.0])
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.convolve(filled, kernel, "same") / np.convolve(weight, kernel, "same")
    smooth: FloatArray = np.where(weight > 0, mean, np.nan)
    return smooth


def _trend(curve: FloatArray) -> FloatArray:
    """Running median over _TREND_OCTAVES, NaN ignored."""
    half = round(_TREND_OCTAVES / 2 * _BINS_PER_OCTAVE)
    padded = np.pad(curve, half, constant_values=np.nan)
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1)
    enough = np.count_nonzero(np.isfinite(windows), axis=1) >= half
    trend = np.full(len(curve), np.nan)
    trend[enough] = np.nanmedian(windows[enough], axis=1)
    return trend


def _swells(f_hz: FloatArray, rise_db: FloatArray) -> tuple[Swell, ...]:
    known = np.isfinite(rise_db)
    shown = np.where(known, rise_db, -30.0)
    peaks, _ = scipy.signal.find_peaks(
        shown, height=_LEAST_RISE_DB, prominence=_LEAST_RISE_DB, distance=_BINS_PER_OCTAVE // 12
    )
    found = []
    for peak in peaks:
        before, at, after = (float(shown[peak + k]) for k in (-1, 0, 1))
        if min(before, after) < -20:
            continue  # at the end of what was hummed nothing tells a swell from the voice
        curve = before - 2 * at + after
        shift = 0.5 * (before - after) / curve if curve < -1e-9 else 0.0
        found.append(Swell(float(f_hz[peak] * 2 ** (shift / _BINS_PER_OCTAVE)), at))
    return tuple(sorted(found, key=lambda swell: -swell.rise_db))
