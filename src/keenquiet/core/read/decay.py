"""Energy decay of an impulse response by band: EDT, T20, T30, C50, C80, D50, centre time, each with its validity."""

from dataclasses import dataclass, field
from typing import Final

import numpy as np
import scipy

from keenquiet.core.bands import band_filter_sos, bands_within, nominal_hz
from keenquiet.core.types import FloatArray

# Range of the decay curve each figure is fitted over, and how far the noise must lie below the start of the decay:
# ISO 3382-2 asks 10 dB of margin below T20's -25 dB and T30's -35 dB.
_RANGES_DB: Final = {"edt_s": (0.0, -10.0, 20.0), "t20_s": (-5.0, -25.0, 35.0), "t30_s": (-5.0, -35.0, 45.0)}
_MOST_CURVATURE: Final = (
    0.15  # T30 longer than T20 by more than this: the decay is bent (ISO 3382-2 annex B: 5 to 10 %)
)
_FILTER_TIME: Final = 4.0  # B T must exceed this when the filter runs backwards in time (ISO 3382-2, 7.3)
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
    # some room before the onset, so that the backwards filter can ring out where nothing is read
    lead = int(0.02 * sample_rate_hz)
    from_onset = impulse[max(start - lead, 0) :]
    offset = min(start, lead)
    return [
        band_decay(
            _filtered(from_onset, float(centre), sample_rate_hz, fraction),
            offset,
            sample_rate_hz,
            centre_hz=float(centre),
            fraction=fraction,
        )
        for centre in bands_within(sample_rate_hz, fraction=fraction)
    ]


def _filtered(impulse: FloatArray, centre_hz: float, sample_rate_hz: float, fraction: int) -> FloatArray:
    """Band-filtered backwards in time: the filter's own ringing then falls before the decay, not into it."""
    sos = band_filter_sos(centre_hz, sample_rate_hz, fraction)
    backwards: FloatArray = scipy.signal.sosfilt(sos, impulse[::-1])[::-1]
    return backwards


def band_decay(band: FloatArray, start: int, sample_rate_hz: float, *, centre_hz: float, fraction: int) -> BandDecay:
    """Figures of one band-filtered response whose direct sound begins at `start`."""
    name = nominal_hz(centre_hz, fraction=fraction)
    power = band[start:] ** 2
    found = truncation(power, sample_rate_hz, settle_s=2 / centre_hz)
    if found is None:
        return BandDecay(name, None, None, None, None, None, None, None, 0.0, ("no_decay",))
    energy = backward_integral(power, found, sample_rate_hz)
    level = 10 * np.log10(np.maximum(energy / energy[0], 1e-12))
    time_s = np.arange(len(level)) / sample_rate_hz
    flags: list[str] = []
    times: dict[str, float | None] = {}
    bandwidth = centre_hz * (10 ** (0.15 / fraction) - 10 ** (-0.15 / fraction))
    for key, (top, bottom, needed_db) in _RANGES_DB.items():
        times[key] = None
        if found.inr_db < needed_db:
            flags.append(f"{key[:-2]}_low_range")
            continue
        t60 = _fit_t60(time_s, level, top, bottom)
        if t60 is not None and bandwidth * t60 < _FILTER_TIME:
            flags.append(f"{key[:-2]}_filter_limited")
            continue
        times[key] = t60
    t20, t30 = times["t20_s"], times["t30_s"]
    if t20 and t30 and abs(t30 / t20 - 1) > _MOST_CURVATURE:
        flags.append("bent_decay")
    ratios = _energy_ratios(power, found, sample_rate_hz) if found.inr_db >= 20 else {}
    if not ratios:
        flags.append("clarity_low_range")
    step = max(1, len(level) // 240)
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
        curve_s=time_s[::step],
        curve_db=level[::step],
    )


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


def _fit_t60(time_s: FloatArray, level_db: FloatArray, top_db: float, bottom_db: float) -> float | None:
    start = int(np.argmax(level_db <= top_db)) if top_db < 0 else 0
    if not np.any(level_db <= bottom_db):
        return None
    end = int(np.argmax(level_db <= bottom_db))
    if end - start < 3:
        return None
    slope = np.polyfit(time_s[start : end + 1], level_db[start : end + 1], 1)[0]
    return float(-60 / slope) if slope < 0 else None


def _energy_ratios(power: FloatArray, found: Truncation, sample_rate_hz: float) -> dict[str, float]:
    """C50, C80, D50 and centre time (ISO 3382-1, annex A), noise taken off."""
    kept = power[: found.crossing] - found.noise_power
    total = float(np.sum(kept)) + found.noise_power * sample_rate_hz / found.rate
    if total <= 0:
        return {}
    early = {ms: max(float(np.sum(kept[: int(ms / 1000 * sample_rate_hz)])), 1e-300) for ms in (50, 80)}
    late = {ms: max(total - early[ms], total * 1e-6) for ms in early}
    centre = float(np.sum(kept * np.arange(len(kept)))) / sample_rate_hz / total
    return {
        "c50_db": 10 * float(np.log10(early[50] / late[50])),
        "c80_db": 10 * float(np.log10(early[80] / late[80])),
        "d50": float(np.clip(early[50] / total, 0, 1)),
        "ts_ms": centre * 1000,
    }


def t_mid_s(bands: list[BandDecay]) -> float | None:
    """Mid-frequency decay: mean over the 500 and 1000 Hz octaves of T30, else T20. [s]"""
    mid = [band.t30_s or band.t20_s for band in bands if band.centre_hz in (500, 1000)]
    given = [value for value in mid if value]
    return float(np.mean(given)) if given else None
