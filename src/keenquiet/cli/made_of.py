"""Commands about what things are made of: the catalogue, absorbers computed from their layers, frames and cuts."""

from pathlib import Path
from typing import Any, Final

from pydantic import ValidationError

from keenquiet.cli.files import json_at, say
from keenquiet.core.air import Air
from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.errors import InputError
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.things.pieces import membrane_for
from keenquiet.documents.errors import input_error
from keenquiet.documents.schema import AbsorberDoc
from keenquiet.service.absorbers import absorber_answer

LOWEST_NOTE_HZ: Final = 30.0
HIGHEST_NOTE_HZ: Final = 300.0
_OFF: Final = 0.02  # from the note, that a board within what boards weigh may be


def absorbed(spec: dict[str, Any], as_json: bool, *, note_hz: float | None = None) -> None:
    """`absorber`. note_hz : of a membrane, whose mass is found for it."""
    found: dict[str, float] = {}
    if note_hz is not None:
        spec, found = _tuned(spec, note_hz)
    try:
        described = AbsorberDoc.model_validate(spec)
    except ValidationError as exc:
        raise input_error(exc) from exc
    said = absorber_answer(described).model_dump(mode="json", include={"octaves", "resonance_hz"})
    say({**said, **found}, as_json)


def _tuned(spec: dict[str, Any], note_hz: float) -> tuple[dict[str, Any], dict[str, float]]:
    """A description made a membrane for a note, and what was found for it. Its box is --gap and --thickness deep."""
    if spec["kind"] not in ("porous", "membrane"):
        raise InputError("note", f"A {spec['kind']} absorber is not tuned by its mass.", "Leave --kind away.")
    if not LOWEST_NOTE_HZ <= note_hz <= HIGHEST_NOTE_HZ:
        cure = f"Give a note between {LOWEST_NOTE_HZ:.0f} and {HIGHEST_NOTE_HZ:.0f} Hz; above, wool does it."
        raise InputError("note", f"{note_hz:g} Hz is not a note for a board on a box.", cure)
    depth = spec["gap_m"] + spec["thickness_m"]
    board = membrane_for(note_hz, depth_m=depth, fill_m=spec["thickness_m"]) if depth > 0 else membrane_for(note_hz)
    reached_hz = board.resonance_hz(air=Air())
    if abs(reached_hz - note_hz) > _OFF * note_hz:
        cure = f"Take a {'deeper' if reached_hz > note_hz else 'shallower'} box, by --gap."
        raise InputError("note", f"On this box no board between 1 and 20 kg/m2 sounds {note_hz:g} Hz.", cure)
    backing = {"gap_m": board.backing.gap_m, "thickness_m": board.backing.fill_m}
    found = {"mass_kg_m2": board.mass_kg_m2, **backing}
    return {**spec, "kind": "membrane", **found}, found


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


def cut(pieces: Path, stock: Path, as_json: bool) -> None:
    """`cut`."""
    from keenquiet.service.questions.make import cut_answer  # a light command does not wait for it

    say(cut_answer(json_at(pieces, "PIECES.json"), json_at(stock, "STOCK.json")), as_json)
