"""A simulated performer with a truth beside: phrases of vowels with pitch, esses and plosives, and faults put in where
they are told to be.

The voice is pulses through resonances and noise; nothing of it is shared with what judges takes. Always simulated.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray

RATE_HZ: Final = 48_000
_VOWELS_HZ: Final = ((730, 1090, 2440), (530, 1840, 2480), (270, 2290, 3010), (570, 840, 2410), (300, 870, 2240))
_PEAK: Final = 0.35
_FLOOR_DB: Final = -62.0  # of room and recorder under the phrases' level


@dataclass(frozen=True)
class Flaw:
    """A fault that is there: kind as in a take's findings, from and to [s], its size in the finding's unit."""

    kind: str
    start_s: float
    end_s: float
    size: float = 0.0


@dataclass
class Take:
    """samples : (n,) or (2, n). phrases : from and to of each [s]. flaws : the truth."""

    samples: FloatArray
    phrases: list[tuple[float, float]]
    flaws: list[Flaw] = field(default_factory=list)

    @property
    def seconds(self) -> float:
        """Length. [s]"""
        return self.samples.shape[-1] / RATE_HZ


def sung_take(
    *, seed: int, phrases: int = 6, lowest_hz: float = 196.0, breathy: float = 0.0, floor_db: float = _FLOOR_DB
) -> Take:
    """A take without a fault. breathy : share of breath in the voice, 1 is a whisper. floor_db : noise under it."""
    rng = np.random.default_rng(seed)
    parts, spans, at = [np.zeros(int(0.8 * RATE_HZ))], [], 0.8
    for _ in range(phrases):
        phrase = _phrase(rng, lowest_hz, breathy)
        parts += [phrase, np.zeros(int(rng.uniform(0.7, 1.1) * RATE_HZ))]
        spans.append((at, at + len(phrase) / RATE_HZ))
        at += (len(phrase) + len(parts[-1])) / RATE_HZ
    dry = np.concatenate([*parts, np.zeros(int(0.5 * RATE_HZ))])
    dry *= _PEAK / np.max(np.abs(dry))
    loud = float(np.sqrt(np.mean(np.concatenate([dry[int(a * RATE_HZ) : int(b * RATE_HZ)] for a, b in spans]) ** 2)))
    # a small dry room: what is left of each phrase has gone within a quarter of a second
    t = np.arange(int(0.25 * RATE_HZ)) / RATE_HZ
    tail = rng.standard_normal(len(t)) * 10 ** (-3 * t / 0.2) * (t > 0.003)
    tail *= 10 ** (-14 / 20) / np.sqrt(np.sum(tail**2))
    wet = dry + scipy.signal.oaconvolve(dry, tail)[: len(dry)]
    floor = _pinkish(rng, len(dry)) * loud * 10 ** (floor_db / 20)
    return Take(wet + floor, spans)


def _phrase(rng: np.random.Generator, lowest_hz: float, breathy: float) -> FloatArray:
    """Notes of one phrase, with esses and soft plosives between them."""
    pieces: list[FloatArray] = []
    for number in range(int(rng.integers(3, 6))):
        if number and rng.random() < 0.5:
            pieces.append(_ess(rng, 0.06) if rng.random() < 0.6 else np.zeros(int(0.05 * RATE_HZ)))
        pieces.append(_note(rng, lowest_hz * 2 ** (rng.choice([0, 2, 4, 5, 7, 9, 12]) / 12), breathy))
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


def _ess(rng: np.random.Generator, level: float, seconds: float = 0.12) -> FloatArray:
    """Sibilance between 5 and 10 kHz. level : RMS against a vowel's 0.1."""
    n = int(seconds * RATE_HZ)
    sos = scipy.signal.butter(4, (5200, 9500), btype="bandpass", fs=RATE_HZ, output="sos")
    noise = scipy.signal.sosfilt(sos, rng.standard_normal(n))
    hissed: FloatArray = noise / np.std(noise) * level * 0.35 * np.hanning(n) ** 0.5
    return hissed


def _pinkish(rng: np.random.Generator, n: int) -> FloatArray:
    spectrum = np.fft.rfft(rng.standard_normal(n)) / np.sqrt(np.maximum(np.fft.rfftfreq(n, 1 / RATE_HZ), 30.0))
    made = np.fft.irfft(spectrum, n)
    return made / np.std(made)


def _filtered(sos: FloatArray, rng: np.random.Generator, n: int) -> FloatArray:
    """White noise through a filter, (n,)."""
    noise: FloatArray = rng.standard_normal(n)
    made: FloatArray = scipy.signal.sosfilt(sos, noise)
    return made


Spoil = Callable[[Take, np.random.Generator], Take]


def _at(take: Take, rng: np.random.Generator) -> int:
    """The middle of a phrase. [samples]"""
    start, end = take.phrases[int(rng.integers(1, len(take.phrases)))]
    return int((start + (end - start) * rng.uniform(0.35, 0.65)) * RATE_HZ)


def _with(take: Take, samples: FloatArray, *flaws: Flaw) -> Take:
    return Take(samples, take.phrases, [*take.flaws, *flaws])


def _clipped(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at = _at(take, rng)
    part = slice(at, at + int(0.25 * RATE_HZ))
    loud = samples[part] * 1.6 / np.max(np.abs(samples[part]))
    samples[part] = np.clip(loud, -1.0, 1.0)
    return _with(take, samples, Flaw("clipped", at / RATE_HZ, part.stop / RATE_HZ))


def _flat_top(take: Take, rng: np.random.Generator) -> Take:
    """Cut before the recorder: half of the wave's height is gone, at whatever level."""
    limit = 0.45 * float(np.max(np.abs(take.samples)))
    level = 10 ** (rng.uniform(-18, -3) / 20)
    cut = np.clip(take.samples, -limit, limit) / limit * level
    return _with(take, cut + 1e-5 * rng.standard_normal(cut.shape[-1]), Flaw("flat_top", 0.0, take.seconds))


def _pop(take: Take, rng: np.random.Generator) -> Take:
    at = _at(take, rng)
    since = np.arange(int(0.15 * RATE_HZ)) / RATE_HZ
    puff = np.sin(2 * np.pi * 40 * since) * since / 0.02 * np.exp(1 - since / 0.02)
    samples = take.samples.copy()
    samples[at : at + len(puff)] += 0.3 * puff
    return _with(take, samples, Flaw("pop", at / RATE_HZ, at / RATE_HZ + 0.08))


def _sharp_ess(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at = _at(take, rng)
    scale = float(np.sqrt(np.mean(samples[at - RATE_HZ // 5 : at + RATE_HZ // 5] ** 2)))
    hissed = _ess(rng, 1.0, 0.16)
    hissed *= scale * 1.2 / np.sqrt(np.mean(hissed**2))
    samples[at : at + len(hissed)] *= 1 - 0.9 * np.hanning(len(hissed)) ** 0.3
    samples[at : at + len(hissed)] += hissed
    return _with(take, samples, Flaw("ess", at / RATE_HZ, at / RATE_HZ + 0.16))


def _hum(take: Take, rng: np.random.Generator) -> Take:
    t = np.arange(take.samples.shape[-1]) / RATE_HZ
    hum = sum(10 ** (-db / 20) * np.sin(2 * np.pi * 50 * k * t) for k, db in ((1, 44), (2, 46), (3, 50)))
    return _with(take, take.samples + 0.1 * hum, Flaw("hum", 0.0, take.seconds))


def _tone(take: Take, rng: np.random.Generator) -> Take:
    t = np.arange(take.samples.shape[-1]) / RATE_HZ
    f_hz = float(rng.uniform(1800, 6000))
    return _with(take, take.samples + 4e-4 * np.sin(2 * np.pi * f_hz * t), Flaw("tone", 0.0, take.seconds, f_hz))


def _hiss(take: Take, rng: np.random.Generator) -> Take:
    n = int(take.samples.shape[-1])
    sos = scipy.signal.butter(1, 2500, btype="highpass", fs=RATE_HZ, output="sos")
    return _with(take, take.samples + 2.5e-3 * _filtered(sos, rng, n), Flaw("hiss", 0.0, take.seconds))


def _rumble(take: Take, rng: np.random.Generator) -> Take:
    sos = scipy.signal.butter(2, (22, 60), btype="bandpass", fs=RATE_HZ, output="sos")
    low = _filtered(sos, rng, take.samples.shape[-1])
    return _with(take, take.samples + 8e-3 * low / np.std(low), Flaw("rumble", 0.0, take.seconds))


def _dropout(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at, n = _at(take, rng), int(rng.uniform(0.003, 0.02) * RATE_HZ)
    samples[at : at + n] = 0.0
    return _with(take, samples, Flaw("dropout", at / RATE_HZ, (at + n) / RATE_HZ))


def _click(take: Take, rng: np.random.Generator) -> Take:
    samples = take.samples.copy()
    at = _at(take, rng)
    samples[at : at + 3] += np.array([0.3, -0.25, 0.1]) * (1 if rng.random() < 0.5 else -1)
    return _with(take, samples, Flaw("click", at / RATE_HZ, at / RATE_HZ))


def _ramp(take: Take, db: float) -> FloatArray:
    """Gain over the take from 0 to so many decibels, (n,)."""
    return 10 ** (np.linspace(0, db, take.samples.shape[-1]) / 20)


def _creep(take: Take, rng: np.random.Generator) -> Take:
    db = float(rng.uniform(5, 7))
    return _with(take, take.samples * _ramp(take, db) / 2, Flaw("creep", 0.0, take.seconds, db))


def _drift(take: Take, rng: np.random.Generator) -> Take:
    """The performer comes nearer, from 30 to 12 cm: 8 dB louder, and the bass of a cardioid more than that."""
    n = take.samples.shape[-1]
    away = np.linspace(0.30, 0.12, n)
    spectrum = np.fft.rfft(take.samples)
    f_hz = np.maximum(np.fft.rfftfreq(n, 1 / RATE_HZ), 20.0)
    out = np.zeros(n)
    steps = np.linspace(0, n - 1, 25)
    for number, middle in enumerate(steps):
        r = float(away[int(middle)])
        gain = 0.5 * np.abs(1 + 1 + 1 / (1j * 2 * np.pi * f_hz / 343 * r)) * 0.12 / r
        # each distance fades into the next
        share = np.interp(np.arange(n), steps, np.eye(len(steps))[number])
        out += np.fft.irfft(spectrum * gain, n) * share
    return _with(take, out * 0.6, Flaw("drift", 0.0, take.seconds, 20 * float(np.log10(0.30 / 0.12))))


def _jump(take: Take, rng: np.random.Generator) -> Take:
    middle = len(take.phrases) // 2
    at = int((take.phrases[middle - 1][1] + take.phrases[middle][0]) / 2 * RATE_HZ)
    samples = take.samples.copy()
    samples[at:] *= 10 ** (9 / 20)
    return _with(take, samples * 0.35, Flaw("jump", at / RATE_HZ, at / RATE_HZ, 9.0))


def _seam(take: Take, rng: np.random.Generator) -> Take:
    """Two takes cut together in a pause: the room tone steps."""
    middle = len(take.phrases) // 2
    at = int((take.phrases[middle - 1][1] + 0.4) * RATE_HZ)
    n = take.samples.shape[-1] - at
    loud = float(
        np.sqrt(np.mean(take.samples[int(take.phrases[0][0] * RATE_HZ) : int(take.phrases[0][1] * RATE_HZ)] ** 2))
    )
    samples = take.samples.copy()
    samples[at:] += _pinkish(rng, n) * loud * 10 ** (-50 / 20)
    return _with(take, samples, Flaw("seam", at / RATE_HZ, at / RATE_HZ, 12.0))


def _roomy(take: Take, rng: np.random.Generator) -> Take:
    t = np.arange(int(1.0 * RATE_HZ)) / RATE_HZ
    tail = rng.standard_normal(len(t)) * 10 ** (-3 * t / 0.8) * (t > 0.004)
    tail *= 10 ** (1 / 20) / np.sqrt(np.sum(tail**2))
    wet = take.samples + scipy.signal.oaconvolve(take.samples, tail)[: take.samples.shape[-1]]
    return _with(take, 0.5 * wet, Flaw("roomy", 0.0, take.seconds, 0.8))


def _polarity(take: Take, rng: np.random.Generator) -> Take:
    return _with(take, np.stack([take.samples, -0.9 * take.samples]), Flaw("polarity", 0.0, take.seconds))


def _delay(take: Take, rng: np.random.Generator) -> Take:
    late = int(0.0025 * RATE_HZ)
    other = np.concatenate([np.zeros(late), take.samples[:-late]])
    return _with(take, np.stack([take.samples, 0.9 * other]), Flaw("delay", 0.0, take.seconds, 2.5))


def _passing(take: Take, rng: np.random.Generator) -> Take:
    """A tram in a pause and into the phrases round it."""
    start, _ = take.phrases[len(take.phrases) // 2]
    t = np.arange(take.samples.shape[-1]) / RATE_HZ
    sos = scipy.signal.butter(2, (60, 800), btype="bandpass", fs=RATE_HZ, output="sos")
    rush = scipy.signal.sosfilt(sos, rng.standard_normal(len(t)))
    bell = np.exp(-0.5 * ((t - (start - 0.4)) / 0.6) ** 2)
    return _with(take, take.samples + 0.003 * rush / np.std(rush) * bell, Flaw("noise", start - 1.4, start + 0.6))


SPOILS: Final[Mapping[str, Spoil]] = MappingProxyType(
    {
        "clipped": _clipped,
        "flat_top": _flat_top,
        "pop": _pop,
        "ess": _sharp_ess,
        "hum": _hum,
        "tone": _tone,
        "hiss": _hiss,
        "rumble": _rumble,
        "noise": _passing,
        "dropout": _dropout,
        "click": _click,
        "creep": _creep,
        "drift": _drift,
        "jump": _jump,
        "seam": _seam,
        "roomy": _roomy,
        "polarity": _polarity,
        "delay": _delay,
    }
)


def flawed_take(kind: str, *, seed: int, **voice: float) -> Take:
    """A take with one fault and its truth. Raises KeyError for a kind that the singer cannot make."""
    spoil = SPOILS[kind]
    return spoil(sung_take(seed=seed, **voice), np.random.default_rng([seed, 5]))  # type: ignore[arg-type]
