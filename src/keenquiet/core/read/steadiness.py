"""Was everything steady while the sweep ran? Slams, lost moments, movement and automatic gain, each told by what it
leaves behind.

What a steady room and chain cannot explain is the residual: recording minus the sweep put through the response that was
found.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import ComplexArray, FloatArray

_BLOCK_S: Final = 0.025
_BANDS_HZ: Final = ((60.0, 500.0), (1000.0, 8000.0))
_WINDOW_S: Final = (0.012, 1.6)  # of the response that a steady room may have, before and after the direct sound
_BURST_DB: Final = (
    12.0  # over the residual's own running median: steady recordings reach 8, slams and lost moments pass 26
)
_AROUND_S: Final = 1.2
_HISS_HZ: Final = (2000.0, 8000.0)
_GAIN_STEP_DB: Final = 10.0
_DELAY_FROM_HZ: Final = 1000.0
_DELAY_TO_HZ: Final = 16_000.0
_CROSSOVERS_HZ: Final = np.geomspace(1200.0, 7000.0, 26)
_KNEE_MS: Final = 0.02  # a pitch whose direct sound is taken for a reflection counts less
# What no crossover explains. Still rooms with two- and three-way loudspeakers left up to 0.06 ms: by one sweep alone a
# sway of a hand's width cannot be told from them (`sweep_marks` tells it).
_MOVED_MS: Final = 0.15
_ARRIVES: Final = 0.3
_GATHERED_S: Final = 0.03
_LOST_MS: Final = (4.0, 150.0)


@dataclass(frozen=True)
class Steadiness:
    """bursts_s : when something else was heard, after the recording's start. [s]
    lost_ms : length of a lost moment, None where none was. [ms] moved_ms : wander of the direct sound over the sweep,
    RMS. [ms] moved : whether that, or marks around the sweep that differ, tell of movement.
    gathered : how far all pitches come at one time, 1 all [-].
    gain : `down` when the chain turned itself down for the sweep, `gate` when it cut the quiet away, else None.
    """

    bursts_s: tuple[float, ...]
    lost_ms: float | None
    moved_ms: float
    gain: str | None
    gathered: float = 1.0
    moved: bool = False


def steadiness(
    recording: FloatArray,
    impulse: FloatArray,
    reference: ComplexArray,
    *,
    peak: int,
    swept: tuple[int, int],
    pass_s: tuple[float, float],
    sample_rate_hz: float,
) -> Steadiness:
    """Judge a recording of a sweep by its residual and by when each pitch's direct sound came.

    recording : (n,). impulse : (m,) deconvolved, circular, before any correction; reference : its sweep's spectrum.
    peak : direct sound in `impulse`. swept : samples of the recording that the sweep took up, first and last.
    pass_s : L and f1 of the sweep, which passes f at L ln(f / f1).
    """
    n = len(impulse)
    before, after = (round(edge * sample_rate_hz) for edge in _WINDOW_S)
    since = np.arange(-before, min(after, n - before))
    window = np.clip((since + before) / (0.3 * before), 0, 1) * np.clip((after - since) / (0.06 * after), 0, 1)
    kept = np.zeros(n)
    kept[(peak + since) % n] = np.take(impulse, peak + since, mode="wrap") * window
    explained = scipy.fft.irfft(scipy.fft.rfft(kept) * reference, n)[: len(recording)]
    residual = recording - explained
    left = _spectra(residual, sample_rate_hz)
    bursts = _bursts(left, _spectra(recording, sample_rate_hz), swept, sample_rate_hz)
    delays = band_delays(impulse, peak, sample_rate_hz, pass_s=pass_s, per_octave=4, least=_ARRIVES)
    lost = _lost_ms(impulse, peak, sample_rate_hz, pass_s) if bursts else None
    moved = _wander_ms(delays) if lost is None else 0.0
    gathered = 1.0 if lost is not None else _gathered(impulse, peak, sample_rate_hz)
    return Steadiness(bursts, lost, moved, _gain(left, swept, sample_rate_hz), gathered, moved > _MOVED_MS)


def _spectra(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """Power in Hann-windowed blocks, averaged in pairs, (n_blocks, n_f); f steps by 1 / _BLOCK_S."""
    block = round(_BLOCK_S * sample_rate_hz)
    blocks = samples[: len(samples) // block * block].reshape(-1, block) * scipy.signal.windows.hann(block)
    power = np.abs(scipy.fft.rfft(blocks, axis=1)) ** 2 * (8 / 3 / block**2)
    smooth: FloatArray = scipy.ndimage.uniform_filter1d(power, 2, axis=0)  # one block alone is high by chance too often
    return smooth


def _levels(spectra: FloatArray, band_hz: tuple[float, float]) -> FloatArray:
    """Level of a band in each block, (n_blocks,). [dBFS]"""
    first, last = (round(edge * _BLOCK_S) for edge in band_hz)
    levels: FloatArray = 10 * np.log10(np.maximum(2 * spectra[:, max(first, 1) : last].sum(axis=1), 1e-20))
    return levels


def _bursts(left: FloatArray, whole: FloatArray, swept: tuple[int, int], sample_rate_hz: float) -> tuple[float, ...]:
    """When the residual jumps, within the sweep and its decay. [s]"""
    found: list[float] = []
    for band in _BANDS_HZ:
        level = _levels(left, band)
        usual = scipy.ndimage.median_filter(level, size=2 * int(_AROUND_S / 2 / _BLOCK_S) + 1, mode="nearest")
        loud = np.percentile(_levels(whole, band), 95)
        time = (np.arange(len(level)) + 0.5) * _BLOCK_S
        # where the sweep itself passes the band its own imperfections lie 40 dB under it; they are no burst
        inside = (time * sample_rate_hz > swept[0] + 0.3 * sample_rate_hz) & (
            time * sample_rate_hz < swept[1] + 0.5 * sample_rate_hz
        )
        high = inside & (level > usual + _BURST_DB) & (level > loud - 32)
        for at in time[high]:
            if all(abs(at - known) > 0.4 for known in found):
                found.append(float(at))
    return tuple(sorted(found))


def _band_envelopes(
    impulse: FloatArray, peak: int, sample_rate_hz: float, centres: FloatArray, *, reach_s: float, per_octave: int
) -> FloatArray:
    """Envelope of each band around the peak, which stands in the middle, (n, 2 * reach)."""
    half = int(reach_s * sample_rate_hz)
    part = np.take(impulse, np.arange(peak - half, peak + half), mode="wrap") * scipy.signal.windows.tukey(
        2 * half, 0.2
    )
    n = 1 << (4 * half - 1).bit_length()
    spectrum, f_hz = np.fft.rfft(part, n), np.fft.rfftfreq(n, 1 / sample_rate_hz)
    width = 0.1 + 0.24 / per_octave
    bell = np.exp(-0.5 * (np.log2(np.maximum(f_hz, 1.0) / centres[:, None]) / width) ** 2)
    analytic = np.zeros((len(centres), n), dtype=complex)
    analytic[:, : len(f_hz)] = 2 * spectrum * bell
    envelope: FloatArray = np.abs(np.fft.ifft(analytic, axis=1))[:, : 2 * half]
    return envelope


def _centres(from_hz: float, to_hz: float, sample_rate_hz: float, per_octave: int) -> FloatArray:
    top = min(to_hz, 0.4 * sample_rate_hz)
    centres: FloatArray = from_hz * 2 ** (np.arange(int(per_octave * np.log2(top / from_hz)) + 1) / per_octave)
    return centres


def _gathered(impulse: FloatArray, peak: int, sample_rate_hz: float) -> float:
    """How far some arrival has all its pitches at one time: the best sum of all bands' envelopes, each 1 at its most,
    against their number. [-]

    A sweep of another speed leaves a line of pitches, one after the other, and its bands never come together. Whether a
    reflection is louder than the direct sound does not matter: each of them has all its pitches at once.
    """
    centres = _centres(_DELAY_FROM_HZ, _DELAY_TO_HZ, sample_rate_hz, 4)
    envelope = _band_envelopes(impulse, peak, sample_rate_hz, centres, reach_s=_GATHERED_S, per_octave=4)
    return float(np.max(np.mean(envelope / envelope.max(axis=1, keepdims=True), axis=0)))


def band_delays(
    impulse: FloatArray,
    peak: int,
    sample_rate_hz: float,
    *,
    pass_s: tuple[float, float],
    from_hz: float = _DELAY_FROM_HZ,
    to_hz: float = _DELAY_TO_HZ,
    reach_s: float = 0.012,
    per_octave: int = 2,
    least: float = 1.0,
) -> FloatArray:
    """When the direct sound of each pitch came: time at which the sweep passed it [s], delay against the whole [ms],
    frequency [Hz], (n, 3).

    least : of an arrival against the strongest of its pitch; of several the one nearest to the whole's is taken, so
    that a reflection which is louder at some pitches is not taken for a direct sound that wandered.
    """
    centres = _centres(from_hz, to_hz, sample_rate_hz, per_octave)
    envelope = _band_envelopes(impulse, peak, sample_rate_hz, centres, reach_s=reach_s, per_octave=per_octave)
    half = envelope.shape[1] // 2
    inner = envelope[:, 1:-1]
    tops = (inner >= envelope[:, :-2]) & (inner >= envelope[:, 2:])
    tops &= inner >= least * inner.max(axis=1, keepdims=True)
    away = np.where(tops, np.abs(np.arange(1, 2 * half - 1) - half), np.inf)
    top_at = 1 + np.argmin(away, axis=1)
    rows = np.arange(len(centres))
    y0, y1, y2 = (envelope[rows, top_at + k] for k in (-1, 0, 1))
    exact = top_at + 0.5 * (y0 - y2) / np.minimum(y0 - 2 * y1 + y2, -1e-30)
    return np.column_stack([pass_s[0] * np.log(centres / pass_s[1]), (exact - half) / sample_rate_hz * 1000, centres])


def _wander_ms(delays: FloatArray) -> float:
    """How far the direct sound wanders from pitch to pitch, RMS, beyond what a clock and a loudspeaker explain. [ms]

    delays : as `band_delays` gives them. Explained are a clock's line over time, what a crossover far below delays
    (as 1/f^2), and one crossover's all-pass of any size and sign (Linkwitz-Riley, fourth order).
    """
    at_s, delay_ms, f_hz = delays.T
    if len(f_hz) < 8:
        return 0.0
    omega, crossing = 2 * np.pi * f_hz, 2 * np.pi * _CROSSOVERS_HZ[:, None]
    by_q = crossing * np.sqrt(2)  # w0 / Q with Q = 1/sqrt(2)
    all_pass = 2e3 * by_q * (crossing**2 + omega**2) / ((crossing**2 - omega**2) ** 2 + (omega * by_q) ** 2)
    ever = np.stack([np.ones(len(f_hz)), at_s, (1000 / f_hz) ** 2])
    columns = np.concatenate([np.broadcast_to(ever, (len(all_pass), 3, len(f_hz))), all_pass[:, None]], axis=1)
    columns = columns.transpose(0, 2, 1)
    weight = np.ones((len(all_pass), len(f_hz)))
    for _ in range(6):
        found = np.linalg.pinv(columns * weight[..., None]) @ (delay_ms * weight)[..., None]
        left = delay_ms - (columns @ found)[..., 0]
        weight = 1 / np.sqrt(1 + (left / _KNEE_MS) ** 2)
    # a pitch at which two arrivals stand too close is late by much, and says nothing of the others
    return float(np.min(1.4826 * np.median(np.abs(left), axis=1)))


def _lost_ms(impulse: FloatArray, peak: int, sample_rate_hz: float, pass_s: tuple[float, float]) -> float | None:
    """Length of a lost moment: part of the pitches come together, another part together at another time. [ms]"""
    delays = band_delays(impulse, peak, sample_rate_hz, pass_s=pass_s, from_hz=180.0, reach_s=0.2)[:, 1]
    far = delays[(np.abs(delays) > _LOST_MS[0]) & (np.abs(delays) < _LOST_MS[1])]
    if len(far) < 2:
        return None
    middle = float(np.median(far))
    return abs(middle) if np.count_nonzero(np.abs(far - middle) < 2.5) >= 2 else None


def _gain(left: FloatArray, swept: tuple[int, int], sample_rate_hz: float) -> str | None:
    """Whether the hiss under the sweep's low notes differs from the hiss around it: the chain changed its gain.

    Read between 2 and 8 kHz, where the sweep's low half has nothing.
    """
    level = _levels(left, _HISS_HZ)
    time = (np.arange(len(level)) + 0.5) * _BLOCK_S * sample_rate_hz
    length = swept[1] - swept[0]
    before = level[(time > 0.1 * sample_rate_hz) & (time < swept[0] - 0.08 * sample_rate_hz)]
    under = level[(time > swept[0] + 0.15 * length) & (time < swept[0] + 0.5 * length)]
    after = level[time > swept[1] + 0.9 * sample_rate_hz]
    if len(under) < 4:
        return None
    during = float(np.median(under))
    # the quietest tenth: somebody who rustles before stepping back is no automatic gain
    lead, tail = (float(np.percentile(part, 10)) if len(part) >= 6 else None for part in (before, after))
    known = [part for part in (lead, tail) if part is not None]
    if lead is not None and lead > during + _GAIN_STEP_DB and (tail is None or tail > during + 0.3 * _GAIN_STEP_DB):
        return "down"
    if known and max(known) < during - 1.5 * _GAIN_STEP_DB:
        return "gate"
    return None
