"""Commands about what things are made of: the catalogue, absorbers computed from their layers, frames and cuts."""

from pathlib import Path
from typing import Any

from pydantic import ValidationError

from keenquiet.cli.files import json_at, keep, room_at, say
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError
from keenquiet.core.room.materials import CATALOGUE
from keenquiet.documents.errors import input_error
from keenquiet.documents.schema import AbsorberDoc
from keenquiet.service import making
from keenquiet.service.absorbers import absorber_answer


def absorbed(spec: dict[str, Any], as_json: bool) -> None:
    """`absorber`."""
    try:
        described = AbsorberDoc.model_validate(spec)
    except ValidationError as exc:
        raise input_error(exc) from exc
    say(absorber_answer(described).model_dump(mode="json", include={"octaves", "resonance_hz"}), as_json)


def materials(search: str, as_json: bool) -> None:
    """`materials`."""
    found = [m for m in CATALOGUE.values() if search.lower() in f"{m.key} {m.name} {m.group} {m.mounting}".lower()]
    rows = [
        {
            "key": m.key,
            "name": m.name,
            "group": m.group,
            "mounting": m.mounting,
            "source": m.source,
            "confidence": m.confidence,
            "absorption": {str(f): round(float(a), 4) for f, a in zip(OCTAVES_HZ, m.absorption, strict=True)},
        }
        for m in found
    ]
    say({"materials": rows}, as_json)


def made(room: Path, as_json: bool, *, out: Path | None, arrangement: str | None) -> None:
    """`make`."""
    document = room_at(room)
    if out is not None:
        kind = out.suffix.lower()
        if kind not in (".pdf", ".csv"):
            raise InputError("out", f"{out.name} is neither PDF nor CSV.", "Name it NAME.pdf or NAME.csv.")
        is_pdf = kind == ".pdf"
        keep(
            out,
            making.making_pdf(document, arrangement) if is_pdf else making.making_csv(document, arrangement).encode(),
        )
    say(making.making_answer(document, arrangement), as_json)


def cut(pieces: Path, stock: Path, as_json: bool) -> None:
    """`cut`."""
    say(making.cut_answer(json_at(pieces, "PIECES.json"), json_at(stock, "STOCK.json")), as_json)
