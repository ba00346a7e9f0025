"""The low end of a room that is no box: finite differences in time on a grid of small cells.

Cells end where walls along the axes stand; cells that a slope cuts through hold the part of the volume, and pass the
part of each side, that lies in the room. Leapfrog in time; walls answer as passive filters fitted to their admittance.
Source: D. Botteldooren, J. Acoust. Soc. Am. 98 (1995) 3302 (finite volumes in rooms, locally reacting walls).
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import at_frequencies
from keenquiet.core.room.room import Room
from keenquiet.core.types import BoolArray, ComplexArray, FloatArray, IntArray, SingleArray
from keenquiet.rig.passive import PassiveWalls, fitted_walls

STEP_M: Final = 0.125
_MOST_CELLS: Final = 150_000  # a hall's cells are larger
_SECONDS: Final = 1.4
_PULSE_HZ: Final = 280.0  # where the pulse has fallen to a third
_HEARD_FROM_HZ: Final = 12.0
_HEARD_TO_HZ: Final = 700.0
_LEAST_FULL: Final = 0.4  # a cell with less of the room in it is left out
_PARTS: Final = (np.arange(4) + 0.5) / 4 - 0.5


def grid_response(room: Room, source: FloatArray, mic: FloatArray, f_hz: FloatArray) -> ComplexArray:
    """Pressure at the microphone for a source of 1/r, 1 at 1 m in the free field, at f_hz (n,) up to 300 Hz. [-]

    Furniture takes its part evenly over the room, by octave.
    """
    impulse, dt = Grid.of(room).impulse(source, mic)
    t = np.arange(len(impulse)) * dt
    # what stands in the room takes energy evenly: amplitude exp(-c A t / 8 V)
    rate = room.air.speed_m_s * at_frequencies(room.furniture_area_m2 / (8 * room.volume_m3), np.maximum(f_hz, 20.0))
    decayed = np.exp(-np.outer(rate, t) - 2j * np.pi * np.outer(f_hz, t))
    return np.asarray(decayed @ impulse * dt / _passed(f_hz), dtype=complex)


@dataclass(frozen=True)
class Grid:
    """Cells of a room in one list of n.

    middles : (n, 3) [m]. volume : (n,) [m3]. joined : (m, 2) neighbouring cells; passage : (m,) shared area over
    distance [m]. walls : what stands at which cell.
    """

    speed_m_s: float
    middles: FloatArray
    volume_m3: FloatArray
    joined: IntArray
    passage_m: FloatArray
    walls: PassiveWalls

    @staticmethod
    def of(room: Room) -> "Grid":
        """The grid of a room, finer than `STEP_M` everywhere unless the room is a hall."""
        step = max(STEP_M, float((room.volume_m3 / _MOST_CELLS) ** (1 / 3)))
        edges = [_edges(room, axis, step) for axis in range(3)]
        widths = [np.diff(edge) for edge in edges]
        axes = [(edge[1:] + edge[:-1]) / 2 for edge in edges]
        middles = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1)
        sizes = np.stack(np.meshgrid(*widths, indexing="ij"), axis=-1)
        full = _fullness(room, middles, sizes)
        kept = full >= _LEAST_FULL
        number = np.full(kept.shape, -1)
        number[kept] = np.arange(np.count_nonzero(kept))
        volume = (np.prod(sizes, axis=-1) * full)[kept]
        cut = (full < 1)[kept]
        if np.any(cut):  # what left-out slivers held goes to the cells beside them
            volume[cut] *= max(1 + (room.volume_m3 - volume.sum()) / volume[cut].sum(), 0.5)
        joined, passage = [], []
        closed_at, closed_m2, closed_spot, closed_way = [], [], [], []
        for axis in range(3):
            sides = np.prod(np.delete(sizes, axis, axis=-1), axis=-1)
            for sign in (1, -1):
                beyond = np.roll(number, -sign, axis=axis)
                end = [slice(None)] * 3
                end[axis] = slice(-1, None) if sign > 0 else slice(0, 1)
                beyond[tuple(end)] = -1
                spot = middles.copy()
                spot[..., axis] += sign * sizes[..., axis] / 2
                through = (number >= 0) & (beyond >= 0)
                open_share = np.where(through, 1.0, 0.0)
                partly = through & ((full < 1) | (np.roll(full, -sign, axis=axis) < 1))
                open_share[partly] = _open(room, spot[partly], sizes[partly], axis)
                if sign > 0:
                    apart = (sizes[..., axis] + np.roll(sizes[..., axis], -1, axis=axis)) / 2
                    joined.append(np.stack([number[through], beyond[through]], axis=1))
                    passage.append((sides * open_share / apart)[through])
                shut = (number >= 0) & (open_share < 1)
                closed_at.append(number[shut])
                closed_m2.append((sides * (1 - open_share))[shut])
                closed_spot.append(spot[shut])
                closed_way.append(np.tile(-sign * np.eye(3)[axis], (int(np.count_nonzero(shut)), 1)))
        walls = fitted_walls(room, *map(np.concatenate, (closed_at, closed_m2, closed_spot, closed_way)))
        return Grid(room.air.speed_m_s, middles[kept], volume, np.concatenate(joined), np.concatenate(passage), walls)

    def impulse(self, source: FloatArray, mic: FloatArray) -> tuple[FloatArray, float]:
        """Pressure at the microphone over time for a source of 1/r, between _HEARD_FROM_HZ and _HEARD_TO_HZ, and its
        time step. [1/s, s]
        """
        n, c = len(self.volume_m3), self.speed_m_s
        one, other = self.joined.T
        rows, columns = np.concatenate([one, other]), np.concatenate([other, one])
        pull = np.tile(self.passage_m, 2) * c**2 / self.volume_m3[rows]
        total = np.bincount(rows, weights=pull, minlength=n)
        dt = 0.98 * float(np.sqrt(2 / total.max()))  # Gershgorin: no eigenvalue beyond twice the largest sum
        each = np.arange(n)
        step_on = scipy.sparse.csr_array(
            (
                np.concatenate([pull * dt**2, 2 - total * dt**2]).astype(np.float32),
                (np.concatenate([rows, each]).astype(np.int32), np.concatenate([columns, each]).astype(np.int32)),
            ),
            shape=(n, n),
        )
        walls = self.walls.in_steps(dt, c / self.volume_m3)
        over_top, bottom = (1 / (1 + walls.at_once)).astype(np.float32), (1 - walls.at_once).astype(np.float32)
        steps = int(_SECONDS / dt)
        t = np.arange(steps) * dt
        width = 1 / (np.pi * _PULSE_HZ)
        since = (t - 4 * width) / width
        pulse = (1 - 2 * since**2) * np.exp(-(since**2))  # without a mean: a sealed room would hold it for ever
        give_at, give = self._near(source)
        take_at, take = self._near(mic)
        push = 4 * np.pi * c**2 * dt**2 * give / self.volume_m3[give_at]
        before: SingleArray = np.zeros(n, np.float32)
        now: SingleArray = np.zeros(n, np.float32)
        heard = np.empty(steps)
        for step in range(steps):
            after: SingleArray = step_on @ now
            after -= bottom * before
            walls.withdraw(after)
            after[give_at] += (push * pulse[step]).astype(np.float32)
            after *= over_top
            walls.learn(after, before)
            heard[step] = take @ after[take_at]
            before, now = now, after
        return _without(pulse, heard * np.clip((t[-1] - t) / (0.15 * t[-1]), 0, 1), dt)

    def _near(self, place: FloatArray) -> tuple[IntArray, FloatArray]:
        """Cells about a place and their weights: linear between middles, by what lies in the room."""
        away = np.abs(self.middles - place)
        nearest = np.argsort(np.sum(away**2, axis=1))[:8]
        reach = 1.0001 * np.max(away[nearest], axis=0)
        weight = np.prod(np.maximum(1 - away[nearest] / np.maximum(reach, STEP_M), 0.0), axis=1) + 1e-9
        return nearest, weight / weight.sum()


def _edges(room: Room, axis: int, step: float) -> FloatArray:
    """Where cells end along an axis: at every wall square to it, and evenly between."""
    corners = np.concatenate([face.to_space(face.outline) for face in room.faces])[:, axis]
    square = [face.origin[axis] for face in room.faces if abs(face.normal[axis]) > 0.999]
    stops = np.unique(np.round([corners.min(), corners.max(), *square], 6))
    stops = stops[np.concatenate([[True], np.diff(stops) > 0.25 * step])]
    parts = [np.linspace(a, b, max(round((b - a) / step), 1) + 1)[:-1] for a, b in pairwise(stops)]
    return np.concatenate([*parts, stops[-1:]])


def _fullness(room: Room, middles: FloatArray, sizes: FloatArray) -> FloatArray:
    """Share of each cell that lies in the room, (nx, ny, nz)."""
    inside: BoolArray = room.shape.contains(middles)
    full = inside.astype(float)
    grown, shrunk = scipy.ndimage.binary_dilation(inside), scipy.ndimage.binary_erosion(inside)
    doubtful = grown & ~shrunk
    offsets = np.stack(np.meshgrid(_PARTS, _PARTS, _PARTS, indexing="ij"), axis=-1).reshape(-1, 3)
    spots = middles[doubtful][:, None] + offsets * sizes[doubtful][:, None]
    full[doubtful] = np.mean(room.shape.contains(spots), axis=1)
    return full


def _open(room: Room, spots: FloatArray, sizes: FloatArray, axis: int) -> FloatArray:
    """Share of cells' sides that lies in the room, for the middles of these sides (n, 3)."""
    flat = np.stack(np.meshgrid(_PARTS, _PARTS, indexing="ij"), axis=-1).reshape(-1, 2)
    offsets = np.insert(flat, axis, 0.0, axis=1)
    share: FloatArray = np.mean(room.shape.contains(spots[:, None] + offsets * sizes[:, None]), axis=1)
    return share


def _passed(f_hz: FloatArray) -> ComplexArray:
    """What a high-pass of the second order at _HEARD_FROM_HZ passes: a sealed room answers with 1 / f^2 below that."""
    s = 1j * np.maximum(f_hz, 0.5) / _HEARD_FROM_HZ
    return np.asarray(s**2 / (s**2 + np.sqrt(2) * s + 1), dtype=complex)


def _without(pulse: FloatArray, heard: FloatArray, dt: float) -> tuple[FloatArray, float]:
    """The response to an impulse, from that to a pulse one step earlier, at a rate that holds `_HEARD_TO_HZ`."""
    n: int = 2 * len(heard)
    f = np.fft.rfftfreq(n, dt)
    few = f < 1.2 * _HEARD_TO_HZ
    made = np.fft.rfft(pulse, n)[few]
    made[0] = np.inf
    response = np.fft.rfft(heard, n)[few] / made * np.exp(-2j * np.pi * f[few] * dt)
    response *= _passed(np.asarray(f[few], dtype=float))
    response *= 0.5 + 0.5 * np.cos(np.pi * np.clip((f[few] / _HEARD_TO_HZ - 0.6) / 0.4, 0, 1))
    m = 2 * (int(np.count_nonzero(few)) - 1)
    coarse = dt * n / m
    return np.fft.irfft(response, m)[: m // 2] / coarse, coarse
