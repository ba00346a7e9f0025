"""A song recorded by hand: its sound comes in blocks while it is sung, for as long as two hours, and is filed as a take
when it ends.

Samples lie in `songs/` of the data folder, 32-bit as they came, what belongs to them beside them: after a crash, a
reload or a full disk what was sung until then can still be filed. A block that comes again is kept once.
"""

import json
import os
import tempfile
import threading
from datetime import datetime
from pathlib import Path
from typing import Any, Final
from uuid import UUID

import numpy as np
import soundfile

from keenquiet.core.errors import InputError
from keenquiet.core.take.moments import moments_of
from keenquiet.core.take.overs import clipped_runs
from keenquiet.core.take.pops import find_pops
from keenquiet.core.types import FloatArray
from keenquiet.service.answers.readings import ReadingAnswer
from keenquiet.service.answers.songs import SongAnswer, SongHeard
from keenquiet.service.data import Data, new_id, now, room_row
from keenquiet.service.readings import settings_of, take_in
from keenquiet.store.apart import TEMPORARY
from keenquiet.store.audiofile import HOURS_S
from keenquiet.store.errors import NotFound, disk_trouble

_RATES_HZ: Final = (8_000, 192_000)
_MOST_CHANNELS: Final = 2
_MOST_BLOCK_S: Final = 30
_EAR_S: Final = 4.0  # a puff is one against what is around it
_SETTLED_S: Final = 0.4  # a burst that has not ended yet may still be a note
_COPIED: Final = 1 << 18
_SAMPLE: Final = np.dtype("<f4")

_lock = threading.Lock()


def begun(
    data: Data, room_id: str, *, rate_hz: float, channels: int, arrangement_id: str | None, settings: dict[str, Any]
) -> SongAnswer:
    """A song that is about to be sung in a room. Raises InputError for a rate or settings that cannot be."""
    if not _RATES_HZ[0] <= rate_hz <= _RATES_HZ[1] or rate_hz != int(rate_hz):
        raise InputError("rate_hz", f"{rate_hz:g} Hz is no rate for sound.", "Send 8 000 to 192 000 Hz, whole.")
    if not 1 <= channels <= _MOST_CHANNELS:
        raise InputError("channels", f"{channels} are too many or none.", "Send one or two.")
    settings_of(settings)
    with data.database.session() as session:
        room_row(session, room_id)
    song_id = new_id()
    told = {
        "room_id": room_id,
        "arrangement_id": arrangement_id,
        "began_at": now().isoformat(),
        "rate_hz": int(rate_hz),
        "channels": channels,
        "settings": settings,
    }
    sound, beside = _files(data, song_id)
    try:
        sound.parent.mkdir(exist_ok=True)
        sound.touch()
        beside.write_text(json.dumps(told), encoding="utf-8")
    except OSError as exc:
        raise disk_trouble(exc, "the song") from exc
    return _answer(song_id, told, 0)


def heard(data: Data, song_id: str, *, from_frame: int, block: bytes) -> SongHeard:
    """Some seconds more, frames of 32-bit floats one after the other. from_frame : where they belong.

    Raises InputError for a block after a gap or past two hours, StorageFull when the disk is.
    """
    sound, told = _there(data, song_id)
    channels, rate = told["channels"], told["rate_hz"]
    width = channels * _SAMPLE.itemsize
    frames = len(block) // width
    if len(block) % width or not 0 < frames <= rate * _MOST_BLOCK_S:
        raise InputError("block", "is no block of up to 30 s.", "Send whole frames of 32-bit floats.")
    samples = np.frombuffer(block, dtype=_SAMPLE).reshape(-1, channels)
    if not np.all(np.isfinite(samples)):
        raise InputError("block", "holds what is no number.", "Record anew.")
    with _lock:
        kept = sound.stat().st_size // width
        if from_frame > kept:
            raise InputError("from_frame", f"{from_frame} comes after a gap: {kept} are kept.", "Send what is between.")
        if from_frame + frames > rate * HOURS_S:
            raise InputError("block", "goes past two hours.", "End this song and begin another.")
        new = samples[kept - from_frame :]
        if len(new):
            try:
                with sound.open("ab") as file:
                    file.truncate(kept * width)  # a block that was cut by a kill
                    file.write(new.tobytes())
            except OSError as exc:
                raise disk_trouble(exc, "the song") from exc
        return _lamps(sound, channels, rate, from_frame=from_frame, frames=max(kept, from_frame + frames))


def _lamps(sound: Path, channels: int, rate: int, *, from_frame: int, frames: int) -> SongHeard:
    """What is worth a lamp in the newest block."""
    first = max(frames - round(_EAR_S * rate), 0)
    first = min(first, from_frame)
    offset = first * channels * _SAMPLE.itemsize
    tail = np.fromfile(sound, dtype=_SAMPLE, offset=offset).reshape(-1, channels).T.astype(float)
    newest = tail[:, from_frame - first :]
    peak = float(np.max(np.abs(newest), initial=0.0))
    clipped = clipped_runs(tuple(newest), rate)
    return SongHeard(
        frames=frames,
        peak_dbfs=20 * float(np.log10(peak)) if peak > 0 else None,
        clipped_s=[from_frame / rate + one.start_s for one in clipped],
        puffs_s=_puffs(tail, rate, since_s=(from_frame - first) / rate, at_s=first / rate),
    )


def _puffs(tail: FloatArray, rate: int, *, since_s: float, at_s: float) -> list[float]:
    """Puffs that had ended by the end of the newest block and were not yet told with the one before, in seconds."""
    loudest = tail[int(np.argmax(np.max(np.abs(tail), axis=1)))]
    until = len(loudest) / rate - _SETTLED_S
    found = find_pops(loudest, rate, moments_of(loudest, rate))
    return [at_s + pop.start_s for pop in found if since_s - _SETTLED_S <= pop.end_s < until]


def ended(data: Data, song_id: str) -> ReadingAnswer:
    """The song filed as a take; what comes again after it was filed is answered alike. Raises InputError, StorageFull;
    then the sound stays where it is.
    """
    sound, told = _there(data, song_id)
    with tempfile.TemporaryDirectory(prefix=f"{TEMPORARY}{os.getpid()}-") as folder:
        made = Path(folder) / "song.flac"
        try:
            _written(sound, made, told["channels"], told["rate_hz"])
        except OSError as exc:
            raise disk_trouble(exc, "the song") from exc
        filed = take_in(
            data,
            told["room_id"],
            kind="take",
            way="browser",
            file_name=f"song-{told['began_at'][:16].replace(':', '-')}.flac",
            content=made,
            arrangement_id=told["arrangement_id"],
            settings=told["settings"],
            sent_as=song_id,
        )
    dropped(data, song_id)
    return filed


def _written(sound: Path, target: Path, channels: int, rate: int) -> None:
    """As FLAC of 24 bits, block by block: two hours do not fit in memory twice."""
    with (
        sound.open("rb") as file,
        soundfile.SoundFile(target, "w", rate, channels, subtype="PCM_24", format="FLAC") as out,
    ):
        width = channels * _SAMPLE.itemsize
        while block := file.read(_COPIED * width):
            whole = len(block) // width * width
            out.write(np.frombuffer(block[:whole], dtype=_SAMPLE).reshape(-1, channels))


def waiting(data: Data, room_id: str) -> list[SongAnswer]:
    """Songs of a room that were sung and not filed, newest first."""
    with data.database.session() as session:
        room_row(session, room_id)
    found = []
    for beside in (data.folder / "songs").glob("*.json"):
        try:
            sound, told = _there(data, beside.stem)
        except NotFound:
            continue
        if told["room_id"] == room_id:
            frames = sound.stat().st_size // (told["channels"] * _SAMPLE.itemsize)
            found.append(_answer(beside.stem, told, frames))
    return sorted(found, key=lambda song: datetime.fromisoformat(song.began_at), reverse=True)


def dropped(data: Data, song_id: str) -> None:
    """Let go of a song that is not wanted, or that is filed."""
    for path in _files(data, song_id):
        path.unlink(missing_ok=True)


def _answer(song_id: str, told: dict[str, Any], frames: int) -> SongAnswer:
    return SongAnswer(
        id=song_id,
        room_id=told["room_id"],
        arrangement_id=told["arrangement_id"],
        began_at=told["began_at"],
        frames=frames,
        seconds=frames / told["rate_hz"],
    )


def _files(data: Data, song_id: str) -> tuple[Path, Path]:
    """Its samples, and what belongs to them. Raises NotFound for what is no name of ours."""
    try:
        name = str(UUID(song_id))
    except ValueError as exc:
        raise NotFound("There is no such song here.") from exc
    folder = data.folder / "songs"
    return folder / f"{name}.f32", folder / f"{name}.json"


def _there(data: Data, song_id: str) -> tuple[Path, dict[str, Any]]:
    sound, beside = _files(data, song_id)
    try:
        told = json.loads(beside.read_text(encoding="utf-8"))
    except (OSError, ValueError) as exc:
        raise NotFound("There is no such song here; it may be filed already.") from exc
    if not sound.is_file():
        raise NotFound("The song's sound is missing from the data folder.")
    return sound, told
