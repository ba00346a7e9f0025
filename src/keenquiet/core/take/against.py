"""A take held against the performer's own line, recorded earlier at the same gain: nearer, further, turned, the wrong
side, boomy, thin, tuned otherwise; told apart by level, bass, treble and room together.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.take.finding import Finding
from keenquiet.core.take.levels import TakeLevels
from keenquiet.core.take.tuning import cents_apart
from keenquiet.core.types import BoolArray, FloatArray, IntArray

_BASS_HZ: Final = (80.0, 315.0)
_MIDDLE_HZ: Final = (500.0, 2000.0)
_TREBLE_HZ: Final = (4000.0, 10_000.0)
_VOICE_HZ: Final = (300.0, 4000.0)
_OVER_NOISE_DB: Final = 6.0
_COUNTS_DB: Final = 60.0  # under the loudest third octave nothing is compared
_TOLD_DB: Final = 1.5
_MOVED_DB: Final = 2.0
_TURNED_DB: Final = -3.5
_WRONG_DB: Final = -7.0
_DULL_DB: Final = -0.9
_OTHER_RANGE_DB: Final = 9.0  # of bass against middle: another range altogether
_OTHER_VOICE_DB: Final = 6.5  # spread of third octaves from which it is another voice, or another line
_TUNED_CENTS: Final = 6.0
_SHIFTED_DB: Final = 1.0
_MOSTLY: Final = 0.7  # of the treble's change, that the bass may change too
_FURTHER_THAN_FAR_DB: Final = -10.0  # three times the distance
_BY_THE_ROOM: Final = 0.33  # of the loss, that the direct sound loses against the room at least
# of the bass when the level changes by 6 dB with the distance, by a cardioid at a foot; and how far it scatters (ours)
_BASS_NEARER_DB: Final = 2.0
_BASS_FURTHER_DB: Final = 0.7
_BASS_UNSURE_DB: Final = 1.0
_ROOM_UNSURE_DB: Final = 2.0  # at least


@dataclass(frozen=True)
class Against:
    """The take less the line: level at the same gain, bass and treble against the middle, direct over room with its
    standard error [dB]; tuning [cents]. None where it cannot be told.

    spread_db : of the third octaves between 300 and 4000 Hz. other : another voice or another line, of which nothing is
    concluded. centres_hz, thirds_db : the whole difference at equal middle.
    """

    level_db: float
    bass_db: float | None
    treble_db: float | None
    direct_over_room_db: float | None
    room_unsure_db: float
    cents: float | None
    spread_db: float
    other: bool
    centres_hz: FloatArray
    thirds_db: FloatArray


def against(
    take: TakeLevels, line: TakeLevels, *, samples: FloatArray, line_samples: FloatArray, sample_rate_hz: float
) -> Against:
    """samples, line_samples : (n,), the second brought to the rate of the first."""
    shared, of_a, of_b = np.intersect1d(take.thirds_hz, line.thirds_hz, return_indices=True)
    a, b = take.thirds_db[of_a], line.thirds_db[of_b]
    counts = _stands_out(take, of_a) & _stands_out(line, of_b)

    def mean(band: tuple[float, float]) -> float | None:
        inside = counts & (shared >= 0.99 * band[0]) & (shared <= 1.01 * band[1])
        return float(np.mean((a - b)[inside])) if np.count_nonzero(inside) >= 2 else None

    level = mean(_MIDDLE_HZ)
    level = level if level is not None else take.active_dba - line.active_dba
    voice = counts & (shared >= _VOICE_HZ[0]) & (shared <= _VOICE_HZ[1])
    x = np.log2(shared[voice])
    rest = (a - b)[voice] - np.polyval(np.polyfit(x, (a - b)[voice], 1), x) if len(x) > 3 else np.zeros(1)
    spread = float(np.std(rest))
    bass, treble = mean(_BASS_HZ), mean(_TREBLE_HZ)
    room, unsure = _room_apart_db(take, line)
    return Against(
        level_db=level,
        bass_db=None if bass is None else bass - level,
        treble_db=None if treble is None else treble - level,
        direct_over_room_db=room,
        room_unsure_db=unsure,
        cents=cents_apart(line_samples, samples, sample_rate_hz),
        spread_db=spread,
        other=spread > _OTHER_VOICE_DB or abs(bass - level if bass is not None else 0.0) > _OTHER_RANGE_DB,
        centres_hz=shared[counts],
        thirds_db=(a - b)[counts] - level,
    )


def _room_apart_db(take: TakeLevels, line: TakeLevels) -> tuple[float | None, float]:
    """By how much direct over room grew from the line to the take, and its standard error. [dB]"""
    if take.fading is None or line.fading is None:
        return None, 0.0
    (now, error), (then, line_error) = take.fading.usual_room_db, line.fading.usual_room_db
    return then - now, float(np.hypot(error, line_error))


def _stands_out(levels: TakeLevels, which: IntArray) -> BoolArray:
    """Third octaves that the performance fills: over the noise in the pauses, and not far under the loudest."""
    heard = levels.thirds_db[which]
    out: BoolArray = np.asarray(heard > heard.max() - _COUNTS_DB)
    if levels.noise_thirds_db is not None:
        out &= heard > levels.noise_thirds_db[which] + _OVER_NOISE_DB
    return out


def against_findings(found: Against, seconds: float) -> list[Finding]:
    """What follows, about the whole take; one word for where the performer stood, and the tuning."""
    if found.other:
        return []
    bass, treble = (value or 0.0 for value in (found.bass_db, found.treble_db))
    told: list[tuple[str, float, str]] = []
    # two lines that are sung otherwise differ by themselves
    sure = max(_TOLD_DB, 2 * found.spread_db + 0.5)
    if found.cents is not None and abs(found.cents) >= _TUNED_CENTS:
        sure += _SHIFTED_DB  # notes tuned otherwise fall into other thirds
    moved = _came_or_went(found)
    # the back of a microphone is dull, and as if from further than anybody stands; who sings softly is dull as well,
    # but the room grows no louder against them
    room = found.direct_over_room_db
    behind = found.level_db <= (_WRONG_DB if treble <= _DULL_DB else _FURTHER_THAN_FAR_DB)
    if behind and room is not None and room <= _BY_THE_ROOM * found.level_db:
        told.append(("wrong_side", found.level_db, "dB"))
    elif abs(found.level_db) >= max(_MOVED_DB, sure) and moved:
        told.append(("nearer" if found.level_db > 0 else "further", found.level_db, "dB"))
    elif treble <= min(_TURNED_DB, -sure) and abs(bass) < -_MOSTLY * treble:
        told.append(("turned", treble, "dB"))
    elif abs(bass) >= sure:
        told.append(("boomy" if bass > 0 else "thin", bass, "dB"))
    if found.cents is not None and abs(found.cents) >= _TUNED_CENTS:
        told.append(("tuning", found.cents, "cents"))
    return [Finding(kind, 0.0, seconds, value, unit, 0.6) for kind, value, unit in told]


def _came_or_went(found: Against) -> bool:
    """Whether a change of level is one of distance, which is the likelier by room and bass together: who sings louder
    makes the room louder along, who comes nearer does not; and the bass grows with nearness.
    """
    level, way = found.level_db, float(np.sign(found.level_db))
    likelier = 0.0
    if found.direct_over_room_db is not None:
        unsure = max(found.room_unsure_db, _ROOM_UNSURE_DB)
        likelier += level * (found.direct_over_room_db - level / 2) / unsure**2
    if found.bass_db is not None:
        expected = _BASS_NEARER_DB if way > 0 else _BASS_FURTHER_DB
        likelier += expected * (way * found.bass_db - expected / 2) / _BASS_UNSURE_DB**2
    return likelier > 0
