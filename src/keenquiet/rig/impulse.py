"""The rig's impulse response: modes below the crossover, images above it, a diffuse tail after them.

Written apart from the predictions it tests: damping by quadrature over the walls and a full quadratic eigenproblem,
images summed in time with every wall's own octaves, a noise tail. What both share is the room and its material tables.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import at_frequencies, exact_octaves_hz
from keenquiet.core.room.box import Arrangement, Box, direction, tangential
from keenquiet.core.types import ComplexArray, FloatArray

SAMPLE_RATE_HZ: Final = 48_000
_CROSSOVER_HZ: Final = (210.0, 290.0)
_MODES_TO_HZ: Final = 400.0
_STATIC_TO_HZ: Final = 1800.0
_SECONDS: Final = 2.0
_IMAGES_TO_S: Final = 0.060
_FADE_FROM_S: Final = 0.040
_OVERSAMPLING: Final = 8
_INFRASOUND_HZ: Final = 10.0


@dataclass(frozen=True)
class RigResponse:
    """impulse (n,) at SAMPLE_RATE_HZ: pressure relative to the free field at 1 m; true tail decay by octave (8,) [s]."""

    impulse: FloatArray
    t60_s: FloatArray


def rig_impulse(room: Box, arrangement: Arrangement, *, seed: int) -> RigResponse:
    """Response from performer to microphone in this room (pass the true room)."""
    n = int(_SECONDS * SAMPLE_RATE_HZ)
    f_hz = np.fft.rfftfreq(n, 1 / SAMPLE_RATE_HZ)
    t60 = _eyring_s(room)
    high, tail = _images(room, arrangement, f_hz, n, t60, np.random.default_rng(seed))
    low = np.zeros(len(f_hz), dtype=complex)
    below = f_hz < _CROSSOVER_HZ[1]
    low[below] = _modal(room, arrangement, np.maximum(f_hz[below], 1.0))
    part = np.clip((f_hz - _CROSSOVER_HZ[0]) / (_CROSSOVER_HZ[1] - _CROSSOVER_HZ[0]), 0, 1)
    to_high = np.sin(0.5 * np.pi * part) ** 2
    s = 1j * f_hz / _INFRASOUND_HZ
    infrasound = s**2 / (s**2 + np.sqrt(2) * s + 1)  # no transducer passes the constant pressure of a sealed room
    return RigResponse(np.fft.irfft((low * (1 - to_high) + (high + tail) * to_high) * infrasound, n), t60)


def _eyring_s(room: Box) -> FloatArray:
    surface = room.face_areas_m2.sum()
    alpha = (room.face_areas_m2 @ room.face_absorption + room.furniture_area_m2) / surface
    air = 4 * room.air.energy_loss_per_m * room.volume_m3
    return 55.26 / room.air.speed_m_s * room.volume_m3 / (-surface * np.log(1 - np.minimum(alpha, 0.98)) + air)


def _modal(room: Box, arrangement: Arrangement, f_hz: FloatArray) -> ComplexArray:
    """Modal pressure at f_hz: a'' + C a' + W^2 a = drive, C from admittance integrated numerically over the walls."""
    size, c, volume = np.asarray(room.size_m), room.air.speed_m_s, room.volume_m3
    most = [int(2 * side * _STATIC_TO_HZ / c) + 1 for side in size]
    grid = np.stack(np.meshgrid(*map(np.arange, most), indexing="ij"), -1).reshape(-1, 3)
    k = np.pi * np.linalg.norm(grid / size, axis=1)
    grid, k = grid[k * c < 2 * np.pi * _STATIC_TO_HZ], k[k * c < 2 * np.pi * _STATIC_TO_HZ]
    scale = np.sqrt(2.0) ** (grid > 0).sum(axis=1)
    source, mic = (np.prod(np.cos(np.pi * np.asarray(at) / size * grid), axis=1) * scale
                   for at in (arrangement.performer.at, arrangement.microphone.at))  # fmt: skip
    low = np.flatnonzero(k * c <= 2 * np.pi * _MODES_TO_HZ)
    damping = _damping_matrix(room, grid[low], k[low] * c / (2 * np.pi), scale[low])
    n = len(low)
    stiffness = np.diag((k[low] * c) ** 2)
    companion = np.block([[np.zeros((n, n)), np.eye(n)], [-stiffness, -damping]])
    poles, right = np.linalg.eig(companion)
    drive = np.linalg.solve(right, np.concatenate([np.zeros(n), source[low]]).astype(complex))
    heard = mic[low] @ right[:n]
    s = 2j * np.pi * f_hz
    pressure = (1 / (s[:, None] - poles)) @ (heard * drive) * c**2
    rest = np.setdiff1d(np.arange(len(k)), low)
    soft_end = 0.5 + 0.5 * np.cos(np.pi * np.clip((k[rest] * c / (2 * np.pi * _STATIC_TO_HZ) - 0.4) / 0.6, 0, 1))
    pressure += c**2 * np.sum(soft_end * (source * mic)[rest] / ((k[rest] * c) ** 2 - (2 * np.pi * f_hz[:, None]) ** 2), axis=1)
    return 4 * np.pi / volume * pressure


def _damping_matrix(room: Box, grid: FloatArray, f_hz: FloatArray, scale: FloatArray) -> FloatArray:
    size, c = np.asarray(room.size_m), room.air.speed_m_s
    nodes, weights = np.polynomial.legendre.leggauss(24)
    damping = np.zeros((len(grid), len(grid)))
    pair_hz = np.sqrt(np.maximum(np.outer(f_hz, f_hz), 20.0**2))
    table_hz = np.geomspace(15.0, _MODES_TO_HZ * 1.05, 80)
    for piece in room.pieces:
        axis, side = divmod(piece.face, 2)
        a, b = tangential(piece.face)
        a0, a1, b0, b1 = piece.rect
        sums = []
        for direction_, start, end in ((a, a0, a1), (b, b0, b1)):
            u = (start + end) / 2 + (end - start) / 2 * nodes
            wave = np.cos(np.pi * u[:, None] / size[direction_] * grid[:, direction_])
            sums.append((wave * (weights * (end - start) / 2)[:, None]).T @ wave)
        edge = np.where(side, (-1.0) ** grid[:, axis], 1.0) * scale
        beta = np.interp(pair_hz, table_hz, piece.material.admittance(table_hz, air=room.air).real)
        damping += piece.sign * beta * sums[0] * sums[1] * np.outer(edge, edge)
    damping *= c / room.volume_m3
    body = c * at_frequencies(room.furniture_area_m2 / (4 * room.volume_m3), np.maximum(f_hz, 20.0))
    return damping + np.diag(body)


def _images(
    room: Box, arrangement: Arrangement, f_hz: FloatArray, n: int, t60_s: FloatArray, rng: np.random.Generator
) -> tuple[ComplexArray, ComplexArray]:
    """Spectra of direct sound with images, and of the tail that takes over from them."""
    size, c = np.asarray(room.size_m), room.air.speed_m_s
    source, mic = np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at)
    reach = np.ceil(c * _IMAGES_TO_S / size).astype(int) + 1
    cells = np.stack(np.meshgrid(*(np.arange(-r, r + 1) for r in reach), indexing="ij"), -1).reshape(-1, 3)
    position = np.where(cells % 2 == 0, cells * size + source, (cells + 1) * size - source)
    away = position - mic
    distance = np.linalg.norm(away, axis=1)
    near = distance < c * _IMAGES_TO_S
    cells, away, distance = cells[near], away[near], distance[near]
    order = np.abs(cells).sum(axis=1)
    unit = away / distance[:, None]
    leaving = -unit * (1 - 2 * (cells % 2))
    gain = arrangement.performer.source.gain(leaving @ direction(arrangement.performer.faces_deg))
    microphone = arrangement.microphone
    gain = (
        gain * np.abs(microphone.a + (1 - microphone.a) * (unit @ direction(microphone.aims_deg, microphone.tilt_deg)))[:, None]
    )
    energy = np.ones((len(cells), 8))
    for axis in range(3):
        count = np.abs(cells[:, axis])
        first, second = (count + 1) // 2, count // 2
        low_side = np.where(cells[:, axis] < 0, first, second)[:, None]
        high_side = np.where(cells[:, axis] < 0, second, first)[:, None]
        energy *= (1 - np.minimum(room.face_absorption[2 * axis], 0.99)) ** low_side
        energy *= (1 - np.minimum(room.face_absorption[2 * axis + 1], 0.99)) ** high_side
    loss = room.air.energy_loss_per_m + room.furniture_area_m2 / (4 * room.volume_m3)
    energy = _first_bounces(room, cells, mic, away, energy)
    amplitude = gain * np.sqrt(energy * np.exp(-loss * distance[:, None])) / distance[:, None]
    # Uneven walls and furniture break up what a perfect box would return in step: later images scatter in time.
    delay = distance / c + np.where(order > 2, rng.normal(0, 2.0e-4, len(order)), 0.0)
    fade = np.clip((_IMAGES_TO_S - delay) / (_IMAGES_TO_S - _FADE_FROM_S), 0, 1)
    amplitude = amplitude * np.sin(0.5 * np.pi * fade)[:, None]
    slot = np.clip(np.round(delay * SAMPLE_RATE_HZ * _OVERSAMPLING).astype(int), 0, None)
    weight = _octave_weights(f_hz)
    high = np.zeros(len(f_hz), dtype=complex)
    tail = np.zeros(len(f_hz), dtype=complex)
    time_s = np.arange(n) / SAMPLE_RATE_HZ
    rise = np.sin(0.5 * np.pi * np.clip((time_s - _FADE_FROM_S) / (_IMAGES_TO_S - _FADE_FROM_S), 0, 1))
    carrier = rng.standard_normal(n) * rise  # one noise for all bands: between two centres amplitudes then interpolate
    window = (delay > 0.03) & (delay < _FADE_FROM_S)
    for band in range(8):
        train = np.bincount(slot, weights=amplitude[:, band], minlength=n * _OVERSAMPLING)[: n * _OVERSAMPLING]
        high += weight[band] * np.fft.rfft(train)[: len(f_hz)]
        density = np.sum(amplitude[window, band] ** 2) / (_FADE_FROM_S - 0.03)  # energy per second near 35 ms
        rate = 6.91 / t60_s[band]
        noise = carrier * np.sqrt(density / SAMPLE_RATE_HZ) * np.exp(-rate * (time_s - 0.035))
        tail += weight[band] * np.fft.rfft(noise)
    return high, tail


def _first_bounces(room: Box, cells: FloatArray, mic: FloatArray, away: FloatArray, energy: FloatArray) -> FloatArray:
    """First-order images reflect from what they hit: coverage of the Fresnel zone by quadrature on a square grid."""
    wavelength = room.air.speed_m_s / exact_octaves_hz()
    axis_1d = np.linspace(-1, 1, 21)
    disc = np.array([(x, y) for x in axis_1d for y in axis_1d if x * x + y * y <= 1])
    for i in np.flatnonzero(np.abs(cells).sum(axis=1) == 1):
        axis = int(np.flatnonzero(cells[i])[0])
        face = 2 * axis + int(cells[i, axis] > 0)
        wall = room.size_m[axis] if cells[i, axis] > 0 else 0.0
        share = (wall - mic[axis]) / away[i, axis]
        hit, total = mic + share * away[i], float(np.linalg.norm(away[i]))
        a, b = tangential(face)
        for band in range(8):
            radius = np.sqrt(wavelength[band] * share * (1 - share) * total)
            spots = hit[[a, b]] + radius * disc  # a circle of equal area would do: panels are larger than the tilt
            alpha = np.full(len(spots), room.faces[face].absorption[band])
            for overlay in (o for o in room.overlays if o.face == face):
                a0, a1, b0, b1 = overlay.rect
                inside = (spots[:, 0] > a0) & (spots[:, 0] < a1) & (spots[:, 1] > b0) & (spots[:, 1] < b1)
                alpha[inside] = overlay.material.absorption[band]
            energy[i, band] = float(np.mean(1 - np.minimum(alpha, 1.0)))
    return energy


def _octave_weights(f_hz: FloatArray) -> FloatArray:
    """Tent weights over log frequency that sum to 1, (8, n_f)."""
    return at_frequencies(np.eye(8), np.maximum(f_hz, 1.0))
