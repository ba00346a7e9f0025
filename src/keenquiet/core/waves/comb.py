"""The comb of a sound and the same again later: where its notches lie and how deep they go."""

from typing import Final

import numpy as np

_MOST_RIPPLE_DB: Final = 40.0


def notches_hz(late_s: float, *, turned: bool, count: int) -> tuple[float, ...]:
    """The first notches: odd halves of the inverse of the delay, whole multiples of it where the later one is upside
    down; none without a delay.
    """
    return tuple((k + (1.0 if turned else 0.5)) / late_s for k in range(count)) if late_s > 0 else ()


def ripple_db(share: float) -> float:
    """Peak over notch when the later one is `share` as strong as the first, at most 40. [dB]"""
    return min(20 * float(np.log10((1 + share) / max(abs(1 - share), 1e-9))), _MOST_RIPPLE_DB)
