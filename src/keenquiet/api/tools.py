"""Computation without storage: catalogue, lengths, forecasts, next moves."""

import asyncio
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool

from keenquiet.api.schemas import Catalogue, ErrorAnswer, ForecastAsk, ForecastPublic, LengthPublic, MovePublic
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.furnishings import KINDS
from keenquiet.core.room.materials import CATALOGUE
from keenquiet.core.units import format_feet_inches, parse_length_m
from keenquiet.core.waves.microphone import PATTERNS
from keenquiet.core.waves.sources import SOURCES
from keenquiet.documents import read_room
from keenquiet.service.answers import forecast_json, rounded
from keenquiet.service.predict import moves_for, predict

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
                "key": m.key, "name": m.name, "group": m.group, "mounting": m.mounting, "absorption": rounded(m.absorption),
                "scattering": rounded(m.scattering), "filled": list(m.filled), "source": m.source, "confidence": m.confidence,
                "hatch": m.hatch,
            }
            for m in CATALOGUE.values()
        ],
        "sources": [{"key": s.key, "name": s.name} for s in SOURCES.values()],
        "patterns": list(PATTERNS),
        "furnishings": [{"key": k.key, "name": k.name, "size_m": k.size_m} for k in KINDS.values()],
        "purposes": [{"key": p.key, "name": p.name} for p in PURPOSES.values()],
    }  # fmt: skip


@router.get("/length", response_model=LengthPublic)
def length(text: Annotated[str, Query(max_length=60)], field: Annotated[str, Query(max_length=40)] = "length") -> Any:
    """A length as typed, in metres and on an imperial tape."""
    metres = parse_length_m(text, field=field)
    return {"metres": round(metres, 5), "imperial": format_feet_inches(metres)}


@router.post("/forecast", response_model=ForecastPublic)
def forecast(asked: ForecastAsk) -> Any:
    """Marks, paths, modes, decay and response for one arrangement of a document."""
    room = read_room(asked.document)
    return forecast_json(predict(room, asked.arrangement_id), room, to_hz=asked.to_hz)


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
