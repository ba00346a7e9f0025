"""Without storage, beside the questions: catalogue, lengths, drawings, lines to hear, jobs."""

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from keenquiet.api.asks import ErrorAnswer, HearAsk, Units
from keenquiet.api.deps import DataFolder, answered, in_turn
from keenquiet.core.errors import InputError
from keenquiet.core.units import format_feet_inches, parse_length_m
from keenquiet.core.waves.modes import nearest_note, note_hz
from keenquiet.documents.convert import read_room
from keenquiet.documents.schema import AbsorberDoc
from keenquiet.service import absorbers, hearing, restoring, shapes
from keenquiet.service.answers.backups import BackupAnswer, RestoreAnswer
from keenquiet.service.answers.jobs import HealthAnswer, JobAnswer
from keenquiet.service.answers.tools import AbsorberAnswer, Catalogue, LengthAnswer, NoteAnswer
from keenquiet.service.catalogue import catalogue
from keenquiet.service.jobs import Job, cancel, job, job_answer
from keenquiet.service.questions.base import ArrangementAsk
from keenquiet.store.errors import NotFound

router = APIRouter(tags=["tools"], responses={422: {"model": ErrorAnswer}})
_NO_JOB = "There is no such job; it may have been forgotten after a restart."


@router.get("/health")
def health(request: Request) -> HealthAnswer:
    """Whether the server answers, and what still comes into the folder."""
    preparing: Job[None] | None = request.app.state.preparing
    return HealthAnswer(preparing=job_answer(preparing) if preparing is not None and preparing.going else None)


@router.get("/backups")
def read_backups(data: DataFolder) -> list[BackupAnswer]:
    """Backups of this folder, the newest first."""
    return restoring.backups(data.folder)


@router.post("/backups", status_code=201)
def make_backup(data: DataFolder) -> list[BackupAnswer]:
    """One more, of now; the newest five are kept."""
    data.database.backup("by-hand")
    return restoring.backups(data.folder)


@router.post("/backups/{name}/restore", responses={404: {"model": ErrorAnswer}})
def restore_backup(data: DataFolder, name: str) -> RestoreAnswer:
    """Put one back; what stands now is one more backup, and kept beside it."""
    return restoring.restored(data.folder, name, data=data)


@router.get("/catalogue")
def read_catalogue() -> Catalogue:
    """Everything that can be chosen: materials, performers, patterns, furnishings, purposes, kinds of readings."""
    return catalogue()


@router.get("/length")
def length(
    text: Annotated[str, Query(max_length=60)],
    field: Annotated[str, Query(max_length=40)] = "length",
    units: Units = "metric",
) -> LengthAnswer:
    """A length as typed, in metres and on an imperial tape."""
    metres = parse_length_m(text, field=field, imperial=units == "imperial")
    return LengthAnswer(metres=round(metres, 5), imperial=format_feet_inches(metres))


@router.get("/note")
def note(text: Annotated[str, Query(max_length=20)]) -> NoteAnswer:
    """A note as typed, as a pitch and by its name."""
    f_hz = note_hz(text)
    if not 16 <= f_hz <= 2000:
        raise InputError("note", f"{text.strip()} is no lowest note.", "Between 16 and 2000 Hz.")
    return NoteAnswer(f_hz=round(f_hz, 2), name=nearest_note(f_hz)[0])


@router.get("/jobs/{job_id}", responses={404: {"model": ErrorAnswer}})
def read_job(job_id: str) -> JobAnswer:
    """How far a piece of background work is."""
    return _job(job_id)


@router.delete("/jobs/{job_id}", responses={404: {"model": ErrorAnswer}})
def cancel_job(job_id: str) -> JobAnswer:
    """Tell background work to stop."""
    cancel(job_id)
    return _job(job_id)


def _job(job_id: str) -> JobAnswer:
    found = job(job_id)
    if found is None:
        raise NotFound(_NO_JOB)
    return job_answer(found)


@router.post(
    "/drawing", responses={200: {"content": {"image/svg+xml": {}, "image/vnd.dxf": {}}}}, response_class=Response
)
async def drawing(asked: ArrangementAsk, view: str = "plan", kind: str = "svg") -> Response:
    """A view of the room to print or to take into a drawing program."""
    draw = partial(shapes.drawing, view=view, kind=kind)
    text, media = await in_turn(draw, read_room(asked.document), asked.arrangement_id)
    return Response(text, media_type=media)


@router.post("/absorber")
def absorber(asked: AbsorberDoc) -> AbsorberAnswer:
    """Absorption of something described by its layers."""
    return absorbers.absorber_answer(asked)


@router.post("/hear.wav", responses={200: {"content": {"audio/wav": {}}}}, response_class=Response)
async def hear(asked: HearAsk, data: DataFolder) -> Response:
    """A dry line in several arrangements and outdoors, one channel each, alike in loudness."""
    room = read_room(asked.document)
    modes = shapes.modes_job(room)
    if modes is not None:
        await answered(modes, later=False)
    wav, twice = await in_turn(hearing.in_versions, data, room, asked.versions, asked.reading_id, asked.seed or 1)
    return Response(wav, media_type="audio/wav", headers={"x-room-twice": "yes" if twice else "no"})
