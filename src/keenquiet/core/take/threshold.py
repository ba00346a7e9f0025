"""The smallest difference that one listener hears: a staircase of pairs, one of which was changed.

Two right answers make the next pair harder, one wrong makes it easier; so it settles where 70.7 % are right.
Source: H. Levitt, J. Acoust. Soc. Am. 49 (1971) 467, transformed up-down methods, table I.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.course import mean_db, sounding
from keenquiet.core.take.moments import HOP_S, moments_of
from keenquiet.core.take.phrases import BLOCK_S
from keenquiet.core.types import FloatArray

_TURNS: Final = 8
_COUNTED: Final = 6  # of the turns, the last
_MOST: Final = 50
_SURE_AT_LEAST: Final = 6  # right answers in a row at the hardest pair: one in 64 by luck
_EASIEST_WRONG: Final = 3  # at the easiest pair: what is asked is not heard at all
_TREBLE_HZ: Final = 4000.0
_FADE_OCTAVES: Final = 0.5


@dataclass(frozen=True)
class Scale:
    """What is changed, in steps. first : the easiest [dB]. coarse, fine : until the first turn and from then on, as
    factors of a change, or in dB of what is mixed in. least : the hardest.
    """

    first: float
    coarse: float
    fine: float
    least: float
    by_factors: bool


SCALES: Final[Mapping[str, Scale]] = MappingProxyType(
    {
        "louder": Scale(6.0, 2.0, 2**0.5, 0.1, True),
        "brighter": Scale(9.0, 2.0, 2**0.5, 0.1, True),
        "noise": Scale(-20.0, 6.0, 3.0, -80.0, False),
    }
)


@dataclass(frozen=True)
class Staircase:
    """next_db : of the next pair, None when it is over. threshold_db, plus_minus_db : None before, and where not even
    the easiest is heard. answered : how often.
    """

    next_db: float | None
    threshold_db: float | None
    plus_minus_db: float | None
    answered: int


def staircase(answers: Sequence[bool], scale: Scale) -> Staircase:
    """Where a listener stands who has answered so, each right or wrong. The same answers lead to the same place."""
    at, rights, wrongs_at_first, sure_at_least, way, turns = scale.first, 0, 0, 0, 0, list[float]()
    for number, right in enumerate(answers, start=1):
        rights = rights + 1 if right else 0
        wrongs_at_first += not right and at == scale.first
        step = -1 if rights == 2 else 1 if not right else 0
        if step:
            rights = 0
            if way and step != way:
                turns.append(at)
            way = step
            at = _moved(at, step, scale, fine=bool(turns))
        if wrongs_at_first >= _EASIEST_WRONG and not turns:
            return Staircase(None, None, None, number)
        sure_at_least = sure_at_least + 1 if right and at == scale.least else 0
        if sure_at_least >= _SURE_AT_LEAST:
            return Staircase(None, scale.least, _half_step_db(scale.least, scale), number)
        if len(turns) >= _TURNS or number >= _MOST:
            return _settled(turns, scale, number)
    return Staircase(at, None, None, len(answers))


def _moved(at: float, step: int, scale: Scale, *, fine: bool) -> float:
    """Harder is smaller for a change, and further under for what is mixed in: both lower."""
    size = scale.fine if fine else scale.coarse
    moved = at * size**step if scale.by_factors else at + size * step
    return float(np.clip(moved, scale.least, scale.first))


def _settled(turns: Sequence[float], scale: Scale, answered: int) -> Staircase:
    counted = np.array(turns[-_COUNTED:])
    # who turns at the easiest pair half of the time guesses
    if len(counted) < 2 or np.mean(counted == scale.first) >= 0.5:
        return Staircase(None, None, None, answered)
    if not scale.by_factors:
        error = float(counted.std(ddof=1)) / np.sqrt(len(counted))
        return Staircase(None, float(counted.mean()), max(error, _half_step_db(0.0, scale)), answered)
    logs = np.log(counted)
    middle, error = float(np.exp(logs.mean())), float(logs.std(ddof=1)) / np.sqrt(len(logs))
    return Staircase(None, middle, max(middle * error, _half_step_db(middle, scale)), answered)


def _half_step_db(at_db: float, scale: Scale) -> float:
    """Half of a fine step at a change, which no staircase is finer than. [dB]"""
    return at_db * float(np.log(scale.fine)) / 2 if scale.by_factors else scale.fine / 2


def changed(samples: FloatArray, sample_rate_hz: float, what: str, by_db: float, *, seed: int) -> FloatArray:
    """A sound made louder, brighter above 4 kHz, or with noise so far against what sounds in it, A-weighted, (n,).

    Brighter keeps what lies below as it is; noise falls by 3 dB an octave, as rooms and recorders do about. What
    sounds is told from pauses as a take's own noise under the performance is, so that both mean the same.
    """
    if what == "louder":
        return samples * 10 ** (by_db / 20)
    length = scipy.fft.next_fast_len(len(samples), real=True)
    f_hz = np.fft.rfftfreq(length, 1 / sample_rate_hz)
    if what == "brighter":
        rise = np.clip(np.log2(np.maximum(f_hz, 1.0) / _TREBLE_HZ) / _FADE_OCTAVES + 0.5, 0, 1)
        brighter: FloatArray = scipy.fft.irfft(scipy.fft.rfft(samples, length) * 10 ** (by_db * rise / 20), length)
        return brighter[: len(samples)]
    white = scipy.fft.rfft(np.random.default_rng(seed).standard_normal(length))
    noise = scipy.fft.irfft(white / np.sqrt(np.maximum(f_hz, 30.0)), length)[: len(samples)]
    over_db = _sounding_dba(samples, sample_rate_hz) - _sounding_dba(noise, sample_rate_hz)
    noisy: FloatArray = samples + 10 ** ((over_db + by_db) / 20) * noise
    return noisy


def _sounding_dba(samples: FloatArray, sample_rate_hz: float) -> float:
    """A-weighted level of the tenths of a second in which something sounds. [dBFS]"""
    levels = moments_of(samples, sample_rate_hz).level_dba(over=round(BLOCK_S / HOP_S))
    return mean_db(levels[sounding(levels)])
