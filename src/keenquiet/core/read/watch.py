"""A watch: levels by the second of whatever is heard, small enough to keep whole nights of.

A second is nine bytes: the A-weighted level and the octaves, half a decibel each from a lowest level upwards, -127 dB
under full scale; 0 is unknown.
Eight hours are 260 kB.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, band_edges_hz, exact_octaves_hz
from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray

COLUMNS: Final = 9
CLIP_S: Final = 5.0
_STEP_DB: Final = 0.5
LOWEST_DBFS: Final = -127.0
_BEFORE_S: Final = 2.0  # that a clip begins before what it is of
_JOINED_MS: Final = 100
_RISE_DB: Final = 10.0  # over the usual of the last minutes, from which a clip is worth keeping


def second_levels_db(samples: FloatArray, sample_rate_hz: float) -> FloatArray:
    """A-weighted and octave levels of each whole second, (n_seconds, 9). samples : (n,), full scale 1. [dBFS]

    By the power spectrum of each second under a Hann window: 1.5 Hz wide, so that octaves down to 63 Hz part within
    0.2 dB. Octaves that the sample rate does not reach are NaN.
    """
    rate = round(sample_rate_hz)
    seconds = samples[: len(samples) // rate * rate].reshape(-1, rate)
    if not len(seconds):
        return np.zeros((0, COLUMNS))
    window = np.hanning(rate)
    power = np.abs(np.fft.rfft(seconds * window, axis=1)) ** 2 * 2 / (rate * np.sum(window**2))
    f_hz = np.arange(power.shape[1], dtype=float)
    cumulative = np.concatenate([np.zeros((len(power), 1)), np.cumsum(power, axis=1)], axis=1)
    low, high = band_edges_hz(exact_octaves_hz(), fraction=1)
    first, last = (np.clip(np.round(edge + 0.5).astype(int), 0, power.shape[1]) for edge in (low, high))
    octaves = 10 * np.log10(np.maximum(cumulative[:, last] - cumulative[:, first], 1e-14))
    octaves[:, high > f_hz[-1]] = np.nan
    weighted = 10 * np.log10(np.maximum(np.nansum(10 ** ((octaves + A_WEIGHTING_OCTAVES_DB) / 10), axis=1), 1e-14))
    levels: FloatArray = np.concatenate([weighted[:, None], octaves], axis=1)
    return levels


def packed(levels_db: FloatArray, lowest_db: float = LOWEST_DBFS) -> bytes:
    """Levels (n, 9) as bytes, NaN as unknown; a hundred and twenty-seven decibels from the lowest on."""
    codes = np.round((levels_db - lowest_db) / _STEP_DB)
    return np.where(np.isfinite(levels_db), np.clip(codes, 1, 255), 0).astype(np.uint8).tobytes()


def unpacked(content: bytes, lowest_db: float = LOWEST_DBFS) -> FloatArray:
    """Bytes as levels, (n, 9). [dB]  Raises InputError for what is no whole number of seconds."""
    if len(content) % COLUMNS:
        raise InputError("levels", "are no whole seconds.", "Send nine values for each.")
    codes: npt.NDArray[np.uint8] = np.frombuffer(content, dtype=np.uint8).reshape(-1, COLUMNS)
    levels: FloatArray = np.where(codes > 0, codes * _STEP_DB + lowest_db, np.nan)
    return levels


@dataclass(frozen=True)
class Loud:
    """A second of a block worth a clip: its number, and by how much it stands out. [dB]"""

    second: int
    rise_db: float


def worth_a_clip(levels_dba: FloatArray, before_dba: FloatArray) -> tuple[Loud, ...]:
    """Seconds in which something begins to pass, at most one for each clip's length.

    levels_dba : (n,) of this block. before_dba : (m,) of the minutes before it, whose median is the usual.
    """
    known = np.concatenate([before_dba, levels_dba])
    if not len(levels_dba):
        return ()
    usual = float(np.nanmedian(known))
    found: list[Loud] = []
    for second, level in enumerate(levels_dba):
        rise = float(level) - usual
        if rise < _RISE_DB:
            continue
        if found and second - found[-1].second < CLIP_S:
            if rise > found[-1].rise_db:
                found[-1] = Loud(found[-1].second, rise)
            continue
        found.append(Loud(second, rise))
    return tuple(found)


@dataclass(frozen=True)
class Clip:
    """Some seconds of sound: when they begin [ms since 1970], (n,) samples, and how far it stood out. [dB]"""

    at_ms: int
    samples: FloatArray
    rise_db: float


class Ear:
    """The last seconds of a watch, and the clips that wait for their end."""

    def __init__(self) -> None:
        self._samples: FloatArray = np.zeros(0)
        self._rate_hz = 0.0
        self._end_ms = 0
        self._waiting: list[tuple[int, float]] = []
        self._taken_to_ms = 0

    def heard(self, from_ms: int, rate_hz: float, samples: FloatArray, loud: tuple[Loud, ...]) -> list[Clip]:
        """Clips that are whole now. After a gap, or at another rate, those that wait are cut as far as they go."""
        due = []
        if rate_hz != self._rate_hz or abs(from_ms - self._end_ms) > _JOINED_MS:
            due = self._cut(whole_only=False)
            self._samples, self._rate_hz, self._end_ms = np.zeros(0), rate_hz, from_ms
        self._samples = np.concatenate([self._samples, samples])
        self._end_ms += round(1000 * len(samples) / rate_hz)
        for found in loud:
            at_ms = from_ms + 1000 * found.second
            if at_ms < self._taken_to_ms:
                continue  # it is in the clip before
            start = max(at_ms - round(1000 * _BEFORE_S), self._start_ms, self._taken_to_ms)
            self._waiting.append((start, found.rise_db))
            self._taken_to_ms = start + round(1000 * CLIP_S)
        due += self._cut(whole_only=True)
        oldest = min((start for start, _ in self._waiting), default=self._end_ms - round(1000 * CLIP_S))
        self._samples = self._samples[max(round((oldest - self._start_ms) / 1000 * rate_hz), 0) :]
        return due

    @property
    def _start_ms(self) -> int:
        return self._end_ms - round(1000 * len(self._samples) / self._rate_hz) if self._rate_hz else self._end_ms

    def _cut(self, *, whole_only: bool) -> list[Clip]:
        due, waiting = [], []
        for start, rise in self._waiting:
            first = max(round((start - self._start_ms) / 1000 * self._rate_hz), 0)
            part = self._samples[first : first + round(CLIP_S * self._rate_hz)]
            if whole_only and len(part) < CLIP_S * self._rate_hz:
                waiting.append((start, rise))
            elif len(part):
                due.append(Clip(start, part.copy(), rise))
        self._waiting = waiting
        return due
