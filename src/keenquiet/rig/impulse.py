"""The rig's impulse response: modes below the crossover, mirrored ways and rays above it.

Solved apart from the predictions it tests. Low end of a box: damping by quadrature over the walls and a full quadratic
eigenproblem; of any other room: finite differences in time (`grid.py`). Above: ways found by rays (`mirrors.py`) with
furniture standing in them, and what is scattered or mirrored often followed ray by ray (`rays.py`), so that decay comes
from no formula. What both share is the drawing, the material tables and the directivities.
"""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import at_frequencies
from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Arrangement, Rect, Room
from keenquiet.core.things.materials import Material
from keenquiet.core.types import ComplexArray, FloatArray, IntArray
from keenquiet.rig.grid import grid_response
from keenquiet.rig.mirrors import Arrivals, mirrored_arrivals
from keenquiet.rig.rays import STEP_S, scattered_field
from keenquiet.rig.scene import Scene

SAMPLE_RATE_HZ: Final = 48_000
_CROSSOVER_HZ: Final = (210.0, 290.0)
_MODES_TO_HZ: Final = 400.0
_STATIC_TO_HZ: Final = 1800.0
_SECONDS: Final = 2.0
_ENDS_S: Final = (1.75, 1.85)
_OVERSAMPLING: Final = 8
_INFRASOUND_HZ: Final = 10.0


@dataclass(frozen=True)
class RigResponse:
    """impulse (n,) at SAMPLE_RATE_HZ: pressure relative to the free field at 1 m; decay of the room's whole
    energy by octave (8,) [s].
    """

    impulse: FloatArray
    t60_s: FloatArray


def rig_impulse(room: Room, arrangement: Arrangement, *, seed: int) -> RigResponse:
    """Response from performer to microphone in this room (pass the true room); a place is worked out once."""
    key = (_fingerprint(room), arrangement.performer, arrangement.microphone, seed)
    return _kept.find(key, lambda: _made(room, arrangement, seed))


_kept: Final[Kept[Hashable, RigResponse]] = Kept(most_bytes=30_000_000, most=24)


# a loudspeaker in the performer's place: the same low end
_low_kept: Final[Kept[Hashable, ComplexArray]] = Kept(most_bytes=2_000_000, most=24)


def _fingerprint(room: Room) -> Hashable:
    """All of a room that its response hangs on: two rooms of the same are the same, whoever made them."""
    surfaces: list[tuple[int, Rect | None, Material]] = [(n, None, made_of) for n, made_of in enumerate(room.materials)]
    surfaces += [(overlay.face, overlay.rect, overlay.material) for overlay in room.overlays]
    swallowed = tuple(
        (face, rect, material.key, material.absorption.tobytes(), material.scattering.tobytes())
        for face, rect, material in surfaces
    )
    return (room.shape, room.air, room.furnishings, swallowed)


def _made(room: Room, arrangement: Arrangement, seed: int) -> RigResponse:
    n = int(_SECONDS * SAMPLE_RATE_HZ)
    f_hz = np.asarray(np.fft.rfftfreq(n, 1 / SAMPLE_RATE_HZ), dtype=float)
    rng, scene = np.random.default_rng(seed), Scene(room)
    field = scattered_field(scene, arrangement, seconds=_SECONDS, rng=rng)
    high = _arrivals(mirrored_arrivals(scene, arrangement, rng), f_hz, n, rng) + _diffuse(field.energy, f_hz, n, rng)
    low = np.zeros(len(f_hz), dtype=complex)
    below = f_hz < _CROSSOVER_HZ[1]
    low[below] = _modal(room, arrangement, np.maximum(f_hz[below], 1.0))
    part = np.clip((f_hz - _CROSSOVER_HZ[0]) / (_CROSSOVER_HZ[1] - _CROSSOVER_HZ[0]), 0, 1)
    to_high = np.sin(0.5 * np.pi * part) ** 2
    s = 1j * f_hz / _INFRASOUND_HZ
    infrasound = s**2 / (s**2 + np.sqrt(2) * s + 1)  # no transducer passes the constant pressure of a sealed room
    impulse = np.fft.irfft((low * (1 - to_high) + high * to_high) * infrasound, n)
    # what rings before the direct sound comes round to the end: a voice would be heard again two seconds later
    ends = np.clip((_ENDS_S[1] * SAMPLE_RATE_HZ - np.arange(n)) / ((_ENDS_S[1] - _ENDS_S[0]) * SAMPLE_RATE_HZ), 0, 1)
    return RigResponse(impulse * ends, _decay_s(field.everything))


def _modal(room: Room, arrangement: Arrangement, f_hz: FloatArray) -> ComplexArray:
    """Modal pressure at f_hz: a'' + C a' + W^2 a = drive, C from admittance integrated numerically over the walls."""
    c, volume = room.air.speed_m_s, room.volume_m3
    if room.shape.box_size_m is None:
        ends = (arrangement.performer.at, arrangement.microphone.at)
        source, mic = (np.asarray(place, dtype=float) for place in ends)
        return _low_kept.find((_fingerprint(room), len(f_hz), *ends), lambda: grid_response(room, source, mic, f_hz))
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


def _arrivals(arrivals: Arrivals, f_hz: FloatArray, n: int, rng: np.random.Generator) -> ComplexArray:
    """Spectrum of the direct sound and the mirrored ways."""
    # uneven walls break up what a perfect mirror would return in step
    delay = arrivals.delay_s + np.where(arrivals.order > 2, rng.normal(0, 2.0e-4, len(arrivals.order)), 0.0)
    slot = np.clip(np.round(delay * SAMPLE_RATE_HZ * _OVERSAMPLING).astype(int), 0, None)
    high = np.zeros(len(f_hz), dtype=complex)
    for band, weight in enumerate(_octave_weights(f_hz)):
        train = np.bincount(slot, weights=arrivals.amplitude[:, band], minlength=n * _OVERSAMPLING)
        high += weight * np.fft.rfft(train[: n * _OVERSAMPLING])[: len(f_hz)]
    return high


def _diffuse(energy: FloatArray, f_hz: FloatArray, n: int, rng: np.random.Generator) -> ComplexArray:
    """Spectrum of a noise whose energy over time (n_steps, 8) is what rays have brought."""
    # one noise for all bands: between two centres amplitudes then interpolate
    carrier = rng.standard_normal(n)
    per_step = round(STEP_S * SAMPLE_RATE_HZ)
    tail = np.zeros(len(f_hz), dtype=complex)
    for band, weight in enumerate(_octave_weights(f_hz)):
        density = np.repeat(_evened(energy[:, band]) / STEP_S, per_step)[:n]
        noise = carrier * np.sqrt(np.pad(density, (0, n - len(density))) / SAMPLE_RATE_HZ)
        tail += weight * np.fft.rfft(noise)
    return tail


def _evened(energy: FloatArray) -> FloatArray:
    """Energy by step with less of the rays' chance: averaged over longer stretches the later it is."""
    total = np.concatenate([[0.0], np.cumsum(energy)])
    step = np.arange(len(energy))
    half = np.clip(step // 40, 0, 12)
    first, last = np.maximum(step - half, 0), np.minimum(step + half + 1, len(energy))
    evened: FloatArray = (total[last] - total[first]) / (last - first)
    return evened


def _decay_s(everything: FloatArray) -> FloatArray:
    """Decay time of what the room holds, by octave: from -5 to -25 dB of its backward integral, (8,). [s]"""
    left = np.cumsum(everything[::-1], axis=0)[::-1]
    level = 10 * np.log10(np.maximum(left / left[0], 1e-12))
    first, last = (np.argmax(level < edge, axis=0) for edge in (-5.0, -25.0))
    return np.asarray(3 * STEP_S * np.maximum(last - first, 1), dtype=float)


def _octave_weights(f_hz: FloatArray) -> FloatArray:
    """Tent weights over log frequency that sum to 1, (8, n_f)."""
    return at_frequencies(np.eye(8), np.maximum(f_hz, 1.0))
