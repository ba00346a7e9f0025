"""Microphone stands: reach, foot, and whether they tip. Sizes and weights are our readings of common ones."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.room.room import Point, Room

GRAVITY: Final = 9.81
MICROPHONE_KG: Final = 0.6  # with its shock mount


@dataclass(frozen=True)
class Stand:
    """low_m, high_m : of the clamp without a boom. boom_m : longest. foot_m : from the middle to where it tips over.

    weight_kg : of foot and column, boom_kg : of the boom, counter_kg : at its tail, tail_m : how far behind the clamp.
    """

    key: str
    name: str
    low_m: float
    high_m: float
    boom_m: float
    foot_m: float
    weight_kg: float
    boom_kg: float = 0.0
    counter_kg: float = 0.0
    tail_m: float = 0.0


STANDS: Final = {
    stand.key: stand
    for stand in (
        Stand("round", "Straight stand with a round foot", 0.87, 1.57, 0.0, 0.125, 4.5),
        Stand("tripod", "Tripod with boom", 0.9, 1.6, 0.8, 0.17, 2.2, 0.45, 0.35, 0.22),
        Stand("short", "Short stand with boom", 0.43, 0.68, 0.7, 0.13, 2.0, 0.35, 0.25, 0.2),
    )
}


@dataclass(frozen=True)
class StandCheck:
    """short_m : what is missing in height, 0 when it reaches. boom_m : how much boom it takes. moment_nm : overturning
    less righting, above 0 it tips. fits : whether its foot stands clear.
    """

    key: str
    short_m: float
    too_low: bool
    boom_m: float
    moment_nm: float
    fits: bool

    @property
    def tips(self) -> bool:
        """Whether it falls over by itself."""
        return self.moment_nm > 0


def check_stand(room: Room, stand: Stand, capsule: Point, *, boom_m: float = 0.0) -> StandCheck:
    """A stand under or behind a capsule with so much boom reaching forward at 30 degrees.

    Moments about the foot's edge: microphone and half the boom before it, column and counterweight behind.
    """
    boom = min(boom_m, stand.boom_m)
    rise = boom * np.sin(np.deg2rad(30))
    forward = boom * np.cos(np.deg2rad(30))
    reach = (stand.low_m, stand.high_m + rise)
    short = max(capsule[2] - reach[1], reach[0] - capsule[2], 0.0)
    turning = MICROPHONE_KG * (forward - stand.foot_m) + stand.boom_kg * (forward / 2 - stand.foot_m)
    righting = stand.weight_kg * stand.foot_m + (stand.counter_kg * (stand.tail_m + stand.foot_m) if boom else 0.0)
    spot = np.array([capsule[:2]])
    fits = bool(room.shape.stands_clear(spot, margin_m=stand.foot_m)[0]) and not any(
        bool(piece.covers(spot, margin_m=stand.foot_m)[0]) for piece in room.furnishings if piece.kind.key != "rug"
    )
    return StandCheck(stand.key, float(short), capsule[2] > reach[1], boom, float(GRAVITY * (turning - righting)), fits)
