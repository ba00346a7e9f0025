"""Songs recorded by hand: begun, sent block by block, filed."""

from typing import Annotated

from fastapi import APIRouter, Form, UploadFile

from keenquiet.api.asks import ErrorAnswer, SongAsk
from keenquiet.api.deps import DataFolder, listening
from keenquiet.core.errors import InputError
from keenquiet.service import songs
from keenquiet.service.answers.readings import ReadingAnswer
from keenquiet.service.answers.songs import SongAnswer, SongHeard

router = APIRouter(tags=["songs"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})
_MOST_BLOCK_BYTES = 50_000_000


@router.post("/rooms/{room_id}/songs", status_code=201)
def begin_song(data: DataFolder, room_id: str, asked: SongAsk) -> SongAnswer:
    """A song is about to be sung here."""
    return songs.begun(
        data,
        room_id,
        rate_hz=asked.rate_hz,
        channels=asked.channels,
        arrangement_id=asked.arrangement_id,
        settings=asked.settings,
    )


@router.get("/rooms/{room_id}/songs")
def waiting_songs(data: DataFolder, room_id: str) -> list[SongAnswer]:
    """Songs that were sung and not filed, newest first."""
    return songs.waiting(data, room_id)


@router.post("/songs/{song_id}/sound")
def add_song_sound(
    data: DataFolder, song_id: str, file: UploadFile, from_frame: Annotated[int, Form(ge=0, le=2**40)]
) -> SongHeard:
    """Some seconds more of 32-bit floats, channels interleaved; what came before is kept once."""
    if (file.size or 0) > _MOST_BLOCK_BYTES:
        raise InputError("block", "is longer than 30 s.", "Send some seconds at a time.")
    return songs.heard(data, song_id, from_frame=from_frame, block=file.file.read())


@router.post("/songs/{song_id}/end", status_code=201)
def end_song(data: DataFolder, song_id: str) -> ReadingAnswer:
    """The song is over: it is filed as a take and judged."""
    with listening(name=song_id):
        return songs.ended(data, song_id)


@router.delete("/songs/{song_id}", status_code=204)
def drop_song(data: DataFolder, song_id: str) -> None:
    """Let go of a song that is not wanted."""
    songs.dropped(data, song_id)
