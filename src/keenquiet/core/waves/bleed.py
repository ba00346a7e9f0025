"""Headphones at an open microphone: what leaks out of the cups against the performance.

Isolation by octave of closed and open cups are our estimates from common data sheets and standards' tests of hearing
protectors (ISO 4869-1 gives the method); one cup pushed off the ear lets through what an open one does.
"""

from typing import Final

import numpy as np

from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, sum_db
from keenquiet.core.room.room import Arrangement
from keenquiet.core.types import FloatArray

ISOLATION_DB: Final = {
    "closed": np.array([6.0, 6, 8, 14, 20, 26, 30, 28]),
    "open": np.array([0.0, 0, 0, 1, 3, 5, 8, 8]),
}
USUAL_DBA: Final = 80.0  # in the ear; ISO 1999 and safe-listening guidance stay at 80 dB(A) for hours
_CUP_M: Final = 0.05  # from the middle of a cup to its rim, where the isolation is measured
_EAR_TO_MOUTH_M: Final = 0.15
# a backing as loud by octave as pink noise rolled off above 2 kHz: most mixes lie near it
_SHAPE_DB: Final = np.array([0.0, 0, 0, 0, -1, -3, -7, -12])


def bleed_under_db(
    arrangement: Arrangement, distance_m: FloatArray, *, cups: str, level_dba: float = USUAL_DBA
) -> FloatArray:
    """How far what leaks lies under the performance, by distance between mouth and microphone, (n,). [dB]"""
    shaped = _SHAPE_DB - float(sum_db(_SHAPE_DB + A_WEIGHTING_OCTAVES_DB)) + level_dba
    outside = float(sum_db(shaped - ISOLATION_DB[cups] + A_WEIGHTING_OCTAVES_DB))
    way = np.hypot(np.asarray(distance_m, dtype=float), _EAR_TO_MOUTH_M)
    leaked = outside - 20 * np.log10(np.maximum(way, _CUP_M) / _CUP_M)
    under: FloatArray = arrangement.performer.source.level_dba - 20 * np.log10(distance_m) - leaked
    return under
