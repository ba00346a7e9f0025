"""Watches: hours of listening."""

from functools import partial
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Query, Response, UploadFile
from fastapi.responses import FileResponse

from keenquiet.api.asks import Device, ErrorAnswer, LevelsAsk, Moment, StopAsk, TakeOverAsk, WatchAsk, WatchUpdate, Zone
from keenquiet.api.deps import DataFolder, handed_out, in_turn
from keenquiet.core.errors import InputError
from keenquiet.documents.plain import shown_name
from keenquiet.service import watching
from keenquiet.service.answers.watches import BlockKept, ClipAnswer, PracticeBlock, WatchAnswer, WatchSummary

router = APIRouter(tags=["watches"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})
_MOST_LOG_BYTES = 100_000_000
_MOST_BLOCK_BYTES = 50_000_000


@router.get("/rooms/{room_id}/watches")
def list_watches(data: DataFolder, room_id: str) -> list[WatchSummary]:
    """Watches of a room, newest first."""
    return watching.listed(data, room_id)


@router.post("/rooms/{room_id}/watches", status_code=201)
def begin_watch(data: DataFolder, room_id: str, asked: WatchAsk) -> WatchSummary:
    """A new watch."""
    return watching.begun(data, room_id, way=asked.way, device=asked.device)


@router.post("/rooms/{room_id}/watches/import", status_code=201)
def import_log(
    data: DataFolder,
    room_id: str,
    file: UploadFile,
    unit: Annotated[str, Form(max_length=8)],
    offset_min: Annotated[int, Form(ge=-720, le=840)],
) -> WatchSummary:
    """A log of times and levels from elsewhere; its unit and offset must be said."""
    if (file.size or 0) > _MOST_LOG_BYTES:
        raise InputError("file", "has more than 100 MB.", "Cut it into months.")
    name = shown_name(file.filename or "log.csv")
    return watching.imported(data, room_id, file.file, name=name, unit=unit, offset_min=offset_min)


@router.get("/rooms/{room_id}/practice-night")
async def practice_night(
    data: DataFolder,
    room_id: str,
    from_ms: Moment,
    offset_min: Zone,
    seconds: Annotated[int, Query(ge=1, le=3600)] = 600,
    arrangement_id: str | None = None,
) -> PracticeBlock:
    """Levels that the practice rig makes of what is noted, for any stretch of time."""
    rows = partial(
        watching.practice, from_ms=from_ms, offset_min=offset_min, seconds=seconds, arrangement_id=arrangement_id
    )
    return await in_turn(rows, data, room_id)


@router.get("/watches/{watch_id}")
def read_watch(data: DataFolder, watch_id: str) -> WatchAnswer:
    """One watch with its curves and what passed."""
    return watching.opened(data, watch_id)


@router.patch("/watches/{watch_id}")
def update_watch(data: DataFolder, watch_id: str, asked: WatchUpdate) -> WatchSummary:
    """Whether it says something of the hours."""
    return watching.set_counts(data, watch_id, counts=asked.counts)


@router.delete("/watches/{watch_id}", status_code=204)
def remove_watch(data: DataFolder, watch_id: str) -> None:
    """Put a watch aside."""
    watching.removed(data, watch_id)


@router.post("/watches/{watch_id}/sound")
def add_sound(
    data: DataFolder,
    watch_id: str,
    file: UploadFile,
    from_ms: Annotated[Moment, Form()],
    offset_min: Annotated[Zone, Form()],
    rate: Annotated[int, Form(ge=0, le=1_000_000)],
    device: Annotated[Device | Literal[""], Form()] = "",
) -> BlockKept:
    """Some seconds of 16-bit samples of one channel: kept as levels, and as a clip where something passes."""
    if (file.size or 0) > _MOST_BLOCK_BYTES:
        raise InputError("block", "is longer than two minutes.", "Send ten seconds at a time.")
    return watching.add_sound(
        data, watch_id, from_ms=from_ms, offset_min=offset_min, rate_hz=rate, pcm=file.file.read(), device=device
    )


@router.post("/watches/{watch_id}/levels")
def add_levels(data: DataFolder, watch_id: str, asked: LevelsAsk) -> BlockKept:
    """Levels by the second."""
    return watching.add_levels(data, watch_id, **asked.model_dump())


@router.post("/watches/{watch_id}/take-over")
def take_over(data: DataFolder, watch_id: str, asked: TakeOverAsk) -> WatchSummary:
    """This device listens from now on."""
    return watching.taken_over(data, watch_id, device=asked.device, from_ms=asked.from_ms)


@router.post("/watches/{watch_id}/stop")
def stop_watch(data: DataFolder, watch_id: str, asked: StopAsk) -> WatchSummary:
    """End a watch; what it heard stays."""
    return watching.stopped(data, watch_id, why=asked.why)


@router.get("/watches/{watch_id}/log.csv")
def export_watch(data: DataFolder, watch_id: str) -> Response:
    """A watch as a table of seconds."""
    return handed_out(watching.watch_csv(data, watch_id), "watch.csv", "text/csv")


@router.get("/watches/{watch_id}/clips")
def list_clips(data: DataFolder, watch_id: str) -> list[ClipAnswer]:
    """Sounds of what passed."""
    return watching.clips(data, watch_id)


@router.get("/watches/{watch_id}/clips/{at_ms}")
def read_clip(data: DataFolder, watch_id: str, at_ms: Moment) -> Response:
    """The sound of one."""
    return FileResponse(watching.clip_of(data, watch_id, at_ms), media_type="audio/flac")
