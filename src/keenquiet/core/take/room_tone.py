"""Room tone to cut with: the evenest stretch of a longer silence."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.tone import find_events, low_levels_db, short_levels_db, with_low_events
from keenquiet.core.types import FloatArray

BEST_S: Final = 10.0
LEAST_S: Final = 20.0
_BLOCK_S: Final = 0.125
_EDGE_S: Final = 1.0  # of the recording: the press of a key, the step away


@dataclass(frozen=True)
class BestPart:
    """start_s, end_s : of the stretch. swing_db : how far its blocks of 125 ms wander (standard deviation).
    disturbed : whether something passes even there.
    """

    start_s: float
    end_s: float
    swing_db: float
    disturbed: bool


def best_part(samples: FloatArray, sample_rate_hz: float, *, seconds: float = BEST_S) -> BestPart:
    """The stretch that nothing passes in and that wanders least. samples : (n,), full scale 1.

    Raises MeasurementError for a recording under 20 s.
    """
    if len(samples) < LEAST_S * sample_rate_hz:
        raise MeasurementError("incomplete", "room_tone_short")
    short = short_levels_db(samples, sample_rate_hz)
    events = with_low_events(find_events(short), low_levels_db(samples, sample_rate_hz))
    passing = np.zeros(len(short))
    for event in events:
        passing[int(event.start_s / _BLOCK_S) : int(np.ceil(event.end_s / _BLOCK_S)) + 1] = 1
    length, edge = round(seconds / _BLOCK_S), round(_EDGE_S / _BLOCK_S)
    windows = np.lib.stride_tricks.sliding_window_view(short, length)[edge:-edge]
    disturbed = np.lib.stride_tricks.sliding_window_view(passing, length)[edge:-edge].sum(axis=1)
    swing = windows.std(axis=1)
    best = int(np.lexsort((swing, disturbed))[0])
    start = (best + edge) * _BLOCK_S
    return BestPart(start, start + seconds, float(swing[best]), bool(disturbed[best] > 0))
