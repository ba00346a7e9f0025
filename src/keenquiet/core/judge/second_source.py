"""Two sources at once, a microphone for one of them: its null turned on the other.

Of all aims that put the null on the second source, the one nearest to the first: in the plane of both. Source:
elementary geometry of a cone of half-angle `null_deg` about the direction of the second source.
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.judge.aim import null_deg
from keenquiet.core.room.room import Arrangement, Microphone, Point, Room, direction
from keenquiet.core.things.microphone import PATTERNS, random_energy_efficiency, sensitivity
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.statistics import Decay, reverberant_area_m2

_DEEPEST: Final = 10 ** (-25 / 20)  # of a real null near the middle of its range (our estimate of common capsules)
_MID: Final = slice(3, 6)  # 500 Hz to 2 kHz
# where the other source is when somebody sings and plays: an instrument under the mouth, the mouth above it [m]
_UNDER_M: Final = 0.45
_BEFORE_M: Final = 0.15


@dataclass(frozen=True)
class OnSecond:
    """pattern : of the microphone. aims_deg, tilt_deg : its aim. kept_db : of the first source, against straight on.

    apart_db : by how much the first is over the second at equal loudness, as aimed now and with the null. between_deg :
    the two sources as seen from the capsule.
    """

    pattern: str
    aims_deg: float
    tilt_deg: float
    between_deg: float
    kept_db: float
    apart_now_db: float
    apart_db: float


def in_the_hands(arrangement: Arrangement, *, sings: bool) -> Point:
    """Where the other source of somebody who sings and plays is. sings : the performer's place is the mouth."""
    x, y, z = arrangement.performer.at
    ahead = direction(arrangement.performer.faces_deg) * (_BEFORE_M if sings else -_BEFORE_M)
    return x + float(ahead[0]), y + float(ahead[1]), z + (-_UNDER_M if sings else _UNDER_M)


def nulls_on_second(room: Room, arrangement: Arrangement, second: Point, *, decay: Decay) -> list[OnSecond]:
    """The same for every pattern with a null in the microphone's place, the one that tells them apart best first."""
    mic = arrangement.microphone
    tried = [replace(arrangement, microphone=replace(mic, pattern=pattern)) for pattern in PATTERNS]
    found = [one for each in tried if (one := null_on_second(room, each, second, decay=decay)) is not None]
    return sorted(found, key=lambda one: -one.apart_db)


def null_on_second(room: Room, arrangement: Arrangement, second: Point, *, decay: Decay) -> OnSecond | None:
    """None where the pattern has no null, or both sources lie in one line from it."""
    mic = arrangement.microphone
    off = null_deg(mic.a)
    if off is None:
        return None
    ways = [np.subtract(at, mic.at) for at in (arrangement.performer.at, second)]
    distance = [max(float(np.linalg.norm(way)), 0.02) for way in ways]
    first, other = (way / far for way, far in zip(ways, distance, strict=True))
    across = first - (first @ other) * other
    if float(np.linalg.norm(across)) < 0.05:
        return None
    across /= np.linalg.norm(across)
    turn = np.deg2rad(off)
    axis = np.cos(turn) * other + np.sin(turn) * across
    area = reverberant_area_m2(room, decay)
    diffuse = float(np.mean((16 * np.pi / area)[_MID])) * random_energy_efficiency(mic.a)
    now = direction(mic.aims_deg, mic.tilt_deg)
    apart = [_apart_db(mic, look, first, other, distance, diffuse) for look in (now, axis)]
    return OnSecond(
        pattern=mic.pattern,
        aims_deg=float(np.degrees(np.arctan2(axis[1], axis[0])) % 360),
        tilt_deg=float(np.degrees(np.arcsin(np.clip(axis[2], -1, 1)))),
        between_deg=float(np.degrees(np.arccos(np.clip(first @ other, -1, 1)))),
        kept_db=float(20 * np.log10(max(abs(float(sensitivity(mic.a, np.asarray(first @ axis)))), 1e-3))),
        apart_now_db=apart[0],
        apart_db=apart[1],
    )


def _apart_db(
    mic: Microphone, axis: FloatArray, first: FloatArray, other: FloatArray, distance: list[float], diffuse: float
) -> float:
    heard = [
        max(abs(float(sensitivity(mic.a, np.asarray(way @ axis)))), _DEEPEST) ** 2 / far**2 + diffuse
        for way, far in zip((first, other), distance, strict=True)
    ]
    return float(10 * np.log10(heard[0] / heard[1]))
