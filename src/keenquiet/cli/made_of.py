"""Commands about materials: the catalogue, and absorbers computed from their layers."""

from typing import Any

from pydantic import ValidationError

from keenquiet.cli.files import say
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.room.materials import CATALOGUE
from keenquiet.documents.errors import input_error
from keenquiet.documents.schema import AbsorberDoc
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
