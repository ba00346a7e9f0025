"""Kept silences held against each other: house round, two gains, a cut, a hum before and after, room tone."""

from collections.abc import Mapping

from keenquiet.core.errors import InputError
from keenquiet.service import tones
from keenquiet.service.answers.tones import GainsAnswer, HumAnswer, RoomToneAnswer, RoundAnswer, SpliceAnswer
from keenquiet.service.data import Data
from keenquiet.service.kinds import kind_named
from keenquiet.service.reading_set import sound_of
from keenquiet.service.readings import row_of
from keenquiet.store.audiofile import Audio


def _silence(data: Data, reading_id: str, field: str, room_id: str | None = None) -> Audio:
    """The sound of a kept silence. Raises InputError naming the field for what is none, or another room's."""
    row = row_of(data, reading_id)
    if kind_named(row.kind).form != "tone" or (room_id is not None and row.room_id != room_id):
        raise InputError(field, "is no silence of this room.", "Choose a recorded silence.")
    return sound_of(data, row)


def round_of(data: Data, room_id: str, all_on: str, without: Mapping[str, str], again: str | None) -> RoundAnswer:
    """A house round of kept silences."""
    return tones.round_answer(
        _silence(data, all_on, "all", room_id),
        {name: _silence(data, reading, f"without.{name}", room_id) for name, reading in without.items()},
        None if again is None else _silence(data, again, "again", room_id),
    )


def gains_of(data: Data, low: str, high: str, gain_db: float) -> GainsAnswer:
    """Two kept silences at two gains."""
    return tones.gains_answer(_silence(data, low, "low"), _silence(data, high, "high"), gain_db)


def splice_of(data: Data, first: str, second: str) -> SpliceAnswer:
    """A cut from one kept silence to another."""
    return tones.splice_answer(_silence(data, first, "first"), _silence(data, second, "second"))


def hum_of(data: Data, before: str, after: str) -> HumAnswer:
    """A hum before and after a change."""
    return tones.hum_answer(_silence(data, before, "before"), _silence(data, after, "after"))


def room_tone_of(data: Data, reading_id: str) -> RoomToneAnswer:
    """The best part of a kept silence."""
    return tones.room_tone_answer(_silence(data, reading_id, "file"))
