"""Mirrored sound of the first orders in a room of any shape with furniture in it: which ways there are is learned from
rays, each way is then built exactly.

Source: M. Vorlaender, J. Acoust. Soc. Am. 86 (1989) 172 (images that rays have found).
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import exact_octaves_hz
from keenquiet.core.room.room import Arrangement, direction
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.rig.rays import MIRRORED
from keenquiet.rig.scene import Scene

_SCOUTS: Final = 12_000
_HIDDEN: Final = 0.25  # amplitude of direct sound that has to go round a body, about 12 dB less (our estimate)
_ZONE: Final = np.array(
    [(x, y) for x in np.linspace(-1, 1, 11) for y in np.linspace(-1, 1, 11) if x * x + y * y <= 1.0]
)


@dataclass(frozen=True)
class Arrivals:
    """delay_s (n,), amplitude by octave (n, 8) against the free field at 1 m, order (n,), 0 for the direct sound."""

    delay_s: FloatArray
    amplitude: FloatArray
    order: IntArray


def mirrored_arrivals(scene: Scene, arrangement: Arrangement, rng: np.random.Generator) -> Arrivals:
    """Direct sound and every mirrored way up to `MIRRORED` orders."""
    source, mic = (np.asarray(place, dtype=float) for place in (arrangement.performer.at, arrangement.microphone.at))
    found = [_direct(scene, source, mic)]
    for way in sorted(_ways(scene, source, rng)):
        built = _built(scene, source, mic, way)
        if built is not None:
            found.append(built)
    c, microphone = scene.room.air.speed_m_s, arrangement.microphone
    loss = scene.loose_loss_per_m()
    delay, amplitude, order = np.empty(len(found)), np.empty((len(found), 8)), np.empty(len(found), dtype=int)
    facing, aim = direction(arrangement.performer.faces_deg), direction(microphone.aims_deg, microphone.tilt_deg)
    for number, (corners, energy) in enumerate(found):
        legs = np.diff(corners, axis=0)
        lengths = np.linalg.norm(legs, axis=1)
        total = float(lengths.sum())
        leaving, arriving = legs[0] / lengths[0], legs[-1] / lengths[-1]
        gain = arrangement.performer.source.gain(np.array(leaving @ facing))
        sensed = abs(microphone.a - (1 - microphone.a) * float(arriving @ aim))
        delay[number], order[number] = total / c, len(corners) - 2
        amplitude[number] = gain * sensed * np.sqrt(energy * np.exp(-loss * total)) / total
    return Arrivals(delay, amplitude, order)


def _direct(scene: Scene, source: FloatArray, mic: FloatArray) -> tuple[FloatArray, FloatArray]:
    free = _sees(scene, source, mic)
    return np.array([source, mic]), np.full(8, 1.0 if free else _HIDDEN**2)


def _sees(scene: Scene, one: FloatArray, other: FloatArray) -> bool:
    apart = float(np.linalg.norm(other - one))
    met = scene.meet(one[None], ((other - one) / apart)[None])
    return bool(met.away_m[0] > apart - 1e-4)


def _ways(scene: Scene, source: FloatArray, rng: np.random.Generator) -> set[tuple[int, ...]]:
    """Orders of surfaces that mirrored rays from the source meet."""
    ball = rng.standard_normal((_SCOUTS, 3))
    ahead, at = ball / np.linalg.norm(ball, axis=1, keepdims=True), np.tile(source, (_SCOUTS, 1))
    met_so_far = np.zeros((_SCOUTS, 0), dtype=int)
    ways: set[tuple[int, ...]] = set()
    for _ in range(MIRRORED):
        met = scene.meet(at, ahead)
        fine = np.isfinite(met.away_m)
        at, ahead, met_so_far = at[fine], ahead[fine], met_so_far[fine]
        surface = met.surface[fine]
        met_so_far = np.column_stack([met_so_far, surface])
        ways.update(tuple(int(part) for part in way) for way in np.unique(met_so_far, axis=0))
        normal = scene.planes[1][surface]
        at = scene.off(at + met.away_m[fine, None] * ahead, surface)
        ahead = ahead - 2 * np.sum(ahead * normal, axis=1)[:, None] * normal
    return ways


def _built(
    scene: Scene, source: FloatArray, mic: FloatArray, way: tuple[int, ...]
) -> tuple[FloatArray, FloatArray] | None:
    """Corners of the mirrored way (order + 2, 3), and the energy its reflections leave, (8,); None if it is none."""
    points, normals = scene.planes
    images = [source]
    for surface in way:
        away = float((images[-1] - points[surface]) @ normals[surface])
        if away <= 0:
            return None
        images.append(images[-1] - 2 * away * normals[surface])
    corners, towards = [mic], mic
    for surface, image in zip(reversed(way), reversed(images[1:]), strict=True):
        before = float((towards - points[surface]) @ normals[surface])
        behind = float((image - points[surface]) @ normals[surface])
        if before <= 1e-9 or behind >= 0:
            return None
        spot = towards + (image - towards) * before / (before - behind)
        if not scene.covers(surface, spot[None])[0]:
            return None
        corners.append(spot)
        towards = spot
    corners.append(source)
    path = np.array(corners[::-1])
    for number in range(len(path) - 1):
        ends = [scene.off(path[i][None], np.array([way[i - 1]]))[0] if 0 < i <= len(way) else path[i]
                for i in (number, number + 1)]  # fmt: skip
        if not _sees(scene, ends[0], ends[1]):
            return None
    return path, _energy(scene, path, way)


def _energy(scene: Scene, path: FloatArray, way: tuple[int, ...]) -> FloatArray:
    """What is left after each reflection: averaged over the Fresnel zone about its spot, without what is scattered."""
    wavelength = scene.room.air.speed_m_s / exact_octaves_hz()
    lengths = np.linalg.norm(np.diff(path, axis=0), axis=1)
    total, energy = float(lengths.sum()), np.ones(8)
    for number, surface in enumerate(way):
        before = float(lengths[: number + 1].sum())
        normal = scene.planes[1][surface]
        u = np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))])
        u /= np.linalg.norm(u)
        v = np.cross(normal, u)
        for band in range(8):
            radius = np.sqrt(wavelength[band] * before * (total - before) / total)
            spots = path[number + 1] + radius * (_ZONE[:, :1] * u + _ZONE[:, 1:] * v)
            on = scene.covers(surface, spots)
            if not np.any(on):
                on[len(on) // 2] = True
            kept = (1 - scene.absorbs(surface, spots)[:, band]) * (1 - scene.scatters(surface, spots)[:, band])
            share = float(np.mean(kept[on]))
            if surface >= scene.n_faces:  # a body smaller than the zone returns its part of the pressure
                share *= float(np.mean(on)) ** 2
            energy[band] *= share
    return energy
