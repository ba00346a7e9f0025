"""What a simulated performer plays, without any room: phrases of a voice, of plucked, bowed or blown notes.

Pulses through resonances, filtered loops and noise; nothing of it is shared with what judges takes.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray

RATE_HZ: Final = 48_000
_VOWELS_HZ: Final = ((730, 1090, 2440), (530, 1840, 2480), (270, 2290, 3010), (570, 840, 2410), (300, 870, 2240))
INSTRUMENTS: Final = ("voice", "plucked", "bowed", "blown")


@dataclass(frozen=True)
class Line:
    """dry : (n,). phrases : from and to of each. [s]"""

    dry: FloatArray
    phrases: list[tuple[float, float]]


def sung_line(
    rng: np.random.Generator,
    *,
    phrases: int,
    lowest_hz: float,
    breathy: float = 0.0,
    instrument: str = "voice",
    loud_db: tuple[float, ...] = (0.0,),
) -> Line:
    """So many phrases with pauses of about a second. loud_db : of each phrase in turn."""
    parts, spans, at = [np.zeros(int(0.8 * RATE_HZ))], [], 0.8
    for number in range(phrases):
        phrase = _phrase(rng, lowest_hz, breathy, instrument) * 10 ** (loud_db[number % len(loud_db)] / 20)
        parts += [phrase, np.zeros(int(rng.uniform(0.7, 1.1) * RATE_HZ))]
        spans.append((at, at + len(phrase) / RATE_HZ))
        at += (len(phrase) + len(parts[-1])) / RATE_HZ
    return Line(np.concatenate([*parts, np.zeros(int(0.5 * RATE_HZ))]), spans)


def _phrase(rng: np.random.Generator, lowest_hz: float, breathy: float, instrument: str) -> FloatArray:
    """Notes of one phrase; a voice's with esses and soft plosives between them."""
    pieces: list[FloatArray] = []
    for number in range(int(rng.integers(3, 6))):
        if instrument == "voice" and number and rng.random() < 0.5:
            pieces.append(ess(rng, 0.06) if rng.random() < 0.6 else np.zeros(int(0.05 * RATE_HZ)))
        pitch = lowest_hz * 2 ** (rng.choice([0, 2, 4, 5, 7, 9, 12]) / 12)
        if instrument == "voice":
            pieces.append(_note(rng, pitch, breathy))
        elif instrument == "plucked":
            pieces.append(_plucked(rng, pitch))
        else:
            pieces.append(_held(rng, pitch, blown=instrument == "blown"))
    return np.concatenate(pieces)


def _note(rng: np.random.Generator, pitch_hz: float, breathy: float) -> FloatArray:
    t = np.arange(int(rng.uniform(0.3, 0.7) * RATE_HZ)) / RATE_HZ
    vibrato = pitch_hz * (1 + 0.008 * np.sin(2 * np.pi * 5.4 * t + rng.uniform(0, 6)))
    phase = np.cumsum(vibrato) / RATE_HZ
    pulses = np.diff(np.floor(phase), prepend=0.0)
    source = scipy.signal.lfilter([1], [1, -0.96], pulses) * (1 - breathy)
    source = source + breathy * 0.08 * rng.standard_normal(len(t))
    voice = np.zeros(len(t))
    for number, f_hz in enumerate(_VOWELS_HZ[int(rng.integers(len(_VOWELS_HZ)))]):
        r = np.exp(-np.pi * (60 + 40 * number) / RATE_HZ)
        voice += scipy.signal.lfilter(
            [(1 - r) * 0.7**number], [1, -2 * r * np.cos(2 * np.pi * f_hz / RATE_HZ), r * r], source
        )
    voice = scipy.signal.sosfilt(scipy.signal.butter(2, 70.0, btype="highpass", fs=RATE_HZ, output="sos"), voice)
    voice *= np.minimum(1, t / 0.04) * np.minimum(1, (t[-1] - t) / 0.05)
    rms = float(np.sqrt(np.mean(voice**2)))
    return voice / max(rms, 1e-9) * 0.1 * 10 ** (rng.uniform(-1.5, 1.5) / 20)


def _plucked(rng: np.random.Generator, pitch_hz: float) -> FloatArray:
    """A string plucked: a filtered loop (K. Karplus, A. Strong, Computer Music Journal 7 (1983) 43), then damped."""
    period = round(RATE_HZ / pitch_hz)
    excited = np.zeros(int(rng.uniform(0.4, 0.8) * RATE_HZ))
    excited[:period] = rng.uniform(-1, 1, period)
    taps = np.zeros(period + 2)
    taps[0], taps[period], taps[period + 1] = 1, -0.498, -0.498
    note = scipy.signal.lfilter([1], taps, excited) * np.minimum(1, np.arange(len(excited))[::-1] / (0.06 * RATE_HZ))
    return note / max(float(np.sqrt(np.mean(note**2))), 1e-9) * 0.1


def _held(rng: np.random.Generator, pitch_hz: float, *, blown: bool) -> FloatArray:
    """A bowed string's sawtooth, or a blown pipe's few harmonics with breath, both with a body of resonances."""
    t = np.arange(int(rng.uniform(0.4, 0.8) * RATE_HZ)) / RATE_HZ
    phase = 2 * np.pi * np.cumsum(pitch_hz * (1 + 0.004 * np.sin(2 * np.pi * 5.1 * t + rng.uniform(0, 6)))) / RATE_HZ
    falls, count = (2.2, 8) if blown else (1.0, 40)
    wave = sum(
        np.sin(k * phase + rng.uniform(0, 6.3)) / k**falls for k in range(1, count) if k * pitch_hz < 0.4 * RATE_HZ
    )
    breath = filtered(scipy.signal.butter(1, (500, 6000), "bandpass", fs=RATE_HZ, output="sos"), rng, len(t))
    note: FloatArray = wave + (0.02 if blown else 0.005) * breath
    note *= np.minimum(1, t / 0.07) * np.minimum(1, (t[-1] - t) / 0.08)
    return note / float(np.sqrt(np.mean(note**2))) * 0.1


def ess(rng: np.random.Generator, level: float, seconds: float = 0.12) -> FloatArray:
    """Sibilance between 5 and 10 kHz. level : RMS against a vowel's 0.1."""
    n = int(seconds * RATE_HZ)
    sos = scipy.signal.butter(4, (5200, 9500), btype="bandpass", fs=RATE_HZ, output="sos")
    noise = scipy.signal.sosfilt(sos, rng.standard_normal(n))
    hissed: FloatArray = noise / np.std(noise) * level * 0.35 * np.hanning(n) ** 0.5
    return hissed


def pinkish(rng: np.random.Generator, n: int) -> FloatArray:
    """Noise that falls by 3 dB an octave, RMS 1, (n,)."""
    length = scipy.fft.next_fast_len(n, real=True)
    f_hz = np.fft.rfftfreq(length, 1 / RATE_HZ)
    spectrum = scipy.fft.rfft(rng.standard_normal(length)) / np.sqrt(np.maximum(f_hz, 30.0))
    made = scipy.fft.irfft(spectrum, length)[:n]
    return made / np.std(made)


def filtered(sos: FloatArray, rng: np.random.Generator, n: int) -> FloatArray:
    """White noise through a filter, (n,)."""
    noise: FloatArray = rng.standard_normal(n)
    made: FloatArray = scipy.signal.sosfilt(sos, noise)
    return made
