"""What leaks out of the headphones: a backing track that is known, or the ticks of a click track."""

from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.read.tone import a_weighted
from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

_HEARD_DB: Final = -50.0  # under the performance
_LONGEST_LATE_S: Final = 0.5
_PART_S: Final = 60.0
_FILTER: Final = 512  # taps of the way from headphone to microphone
_LEAST_S: Final = 1.0
_TICK_S: Final = (0.24, 1.6)  # 250 to 38 beats a minute
_TICK_DB: Final = 10.0
_AROUND: Final = 5  # moments
_ON_BEAT_S: Final = 0.03
_KEPT: Final = 0.8  # of the beats that fall into pauses
_REGULAR: Final = 0.93  # how well ticks agree in phase
_LEAST_TICKS: Final = 5
_LEAST_ALIKE: Final = 4  # where they are as loud as each other, which keys and lips are not
_ALIKE_DB: Final = 1.5  # spread
# under somebody who sounds: onsets that repeat so exactly that many harmonics of the beat are left
_COMB_HZ: Final = (20.0, 48.0)  # above 20 Hz hands are no longer exact
_BEATS_HZ: Final = (0.625, 4.2)
_LEAST_TAKE_S: Final = 6.0
_ONSET_DB: Final = 10.0  # more counts as this much
_STANDS_OUT: Final = 6.2  # of 60 real recordings none had more than 4.4, of those with ticks 12 dB under 87 % had more
_UNDER_DB: Final = (-30.0, -3.0)  # softer ones made by chance; as loud as the performance it is the performance


@dataclass(frozen=True)
class Bleed:
    """under_db : of the backing in the take against the performance, A-weighted. late_ms : of it. sure : share of the
    pauses' sound that it explains. [-]
    """

    under_db: float
    late_ms: float
    sure: float


def bleed_of(
    samples: FloatArray, backing: FloatArray, sample_rate_hz: float, phrases: tuple[Span, ...], *, active_dba: float
) -> Bleed | None:
    """How loud a backing track is in a take, by its pauses; None without a second of them. Each (n,), one rate.

    The way from headphone to microphone is fitted by least squares over the pauses (a Wiener filter of 512 taps), what
    it carries is the bleed.
    """
    late = _late(samples, backing, sample_rate_hz)
    shifted = _shifted(backing, late, len(samples))
    gaps = _gaps(phrases, len(samples) / sample_rate_hz)
    spans = [(round(a * sample_rate_hz), round(b * sample_rate_hz)) for a, b in gaps]
    if sum(b - a for a, b in spans) < _LEAST_S * sample_rate_hz:
        return None
    carried, heard = [], []
    auto, across = np.zeros(_FILTER), np.zeros(_FILTER)
    for a, b in spans:
        known, got = shifted[a:b], samples[a:b]
        if b - a < 2 * _FILTER:
            continue
        auto += scipy.signal.correlate(known, known, mode="full", method="fft")[b - a - 1 :][:_FILTER]
        across += scipy.signal.correlate(got, known, mode="full", method="fft")[b - a - 1 :][:_FILTER]
    if auto[0] < 1e-12:
        return None
    way = scipy.linalg.solve_toeplitz(auto + auto[0] * 1e-4 * (np.arange(_FILTER) == 0), across)
    for a, b in spans:
        if b - a >= 2 * _FILTER:
            carried.append(scipy.signal.oaconvolve(shifted[a:b], way)[: b - a])
            heard.append(samples[a:b])
    leak, all_of_it = np.concatenate(carried), np.concatenate(heard)
    explained = 1 - float(np.sum((all_of_it - leak) ** 2)) / max(float(np.sum(all_of_it**2)), 1e-20)
    # over the whole take the backing goes on while the performer plays: that is what the mix will hear
    whole = scipy.signal.oaconvolve(shifted, way)[: len(samples)]
    loud = whole[np.abs(shifted) > 0] if np.any(shifted) else whole
    level = 10 * float(np.log10(np.mean(a_weighted(loud, sample_rate_hz) ** 2) + 1e-20))
    return Bleed(level - active_dba, 1000 * late / sample_rate_hz, max(explained, 0.0))


def bleed_findings(found: Bleed | None, seconds: float) -> list[Finding]:
    """A finding where a backing is heard: less than 50 dB under the performance."""
    if found is None or found.sure < 0.05 or found.under_db < _HEARD_DB:
        return []
    return [Finding("bleed", 0.0, seconds, found.under_db, "dB", min(0.5 + found.sure, 0.95))]


def _gaps(phrases: tuple[Span, ...], seconds: float) -> list[tuple[float, float]]:
    edges = [0.0, *(p.end_s + 0.25 for p in phrases)]
    ends = [*(p.start_s - 0.1 for p in phrases), seconds]
    return [(a, b) for a, b in zip(edges, ends, strict=True) if b - a > 0.1]


def _late(samples: FloatArray, backing: FloatArray, sample_rate_hz: float) -> int:
    """Samples by which the backing comes later in the take, less a little for what comes before its peak."""
    n = min(len(samples), len(backing), round(_PART_S * sample_rate_hz))
    size = scipy.fft.next_fast_len(2 * n, real=True)
    across = scipy.fft.rfft(samples[:n], size) * np.conj(scipy.fft.rfft(backing[:n], size))
    f_hz = np.fft.rfftfreq(size, 1 / sample_rate_hz)
    # every pitch counts alike (phase transform): a long note agrees with itself at many shifts
    level = np.abs(across)
    across = np.where((f_hz > 200) & (f_hz < 5000), across / (level + 1e-3 * level.max() + 1e-20), 0.0)
    near = np.abs(scipy.fft.irfft(across, size))
    most = round(_LONGEST_LATE_S * sample_rate_hz)
    return int(np.argmax(near[:most])) - _FILTER // 8


def _shifted(backing: FloatArray, late: int, n: int) -> FloatArray:
    out = np.zeros(n)
    source, target = max(-late, 0), max(late, 0)
    length = min(len(backing) - source, n - target)
    if length > 0:
        out[target : target + length] = backing[source : source + length]
    return out


def click_track(moments: Moments, phrases: tuple[Span, ...], seconds: float) -> list[Finding]:
    """Ticks that come regularly through all pauses; value : against the performance. [dB]  f_hz : beats a second."""
    crisp = moments.level("crisp")
    loud = float(np.percentile(moments.level("body"), 85))
    spans = [(round(a / HOP_S), min(round(b / HOP_S), len(crisp))) for a, b in _gaps(phrases, len(crisp) * HOP_S)]
    ticks = [at for a, b in spans for at in _ticks(crisp[a:b], a)]
    if len(ticks) >= _LEAST_ALIKE:
        least = _LEAST_ALIKE if float(np.std(crisp[ticks])) < _ALIKE_DB else _LEAST_TICKS
        beat = _beat_s(np.array(ticks) * HOP_S, [(a * HOP_S, b * HOP_S) for a, b in spans], least)
        if beat is not None:
            return [Finding("click_track", 0.0, seconds, float(np.median(crisp[ticks])) - loud, "dB", 0.7, 1 / beat)]
    beat_hz = _exact_beat_hz([crisp, moments.level("middle")])
    if beat_hz is None:
        return []
    under = _on_the_beat_db(crisp, beat_hz) - loud
    return (
        [Finding("click_track", 0.0, seconds, under, "dB", 0.6, beat_hz)] if _UNDER_DB[0] < under < _UNDER_DB[1] else []
    )


def _exact_beat_hz(levels: list[FloatArray]) -> float | None:
    """The beat on which onsets (n,) [dB] of all bands come as exactly as only a machine is, None without one.

    The power spectrum of the onsets, against its own median around, is summed over the harmonics of each beat between
    20 and 48 Hz: each is 1 on average by chance, and the sum of m of them stands out by its difference times sqrt(m).
    """
    count = len(levels[0]) - 1
    if count * HOP_S < _LEAST_TAKE_S:
        return None
    size = scipy.fft.next_fast_len(8 * count, real=True)
    step_hz = 1 / HOP_S / size
    white = np.zeros(size // 2 + 1)
    for level in levels:
        onset = np.clip(np.diff(level), 0, _ONSET_DB)
        power = np.abs(scipy.fft.rfft((onset - onset.mean()) * np.hanning(count), size)) ** 2
        rough = power[::16]
        usual = scipy.ndimage.median_filter(rough, max(round(2.0 / step_hz / 16), 3))
        among = np.interp(np.arange(len(power)), np.arange(len(rough)) * 16, usual)
        white += power / np.maximum(among, 1e-9) * np.log(2) / len(levels)
    beats = np.arange(*_BEATS_HZ, step_hz / 2)
    low, high = _COMB_HZ
    stands_out = np.empty(len(beats))
    for number, beat in enumerate(beats):
        harmonics = np.arange(int(np.ceil(low / beat)), int(high / beat) + 1)
        teeth = white[np.round(harmonics * beat / step_hz).astype(int)]
        stands_out[number] = (teeth.mean() - 1) * np.sqrt(len(teeth))
    best = int(np.argmax(stands_out))
    return float(beats[best]) if stands_out[best] > _STANDS_OUT else None


def _on_the_beat_db(level: FloatArray, beat_hz: float) -> float:
    """What the moments on the beat add to those between: the median of the phase that has most, less the rest. [dB]"""
    phase = np.arange(len(level)) * HOP_S * beat_hz % 1.0
    slots = (phase / (HOP_S * beat_hz)).astype(int)
    power = 10 ** (level / 10)
    by_slot = np.array([np.median(power[slots == slot]) for slot in range(slots.max() + 1)])
    return 10 * float(np.log10(max(by_slot.max() - float(np.median(by_slot)), 1e-16)))


def _ticks(crisp: FloatArray, first: int) -> list[int]:
    """Moments that stand far over what is a twentieth of a second before and after."""
    around = _AROUND
    if len(crisp) < 2 * around + 1:
        return []
    top = scipy.ndimage.maximum_filter1d(crisp, 2 * around + 1)
    beside = np.maximum(
        scipy.ndimage.minimum_filter1d(crisp, around, origin=around // 2),
        scipy.ndimage.minimum_filter1d(crisp, around, origin=-(around // 2)),
    )
    found = np.flatnonzero((crisp == top) & (crisp - beside > _TICK_DB))
    return [int(at) + first for at in found if around <= at < len(crisp) - around]


def _beat_s(at_s: FloatArray, spans: list[tuple[float, float]], least: int) -> float | None:
    """The period on which nearly all ticks lie and none is missing, None where there is none, or fewer than `least`."""
    if len(at_s) < least:
        return None
    periods = np.arange(_TICK_S[0], _TICK_S[1], 0.001)
    turns = np.exp(2j * np.pi * at_s[None, :] / periods[:, None])
    agree = np.abs(turns.mean(axis=1))
    for which in np.flatnonzero(agree > _REGULAR)[::-1]:  # half a beat agrees as well: the longest is asked first
        period = float(periods[which])
        phase = float(np.angle(turns[which].mean())) / (2 * np.pi) * period
        expected = np.arange(phase, max(b for _, b in spans) + period, period)
        inside = [e for e in expected if any(a + 0.08 < e < b - 0.08 for a, b in spans)]
        hit = sum(bool(np.min(np.abs(at_s - e)) < _ON_BEAT_S) for e in inside)
        if len(inside) >= least - 1 and hit >= _KEPT * len(inside):
            return period
    return None
