"""Silences held against each other: a cut between two, a house round."""

from collections.abc import Mapping

from keenquiet.advice.reasons import error_words
from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.read.figures import read_tone
from keenquiet.core.read.shares import house_round
from keenquiet.core.read.tone import RoomTone
from keenquiet.core.take.splice import splice
from keenquiet.service.answers.tones import RoundAnswer, ShareAnswer, SpliceAnswer, WorstThird
from keenquiet.store.audiofile import Audio


def splice_answer(first: Audio, second: Audio) -> SpliceAnswer:
    """Contract of `analyse splice`."""
    found = splice(_tone(first, "first"), _tone(second, "second"))
    return SpliceAnswer(
        heard=found.heard,
        broadband_db=found.broadband_db,
        worst=WorstThird(centre_hz=found.worst_hz, db=found.worst_db),
        new_tones=list(found.new_tones_hz),
        crossfade_ms=found.crossfade_ms,
    )


def round_answer(every: Audio, without: Mapping[str, Audio], again: Audio | None = None) -> RoundAnswer:
    """Contract of `analyse shares`. Raises InputError without anything that was off."""
    if not without:
        raise InputError("without", "nothing was off.", "Give NAME=FILE for each source that was switched off alone.")
    found = house_round(
        _tone(every, "all"),
        {name: _tone(audio, f"without.{name}") for name, audio in without.items()},
        None if again is None else _tone(again, "again"),
    )
    return RoundAnswer(
        valid=found.valid,
        again_db=found.again_db,
        shares=[ShareAnswer(name=s.name, level_db=s.level_db, plus_minus_db=s.plus_minus_db) for s in found.shares],
        flags=[] if again is not None else ["not_repeated"],
    )


def _tone(audio: Audio, field: str) -> RoomTone:
    """Raises InputError naming the field for a silence that cannot be read."""
    try:
        return read_tone(audio.channels, audio.sample_rate_hz, bits=audio.bits).tone
    except MeasurementError as exc:
        raise InputError(field, *error_words(exc)) from exc
