"""High-order image sources of a box, where all are known in closed form: many reflections for many places at once."""

from functools import lru_cache

import numpy as np

from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.paths import relative_gain


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
    """How often each of the six faces is hit, (n, 6): both ends of x, of y, of z."""
    near, far = np.abs(cells) // 2, (np.abs(cells) + 1) // 2
    at_low = np.where(cells > 0, near, far)
    at_high = np.where(cells > 0, far, near)
    return np.stack([at_low, at_high], axis=-1).reshape(len(cells), 6)


def departure(cells: IntArray, towards_image: FloatArray) -> FloatArray:
    """Direction in which sound leaves the performer, from the direction microphone -> image, (..., n, 3)."""
    # The image is mirrored once per reflection: undo it, and reverse, since the path runs from the performer.
    leaving: FloatArray = -towards_image * np.where(cells % 2 == 0, 1.0, -1.0)
    return leaving


def face_order(room: Room) -> IntArray:
    """Numbers of the room's faces in the order of `wall_hits`: both ends of x, of y, of z, (6,)."""
    normal = np.stack([face.normal for face in room.faces])
    axis = np.argmax(np.abs(normal), axis=1)
    far = normal[np.arange(6), axis] < 0
    order: IntArray = np.argsort(2 * axis + far, kind="stable")
    return order


def image_arrivals(
    room: Room,
    arrangement: Arrangement,
    cells: IntArray,
    source: FloatArray,
    mic: FloatArray,
    log_reflection: FloatArray,
) -> tuple[FloatArray, FloatArray]:
    """Energy of image sources relative to the direct sound, (..., n, 8), and their delay after it, (..., n) [s], for
    source, mic (..., 3).

    log_reflection : (..., n_faces, 8) logarithm of each face's energy reflection. [-]
    """
    offset = image_points(cells, source, room.shape.bounds_m) - mic[..., None, :]
    length = np.linalg.norm(offset, axis=-1)
    straight = source - mic
    distance = np.linalg.norm(straight, axis=-1)
    towards = offset / length[..., None]
    gain = relative_gain(arrangement, departure(cells, towards), towards, straight / distance[..., None])
    lost = room.air.energy_loss_per_m + room.furniture_area_m2 / (4 * room.volume_m3)
    hits = wall_hits(cells) @ log_reflection[..., face_order(room), :]
    kept = np.exp(hits - lost * (length - distance[..., None])[..., None])
    energy: FloatArray = gain * kept * ((distance[..., None] / length) ** 2)[..., None]
    return energy, (length - distance[..., None]) / room.air.speed_m_s
