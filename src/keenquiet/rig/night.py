"""A practice watch: levels by the second of a room's noted noises, for any stretch of time, the same each time asked.

Nothing of it is shared with the forecast but how loud the quiet house is: levels come from the rig's own recorder, in
a room that differs from what is noted as its true room does. Its own are also when within their cycles things come, how
even they are, how loud each passing is, and knocks that nobody noted.
"""

from typing import Final

import numpy as np

from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, sum_db
from keenquiet.core.room.room import NoiseSource
from keenquiet.core.scenario import Scenario
from keenquiet.core.types import FloatArray
from keenquiet.rig.recorder import FULL_SCALE_SPL_DB, picked_up_db
from keenquiet.rig.truth import true_room

_WANDERS_DB: Final = 0.6  # of a second against the next
_PASSING_DB: Final = 2.0  # of one tram against another
_JITTER: Final = 0.15  # of a period: timetables are not kept to the second
_KNOCKS_PER_H: Final = 0.6
_KNOCK_DB: Final = 18.0


def night_levels(scenario: Scenario, *, from_s: float, offset_s: float, seconds: int, seed: int = 1) -> FloatArray:
    """A-weighted and octave levels of each second, (seconds, 9). [dBFS at the rig's usual gain]

    from_s : since 1970, UTC. offset_s : of local time against it.
    """
    truth = true_room(scenario.described)
    house, levels = picked_up_db(truth, scenario.arrangement)
    utc: FloatArray = from_s + np.arange(seconds, dtype=float)
    local = utc + offset_s
    power = np.zeros((seconds, 8)) + 10 ** (house / 10)
    for number, (noise, level) in enumerate(zip(truth.noises, levels, strict=True)):
        on = _sounding(noise, local) * _shape(noise, utc, seed + 101 * number)
        power += on[:, None] * 10 ** (level / 10)
    power += _knocks(utc, seed)[:, None] * np.mean(power)
    power *= 10 ** (_WANDERS_DB / 10 * _drawn(utc, seed + 7))[:, None]
    octaves = 10 * np.log10(power) - FULL_SCALE_SPL_DB
    weighted = sum_db(octaves + A_WEIGHTING_OCTAVES_DB, axis=1)
    return np.concatenate([weighted[:, None], octaves], axis=1)


def _sounding(noise: NoiseSource, local_s: FloatArray) -> FloatArray:
    """1 where the calendar lets a noise run, (n,). 1 January 1970 was a Thursday."""
    minute = np.floor(local_s / 60).astype(int)
    known = {int(m): float(noise.runs_at(float(m % 1440) / 60, (int(m) // 1440 + 3) % 7)) for m in np.unique(minute)}
    return np.array([known[int(m)] for m in minute])


def _shape(noise: NoiseSource, utc_s: FloatArray, seed: int) -> FloatArray:
    """Power of a noise over time against its own while it sounds, (n,)."""
    if noise.cycle is None:
        return np.ones(len(utc_s))
    period, on = 60 * noise.cycle.period_min, 60 * noise.cycle.on_min
    shape = np.zeros(len(utc_s))
    first = int(utc_s[0] // period) - 1
    for number in range(first, int(utc_s[-1] // period) + 2):
        own = np.random.default_rng([seed, number % 2**31])
        start = period * (number + 0.3 + _JITTER * own.uniform(-1, 1))
        loud = 10 ** (_PASSING_DB * own.standard_normal() / 10) if noise.passes else 1.0
        inside = (utc_s >= start) & (utc_s < start + on)
        swell = np.exp(-0.5 * ((utc_s - start - on / 2) / (on / 4)) ** 2) if noise.passes else inside.astype(float)
        shape = np.maximum(shape, loud * np.where(inside, swell, 0.0))
    return shape


def _knocks(utc_s: FloatArray, seed: int) -> FloatArray:
    """Power of knocks against the rest, (n,)."""
    drawn = _drawn(utc_s, seed + 13, uniform=True)
    return np.where(drawn < _KNOCKS_PER_H / 3600, 10 ** (_KNOCK_DB / 10), 0.0)


def _drawn(utc_s: FloatArray, seed: int, *, uniform: bool = False) -> FloatArray:
    """Chance of each second, the same whenever it is asked for, (n,): drawn by whole blocks of ten minutes."""
    second = np.floor(utc_s).astype(int)
    found = np.zeros(len(second))
    for block in np.unique(second // 600):
        own = np.random.default_rng([seed, int(block) % 2**31])
        values = own.random(600) if uniform else own.standard_normal(600)
        here = second // 600 == block
        found[here] = values[second[here] % 600]
    return found
