"""Silences held against each other: a cut between two, a house round, two gains, a hum before and after a change."""

from collections.abc import Mapping
from typing import Final

import numpy as np

from keenquiet.advice.hum_tree import ENDS, START, STEPS, hum_words
from keenquiet.advice.hush import HUM_CAUTION, gain_words, round_words
from keenquiet.advice.reasons import error_words
from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.figures import read_tone
from keenquiet.core.read.gain_pair import gain_pair
from keenquiet.core.read.noises import Noise, noises_in
from keenquiet.core.read.quality import checked
from keenquiet.core.read.shares import Share, house_round
from keenquiet.core.read.tone import RoomTone
from keenquiet.core.take.room_tone import best_part
from keenquiet.core.take.splice import Splice, splice
from keenquiet.service.answers.tones import (
    FamilyChange,
    GainsAnswer,
    HumAnswer,
    HumTree,
    RoomToneAnswer,
    RoundAnswer,
    ShareAnswer,
    SpliceAnswer,
    WorstThird,
)
from keenquiet.store.audiofile import Audio

_SAME_HZ: Final = 0.02  # of its pitch: a motor that is loaded turns slower
_WENT_DB, _LESS_DB = -6.0, -2.0


def splice_answer(first: Audio, second: Audio) -> SpliceAnswer:
    """Contract of `analyse splice`."""
    found = splice(tone_of(first, "first"), tone_of(second, "second"))
    worst = WorstThird(centre_hz=found.worst_hz, db=found.worst_db)
    return SpliceAnswer.out_of(found, worst=worst, new_tones=found.new_tones_hz, words=_splice_words(found))


def _splice_words(found: Splice) -> str:
    if not found.heard:
        return f"A cut between these two is not heard: {abs(found.broadband_db):.1f} dB apart."
    why = []
    if found.new_tones_hz:
        why.append(f"a tone at {found.new_tones_hz[0]:.0f} Hz is in one of them only")
    if abs(found.broadband_db) > 2:
        why.append(
            f"the second is {abs(found.broadband_db):.1f} dB {'louder' if found.broadband_db > 0 else 'quieter'}"
        )
    if not why:
        why.append(f"they differ by {abs(found.worst_db):.1f} dB near {found.worst_hz:.0f} Hz")
    return f"A cut would be heard: {' and '.join(why)}. A crossfade of {found.crossfade_ms:.0f} ms hides it."


def round_answer(every: Audio, without: Mapping[str, Audio], again: Audio | None = None) -> RoundAnswer:
    """Contract of `analyse shares`. Raises InputError without anything that was off."""
    if not without:
        raise InputError("without", "nothing was off.", "Give NAME=FILE for each source that was switched off alone.")
    whole = tone_of(every, "all")
    off = {name: tone_of(audio, f"without.{name}") for name, audio in without.items()}
    found = house_round(whole, off, None if again is None else tone_of(again, "again"))
    told = [share for share in found.shares if share.level_db is not None]
    return RoundAnswer.out_of(
        found,
        shares=[_share(share, whole) for share in found.shares],
        thirds_hz=whole.thirds_hz,
        all_db=whole.laeq_db,
        all_thirds_db=whole.thirds_db,
        words=round_words(
            valid=found.valid,
            again_db=found.again_db,
            told=len(told),
            untold=[share.name for share in found.shares if share.level_db is None],
            loudest=told[0].name if told else None,
        ),
        flags=[] if again is not None else ["not_repeated"],
    )


def _share(share: Share, whole: RoomTone) -> ShareAnswer:
    """off_wins_db : by how much the whole sinks without it."""
    left = None if share.level_db is None else 1 - 10 ** ((share.level_db - whole.laeq_db) / 10)
    return ShareAnswer.out_of(share, off_wins_db=None if left is None or left <= 0 else -10 * float(np.log10(left)))


def gains_answer(low: Audio, high: Audio, gain_db: float = 10.0) -> GainsAnswer:
    """Contract of `analyse gains`. Raises InputError when the two cannot be told apart."""
    try:
        found = gain_pair(tone_of(low, "low"), tone_of(high, "high"), gain_db=gain_db)
    except MeasurementError as exc:
        raise InputError("high", *error_words(exc)) from exc
    return GainsAnswer.out_of(found, words=gain_words(found))


def room_tone_answer(audio: Audio) -> RoomToneAnswer:
    """Contract of `analyse room-tone`. Raises InputError for less than twenty seconds."""
    try:
        clean = checked(audio.channels, audio.sample_rate_hz, bits=audio.bits)
        found = best_part(clean.samples, audio.sample_rate_hz)
    except MeasurementError as exc:
        raise InputError("file", *error_words(exc)) from exc
    disturbed = " Something passes even there: take another." if found.disturbed else ""
    words = f"Best from {found.start_s:.1f} to {found.end_s:.1f} s: it wanders by {found.swing_db:.1f} dB.{disturbed}"
    return RoomToneAnswer.out_of(found, words=words)


def hum_answer(before: Audio, after: Audio) -> HumAnswer:
    """Contract of `analyse hum`: which families of tones went with what was changed."""
    first, second = (
        [n for n in noises_in(tone_of(audio, field)) if n.kind in ("hum", "fan", "whine")]
        for audio, field in ((before, "before"), (after, "after"))
    )
    families = []
    for one in first:
        there = _same(one, second)
        change = None if there is None else there.level_db - one.level_db
        outcome = "went" if change is None or change < _WENT_DB else "less" if change < _LESS_DB else "stayed"
        families.append(
            FamilyChange.out_of(
                one,
                before_db=one.level_db,
                after_db=None if there is None else there.level_db,
                change_db=change,
                outcome=outcome,
            )
        )
    families += [
        FamilyChange.out_of(n, before_db=None, after_db=n.level_db, change_db=None, outcome="new")
        for n in second
        if _same(n, first) is None
    ]
    words = hum_words([(f.kind, f.f_hz, f.change_db) for f in families if f.outcome != "new"])
    return HumAnswer(families=families, words=words, caution=HUM_CAUTION)


def _same(noise: Noise, among: list[Noise]) -> Noise | None:
    """The family with the same pitch. A mains hum keeps it, a motor nearly does."""
    near = [n for n in among if n.kind == noise.kind and abs(np.log(n.f_hz / noise.f_hz)) < _SAME_HZ]
    return max(near, key=lambda n: n.level_db, default=None)


def hum_tree() -> HumTree:
    """The questions and where they lead."""
    return HumTree(start=START, steps=STEPS, ends=ENDS, caution=HUM_CAUTION)


def tone_of(audio: Audio, field: str) -> RoomTone:
    """Raises InputError naming the field for a silence that cannot be read."""
    try:
        return read_tone(audio.channels, audio.sample_rate_hz, bits=audio.bits).tone
    except MeasurementError as exc:
        raise InputError(field, *error_words(exc)) from exc
