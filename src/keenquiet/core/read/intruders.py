"""What spoils a silence from within: somebody speaks, breathes, rustles. Each told by what a short event is made of.

Speech has voiced vowels: a fundamental with harmonics between 80 and 400 Hz. Breath is a rush without pitch, most of it
between 500 Hz and 4 kHz, that swells and ebbs over half a second to three. Rustle is sharp and uneven, most of it above
3 kHz.
"""

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
import scipy

from keenquiet.core.read.tone import Event
from keenquiet.core.types import FloatArray

Who = Literal["speech", "breath", "rustle"]
_FRAME_S: Final = 0.064
_PITCH_HZ: Final = (80.0, 420.0)
_VOICED: Final = 0.55  # of the autocorrelation's height at its pitch: a rush stays under 0.4
_VOICED_SHARE: Final = 0.25  # of the frames of an event: fricatives and stops lie between
_VOWELS_HZ: Final = (200.0, 3000.0)
_VOWEL_SHARE: Final = 0.3
_MIN_RISE_DB: Final = 6.0
_BREATH_S: Final = (0.35, 3.5)
_BODY_HZ: Final = (500.0, 4000.0)
_SHARP_HZ: Final = 3000.0
_LEAST_BURSTS: Final = 3
_CREST: Final = 2.2  # peak over RMS of a rustle's envelope; a breath's stays near 1.6


@dataclass(frozen=True)
class Intruder:
    """Somebody heard in a silence. who : speech, breath or rustle; start_s, end_s : when."""

    who: Who
    start_s: float
    end_s: float


def intruders(samples: FloatArray, sample_rate_hz: float, events: tuple[Event, ...]) -> tuple[Intruder, ...]:
    """Which events of a silence are somebody's. samples : (n,). events : as `tone.find_events` has them."""
    found = []
    for event in events:
        first, last = int(event.start_s * sample_rate_hz), int(event.end_s * sample_rate_hz)
        part = samples[max(first, 0) : min(last, len(samples))]
        if event.rise_db < _MIN_RISE_DB or len(part) < 2 * _FRAME_S * sample_rate_hz:
            continue
        who = _who(part, sample_rate_hz, event.end_s - event.start_s)
        if who is not None:
            found.append(Intruder(who, event.start_s, event.end_s))
    return tuple(found)


def _who(part: FloatArray, sample_rate_hz: float, seconds: float) -> Who | None:
    f_hz, power = scipy.signal.welch(part, sample_rate_hz, nperseg=min(len(part), 2048))
    vowels = float(power[(f_hz >= _VOWELS_HZ[0]) & (f_hz <= _VOWELS_HZ[1])].sum())
    spoken = vowels > _VOWEL_SHARE * float(power[f_hz > 50].sum())  # a door's thump has its pitch, and no more
    if spoken and _voiced_share(part, sample_rate_hz) >= _VOICED_SHARE:
        return "speech"
    whole = float(power[f_hz > 100].sum())
    body = float(power[(f_hz >= _BODY_HZ[0]) & (f_hz <= _BODY_HZ[1])].sum())
    sharp = float(power[f_hz > _SHARP_HZ].sum())
    envelope = _envelope(part, sample_rate_hz)
    crest = float(envelope.max() / np.sqrt(np.mean(envelope**2)))
    if sharp > 0.6 * whole and crest > _CREST and _bursts(envelope) >= _LEAST_BURSTS:
        return "rustle"
    if body > 0.6 * whole and _BREATH_S[0] <= seconds <= _BREATH_S[1] and crest < _CREST:
        return "breath"
    return None


def _voiced_share(part: FloatArray, sample_rate_hz: float) -> float:
    """Share of frames that have a pitch and move it or their level as speech does. [-]"""
    step = max(round(sample_rate_hz / 8000), 1)
    low = scipy.signal.decimate(part, step, ftype="fir") if step > 1 else part
    rate = sample_rate_hz / step
    sos = scipy.signal.butter(2, (_PITCH_HZ[0], 1500.0), btype="bandpass", fs=rate, output="sos")
    low = scipy.signal.sosfilt(sos, low)
    frame = round(_FRAME_S * rate)
    frames = np.lib.stride_tricks.sliding_window_view(low, frame)[:: frame // 2]
    if not len(frames):
        return 0.0
    frames = frames - frames.mean(axis=1, keepdims=True)
    power = np.abs(np.fft.rfft(frames, 2 * frame, axis=1)) ** 2
    correlation = np.fft.irfft(power, axis=1)[:, :frame]
    # fewer samples overlap at long lags: the same signal counts less there
    correlation = correlation / np.maximum(correlation[:, :1], 1e-20) * frame / (frame - np.arange(frame))
    lags = slice(int(rate / _PITCH_HZ[1]), min(int(rate / _PITCH_HZ[0]), frame - 1))
    height = correlation[:, lags].max(axis=1)
    loud = np.sum(frames**2, axis=1)
    counts = loud > 0.05 * loud.max()
    pitch = rate / (np.argmax(correlation[:, lags], axis=1) + lags.start)
    voiced = (height > _VOICED) & counts
    if np.count_nonzero(voiced) < 3:
        return 0.0
    # a motor's pitch and level stay; a voice's do not
    glides = float(np.std(np.log2(pitch[voiced])) * 12)
    swings = float(np.std(10 * np.log10(loud[counts] + 1e-20)))
    return float(np.mean(voiced[counts])) if glides > 0.3 or swings > 4.0 else 0.0


def _bursts(envelope: FloatArray) -> int:
    """How often an envelope rises over a third of its height, a few hundredths of a second apart: a knock once."""
    high = np.flatnonzero(envelope > envelope.max() / 3)
    return 1 + int(np.count_nonzero(np.diff(high) > 4))


def _envelope(part: FloatArray, sample_rate_hz: float) -> FloatArray:
    block = max(round(0.008 * sample_rate_hz), 1)
    blocks = part[: len(part) // block * block].reshape(-1, block)
    envelope: FloatArray = np.sqrt(np.mean(blocks**2, axis=1)) + 1e-12
    return envelope
