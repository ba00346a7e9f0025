"""What a silence is made of, in words: hum families, fans, whines, rumble, hiss."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.read.tone import MAINS_HZ, RoomTone, Tone, mains_harmonic
from keenquiet.core.types import FloatArray

_RUMBLE_DB: Final = 18.0  # 25 to 63 Hz over 125 to 500 Hz
_HISS_DB: Final = 3.0  # 4 to 8 kHz thirds over 500 to 2000 Hz ones: white noise rises 1 dB a third, rooms fall


@dataclass(frozen=True, slots=True)
class Noise:
    """kind : hum, fan, whine, rumble or hiss. f_hz : fundamental or middle. harmonics : numbers found, empty for broad
    noises.

    level_db : power sum, in the silence's own decibels. What helps against each is in `advice.findings`.
    """

    kind: str
    f_hz: float
    harmonics: tuple[int, ...]
    level_db: float


def noises_in(tone: RoomTone) -> tuple[Noise, ...]:
    """Families of tones and broad noises, loudest first; nothing where the silence is even."""
    left = list(tone.tones)
    found: list[Noise] = []
    for mains in MAINS_HZ:
        family = [t for t in left if t.kind == "hum" and mains_harmonic(t.f_hz, mains) is not None]
        if family:
            found.append(_family("hum", mains, family))
            left = [t for t in left if t not in family]
    while turning := [t for t in left if t.kind != "whine"]:
        family, base = _turning_family(turning)
        found.append(_family("fan", base, family))
        left = [t for t in left if t not in family]
    found += [Noise("whine", t.f_hz, (1,), t.level_db) for t in left]
    found += _broad(tone.thirds_hz, tone.steady_thirds_db)
    return tuple(sorted(found, key=lambda noise: -noise.level_db))


def _family(kind: str, base_hz: float, tones: list[Tone]) -> Noise:
    numbers = tuple(sorted({round(t.f_hz / base_hz) for t in tones}))
    level = 10 * float(np.log10(sum(10 ** (t.level_db / 10) for t in tones)))
    return Noise(kind, base_hz, numbers, level)


def _turning_family(tones: list[Tone]) -> tuple[list[Tone], float]:
    """The loudest tone with its multiples, and those of which it is one: all that turn with one shaft."""
    loudest = tones[0]
    best: tuple[list[Tone], float] = ([loudest], loudest.f_hz)
    for part in (1, 2, 3, 4):
        base = loudest.f_hz / part
        if base < 12:
            break
        family = [t for t in tones if abs(t.f_hz / base - round(t.f_hz / base)) * base < 0.7 + 0.001 * t.f_hz]
        if len(family) > len(best[0]):
            best = (family, base)
    return best


def _broad(centres_hz: FloatArray, level_db: FloatArray) -> list[Noise]:
    def power(low: float, high: float) -> FloatArray:
        levels = level_db[(centres_hz >= low) & (centres_hz <= high)]
        picked: FloatArray = 10 ** (levels[np.isfinite(levels)] / 10)
        return picked

    # medians over bands: a hum or a whine fills one band and is told by itself
    broad = []
    deep, middle, high = power(25, 63), power(125, 500), power(4000, 8000)
    speech = power(500, 2000)
    if len(deep) and len(middle) and 10 * np.log10(np.median(deep) / np.median(middle)) > _RUMBLE_DB:
        broad.append(Noise("rumble", 40.0, (), 10 * float(np.log10(deep.sum()))))
    if len(high) and len(speech) and 10 * np.log10(np.median(high) / np.median(speech)) > _HISS_DB:
        broad.append(Noise("hiss", 6000.0, (), 10 * float(np.log10(high.sum()))))
    return broad
