"""Decay of a room: three formulas, energy followed wall by wall, what scattering leaves open, and what follows."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from keenquiet.core.room.room import Room
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.energy_walks import LITTLE, MIDDLE, MUCH, Body, Mixing, Part, Walks, energy_walks

_METHOD = 0.08  # two other ways to follow energy differ by 8 to 9 % rms in twelve rooms (docs/physics.md)
_BENT = 1.3  # a decay so much longer than its first 10 dB
_MOST_ALPHA = 0.99  # Eyring's logarithm ends at 1


@dataclass(frozen=True)
class Decay:
    """Reverberation times by octave, each (8,) [s], trusted above the Schroeder frequency [Hz].

    sabine_s, eyring_s, arau_s : by formula. middle_s : by energy followed wall by wall, from -5 to -25 dB, which is
    what is predicted; early_s : the first 10 dB; filling_s : energy that is left, summed over time, of 1
    that was sent at once, by `Part`, (n_parts, 8). comes_from : mean of x, y, z, xx, yy, zz, xy, yz, zx of the unit
    vectors from where late sound comes, (9, 8) [-]. extremes : middle_s when scattering mixes as much and as
    little as it may.
    """

    sabine_s: FloatArray
    eyring_s: FloatArray
    arau_s: FloatArray
    middle_s: FloatArray
    early_s: FloatArray
    filling_s: FloatArray
    comes_from: FloatArray
    trusted_above_hz: float
    extremes: Callable[[], tuple[FloatArray, FloatArray]]

    @cached_property
    def spread(self) -> FloatArray:
        """Standard uncertainty that scattering leaves, over middle_s, (8,). [-]  The two extremes are taken as one
        standard deviation from the middle each; a search of hundreds of moves never asks.
        """
        least, most = self.extremes()
        wide = (np.maximum(most, self.middle_s) - np.minimum(least, self.middle_s)) / 2 / self.middle_s
        return np.hypot(wide, _METHOD)

    @property
    def bent(self) -> bool:
        """Whether the middle octaves hang on longer than they begin to fade: a decay that is heard as two."""
        return bool(np.mean((self.middle_s / self.early_s)[3:5]) > _BENT)


class Walked(NamedTuple):
    """What walks say of a decay, as in `Decay`. [s]"""

    middle_s: FloatArray
    early_s: FloatArray
    filling_s: FloatArray
    comes_from: FloatArray


def absorption_area_m2(room: Room) -> FloatArray:
    """Equivalent absorption area by octave, surfaces and furniture, air apart, (8,). [m2]"""
    area: FloatArray = room.face_areas_m2 @ room.face_absorption + room.furniture_area_m2
    return area


def reverberant_area_m2(room: Room, decay: Decay, part: Part = Part.ROUND) -> FloatArray:
    """Absorption area `4 V / (c filling)` by which a steady source fills the air of a room with 4 / A, (8,). [m2]

    part : of its sound, as a rule all that has met a wall. Where walls swallow alike it is A / (1 - alpha) (H.
    Kuttruff, Room Acoustics, chapter 5); where a decay is bent, its slow end says little of it.
    """
    area: FloatArray = 4 * room.air_volume_m3 / (room.air.speed_m_s * np.maximum(decay.filling_s[part], 1e-9))
    return area


def late_mean(decay: Decay, towards: FloatArray, square: FloatArray) -> FloatArray:
    """Mean over where late sound comes from of `c0 + c1 cos + c2 cos^2`, cos to a unit vector `towards` (3,), (8,).

    square : c0, c1, c2, (3,) or (3, 8). What leaves in a direction is weighted as what comes from there (reciprocity).
    """
    x, y, z = towards
    first = towards @ decay.comes_from[:3]
    second = np.array([x * x, y * y, z * z, 2 * x * y, 2 * y * z, 2 * z * x]) @ decay.comes_from[3:]
    mean: FloatArray = square[0] + square[1] * first + square[2] * second
    return mean


def decay(room: Room) -> Decay:
    """Reverberation time by Sabine, Eyring and Arau-Puchades, and by energy walks, all with air absorption.

    Source: H. Kuttruff, Room Acoustics, chapter 5; H. Arau-Puchades, Acustica 65 (1988) 163, equation for the
    three pairs of walls; in other shapes each face counts towards the three directions by the square of its normal's
    components (our extension; it keeps areas). Furniture is spread over all faces in proportion to their area.
    """
    constant = 24 * np.log(10) / room.air.speed_m_s  # 0.161 s/m at 20 degC
    volume = room.volume_m3
    surface = float(room.face_areas_m2.sum())
    air = 4 * room.air.energy_loss_per_m * volume
    area = absorption_area_m2(room)
    with np.errstate(divide="ignore"):
        sabine = constant * volume / (area + air)
        eyring = constant * volume / (-surface * np.log1p(-np.minimum(area / surface, _MOST_ALPHA)) + air)
        # three directions: a face belongs to each by the squared cosine of its normal (a box's pairs of walls exactly)
        share = np.stack([face.normal for face in room.faces]).T ** 2 * room.face_areas_m2  # (3, n_faces)
        alpha = share @ room.face_absorption / share.sum(axis=1)[:, None]
        alpha = np.minimum(alpha + room.furniture_area_m2 / surface, _MOST_ALPHA)
        weight = (share.sum(axis=1) / surface)[:, None]
        arau = np.prod((constant * volume / (-surface * np.log1p(-alpha) + air)) ** weight, axis=0)
    walked = walked_decay(room, scattering(room))
    return Decay(
        sabine,
        eyring,
        arau,
        *walked,
        trusted_above_hz=schroeder_hz(float(np.mean(walked.middle_s[3:5])), volume_m3=volume),
        extremes=lambda: (
            walked_decay(room, scattering(room), MUCH).middle_s,
            walked_decay(room, scattering(room), LITTLE).middle_s,
        ),
    )


def few_walks(room: Room) -> tuple[Walks, Walked]:
    """The first of a room's walks, and what they say of it: what it is changed from."""
    walks = _walks(room, scattering(room), MIDDLE).few
    return walks, _decay_of(walks, room)


def decay_towards(before: Decay, few: tuple[Walks, Walked], room: Room) -> Decay:
    """The decay of a room in which a little was changed: by how much fewer walks, the same before and after, differ.
    For ranking many candidates; the formulas stay as they were, and so does what scatters.
    """
    walks, least = few
    then = _decay_of(walks, room)
    middle, early, filling = (
        getattr(before, name) * getattr(then, name) / np.maximum(getattr(least, name), 1e-12)
        for name in ("middle_s", "early_s", "filling_s")
    )
    return replace(
        before,
        middle_s=middle,
        early_s=early,
        filling_s=filling,
        comes_from=before.comes_from + then.comes_from - least.comes_from,
        trusted_above_hz=schroeder_hz(float(np.mean(middle[3:5])), volume_m3=room.volume_m3),
    )


def scattering(room: Room) -> float:
    """Share of the energy reflected by the walls that is scattered in the middle octaves. [-]"""
    scattered = np.array([material.scattering[3:5].mean() for material in room.materials])
    return float(room.face_areas_m2 @ scattered / room.face_areas_m2.sum())


def walked_decay(room: Room, scatters: float, mixing: Mixing = MIDDLE) -> Walked:
    """Decay by energy walks, whose walls scatter this share."""
    return _decay_of(_walks(room, scatters, mixing), room)


def _walks(room: Room, scatters: float, mixing: Mixing) -> Walks:
    return energy_walks(room.shape, scatters, mixing, bodies=tuple(Body.of(piece) for piece in room.bodies))


def _decay_of(walks: Walks, room: Room) -> Walked:
    stands = {Body.of(piece): piece for piece in room.bodies}
    met = [stands.get(body) for body in walks.bodies]
    swallows = [piece.body_absorption if piece else np.zeros(8) for piece in met]
    # what no walk meets, having no body or not standing there when they walked, is spread over the room
    loose = sum((p.absorption_area_m2 for p in room.furnishings if p not in met), start=np.zeros(8))
    along_way = room.air.energy_loss_per_m + loose / (4 * room.volume_m3)
    absorption = np.vstack([*(material.absorption for material in room.materials), *swallows])
    patches = tuple((p.face, p.rect, p.material.absorption) for p in room.pieces if p.rect is not None and p.sign > 0)
    faded = np.exp(-np.outer(walks.along_m, along_way))
    parts, from_where = (rows * faded for rows in walks.left(absorption, patches))
    time_s = walks.along_m / room.air.speed_m_s
    # a dead room ends, and still falls
    energy = np.maximum(parts[Part.ALL], 1e-30 * np.arange(len(time_s), 0, -1)[:, None])
    # between two steps the energy falls as an exponential, and after the last one it goes on as before it
    rate = np.log(energy[:-1] / energy[1:]) / np.diff(time_s)[:, None]
    rate = np.maximum(rate, 1e-3)
    pieces = (energy[:-1] - energy[1:]) / rate
    beyond = energy[-1] / rate[-1]
    left = np.concatenate([np.cumsum(pieces[::-1], axis=0)[::-1] + beyond, beyond[None]])
    fallen = -10 * np.log10(left / left[0])
    edges = np.array([0.0, 5.0, 10.0, 25.0])
    reached = np.empty((4, 8))
    for band in range(8):
        # the integral's end goes on with its last slope
        beyond_s = np.maximum(edges - fallen[-1, band], 0) / (4.343 * rate[-1, band])
        reached[:, band] = np.interp(edges, fallen[:, band], time_s) + beyond_s
    filling = np.trapezoid(parts, time_s, axis=1) + beyond
    return Walked(
        3 * (reached[3] - reached[1]),
        6 * (reached[2] - reached[0]),
        filling,
        np.trapezoid(from_where, time_s, axis=1) / np.maximum(filling[Part.BEYOND_TWO], 1e-12),
    )


def schroeder_hz(t60_s: float, *, volume_m3: float) -> float:
    """Frequency above which modes overlap enough for statistics: 2000 sqrt(T/V). [Hz]"""
    return 2000 * float(np.sqrt(t60_s / volume_m3))


def critical_distance_m(area_m2: FloatArray, *, q: FloatArray | float = 1.0, efficiency: float = 1.0) -> FloatArray:
    """Distance at which direct and reverberant sound are equal: sqrt(Q A / (16 pi E)). [m]

    area_m2 : equivalent absorption area; q : directivity factor on axis; efficiency : random energy efficiency of the
    microphone.
    """
    distance: FloatArray = np.sqrt(q * area_m2 / (16 * np.pi * efficiency))
    return distance
