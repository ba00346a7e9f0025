"""What is quiet now and is raised later: noise, room and esses as recorded, after squeezing by ten decibels, and after
a shelf of treble besides (the same two as `core.judge.audible`).
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import a_weighting_db, sum_db
from keenquiet.core.read.audible import SQUEEZE_DB, TREBLE_DB
from keenquiet.core.take.levels import TakeLevels
from keenquiet.core.types import FloatArray

_SHELF_FROM_HZ: Final = 3500.0
_LOUDEST: Final = 99.0  # percentile of moments that an ess reaches


@dataclass(frozen=True)
class Later:
    """Each as recorded, squeezed, and lifted besides [dB], None where it cannot be told. noise_db : the performance
    over it, A-weighted. room_db : direct sound over the room. esses_db : the sharpest over the vowels.
    """

    noise_db: tuple[float, float, float] | None
    room_db: tuple[float, float, float] | None
    esses_db: tuple[float, float, float] | None


def raised_later(levels: TakeLevels) -> Later:
    """Squeezing raises what lies under the loud parts by ten decibels; a shelf raises what is bright."""
    shelf = np.where(levels.thirds_hz > _SHELF_FROM_HZ, TREBLE_DB, 0.0)
    weight = a_weighting_db(levels.thirds_hz)

    def loud(thirds_db: FloatArray, raised: FloatArray | float) -> float:
        known = np.isfinite(thirds_db)
        return float(sum_db((thirds_db + weight + raised)[known]))

    noise = None
    if levels.noise_thirds_db is not None:
        apart = [loud(levels.thirds_db, up) - loud(levels.noise_thirds_db, up) for up in (0.0, shelf)]
        noise = (apart[0], apart[0] - SQUEEZE_DB, apart[1] - SQUEEZE_DB)
    room = levels.fading.direct_over_room_db if levels.fading else None
    esses = None
    if levels.moments.power.shape[0] > 200:
        sibilant, body = levels.moments.level("sibilant", smooth=2), levels.moments.level("body", smooth=2)
        over = float(np.percentile(sibilant, _LOUDEST) - np.percentile(body, 85))
        # an ess is as loud as what is squeezed: squeezing leaves it, the shelf does not
        esses = (over, over, over + TREBLE_DB)
    # a tail lies under the voice, and comes up with everything that does; its colour is the voice's own
    return Later(noise, None if room is None else (room, room - SQUEEZE_DB, room - SQUEEZE_DB), esses)
