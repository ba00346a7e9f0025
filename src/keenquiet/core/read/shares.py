"""A house round: all on, one off at a time, all on again; what each makes of the whole.

A source's power is what is missing when it is off, by third octave, of what is steady. How sure that is follows from
what a silence repeats within: a small difference of two large levels is not known.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import a_weighting_db, sum_db
from keenquiet.core.read.tone import RoomTone
from keenquiet.core.types import FloatArray

REPEATS_DB: Final = 0.2  # a minute of a steady house, twice (the rig's silences differ by 0.27 dB between two)
MOST_DB: Final = 3.0  # a share less sure than this cannot be told
AGAIN_DB: Final = 1.0


@dataclass(frozen=True)
class Share:
    """level_db, plus_minus_db : A-weighted, both None where it cannot be told. thirds_db : (n,), NaN where not."""

    name: str
    level_db: float | None
    plus_minus_db: float | None
    thirds_db: FloatArray


@dataclass(frozen=True)
class Round:
    """valid : whether all on again was as at first. again_db : by how much it was not, None where it was not read."""

    valid: bool
    again_db: float | None
    shares: tuple[Share, ...]


def house_round(all_on: RoomTone, without: Mapping[str, RoomTone], again: RoomTone | None = None) -> Round:
    """What each source makes of the whole, loudest first; those that cannot be told come last."""
    # by what is steady: a tram in one of them is no change of the house
    apart = None if again is None else _steady_dba(again) - _steady_dba(all_on)
    found = [_share(name, all_on, off) for name, off in without.items()]
    order = sorted(found, key=lambda share: -np.inf if share.level_db is None else share.level_db, reverse=True)
    return Round(apart is None or abs(apart) <= AGAIN_DB, apart, tuple(order))


def _steady_dba(tone: RoomTone) -> float:
    weight = a_weighting_db(np.asarray(tone.thirds_hz, dtype=float))
    return float(sum_db(tone.steady_thirds_db + weight))


def _share(name: str, on: RoomTone, off: RoomTone) -> Share:
    thirds = np.full(len(on.thirds_hz), np.nan)
    for i, (steady, rest) in enumerate(zip(on.steady_thirds_db, off.steady_thirds_db, strict=True)):
        level, spread = difference_db(float(steady), float(rest))
        if level is not None and spread is not None and spread <= MOST_DB:
            thirds[i] = on.thirds_db[i] + level - steady
    whole, rest = _steady_dba(on), _steady_dba(off)
    level, spread = difference_db(whole, rest)
    # steady levels are medians over time, lower than means by the same in both: the share is theirs, the level is not
    level = None if level is None else on.laeq_db + level - whole
    told = level is not None and spread is not None and spread <= MOST_DB
    return Share(name, level if told else None, spread if told else None, thirds)


def difference_db(whole_db: float, rest_db: float) -> tuple[float | None, float | None]:
    """Level of what is missing from a whole, and its standard uncertainty. [dB]  None where nothing is.

    Powers subtract; with both levels sure to e, the difference is sure to e sqrt(1 + (1 - s)^2) / s, s its share.
    """
    share = 1 - 10 ** ((rest_db - whole_db) / 10)
    if share <= 0:
        return None, None
    return whole_db + 10 * float(np.log10(share)), REPEATS_DB * float(np.hypot(1, 1 - share)) / share
