"""Room tone: third octaves, A-weighted level, NC and NR, tones and events in a recording of silence."""

from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Final, Literal

import numpy as np
import scipy

from keenquiet.core.bands import OCTAVES_HZ, a_weighting_db, band_edges_hz, bands_within, exact_octaves_hz, nominal_hz
from keenquiet.core.read.held import holds
from keenquiet.core.read.parts import block_levels, power_density
from keenquiet.core.types import FloatArray

_WELCH_S: Final = 1.0  # 1 Hz resolution: tones within 1 Hz
_SHORT_S: Final = 0.125  # "fast" time weighting's constant
_PROMINENT_DB: Final = 12.0  # a tone's bin above the median of its surroundings, 1 Hz bins
_EVENT_RISE_DB: Final = 7.0
_EVENT_LEAST_S: Final = 0.2
_EVENT_SHORT_RISE_DB: Final = 12.0  # a knock is over sooner, but stands out more
_WAVERS_DB: Final = 3.0  # by so much blocks of 125 ms of even noise differ
_ASIDE_S: Final = 0.5  # left out around what passes, for its beginning and its end
_LEAST_STEADY_S: Final = 3.0
MAINS_HZ: Final = (50.0, 60.0)
_GRID_HZ: Final = 0.1
_READ_HZ: Final = 0.15
_HUM_TOP_HZ: Final = 1000.0
_LOW_HZ: Final = (25.0, 125.0)
_LOW_RISE_DB: Final = 12.0  # A-weighting is deaf to a lorry; few independent values fit 125 ms there, so more is asked

# NC curves, octaves 63 to 8000 Hz (ANSI S12.2-1995 table; L. Beranek, J. Acoust. Soc. Am. 28 (1956) 833). [dB]
NC_CURVES: Final = {
    15: (47, 36, 29, 22, 17, 14, 12, 11),
    20: (51, 40, 33, 26, 22, 19, 17, 16),
    25: (54, 44, 37, 31, 27, 24, 22, 21),
    30: (57, 48, 41, 35, 31, 29, 28, 27),
    35: (60, 52, 45, 40, 36, 34, 33, 32),
    40: (64, 56, 50, 45, 41, 39, 38, 37),
    45: (67, 60, 54, 49, 46, 44, 43, 42),
    50: (71, 64, 58, 54, 51, 49, 48, 47),
    55: (74, 67, 62, 58, 56, 54, 53, 52),
    60: (77, 71, 67, 63, 61, 59, 58, 57),
    65: (80, 75, 71, 68, 66, 64, 63, 62),
}
# NR: L = a + b N by octave, ISO/R 1996-1971 annex. 63 to 8000 Hz.
_NR_A: Final = np.array([35.5, 22.0, 12.0, 4.8, 0.0, -3.5, -6.1, -8.0])
_NR_B: Final = np.array([0.790, 0.870, 0.930, 0.974, 1.000, 1.015, 1.025, 1.030])


@dataclass(frozen=True, slots=True)
class Tone:
    """A steady tone: frequency, level, height over its surroundings, kind (hum, fan, whine)."""

    f_hz: float
    level_db: float
    prominence_db: float
    kind: str


@dataclass(frozen=True, slots=True)
class Event:
    """Something that passed: start, end [s], highest rise over the usual level [dB], kind (knock, passing, rumble)."""

    start_s: float
    end_s: float
    rise_db: float
    kind: str = "passing"


@dataclass(frozen=True)
class RoomTone:
    """Figures of a recorded silence; levels in dBFS, or dB re 20 uPa when calibrated."""

    calibrated: bool
    laeq_db: float
    l90_db: float
    thirds_hz: FloatArray
    thirds_db: FloatArray
    octaves_db: FloatArray
    nc: int | None
    nr: int | None
    tones: tuple[Tone, ...] = ()
    events: tuple[Event, ...] = field(default=())
    swing_db: float = 0.0  # louder against quieter part of the time, 85th and 15th percentile
    comes_and_goes_hz: float = 0.0  # how often in a second it rises from the one to the other
    steady_thirds_db: FloatArray = field(
        default_factory=lambda: np.zeros(0)
    )  # medians over time: what passed is left out


def room_tone(samples: FloatArray, sample_rate_hz: float, *, calibration_db: float | None = None) -> RoomTone:
    """Analyse a recording of silence.

    samples : (n,) full scale 1. calibration_db : level that 0 dBFS (RMS 1) corresponds to [dB re 20 uPa], None when
    unknown.
    """
    offset = calibration_db or 0.0
    segment = min(int(_WELCH_S * sample_rate_hz), len(samples))
    density_f, density = power_density(samples, sample_rate_hz, segment=segment)
    thirds_hz = bands_within(sample_rate_hz, fraction=3)
    thirds_db = _band_levels(density_f, density, thirds_hz, fraction=3) + offset
    short = short_levels_db(samples, sample_rate_hz) + offset
    events = with_low_events(find_events(short), low_levels_db(samples, sample_rate_hz))
    still = _still(samples, sample_rate_hz, events, segment)
    steady = _density_of(still, sample_rate_hz, segment, "mean")
    usual = _density_of(still, sample_rate_hz, segment, "median")
    octaves_hz = exact_octaves_hz()
    octaves_db = _band_levels(density_f, density, octaves_hz, fraction=1) + offset
    tones = find_tones(density_f, steady, offset_db=offset)
    tones = by_family(tuple(tone for tone in tones if holds(still, sample_rate_hz, tone.f_hz)))
    usable = np.isfinite(octaves_db)
    weighted = 10 * np.log10(np.sum(density[1:] * 10 ** (a_weighting_db(density_f[1:]) / 10)) * density_f[1]) + offset
    calibrated = calibration_db is not None
    return RoomTone(
        swing_db=float(np.diff(np.percentile(short, (15, 85)))[0]),
        comes_and_goes_hz=_turns_hz(short),
        steady_thirds_db=_band_levels(density_f, usual, thirds_hz, fraction=3) + offset,
        calibrated=calibrated,
        laeq_db=float(weighted),
        l90_db=float(np.percentile(short, 10)),
        thirds_hz=np.array([nominal_hz(float(f), fraction=3) for f in thirds_hz]),
        thirds_db=thirds_db,
        octaves_db=octaves_db,
        nc=noise_criterion(octaves_db) if calibrated and usable.all() else None,
        nr=noise_rating(octaves_db) if calibrated and usable.all() else None,
        tones=tones,
        events=events,
    )


def later(tone: RoomTone, seconds: float) -> RoomTone:
    """The same with its events counted from so much earlier: a recording whose beginning was left out."""
    moved = (replace(event, start_s=event.start_s + seconds, end_s=event.end_s + seconds) for event in tone.events)
    return replace(tone, events=tuple(moved))


def _still(samples: FloatArray, sample_rate_hz: float, events: tuple[Event, ...], segment: int) -> list[FloatArray]:
    """Stretches of a segment or more in which nothing passes; all of it when they make less than three seconds."""
    block = int(_SHORT_S * sample_rate_hz)
    free = np.ones(len(samples) // block, dtype=bool)
    for event in events:
        free[max(int((event.start_s - _ASIDE_S) / _SHORT_S), 0) : int(np.ceil((event.end_s + _ASIDE_S) / _SHORT_S))] = (
            False
        )
    edges = np.flatnonzero(np.diff(np.concatenate([[0], free.astype(int), [0]])))
    runs = [
        samples[first * block : last * block]
        for first, last in zip(edges[::2], edges[1::2], strict=True)
        if (last - first) * block >= segment
    ]
    return runs if sum(map(len, runs)) >= _LEAST_STEADY_S * sample_rate_hz else [samples]


def _density_of(
    runs: list[FloatArray], sample_rate_hz: float, segment: int, average: Literal["mean", "median"]
) -> FloatArray:
    """Power density of some stretches together, (segment // 2 + 1,). [1/Hz]"""
    found = [power_density(run, sample_rate_hz, segment=segment, average=average)[1] for run in runs]
    density: FloatArray = np.average(found, axis=0, weights=[len(run) for run in runs])
    return density


def _turns_hz(short_db: FloatArray) -> float:
    """How often in a second the level rises through its middle, small wavering left out. [1/s]"""
    middle = float(np.mean(np.percentile(short_db, (15, 85))))
    side = np.where(short_db > middle + _WAVERS_DB, 1, np.where(short_db < middle - _WAVERS_DB, -1, 0))
    told = side[side != 0]
    return float(np.count_nonzero(np.diff(told) > 0)) / (len(short_db) * _SHORT_S)


def third_octave_levels(samples: FloatArray, sample_rate_hz: float) -> tuple[FloatArray, FloatArray]:
    """Nominal third-octave bands that fit the sample rate and their levels, each (n,). [Hz], [dBFS]"""
    segment = min(int(_WELCH_S * sample_rate_hz), len(samples))
    f_hz, density = power_density(samples, sample_rate_hz, segment=segment)
    thirds_hz = bands_within(sample_rate_hz, fraction=3)
    names = np.array([nominal_hz(float(f), fraction=3) for f in thirds_hz])
    return names, _band_levels(f_hz, density, thirds_hz, fraction=3)


def _band_levels(f_hz: FloatArray, density: FloatArray, centres_hz: FloatArray, *, fraction: int) -> FloatArray:
    """Band levels from a power density, part bins counted by their share, (n,). [dB re 1]"""
    step = f_hz[1]
    cumulative = np.concatenate([[0.0], np.cumsum(density) * step])
    edges = np.concatenate([f_hz - step / 2, [f_hz[-1] + step / 2]])
    low, high = band_edges_hz(centres_hz, fraction=fraction)
    power = np.interp(high, edges, cumulative) - np.interp(low, edges, cumulative)
    levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-20))
    return np.where(high <= edges[-1] * 1.001, levels, np.nan)


def a_weighted(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """A-weighted samples, by FFT (zero phase, exact at every frequency)."""
    n = scipy.fft.next_fast_len(len(samples), real=True)
    weighted: FloatArray = scipy.fft.irfft(scipy.fft.rfft(samples, n) * _a_gain(n, sample_rate_hz), n)[: len(samples)]
    return weighted


@lru_cache(maxsize=8)
def _a_gain(n: int, sample_rate_hz: float) -> FloatArray:
    """Gain at the frequencies of a transform, kept: parts of a recording are alike in length, (n // 2 + 1,)."""
    f_hz = np.maximum(np.fft.rfftfreq(n, 1 / sample_rate_hz), 1e-3)
    gain: FloatArray = 10 ** (np.maximum(a_weighting_db(f_hz), -200) / 20)
    return gain


def short_levels_db(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """A-weighted levels over 125 ms blocks, (n_blocks,). [dBFS]"""
    power = block_levels(
        samples, sample_rate_hz, int(_SHORT_S * sample_rate_hz), after=lambda part: a_weighted(part, sample_rate_hz)
    )
    levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-20))
    return levels


def find_tones(f_hz: FloatArray, density: FloatArray, *, offset_db: float = 0.0) -> tuple[Tone, ...]:
    """Steady tones between 25 Hz and 12 kHz that stand out of their surroundings, loudest first."""
    level = 10 * np.log10(np.maximum(density, 1e-30))
    step = f_hz[1]
    found = []
    peaks, _ = scipy.signal.find_peaks(level, prominence=_PROMINENT_DB * 0.7)
    for i in map(int, peaks):
        if not 25 <= f_hz[i] <= 12_000:
            continue
        reach = max(int(max(15.0, 0.08 * f_hz[i]) / step), 8)
        near = np.concatenate(
            [np.arange(max(i - reach, 1), max(i - 3, 1)), np.arange(i + 4, min(i + reach, len(level)))]
        )
        if len(near) < 6:
            continue
        # another tone close by is no surroundings: averaged noise never stands 20 dB over its median
        others = peaks[level[peaks] > np.median(level[near]) + 20]
        clear = near[np.all(np.abs(near[:, None] - others) > 3, axis=1)]
        around = level[clear] if len(clear) >= 6 else level[near]
        prominence = float(level[i] - np.median(around))
        # how high the largest of many noise bins climbs grows with their number: keep clear of it
        if prominence < _PROMINENT_DB or prominence < np.percentile(around, 98) - np.median(around) + 5:
            continue
        power = float(np.sum(density[i - 2 : i + 3]) * step)
        found.append(
            (float(f_hz[i] + _peak_offset(level, int(i)) * step), 10 * np.log10(power) + offset_db, prominence)
        )
    found.sort(key=lambda tone: -tone[1])
    return tuple(Tone(f, float(db), prominence, tone_kind(f)) for f, db, prominence in found[:12])


def tone_kind(f_hz: float) -> str:
    """`hum` for the 50 or 60 Hz family below 1 kHz, `whine` above 1.5 kHz, else `fan`."""
    if any(mains_harmonic(f_hz, mains) for mains in MAINS_HZ):
        return "hum"
    return "whine" if f_hz > 1500 else "fan"


def mains_harmonic(f_hz: float, mains_hz: float) -> int | None:
    """Which harmonic of the mains a tone is, None when it is none: grids keep to 0.1 Hz, a peak is read to 0.15 Hz."""
    harmonic = round(f_hz / mains_hz)
    near = abs(f_hz - harmonic * mains_hz) < _READ_HZ + _GRID_HZ * harmonic
    return harmonic if harmonic >= 1 and f_hz < _HUM_TOP_HZ and near else None


def by_family(tones: tuple[Tone, ...]) -> tuple[Tone, ...]:
    """Tones with the kinds that they have together: harmonics 3, 6, 9 of the mains without any other are a blade's."""
    families = []
    for mains in MAINS_HZ:
        numbers = {n for tone in tones if (n := mains_harmonic(tone.f_hz, mains)) is not None}
        if len(numbers) == 1 or (numbers and np.gcd.reduce(list(numbers)) <= 2):
            families.append(mains)
    return tuple(
        replace(tone, kind="fan")
        if tone.kind == "hum" and all(mains_harmonic(tone.f_hz, mains) is None for mains in families)
        else tone
        for tone in tones
    )


def _peak_offset(level: FloatArray, i: int) -> float:
    y0, y1, y2 = level[i - 1 : i + 2]
    bend = y0 - 2 * y1 + y2
    return float(0.5 * (y0 - y2) / bend) if bend < 0 else 0.0


def low_levels_db(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """Levels between 25 and 125 Hz over 125 ms blocks, unweighted, (n_blocks,). [dBFS]"""
    sos = scipy.signal.butter(2, _LOW_HZ, btype="bandpass", fs=sample_rate_hz, output="sos")
    power = block_levels(
        samples, sample_rate_hz, int(_SHORT_S * sample_rate_hz), after=lambda part: scipy.signal.sosfiltfilt(sos, part)
    )
    if len(power) > 2:  # a filter run both ways swings at the recording's ends
        power[[0, -1]] = np.minimum(power[[0, -1]], power[[1, -2]])
    levels: FloatArray = 10 * np.log10(np.maximum(power, 1e-20))
    return levels


def find_events(short_db: FloatArray, *, rise_db: float = _EVENT_RISE_DB) -> tuple[Event, ...]:
    """Passing noises: 0.2 s or more at 7 dB over the usual level, or shorter ones at 12 dB.

    What is usual is told by the quietest fifth, whose 5 and 20 per cent points lie as far apart as 20 per cent and the
    middle do (normal law: 0.80 and 0.84 sigma): what passes for longer than half the time passes still.
    """
    least, quiet = np.percentile(short_db, (5, 20))
    usual = float(quiet + 1.05 * (quiet - least))
    loud = short_db > usual + rise_db
    edges = np.flatnonzero(np.diff(np.concatenate([[0], loud.astype(int), [0]])))
    events = []
    for start, end in zip(edges[::2], edges[1::2], strict=True):
        length, height = (end - start) * _SHORT_S, float(short_db[start:end].max() - usual)
        if length >= _EVENT_LEAST_S or height > max(_EVENT_SHORT_RISE_DB, rise_db + 3):
            kind = "knock" if length < 0.6 else "passing"
            events.append(Event(float(start * _SHORT_S), float(end * _SHORT_S), height, kind))
    return tuple(events)


def with_low_events(events: tuple[Event, ...], low_db: FloatArray) -> tuple[Event, ...]:
    """Events with those added that only the low end shows, in order of time."""
    deep = [
        e
        for e in find_events(low_db, rise_db=_LOW_RISE_DB)
        if all(e.end_s <= o.start_s or e.start_s >= o.end_s for o in events)
    ]
    added = [Event(e.start_s, e.end_s, e.rise_db, "rumble" if e.kind == "passing" else "knock") for e in deep]
    return tuple(sorted((*events, *added), key=lambda event: event.start_s))


def noise_criterion(octaves_db: FloatArray) -> int:
    """NC by the tangent method, interpolated between curves; 15 is the lowest that is named, 65 the highest."""
    numbers = sorted(NC_CURVES)
    curves = np.array([NC_CURVES[number] for number in numbers], dtype=float)
    highest = max(float(np.interp(octaves_db[band], curves[:, band], numbers)) for band in range(len(OCTAVES_HZ)))
    return int(np.ceil(highest))


def noise_rating(octaves_db: FloatArray) -> int:
    """NR: the highest curve touched by any octave."""
    return max(int(np.ceil(np.max((octaves_db - _NR_A) / _NR_B))), 0)


def calibration_from(samples: FloatArray, sample_rate_hz: float, *, level_db: float) -> tuple[float, bool]:
    """Level of 0 dBFS from a recorded calibrator, and whether it was a steady tone of a second or more. [dB re 20
    uPa]
    """
    if len(samples) < sample_rate_hz:
        return level_db, False
    middle = samples[len(samples) // 10 : -len(samples) // 10]
    rms = float(np.sqrt(np.mean((middle - middle.mean()) ** 2)))
    blocks = middle[: len(middle) // 20 * 20].reshape(20, -1)
    levels = 20 * np.log10(np.maximum(np.sqrt(np.mean(blocks**2, axis=1)), 1e-12))
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle)))) ** 2
    peak = int(np.argmax(spectrum[1:])) + 1
    tonal = float(np.sum(spectrum[max(peak - 4, 0) : peak + 5]) / np.sum(spectrum[1:]))
    steady = bool(np.ptp(levels) < 1.5 and tonal > 0.8)
    return level_db - 20 * np.log10(max(rms, 1e-12)), steady
