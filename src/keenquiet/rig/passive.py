"""Walls in time: an admittance as a sum of small passive filters, which can never feed a room.

Y(s) = g0 + sum g_j a_j / (s + a_j) + sum g_j s / (s + a_j) + sum g_j b_j s / (s^2 + b_j s + w_j^2), all g >= 0, fitted
by non-negative least squares. Each is stepped by the trapezoidal rule, which keeps it passive.
"""

from dataclasses import dataclass, field
from typing import Final

import numpy as np
import scipy

from keenquiet.core.room.room import Room
from keenquiet.core.things.materials import Material
from keenquiet.core.types import ComplexArray, FloatArray, IntArray, SingleArray

_FIT_HZ: Final = np.geomspace(25.0, 300.0, 40)
_CORNERS: Final = 2 * np.pi * np.array([30.0, 90.0, 250.0, 700.0])
_TUNED: Final = 2 * np.pi * np.array([45.0, 63.0, 90.0, 125.0, 180.0, 250.0, 355.0, 500.0])
_MISFIT: Final = 0.08  # rms of the real part, relative: filters are left out while the fit stays within
_TUNED_Q: Final = 2.0


@dataclass(frozen=True)
class PassiveWalls:
    """Wall by wall: cells it touches and how much of it lies there [m2], with its filters' gains (1 + 4 + 4 + 8,)."""

    cells: tuple[IntArray, ...]
    area_m2: tuple[FloatArray, ...]
    gains: tuple[FloatArray, ...]

    def in_steps(self, dt: float, over_volume: FloatArray) -> "Stepped":
        """For time steps dt [s] and c / V of each cell (n,) [1/(m2 s)]."""
        n = len(over_volume)
        at_once = np.zeros(n)
        low: list[FloatArray] = []
        tuned: list[FloatArray] = []
        for cells, area, gains in zip(self.cells, self.area_m2, self.gains, strict=True):
            weight = area * over_volume[cells]
            at_once += np.bincount(cells, weights=weight * gains[0], minlength=n)
            for number, corner in enumerate(_CORNERS):
                falling, rising = gains[1 + number], gains[5 + number]
                half = corner * dt / 2
                at_once += np.bincount(cells, weights=weight * (falling * half + rising) / (1 + half), minlength=n)
                if falling + rising > 0:
                    same = np.ones(len(cells))
                    low.append(np.stack([cells, weight * (falling - rising), corner * same]))
            for number, centre in enumerate(_TUNED):
                gain, width = gains[9 + number], centre / _TUNED_Q
                if gain > 0:
                    same = np.ones(len(cells))
                    at_once += np.bincount(
                        cells, weights=weight * gain * (width * dt / 2) / (1 + width * dt / 2), minlength=n
                    )
                    tuned.append(np.stack([cells, weight * gain, centre * same]))
        empty = np.zeros((3, 0))
        return Stepped(n, dt, at_once * dt / 2, np.hstack([empty, *low]), np.hstack([empty, *tuned]))


@dataclass
class Stepped:
    """The walls' memory while time goes on. at_once : (n,) how much of the next pressure they take in the same step."""

    n: int
    dt: float
    at_once: FloatArray
    low: FloatArray  # cell, weight, corner
    tuned: FloatArray  # cell, weight, centre
    _memory: "_Memory" = field(init=False)

    def __post_init__(self) -> None:
        """Filters of the first order and tuned ones share one step: v' + a v + w^2 q = a x, q' = v, x the change."""
        dt = self.dt
        cells = np.concatenate([self.low[0], self.tuned[0]]).astype(int)
        half = np.concatenate([self.low[2], self.tuned[2] / _TUNED_Q]) * dt / 2
        touched, row = np.unique(cells, return_inverse=True)
        entries = (row.astype(np.int32), np.arange(len(cells), dtype=np.int32))
        out = dt**2 * np.concatenate([self.low[1], self.tuned[1]]) / (1 + half)
        self._memory = _Memory(
            cells,
            touched,
            row,
            scipy.sparse.csr_array((out.astype(np.float32), entries), shape=(len(touched), len(cells))),
            keeps=((1 - half) / (1 + half)).astype(np.float32),
            takes=(half / dt / (1 + half)).astype(np.float32),
            springs=(dt * self.tuned[2] ** 2 / (1 + half[len(self.low[0]) :])).astype(np.float32),
            leans=(dt / 2 * self.tuned[2] ** 2).astype(np.float32),
            speed=np.zeros(len(cells), np.float32),
            way=np.zeros(len(self.tuned[0]), np.float32),
        )

    def withdraw(self, pressure: SingleArray) -> None:
        """Take what the walls' memory takes from the next pressure, (n,), in place."""
        memory = self._memory
        if len(memory.cells):
            speed, first = memory.speed, len(memory.speed) - len(memory.way)
            if len(memory.way):
                speed = speed.copy()
                speed[first:] -= memory.leans * memory.way
            pressure[memory.touched] -= memory.gather @ speed

    def learn(self, after: SingleArray, before: SingleArray) -> None:
        """Step on with the pressures two steps apart, (n,) each."""
        memory = self._memory
        if len(memory.cells):
            change = after[memory.touched] - before[memory.touched]
            memory.speed *= memory.keeps
            memory.speed += memory.takes * change[memory.row]
            if len(memory.way):
                first = len(memory.speed) - len(memory.way)
                memory.speed[first:] -= memory.springs * memory.way
                memory.way += np.float32(self.dt) * memory.speed[first:]


@dataclass
class _Memory:
    """cells : of each filter. touched : those cells once. gather : from filters to touched cells, weighted."""

    cells: IntArray
    touched: IntArray
    row: IntArray
    gather: scipy.sparse.csr_array
    keeps: SingleArray
    takes: SingleArray
    springs: SingleArray
    leans: SingleArray
    speed: SingleArray
    way: SingleArray


def fitted_walls(room: Room, cells: IntArray, area_m2: FloatArray, spots: FloatArray, ways: FloatArray) -> PassiveWalls:
    """Closed sides of cells (n,) with areas, middles (n, 3) and directions into the room (n, 3), each given to the
    face that it stands for. What a stair has more of than its slope is taken off.
    """
    distance = np.empty((len(cells), len(room.faces)))
    for number, face in enumerate(room.faces):
        off = np.abs((spots - face.origin) @ face.normal)
        flat = face.to_flat(spots)
        u0, u1, v0, v1 = face.extent
        beyond = np.maximum(np.maximum([u0, v0] - flat, flat - [u1, v1]), 0.0)
        distance[:, number] = off + np.sum(beyond, axis=1) + np.where(ways @ face.normal > 0.05, 0.0, 1e3)
    chosen = np.argmin(distance, axis=1)
    found: dict[int, tuple[Material, list[IntArray], list[FloatArray]]] = {}
    for number, face in enumerate(room.faces):
        here = np.flatnonzero(chosen == number)
        if not len(here):
            continue
        area = area_m2[here] * np.abs(ways[here] @ face.normal)
        area *= face.area_m2 / area.sum()
        what = np.full(len(here), -1)
        flat = face.to_flat(spots[here])
        hung = [overlay for overlay in room.overlays if overlay.face == number]
        for index, overlay in enumerate(hung):
            u0, u1, v0, v1 = overlay.rect
            what[(flat[:, 0] > u0) & (flat[:, 0] < u1) & (flat[:, 1] > v0) & (flat[:, 1] < v1)] = index
        for index in np.unique(what):
            material = room.materials[number] if index < 0 else hung[index].material
            entry = found.setdefault(id(material), (material, [], []))
            entry[1].append(cells[here[what == index]])
            entry[2].append(area[what == index])
    entries = list(found.values())
    return PassiveWalls(
        tuple(np.concatenate(entry[1]) for entry in entries),
        tuple(np.concatenate(entry[2]) for entry in entries),
        tuple(_gains(entry[0].admittance(_FIT_HZ, air=room.air)) for entry in entries),
    )


def _gains(admittance: ComplexArray) -> FloatArray:
    """Gains of the filters that come nearest to an admittance at _FIT_HZ, (17,), all zero or more."""
    s = 2j * np.pi * _FIT_HZ
    terms = [np.ones(len(s), dtype=complex)]
    terms += [a / (s + a) for a in _CORNERS] + [s / (s + a) for a in _CORNERS]
    terms += [w / _TUNED_Q * s / (s**2 + w / _TUNED_Q * s + w**2) for w in _TUNED]
    basis = np.stack(terms, axis=1) / np.abs(admittance)[:, None]
    wanted = admittance / np.abs(admittance)
    # what a wall takes counts more than how far it turns the phase: catalogue figures say nothing of that
    rows, aim = np.concatenate([basis.real, 0.1 * basis.imag]), np.concatenate([wanted.real, 0.1 * wanted.imag])
    used = list(range(basis.shape[1]))
    while True:
        fitted = scipy.optimize.nnls(rows[:, used], aim)[0]
        used = [number for number, gain in zip(used, fitted, strict=True) if gain > 0]
        gains = np.zeros(basis.shape[1])
        gains[used] = fitted[fitted > 0]
        # leave out the filter that is missed least, while what the wall takes stays as it should be
        misfits = [_misfit(rows, aim, [one for one in used if one != out]) for out in used]
        if len(used) <= 1 or min(misfits) > _MISFIT:
            return gains
        del used[int(np.argmin(misfits))]


def _misfit(rows: FloatArray, aim: FloatArray, used: list[int]) -> float:
    """Relative rms error of the real part when only some filters are fitted."""
    if not used:
        return np.inf
    half = len(aim) // 2
    fitted = scipy.optimize.nnls(rows[:, used], aim)[0]
    return float(np.sqrt(np.mean((rows[:half, used] @ fitted - aim[:half]) ** 2)))
