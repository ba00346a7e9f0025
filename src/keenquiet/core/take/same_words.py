"""The same words before and after a change: how much louder one is, and how they differ by pitch once made equally
loud.
"""

from dataclasses import dataclass

import numpy as np

from keenquiet.core.errors import MeasurementError
from keenquiet.core.take.levels import take_levels
from keenquiet.core.types import FloatArray


@dataclass(frozen=True)
class SameWords:
    """gain_db : what makes the second as loud as the first. centres_hz (n,), difference_db (n,): second minus first
    after that.

    noise_db : how the noise in the pauses changed, second minus first at equal loudness, None where one has no pause.
    """

    gain_db: float
    centres_hz: FloatArray
    difference_db: FloatArray
    noise_db: float | None


def same_words(first: FloatArray, first_rate_hz: float, second: FloatArray, second_rate_hz: float) -> SameWords:
    """Compare two recordings of one line, level-matched by loudness (ITU-R BS.1770).

    first, second : (n,) one channel each. Raises MeasurementError `too_quiet` when one is too quiet to have a loudness.
    """
    a, b = take_levels(first, first_rate_hz), take_levels(second, second_rate_hz)
    if a.loudness_lufs is None or b.loudness_lufs is None:
        raise MeasurementError("too_quiet", "to_compare")
    gain = a.loudness_lufs - b.loudness_lufs
    shared, of_a, of_b = np.intersect1d(a.thirds_hz, b.thirds_hz, return_indices=True)
    noise = None
    if a.noise_floor_dba is not None and b.noise_floor_dba is not None:
        noise = b.noise_floor_dba + gain - a.noise_floor_dba
    return SameWords(gain, shared, b.thirds_db[of_b] + gain - a.thirds_db[of_a], noise)
