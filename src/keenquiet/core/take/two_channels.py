"""Two channels of one take: turned over, late, one twice."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.types import FloatArray

_BAND_HZ: Final = (80.0, 2000.0)
_LONGEST_MS: Final = 30.0
_LEAST_MS: Final = 0.3
_ALIKE: Final = 0.6
_TURNED: Final = 0.75  # a channel turned over is the other still; a widened one is in part
_LOSS_DB: Final = 2.0  # of the sum, against 0 of two that have nothing in common
_PART_S: Final = 30.0


@dataclass(frozen=True)
class Pair:
    """likeness : correlation at its best shift, below 0 when turned over. late_ms : of the second. mono_loss_db : of
    the sum against both apart. same : the second is the first.
    """

    likeness: float
    late_ms: float
    mono_loss_db: float
    same: bool


def pair_of(first: FloatArray, second: FloatArray, sample_rate_hz: float) -> Pair:
    """How two channels stand to each other, by their loudest half minute. Each (n,)."""
    length = round(_PART_S * sample_rate_hz)
    if len(first) > length:
        step = length // 2
        energy = [float(np.sum(first[i : i + length] ** 2)) for i in range(0, len(first) - length, step)] or [0.0]
        at = int(np.argmax(energy)) * step
        first, second = first[at : at + length], second[at : at + length]
    high = min(_BAND_HZ[1], 0.45 * sample_rate_hz)
    sos = scipy.signal.butter(2, (_BAND_HZ[0], high), btype="bandpass", fs=sample_rate_hz, output="sos")
    a, b = (scipy.signal.sosfilt(sos, channel) for channel in (first, second))
    scale = float(np.sqrt(np.sum(a**2) * np.sum(b**2))) + 1e-20
    across = scipy.signal.correlate(b, a, mode="full", method="fft") / scale
    most = round(_LONGEST_MS / 1000 * sample_rate_hz)
    middle = len(a) - 1
    near = across[max(middle - most, 0) : middle + most + 1]
    best = int(np.argmax(np.abs(near)))
    lag = best - min(middle, most)
    apart = float(np.mean(first**2) + np.mean(second**2)) + 1e-20
    together = float(np.mean((first + second) ** 2)) + 1e-20
    rest = float(np.mean((first - second) ** 2))
    return Pair(
        likeness=float(near[best]),
        late_ms=1000 * lag / sample_rate_hz,
        mono_loss_db=10 * float(np.log10(apart / together)),
        same=rest < 1e-7 * apart,
    )


def channel_findings(channels: tuple[FloatArray, ...], sample_rate_hz: float, seconds: float) -> list[Finding]:
    """Polarity and delay of two channels that hold the same sound."""
    if len(channels) != 2:
        return []
    found = pair_of(channels[0], channels[1], sample_rate_hz)
    if found.same:
        return [Finding("twin", 0.0, seconds, 0.0, "", 0.95)]
    if abs(found.likeness) >= _ALIKE and abs(found.late_ms) >= _LEAST_MS:
        return [Finding("delay", 0.0, seconds, found.late_ms, "ms", 0.9)]
    if found.likeness < -_TURNED:
        return [Finding("polarity", 0.0, seconds, found.mono_loss_db, "dB", 0.95)]
    if found.mono_loss_db >= _LOSS_DB:
        return [Finding("mono_loss", 0.0, seconds, found.mono_loss_db, "dB", 0.8)]
    return []
