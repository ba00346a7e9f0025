"""Two silences at two gains: what comes before the gain, room and preamplifier, and what the recorder adds after it."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import a_weighting_db, sum_db
from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.tone import RoomTone
from keenquiet.core.types import FloatArray

_LEAST_GAIN_DB: Final = 6.0
_SLACK_DB: Final = 1.5  # a house is as quiet as it was within that
_LITTLE: Final = 0.1  # a share of the chain under which turning the gain changes nothing


@dataclass(frozen=True)
class GainPair:
    """At the lower gain, A-weighted. [dBFS]  room_db : what is amplified along. chain_db : what stays, None where it
    does not show. chain_share : of the power. wins_db : what the higher gain wins in noise under the performance.
    thirds_hz, room_thirds_db, chain_thirds_db : (n,), NaN where nothing is left.
    """

    gain_db: float
    room_db: float
    chain_db: float | None
    chain_share: float
    wins_db: float
    thirds_hz: FloatArray
    room_thirds_db: FloatArray
    chain_thirds_db: FloatArray

    @property
    def advice(self) -> str:
        """`same` : turning the gain changes level and noise alike. `up` : more gain buries the chain's own noise."""
        return "up" if self.chain_share > _LITTLE else "same"


def gain_pair(low: RoomTone, high: RoomTone, *, gain_db: float = 10.0) -> GainPair:
    """Split two silences, the second recorded with the gain that much higher.

    Power that is there at both gains is p = r + c and p' = g r + c. Raises MeasurementError when the second is not
    between as loud and g times as loud: the gain, or the room, changed otherwise.
    """
    if gain_db < _LEAST_GAIN_DB:
        raise MeasurementError("not_a_recording", "gain_small", gain_db=gain_db)
    factor = 10 ** (gain_db / 10)
    weight = a_weighting_db(np.asarray(low.thirds_hz, dtype=float))
    one, other = (10 ** (tone.steady_thirds_db / 10) for tone in (low, high))
    whole, louder = (float(sum_db(tone.steady_thirds_db + weight)) for tone in (low, high))
    if not -_SLACK_DB < louder - whole < gain_db + _SLACK_DB:
        raise MeasurementError("not_a_recording", "gain_otherwise", rise_db=louder - whole, gain_db=gain_db)
    room = np.clip((other - one) / (factor - 1), 0.0, one)
    chain = one - room
    room_dba, chain_dba = (10 * np.log10(np.sum(power * 10 ** (weight / 10)) + 1e-20) for power in (room, chain))
    share = float(10 ** (chain_dba / 10) / (10 ** (chain_dba / 10) + 10 ** (room_dba / 10)))
    total = 10 * np.log10(10 ** (chain_dba / 10) + 10 ** (room_dba / 10))
    then = 10 * np.log10(10 ** (chain_dba / 10) / factor + 10 ** (room_dba / 10))
    with np.errstate(divide="ignore"):
        bands = [np.where(power > 0.02 * one, 10 * np.log10(power), np.nan) for power in (room, chain)]
    return GainPair(
        gain_db=gain_db,
        room_db=float(room_dba),
        chain_db=float(chain_dba) if share > 0.02 else None,
        chain_share=share,
        wins_db=float(total - then),
        thirds_hz=np.asarray(low.thirds_hz, dtype=float),
        room_thirds_db=bands[0],
        chain_thirds_db=bands[1],
    )
