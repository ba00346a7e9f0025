"""Front or back? A line spoken into both sides of a microphone tells which side hears, which pattern is on, and whether
it hears at all.

At a hand's width the direct sound is all that counts: a cardioid's back lies 10 dB and more under its front, an omni's
and a figure-eight's as high as it. Hiss that a voice does not rise from is a capsule without power.
"""

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from keenquiet.core.take.levels import TakeLevels

DIRECTED_DB: Final = 10.0
_ALIKE_DB: Final = 3.0
_HEARD_DB: Final = 6.0
_EVEN: Final = ("omni", "figure-8")

Outcome = Literal["proved", "wrong_side", "both_alike", "not_even", "weak", "not_powered"]


@dataclass(frozen=True)
class Sides:
    """difference_db : how much louder the side that was meant as the front is. outcome : what it says of the pattern.

    `proved` : as the pattern should be; `wrong_side` : the other side is the front; `both_alike` : no directed pattern
    is on; `not_even` : one that should hear both sides alike does not; `weak` : between 3 and 10 dB, too far away or in
    too live a room; `not_powered` : hiss, and no voice.
    """

    difference_db: float
    outcome: Outcome


def which_side(front: TakeLevels, back: TakeLevels, pattern: str) -> Sides:
    """Judge two takes of one line at the same distance and gain: into the side meant as front, and the other."""
    difference = front.active_dba - back.active_dba
    if all(_moves_db(take) < _HEARD_DB for take in (front, back)):
        return Sides(difference, "not_powered")
    if pattern in _EVEN:
        return Sides(difference, "proved" if abs(difference) <= _ALIKE_DB else "not_even")
    if difference >= DIRECTED_DB:
        return Sides(difference, "proved")
    if difference <= -DIRECTED_DB:
        return Sides(difference, "wrong_side")
    return Sides(difference, "both_alike" if abs(difference) <= _ALIKE_DB else "weak")


def _moves_db(take: TakeLevels) -> float:
    """How far the level moves between phrases and pauses: steady hiss hardly does. [dB]"""
    low, high = np.percentile(take.blocks_db, (10, 90))
    return float(high - low)
