"""How much later a sound comes back than it was played, and the comb that both ways heard at once make."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray
from keenquiet.core.waves.comb import notches_hz

_LONGEST_S: Final = 2.0
_HEARD_S: Final = 60.0
_SOUNDS: Final = 0.03  # of a sound's peak
_LEAST_LIKENESS: Final = 0.1
_LEAST_OVER_REST: Final = 4.0  # of the peak over the usual: noise has peaks, too
_NOTCHES: Final = 4
_LOWEST_HZ: Final = (20.0, 60.0)  # the plot begins under the first notch where that is heard
_HIGHEST_HZ: Final = 4000.0
_COMB_POINTS: Final = 600
_TEETH: Final = 12  # more of them than that are a blur on paper
_DEEPEST_DB: Final = -40.0


@dataclass(frozen=True)
class Latency:
    """latency_ms, plus_minus_ms : half a sample and what a peak that is not sharp leaves. likeness : of the recording
    with the sound at that shift, 0 to 1. gain_db : of what comes back against what was played. turned : upside down.
    """

    latency_ms: float
    plus_minus_ms: float
    likeness: float
    gain_db: float
    turned: bool


def latency_of(played: FloatArray, recorded: FloatArray, sample_rate_hz: float) -> Latency | None:
    """None where the sound is not found within two seconds. Each (n,), both begun at once; a minute of it is held
    against the other, from where it first sounds.
    """
    begins = int(np.argmax(np.abs(played) > _SOUNDS * np.max(np.abs(played), initial=0.0))) if len(played) else 0
    ends = begins + round(_HEARD_S * sample_rate_hz)
    played, recorded = played[begins:ends], recorded[begins : ends + round(_LONGEST_S * sample_rate_hz)]
    n = len(played) + len(recorded)
    size = scipy.fft.next_fast_len(n, real=True)
    a, b = scipy.fft.rfft(played, size), scipy.fft.rfft(recorded, size)
    across = b * np.conj(a)
    across = across / (np.abs(across) + 1e-3 * np.max(np.abs(across)) + 1e-20)  # phase transform: sharp at any sound
    near = np.abs(scipy.fft.irfft(across, size)[: round(_LONGEST_S * sample_rate_hz)])
    at = int(np.argmax(near))
    if near[at] < _LEAST_OVER_REST * float(np.percentile(near, 99)):
        return None
    length = min(len(played), len(recorded) - at)
    if length < 16:
        return None
    one, other = played[:length], recorded[at : at + length]
    shared, own = float(np.sum(one * other)), float(np.sum(one**2)) + 1e-20
    likeness = abs(shared) / (float(np.sqrt(own) * np.linalg.norm(other)) + 1e-20)
    if likeness < _LEAST_LIKENESS:
        return None
    offset, width = 0.0, 1.0
    if 0 < at < len(near) - 1:
        left, top, right = near[at - 1 : at + 2]
        curve = left - 2 * top + right
        offset = 0.5 * float((left - right) / curve) if curve < 0 else 0.0
        width = float(np.count_nonzero(near > 0.5 * top))
    return Latency(
        latency_ms=1000 * (at + offset) / sample_rate_hz,
        plus_minus_ms=max(500 / sample_rate_hz, 500 * width / sample_rate_hz),
        likeness=likeness,
        gain_db=20 * float(np.log10(abs(shared) / own + 1e-9)),
        turned=shared < 0,
    )


def notches_of(latency_ms: float, *, turned: bool = False) -> tuple[float, ...]:
    """First notches of a sound and the same so much later, equally loud."""
    return notches_hz(max(latency_ms, 1e-3) / 1000, turned=turned, count=_NOTCHES)


def comb_db(latency_ms: float, gain_db: float, *, turned: bool = False) -> tuple[FloatArray, FloatArray]:
    """A sound together with the same so much later: frequencies, evenly in octaves and as far as a dozen notches [Hz],
    and levels against it alone, at least -40, each (600,). [dB]
    """
    first = notches_of(latency_ms)[0]
    low, high = float(np.clip(0.6 * first, *_LOWEST_HZ)), _HIGHEST_HZ
    f_hz = np.geomspace(low, min(high, max(8 * low, 1000 * _TEETH / max(latency_ms, 1e-3))), _COMB_POINTS)
    later = (-1 if turned else 1) * 10 ** (gain_db / 20) * np.exp(-2j * np.pi * f_hz * latency_ms / 1000)
    return f_hz, np.maximum(20 * np.log10(np.abs(1 + later) + 1e-9), _DEEPEST_DB)
