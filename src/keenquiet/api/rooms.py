"""Rooms, moves, ledger, bundles."""

from typing import Any

from fastapi import APIRouter, Response, UploadFile

from keenquiet.api.deps import DataFolder
from keenquiet.api.schemas import (
    BundleIn,
    ErrorAnswer,
    FitPublic,
    LedgerPublic,
    MeasuredMarks,
    MoveDone,
    PlacesPublic,
    RoomCreate,
    RoomPublic,
    RoomSave,
    RoomSummary,
)
from keenquiet.service import bundles, ledger, readings, rooms, settle
from keenquiet.service.candidates import box_document

router = APIRouter(tags=["rooms"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})


@router.get("/rooms", response_model=list[RoomSummary])
def list_rooms(data: DataFolder, binned: bool = False) -> Any:
    """All rooms, or those in the bin, the last changed first."""
    return rooms.list_rooms(data, binned=binned)


@router.post("/rooms", response_model=RoomPublic, response_model_exclude_none=True, status_code=201)
def create_room(data: DataFolder, asked: RoomCreate) -> Any:
    """A new room from a document or from three dimensions as typed."""
    document = asked.document or box_document(**asked.model_dump(exclude={"document"}))
    return rooms.create(data, document)


@router.get("/rooms/{room_id}", response_model=RoomPublic, response_model_exclude_none=True)
def read_room(data: DataFolder, room_id: str) -> Any:
    """A room with its newest document."""
    return rooms.opened(data, room_id)


@router.put(
    "/rooms/{room_id}",
    response_model=RoomPublic,
    response_model_exclude_none=True,
    responses={409: {"model": ErrorAnswer}},
)
def save_room(data: DataFolder, room_id: str, asked: RoomSave) -> Any:
    """Save over a revision; refused with 409 when another one stands by now."""
    return rooms.save(data, room_id, asked.document, revision=asked.revision)


@router.delete("/rooms/{room_id}", status_code=204)
def delete_room(data: DataFolder, room_id: str) -> None:
    """Put a room into the bin."""
    rooms.remove(data, room_id)


@router.post("/rooms/{room_id}/restore", response_model=RoomSummary)
def restore_room(data: DataFolder, room_id: str) -> Any:
    """Take a room out of the bin."""
    return rooms.restore(data, room_id)


@router.post("/rooms/{room_id}/corner", response_model=RoomPublic, response_model_exclude_none=True, status_code=201)
def another_corner(data: DataFolder, room_id: str) -> Any:
    """A candidate place: this room with performer and microphone across it."""
    return rooms.add_corner(data, room_id)


@router.get("/rooms/{room_id}/marks", response_model=MeasuredMarks)
def measured_marks(data: DataFolder, room_id: str) -> Any:
    """The four marks as last measured."""
    return readings.measured_now(data, room_id)


@router.post(
    "/rooms/{room_id}/moves/done",
    response_model=RoomPublic,
    response_model_exclude_none=True,
    responses={409: {"model": ErrorAnswer}},
)
def move_done(data: DataFolder, room_id: str, asked: MoveDone) -> Any:
    """What is being tried was carried out: it becomes the standing arrangement."""
    return ledger.mark_done(data, room_id, revision=asked.revision, kind=asked.kind, title=asked.title)


@router.get("/rooms/{room_id}/ledger", response_model=list[LedgerPublic])
def read_ledger(data: DataFolder, room_id: str) -> Any:
    """Everything that happened, newest first."""
    return ledger.ledger(data, room_id)


@router.get("/rooms/{room_id}/bundle")
def export_bundle(data: DataFolder, room_id: str) -> Response:
    """The room as NAME.kq.zip."""
    content, name = bundles.exported(data, room_id)
    return Response(
        content, media_type="application/zip", headers={"content-disposition": f'attachment; filename="{name}"'}
    )


@router.post("/bundles", response_model=BundleIn, status_code=201)
def import_bundle(data: DataFolder, file: UploadFile) -> Any:
    """Take a bundle in as a new room."""
    return bundles.imported(data, file.file.read())


@router.post("/rooms/{room_id}/fit", response_model=FitPublic)
def fit(data: DataFolder, room_id: str) -> Any:
    """What a fit of the description to this room's readings would change; nothing is kept by asking."""
    return settle.fit_room(data, room_id)


@router.get("/places", response_model=PlacesPublic)
def places(data: DataFolder, project: str | None = None) -> Any:
    """All rooms of a project side by side on the four marks, best first, with reasons."""
    return settle.compare_places(data, project=project)
