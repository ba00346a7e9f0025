"""Paths of sound from performer to microphone by image sources: hit points, delays, levels, directions."""

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES, exact_octaves_hz
from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Arrangement, Rect, Room, direction
from keenquiet.core.room.shape import Face
from keenquiet.core.things.materials import Material
from keenquiet.core.things.microphone import sensitivity
from keenquiet.core.types import BoolArray, FloatArray, IntArray
from keenquiet.core.waves.images import reflections, shadow, single_reflections

_DISC_POINTS: Final = 128  # a Fresnel ellipse is sampled by this many equal-area points
_KEPT: Final = 48  # geometries: about 2 MB each at most
_MOST_SHARES: Final = 400
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


@dataclass(frozen=True, eq=False)
class PathGeometry:
    """Where paths run: what depends on shape, bodies and places only, not on what anything is made of.

    faces, points, length_m as in `Paths`; leaving, towards : (n, 3) unit vectors at the performer and at the
    microphone. passed : (n, 8) energy that passes the furniture. [-]
    """

    source: FloatArray
    mic: FloatArray
    faces: IntArray
    points: FloatArray
    length_m: FloatArray
    leaving: FloatArray
    towards: FloatArray
    passed: FloatArray
    _bounces: dict[tuple[int, int], "Bounces"] = field(default_factory=dict)

    @property
    def twice(self) -> BoolArray:
        """Which paths are reflected twice, (n,)."""
        return np.asarray(self.faces[:, 1] >= 0)

    def bounces(self, face: int, turn: int, plane: Face, *, speed_m_s: float) -> "Bounces":
        """The paths that meet a face at their first (0) or second (1) bounce, with their Fresnel ellipses; kept."""
        key = (face, turn)
        if key not in self._bounces:
            here = np.flatnonzero(self.faces[:, turn] == face)
            hit, length = self.points[here, turn], self.length_m[here]
            if turn == 0:
                towards, travelled = self.leaving[here], np.linalg.norm(hit - self.source, axis=1)
            else:
                towards, travelled = _unit(hit - self.points[here, 0]), length - np.linalg.norm(hit - self.mic, axis=1)
            spots = _fresnel_spots(plane, hit, towards, length, travelled / length, speed_m_s)
            self._bounces[key] = Bounces(here, spots)
        return self._bounces[key]


@dataclass(frozen=True, eq=False)
class Bounces:
    """Bounces on one face. paths : (m,) numbers of the paths. spots : (m, 8, points, 2) on the face. [m]
    shares keeps what was reflected under the same overlays, so that a panel tried elsewhere costs nothing here.
    """

    paths: IntArray
    spots: FloatArray
    shares: dict[tuple[object, ...], tuple[object, FloatArray]] = field(default_factory=dict)


_kept: Final[Kept[object, PathGeometry]] = Kept(most_bytes=60_000_000, most=_KEPT)


def path_geometry(room: Room, source: FloatArray, mic: FloatArray, *, order: int = 2) -> PathGeometry:
    """Every path with 1 to `order` (at most 2) reflections; the last ones asked for are kept.

    Source: image sources with visibility (see `images`); bodies by `images.shadow`.
    """
    bodies = tuple((body.at, body.size_m, body.turn_deg, body.body_m) for body in room.bodies)
    key = (room.shape, bodies, source.tobytes(), mic.tobytes(), order, room.air.speed_m_s)
    return _kept.find(key, lambda: _geometry(room, source, mic, order))


def _geometry(room: Room, source: FloatArray, mic: FloatArray, order: int) -> PathGeometry:
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
    twice = faces[:, 1] >= 0
    last = np.where(twice[:, None], points[:, 1], points[:, 0])
    return PathGeometry(
        source,
        mic,
        faces,
        points,
        length,
        leaving=_unit(points[:, 0] - source),
        towards=_unit(last - mic),
        passed=_passed(room, source, mic, points, twice),
    )


def reflected_paths(room: Room, arrangement: Arrangement, *, order: int = 2) -> Paths:
    """Every path with 1 to `order` (at most 2) reflections; panels count by their share of the first Fresnel zone.

    Source: finite panels by the covered share F of the first Fresnel ellipse, |R|^2 = (1-F)|R_wall|^2 + F|R_panel|^2
    (docs/physics.md, section 4).
    """
    source = np.asarray(arrangement.performer.at, dtype=float)
    mic = np.asarray(arrangement.microphone.at, dtype=float)
    ways = path_geometry(room, source, mic, order=order)
    straight = source - mic
    distance = float(np.linalg.norm(straight))
    energy = relative_gain(arrangement, ways.leaving, ways.towards, straight / distance)
    energy *= (distance / ways.length_m[:, None]) ** 2
    energy *= np.exp(-room.air.energy_loss_per_m * (ways.length_m - distance)[:, None])
    for turn in (0, 1):
        for face in np.unique(ways.faces[:, turn]):
            if face >= 0:
                bounces, share = _reflected_share(room, ways, int(face), turn)
                energy[bounces.paths] *= share
    return Paths(
        length_m=ways.length_m,
        delay_s=(ways.length_m - distance) / room.air.speed_m_s,
        faces=ways.faces,
        points=ways.points,
        energy=energy * ways.passed,
        blocked=mid_level_db(ways.passed) < _HIDDEN_DB,
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


def _reflected_share(room: Room, ways: PathGeometry, face: int, turn: int) -> tuple[Bounces, FloatArray]:
    """Bounces on a face and the energy reflected at each by octave, (m, 8). [-]"""
    if face >= len(room.faces):
        side, reflected = room.body_sides[face - len(room.faces)]
        bounces = ways.bounces(face, turn, side, speed_m_s=room.air.speed_m_s)
        filled: FloatArray = side.covers(bounces.spots).mean(axis=2)
        return bounces, reflected * filled
    overlays = [overlay for overlay in room.overlays if overlay.face == face]
    bounces = ways.bounces(face, turn, room.faces[face], speed_m_s=room.air.speed_m_s)
    materials = (room.materials[face], *(overlay.material for overlay in overlays))
    # materials are told apart by identity: the entry holds them, so that an identity stays theirs
    key = (*map(id, materials), *(overlay.rect for overlay in overlays))
    if key not in bounces.shares:
        if len(bounces.shares) > _MOST_SHARES:
            bounces.shares.clear()
        bounces.shares[key] = (materials, _share(bounces.spots, materials, [overlay.rect for overlay in overlays]))
    return bounces, bounces.shares[key][1]


def _share(spots: FloatArray, materials: tuple[Material, ...], rects: list[Rect]) -> FloatArray:
    """Mean energy reflection over each ellipse, (m, 8): the wall's material first, then one for each rectangle. [-]"""
    wall, *others = (1 - material.absorption for material in materials)
    if not others:
        return np.maximum(np.broadcast_to(wall, (len(spots), 8)), 0.0)
    top = np.full(spots.shape[:3], -1)
    for number, (u0, u1, v0, v1) in enumerate(rects):
        inside = (spots[..., 0] >= u0) & (spots[..., 0] <= u1) & (spots[..., 1] >= v0) & (spots[..., 1] <= v1)
        top[inside] = number
    # what an ellipse reaches beyond the wall's edge counts as wall: the neighbouring wall continues it
    reflect = np.stack([*others, wall])  # (n_overlays + 1, 8)
    kept: FloatArray = np.maximum(np.mean(reflect[top, np.arange(8)[:, None]], axis=2), 0.0)
    return kept


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
