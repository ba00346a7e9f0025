"""Paths of sound from performer to microphone by image sources: hit points, delays, levels, directions."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np

from keenquiet.core.bands import MID_OCTAVES, exact_octaves_hz
from keenquiet.core.room.box import Arrangement, Box, direction, tangential
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.microphone import sensitivity

_DISC_POINTS: Final = 128  # a Fresnel ellipse is sampled by this many equal-area points


@dataclass(frozen=True)
class Paths:
    """Reflected paths, sorted by arrival. n paths, 8 octaves.

    indices : (n, 3) image cell along each axis. [-]
    length_m, delay_s : (n,) path length [m], arrival after the direct sound [s]
    faces : (n, 2) face numbers in order from the performer, -1 where there is none
    points : (n, 2, 3) hit points, NaN where there is none. [m]
    energy : (n, 8) energy by octave relative to the direct sound at the microphone's output. [-]
    """

    indices: IntArray
    length_m: FloatArray
    delay_s: FloatArray
    faces: IntArray
    points: FloatArray
    energy: FloatArray

    @property
    def level_db(self) -> FloatArray:
        """Mean over 500 to 2000 Hz relative to the direct sound, (n,). [dB]"""
        return mid_level_db(self.energy)


def mid_level_db(energy: FloatArray) -> FloatArray:
    """Mean of the 500, 1000 and 2000 Hz octaves as a level. [dB]"""
    level: FloatArray = 10 * np.log10(np.maximum(np.mean(energy[..., MID_OCTAVES], axis=-1), 1e-30))
    return level


@lru_cache(maxsize=16)
def image_cells(reach: int) -> IntArray:
    """Image cells up to `reach` reflections in all, the source itself left out, (n, 3)."""
    side = np.arange(-reach, reach + 1)
    cells = np.stack(np.meshgrid(side, side, side, indexing="ij"), axis=-1).reshape(-1, 3)
    order = np.abs(cells).sum(axis=1)
    kept: IntArray = cells[(order > 0) & (order <= reach)]
    return kept


def image_points(cells: IntArray, source: FloatArray, size_m: tuple[float, float, float]) -> FloatArray:
    """Image positions, (..., n, 3) for cells (n, 3) and sources (..., 3). [m]"""
    size = np.asarray(size_m)
    source = np.asarray(source)[..., None, :]
    points: FloatArray = cells * size + np.where(cells % 2 == 0, source, size - source)
    return points


def wall_hits(cells: IntArray) -> IntArray:
    """How often each of the six faces is hit, (n, 6)."""
    near, far = np.abs(cells) // 2, (np.abs(cells) + 1) // 2
    at_low = np.where(cells > 0, near, far)
    at_high = np.where(cells > 0, far, near)
    return np.stack([at_low, at_high], axis=-1).reshape(len(cells), 6)


def departure(cells: IntArray, towards_image: FloatArray) -> FloatArray:
    """Direction in which sound leaves the performer, from the direction microphone -> image, (..., n, 3)."""
    # The image is mirrored once per reflection: undo it, and reverse, since the path runs from the performer.
    leaving: FloatArray = -towards_image * np.where(cells % 2 == 0, 1.0, -1.0)
    return leaving


def relative_gain(arrangement: Arrangement, cells: IntArray, towards: FloatArray, direct: FloatArray) -> FloatArray:
    """Energy gain of source directivity and microphone pattern relative to the direct path, (..., n, 8). [-]

    towards : (..., n, 3) unit vectors from the microphone to each image; direct : (..., 3) to the performer.
    """
    mic, performer = arrangement.microphone, arrangement.performer
    axis = direction(mic.aims_deg, mic.tilt_deg)
    facing = direction(performer.faces_deg)
    picked = sensitivity(mic.a, towards @ axis) ** 2
    sent = performer.source.gain(departure(cells, towards) @ facing) ** 2
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


def reflected_paths(room: Box, arrangement: Arrangement, *, order: int = 2) -> Paths:
    """Every path with 1 to `order` (at most 2) reflections; panels count by their share of the first Fresnel zone.

    Source: J. Allen, D. Berkley, J. Acoust. Soc. Am. 65 (1979) 943 (images of a box); finite panels by the covered
    share F of the first Fresnel ellipse, |R|^2 = (1-F)|R_wall|^2 + F|R_panel|^2 (project's physics.md, section 4).
    """
    cells = image_cells(order)
    source = np.asarray(arrangement.performer.at)
    mic = np.asarray(arrangement.microphone.at)
    offset = image_points(cells, source, room.size_m) - mic
    length = np.linalg.norm(offset, axis=1)
    straight = source - mic
    distance = float(np.linalg.norm(straight))
    faces, points, shares = _crossings(cells, offset, mic, room.size_m)
    gain = relative_gain(arrangement, cells, offset / length[:, None], straight / distance)
    energy = gain * (distance / length[:, None]) ** 2
    energy *= np.exp(-room.air.energy_loss_per_m * (length - distance)[:, None])
    for bounce in range(faces.shape[1]):
        hit = faces[:, bounce] >= 0
        energy[hit] *= _reflected_share(
            room, faces[hit, bounce], points[hit, bounce], offset[hit] / length[hit, None], length[hit], shares[hit, bounce]
        )
    by_arrival = np.argsort(length, kind="stable")
    return Paths(
        indices=cells[by_arrival],
        length_m=length[by_arrival],
        delay_s=(length[by_arrival] - distance) / room.air.speed_m_s,
        faces=faces[by_arrival],
        points=points[by_arrival],
        energy=energy[by_arrival],
    )


def _crossings(
    cells: IntArray, offset: FloatArray, mic: FloatArray, size_m: tuple[float, float, float]
) -> tuple[IntArray, FloatArray, FloatArray]:
    """Faces (n, 2), hit points (n, 2, 3) and share of the length travelled from the performer (n, 2), in travel order."""
    size = np.asarray(size_m)
    share = np.full((len(cells), 3, 2), np.inf)  # along microphone -> image
    plane = np.zeros((len(cells), 3, 2), dtype=np.int64)
    for step in range(2):
        # crossed planes lie at k L: k = 1, 2.. for images on the far side, 0, -1.. on the near side
        k = np.where(cells > 0, 1 + step, -step)
        crossed = np.abs(cells) > step
        with np.errstate(divide="ignore", invalid="ignore"):
            t = (k * size - mic) / offset
        share[:, :, step] = np.where(crossed, t, np.inf)
        plane[:, :, step] = k
    flat = share.reshape(len(cells), 6)
    # from the performer: the largest share along microphone -> image comes first
    order = np.argsort(np.where(np.isfinite(flat), -flat, np.inf), axis=1)[:, :2]
    along = np.take_along_axis(flat, order, axis=1)
    axis = order // 2
    faces = np.where(np.isfinite(along), 2 * axis + np.take_along_axis(plane.reshape(len(cells), 6), order, axis=1) % 2, -1)
    unfolded = mic + np.where(np.isfinite(along), along, np.nan)[..., None] * offset[:, None, :]
    folded = np.abs((unfolded + size) % (2 * size) - size)  # triangle wave: back into the room
    return faces, folded, 1 - along


@lru_cache(maxsize=1)
def _disc() -> FloatArray:
    """Equal-area points of the unit disc on a sunflower spiral, (_DISC_POINTS, 2)."""
    i = np.arange(_DISC_POINTS)
    radius, turn = np.sqrt((i + 0.5) / _DISC_POINTS), np.pi * (3 - np.sqrt(5)) * i
    return np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=-1)


def _reflected_share(
    room: Box, faces: IntArray, points: FloatArray, towards: FloatArray, length: FloatArray, share: FloatArray
) -> FloatArray:
    """Energy reflection by octave at one bounce of each path, (n, 8). [-]"""
    kept = np.empty((len(faces), 8))
    for face in np.unique(faces):
        here = faces == face
        overlays = [overlay for overlay in room.overlays if overlay.face == face]
        wall = 1 - room.faces[face].absorption
        if not overlays:
            kept[here] = wall
            continue
        a, b = tangential(int(face))
        d1 = share[here] * length[here]
        wavelength = room.air.speed_m_s / exact_octaves_hz()
        r1 = np.sqrt(wavelength * (d1 * (length[here] - d1) / length[here])[:, None])  # (n, 8)
        tangent = towards[here][:, [a, b]]
        sine = np.linalg.norm(tangent, axis=1)
        cosine = np.sqrt(np.maximum(1 - sine**2, 1e-4))
        along = np.where(sine[:, None] > 1e-9, tangent / np.maximum(sine, 1e-9)[:, None], np.array([1.0, 0.0]))
        across = np.stack([-along[:, 1], along[:, 0]], axis=-1)
        disc = _disc()
        spot = (
            points[here][:, [a, b]][:, None, None, :]
            + (r1 / cosine[:, None])[..., None, None] * disc[:, :1] * along[:, None, None, :]
            + r1[..., None, None] * disc[:, 1:] * across[:, None, None, :]
        )  # (n, 8, points, 2)
        top = np.full(spot.shape[:3], -1)
        for number, overlay in enumerate(overlays):
            a0, a1, b0, b1 = overlay.rect
            inside = (spot[..., 0] >= a0) & (spot[..., 0] <= a1) & (spot[..., 1] >= b0) & (spot[..., 1] <= b1)
            top[inside] = number
        # what an ellipse reaches beyond the wall's edge counts as wall: the neighbouring wall continues it
        reflect = np.stack([*(1 - overlay.material.absorption for overlay in overlays), wall])  # (n_overlays + 1, 8)
        kept[here] = np.mean(reflect[top, np.arange(8)[:, None]], axis=2)
    return np.maximum(kept, 0.0)
