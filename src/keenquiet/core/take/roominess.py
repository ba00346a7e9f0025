"""The room heard in a take: how the ends of phrases fade.

A voice stops within some hundredths of a second; what is left then is the room. Of many ends the fastest count: a voice
may stop slowly, a room never fades faster than it does.

What is left is what the last moments before have fed the room, each fading since: held against that feed, the tail
tells how loud the room is against the direct sound, whatever the phrase ended with.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span
from keenquiet.core.types import FloatArray

_BEFORE_S: Final = 0.4  # of a phrase, by which its level is told
_LEAST: Final = 55  # moments
_LEAST_ENDS: Final = 3
_RANGE_DB: Final = 15.0  # of decay that must be seen over the pause's noise
_ROOMY_S: Final = 0.45
_ROOMY_OVER_DB: Final = -20.0  # the tail's first level under the phrase, from which a room is plainly heard
_SPREAD_DB: Final = 4.5  # between quartiles of the ends, from which nothing is told
_ALIKE: Final = 1.36  # of the quartiles of what ends fade in: rooms had up to 1.3, steady noise 1.4 and more
_QUARTILES: Final = 1.35  # apart, in standard deviations
_MEDIAN: Final = 1.25  # its standard error over the mean's
_LEAST_ERROR_DB: Final = 0.5
_TELLING_ENDS: Final = 5
_TELLING_S: Final = 0.4
_STOPS_S: Final = 0.05  # a performer, for a room to be told from the stopping
_STOPPED_DB: Final = 3.0  # under what was before
_SETTLED: Final = 10  # moments before the stop, till which the phrase sounds on
_ROOM_ALONE_DB: Final = 1.5  # over the tail's line
_TELLING_DB: Final = 2.0
_FED: Final = 0.6  # of the decay time, over which a room is fed before an end
_HALVINGS: Final = 16
_AFTER_S: Final = 0.04  # of a phrase's end, in which a voice stops


@dataclass(frozen=True)
class End:
    """of : number of its phrase. stop, until : moments between which only the room is heard. tail_db : its first level
    against the phrase. decay_s : T60 by its slope. stops_s : from where the level leaves the phrase's to where it
    is the tail's. room_db : the room against the direct sound.
    """

    of: int
    stop: int
    until: int
    tail_db: float
    decay_s: float
    stops_s: float
    room_db: float = 0.0


@dataclass(frozen=True)
class Fading:
    """decay_s : of the room, T60 by the ends' slope. tail_db : its first level under the phrase. direct_over_room_db :
    as the ends tell it, None where they do not agree. ends : those that told it.
    """

    decay_s: float
    tail_db: float
    direct_over_room_db: float | None
    ends: tuple[End, ...]

    @property
    def agree(self) -> bool:
        """Whether the ends fade alike, as one room does; what fades into a steady tone or hiss does not."""
        low, high = np.percentile([end.decay_s for end in self.ends], (25, 75))
        return bool(high < _ALIKE * low)

    @property
    def usual_room_db(self) -> tuple[float, float]:
        """The room against the direct sound by the middle end, and its standard error: too rough for a figure, good
        against another take by the same performer in the same room, whose errors are the same. [dB]
        """
        low, middle, high = np.percentile([end.room_db for end in self.ends], (25, 50, 75))
        error = _MEDIAN * float(high - low) / _QUARTILES / float(np.sqrt(len(self.ends)))
        return float(middle), max(error, _LEAST_ERROR_DB)


def fading(moments: Moments, phrases: tuple[Span, ...]) -> Fading | None:
    """How the ends of phrases fade between 500 and 4000 Hz, None where fewer than three can be read."""
    level, plain = moments.level("speech", smooth=2), moments.level("speech")
    seconds = len(level) * HOP_S
    ends = []
    for number, phrase in enumerate(phrases):
        until = phrases[number + 1].start_s - 0.1 if number + 1 < len(phrases) else seconds - 0.1
        found = _end(level, plain, phrase, until, number)
        if found is not None:
            ends.append(found)
    if len(ends) < _LEAST_ENDS:
        return None
    decay = float(np.percentile([end.decay_s for end in ends], 30))
    rooms = _rooms_db(level, ends, decay, cut=True)
    told = tuple(replace(end, room_db=float(room)) for end, room in zip(ends, rooms, strict=True))
    tail_db = float(np.median([end.tail_db for end in told]))
    return Fading(decay, tail_db, _direct_over_room_db(level, told, decay), told)


def _rooms_db(level: FloatArray, ends: Sequence[End], decay_s: float, *, cut: bool) -> FloatArray:
    """The room against the direct sound by each end, (n_ends,). [dB]

    The room's energy is what direct sound has fed it, each moment's fading since: R' = g R + (1 - g) r D, with
    D = P - R of the sound heard, and r the ratio sought, that leads to the tail that is there. Energies, not
    levels: of sounds with few lines a tail's level swings, and its mean lies too low.

    cut : D is none below zero. A loud room then seems 0.6 dB to 5 dB softer than it is, for what swings about R
    feeds it twice; without it single ends run away, whose errors no comparison of two takes survives.
    """
    fades = float(10 ** (-6 * HOP_S / decay_s))
    length = min(max(round(_FED * decay_s / HOP_S), 20), min(end.stop for end in ends))
    heard = np.stack([10 ** (level[end.stop - length : end.stop] / 10) for end in ends], axis=1)
    tails = np.array(
        [
            np.sum(10 ** (level[end.stop : end.until] / 10)) / np.sum(fades ** np.arange(end.until - end.stop))
            for end in ends
        ]
    )
    low, high = np.full(len(ends), -40.0), np.full(len(ends), 20.0)
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        ratio = 10 ** (middle / 10)
        room = heard[0] * ratio / (1 + ratio)
        for power in heard:
            direct = np.maximum(power - room, 0.0) if cut else power - room
            room = fades * room + (1 - fades) * ratio * direct
        more = room < tails
        low, high = np.where(more, middle, low), np.where(more, high, middle)
    found: FloatArray = (low + high) / 2
    return found


def _direct_over_room_db(level: FloatArray, ends: tuple[End, ...], decay_s: float) -> float | None:
    """None where the ends do not agree, where the performer stops too slowly to be told from the room, as instruments
    do, or where the room is as loud as the direct sound: a tail then says little, for it stops rising with the room.
    """
    stops = float(np.median([end.stops_s for end in ends]))
    if len(ends) < _TELLING_ENDS or decay_s < _TELLING_S or stops > _STOPS_S:
        return None
    room = _rooms_db(level, ends, decay_s, cut=False)
    if float(np.percentile(room, 75) - np.percentile(room, 25)) > _SPREAD_DB:
        return None
    # the mean of energies, without the loudest: one voice that stopped slowly passes for a room
    told = -10 * float(np.log10(np.mean(10 ** (np.sort(room)[: len(room) - 1] / 10))))
    return told if told >= _TELLING_DB else None


def _end(level: FloatArray, plain: FloatArray, phrase: Span, until_s: float, number: int) -> End | None:
    """One phrase's end, None where too little is seen. level, plain : over two moments and of each, (n_moments,)."""
    first, last = round((phrase.end_s - _BEFORE_S) / HOP_S), round(min(until_s, phrase.end_s + 1.6) / HOP_S)
    part = level[max(first, 0) : last]
    if len(part) < _LEAST:
        return None
    loud = float(np.percentile(part[: round((_BEFORE_S + 0.05) / HOP_S)], 80))
    floor = float(np.percentile(part[-max(len(part) // 4, 8) :], 50))
    above = np.flatnonzero(part > loud - 6)
    stop = int(above[-1]) + round(_AFTER_S / HOP_S) if len(above) else 0
    usable = part[stop:]
    low = np.flatnonzero(usable < floor + 5)
    end = int(low[0]) if len(low) else len(usable)
    if end < 5 or float(usable[0]) - floor < _RANGE_DB:
        return None
    slope, start = np.polyfit(np.arange(end) * HOP_S, usable[:end], 1)
    if slope >= -10:
        return None
    stopped, until = max(first, 0) + stop, max(first, 0) + stop + end
    stops_s = _stops_s(plain, stopped, until)
    return End(number, stopped, until, float(start) - loud, -60 / float(slope), stops_s)


def _stops_s(level: FloatArray, stop: int, until: int) -> float:
    """How long the direct sound takes to vanish in the tail. [s]"""
    at = np.arange(max(stop - round(_BEFORE_S / HOP_S), 0), until)
    slope, start = np.polyfit(np.arange(stop, until), level[stop:until], 1)
    before = np.median(level[at[0] : stop - _SETTLED])
    last = int(at[level[at] > before - _STOPPED_DB][-1])
    alone = np.flatnonzero(level[last:until] < start + slope * np.arange(last, until) + _ROOM_ALONE_DB)
    return float(alone[0] if len(alone) else until - last) * HOP_S


def roomy(found: Fading | None, seconds: float) -> list[Finding]:
    """A finding where the room is plainly heard: it fades slowly and begins loud."""
    if found is None or not found.agree or found.decay_s < _ROOMY_S or found.tail_db < _ROOMY_OVER_DB:
        return []
    return [Finding("roomy", 0.0, seconds, found.decay_s, "s", 0.6)]
