"""Ringing notes: decaying sinusoids below 300 Hz, by a matrix pencil in narrow bands."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.decay import onset_index
from keenquiet.core.types import ComplexArray, FloatArray

_LOW_HZ: Final = 25.0
_HIGH_HZ: Final = 300.0
_BAND_HZ: Final = 48.0  # analysed at once; neighbours overlap by half, each answers for its own middle
_ORDERS: Final = (8, 12, 16, 22)  # a note is real when it stays put while the model order grows
_SINGULAR_FLOOR: Final = 1e-3
_SAME_HZ: Final = 0.35
_SAME_DAMPING: Final = 0.15
_SKIP_S: Final = 0.015  # the direct sound and first echoes are not yet ringing
_LENGTH_S: Final = 1.2


@dataclass(frozen=True, slots=True)
class Note:
    """A decaying sinusoid: frequency, ring time, level at the direct sound relative to the strongest [dB]."""

    f_hz: float
    t60_s: float
    level_db: float


def ringing_notes(impulse: FloatArray, sample_rate_hz: float, *, most: int = 12, low_hz: float = _LOW_HZ) -> list[Note]:
    """Strongest decaying sinusoids between `low_hz` and 300 Hz, strongest first.

    impulse : (n,). Source: Y. Hua, T. Sarkar, IEEE Trans. ASSP 38 (1990) 814 (matrix pencil), run in 48 Hz bands
    after demodulation and decimation; poles must repeat at several model orders to count.
    """
    start = onset_index(impulse)
    part = impulse[start : start + int(_LENGTH_S * sample_rate_hz)]
    if len(part) < 0.2 * sample_rate_hz:
        return []
    found: list[Note] = []
    half = _BAND_HZ / 2
    n = 1 << (len(part) * 2 - 1).bit_length()
    spectrum = np.asarray(scipy.fft.rfft(part, n), dtype=complex)
    for centre in np.arange(low_hz + half / 2, _HIGH_HZ + half / 2, half):
        baseband, rate_hz = _demodulated(spectrum, n, len(part), sample_rate_hz, float(centre))
        for pole, amplitude in _matrix_pencil(baseband, int(_SKIP_S * rate_hz), rate_hz):
            f_hz = centre + np.angle(pole) * rate_hz / (2 * np.pi)
            damping = -np.log(max(abs(pole), 1e-9)) * rate_hz
            if abs(f_hz - centre) <= half / 2 and low_hz <= f_hz <= _HIGH_HZ and damping > 0:
                t60 = 3 * np.log(10) / damping
                if 0.05 < t60 < 10:
                    found.append(Note(float(f_hz), float(t60), 20 * float(np.log10(max(amplitude, 1e-30)))))
    found = _without_doubles(found)
    if not found:
        return []
    strongest = max(note.level_db for note in found)
    kept = [note for note in found if note.level_db > strongest - 40]
    kept.sort(key=lambda note: -note.level_db)
    return [Note(note.f_hz, note.t60_s, note.level_db - strongest) for note in kept[:most]]


def _demodulated(
    spectrum: ComplexArray, n: int, length: int, sample_rate_hz: float, centre_hz: float
) -> tuple[ComplexArray, float]:
    """The band around centre_hz shifted to 0 Hz and decimated, at about three bandwidths."""
    step = sample_rate_hz / n
    half = int(0.75 * _BAND_HZ / step)
    middle = round(centre_hz / step)
    k = np.arange(-half, half + 1)
    inside = (middle + k >= 0) & (middle + k < len(spectrum))
    band = np.where(inside, spectrum[np.clip(middle + k, 0, len(spectrum) - 1)], 0)
    # flat over the answered middle and beyond, cosine skirts outside
    skirt = np.clip((np.abs(k) / half - 0.6) / 0.4, 0, 1)
    band = band * np.cos(0.5 * np.pi * skirt) ** 2
    short = 1 << int(np.ceil(np.log2(3 * _BAND_HZ / step)))
    packed = np.zeros(short, dtype=complex)
    packed[k % short] = band
    rate_hz = short * step
    signal_: ComplexArray = np.fft.ifft(packed) * (2 * short / n)
    keep = int(length / sample_rate_hz * rate_hz)
    # the residual offset between centre_hz and the nearest bin
    turn = np.exp(-2j * np.pi * (centre_hz - middle * step) * np.arange(keep) / rate_hz)
    return signal_[:keep] * turn, rate_hz


def _matrix_pencil(samples: ComplexArray, skip: int, rate_hz: float) -> list[tuple[complex, float]]:
    """Poles and amplitudes at sample 0 of a sum of decaying exponentials, those that repeat over the model orders."""
    y = samples[skip:]
    n = len(y)
    if n < 24:
        return []
    pencil = n // 3
    hankel = scipy.linalg.hankel(y[: n - pencil], y[n - pencil - 1 :])
    # the right singular vectors come from the small Gram matrix: a third of the work of a full SVD
    power, vectors = np.linalg.eigh(hankel.conj().T @ hankel)
    usable = int(np.sum(power > (_SINGULAR_FLOOR**2) * power[-1]))
    by_order: list[ComplexArray] = []
    for order in sorted({min(order, usable) for order in _ORDERS}):
        v = vectors[:, : -order - 1 : -1].conj()
        poles = np.asarray(np.linalg.eigvals(np.linalg.lstsq(v[:-1], v[1:], rcond=None)[0]), dtype=complex)
        by_order.append(poles[(np.abs(poles) < 1) & (np.abs(poles) > 0.2)])
    poles = by_order[-1]
    if len(poles) == 0:
        return []
    basis = poles[None, :] ** np.arange(skip, n + skip)[:, None]
    amplitudes = np.abs(np.linalg.lstsq(basis, y, rcond=None)[0])
    needed = min(2, len(by_order) - 1)
    steady = [sum(_repeats(complex(pole), other, rate_hz) for other in by_order[:-1]) >= needed for pole in poles]
    return [(complex(p), float(a)) for p, a, keep in zip(poles, amplitudes, steady, strict=True) if keep]


def _repeats(pole: complex, others: ComplexArray, rate_hz: float) -> bool:
    """Whether a pole is found again, near in frequency and damping."""
    if len(others) == 0:
        return False
    apart_hz = np.abs(np.angle(others / pole)) * rate_hz / (2 * np.pi)
    damping = np.log(np.abs(others)) / np.log(abs(pole))
    return bool(np.any((apart_hz < _SAME_HZ) & (np.abs(damping - 1) < _SAME_DAMPING)))


def _without_doubles(notes: list[Note]) -> list[Note]:
    kept: list[Note] = []
    for note in sorted(notes, key=lambda n: -n.level_db):
        if all(abs(note.f_hz - other.f_hz) > 0.4 + 0.15 / min(note.t60_s, other.t60_s) for other in kept):
            kept.append(note)
    return kept
