"""Readings: taken in, listed, opened, binned; their sound; the sweep file."""

import json
from typing import Annotated, Any

from fastapi import APIRouter, Form, Query, Response, UploadFile

from keenquiet.api.deps import DataFolder
from keenquiet.api.schemas import ErrorAnswer, ReadingPublic, ReadingSummary, RigAsk
from keenquiet.core.errors import InputError
from keenquiet.service import readings

router = APIRouter(tags=["readings"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})
_MEDIA = {".wav": "audio/wav", ".flac": "audio/flac", ".aiff": "audio/aiff", ".ogg": "audio/ogg"}


@router.get("/rooms/{room_id}/readings", response_model=list[ReadingSummary])
def list_readings(data: DataFolder, room_id: str, binned: bool = False) -> Any:
    """Readings of a room, or those in its bin, newest first."""
    return readings.listed(data, room_id, binned=binned)


@router.post("/rooms/{room_id}/readings", response_model=ReadingPublic, status_code=201)
def take_in(
    data: DataFolder, room_id: str, file: UploadFile, kind: Annotated[str, Form()], way: Annotated[str, Form()] = "import",
    arrangement_id: Annotated[str | None, Form()] = None, settings: Annotated[str, Form(max_length=4000)] = "{}",
) -> Any:  # fmt: skip
    """Take in an imported or recorded reading. settings: JSON object with device, gain_db, track constraints."""
    try:
        chain = json.loads(settings)
    except ValueError as exc:
        raise InputError("settings", "is not valid JSON.", "Leave it out.") from exc
    if not isinstance(chain, dict):
        raise InputError("settings", "is not a JSON object.", "Leave it out.")
    return readings.take_in(
        data, room_id, kind=kind, way=way, file_name=file.filename or "recording", content=file.file.read(),
        arrangement_id=arrangement_id, settings=chain,
    )  # fmt: skip


@router.post("/rooms/{room_id}/readings/rig", response_model=ReadingPublic, status_code=201)
def take_with_rig(data: DataFolder, room_id: str, asked: RigAsk) -> Any:
    """Let the practice rig take a reading: simulated, and labelled so."""
    return readings.from_rig(
        data, room_id, kind=asked.kind, arrangement_id=asked.arrangement_id, gain_db=asked.gain_db, seed=asked.seed
    )


@router.get("/readings/{reading_id}", response_model=ReadingPublic)
def read_reading(data: DataFolder, reading_id: str) -> Any:
    """One reading with everything that the plots show."""
    return readings.opened(data, reading_id)


@router.delete("/readings/{reading_id}", response_model=ReadingSummary)
def bin_reading(data: DataFolder, reading_id: str) -> Any:
    """Put a reading into the bin."""
    return readings.set_binned(data, reading_id, binned=True)


@router.post("/readings/{reading_id}/restore", response_model=ReadingSummary)
def restore_reading(data: DataFolder, reading_id: str) -> Any:
    """Take a reading out of the bin."""
    return readings.set_binned(data, reading_id, binned=False)


@router.get("/readings/{reading_id}/audio")
def read_audio(data: DataFolder, reading_id: str) -> Response:
    """The sound kept with a reading, as it came."""
    content, suffix = readings.audio_of(data, reading_id)
    return Response(content, media_type=_MEDIA.get(suffix, "application/octet-stream"))


@router.get("/sweep.wav")
def sweep_file(rate: Annotated[int, Query()] = 48_000) -> Response:
    """The sweep to play in the room."""
    return Response(
        readings.sweep_wav(rate),
        media_type="audio/wav",
        headers={"content-disposition": 'attachment; filename="keen-quiet-sweep.wav"'},
    )
