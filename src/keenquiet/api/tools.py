"""Computation without storage: catalogue, lengths, forecasts, next moves."""

from typing import Annotated, Any

from fastapi import APIRouter, Query

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


@router.post("/moves", response_model=list[MovePublic])
def moves(asked: ForecastAsk) -> Any:
    """Ranked next moves for one arrangement of a document."""
    return moves_for(read_room(asked.document), asked.arrangement_id)
