"""A cut between two room tones: would it be heard, and how long a crossfade hides it.

Both are read as silences are: steady levels by third octave, what passed left out. What nobody hears under the rest
does not count: a third octave more than 25 dB below the loudest A-weighted one.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import a_weighting_db, sum_db
from keenquiet.core.read.tone import RoomTone
from keenquiet.core.types import FloatArray

BROADBAND_DB: Final = 2.0
THIRD_DB: Final = 3.0
_HEARD_DB: Final = 25.0
_SAME_TONE: Final = 0.03  # of its frequency
_TONE_DB: Final = 6.0  # as loud again is the same tone
_LEAST_MS, _MOST_MS = 20.0, 2000.0
_MS_FOR_A_DB: Final = 100.0  # slower than that a change of level passes for the room's own (our estimate)


@dataclass(frozen=True)
class Splice:
    """broadband_db : the second over the first, A-weighted. worst_hz, worst_db : the third octave that differs most.
    new_tones_hz : tones of one that the other does not have.
    """

    heard: bool
    broadband_db: float
    worst_hz: float
    worst_db: float
    new_tones_hz: tuple[float, ...]
    crossfade_ms: float


def splice(first: RoomTone, second: RoomTone) -> Splice:
    """Whether a cut from one to the other would be heard. Both at one gain, uncalibrated or both calibrated."""
    centres = np.array([f for f in first.thirds_hz if f in set(second.thirds_hz)])
    one, other = (_at(tone, centres) for tone in (first, second))
    weight = a_weighting_db(centres)
    broadband = float(sum_db(other + weight) - sum_db(one + weight))
    audible = np.maximum(one, other) + weight
    counts = audible >= audible.max() - _HEARD_DB
    apart = np.where(counts, other - one, 0.0)
    worst = int(np.argmax(np.abs(apart)))
    least = float(audible.max()) - _HEARD_DB
    new = (*_new_tones(first, second, least), *_new_tones(second, first, least))
    excess = max(abs(broadband), abs(float(apart[worst])) - (THIRD_DB - BROADBAND_DB), 3 * BROADBAND_DB * bool(new))
    return Splice(
        heard=abs(broadband) > BROADBAND_DB or abs(float(apart[worst])) > THIRD_DB or bool(new),
        broadband_db=broadband,
        worst_hz=float(centres[worst]),
        worst_db=float(apart[worst]),
        new_tones_hz=new,
        crossfade_ms=float(np.clip(_MS_FOR_A_DB * excess, _LEAST_MS, _MOST_MS)),
    )


def _at(tone: RoomTone, centres: FloatArray) -> FloatArray:
    levels = dict(zip(tone.thirds_hz, tone.steady_thirds_db, strict=True))
    return np.array([levels[f] for f in centres])


def _new_tones(there: RoomTone, here: RoomTone, least_dba: float) -> tuple[float, ...]:
    """Tones of `here`, loud enough to be heard, that `there` does not have, or much weaker."""
    return tuple(
        tone.f_hz
        for tone in here.tones
        if tone.level_db + float(a_weighting_db(np.array(tone.f_hz))) >= least_dba
        and not any(
            abs(other.f_hz / tone.f_hz - 1) < _SAME_TONE and other.level_db > tone.level_db - _TONE_DB
            for other in there.tones
        )
    )
