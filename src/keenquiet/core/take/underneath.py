"""What lies under a take against the silence of its room, recorded at the same gain: whether something was on that was
off then.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import a_weighting_db, sum_db
from keenquiet.core.read.tone import RoomTone
from keenquiet.core.take.levels import TakeLevels

_AUDIBLE_DB: Final = 25.0  # under the loudest A-weighted third octave
_SAME_TONE: Final = 0.03  # of its frequency
TOLD_DB: Final = 2.0
THIRD_TOLD_DB: Final = 4.0  # pauses are short, and hold the end of what was sung


@dataclass(frozen=True)
class Underneath:
    """more_db : of the pauses over the silence, A-weighted. worst_hz, worst_db : the third octave that is audible and
    differs most. new_hz : tones and hums of the take that the silence does not have.
    """

    more_db: float
    worst_hz: float
    worst_db: float
    new_hz: tuple[float, ...]

    @property
    def told(self) -> bool:
        """Whether another noise lies under the take than in the silence."""
        return abs(self.more_db) >= TOLD_DB or abs(self.worst_db) >= THIRD_TOLD_DB or bool(self.new_hz)


def underneath(take: TakeLevels, silence: RoomTone) -> Underneath | None:
    """silence : uncalibrated, of the same chain at the same gain. None where the take has no pauses to hear it in."""
    if take.noise_thirds_db is None:
        return None
    shared, of_take, of_silence = np.intersect1d(take.thirds_hz, silence.thirds_hz, return_indices=True)
    under, still = take.noise_thirds_db[of_take], silence.steady_thirds_db[of_silence]
    known = np.isfinite(under) & np.isfinite(still)
    shared, under, still = shared[known], under[known], still[known]
    weight = a_weighting_db(shared)
    audible = np.maximum(under, still) + weight
    apart = np.where(audible >= audible.max() - _AUDIBLE_DB, under - still, 0.0)
    worst = int(np.argmax(np.abs(apart)))
    tones = {f.f_hz for f in take.findings if f.kind in ("hum", "tone") and f.f_hz is not None}
    return Underneath(
        more_db=float(sum_db(under + weight) - sum_db(still + weight)),
        worst_hz=float(shared[worst]),
        worst_db=float(apart[worst]),
        new_hz=tuple(sorted(f for f in tones if not any(abs(t.f_hz / f - 1) < _SAME_TONE for t in silence.tones))),
    )
