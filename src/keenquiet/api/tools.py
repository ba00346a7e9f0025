"""Computation without storage: catalogue, lengths, forecasts, next moves."""

import asyncio
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from keenquiet.api.schemas import (
    AbsorberPublic,
    Catalogue,
    DocumentAsk,
    ErrorAnswer,
    ForecastAsk,
    ForecastPublic,
    JobPublic,
    LengthPublic,
    MovePublic,
    Pending,
    ShapePublic,
    SquaredPublic,
    SwellAsk,
    SwellPublic,
)
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.furnishings import KINDS
from keenquiet.core.room.materials import CATALOGUE
from keenquiet.core.units import format_feet_inches, parse_length_m
from keenquiet.core.waves.microphone import PATTERNS
from keenquiet.core.waves.sources import SOURCES
from keenquiet.documents import AbsorberDoc, read_room
from keenquiet.service import shapes
from keenquiet.service.answers import forecast_json, rounded
from keenquiet.service.jobs import Job, cancel, job, job_json
from keenquiet.service.predict import moves_for, predict
from keenquiet.store.errors import NotFound

_PATIENCE_S = 0.4  # a shape that is quick enough is answered at once

router = APIRouter(tags=["tools"], responses={422: {"model": ErrorAnswer}})


@router.get("/health")
def health() -> dict[str, str]:
    """Whether the server answers."""
    return {"status": "ok"}


@router.get("/catalogue", response_model=Catalogue)
def catalogue() -> Any:
    """Materials, performers, patterns, furnishings and purposes to choose from."""
    return {
        "materials": [
            {
                "key": m.key,
                "name": m.name,
                "group": m.group,
                "mounting": m.mounting,
                "absorption": rounded(m.absorption),
                "scattering": rounded(m.scattering),
                "filled": list(m.filled),
                "source": m.source,
                "confidence": m.confidence,
                "hatch": m.hatch,
            }
            for m in CATALOGUE.values()
        ],
        "sources": [{"key": s.key, "name": s.name} for s in SOURCES.values()],
        "patterns": list(PATTERNS),
        "furnishings": [
            {"key": k.key, "name": k.name, "size_m": k.size_m, "blocks": k.body[1] > k.body[0]} for k in KINDS.values()
        ],
        "purposes": [{"key": p.key, "name": p.name} for p in PURPOSES.values()],
    }


@router.get("/length", response_model=LengthPublic)
def length(text: Annotated[str, Query(max_length=60)], field: Annotated[str, Query(max_length=40)] = "length") -> Any:
    """A length as typed, in metres and on an imperial tape."""
    metres = parse_length_m(text, field=field)
    return {"metres": round(metres, 5), "imperial": format_feet_inches(metres)}


@router.post("/forecast", response_model=ForecastPublic | Pending)
def forecast(asked: ForecastAsk) -> Any:
    """Marks, paths, modes, decay and response for one arrangement of a document, or the job that must end first."""
    room = read_room(asked.document)
    job = shapes.modes_job(room)
    if job is not None:
        job.ended.wait(_PATIENCE_S)
        if job.state != "done":
            return {"pending": job_json(job)}
    return forecast_json(
        predict(room, asked.arrangement_id), room, to_hz=asked.to_hz, arrangement_id=asked.arrangement_id
    )


@router.get("/jobs/{job_id}", response_model=JobPublic)
def read_job(job_id: str) -> Any:
    """How far a piece of background work is."""
    return job_json(_job(job_id))


@router.delete("/jobs/{job_id}", response_model=JobPublic)
def cancel_job(job_id: str) -> Any:
    """Tell background work to stop."""
    cancel(job_id)
    return job_json(_job(job_id))


def _job(job_id: str) -> Job:
    found = job(job_id)
    if found is None:
        raise NotFound("There is no such job; it may have been forgotten after a restart.")
    return found


@router.post("/shape", response_model=ShapePublic)
def shape(asked: DocumentAsk) -> Any:
    """Volume, areas and faces of a document's shape."""
    return shapes.shape_answer(read_room(asked.document))


@router.post("/square", response_model=SquaredPublic)
def square(asked: DocumentAsk) -> Any:
    """The plan that fits the document's tape readings best, and how far each is off."""
    return shapes.squared_answer(read_room(asked.document))


@router.post("/swell", response_model=SwellPublic)
def swell(asked: SwellAsk) -> Any:
    """Pressure of every mode over a plane of the room."""
    return shapes.swell_answer(
        read_room(asked.document), asked.arrangement_id, plane=asked.plane, height_m=asked.height_m
    )


@router.post(
    "/drawing", responses={200: {"content": {"image/svg+xml": {}, "image/vnd.dxf": {}}}}, response_class=Response
)
def drawing(asked: ForecastAsk, view: str = "plan", kind: str = "svg") -> Response:
    """A view of the room to print or to take into a drawing program."""
    text, media = shapes.drawing(read_room(asked.document), asked.arrangement_id, view=view, kind=kind)
    return Response(text, media_type=media)


@router.post("/absorber", response_model=AbsorberPublic)
def absorber(asked: AbsorberDoc) -> Any:
    """Absorption of something described by its layers."""
    return shapes.absorber_answer(asked)


_one_search = asyncio.Lock()


@router.post("/moves", response_model=list[MovePublic])
async def moves(asked: ForecastAsk, request: Request) -> Any:
    """Ranked next moves for one arrangement of a document.

    One search runs at a time, and one whose page has moved on meanwhile is not begun: dragging must stay smooth.
    """
    room = read_room(asked.document)
    async with _one_search:
        if await request.is_disconnected():
            return []
        return await run_in_threadpool(moves_for, room, asked.arrangement_id)
