"""Soft overload: tops that are pressed rather than cut, the more the louder it is played.

Held against each other are loud and quieter moments of the same note and vowel: who plays louder plays brighter, and
the tops rise by more than the mean; pressed tops rise by less. Told only where quieter passages of the same take are
round, so that a bright, square or mastered sound, which is so at every level, is none.

Where no loud moment has a quieter one like it, the shape of the tops decides: a round wave spends half of the time that
it lies within 4 d of its top within d of it, what is pressed spends more. A take held down all along has no round
moment at all: its tops pile up under a ceiling.
"""

from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_FRAME_S: Final = 0.03
_DEPTH: Final = 0.1
_LOUD_DB: Final = 4.0  # under the loudest frames
_MIDDLE_DB: Final = (8.0, 24.0)
_LEAST: Final = 12
_PRESSED: Final = 0.53  # of its most pressed quarter: a sine half of the time, a square all of it
_MORE: Final = 0.1  # than in quieter passages
_CREST_DB: Final = 3.8  # a sine 3.0, a voice 5 to 10
_LOST_DB: Final = 1.5
_QUIETER_DB: Final = (7.0, 26.0)  # under the loudest, of moments to hold against
_STEADY_DB: Final = 5.0  # from one moment to the next
_LEFT: Final = 11  # moments before, from which a room may ring on
_LEFT_DB: Final = 6.0
_VOICED: Final = 0.5  # of the self-likeness one period later
_PITCH_HZ: Final = (75.0, 800.0)
_OCTAVES: Final = 1 / 8  # of the pitches of moments that are held against each other
_BANDS_HZ: Final = ((80.0, 400.0), (400.0, 900.0), (900.0, 2000.0))
_BALANCE_DB: Final = (4.0, 6.0)  # of the upper bands against the lowest, likewise
_LEAST_MATCHED: Final = 8
_MOST: Final = 1200
_MANY_NOTES: Final = 6
# estimates, set on 150 clean takes in the demo's lively room (1.0 to 1.5 dB by chance with few notes), 40 pressed ones
_MATCHED_LOST_DB: Final = (1.2, 1.5)
_MATCHED_SHARE: Final = 0.66
_NOTE: Final = 8  # moments: what lies closer together is of one note, and of a note counts
_OF_A_NOTE: Final = 4
_SIGMAS: Final = 2.7
# moments within 1 dB of the top against those 2 to 3 dB under it: up to 2.2 in 62 takes of real recordings and 48 made
# ones, 2.7 to 16 of spoken ones through tanh (`python -m bench.recorded`); of their RMS what lies between 10th and 90th
# percentile
_PILED: Final = 2.6
_LEAST_PILED: Final = 30
_LOUDER_DB: Final = 1.5


def soft_over(samples: FloatArray, sample_rate_hz: float) -> list[Finding]:
    """Where the loudest passages are pressed; value : by how much higher their tops would be, about. [dB]"""
    length = round(_FRAME_S * sample_rate_hz)
    frames = samples[: len(samples) // length * length].reshape(-1, length)
    peak = np.abs(frames).max(axis=1)
    level = 20 * np.log10(np.maximum(peak, 1e-9))
    top = float(np.percentile(level, 99.5))
    loud: BoolArray = np.asarray(level > top - _LOUD_DB)
    middle: BoolArray = np.asarray((level < top - _MIDDLE_DB[0]) & (level > top - _MIDDLE_DB[1]))
    told = None
    if np.count_nonzero(loud) >= _LEAST and np.count_nonzero(middle) >= 2 * _LEAST:
        at, lost = _lost_matched_db(frames, level - top, sample_rate_hz)
        told = _by_notes(at, lost) if len(lost) >= _LEAST_MATCHED else _by_shape(frames, peak, loud, middle)
    told = told or _by_ceiling(frames, level, top, middle)
    if told is None:
        return []
    by, sure = told
    places = np.flatnonzero(loud) * _FRAME_S
    return [
        Finding("soft_over", float(part[0]), float(part[-1]) + _FRAME_S, by, "dB", sure)
        for part in np.split(places, np.flatnonzero(np.diff(places) > 1.0) + 1)
        if len(part) >= 4
    ]


def _by_notes(at: IntArray, lost: FloatArray) -> tuple[float, float] | None:
    """By how much and how surely loud notes are pressed against quieter ones like them, None where they are not."""
    by, error, notes = _over_notes(at, lost)
    least = _MATCHED_LOST_DB[notes < _MANY_NOTES]
    pressed = notes >= 2 and by >= max(least, _SIGMAS * error) and np.mean(lost > 0) >= _MATCHED_SHARE
    return (by, 0.7) if pressed else None


def _by_shape(frames: FloatArray, peak: FloatArray, loud: BoolArray, middle: BoolArray) -> tuple[float, float] | None:
    """The same where no quieter moment is like a loud one."""
    by = _lost_by_shape_db(frames, peak, loud, middle)
    return None if by is None else (by, 0.5)


def _by_ceiling(frames: FloatArray, level: FloatArray, top: float, middle: BoolArray) -> tuple[float, float] | None:
    """Whether tops pile up under a ceiling though what lies beneath is louder and softer: held down all along, no
    moment of the take may be round enough to hold against.
    """
    highest = level > top - 1.0
    below: BoolArray = np.asarray((level > top - 3.0) & (level <= top - 2.0))
    if np.count_nonzero(highest) < max(_LEAST_PILED, _PILED * np.count_nonzero(below)):
        return None
    rms = 10 * np.log10(np.mean(frames[highest] ** 2, axis=1) + 1e-20)
    low, high = np.percentile(rms, (10, 90))
    if high - low < _LOUDER_DB:
        return None  # one held note is as even
    if not middle.any():
        return None  # nothing softer to hold it against
    usual = _crest_db(frames[middle], np.abs(frames[middle]).max(axis=1))
    by = float(np.median(usual) - np.median(level[highest] - rms))
    return (by, 0.6) if by >= _LOST_DB else None


def _lost_matched_db(frames: FloatArray, under_db: FloatArray, sample_rate_hz: float) -> tuple[IntArray, FloatArray]:
    """Loud moments that have two quieter ones of their pitch and colour, and by how much less their tops stand over
    their mean than those'. [-], [dB]
    """
    rms = 10 * np.log10(np.mean(frames**2, axis=1) + 1e-16)
    moved = np.abs(np.diff(rms, prepend=rms[0], append=rms[-1]))
    # what a louder moment has left in the room has rougher tops of its own
    before = scipy.ndimage.maximum_filter1d(rms, _LEFT, origin=(_LEFT - 1) // 2)
    own = (np.maximum(moved[:-1], moved[1:]) < _STEADY_DB) & (rms > before - _LEFT_DB)
    candidates = np.flatnonzero(own & (under_db > -_QUIETER_DB[1]))
    candidates = candidates[:: max(len(candidates) // _MOST, 1)]  # a long take has more than enough
    if not len(candidates):
        return np.zeros(0, dtype=np.int64), np.zeros(0)
    pitch, voiced, colour = _pitch_and_colour(frames[candidates], sample_rate_hz)
    steady, octaves, colour = candidates[voiced], np.log2(pitch[voiced]), colour[voiced]
    crest = _crest_db(frames[steady], np.abs(frames[steady]).max(axis=1))
    loud: BoolArray = np.asarray(under_db[steady] > -_LOUD_DB)
    quiet: BoolArray = np.asarray(under_db[steady] < -_QUIETER_DB[0])
    alike = np.abs(octaves[loud][:, None] - octaves[quiet]) < _OCTAVES
    alike &= np.all(np.abs(colour[loud][:, None] - colour[quiet]) < np.array(_BALANCE_DB), axis=2)
    chosen = np.count_nonzero(alike, axis=1) >= 2
    usual = np.nanmedian(np.where(alike[chosen], crest[quiet], np.nan), axis=1) if chosen.any() else np.zeros(0)
    lost: FloatArray = usual - crest[loud][chosen]
    return steady[loud][chosen], lost


def _over_notes(at: IntArray, lost: FloatArray) -> tuple[float, float, int]:
    """Mean over notes, its standard error, and how many: those of one note say the same again. [dB], [dB], [-]"""
    notes = np.split(lost, np.flatnonzero(np.diff(at) > _NOTE) + 1)
    of_each = np.array([np.median(note) for note in notes])
    weight = np.array([min(len(note), _OF_A_NOTE) for note in notes])
    mean = float(np.average(of_each, weights=weight))
    n = len(notes)
    error = float(np.linalg.norm(weight * (of_each - mean)) / weight.sum() * np.sqrt(n / max(n - 1, 1)))
    return mean, error, n


def _pitch_and_colour(frames: FloatArray, sample_rate_hz: float) -> tuple[FloatArray, BoolArray, FloatArray]:
    """Pitch of each [Hz], whether it has one, and its two upper bands against the lowest, (n_frames, 2). [dB]"""
    length = frames.shape[1]
    window = np.hanning(length)
    power = np.abs(scipy.fft.rfft(frames * window, 2 * length, axis=1)) ** 2
    own = scipy.fft.irfft(np.abs(scipy.fft.rfft(window, 2 * length)) ** 2)[:length]
    like = scipy.fft.irfft(power, axis=1)[:, :length]
    # what a window takes from its own later part is given back
    like = like / np.maximum(like[:, :1], 1e-20) / (own / own[0] + 1e-3)
    first, last = (int(sample_rate_hz / hz) for hz in reversed(_PITCH_HZ))
    lag = first + np.argmax(like[:, first:last], axis=1)
    f_hz = np.fft.rfftfreq(2 * length, 1 / sample_rate_hz)
    bands = [power[:, (f_hz >= low) & (f_hz < high)].sum(axis=1) for low, high in _BANDS_HZ]
    levels = 10 * np.log10(np.stack(bands, axis=1) + 1e-20)
    return sample_rate_hz / lag, like[np.arange(len(frames)), lag] > _VOICED, levels[:, 1:] - levels[:, :1]


def _lost_by_shape_db(frames: FloatArray, peak: FloatArray, loud: BoolArray, middle: BoolArray) -> float | None:
    """By how much less loud tops stand over their mean, where their shape is that of pressed ones, else None. [dB]"""
    pressed, plain = (_at_the_top(frames[which], peak[which]) for which in (loud, middle))
    crest = [float(np.median(_crest_db(frames[which], peak[which]))) for which in (middle, loud)]
    share, usual = (float(np.percentile(part, 75)) for part in (pressed, plain))
    round_still = crest[1] > _CREST_DB or crest[0] - crest[1] < _LOST_DB
    return None if round_still or share < _PRESSED or share - usual < _MORE else crest[0] - crest[1]


def _at_the_top(frames: FloatArray, peak: FloatArray) -> FloatArray:
    """Share of the time near each frame's top that is spent at it, the side of the higher tops, (n_frames,)."""
    sign = np.where(frames.max(axis=1) >= -frames.min(axis=1), 1.0, -1.0)
    upright = frames * sign[:, None] / peak[:, None]
    near = np.count_nonzero(upright > 1 - 4 * _DEPTH, axis=1)
    at: FloatArray = np.count_nonzero(upright > 1 - _DEPTH, axis=1) / np.maximum(near, 1)
    return at


def _crest_db(frames: FloatArray, peak: FloatArray) -> FloatArray:
    crest: FloatArray = 20 * np.log10(peak / np.sqrt(np.mean(frames**2, axis=1) + 1e-20))
    return crest
