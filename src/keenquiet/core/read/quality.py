"""Is a recording fit to be read? Faults are named, with what to do, before any figure is given."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final

import numpy as np
import scipy

from keenquiet.core.errors import MeasurementError
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_FULL_SCALE: Final = 0.9995
_FLAT_RUN: Final = 4  # samples at a peak from which its shape can be told
_FLAT_SHARE: Final = 0.72  # of the time near a peak that is spent at its very top: a sine 0.5, a square 1
_LEAST_TOPS: Final = 5
_LEAST_TOP: Final = 0.003
_DEPTHS: Final = (0.004, 0.01, 0.02, 0.04, 0.08, 0.14)
_LOUDEST_BLOCKS: Final = 40
_LAST_BIT_VALUES: Final = 6
_SILENT: Final = 1e-7
_ABSURD: Final = 1000.0  # 60 dB over full scale
_QUIET_PEAK_DBFS: Final = -50.0
_TURNED_DB: Final = 10.0

_FATAL: Final = frozenset({"silent", "not_a_recording", "incomplete", "no_sweep", "truncated_file"})
_SPOILS: Final = frozenset({"clipped", "flat_topped", "gated"})


@dataclass(frozen=True)
class Reason:
    """One thing to know about a recording: a code from the contract, which of its wordings, and the figures they need.

    The words are in `advice.reasons`.
    """

    code: str
    variant: str = ""
    figures: Mapping[str, float | str] = field(default_factory=dict)

    @staticmethod
    def of(code: str, variant: str = "", **figures: float | str) -> "Reason":
        """A reason with its figures by name."""
        return Reason(code, variant, figures)


@dataclass(frozen=True, slots=True)
class Verdict:
    """Whether the figures stand. good: nothing to say; usable: stands with the reasons given; otherwise not."""

    usable: bool
    reasons: tuple[Reason, ...] = ()

    @property
    def word(self) -> str:
        """`good`, `usable` or `not usable`."""
        if not self.usable:
            return "not usable"
        return "usable" if self.reasons else "good"


def refused(error: MeasurementError) -> Verdict:
    """The verdict for a recording that could not be read."""
    seen = tuple(Reason(code) for code in error.noticed if code != error.code)
    return Verdict(False, (*seen, Reason(error.code, error.variant, error.figures)))


def verdict(found: Iterable[str | Reason]) -> Verdict:
    """The verdict that follows from codes, or from reasons with figures; each code is told once, as it came first."""
    unique: dict[str, Reason] = {}
    for item in found:
        told = Reason(item) if isinstance(item, str) else item
        unique.setdefault(told.code, told)
    return Verdict(not any(code in _FATAL or code in _SPOILS for code in unique), tuple(unique.values()))


@dataclass(frozen=True)
class Checked:
    """One channel, cleaned, ready to be read, what was noticed on the way, and all channels that carry something, as
    they came.
    """

    raw: FloatArray
    offset: float
    codes: tuple[str, ...]
    alive: tuple[FloatArray, ...]

    @cached_property
    def samples(self) -> FloatArray:
        """The channel without its offset, (n,)."""
        return self.raw - self.offset


def checked(channels: FloatArray, sample_rate_hz: float, *, bits: int | None = None) -> Checked:
    """Choose a channel, clean it, and name its faults.

    channels : (n_channels, n), full scale 1. bits : bit depth of the file when known.
    Raises MeasurementError `silent` when there is nothing at all.
    """
    codes: list[str] = []
    # channel by channel: ten minutes of one are 230 MB
    if not all(np.isfinite(channel).all() for channel in channels):
        codes.append("not_a_number")
        channels = np.nan_to_num(channels, nan=0.0, posinf=0.0, neginf=0.0)
    if channels.size and max(float(channels.max()), -float(channels.min())) > _ABSURD:
        # floats that no converter gives: squared they would overflow
        codes.append("not_a_number")
        channels = np.where(np.abs(channels) > _ABSURD, 0.0, channels)
    power = np.array([np.var(channel) for channel in channels]) if channels.shape[1] else np.zeros(1)
    if channels.shape[1] == 0 or float(power.max()) < _SILENT**2:
        raise MeasurementError("silent")
    best = int(np.argmax(power > 0.1 * power.max()))
    if np.any(power < 1e-6 * power.max()) and len(power) > 1:
        codes.append("dead_channel")
    samples = channels[best]
    offset = float(samples.mean())
    rms = float(np.sqrt(power[best]))
    if abs(offset) > max(0.1 * rms, 0.002) and abs(offset) > 0.001:
        codes.append("dc_offset")
    peak = _peak(samples)
    if peak > 1.0005:
        codes.append("over_full_scale")
    alive = tuple(channel for channel, its in zip(channels, power, strict=True) if its >= 1e-6 * power.max())
    if any(clipped_share(channel) > 0 for channel in alive):
        codes.append("clipped")
    elif any(flat_tops(channel, sample_rate_hz) for channel in alive):
        codes.append("flat_topped")
    if 20 * np.log10(peak) < _QUIET_PEAK_DBFS:
        codes.append("too_quiet")
    if bits is not None and bits <= 8:
        codes.append("low_resolution")
    if _gated(samples, sample_rate_hz):
        codes.append("gated")
    if sample_rate_hz < 16_000:
        codes.append("narrow_band")
    return Checked(samples, offset, tuple(codes), alive)


def at_the_last_bit(samples: FloatArray) -> bool:
    """Whether nothing but a converter's last bit moves: a handful of values, evenly spaced, and no more.

    Dither and hiss of one step look like a very quiet room; they are what the file can hold.
    """
    values = np.unique(samples[: 10 * 48_000])
    return 1 < len(values) <= _LAST_BIT_VALUES and bool(np.ptp(np.diff(values)) <= 0.01 * np.max(np.diff(values)))


def clipped_share(samples: FloatArray) -> float:
    """Share of samples in runs of two or more at digital full scale. [-]"""
    if _peak(samples) < _FULL_SCALE:
        return 0.0
    at_limit: BoolArray = np.asarray((samples >= _FULL_SCALE) | (samples <= -_FULL_SCALE))
    runs = at_limit[1:] & at_limit[:-1] & (np.abs(np.diff(samples)) < 1e-3)
    share = float(np.mean(runs))
    return share if np.count_nonzero(runs) >= 2 else 0.0


def _peak(samples: FloatArray) -> float:
    """Largest magnitude, without a second copy of a long recording. [-]"""
    return max(float(samples.max()), -float(samples.min()))


def flat_tops(samples: FloatArray, sample_rate_hz: float = 48_000.0) -> bool:
    """Whether peaks are cut flat, at whatever level, as an overdriven preamplifier does; noise may ride on them.

    A round peak spends half the time that it lies within 4 d of its top within d of it (a parabola's law, and a
    sine's); one that rises slantwise a quarter. A wave that is cut flat spends nearly all of it there. Asked for
    several d, since noise on the flat part hides the small ones; of both polarities, in the loudest half seconds.
    """
    loudest = _loudest(samples, sample_rate_hz)
    return _cut_flat(loudest) or _cut_flat(-loudest)


def _loudest(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """The half seconds with the highest peaks, one after another, at most twenty seconds in all."""
    block = max(int(0.5 * sample_rate_hz), 1)
    count = len(samples) // block
    if count <= _LOUDEST_BLOCKS:
        return samples
    tiles = samples[: count * block].reshape(count, block)
    peaks = np.maximum(tiles.max(axis=1), -tiles.min(axis=1))
    return tiles[np.sort(np.argsort(peaks)[-_LOUDEST_BLOCKS:])].ravel()


def _cut_flat(samples: FloatArray) -> bool:
    top = float(samples.max())
    if top <= _LEAST_TOP:
        return False
    for depth in _DEPTHS:
        starts, ends = _runs(samples >= top * (1 - 4 * depth))
        inside = np.concatenate([[0], np.cumsum(samples >= top * (1 - depth))])
        within = inside[ends] - inside[starts]
        reach = within > 0
        length = ends - starts
        # long enough for a share to be told, and often enough to be no accident
        told = reach & (length >= _FLAT_RUN + 1)
        if np.count_nonzero(told) >= _LEAST_TOPS and float(np.sum(within[told])) > _FLAT_SHARE * float(
            np.sum(length[told])
        ):
            return True
    return False


def _runs(holds: BoolArray) -> tuple[IntArray, IntArray]:
    """Where stretches begin and end in which something holds."""
    turns = np.flatnonzero(holds[1:] != holds[:-1]) + 1
    starts = turns[holds[turns]]
    ends = turns[~holds[turns]]
    if holds[0]:
        starts = np.concatenate([[0], starts])
    if holds[-1]:
        ends = np.concatenate([ends, [len(holds)]])
    return starts, ends


def _gated(samples: FloatArray, sample_rate_hz: float) -> bool:
    """Stretches of exact digital silence (0.15 s and more) inside sound, or both before and after it: no microphone is
    that quiet.
    """
    quiet: BoolArray = np.asarray((samples < _SILENT) & (samples > -_SILENT))
    block = max(int(0.05 * sample_rate_hz), 1)
    full: BoolArray = np.asarray(quiet[: len(quiet) // block * block].reshape(-1, block).all(axis=1))
    sounding = np.flatnonzero(~full)
    if len(sounding) < 2:
        return False
    inside = full[sounding[0] : sounding[-1] + 1]
    around = min(int(sounding[0]), len(full) - 1 - int(sounding[-1]))
    return max(int(np.count_nonzero(inside)), around) >= 3


def gain_turned(samples: FloatArray, sample_rate_hz: float, sounding: tuple[float, float]) -> bool:
    """Whether the hiss sank by 10 dB right after something loud: automatic gain turned the chain down.

    sounding : when it was loud, from and to. [s] Read between 2 and 8 kHz, in the quiet before and in the first quiet
    second after.
    """
    sos = scipy.signal.butter(
        2, [2000.0, min(8000.0, 0.45 * sample_rate_hz)], btype="bandpass", fs=sample_rate_hz, output="sos"
    )
    hiss = scipy.signal.sosfilt(sos, samples)
    first, last = (int(edge * sample_rate_hz) for edge in sounding)
    before, after = hiss[int(0.05 * sample_rate_hz) : first], hiss[last : last + int(0.6 * sample_rate_hz)]
    if len(before) < 0.15 * sample_rate_hz or len(after) < 0.15 * sample_rate_hz:
        return False
    # the quietest eighth against a median, which lies 2.2 times below the mean of squared noise
    floor = 1e-12 + float(np.min(np.mean(after[: len(after) // 8 * 8].reshape(8, -1) ** 2, axis=1)))
    return 10 * np.log10((np.median(before**2) * 2.2 + 1e-12) / floor) > _TURNED_DB
