"""Breath at the capsule: a puff of a spoken p travels as a narrow jet, and its push falls with the square of the way.

A turbulent round jet keeps its momentum: its speed on the axis falls as 1/x and its profile spreads with x (S. Pope,
Turbulent Flows, chapter 5: half of the speed at 0.1 x beside the axis). What the capsule feels is the stagnation
pressure, the speed squared. An index, 1 for a hand's width straight on without a screen: it ranks places, a reading of
pop words says what this mouth does.
"""

from typing import Final

import numpy as np

from keenquiet.core.types import FloatArray

HAND_M: Final = 0.10  # where the index is 1
_HALF_SPEED: Final = 0.1  # of the way beside the axis the jet has half of its speed
_CORE_M: Final = 0.02  # nearer than this the jet has not yet spread
# what a screen leaves of the push: it breaks the jet, which needs a hand's width behind it to calm (our estimates)
SCREENS: Final = {"none": 1.0, "on": 0.3, "off": 0.04}
FROM_THE_MOUTH: Final = ("voice-soft", "voice-spoken", "voice-sung", "voice-loud")


def puff_index(
    distance_m: FloatArray | float, off_jet_deg: FloatArray | float = 0.0, *, screen: str = "none"
) -> FloatArray:
    """Push of a puff at the capsule against that at 10 cm straight on, any shape. [-]

    distance_m : from the lips. off_jet_deg : between the way the mouth points and the way to the capsule.
    screen : `none`, `on` the capsule, or `off` it by 15 cm or half the way.
    """
    x = np.maximum(np.asarray(distance_m, dtype=float), _CORE_M)
    beside = np.tan(np.deg2rad(np.clip(off_jet_deg, 0.0, 85.0)))
    speed = HAND_M / x * np.exp(-np.log(2) * (beside / _HALF_SPEED) ** 2)
    index: FloatArray = speed**2 * SCREENS[screen]
    return index
