"""What a resistive screen swallows of a source's power, by finite differences in time in an open space, beside the
solid angle that `waves.screens` takes. Prints the table of docs/physics.md: `python -m bench.screens_fd`.

A sheet of flow resistance R lets through 2 / (2 + z cos) and throws back z cos / (2 + z cos), z = R / (rho c); it keeps
4 z cos / (2 + z cos)^2 (locally reacting, no mass). Grid of 4 cm, leapfrog, half a metre of sponge round it.
"""

import numpy as np
from tests.conftest import standing

from keenquiet.core.room.room import Screen
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.screens import holds, meets, sphere_rays

C, RHO = 343.0, 1.2
_CELL_M = 0.04
_SPONGE = 14
_Z = 2.0
OCTAVES = {250.0: 2, 500.0: 3, 1000.0: 4}


def swallowed_by_grid(side_m: float, away_m: float, f_hz: FloatArray, *, half_m: float = 1.2) -> FloatArray:
    """Share of the source's power that a square sheet takes, its middle `away_m` off, (n_f,). [-]"""
    n = 2 * (round(half_m / _CELL_M) + _SPONGE) + 1
    middle = n // 2
    dt = 0.98 * _CELL_M / (C * np.sqrt(3))
    steps = round((4 * half_m / C + 0.012) / dt)
    p = np.zeros((n, n, n), dtype=np.float32)
    v = [np.zeros((n - (i == 0), n - (i == 1), n - (i == 2)), dtype=np.float32) for i in range(3)]
    edge = np.minimum(np.arange(n), n - 1 - np.arange(n))
    loss = np.maximum(_SPONGE - edge, 0) / _SPONGE
    depth = np.maximum(np.maximum(loss[:, None, None], loss[None, :, None]), loss[None, None, :])
    keep = np.exp(-0.28 * depth**2).astype(np.float32)
    sheet = middle + round(away_m / _CELL_M)
    half = round(side_m / 2 / _CELL_M)
    hung = slice(middle - half, middle + half + 1)
    turn = np.exp(-2j * np.pi * f_hz * dt)
    through = np.zeros((len(f_hz), 2 * half + 1, 2 * half + 1), dtype=complex)
    heard = np.zeros(len(f_hz), dtype=complex)
    ear = round(0.6 / _CELL_M)  # on the side away from the sheet, in a second pass without it
    width = 0.0005

    def run(with_sheet: bool) -> None:
        for field in (p, *v):
            field[...] = 0.0
        r, mass = _Z * RHO * C, RHO * _CELL_M / dt
        for step in range(steps):
            t = step * dt - 4 * width
            before = v[0][sheet, hung, hung].copy()
            for axis in range(3):
                v[axis] -= (dt / (RHO * _CELL_M)) * np.diff(p, axis=axis)
            if with_sheet:
                push = p[sheet + 1, hung, hung] - p[sheet, hung, hung]
                v[0][sheet, hung, hung] = (before * (mass - r / 2) - push) / (mass + r / 2)
            for axis in range(3):
                inner = [slice(None)] * 3
                inner[axis] = slice(1, -1)
                p[tuple(inner)] -= (RHO * C**2 * dt / _CELL_M) * np.diff(v[axis], axis=axis)
            p[middle, middle, middle] += np.float32(-t * np.exp(-((t / width) ** 2) / 2) * 1e5)
            p[...] *= keep
            if with_sheet:
                through[...] += (turn**step)[:, None, None] * v[0][sheet, hung, hung]
            else:
                heard[...] += turn**step * p[middle - ear, middle, middle]

    run(with_sheet=True)
    run(with_sheet=False)
    taken = 0.5 * _Z * RHO * C * np.sum(np.abs(through) ** 2, axis=(1, 2)) * _CELL_M**2
    given = 4 * np.pi * (ear * _CELL_M) ** 2 * np.abs(heard) ** 2 / (2 * RHO * C)
    share: FloatArray = taken / given
    return share


def swallowed_by_angle(side_m: float, away_m: float) -> FloatArray:
    """The same by the solid angle and what leaks past, by octave (8,). [-]"""
    even = standing((2.0, 2.0, 2.0), (3.0, 2.0, 2.0))
    screen = Screen("sheet", (2.0 + away_m, 2.0, 2.0 - side_m / 2), 0.0, side_m, side_m, (1.0,) * 8)
    rays = sphere_rays(4096)
    met = meets(screen, np.array(even.performer.at), rays)
    slant = np.abs(rays[met, 0])
    kept = 4 * _Z * slant / (2 + _Z * slant) ** 2
    share: FloatArray = np.sum(kept) / len(rays) * holds(screen)
    return share


def main() -> None:
    """Print the table."""
    print("| square, away | octave | by grid | by solid angle | apart |\n|---|---|---|---|---|")
    for side, away in ((0.5, 0.3), (0.8, 0.4), (1.2, 0.6)):
        angle = swallowed_by_angle(side, away)
        for f, octave in OCTAVES.items():
            tones = f * 2 ** np.linspace(-0.4, 0.4, 5)
            grid = float(np.mean(swallowed_by_grid(side, away, tones)))
            print(
                f"| {side} m, {away} m | {f:.0f} Hz | {grid:.3f} | {angle[octave]:.3f} | "
                f"{10 * np.log10(angle[octave] / grid):+.1f} dB |",
                flush=True,
            )


if __name__ == "__main__":
    main()
