"""Screens: what stands free round a microphone or behind a performer takes from the late field, and what it adds.

Two effects. It swallows part of what the performer feeds the room: the solid angle that it fills as seen from the
mouth, weighted with the directivity. And it swallows part of what the room feeds the microphone: the same as seen from
the capsule, weighted with the pattern. Sound longer than the screen passes round it: below k a = 1, a half its smaller
side, both are weighted with (k a)^2 / (1 + (k a)^2). Its own early reflections are paths like any other (it is a body).

Not seen: gaps between screens set edge to edge, sound that passes through, and what a closed box does to a voice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import exact_octaves_hz
from keenquiet.core.room.room import Arrangement, Microphone, Performer, Screen, direction
from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import BoolArray, FloatArray

_RAYS: Final = 4096
_SPEED_M_S: Final = 343.0
_CLOSEST_M: Final = 0.02


@dataclass(frozen=True)
class Screened:
    """What screens leave by octave, (8,), 1 without any. fed : of the power that the performer gives the room.
    gathered : of the diffuse sound that the microphone gathers. [-]
    """

    fed: FloatArray
    gathered: FloatArray


def screened(arrangement: Arrangement) -> Screened:
    """Both effects of all screens of an arrangement together."""
    if not arrangement.screens:
        return Screened(np.ones(8), np.ones(8))
    return _screened(arrangement.screens, arrangement.performer, arrangement.microphone)


@lru_cache(maxsize=64)
def _screened(screens: tuple[Screen, ...], performer: Performer, mic: Microphone) -> Screened:
    rays = sphere_rays(_RAYS)
    sent = performer.source.gain(rays @ direction(performer.faces_deg)) ** 2
    picked = sensitivity(mic.a, rays @ direction(mic.aims_deg, mic.tilt_deg)) ** 2
    return Screened(
        1 - _swallowed(screens, np.array(performer.at), rays, sent),
        1 - _swallowed(screens, np.array(mic.at), rays, np.repeat(picked[:, None], 8, axis=1)),
    )


def _swallowed(screens: Sequence[Screen], eye: FloatArray, rays: FloatArray, weight: FloatArray) -> FloatArray:
    """Share of the weighted directions (n, 8) that ends in screens as seen from a point, (8,). [-]"""
    passing = np.ones_like(weight)
    for screen in screens:
        met = meets(screen, eye, rays)
        passing[met] *= 1 - np.array(screen.absorption) * holds(screen)
    share: FloatArray = 1 - np.sum(weight * passing, axis=0) / np.sum(weight, axis=0)
    return share


def holds(screen: Screen) -> FloatArray:
    """How far a screen is one, by octave: long waves pass round it, (8,). [-]"""
    size = 2 * np.pi * exact_octaves_hz() / _SPEED_M_S * min(screen.width_m, screen.height_m) / 2
    share: FloatArray = size**2 / (1 + size**2)
    return share


def meets(screen: Screen, eye: FloatArray, rays: FloatArray) -> BoolArray:
    """Which rays (n, 3) from a point end on a screen, (n,)."""
    normal, along = direction(screen.faces_deg), direction(screen.faces_deg + 90)
    middle = _middle(screen)
    away = float(normal @ (middle - eye))
    with np.errstate(divide="ignore", invalid="ignore"):
        way = away / (rays @ normal)
        offset = eye + way[:, None] * rays - middle
        met = (way > _CLOSEST_M) & (np.abs(offset @ along) <= screen.width_m / 2)
        met &= np.abs(offset[:, 2]) <= screen.height_m / 2
    return np.asarray(met, dtype=bool)


def _middle(screen: Screen) -> FloatArray:
    x, y, z = screen.at
    return np.array([x, y, z + screen.height_m / 2])


@lru_cache(maxsize=2)
def sphere_rays(count: int) -> FloatArray:
    """Unit vectors spread evenly over the sphere, (count, 3): a Fibonacci lattice."""
    z = 1 - (2 * np.arange(count) + 1) / count
    turn = np.pi * (1 + np.sqrt(5)) * np.arange(count)
    rays: FloatArray = np.column_stack([np.sqrt(1 - z**2) * np.cos(turn), np.sqrt(1 - z**2) * np.sin(turn), z])
    return rays


def colour_db(screen: Screen, arrangement: Arrangement) -> float:
    """How far the comb of a screen's own reflection lifts above its notches, worst octave from 500 Hz to 4 kHz. [dB]

    The mirror image of the mouth in the screen, where the reflection point lies on it; the reflected part is what it
    does not absorb.
    """
    performer, mic = arrangement.performer, arrangement.microphone
    normal = direction(screen.faces_deg)
    middle = _middle(screen)
    mouth, capsule = np.array(performer.at), np.array(mic.at)
    mouth_side, mic_side = normal @ (mouth - middle), normal @ (capsule - middle)
    if mouth_side * mic_side <= 0:
        return 0.0
    image = mouth - 2 * mouth_side * normal
    way = float(np.linalg.norm(image - capsule))
    coming = (image - capsule) / way
    if not meets(screen, capsule, coming[None])[0]:
        return 0.0
    hit = capsule + coming * (mic_side / (mic_side + mouth_side)) * way
    leaving = (hit - mouth) / np.linalg.norm(hit - mouth)
    straight = mouth - capsule
    near = float(np.linalg.norm(straight))
    axis, faces = direction(mic.aims_deg, mic.tilt_deg), direction(performer.faces_deg)
    direct = np.abs(sensitivity(mic.a, np.asarray(straight / near @ axis))) * performer.source.gain(
        np.asarray(-straight / near @ faces)
    )
    back = np.abs(sensitivity(mic.a, np.asarray(coming @ axis))) * performer.source.gain(np.asarray(leaving @ faces))
    part = np.sqrt(np.clip(1 - np.array(screen.absorption), 0, 1)) * holds(screen) * near / way
    share = np.clip(back * part / np.maximum(direct, 1e-3), 0, 0.95)[3:7]
    return float(np.max(20 * np.log10((1 + share) / (1 - share))))
