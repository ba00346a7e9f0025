"""Marks around the sweep: two short chirps that the player adds, by which the recorder's clock is told.

A loudspeaker whose crossover delays some pitches smears a single sweep as a clock that runs off does; nothing in the
sweep tells the two apart. The same chirp played twice meets the same loudspeaker and the same room: how far its two
receptions lie apart is the clock, and whether they are alike tells whether anything moved in between.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray

BEFORE_S: Final = 1.0  # the first chirp begins so long before the sweep begins
AFTER_S: Final = 2.0  # the second begins so long after the sweep has ended
SECONDS: Final = 0.04
_BAND_HZ: Final = (1500.0, 9000.0)
LEVEL: Final = 0.25  # of the sweep
_HEARD_S: Final = 0.03  # of the room after a chirp that is compared
_SLACK_S: Final = 0.006  # 600 ppm over the whole, and where the direct sound lies
_LEAST_PEAK_DB: Final = 12.0  # a chirp's compressed peak over what lies around it
_ALIKE: Final = 0.985  # noise taken off; still rooms gave 0.999, 2 cm of movement 0.82 to 0.97
_CLEAR: Final = 100.0  # chirp over noise from which likeness is judged at all (20 dB)
_LEAST_ALIKE: Final = 0.5  # below this they are not the same chirp at all
UNKNOWN_PPM: Final = 100.0  # without marks: players and recorders of different make lie within this


@dataclass(frozen=True, slots=True)
class MarkedTime:
    """What two marks tell: how much faster the recorder ran, with its standard uncertainty [ppm]; whether something
    moved between them.
    """

    clock_ppm: float
    plus_minus_ppm: float
    moved: bool


def chirp(sample_rate_hz: float) -> FloatArray:
    """One mark: a linear chirp through `_BAND_HZ` in a Hann window, peak 1, (n,)."""
    t = np.arange(round(SECONDS * sample_rate_hz)) / sample_rate_hz
    low, high = _BAND_HZ
    wave: FloatArray = np.sin(2 * np.pi * (low * t + (high - low) / (2 * SECONDS) * t**2))
    return wave * scipy.signal.windows.hann(len(t))


def with_marks(sweep: FloatArray, sample_rate_hz: float) -> FloatArray:
    """The sweep with a chirp before and one after it, as it is played: begins 0.2 s before the first chirp."""
    mark = LEVEL * chirp(sample_rate_hz)
    lead, tail = (round(part * sample_rate_hz) for part in (BEFORE_S + 0.2, AFTER_S + 0.3))
    played = np.pad(sweep, (lead, tail))
    for start in (lead - round(BEFORE_S * sample_rate_hz), lead + len(sweep) + round(AFTER_S * sample_rate_hz)):
        played[start : start + len(mark)] += mark
    return played


def between_marks(recording: FloatArray, begin: int, *, sweep_s: float, sample_rate_hz: float) -> MarkedTime | None:
    """Clock and movement from the marks of a recording, None where it holds none.

    recording : (n,). begin : sample at which the sweep begins in it, direct sound and all.
    """
    apart = round((BEFORE_S + sweep_s + AFTER_S) * sample_rate_hz)
    first = begin - round(BEFORE_S * sample_rate_hz)
    heard = [_around(recording, at, sample_rate_hz) for at in (first, first + apart)]
    one, other = heard
    if one is None or other is None:
        return None
    power = [float(np.sum(part**2)) for part in heard if part is not None]
    noise = [_noise_energy(recording, at, len(one), sample_rate_hz) for at in (first, first + apart)]
    clean = [max(whole - hiss, 1e-30) for whole, hiss in zip(power, noise, strict=True)]
    full = scipy.signal.correlate(other, one, mode="full", method="fft")
    fine = 16
    slack = round(_SLACK_S * sample_rate_hz)
    near = np.real(full[len(one) - 1 - slack : len(one) + slack])
    dense = scipy.signal.resample(near, fine * len(near))
    top = int(np.argmax(dense))
    alike = float(dense[top]) / float(np.sqrt(clean[0] * clean[1]))
    if alike < _LEAST_ALIKE:
        return None
    lag = top / fine - slack
    ppm = lag / apart * 1e6
    # a shift is found to about the inverse of bandwidth and amplitude ratio (Cramer-Rao for a band of that width)
    ratio = min(clean) / max(max(noise), 1e-30)
    spread = 1 / (2 * np.pi * 0.5 * (_BAND_HZ[0] + _BAND_HZ[1]) * np.sqrt(max(ratio, 1.0)))
    return MarkedTime(
        ppm, float(np.hypot(0.3, 1e6 * spread / (apart / sample_rate_hz))), ratio > _CLEAR and alike < _ALIKE
    )


def _around(recording: FloatArray, start: int, sample_rate_hz: float) -> FloatArray | None:
    """What was received of a chirp that should begin at `start`, in the chirp's own band; None when none is there."""
    slack, heard = round(_SLACK_S * sample_rate_hz), round((SECONDS + _HEARD_S) * sample_rate_hz)
    low, high = start - slack, start + heard + slack
    if low < 0 or high > len(recording):
        return None
    part = _in_band(recording[low:high], sample_rate_hz)
    compressed = np.abs(scipy.signal.correlate(part, chirp(sample_rate_hz), mode="valid", method="fft"))
    peak = int(np.argmax(compressed))
    rest = np.delete(compressed, np.arange(max(peak - slack // 2, 0), min(peak + slack // 2, len(compressed))))
    if compressed[peak] < 10 ** (_LEAST_PEAK_DB / 20) * float(np.sqrt(np.mean(rest**2))) or compressed[peak] <= 0:
        return None
    return part


def _in_band(part: FloatArray, sample_rate_hz: float) -> FloatArray:
    sos = scipy.signal.butter(
        2, (0.8 * _BAND_HZ[0], 1.1 * _BAND_HZ[1]), btype="bandpass", fs=sample_rate_hz, output="sos"
    )
    through: FloatArray = scipy.signal.sosfiltfilt(sos, part)
    return through * scipy.signal.windows.tukey(len(part), 0.05)


def _noise_energy(recording: FloatArray, start: int, length: int, sample_rate_hz: float) -> float:
    """Energy of as long a stretch just before a chirp, in its band."""
    end = max(start - round(_SLACK_S * sample_rate_hz), 1)
    before = recording[max(end - length, 0) : end]
    if len(before) < 64:
        return 0.0
    return float(np.mean(_in_band(before, sample_rate_hz) ** 2)) * length
