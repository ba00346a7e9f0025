"""Early reflections after the direct sound, and the ratio of direct to room, in an impulse response."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import MID_OCTAVES, band_edges_hz, exact_octaves_hz
from keenquiet.core.read.decay import onset_index
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.direct_part import DIRECT_WINDOW_S

_REACH_MS: Final = 40.0
_LOWEST_DB: Final = -35.0
DIRECT_WINDOW_MS: Final = 1000 * DIRECT_WINDOW_S


@dataclass(frozen=True, slots=True)
class Reflection:
    """One arrival: delay after the direct sound [ms], level relative to it [dB]."""

    delay_ms: float
    level_db: float


def _envelope(impulse: FloatArray, sample_rate_hz: float) -> FloatArray:
    """Squared envelope between 0.5 and 4 kHz, smoothed over 0.25 ms, normalised to its peak."""
    top = min(4000.0, 0.45 * sample_rate_hz)
    sos = scipy.signal.butter(2, [500.0, top], btype="bandpass", fs=sample_rate_hz, output="sos")
    power = np.abs(scipy.signal.hilbert(scipy.signal.sosfiltfilt(sos, impulse))) ** 2
    width = max(int(0.00025 * sample_rate_hz), 1)
    smooth: FloatArray = np.convolve(power, np.hanning(width + 2)[1:-1], mode="same")
    return smooth / smooth.max()


def early_reflections(
    impulse: FloatArray,
    sample_rate_hz: float,
    *,
    most: int = 12,
    reach_ms: float = _REACH_MS,
    prominence_db: float = 2.0,
) -> list[Reflection]:
    """Strongest separate arrivals within `reach_ms` after the direct sound, in order of arrival.

    impulse : (n,). prominence_db : how far a peak must stand out of its flanks. Levels come from peaks of the envelope
    between 0.5 and 4 kHz relative to the direct sound's.
    """
    start = onset_index(impulse)
    lead, reach = int(0.005 * sample_rate_hz), int(reach_ms / 1000 * sample_rate_hz)
    part = impulse[max(start - lead, 0) : start + reach + lead]
    if len(part) < 64:
        return []
    envelope = _envelope(part, sample_rate_hz)
    direct = int(np.argmax(envelope[: min(start, lead) + int(0.003 * sample_rate_hz)]))
    level = 10 * np.log10(np.maximum(envelope / envelope[direct], 1e-12))
    gap = max(int(0.0004 * sample_rate_hz), 1)
    peaks, _ = scipy.signal.find_peaks(level, height=_LOWEST_DB, distance=gap, prominence=prominence_db)
    after = [int(i) for i in peaks if i - direct > 0.0007 * sample_rate_hz and i - direct <= reach]
    strongest = sorted(sorted(after, key=lambda i: -level[i])[:most])
    return [Reflection((i - direct) / sample_rate_hz * 1000, float(level[i])) for i in strongest]


def direct_over_room_db(
    impulse: FloatArray, sample_rate_hz: float, *, window_ms: float = DIRECT_WINDOW_MS
) -> float | None:
    """Direct-to-reverberant ratio, mean of the 500, 1000 and 2000 Hz octaves, or None when the response is too short.
    [dB]

    The direct sound is what arrives up to `window_ms` after the onset. Split in time first and take octaves from the
    two
    spectra: a filter would smear the direct sound into the room. Noise power is taken from the last tenth.
    """
    start = onset_index(impulse)
    lead, split = int(0.0015 * sample_rate_hz), start + int(window_ms / 1000 * sample_rate_hz)
    if len(impulse) - start < 0.1 * sample_rate_hz:
        return None
    fade = int(0.0003 * sample_rate_hz)
    gate = np.clip((split - np.arange(len(impulse))) / fade, 0, 1)
    gate[: max(start - lead, 0)] = 0.0
    direct = _octave_energy(impulse * gate, sample_rate_hz)
    room = _octave_energy(np.where(np.arange(len(impulse)) >= start, impulse * (1 - gate), 0.0), sample_rate_hz)
    tail = impulse[-len(impulse) // 10 :]
    room = room - _octave_energy(tail, sample_rate_hz) * (len(impulse) - split) / len(tail)
    if np.any(room <= 0) or np.any(direct <= 0):
        return None
    return -10 * float(np.log10(np.mean(room / direct)))


def _octave_energy(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """Energy in the 500, 1000 and 2000 Hz octaves, (3,)."""
    energy = np.abs(np.fft.rfft(samples, 1 << (len(samples) - 1).bit_length())) ** 2
    f_hz = np.linspace(0, sample_rate_hz / 2, len(energy))
    low, high = band_edges_hz(exact_octaves_hz()[MID_OCTAVES], fraction=1)
    return np.array([energy[(f_hz >= a) & (f_hz < b)].sum() for a, b in zip(low, high, strict=True)]) / len(energy)
