"""Sound that has been scattered, or mirrored often, followed as rays: energy at the microphone over time.

Source: M. Vorlaender, Auralization (2008), chapter 11: rays with a spherical detector; the mirrored first orders are
left to the mirrors (`mirrors.py`) and not counted here.
"""

from dataclasses import dataclass, fields
from typing import Final

import numpy as np

from keenquiet.core.room.room import Arrangement, direction
from keenquiet.core.types import BoolArray, FloatArray, IntArray
from keenquiet.rig.scene import Scene

STEP_S: Final = 0.001
MIRRORED: Final = 3  # orders that the mirrors find exactly
_RAYS: Final = 3000
_EARS_M: Final = (0.12, 0.3)  # radius of the detector, by how near the next surface is
_DEAD: Final = 1e-6  # of its energy: a ray is followed no further
_HALVED: Final = (16, 32, 64)  # after so many meetings every other ray goes on for two: late sound needs no more
_MEETINGS: Final = 600
_NEAR_TO: Final = (
    6.0,
    14.0,
)  # mean free ways: until then sound is counted at the microphone, after it all over the room
# Scattering differs by octave, a ray has one direction: the lower four octaves and the upper four are followed apart.
_GROUPS: Final = ((slice(0, 4), 3), (slice(4, 8), 5))


@dataclass(frozen=True)
class Field:
    """energy : (n_steps, 8) at the microphone in steps of STEP_S, free field of the source at 1 m and one second: 1.
    everything : the same in the whole room without the source's and the microphone's directions, mirrored orders too.
    """

    energy: FloatArray
    everything: FloatArray


def scattered_field(scene: Scene, arrangement: Arrangement, *, seconds: float, rng: np.random.Generator) -> Field:
    """Energy that reaches the microphone beyond the mirrored orders."""
    steps = round(seconds / STEP_S)
    ear = _Ear.of(scene, arrangement, steps)
    rays = _Rays.sent(arrangement, rng)
    for order in range(_MEETINGS):
        rays = _met(scene, ear, rays, order, rng)
        if not len(rays.at):
            break
    room = scene.room
    mean_free_s = 4 * room.volume_m3 / float(room.face_areas_m2.sum()) / room.air.speed_m_s
    early, late = (times * mean_free_s for times in _NEAR_TO)
    share = np.clip((np.arange(steps) * STEP_S - early) / (late - early), 0, 1)[:, None]
    return Field((1 - share) * ear.near + share * ear.all_over, ear.everything)


@dataclass
class _Rays:
    """Rays on their way, n of them.

    at, ahead : place [m] and direction, (n, 3). gone_m : way so far. carried : energy by octave as the source sends it,
    begun : as if it sent alike all round, (n, 8), nothing in the octaves of the other group. middle : the octave by
    which a ray scatters. counts : scattered once, or mirrored more often than the mirrors do.
    """

    at: FloatArray
    ahead: FloatArray
    carried: FloatArray
    begun: FloatArray
    gone_m: FloatArray
    middle: IntArray
    counts: BoolArray

    @staticmethod
    def sent(arrangement: Arrangement, rng: np.random.Generator) -> "_Rays":
        count = _RAYS * len(_GROUPS)
        ahead = np.concatenate([_even_ways(_RAYS, rng) for _ in _GROUPS])
        mask = np.zeros((count, 8))
        for number, (bands, _) in enumerate(_GROUPS):
            mask[number * _RAYS : (number + 1) * _RAYS, bands] = 1.0
        gain = arrangement.performer.source.gain(ahead @ direction(arrangement.performer.faces_deg))
        return _Rays(
            np.tile(np.asarray(arrangement.performer.at, dtype=float), (count, 1)),
            ahead,
            mask * gain**2 * 4 * np.pi / _RAYS,
            mask / _RAYS,
            np.zeros(count),
            np.repeat([middle for _, middle in _GROUPS], _RAYS),
            np.zeros(count, dtype=bool),
        )

    def only(self, chosen: BoolArray) -> "_Rays":
        return _Rays(*(getattr(self, one.name)[chosen] for one in fields(self)))


@dataclass
class _Ear:
    """What was counted so far, (n_steps, 8) each: near the microphone, all over the room, whatever its direction."""

    at: FloatArray
    radius_m: float
    a: float
    aim: FloatArray
    volume_m3: float
    speed_m_s: float
    loss_per_m: FloatArray
    near: FloatArray
    all_over: FloatArray
    everything: FloatArray

    @staticmethod
    def of(scene: Scene, arrangement: Arrangement, steps: int) -> "_Ear":
        room, microphone = scene.room, arrangement.microphone
        mic = np.asarray(microphone.at, dtype=float)
        points, normals = (part[: scene.n_faces] for part in scene.planes)
        clear = float(np.min(np.abs(np.sum((mic - points) * normals, axis=1))))
        return _Ear(
            mic,
            float(np.clip(0.95 * clear, *_EARS_M)),
            microphone.a,
            direction(microphone.aims_deg, microphone.tilt_deg),
            room.volume_m3,
            room.air.speed_m_s,
            scene.loose_loss_per_m(),
            *(np.zeros((steps, 8)) for _ in range(3)),
        )

    def hear(self, rays: _Rays, away_m: FloatArray) -> None:
        """Count rays on their way to what they meet next, `away_m` (n,) off."""
        along = np.sum((self.at - rays.at) * rays.ahead, axis=1)
        beside = np.sum((self.at - rays.at) ** 2, axis=1) - along**2
        half = np.sqrt(np.maximum(self.radius_m**2 - beside, 0.0))
        inside = np.clip(np.minimum(along + half, away_m) - np.maximum(along - half, 0.0), 0.0, None)
        sensed = (self.a - (1 - self.a) * (rays.ahead @ self.aim)) ** 2
        heard = rays.counts & (inside > 0)
        if np.any(heard):
            further = np.clip(along[heard], 0.0, away_m[heard])
            share = (inside * sensed)[heard, None] * rays.carried[heard] * np.exp(-np.outer(further, self.loss_per_m))
            sphere = 4 / 3 * np.pi * self.radius_m**3
            _add(self.near, (rays.gone_m[heard] + further) / self.speed_m_s, share / sphere)
        time_s = (rays.gone_m + away_m / 2) / self.speed_m_s
        worn = away_m[:, None] * np.exp(-np.outer(away_m / 2, self.loss_per_m))
        _add(self.all_over, time_s, (rays.counts * sensed)[:, None] * rays.carried * worn / self.volume_m3)
        _add(self.everything, time_s, rays.begun * worn / self.speed_m_s)


def _met(scene: Scene, ear: _Ear, rays: _Rays, order: int, rng: np.random.Generator) -> _Rays:
    """The rays after what they meet next."""
    met = scene.meet(rays.at, rays.ahead)
    fine = np.isfinite(met.away_m)
    rays, surface, away = rays.only(fine), met.surface[fine], met.away_m[fine]
    ear.hear(rays, away)
    spots = rays.at + away[:, None] * rays.ahead
    keep, scattering = np.empty_like(rays.carried), np.empty_like(rays.carried)
    for number in np.unique(surface):
        here = surface == number
        keep[here] = 1 - scene.absorbs(int(number), spots[here])
        scattering[here] = scene.scatters(int(number), spots[here])
    chance = scattering[np.arange(len(surface)), rays.middle]
    scatter: BoolArray = rng.random(len(surface)) < chance
    worn = keep * np.exp(-np.outer(away, ear.loss_per_m))
    carried, begun = rays.carried * worn, rays.begun * worn
    if order < MIRRORED:  # while the mirrors take their share by octave, the rest must fit it by octave
        with np.errstate(divide="ignore", invalid="ignore"):
            fit = np.where(scatter[:, None], scattering / chance[:, None], (1 - scattering) / (1 - chance[:, None]))
        carried = carried * np.clip(np.nan_to_num(fit, nan=1.0), 0.0, 4.0)
    normal = scene.planes[1][surface]
    mirrored = rays.ahead - 2 * np.sum(rays.ahead * normal, axis=1)[:, None] * normal
    on = _Rays(
        scene.off(spots, surface),
        np.where(scatter[:, None], _lambert(normal, rng), mirrored),
        carried,
        begun,
        rays.gone_m + away,
        rays.middle,
        rays.counts | scatter | (order + 1 > MIRRORED),
    )
    alive: BoolArray = np.max(begun, axis=1) > _DEAD / _RAYS
    alive &= on.gone_m < len(ear.near) * STEP_S * ear.speed_m_s
    if order in _HALVED:
        alive &= np.cumsum(alive) % 2 == 1
        on.carried, on.begun = 2 * on.carried, 2 * on.begun
    return on.only(alive)


def _add(histogram: FloatArray, time_s: FloatArray, share: FloatArray) -> None:
    step = np.floor(time_s / STEP_S).astype(int)
    inside = step < len(histogram)
    into = (step[inside, None] * 8 + np.arange(8)).ravel()
    histogram += np.bincount(into, weights=share[inside].ravel(), minlength=histogram.size).reshape(histogram.shape)


def _even_ways(count: int, rng: np.random.Generator) -> FloatArray:
    """Unit vectors spread evenly over all directions, (count, 3): a spiral, turned at random."""
    number = np.arange(count) + 0.5
    up = 1 - 2 * number / count
    round_ = np.pi * (1 + np.sqrt(5)) * number + rng.uniform(0, 2 * np.pi)
    flat = np.sqrt(1 - up**2)
    return np.stack([flat * np.cos(round_), flat * np.sin(round_), up], axis=1)


def _lambert(normal: FloatArray, rng: np.random.Generator) -> FloatArray:
    """Directions after Lambert's law about normals (n, 3)."""
    ball = rng.standard_normal(normal.shape)
    way = normal + (1 - 1e-9) * ball / np.linalg.norm(ball, axis=1, keepdims=True)
    unit: FloatArray = way / np.linalg.norm(way, axis=1, keepdims=True)
    return unit
