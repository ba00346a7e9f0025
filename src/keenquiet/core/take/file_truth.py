"""What a file says of its past: how many bits it truly holds, a lower rate or a lossy copy it was made from."""

from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.types import FloatArray

_SEGMENT: Final = 4096
_MOST_S: Final = 60.0
_NOTHING: Final = 1e-13  # mean square of digital silence and a last bit
_SIDE_HZ: Final = 400.0
_QUIETEST: Final = 8
_CLIFFS: Final = ((300.0, 22.0), (1200.0, 34.0))  # width [Hz] and depth [dB]: a sharp filter, and a common one
_FLAT_DB: Final = 9.0  # of what lies before a cliff: it ends, it does not roll off
_LOWEST_HZ: Final = 3300.0
_LOSSY_HZ: Final = 12_500.0  # lower cliffs are those of a lower rate
_HIGHEST_HZ: Final = 20_600.0  # every converter's own filter lies above
_LEAST_RATE_HZ: Final = 40_000.0  # below it the top octave is missing
_LEAST_OVER_DB: Final = -155.0  # density below which nothing is there to end [1/Hz]


def file_findings(samples: FloatArray, sample_rate_hz: float, *, bits: int | None) -> list[Finding]:
    """Findings about the whole file. samples : (n,)."""
    seconds = len(samples) / sample_rate_hz
    found = []
    edge = ends_at_hz(samples, sample_rate_hz)
    if sample_rate_hz < _LEAST_RATE_HZ:
        found.append(Finding("low_rate", 0.0, seconds, sample_rate_hz / 2000, "kHz", 0.95, sample_rate_hz / 2))
    elif edge is not None:
        kind = "lossy" if edge > _LOSSY_HZ else "low_rate"
        found.append(Finding(kind, 0.0, seconds, edge / 1000, "kHz", 0.7, edge))
    held = true_bits(samples, bits) if bits is not None else None
    if bits is not None and held is not None and held < bits and held <= 16:
        found.append(Finding("true_bits", 0.0, seconds, float(held), "bits", 0.95))
    return found


def ends_at_hz(samples: FloatArray, sample_rate_hz: float) -> float | None:
    """Where the spectrum ends as with a knife, None where it goes on or rolls off. [Hz]

    Asked of the quietest eighth: a voice ends somewhere, the noise of room and microphone does not. Medians of bins, so
    that single lines neither make nor hide an edge.
    """
    if len(samples) < 4 * _SEGMENT:
        return None
    most = round(_MOST_S * sample_rate_hz)
    start = max((len(samples) - most) // 2, 0)
    frames = samples[start : start + most]
    frames = frames[: len(frames) // _SEGMENT * _SEGMENT].reshape(-1, _SEGMENT)
    power = np.mean(frames**2, axis=1)
    power = np.where(power > _NOTHING, power, np.inf)
    quiet = np.argsort(power)[: max(np.count_nonzero(np.isfinite(power)) // _QUIETEST, 4)]
    spectra = np.abs(scipy.fft.rfft(frames[quiet] * np.hanning(_SEGMENT), axis=1)) ** 2
    f_hz = np.fft.rfftfreq(_SEGMENT, 1 / sample_rate_hz)
    level = 10 * np.log10(spectra.mean(axis=0) / (0.375 * _SEGMENT * sample_rate_hz / 2) + 1e-22)
    step = float(f_hz[1])
    for gap_hz, cliff_db in _CLIFFS:
        found = _cliff_hz(level, step, gap_hz, cliff_db, sample_rate_hz)
        if found is not None:
            return found
    return None


def _cliff_hz(level: FloatArray, step: float, gap_hz: float, cliff_db: float, sample_rate_hz: float) -> float | None:
    """Where levels, one each `step` Hz, fall by the most within a gap, both sides even; None where by too little."""
    side, gap = (max(round(width / step), 3) for width in (_SIDE_HZ, gap_hz))
    middle = scipy.ndimage.median_filter(level, size=2 * (side // 2) + 1, mode="nearest")
    best: tuple[float, int] | None = None
    for at in range(round(_LOWEST_HZ / step), min(round(min(_HIGHEST_HZ, 0.46 * sample_rate_hz) / step), len(level))):
        if at + gap + side >= len(level) or at - 3 * side < 0:
            continue
        before, after = float(middle[at - side // 2]), float(middle[at + gap + side // 2])
        even = abs(before - float(middle[at - 2 * side])) < _FLAT_DB
        if before - after >= cliff_db and even and before > _LEAST_OVER_DB and (not best or before - after > best[0]):
            best = (before - after, at)
    return None if best is None else best[1] * step


def true_bits(samples: FloatArray, bits: int) -> int | None:
    """How many bits of a file are ever used, None where the samples are no whole numbers of its depth."""
    whole = np.rint(np.asarray(samples[: 10 * 48_000], dtype=float) * 2 ** (bits - 1))
    if np.max(np.abs(whole / 2 ** (bits - 1) - samples[: 10 * 48_000]), initial=0.0) > 2.0 ** -(bits + 1):
        return None
    used = int(np.bitwise_or.reduce(np.abs(whole).astype(np.int64)))
    if used == 0:
        return None
    unused = (used & -used).bit_length() - 1
    return bits - unused
