"""Hear it: a dry line in the room as it is, with a plan, outdoors; all alike in loudness."""

from collections.abc import Sequence
from typing import Final

import numpy as np
from scipy import signal

from keenquiet.core.errors import InputError
from keenquiet.core.hear.impulse import RATE_HZ, impulse_of, outdoors
from keenquiet.core.hear.line import at_rate, heard_through, loudness_lufs
from keenquiet.core.judge.forecast import Forecast, forecast
from keenquiet.core.types import FloatArray
from keenquiet.documents.schema import RoomDoc
from keenquiet.rig.recorder import made_line
from keenquiet.service.answers.hearing import HeardAnswer
from keenquiet.service.data import Data
from keenquiet.service.kinds import kind_named
from keenquiet.service.predict import acoustics_of
from keenquiet.service.reading_set import loudest_channel, sound_of
from keenquiet.service.readings import row_of
from keenquiet.store.audiofile import Audio, wav_bytes

OUTDOORS: Final = "outdoors"
MOST_VERSIONS: Final = 4
MOST_S: Final = 12.0  # of a line that is switched between on the page
MOST_FILE_S: Final = 180.0
ROOMY_DB: Final = 15.0  # less direct sound over the room than this, and a take brings its own room along
_PEAK: Final = 0.89


def versions_wav(room: RoomDoc, versions: Sequence[str], dry: FloatArray) -> bytes:
    """A line (n,) at RATE_HZ in every version, one channel each, so that switching leaves no gap. versions :
    arrangements by their id, and `outdoors`. Raises InputError for none, too many or unknown ones.
    """
    if not 1 <= len(versions) <= MOST_VERSIONS:
        raise InputError("versions", f"{len(versions)} cannot be held side by side.", f"Choose 1 to {MOST_VERSIONS}.")
    lines = heard_through(dry[: int(MOST_S * RATE_HZ)], [_impulse(room, version) for version in versions])
    return wav_bytes(np.stack(lines), RATE_HZ, subtype="PCM_16")


def in_versions(
    data: Data, room: RoomDoc, versions: Sequence[str], reading_id: str | None, seed: int
) -> tuple[bytes, bool]:
    """A take of one's own, else a line that is made, in every version as WAV; whether it brings this room along, which
    is then heard twice.
    """
    dry = line_for(room, seed=seed) if reading_id is None else line_of(data, reading_id)
    return versions_wav(room, versions, dry), reading_id is not None and is_roomy(room)


def _impulse(room: RoomDoc, version: str) -> FloatArray:
    result = _result(room, None if version == OUTDOORS else version)
    return outdoors(result) if version == OUTDOORS else impulse_of(result)


def _result(room: RoomDoc, arrangement_id: str | None) -> Forecast:
    scenario, acoustics = acoustics_of(room, room.arrangement_doc(arrangement_id))
    return forecast(acoustics, scenario.arrangement, hour=scenario.hour, uncertainty=False)


def line_for(room: RoomDoc, *, seed: int = 1) -> FloatArray:
    """A dry line made for this room's performer, at RATE_HZ."""
    scenario, _ = acoustics_of(room, room.arrangement_doc(None))
    return made_line(scenario.arrangement.performer.source, seed=seed)


def line_of(data: Data, reading_id: str) -> FloatArray:
    """A take or a spoken line of one's own, at RATE_HZ. Raises InputError for a reading that is neither."""
    row = row_of(data, reading_id)
    if kind_named(row.kind).form != "take":
        raise InputError("reading", "is no take or spoken line.", "Choose one that was sung, played or spoken.")
    audio = sound_of(data, row)
    return at_rate(loudest_channel(audio), audio.sample_rate_hz)


def is_roomy(room: RoomDoc) -> bool:
    """Whether what is recorded in this room as it stands brings much of it along."""
    return _result(room, None).bounce.direct_over_room_db.value < ROOMY_DB


def heard(room: RoomDoc, audio: Audio, arrangement_id: str | None) -> tuple[bytes, HeardAnswer]:
    """Contract of `hear`: a dry line played in the room, as WAV. Long lines come out as loud as on the page, a click
    with its peak at -1 dBFS. arrangement_id : `outdoors` for none of the room.
    """
    dry = at_rate(loudest_channel(audio), audio.sample_rate_hz)
    if len(dry) > MOST_FILE_S * RATE_HZ:
        raise InputError("dry", "is too long to be heard at once.", f"Give {MOST_FILE_S:.0f} s at most.")
    if not np.any(dry):
        raise InputError("dry", "is silent.", "Give a line that was recorded close and dry.")
    impulse = _impulse(room, arrangement_id) if arrangement_id else _impulse(room, room.arrangement_doc(None).id)
    try:
        line = heard_through(dry, [impulse])[0]
        loudness: float | None = loudness_lufs(line)
    except InputError:
        played = signal.oaconvolve(dry, impulse)
        line, loudness = played / np.max(np.abs(played)) * _PEAK, None
    answer = HeardAnswer(
        sample_rate_hz=RATE_HZ,
        seconds=len(line) / RATE_HZ,
        loudness_lufs=loudness,
        peak_dbfs=float(20 * np.log10(np.max(np.abs(line)))),
        direct_over_room_db=None
        if arrangement_id == OUTDOORS
        else _result(room, arrangement_id).bounce.direct_over_room_db.value,
        flags=[],
    )
    return wav_bytes(line, RATE_HZ), answer
