"""The course of a take: what sounds, what is a pause, where phrases are, how their ends fade."""

from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.moments import Moments
from keenquiet.core.take.phrases import BLOCK_S, Span, phrases_of
from keenquiet.core.take.roominess import Fading, fading
from keenquiet.core.types import BoolArray, FloatArray

_ACTIVE_BELOW_LOUD_DB: Final = 20.0
_NEARBY_S: Final = 10.0


@dataclass(frozen=True, eq=False)
class Course:
    """active, pauses : of tenths of a second, (n_blocks,). average_dbfs, active_dba : of what sounds. floor_dbfs,
    floor_dba : of the pauses, None where there are none.
    """

    active: BoolArray
    pauses: BoolArray
    average_dbfs: float
    active_dba: float
    floor_dbfs: float | None
    floor_dba: float | None
    phrases: tuple[Span, ...]
    ends: Fading | None

    @cached_property
    def performed(self) -> BoolArray:
        """Blocks of the phrases, those that sound where there are none, (n_blocks,).

        Of `active` soft esses fall out as soon as the vowels grow louder, and with them the treble.
        """
        if not self.phrases:
            return self.active
        inside = np.zeros(len(self.active), dtype=bool)
        for phrase in self.phrases:
            inside[round(phrase.start_s / BLOCK_S) : round(phrase.end_s / BLOCK_S)] = True
        return inside


def course_of(levels_db: FloatArray, weighted_db: FloatArray, moments: Moments, *, mixed: bool) -> Course:
    """levels_db, weighted_db : of each tenth of a second, plain and A-weighted, each (n_blocks,). [dBFS]

    mixed : what a mix is between its beats is no pause, and nobody's phrase.
    """
    active = sounding(levels_db)
    pauses = np.zeros(len(weighted_db), dtype=bool) if mixed else _pauses(weighted_db)
    phrases = () if mixed else phrases_of(weighted_db)
    quiet = bool(np.any(pauses))
    return Course(
        active=active,
        pauses=pauses,
        average_dbfs=mean_db(levels_db[active]),
        active_dba=mean_db(weighted_db[active]),
        floor_dbfs=mean_db(levels_db[pauses]) if quiet else None,
        floor_dba=mean_db(weighted_db[pauses]) if quiet else None,
        phrases=phrases,
        ends=fading(moments, phrases),
    )


def sounding(levels_db: FloatArray) -> BoolArray:
    """Which blocks are none of a pause's: within 20 dB of the loud ones, (n_blocks,)."""
    active: BoolArray = np.asarray(levels_db > np.percentile(levels_db, 95) - _ACTIVE_BELOW_LOUD_DB)
    return active


def mean_db(levels: FloatArray) -> float:
    """Mean of levels, in power. [dB]"""
    return 10 * float(np.log10(np.mean(10 ** (levels / 10))))


def _pauses(levels: FloatArray) -> BoolArray:
    """Blocks between phrases: the quietest of their ten seconds, if they lie 12 dB under the loud ones, else none.

    Quietest nearby and not of all: a hum that starts halfway makes later pauses louder, and they are pauses still.
    """
    around = 2 * int(_NEARBY_S / 2 / BLOCK_S) + 1
    low = scipy.ndimage.percentile_filter(levels, 10, size=min(around, len(levels)), mode="nearest")
    pauses: BoolArray = np.asarray((levels <= low + 2.0) & (levels <= np.percentile(levels, 90) - 12.0))
    return pauses
