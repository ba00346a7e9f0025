"""Rooms, moves, ledger, bundles, and what readings settle in them."""

import os
import tempfile
from pathlib import Path
from typing import Annotated, BinaryIO, cast

from anyio.to_thread import run_sync
from fastapi import APIRouter, Query, Request, Response, UploadFile
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from keenquiet.api.asks import ErrorAnswer, MoveDone, RoomCreate, RoomSave
from keenquiet.api.deps import LATER, Async, DataFolder, answered
from keenquiet.demo.load import begin
from keenquiet.service import background, bundles, history, ledger, rooms
from keenquiet.service.answers.marks import MeasuredMarks
from keenquiet.service.answers.rooms import BundleIn, DemoIn, HistoryAnswer, RoomAnswer, RoomSummary
from keenquiet.service.answers.settled import FitAnswer, LedgerAnswer, PlacesAnswer
from keenquiet.service.briefs import MOST_LISTED
from keenquiet.service.candidates import box_document
from keenquiet.service.readings import standing_in
from keenquiet.store.apart import TEMPORARY
from keenquiet.store.errors import disk_trouble

router = APIRouter(tags=["rooms"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})


@router.get("/rooms")
def list_rooms(
    data: DataFolder,
    binned: bool = False,
    after: Annotated[int, Query(ge=0, le=2**31)] = 0,
    most: Annotated[int, Query(ge=1, le=MOST_LISTED)] = MOST_LISTED,
) -> list[RoomSummary]:
    """Rooms, or those in the bin, the last changed first. after : so many others, for the next page."""
    return rooms.list_rooms(data, binned=binned, after=after, most=most)


@router.post("/rooms", response_model_exclude_none=True, status_code=201)
def create_room(data: DataFolder, asked: RoomCreate) -> RoomAnswer:
    """A new room from a document or from three dimensions as typed."""
    if asked.document:
        return rooms.create(data, asked.document)
    document = box_document(**asked.model_dump(exclude={"document"}))
    return rooms.create(data, document | {"name": rooms.free_name(data, document["name"])})


@router.post("/demo", status_code=201)
def try_demo(request: Request, data: DataFolder) -> DemoIn:
    """The demo's rooms put into this folder; their readings follow."""
    room_id, request.app.state.preparing = begin(data)
    return DemoIn(id=room_id)


@router.get("/rooms/{room_id}", response_model_exclude_none=True)
def read_room(data: DataFolder, room_id: str) -> RoomAnswer:
    """A room with its newest document."""
    return rooms.opened(data, room_id)


@router.put("/rooms/{room_id}", response_model_exclude_none=True, responses={409: {"model": ErrorAnswer}})
def save_room(data: DataFolder, room_id: str, asked: RoomSave) -> RoomAnswer:
    """Save over a revision; refused with 409 when another one stands by now."""
    return rooms.save(data, room_id, asked.document, revision=asked.revision, label=asked.label)


@router.get("/rooms/{room_id}/history", response_model_exclude_none=True)
def read_history(data: DataFolder, room_id: str, revision: Annotated[int, Query(ge=1, le=2**31)]) -> HistoryAnswer:
    """What could be undone and redone when a revision stood."""
    return history.history(data, room_id, revision)


@router.delete("/rooms/{room_id}", status_code=204)
def delete_room(data: DataFolder, room_id: str) -> None:
    """Put a room into the bin."""
    rooms.remove(data, room_id)


@router.post("/rooms/{room_id}/restore")
def restore_room(data: DataFolder, room_id: str) -> RoomSummary:
    """Take a room out of the bin."""
    return rooms.restore(data, room_id)


@router.post("/rooms/{room_id}/corner", response_model_exclude_none=True, status_code=201)
def another_corner(data: DataFolder, room_id: str) -> RoomAnswer:
    """A candidate place: this room with performer and microphone across it."""
    return rooms.add_corner(data, room_id)


@router.get("/rooms/{room_id}/marks")
def measured_marks(data: DataFolder, room_id: str) -> MeasuredMarks:
    """The four marks as last measured, held against the room as it stands."""
    return standing_in(data, room_id).marks


@router.post("/rooms/{room_id}/moves/done", response_model_exclude_none=True, responses={409: {"model": ErrorAnswer}})
def move_done(data: DataFolder, room_id: str, asked: MoveDone) -> RoomAnswer:
    """What is being tried was carried out: it becomes the standing arrangement."""
    edits = [edit.model_dump(mode="json", exclude_none=True) for edit in asked.edits]
    return ledger.mark_done(data, room_id, revision=asked.revision, kind=asked.kind, title=asked.title, edits=edits)


@router.get("/rooms/{room_id}/ledger")
def read_ledger(data: DataFolder, room_id: str) -> list[LedgerAnswer]:
    """Everything that happened, newest first."""
    return ledger.ledger(data, room_id)


@router.get("/rooms/{room_id}/bundle")
def export_bundle(data: DataFolder, room_id: str) -> Response:
    """The room as NAME.kq.zip."""
    try:
        with tempfile.NamedTemporaryFile(prefix=f"{TEMPORARY}{os.getpid()}-", suffix=".zip", delete=False) as file:
            made = bundles.export_to(data, room_id, cast(BinaryIO, file))
    except OSError as exc:
        raise disk_trouble(exc, "the bundle, in the temporary folder,") from exc
    path = Path(file.name)
    return FileResponse(
        path, media_type="application/zip", filename=made.name, background=BackgroundTask(path.unlink, missing_ok=True)
    )


@router.post("/bundles", status_code=201)
def import_bundle(data: DataFolder, file: UploadFile) -> BundleIn:
    """Take a bundle in as a new room."""
    return bundles.imported(data, file.file)


@router.post("/rooms/{room_id}/fit", response_model=FitAnswer, responses=LATER)
async def fit(data: DataFolder, room_id: str, later: Async) -> FitAnswer | Response:
    """What a fit of the description to this room's readings would change; nothing is kept by asking."""
    return await answered(await run_sync(background.fit, data, room_id), later=later)


@router.get("/places", response_model=PlacesAnswer, responses=LATER)
async def places(data: DataFolder, later: Async, project: str | None = None) -> PlacesAnswer | Response:
    """All rooms of a project side by side on the four marks, best first, with reasons."""
    return await answered(await run_sync(background.places, data, project), later=later)
