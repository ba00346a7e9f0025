"""Energy decay of an impulse response by band: EDT, T20, T30, C50, C80, D50, centre time, each with its validity.

Band filters run backwards in time: what they ring falls before a sound, not into the decay after it. The direct sound
therefore rings ahead of its own onset, and everything that counts energy begins early enough to hold that ringing;
slopes are fitted after the onset, where no filter rings. Early is parted from late before filtering, on the response's
own time.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import band_filter_sos, bands_within, nominal_hz
from keenquiet.core.types import FloatArray

# Range of the decay curve each figure is fitted over, and how far the noise must lie below the start of the decay:
# ISO 3382-2 asks 10 dB of margin below T20's -25 dB and T30's -35 dB.
_RANGES_DB: Final = {"edt_s": (0.0, -10.0), "t20_s": (-5.0, -25.0), "t30_s": (-5.0, -35.0)}
_MOST_CURVATURE: Final = (
    0.15  # T30 longer than T20 by more than this: the decay is bent (ISO 3382-2 annex B: 5 to 10 %)
)
_FILTER_TIME: Final = 4.0  # B T must exceed this when the filter runs backwards in time (ISO 3382-2, 7.3)
_RING_60_DB: Final = 4.4  # the band filter's ringing has sunk by 60 dB after this over its bandwidth (slowest poles)
_LEAST_RANGE_DB: Final = {"t20_s": 10.0, "t30_s": 20.0}  # left below a strong direct sound for a slope to be fitted
_MARGIN_DB: Final = 10.0  # between the lowest level that is fitted and the noise (ISO 3382-2)
_OVER_FILTER: Final = 2.0  # an early decay nearer to the filter's own is the filter's
_SPLITS_MS: Final = (50, 80)
_CLARITY_RANGE_DB: Final = 20.0
_LEAST_LATE: Final = 1e-6  # of all: less is not told from rounding and the filter
_LATE_OVER_NOISE_DB: Final = 15.0  # at the split: over it made decays read within 1 dB, 10 to 15 dB within 3 (estimate)
# spread of one decay over sqrt(B T), and its share from which a time is flagged; ISO 3382-2, annex A, impulse response
_SPREAD: Final = {"t20_s": 0.88 * (1 + 1.90 / 10) ** 0.5, "t30_s": 0.55 * (1 + 1.52 / 10) ** 0.5}
_MOST_SPREAD: Final = 0.25
_LEAD_S: Final = 0.002
_BEGUN_DB: Final = 1e-6  # what rounding leaves of "still at 0 dB"
_LUNDEBY_ROUNDS: Final = 6


@dataclass(frozen=True)
class BandDecay:
    """Decay figures of one band. `None` with a word in flags where the data cannot carry a figure."""

    centre_hz: float
    edt_s: float | None
    t20_s: float | None
    t30_s: float | None
    c50_db: float | None
    c80_db: float | None
    d50: float | None
    ts_ms: float | None
    inr_db: float
    flags: tuple[str, ...] = ()
    curve_s: FloatArray = field(default_factory=lambda: np.zeros(0))
    curve_db: FloatArray = field(default_factory=lambda: np.zeros(0))


@dataclass(frozen=True)
class Truncation:
    """Where a decay meets the noise: crossing sample, noise power, late decay rate [1/s], peak-to-noise [dB]."""

    crossing: int
    noise_power: float
    rate: float
    inr_db: float


def onset_index(impulse: FloatArray) -> int:
    """First sample of the direct sound: where the response first comes within 20 dB of its peak (ISO 3382-1, A.3.4)."""
    magnitude = np.abs(impulse)
    peak = int(np.argmax(magnitude))
    near = np.flatnonzero(magnitude[: peak + 1] > 0.1 * magnitude[peak])
    return int(near[0]) if len(near) else peak


def band_decays(impulse: FloatArray, sample_rate_hz: float, *, fraction: int = 1) -> list[BandDecay]:
    """Decay figures in every band that fits below the Nyquist frequency.

    impulse : (n,) response, direct sound anywhere. fraction : 1 for octaves, 3 for thirds.
    """
    start = onset_index(impulse)
    # what lies ahead of the direct sound (noise, a sweep's harmonics) is no part of the decay
    lead = min(start, int(_LEAD_S * sample_rate_hz))
    heard = impulse[start - lead :]
    return [
        band_decay(heard, lead, sample_rate_hz, centre_hz=float(centre), fraction=fraction)
        for centre in bands_within(sample_rate_hz, fraction=fraction)
    ]


def filtered_backwards(
    impulse: FloatArray, centre_hz: float, sample_rate_hz: float, *, fraction: int, ahead: int
) -> FloatArray:
    """A response through its band filter backwards in time, with `ahead` samples put before it for the ringing."""
    sos = band_filter_sos(centre_hz, sample_rate_hz, fraction)
    backwards: FloatArray = scipy.signal.sosfilt(sos, np.concatenate([impulse[::-1], np.zeros(ahead)]))[::-1]
    return backwards


def band_decay(impulse: FloatArray, onset: int, sample_rate_hz: float, *, centre_hz: float, fraction: int) -> BandDecay:
    """Figures of one band of a response whose direct sound begins at sample `onset`."""
    name = nominal_hz(centre_hz, fraction=fraction)
    bandwidth = centre_hz * (10 ** (0.15 / fraction) - 10 ** (-0.15 / fraction))
    ahead = int(_RING_60_DB / bandwidth * sample_rate_hz)
    band = filtered_backwards(impulse, centre_hz, sample_rate_hz, fraction=fraction, ahead=ahead)
    at = onset + ahead
    power = band**2
    found = truncation(power, sample_rate_hz, settle_s=2 / centre_hz)
    if found is None or found.crossing <= at + 8:
        return BandDecay(name, None, None, None, None, None, None, None, 0.0, ("no_decay",))
    energy = backward_integral(power, found, sample_rate_hz)
    level = 10 * np.log10(np.maximum(energy / energy[0], 1e-12))
    flags: list[str] = []
    own_centre, own_edt_s = _filter_alone(centre_hz, sample_rate_hz, fraction, ahead)
    times = _times(level, at, round(own_centre), found.inr_db, sample_rate_hz, flags)
    for key, t60 in times.items():
        least_s = max(_FILTER_TIME / bandwidth, _OVER_FILTER * own_edt_s if key == "edt_s" else 0.0)
        if t60 is not None and t60 < least_s:
            times[key] = None
            flags.append(f"{key[:-2]}_filter_limited")
        elif t60 is not None and _SPREAD.get(key, 0.0) / np.sqrt(bandwidth * t60) > _MOST_SPREAD:
            flags.append(f"{key[:-2]}_scatters")
    t20, t30 = times["t20_s"], times["t30_s"]
    if t20 and t30 and abs(t30 / t20 - 1) > _MOST_CURVATURE:
        flags.append("bent_decay")
    ratios: dict[str, float] = {}
    if found.inr_db >= _CLARITY_RANGE_DB:
        early = {
            ms: filtered_backwards(
                impulse[: onset + int(ms / 1000 * sample_rate_hz)],
                centre_hz,
                sample_rate_hz,
                fraction=fraction,
                ahead=ahead,
            )
            for ms in _SPLITS_MS
        }
        ratios = _energy_ratios(band, early, at, found, sample_rate_hz, filter_centre=own_centre)
    flags += [f"c{ms}_low_range" for ms in _SPLITS_MS if ratios and f"c{ms}_db" not in ratios]
    if not ratios:
        flags.append("clarity_low_range")
    after = level[at:]
    step = max(1, len(after) // 240)
    return BandDecay(
        centre_hz=name,
        edt_s=times["edt_s"],
        t20_s=times["t20_s"],
        t30_s=times["t30_s"],
        c50_db=ratios.get("c50_db"),
        c80_db=ratios.get("c80_db"),
        d50=ratios.get("d50"),
        ts_ms=ratios.get("ts_ms"),
        inr_db=found.inr_db,
        flags=tuple(flags),
        # the direct sound's own share falls away at once
        curve_s=np.concatenate([[0.0], np.arange(len(after))[::step] / sample_rate_hz]),
        curve_db=np.concatenate([[0.0], after[::step]]),
    )


@lru_cache(maxsize=128)
def _filter_alone(centre_hz: float, sample_rate_hz: float, fraction: int, ahead: int) -> tuple[float, float]:
    """By how many samples the filter moves energy forward, and the EDT it gives a lone direct sound. [s]"""
    energy = filtered_backwards(np.ones(1), centre_hz, sample_rate_hz, fraction=fraction, ahead=ahead) ** 2
    centre = float(np.sum(energy[::-1] * np.arange(len(energy)))) / float(energy.sum())
    left = np.cumsum(energy[::-1])[::-1][len(energy) - 1 - round(centre) :]
    level = 10 * np.log10(np.maximum(left / energy.sum(), 1e-12))
    return centre, _fit_t60(level, *_RANGES_DB["edt_s"], sample_rate_hz) or 0.0


def _times(
    level_db: FloatArray, onset: int, early: int, inr_db: float, sample_rate_hz: float, flags: list[str]
) -> dict[str, float | None]:
    """EDT, T20 and T30, None with a word in flags where the noise lies too high for one.

    level_db : (n,) integrated decay, 0 at its beginning. early : samples by which the filter brings the direct
    sound forward; EDT, to which it belongs, is fitted from there. T20 and T30 are fitted after the onset. Where the
    direct sound alone takes more than their upper limit away, they begin there, and reach lower so far as a slope
    needs it.
    """
    times: dict[str, float | None] = dict.fromkeys(_RANGES_DB)
    after = level_db[onset:]
    for key, (top, bottom) in _RANGES_DB.items():
        part = level_db[onset - early :]
        if key != "edt_s":
            part, top = after, min(top, float(after[0]))
            bottom = min(bottom, top - _LEAST_RANGE_DB[key])
        if inr_db < -bottom + _MARGIN_DB:
            flags.append(f"{key[:-2]}_low_range")
        else:
            times[key] = _fit_t60(part, top, bottom, sample_rate_hz)
    return times


def truncation(power: FloatArray, sample_rate_hz: float, *, settle_s: float) -> Truncation | None:
    """Where the decay meets the noise, or None when nothing rises 10 dB above it.

    power : (n,) squared band response from the direct sound on.
    Source: A. Lundeby, T. Vigran, H. Bietz, M. Vorlaender, Acustica 81 (1995) 344, steps 1 to 9.
    """
    block = max(int(max(0.01, 2 * settle_s) * sample_rate_hz), 1)
    count = len(power) // block
    if count < 8:
        return None
    mean = power[: count * block].reshape(count, block).mean(axis=1)
    noise = float(np.mean(mean[-max(count // 10, 2) :]))
    peak = float(mean.max())
    if peak <= 0:
        return None
    if noise <= peak * 1e-14:  # computed responses end in silence
        noise = peak * 1e-14
    inr_db = 10 * np.log10(peak / noise)
    if inr_db < 10:
        return None
    first = int(np.argmax(mean))
    rate, crossing_s = 0.0, count * block / sample_rate_hz
    time_s = (np.arange(count) + 0.5) * block / sample_rate_hz
    margin = 10.0 if inr_db > 30 else 5.0
    for round_ in range(_LUNDEBY_ROUNDS):
        if round_ == 0:
            below = np.flatnonzero(mean[first:] < noise * 10 ** (margin / 10))
            last = first + (int(below[0]) if len(below) else count - 1 - first)
            low = first
        else:
            # late part only: from 25 dB above the margin down to it
            fit = 10 * np.log10(np.maximum(mean, 1e-300) / noise)
            inside = np.flatnonzero(fit[first:] < margin + 25)
            low = first + (int(inside[0]) if len(inside) else 0)
            reach = np.flatnonzero(fit[low:] < margin)
            last = low + (int(reach[0]) if len(reach) else count - 1 - low)
        if last - low < 2:
            low = max(first, last - 2)
        if last - low < 2:
            break
        slope, level0 = np.polyfit(time_s[low : last + 1], np.log(np.maximum(mean[low : last + 1], 1e-300)), 1)
        if slope >= 0:
            break
        rate = -float(slope)
        crossing_s = float((level0 - np.log(noise)) / rate)
        tail_from = crossing_s + 10 / (rate * 4.343)  # 10 dB of decay beyond the crossing
        tail = mean[time_s > tail_from]
        if len(tail) >= max(count // 10, 2) and round_ < _LUNDEBY_ROUNDS - 1:
            noise = max(float(np.mean(tail)), peak * 1e-14)
    if rate <= 0:
        return None
    crossing = int(np.clip(crossing_s * sample_rate_hz, block, count * block))
    return Truncation(crossing, noise, rate, float(10 * np.log10(peak / noise)))


def backward_integral(power: FloatArray, found: Truncation, sample_rate_hz: float) -> FloatArray:
    """Schroeder integral up to the crossing, with the energy beyond it put back as an exponential, (crossing,).

    Noise power is taken off before integrating, so that the last decibels above it do not bend upwards.
    Source: M. Schroeder, J. Acoust. Soc. Am. 37 (1965) 409; compensation as in Lundeby et al. (1995).
    """
    kept = power[: found.crossing] - found.noise_power
    missing = found.noise_power * sample_rate_hz / found.rate
    energy: FloatArray = np.cumsum(kept[::-1])[::-1] + missing
    return np.maximum(energy, 1e-300)


def _fit_t60(level_db: FloatArray, top_db: float, bottom_db: float, sample_rate_hz: float) -> float | None:
    if level_db[-1] > bottom_db:
        return None
    start, end = (int(np.argmax(level_db <= edge - _BEGUN_DB)) for edge in (top_db, bottom_db))
    if end - start < 3:
        return None
    slope = np.polyfit(np.arange(start, end + 1) / sample_rate_hz, level_db[start : end + 1], 1)[0]
    return float(-60 / slope) if slope < 0 else None


def _energy_ratios(
    band: FloatArray,
    early: Mapping[int, FloatArray],
    onset: int,
    found: Truncation,
    sample_rate_hz: float,
    *,
    filter_centre: float,
) -> dict[str, float]:
    """C50, C80, D50 and centre time (ISO 3382-1, annex A), noise taken off.

    band : whole response through the filter; early : the same for what comes up to each split alone, by milliseconds,
    from the same first sample. What the filter rings of the late part lies in both before and after the split: it is
    the difference of the two before, and counts as late. Where the late part does not stand over the noise its clarity
    is left out. filter_centre : samples by which the filter moves energy.
    """
    kept = band[: found.crossing] ** 2 - found.noise_power
    missing = found.noise_power * sample_rate_hz / found.rate
    total = float(np.sum(kept)) + missing
    if total <= 0:
        return {}
    ratios = {}
    for ms, alone in early.items():
        split = min(len(alone), found.crossing)
        first = max(float(np.sum(alone**2)) - found.noise_power * split, total * 1e-12)
        ringing = float(np.sum((band[:split] - alone[:split]) ** 2))
        late = max(float(np.sum(kept[split:])) + missing + ringing, _LEAST_LATE * total)
        over_noise_db = 10 * np.log10(np.e) * found.rate * (found.crossing - split) / sample_rate_hz
        if over_noise_db >= _LATE_OVER_NOISE_DB and late > _LEAST_LATE * total:
            ratios[f"c{ms}_db"] = 10 * float(np.log10(first / late))
        if ms == 50:
            ratios["d50"] = first / (first + late)
    # what lies beyond the crossing has its own centre a decay's mean life after it
    beyond = missing * (found.crossing + sample_rate_hz / found.rate)
    centre = (float(np.sum(kept * np.arange(len(kept)))) + beyond) / total - onset + filter_centre
    return ratios | {"ts_ms": max(centre, 0.0) / sample_rate_hz * 1000}


def t_mid_s(bands: list[BandDecay]) -> float | None:
    """Mid-frequency decay: mean over the 500 and 1000 Hz octaves of T30, else T20. [s]"""
    mid = [band.t30_s or band.t20_s for band in bands if band.centre_hz in (500, 1000)]
    given = [value for value in mid if value]
    return float(np.mean(given)) if given else None
