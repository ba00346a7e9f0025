"""The rig's impulse response: modes below the crossover, images above it, a diffuse tail after them.

Written apart from the predictions it tests: damping by quadrature over the walls and a full quadratic eigenproblem,
images summed in time with every wall's own octaves, a noise tail. What both share is the room and its material tables.
In rooms
that are no box the rig has no rigid modes and no image search of its own: it takes the core's (they are tested against
independent engines) and does its own damping, timing and tail.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import at_frequencies, exact_octaves_hz
from keenquiet.core.judge.forecast import SUPPORT, low_end_top_hz
from keenquiet.core.room.room import Arrangement, Room, direction
from keenquiet.core.types import ComplexArray, FloatArray, IntArray
from keenquiet.core.waves.paths import direct_gain, reflected_paths
from keenquiet.core.waves.rigid import rigid_modes

SAMPLE_RATE_HZ: Final = 48_000
_CROSSOVER_HZ: Final = (210.0, 290.0)
_MODES_TO_HZ: Final = 400.0
_STATIC_TO_HZ: Final = 1800.0
_SECONDS: Final = 2.0
_IMAGES_TO_S: Final = 0.060
_FADE_FROM_S: Final = 0.040
_FADE_OPEN_S: Final = (0.006, 0.030)  # a room without a list of late images hands over to its diffuse field this early
_OVERSAMPLING: Final = 8
_INFRASOUND_HZ: Final = 10.0


@dataclass(frozen=True)
class RigResponse:
    """impulse (n,) at SAMPLE_RATE_HZ: pressure relative to the free field at 1 m; true tail decay by octave (8,)
    [s].
    """

    impulse: FloatArray
    t60_s: FloatArray


def rig_impulse(room: Room, arrangement: Arrangement, *, seed: int) -> RigResponse:
    """Response from performer to microphone in this room (pass the true room)."""
    n = int(_SECONDS * SAMPLE_RATE_HZ)
    f_hz = np.asarray(np.fft.rfftfreq(n, 1 / SAMPLE_RATE_HZ), dtype=float)
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


def _eyring_s(room: Room) -> FloatArray:
    surface = room.face_areas_m2.sum()
    alpha = (room.face_areas_m2 @ room.face_absorption + room.furniture_area_m2) / surface
    air = 4 * room.air.energy_loss_per_m * room.volume_m3
    t60: FloatArray = (
        55.26 / room.air.speed_m_s * room.volume_m3 / (-surface * np.log(1 - np.minimum(alpha, 0.98)) + air)
    )
    return t60


def _modal(room: Room, arrangement: Arrangement, f_hz: FloatArray) -> ComplexArray:
    """Modal pressure at f_hz: a'' + C a' + W^2 a = drive, C from admittance integrated numerically over the walls."""
    c, volume = room.air.speed_m_s, room.volume_m3
    if room.shape.box_size_m is None:
        rigid = rigid_modes(room.shape, f_max_hz=SUPPORT * low_end_top_hz(room.shape), speed_m_s=c)
        at = [rigid.values(np.asarray(place)) for place in (arrangement.performer.at, arrangement.microphone.at)]
        k_low, source, mic = 2 * np.pi * rigid.f_hz / c, at[0], at[1]
        damping = _damping_matrix(room, rigid.values, rigid.f_hz)
        # the constant mode and what lies beyond, as the core has them: both vary slowly
        rest = rigid.rest(
            np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at), 2 * np.pi * f_hz / c
        )
        loss = float(room.face_areas_m2 @ room.face_absorption[:, 0] + room.furniture_area_m2[0]) * c / (4 * volume)
        omega = 2 * np.pi * f_hz
        driven = _driven(k_low * c, damping, source, mic, f_hz) * c**2
        return np.asarray(4 * np.pi / volume * (driven + c**2 / (1j * omega * loss - omega**2) + rest), dtype=complex)
    size = np.asarray(room.shape.box_size_m)
    most = [int(2 * side * _STATIC_TO_HZ / c) + 1 for side in size]
    grid = np.stack(np.meshgrid(*map(np.arange, most), indexing="ij"), -1).reshape(-1, 3)
    k = np.pi * np.linalg.norm(grid / size, axis=1)
    grid, k = grid[k * c < 2 * np.pi * _STATIC_TO_HZ], k[k * c < 2 * np.pi * _STATIC_TO_HZ]
    scale = np.sqrt(2.0) ** (grid > 0).sum(axis=1)

    def shapes(points: FloatArray, chosen: IntArray) -> FloatArray:
        return np.prod(np.cos(np.pi * points[..., None, :] / size * grid[chosen]), axis=-1) * scale[chosen]

    everything = np.arange(len(k))
    source, mic = (shapes(np.asarray(at), everything) for at in (arrangement.performer.at, arrangement.microphone.at))
    low = np.flatnonzero(k * c <= 2 * np.pi * _MODES_TO_HZ)
    damping = _damping_matrix(room, lambda points: shapes(points, low), k[low] * c / (2 * np.pi))
    pressure = _driven(k[low] * c, damping, source[low], mic[low], f_hz) * c**2
    rest = np.setdiff1d(everything, low)
    soft_end = 0.5 + 0.5 * np.cos(np.pi * np.clip((k[rest] * c / (2 * np.pi * _STATIC_TO_HZ) - 0.4) / 0.6, 0, 1))
    pressure += c**2 * np.sum(
        soft_end * (source * mic)[rest] / ((k[rest] * c) ** 2 - (2 * np.pi * f_hz[:, None]) ** 2), axis=1
    )
    return 4 * np.pi / volume * pressure


def _driven(
    omega: FloatArray, damping: FloatArray, source: FloatArray, mic: FloatArray, f_hz: FloatArray
) -> ComplexArray:
    """Response of coupled damped oscillators by their poles, (n_f,)."""
    n = len(omega)
    companion = np.block([[np.zeros((n, n)), np.eye(n)], [-np.diag(omega**2), -damping]])
    poles, right = np.linalg.eig(companion)
    drive = np.linalg.solve(right, np.concatenate([np.zeros(n), source]).astype(complex))
    return (1 / ((2j * np.pi * f_hz)[:, None] - poles)) @ ((mic @ right[:n]) * drive)


def _damping_matrix(room: Room, shapes: Callable[[FloatArray], FloatArray], f_hz: FloatArray) -> FloatArray:
    nodes, weights = np.polynomial.legendre.leggauss(24)
    damping = np.zeros((len(f_hz), len(f_hz)))
    pair_hz = np.sqrt(np.maximum(np.outer(f_hz, f_hz), 20.0**2))
    table_hz = np.geomspace(15.0, _MODES_TO_HZ * 1.05, 80)
    for piece in room.pieces:
        face = room.faces[piece.face]
        u0, u1, v0, v1 = face.extent if piece.rect is None else piece.rect
        u, v = (u0 + u1) / 2 + (u1 - u0) / 2 * nodes, (v0 + v1) / 2 + (v1 - v0) / 2 * nodes
        spots = np.stack(np.meshgrid(u, v, indexing="ij"), axis=-1).reshape(-1, 2)
        area = np.outer(weights * (u1 - u0) / 2, weights * (v1 - v0) / 2).ravel()
        if piece.rect is None and len(face.outline) != 4:  # a gable or an L: only what lies on it
            on = face.covers(spots)
            spots, area = spots[on], area[on] * face.area_m2 / area[on].sum()
        psi = shapes(face.to_space(spots))
        beta = np.interp(pair_hz, table_hz, piece.material.admittance(table_hz, air=room.air).real)
        damping += piece.sign * beta * (psi.T @ (area[:, None] * psi))
    damping *= room.air.speed_m_s / room.volume_m3
    body = room.air.speed_m_s * at_frequencies(room.furniture_area_m2 / (4 * room.volume_m3), np.maximum(f_hz, 20.0))
    return damping + np.diag(body)


def _images(
    room: Room, arrangement: Arrangement, f_hz: FloatArray, n: int, t60_s: FloatArray, rng: np.random.Generator
) -> tuple[ComplexArray, ComplexArray]:
    """Spectra of direct sound with images, and of the tail that takes over from them."""
    if room.shape.box_size_m is None:
        delay, amplitude, order = _listed(room, arrangement)
        fade_from, fade_to = _FADE_OPEN_S
    else:
        delay, amplitude, order = _box_images(room, arrangement)
        fade_from, fade_to = _FADE_FROM_S, _IMAGES_TO_S
    # Uneven walls and furniture break up what a perfect box would return in step: later images scatter in time.
    delay = delay + np.where(order > 2, rng.normal(0, 2.0e-4, len(order)), 0.0)
    fade = np.clip((fade_to - delay) / (fade_to - fade_from), 0, 1) if room.shape.box_size_m else np.ones(len(delay))
    amplitude = amplitude * np.sin(0.5 * np.pi * fade)[:, None]
    slot = np.clip(np.round(delay * SAMPLE_RATE_HZ * _OVERSAMPLING).astype(int), 0, None)
    weight = _octave_weights(f_hz)
    high = np.zeros(len(f_hz), dtype=complex)
    tail = np.zeros(len(f_hz), dtype=complex)
    time_s = np.arange(n) / SAMPLE_RATE_HZ
    rise = np.sin(0.5 * np.pi * np.clip((time_s - fade_from) / (fade_to - fade_from), 0, 1))
    carrier = rng.standard_normal(n) * rise  # one noise for all bands: between two centres amplitudes then interpolate
    window = (delay > 0.03) & (delay < _FADE_FROM_S)
    for band in range(8):
        train = np.bincount(slot, weights=amplitude[:, band], minlength=n * _OVERSAMPLING)[: n * _OVERSAMPLING]
        high += weight[band] * np.fft.rfft(train)[: len(f_hz)]
        rate = 6.91 / t60_s[band]
        if room.shape.box_size_m is None:
            density, since = _diffuse_density(room, arrangement, band), 0.0
        else:
            density, since = (
                np.sum(amplitude[window, band] ** 2) / (_FADE_FROM_S - 0.03),
                0.035,
            )  # energy per second near 35 ms
        noise = carrier * np.sqrt(density / SAMPLE_RATE_HZ) * np.exp(-rate * (time_s - since))
        tail += weight[band] * np.fft.rfft(noise)
    return high, tail


def _listed(room: Room, arrangement: Arrangement) -> tuple[FloatArray, FloatArray, IntArray]:
    """Direct sound and second-order paths of a room that is no box: delay (n,) [s], amplitude by octave (n, 8), order
    (n,).
    """
    c = room.air.speed_m_s
    distance = float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))
    towards = np.subtract(arrangement.performer.at, arrangement.microphone.at) / distance
    direct = np.sqrt(direct_gain(arrangement, towards)) / distance
    paths = reflected_paths(room, arrangement)
    amplitude = np.concatenate([direct[None], direct * np.sqrt(paths.energy)])
    order = np.concatenate([[0], 1 + (paths.faces[:, 1] >= 0)])
    return np.concatenate([[distance / c], paths.delay_s + distance / c]), amplitude, order


def _diffuse_density(room: Room, arrangement: Arrangement, band: int) -> float:
    """Energy per second of a diffuse field at its start, against the direct sound at 1 m: 4 pi c / V. [1/s]

    Source: energy W t / V spread over the room (H. Kuttruff, Room Acoustics, chapter 5), free field W / (4 pi c) at 1
    m.
    """
    q = 10 ** (arrangement.performer.source.directivity_index_db[band] / 10)
    a = arrangement.microphone.a
    return float(4 * np.pi * room.air.speed_m_s / room.volume_m3 * (a**2 + (1 - a) ** 2 / 3) / q)


def _box_images(room: Room, arrangement: Arrangement) -> tuple[FloatArray, FloatArray, IntArray]:
    """Direct sound and images of a box: delay (n,) [s], amplitude by octave (n, 8), order (n,)."""
    size, c = np.asarray(room.shape.bounds_m), room.air.speed_m_s
    source, mic = np.asarray(arrangement.performer.at), np.asarray(arrangement.microphone.at)
    reach = np.ceil(c * _IMAGES_TO_S / size).astype(int) + 1
    cells = np.stack(np.meshgrid(*(np.arange(-r, r + 1) for r in reach), indexing="ij"), -1).reshape(-1, 3)
    position = np.where(cells % 2 == 0, cells * size + source, (cells + 1) * size - source)
    away = position - mic
    distance = np.linalg.norm(away, axis=1)
    near = distance < c * _IMAGES_TO_S
    cells, away, distance = cells[near], away[near], distance[near]
    unit = away / distance[:, None]
    leaving = -unit * (1 - 2 * (cells % 2))
    microphone = arrangement.microphone
    gain = arrangement.performer.source.gain(leaving @ direction(arrangement.performer.faces_deg))
    gain = (
        gain
        * np.abs(microphone.a + (1 - microphone.a) * (unit @ direction(microphone.aims_deg, microphone.tilt_deg)))[
            :, None
        ]
    )
    energy = np.ones((len(cells), 8))
    for axis in range(3):
        count = np.abs(cells[:, axis])
        first, second = (count + 1) // 2, count // 2
        for far, hits in (
            (False, np.where(cells[:, axis] < 0, first, second)),
            (True, np.where(cells[:, axis] < 0, second, first)),
        ):
            energy *= (1 - np.minimum(room.face_absorption[_wall_at(room, axis, far)], 0.99)) ** hits[:, None]
    loss = room.air.energy_loss_per_m + room.furniture_area_m2 / (4 * room.volume_m3)
    energy = _first_bounces(room, cells, mic, away, energy)
    amplitude = gain * np.sqrt(energy * np.exp(-loss * distance[:, None])) / distance[:, None]
    return distance / c, amplitude, np.abs(cells).sum(axis=1)


def _wall_at(room: Room, axis: int, far: bool) -> int:
    """Number of the face square to an axis at its near or far end."""
    return next(
        i for i, face in enumerate(room.faces) if abs(face.normal[axis]) > 0.5 and (face.normal[axis] < 0) == far
    )


def _first_bounces(room: Room, cells: FloatArray, mic: FloatArray, away: FloatArray, energy: FloatArray) -> FloatArray:
    """First-order images reflect from what they hit: coverage of the Fresnel zone by quadrature on a square grid."""
    wavelength = room.air.speed_m_s / exact_octaves_hz()
    axis_1d = np.linspace(-1, 1, 21)
    disc = np.array([(x, y) for x in axis_1d for y in axis_1d if x * x + y * y <= 1])
    for i in np.flatnonzero(np.abs(cells).sum(axis=1) == 1):
        axis = int(np.flatnonzero(cells[i])[0])
        face = _wall_at(room, axis, bool(cells[i, axis] > 0))
        plane, wall = room.faces[face], room.shape.bounds_m[axis] if cells[i, axis] > 0 else 0.0
        share = (wall - mic[axis]) / away[i, axis]
        hit, total = mic + share * away[i], float(np.linalg.norm(away[i]))
        for band in range(8):
            radius = np.sqrt(wavelength[band] * share * (1 - share) * total)
            spots = (
                plane.to_flat(hit) + radius * disc
            )  # a circle of equal area would do: panels are larger than the tilt
            alpha = np.full(len(spots), room.materials[face].absorption[band])
            for overlay in (o for o in room.overlays if o.face == face):
                u0, u1, v0, v1 = overlay.rect
                inside = (spots[:, 0] > u0) & (spots[:, 0] < u1) & (spots[:, 1] > v0) & (spots[:, 1] < v1)
                alpha[inside] = overlay.material.absorption[band]
            energy[i, band] = float(np.mean(1 - np.minimum(alpha, 1.0)))
    return energy


def _octave_weights(f_hz: FloatArray) -> FloatArray:
    """Tent weights over log frequency that sum to 1, (8, n_f)."""
    return at_frequencies(np.eye(8), np.maximum(f_hz, 1.0))
