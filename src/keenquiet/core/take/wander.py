"""How a take wanders from phrase to phrase: louder, nearer or further, turned away, or at another level altogether.

Who sings louder makes the room louder along; who comes nearer does not. The tail after each phrase tells them apart.
Where it lies under the noise, the bass must: nearer is level and bass together. Turning away takes the treble.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.moments import HOP_S, Moments
from keenquiet.core.take.phrases import Span
from keenquiet.core.take.roominess import Fading
from keenquiet.core.types import BoolArray, FloatArray

_LEAST_PHRASES: Final = 4
_CREEP_DB: Final = 2.0
_TURNED_DB: Final = -4.0
_TILT_DB: Final = 1.0  # of bass against the middle over the take, that tells of distance
_LEAST_ENDS: Final = 4
_UNSURE: Final = 0.8  # of the rise: one tail stands for another within some decibels only
_LEAST_UNSURE_DB: Final = 2.0
_SURELY_NEARER: Final = 0.88  # creeping says louder or nearer: where neither is sure it is right still
_JUMP_DB: Final = 6.0
_EVEN_DB: Final = 2.5  # of either side of a jump
_BY_CHANCE: Final = 0.012  # that phrases which only scatter rise so evenly
_PLAIN_DB: Final = 3.5  # likewise of a smaller rise
_BY_CHANCE_SMALL: Final = 0.001
_PIECE: Final = 20  # moments
_SIGMAS: Final = 3.0
_USUAL_DB: Final = 10.0
_LEAST_PIECES: Final = 16


@dataclass(frozen=True)
class PhraseTone:
    """Level of a phrase. [dB]  tilts : time [s] of each fifth of a second of it, with its bass and its treble against
    the middle. [dB]
    """

    at_s: float
    level_db: float
    tilts: tuple[tuple[float, float, float], ...]


def phrase_tones(moments: Moments, phrases: Sequence[Span]) -> list[PhraseTone]:
    """One for each phrase of a fifth of a second and more."""
    found = []
    power = [10 ** (moments.level(band) / 10) for band in ("wide", "bass", "middle", "treble")]
    for phrase in phrases:
        first, last = round(phrase.start_s / HOP_S), round(phrase.end_s / HOP_S)
        count = (min(last, len(power[0])) - first) // _PIECE
        if count < 1:
            continue
        wide, bass, middle, treble = (p[first : first + count * _PIECE].reshape(count, _PIECE).mean(1) for p in power)
        times = phrase.start_s + (np.arange(count) + 0.5) * _PIECE * HOP_S
        tilts = zip(times, 10 * np.log10(bass / middle), 10 * np.log10(treble / middle), strict=True)
        level = 10 * float(np.log10(wide.mean()))
        told = tuple((float(t), float(low), float(high)) for t, low, high in tilts)
        found.append(PhraseTone((phrase.start_s + phrase.end_s) / 2, level, told))
    return found


def wandering(
    tones: Sequence[PhraseTone], seconds: float, *, ends: Fading | None = None, phrases: Sequence[Span] = ()
) -> list[Finding]:
    """A jump, or drift, creep or turning away over a take; nothing under four phrases.

    ends : how phrases end, which tells nearer from louder.
    """
    if len(tones) < _LEAST_PHRASES:
        return []
    level = np.array([t.level_db for t in tones])
    jump = _jump(level, tones)
    if jump is not None:
        return [jump]
    time = np.array([t.at_s for t in tones])
    at, bass, _ = (np.array(c) for c in zip(*(tilt for t in tones for tilt in t.tilts), strict=True))
    risen = _trend(time, level, seconds)
    if abs(risen) < _CREEP_DB:
        duller = _trend(time, np.array([np.median([high for _, _, high in t.tilts]) for t in tones]), seconds)
        return [Finding("turned", 0.0, seconds, duller, "dB", 0.5)] if duller <= _TURNED_DB else []
    nearer = _nearer_by_tails(ends, phrases, seconds, risen)
    if nearer is not None:
        moved = nearer > _SURELY_NEARER
        return [Finding("drift" if moved else "creep", 0.0, seconds, risen, "dB", nearer if moved else 0.6)]
    tilted, sure = _fitted(at, bass, seconds)
    kind = "drift" if sure and tilted * risen > 0 and abs(tilted) >= _TILT_DB else "creep"
    return [Finding(kind, 0.0, seconds, risen, "dB", 0.6 if sure else 0.5)]


def _nearer_by_tails(ends: Fading | None, phrases: Sequence[Span], seconds: float, risen_db: float) -> float | None:
    """Probability that it was distance that changed, and not loudness; None where the tails scatter too much.

    Against the phrase a tail that stays sinks by as much as the phrase rises, and one that follows not at all: which of
    both is the likelier by what is seen and its scatter.
    """
    if ends is None or len(ends.ends) < _LEAST_ENDS:
        return None
    time = np.array([phrases[end.of].end_s for end in ends.ends])
    fitted = scipy.stats.linregress(time, np.array([end.room_db for end in ends.ends]))
    sunk, unsure = -float(fitted.slope) * seconds, float(fitted.stderr) * seconds
    if unsure > _UNSURE * abs(risen_db):
        return None
    likelier = risen_db * (sunk - risen_db / 2) / max(unsure, _LEAST_UNSURE_DB) ** 2
    return float(np.clip(scipy.special.expit(likelier), 0.05, 0.95))


def _fitted(at_s: FloatArray, tilt: FloatArray, seconds: float) -> tuple[float, bool]:
    """By how much a tilt changes over the take [dB], and whether that is sure."""
    # esses and the stops between notes are left out: what lies far from the usual
    usual: BoolArray = np.asarray(np.abs(tilt - np.median(tilt)) < _USUAL_DB)
    if np.count_nonzero(usual) < _LEAST_PIECES:
        return 0.0, False
    fitted = scipy.stats.linregress(at_s[usual], tilt[usual])
    return float(fitted.slope) * seconds, abs(float(fitted.slope)) > _SIGMAS * float(fitted.stderr)


def _trend(time_s: FloatArray, values: FloatArray, seconds: float) -> float:
    """By how much values rise over the whole take, 0 where they only scatter. [dB]"""
    if np.std(values) < 1e-9:
        return 0.0
    by_chance = float(scipy.stats.linregress(time_s, values).pvalue)
    risen = float(scipy.stats.theilslopes(values, time_s)[0]) * seconds
    # of 220 clean takes of six to eight phrases two wandered so by 3.2 dB: a small rise takes many phrases to tell
    return risen if by_chance < (_BY_CHANCE if abs(risen) >= _PLAIN_DB else _BY_CHANCE_SMALL) else 0.0


def _jump(level: FloatArray, tones: Sequence[PhraseTone]) -> Finding | None:
    """A step between two levels, each of them even: where the phrases lie nearest to two levels altogether."""
    splits = np.arange(2, len(level) - 1)
    if not len(splits):
        return None
    ahead, total = np.cumsum(level)[splits - 1], float(np.sum(level))
    # the sum of squares about both means is least where what the means explain is most
    explained = ahead**2 / splits + (total - ahead) ** 2 / (len(level) - splits)
    at = int(splits[np.argmax(explained)])
    step = float(np.median(level[at:]) - np.median(level[:at]))
    if abs(step) < _JUMP_DB or max(float(level[:at].std()), float(level[at:].std())) >= _EVEN_DB:
        return None
    middle = (tones[at - 1].at_s + tones[at].at_s) / 2
    return Finding("jump", tones[at - 1].at_s, max(tones[at].at_s, middle), step, "dB", 0.8)
