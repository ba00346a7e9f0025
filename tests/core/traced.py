"""A ray tracer of our own that shares no line with core or rig: boxes with patches on their walls and smaller boxes on
their floor; what is scattered leaves by chance after Lambert (ISO 17497-1; M. Vorlaender, Auralization, chapter 11).
"""

from dataclasses import dataclass

import numpy as np

from keenquiet.core.room.room import Room

BANDS = slice(3, 6)  # 500 to 2000 Hz
SPEED_M_S = 343.2
STEP_S = 0.001
EAR_M = 0.25
STEPS = 3000


@dataclass(frozen=True)
class World:
    """A box with patches on its walls and smaller boxes on its floor.

    size (3,); alpha (6, bands), scatter (6,): low x, high x, low y, high y, floor, ceiling; patches: wall, its two
    lower and upper edges across the other two axes, absorption, scattering; bodies: low corner, high corner,
    absorption, scattering; loss (bands,) energy of the air a metre.
    """

    size: np.ndarray
    alpha: np.ndarray
    scatter: np.ndarray
    patches: tuple[tuple[int, np.ndarray, np.ndarray, np.ndarray, float], ...]
    bodies: tuple[tuple[np.ndarray, np.ndarray, np.ndarray, float], ...]
    loss: np.ndarray


def traced(world: World, source, mic, aim, a, rng, rays=24_000) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Histogram of all the room's energy and of what a first-order microphone gets, (steps, bands), the direct sound
    apart, and that direct sound, (bands,).
    """
    steps, bands = STEPS, world.alpha.shape[1]
    everything, heard = np.zeros((steps, bands)), np.zeros((steps, bands))
    way = rng.standard_normal((rays, 3))
    way /= np.linalg.norm(way, axis=1)[:, None]
    at, gone, energy = np.tile(np.asarray(source, float), (rays, 1)), np.zeros(rays), np.full((rays, bands), 1 / rays)
    mic, sphere = np.asarray(mic, float), 4 / 3 * np.pi * EAR_M**3
    for meeting in range(2000):
        with np.errstate(divide="ignore"):
            far = np.where(way > 0, (world.size - at) / way, -at / way)
        far = np.where(way == 0, np.inf, far)
        axis = far.argmin(axis=1)
        rows = np.arange(len(at))
        away = far[rows, axis]
        up = way[rows, axis] > 0
        surface = 2 * axis + up
        normal = np.zeros_like(way)
        normal[rows, axis] = np.where(up, -1.0, 1.0)
        body = np.full(len(at), -1)
        for number, (low, high, _, _) in enumerate(world.bodies):
            with np.errstate(divide="ignore", invalid="ignore"):
                one, two = (low - at) / way, (high - at) / way
            enter, leave = np.fmin(one, two), np.fmax(one, two)
            into = enter.max(axis=1)
            hit = (into > 1e-9) & (into < leave.min(axis=1)) & (into < away)
            side = enter.argmax(axis=1)
            away = np.where(hit, into, away)
            body = np.where(hit, number, body)
            normal[hit] = 0.0
            normal[hit, side[hit]] = -np.sign(way[hit, side[hit]])
        along = np.sum((mic - at) * way, axis=1)
        beside2 = np.sum((mic - at) ** 2, axis=1) - along**2
        half = np.sqrt(np.maximum(EAR_M**2 - beside2, 0))
        inside = np.clip(np.minimum(along + half, away) - np.maximum(along - half, 0), 0, None)
        if meeting:  # the direct sound is known
            got = inside > 0
            sensed = (a - (1 - a) * (way[got] @ aim)) ** 2
            way_in = np.clip(along[got], 0, None)
            share = energy[got] * np.exp(-np.outer(way_in, world.loss)) * (inside[got] * sensed / sphere)[:, None]
            slot = ((gone[got] + np.clip(along[got], 0, away[got])) / SPEED_M_S / STEP_S).astype(int)
            np.add.at(heard, np.minimum(slot, steps - 1), share)
        slot = np.minimum(((gone + away / 2) / SPEED_M_S / STEP_S).astype(int), steps - 1)
        for band in range(bands):
            everything[:, band] += np.bincount(slot, weights=energy[:, band] * away, minlength=steps)
        spot = at + away[:, None] * way
        swallows, scatters = world.alpha[surface], world.scatter[surface]
        for wall, low, high, alpha, scatter in world.patches:
            across = [n for n in range(3) if n != wall // 2]
            on = (surface == wall) & (body < 0) & np.all((spot[:, across] > low) & (spot[:, across] < high), axis=1)
            swallows[on], scatters[on] = alpha, scatter
        for number, (_, _, alpha, scatter) in enumerate(world.bodies):
            swallows[body == number], scatters[body == number] = alpha, scatter
        energy = energy * (1 - swallows) * np.exp(-np.outer(away, world.loss))
        gone = gone + away
        cast = rng.standard_normal(way.shape)
        cast = normal + cast / np.linalg.norm(cast, axis=1)[:, None]
        cast /= np.linalg.norm(cast, axis=1)[:, None]
        mirrored = way - 2 * np.sum(way * normal, axis=1)[:, None] * normal
        way = np.where((rng.random(len(way)) < scatters)[:, None], cast, mirrored)
        at = np.clip(spot + 1e-7 * normal, 1e-9, world.size - 1e-9)
        alive = (energy.max(axis=1) > 1e-7 / rays) & (gone < (steps - 1) * SPEED_M_S * STEP_S)
        at, way, gone, energy = at[alive], way[alive], gone[alive], energy[alive]
        if not len(at):
            break
    straight = np.asarray(source) - mic
    distance = np.linalg.norm(straight)
    direct = (a + (1 - a) * (straight @ aim) / distance) ** 2 / (4 * np.pi * distance**2)
    return everything, heard, np.full(bands, direct)


def t20(histogram: np.ndarray) -> float:
    """Decay from -5 to -25 dB of the backward integral, mean over the bands. [s]"""
    left = np.cumsum(histogram[::-1], axis=0)[::-1]
    level = 10 * np.log10(np.maximum(left / left[0], 1e-15))
    return float(np.mean([3 * STEP_S * (np.argmax(b < -25) - np.argmax(b < -5)) for b in level.T]))


def world_of(room: Room) -> World:
    """A box room as the tracer takes it: figures of the tables only."""
    size = np.array(room.shape.bounds_m)
    where = {}
    for number, face in enumerate(room.faces):
        axis = int(np.argmax(np.abs(face.normal)))
        where[number] = 2 * axis + int(face.normal[axis] < 0)
    alphas, scatter = np.zeros((6, 3)), np.zeros(6)
    for number, material in enumerate(room.materials):
        alphas[where[number]] = np.minimum(material.absorption[BANDS], 1.0)
        scatter[where[number]] = material.scattering[BANDS].mean()
    patches = []
    for overlay in room.overlays:
        face, (u0, u1, v0, v1) = room.faces[overlay.face], overlay.rect
        corners = face.to_space(np.array([[u0, v0], [u1, v1]]))
        axis = where[overlay.face] // 2
        across = [n for n in range(3) if n != axis]
        patches.append((where[overlay.face], corners[:, across].min(axis=0), corners[:, across].max(axis=0),
                        np.minimum(overlay.material.absorption[BANDS], 1.0),
                        float(overlay.material.scattering[BANDS].mean())))  # fmt: skip
    bodies = []
    for piece in room.furnishings:
        low, high = piece.body_m
        foot = piece.footprint
        x, y = np.ptp(foot, axis=0)
        seen = x * y + (2 * min(x, y) + max(x, y)) * (high - low)  # its back stands against a wall
        alpha = np.minimum(piece.absorption_area_m2[BANDS] / seen, 1.0)
        corners = np.array([*foot.min(axis=0), low]), np.array([*foot.max(axis=0), high])
        bodies.append((*corners, alpha, float(piece.scattering[BANDS].mean())))
    return World(size, alphas, scatter, tuple(patches), tuple(bodies), room.air.energy_loss_per_m[BANDS])
