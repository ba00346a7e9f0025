"""An impulse response made of a forecast: what a microphone would hear of a click where the performer stands.

Direct sound and reflections to second order by octave, then noise that fades by octave with the energy and the decay
time that the forecast gives to what comes later; below the crossover the modal sum. It is the forecast made audible,
not a further opinion: read like a measurement it gives the forecast's decay and direct over room back (tests).

Not in it: what moves, the performer's own hearing, and how late sound comes from different sides.
"""

from collections.abc import Iterator
from typing import Final

import numpy as np

from keenquiet.core.bands import N_OCTAVES, exact_octaves_hz
from keenquiet.core.judge.forecast import Forecast, low_end_top_hz
from keenquiet.core.things.microphone import near_field_gain, random_energy_efficiency
from keenquiet.core.types import ComplexArray, FloatArray
from keenquiet.core.waves.direct_part import DIRECT_WINDOW_S
from keenquiet.core.waves.response import point
from keenquiet.core.waves.reverberant import mean_free_path_m, room_sound

RATE_HZ: Final = 48_000
_BEFORE_S: Final = 0.005  # silence before the click, so that filters have room
_LEAST_S, _MOST_S = 0.4, 4.0
_CROSSOVER: Final = (0.65, 0.9)  # of the top to which modes are followed
_INFRASOUND_HZ: Final = 30.0
_SEED: Final = 3
_TOGETHER_S: Final = 0.0003
_EDGE_OCTAVES: Final = 0.12  # to either side of an octave's edge one passes into the next


def impulse_of(result: Forecast, *, seed: int = _SEED) -> FloatArray:
    """Pressure over the free field at 1 m on the axis, (n,) at RATE_HZ, the direct sound 5 ms in."""
    longest = float(np.max(result.decay.middle_s[1:]))
    n = int(min(max(1.6 * longest + 0.1, _LEAST_S), _MOST_S) * RATE_HZ)
    n += n % 2
    f_hz = np.asarray(np.fft.rfftfreq(n, 1 / RATE_HZ), dtype=float)
    spectrum = _above(result, f_hz, n, np.random.default_rng(seed))
    top_hz = low_end_top_hz(result.room.shape)
    low, high = (share * top_hz for share in _CROSSOVER)
    below = (f_hz > 0) & (f_hz < high)
    part = np.sin(0.5 * np.pi * np.clip((f_hz[below] - low) / (high - low), 0, 1)) ** 2
    spectrum[below] = part * spectrum[below] + (1 - part) * _modal(result, f_hz[below])
    shifted = (
        spectrum
        * _no_infrasound(f_hz)
        * np.exp(-2j * np.pi * f_hz * (_BEFORE_S - _away_m(result) / result.room.air.speed_m_s))
    )
    impulse: FloatArray = np.fft.irfft(shifted, n)
    return impulse


def outdoors(result: Forecast) -> FloatArray:
    """The same performer and microphone with nothing round them: the direct sound alone."""
    n = int(_LEAST_S * RATE_HZ)
    f_hz = np.asarray(np.fft.rfftfreq(n, 1 / RATE_HZ), dtype=float)
    direct = _direct(result, np.maximum(f_hz, 1.0)) * np.exp(-2j * np.pi * f_hz * _BEFORE_S)
    return np.asarray(np.fft.irfft(direct * _no_infrasound(f_hz), n), dtype=float)


def _no_infrasound(f_hz: FloatArray) -> ComplexArray:
    """What no recording keeps: a pattern's lift would grow without bound towards 0 Hz."""
    s = 1j * f_hz / _INFRASOUND_HZ
    kept: ComplexArray = s**2 / (s**2 + np.sqrt(2) * s + 1)
    return kept


def _away_m(result: Forecast) -> float:
    return float(np.linalg.norm(np.subtract(result.arrangement.performer.at, result.arrangement.microphone.at)))


def _direct(result: Forecast, f_hz: FloatArray) -> ComplexArray:
    """The direct sound without its way, the bass lift of the pattern in it, (n_f,)."""
    mic, away = result.arrangement.microphone, _away_m(result)
    cosine = float(np.cos(np.deg2rad(result.touch.off_axis_deg)))
    gain = near_field_gain(mic.a, cosine, distance_m=away, f_hz=f_hz, speed_m_s=result.room.air.speed_m_s)
    return np.asarray(np.abs(gain) / away, dtype=complex)


def _above(result: Forecast, f_hz: FloatArray, n: int, rng: np.random.Generator) -> ComplexArray:
    """Direct sound, early paths and the fading rest, (n_f,)."""
    away, speed = _away_m(result), result.room.air.speed_m_s
    direct = _direct(result, np.maximum(f_hz, 1.0))
    level = np.abs(direct)  # everything else is told relative to the direct sound far from any bass lift
    far = float(level[np.searchsorted(f_hz, 1000.0)])
    straight = away / speed
    spectrum = direct * np.exp(-2j * np.pi * f_hz * straight)
    shares = _octave_shares(f_hz)
    for energy, delay in _arrivals(result.paths.energy, result.paths.delay_s):
        gain = far * np.sqrt(np.maximum(energy, 0.0) @ shares)
        spectrum += gain * np.exp(-2j * np.pi * f_hz * (straight + delay))
    sound = room_sound(result.room, result.arrangement, paths=result.paths, decay=result.decay)
    start = straight + 2 * mean_free_path_m(result.room) / speed
    return spectrum + _fading(sound.late * far**2, result.decay.middle_s, start, f_hz, n, rng)


def _arrivals(energy: FloatArray, delay_s: FloatArray) -> Iterator[tuple[FloatArray, float]]:
    """Paths one by one; those that arrive together as one with the energy of all, as the forecast adds them: no room
    is so even that their waves would add. What fuses with the direct sound adds to it wave by wave.
    """
    fused = delay_s <= DIRECT_WINDOW_S
    yield from ((energy[i], float(delay_s[i])) for i in np.flatnonzero(fused))
    energy, delay_s = energy[~fused], delay_s[~fused]
    order = np.argsort(delay_s)
    starts = np.flatnonzero(np.diff(delay_s[order], prepend=-1.0) > _TOGETHER_S)
    for group in np.split(order, starts[1:]):
        total = energy[group].sum(axis=0)
        weight = energy[group].mean(axis=1)
        if np.any(weight > 0):
            yield total, float(np.average(delay_s[group], weights=weight))


def _fading(
    energy: FloatArray, t60_s: FloatArray, start_s: float, f_hz: FloatArray, n: int, rng: np.random.Generator
) -> ComplexArray:
    """Noise that fades by octave from a start on, each octave with so much energy for each Hz of a click, (n_f,)."""
    since = np.arange(n) / RATE_HZ - start_s
    spectrum = np.zeros(len(f_hz), dtype=complex)
    for band, share in enumerate(_octave_shares(f_hz)):
        shape = np.sqrt(share)
        fade = np.where(since >= 0, 10 ** (-3 * np.maximum(since, 0) / t60_s[band]), 0.0)
        # noise of its own for each octave: where two overlap their powers add
        faded = np.fft.irfft(np.fft.rfft(rng.standard_normal(n)) * shape, n) * fade
        its = np.fft.rfft(faded)
        # by what this draw has in its octave: a short tail has few independent values
        spectrum += its * np.sqrt(energy[band] / max(float(np.mean(np.abs(its[share > 0.5]) ** 2)), 1e-20))
    return spectrum


def _octave_shares(f_hz: FloatArray) -> FloatArray:
    """How far each frequency belongs to each octave, with soft edges, adding up to 1, (8, n_f). [-]"""
    place = np.log2(np.maximum(f_hz, 1.0) / exact_octaves_hz()[0])
    edges = np.arange(N_OCTAVES - 1) + 0.5
    above = np.clip((place - edges[:, None]) / (2 * _EDGE_OCTAVES) + 0.5, 0, 1)  # (7, n_f)
    rising = np.vstack([np.ones(len(f_hz)), above])
    shares: FloatArray = rising - np.vstack([above, np.zeros(len(f_hz))])
    return shares


def _modal(result: Forecast, f_hz: FloatArray) -> ComplexArray:
    """The low end by the modal sum; what is not direct sound is gathered as the pattern gathers it, (n_f,)."""
    arrangement, speed = result.arrangement, result.room.air.speed_m_s
    source, mic = point(arrangement.performer.at), point(arrangement.microphone.at)
    away = _away_m(result)
    way = np.exp(-2j * np.pi * f_hz * away / speed)
    every = result.acoustics.transfer.response(source, mic, f_hz)
    room = every - way / away
    gathered = np.sqrt(random_energy_efficiency(arrangement.microphone.a))
    modal: ComplexArray = _direct(result, f_hz) * way + gathered * room
    return modal
