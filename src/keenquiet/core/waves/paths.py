"""Paths of sound from performer to microphone by image sources: hit points, delays, levels, directions."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES, exact_octaves_hz
from keenquiet.core.room.room import Arrangement, Room, direction
from keenquiet.core.room.shape import Face
from keenquiet.core.types import BoolArray, FloatArray, IntArray
from keenquiet.core.waves.images import reflections, shadow, single_reflections
from keenquiet.core.waves.microphone import sensitivity

_DISC_POINTS: Final = 128  # a Fresnel ellipse is sampled by this many equal-area points
_HIDDEN_DB: Final = -6.0  # what a body takes from a path in the middle octaves before it counts as blocked


@dataclass(frozen=True)
class Paths:
    """Reflected paths, sorted by arrival. n paths, 8 octaves.

    length_m, delay_s : (n,) path length [m], arrival after the direct sound [s]
    faces : (n, 2) face numbers in order from the performer, -1 where there is none; past the room's faces, sides of
    bodies
    points : (n, 2, 3) hit points, NaN where there is none. [m]
    energy : (n, 8) energy by octave relative to the direct sound at the microphone's output. [-]
    blocked : (n,) whether furniture stands in the way; what still passes round it is in the energy.
    """

    length_m: FloatArray
    delay_s: FloatArray
    faces: IntArray
    points: FloatArray
    energy: FloatArray
    blocked: BoolArray

    @property
    def level_db(self) -> FloatArray:
        """Mean over 500 to 2000 Hz relative to the direct sound, (n,). [dB]"""
        return mid_level_db(self.energy)


def mid_level_db(energy: FloatArray) -> FloatArray:
    """Mean of the 500, 1000 and 2000 Hz octaves as a level. [dB]"""
    level: FloatArray = 10 * np.log10(np.maximum(np.mean(energy[..., MID_OCTAVES], axis=-1), 1e-30))
    return level


def relative_gain(arrangement: Arrangement, leaving: FloatArray, towards: FloatArray, direct: FloatArray) -> FloatArray:
    """Energy gain of source directivity and microphone pattern relative to the direct path, (..., n, 8). [-]

    leaving : (..., n, 3) unit vectors in which sound leaves the performer; towards : (..., n, 3) from the microphone to
    where
    it comes from; direct : (..., 3) from the microphone to the performer.
    """
    mic, performer = arrangement.microphone, arrangement.performer
    picked = sensitivity(mic.a, towards @ direction(mic.aims_deg, mic.tilt_deg)) ** 2
    sent = performer.source.gain(leaving @ direction(performer.faces_deg)) ** 2
    return picked[..., None] * sent / direct_gain(arrangement, direct)[..., None, :]


def direct_gain(arrangement: Arrangement, direct: FloatArray) -> FloatArray:
    """Energy gain of directivity and pattern on the direct path, (..., 8). [-]

    Floored at -30 dB: a performer exactly in a microphone's null is still picked up by the imperfect null.
    """
    mic, performer = arrangement.microphone, arrangement.performer
    picked = sensitivity(mic.a, direct @ direction(mic.aims_deg, mic.tilt_deg)) ** 2
    sent = performer.source.gain(-(direct @ direction(performer.faces_deg))) ** 2
    gain: FloatArray = np.maximum(picked, 1e-3)[..., None] * sent
    return gain


def reflected_paths(room: Room, arrangement: Arrangement, *, order: int = 2) -> Paths:
    """Every path with 1 to `order` (at most 2) reflections; panels count by their share of the first Fresnel zone.

    Source: image sources with visibility (see `images`); finite panels by the covered share F of the first Fresnel
    ellipse,
    |R|^2 = (1-F)|R_wall|^2 + F|R_panel|^2 (docs/physics.md, section 4); bodies by `images.shadow`.
    """
    source = np.asarray(arrangement.performer.at)
    mic = np.asarray(arrangement.microphone.at)
    sequence, exists, hits, lengths = reflections(room.shape, source, mic, order=order)
    faces, points, length = sequence[exists], hits[exists], lengths[exists]
    if room.body_sides:
        there, hit, way = single_reflections(room.shape, tuple(side for side, _ in room.body_sides), source, mic)
        numbers = np.flatnonzero(there)
        faces = np.concatenate([faces, np.column_stack([len(room.faces) + numbers, np.full(len(numbers), -1)])])
        points = np.concatenate([points, np.stack([hit[there], np.full((len(numbers), 3), np.nan)], axis=1)])
        length = np.concatenate([length, way[there]])
    by_arrival = np.argsort(length, kind="stable")
    faces, points, length = faces[by_arrival], points[by_arrival], length[by_arrival]
    straight = source - mic
    distance = float(np.linalg.norm(straight))
    twice = faces[:, 1] >= 0
    last = np.where(twice[:, None], points[:, 1], points[:, 0])
    leaving, towards = _unit(points[:, 0] - source), _unit(last - mic)
    energy = relative_gain(arrangement, leaving, towards, straight / distance)
    energy *= (distance / length[:, None]) ** 2
    energy *= np.exp(-room.air.energy_loss_per_m * (length - distance)[:, None])
    travelled = np.linalg.norm(points[:, 0] - source, axis=1)
    energy *= _reflected_share(room, faces[:, 0], points[:, 0], leaving, length, travelled / length)
    if np.any(twice):
        second = points[twice, 1]
        travelled = length[twice] - np.linalg.norm(second - mic, axis=1)
        between = _unit(second - points[twice, 0])
        energy[twice] *= _reflected_share(
            room, faces[twice, 1], second, between, length[twice], travelled / length[twice]
        )
    passed = _passed(room, source, mic, points, twice)
    return Paths(
        length_m=length,
        delay_s=(length - distance) / room.air.speed_m_s,
        faces=faces,
        points=points,
        energy=energy * passed,
        blocked=mid_level_db(passed) < _HIDDEN_DB,
    )


def _unit(vectors: FloatArray) -> FloatArray:
    unit: FloatArray = vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-12)
    return unit


def _passed(room: Room, source: FloatArray, mic: FloatArray, points: FloatArray, twice: BoolArray) -> FloatArray:
    """Energy that passes the furniture on each path, by octave, (n, 8). [-]"""
    if not room.bodies or not len(points):
        return np.ones((len(points), 8))
    k = 2 * np.pi * exact_octaves_hz() / room.air.speed_m_s
    last = np.where(twice[:, None], points[:, 1], points[:, 0])
    stretches = (
        (np.broadcast_to(source, last.shape), points[:, 0]),
        (points[:, 0], last),
        (last, np.broadcast_to(mic, last.shape)),
    )
    passed: FloatArray = np.prod([shadow(room.bodies, start, end, wavenumber=k) for start, end in stretches], axis=0)
    return passed


@lru_cache(maxsize=1)
def _disc() -> FloatArray:
    """Equal-area points of the unit disc on a sunflower spiral, (_DISC_POINTS, 2)."""
    i = np.arange(_DISC_POINTS)
    radius, turn = np.sqrt((i + 0.5) / _DISC_POINTS), np.pi * (3 - np.sqrt(5)) * i
    return np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=-1)


def _reflected_share(
    room: Room, faces: IntArray, points: FloatArray, towards: FloatArray, length: FloatArray, share: FloatArray
) -> FloatArray:
    """Energy reflection by octave at one bounce of each path, (n, 8). [-]"""
    kept = np.empty((len(faces), 8))
    for face in np.unique(faces):
        here = faces == face
        if face >= len(room.faces):
            side, reflected = room.body_sides[face - len(room.faces)]
            kept[here] = reflected * _covered(
                side, points[here], towards[here], length[here], share[here], room.air.speed_m_s
            )
            continue
        overlays = [overlay for overlay in room.overlays if overlay.face == face]
        wall = 1 - room.materials[face].absorption
        if not overlays:
            kept[here] = wall
            continue
        spot = _fresnel_spots(
            room.faces[face], points[here], towards[here], length[here], share[here], room.air.speed_m_s
        )
        top = np.full(spot.shape[:3], -1)
        for number, overlay in enumerate(overlays):
            u0, u1, v0, v1 = overlay.rect
            inside = (spot[..., 0] >= u0) & (spot[..., 0] <= u1) & (spot[..., 1] >= v0) & (spot[..., 1] <= v1)
            top[inside] = number
        # what an ellipse reaches beyond the wall's edge counts as wall: the neighbouring wall continues it
        reflect = np.stack([*(1 - overlay.material.absorption for overlay in overlays), wall])  # (n_overlays + 1, 8)
        kept[here] = np.mean(reflect[top, np.arange(8)[:, None]], axis=2)
    return np.maximum(kept, 0.0)


def _fresnel_spots(
    plane: Face, points: FloatArray, towards: FloatArray, length: FloatArray, share: FloatArray, speed_m_s: float
) -> FloatArray:
    """Points that sample the first Fresnel ellipse of each bounce, in the face's flat coordinates, (n, 8, points, 2).
    [m]
    """
    d1 = share * length
    wavelength = speed_m_s / exact_octaves_hz()
    r1 = np.sqrt(wavelength * np.maximum(d1 * (length - d1) / length, 0.0)[:, None])  # (n, 8)
    tangent = np.column_stack([towards @ plane.u, towards @ plane.v])
    sine = np.linalg.norm(tangent, axis=1)
    cosine = np.sqrt(np.maximum(1 - sine**2, 1e-4))
    along = np.where(sine[:, None] > 1e-9, tangent / np.maximum(sine, 1e-9)[:, None], np.array([1.0, 0.0]))
    across = np.stack([-along[:, 1], along[:, 0]], axis=-1)
    disc = _disc()
    spots: FloatArray = (
        plane.to_flat(points)[:, None, None, :]
        + (r1 / cosine[:, None])[..., None, None] * disc[:, :1] * along[:, None, None, :]
        + r1[..., None, None] * disc[:, 1:] * across[:, None, None, :]
    )
    return spots


def _covered(
    side: Face, points: FloatArray, towards: FloatArray, length: FloatArray, share: FloatArray, speed_m_s: float
) -> FloatArray:
    """Share of each first Fresnel ellipse that a finite face fills, by octave, (n, 8). [-]"""
    filled: FloatArray = side.covers(_fresnel_spots(side, points, towards, length, share, speed_m_s)).mean(axis=2)
    return filled
