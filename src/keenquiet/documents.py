"""Documents at the edges: `room.json` as Pydantic models, converted once to the core's values.

Field names and meanings are the published format (docs/formats.md); more fields may be added, each with a default.
"""

import math
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from keenquiet.core.air import Air
from keenquiet.core.bands import octaves_from_table
from keenquiet.core.errors import InputError
from keenquiet.core.room.box import (
    CEILING,
    FLOOR,
    Arrangement,
    Box,
    Microphone,
    NoiseSource,
    Overlay,
    Performer,
    Point,
    Rect,
)  # fmt: skip
from keenquiet.core.room.furnishings import Furnishing, kind_named
from keenquiet.core.room.materials import Material, computed_material, material_named, own_material
from keenquiet.core.waves.microphone import PATTERNS
from keenquiet.core.waves.porous import PorousAbsorber
from keenquiet.core.waves.sources import SOURCES, source_named

Finite = Annotated[float, Field(ge=-10_000, le=10_000)]  # metres or degrees: far beyond any room, near enough to compute with
Positive = Annotated[float, Field(gt=0, le=1_000)]
Figure = Annotated[float, Field(allow_inf_nan=False)]
At2 = tuple[Finite, Finite]
At3 = tuple[Finite, Finite, Finite]
Octaves = dict[Literal["63", "125", "250", "500", "1000", "2000", "4000", "8000"], Figure]


class Document(BaseModel):
    """Base: unknown fields are kept, so a newer file survives a round trip."""

    model_config = ConfigDict(extra="allow")


class AirDoc(Document):
    temperature_c: Annotated[float, Field(ge=-10, le=45)] = 20.0
    humidity_pct: Annotated[float, Field(ge=5, le=100)] = 50.0


class CeilingDoc(Document):
    kind: Literal["flat", "pitched"] = "flat"
    height_m: Positive | None = None
    along: Literal["x", "y"] | None = None
    profile: list[tuple[Finite, Finite]] | None = None


class ShapeDoc(Document):
    plan: Annotated[list[At2], Field(min_length=3, max_length=64)]
    ceiling: CeilingDoc


class AbsorberDoc(Document):
    thickness_m: Figure
    flow_resistivity: Figure
    gap_m: Figure = 0.0
    facing_resistance: Figure = 0.0
    facing_mass: Figure = 0.0


class SurfaceDoc(Document):
    """What a surface is made of: a catalogue key, own figures by octave, or a computed absorber."""

    material: str | None = None
    absorption: Octaves | None = None
    absorber: AbsorberDoc | None = None


class PatchDoc(SurfaceDoc):
    kind: str
    surface: str
    x_m: Finite
    z_m: Finite
    width_m: Positive
    height_m: Positive


class OpeningDoc(PatchDoc):
    """A door or a window: lower corner x_m along the wall from its first vertex, z_m above the floor."""

    hinge: Literal["left", "right"] = "right"


class TreatmentDoc(PatchDoc):
    label: str | None = None


class FurnishingDoc(Document):
    kind: str
    at: At2
    size_m: tuple[Positive, Positive, Positive] | None = None
    turn_deg: Finite = 0.0


class NoiseDoc(Document):
    """A noise, by its octave levels at 1 m; `outside` ones come through a surface, `inside` ones stand at a point."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    kind: Literal["outside", "inside"] = "outside"
    surface: str | None = None
    at: At3 | None = None
    octaves_db: Octaves
    hum_hz: Annotated[float, Field(ge=20, le=8000)] | None = None
    hours: list[tuple[Annotated[float, Field(ge=0, le=24)], Annotated[float, Field(ge=0, le=24)]]] = []


class PerformerDoc(Document):
    at: At3
    faces_deg: Finite = 0.0
    source: str = "voice-sung"

    @field_validator("source")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in SOURCES:
            raise ValueError(f"{value!r} is not a known source; use one of {', '.join(SOURCES)}")
        return value


class MicrophoneDoc(Document):
    at: At3
    aims_deg: Finite = 180.0
    tilt_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    pattern: str = "cardioid"

    @field_validator("pattern")
    @classmethod
    def _known(cls, value: str) -> str:
        if value not in PATTERNS:
            raise ValueError(f"{value!r} is not a pattern; use one of {', '.join(PATTERNS)}")
        return value


class FacingDoc(Document):
    at: At3
    faces_deg: Finite = 0.0


class ArrangementDoc(Document):
    id: Annotated[str, Field(min_length=1, max_length=60)]
    name: Annotated[str, Field(max_length=120)] = ""
    performer: PerformerDoc
    microphone: MicrophoneDoc
    monitors: list[FacingDoc] = []
    listener: FacingDoc | None = None
    treatments: list[TreatmentDoc] = []


class BriefDoc(Document):
    """What is recorded, for whom the wanted values are chosen, and what may be spent and done."""

    purpose: Literal["dry-voice", "spoken", "some-room", "lively"] = "dry-voice"
    budget: Annotated[float, Field(ge=0, le=100_000)] = 120.0
    currency: Annotated[str, Field(max_length=4)] = "€"
    may_drill: bool = False
    has_duvet: bool = True


class RoomDoc(Document):
    format: Literal["keen-quiet/room"] = "keen-quiet/room"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=120)]
    air: AirDoc = AirDoc()
    brief: BriefDoc = BriefDoc()
    shape: ShapeDoc
    surfaces: dict[str, SurfaceDoc] = {}
    openings: list[OpeningDoc] = []
    furnishings: list[FurnishingDoc] = []
    noises: list[NoiseDoc] = []
    arrangements: Annotated[list[ArrangementDoc], Field(max_length=50)] = []

    def arrangement_doc(self, arrangement_id: str | None = None) -> ArrangementDoc:
        """The arrangement with this id, or the first. Raises InputError when there is none."""
        for arrangement in self.arrangements:
            if arrangement_id in (None, arrangement.id):
                return arrangement
        raise InputError(
            "arrangements", f"has no arrangement {arrangement_id!r}." if arrangement_id else "is empty.",
            "Place a performer and a microphone.",
        )  # fmt: skip


def read_room(data: Any) -> RoomDoc:
    """A room document from parsed JSON. Raises InputError naming the first offending field."""
    try:
        room = RoomDoc.model_validate(data)
    except ValidationError as exc:
        raise input_error(exc) from exc
    Frame.of(room)
    return room


def input_error(exc: ValidationError) -> InputError:
    """Our error for the first thing Pydantic found."""
    first = exc.errors()[0]
    message = first["msg"].removeprefix("Value error, ")
    return InputError(".".join(str(part) for part in first["loc"]) or "document", f"{message}.", "Check this field.")


class Frame:
    """Where a document's coordinates lie in the box: offset of its corner, and which face each wall is."""

    def __init__(self, size_m: Point, offset: tuple[float, float], walls: dict[str, tuple[int, bool]]) -> None:
        self.size_m = size_m
        self.offset = offset
        self.walls = walls  # name -> (face, whether x_m runs in rising direction of the face's first axis)

    @staticmethod
    def of(room: RoomDoc) -> "Frame":
        """Read the box from a plan. Raises InputError for anything but a rectangle along the axes."""
        plan = [(float(x), float(y)) for x, y in room.shape.plan]
        ceiling = room.shape.ceiling
        if ceiling.kind != "flat" or ceiling.height_m is None:
            raise InputError("shape.ceiling", "needs a flat ceiling with height_m.", "Give the height at its mean for now.")
        xs, ys = sorted({x for x, _ in plan}), sorted({y for _, y in plan})
        area = sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(plan, plan[1:] + plan[:1], strict=True)) / 2
        if len(plan) != 4 or len(xs) != 2 or len(ys) != 2 or not math.isclose(abs(area), (xs[1] - xs[0]) * (ys[1] - ys[0])):
            raise InputError(
                "shape.plan", f"{len(plan)} corners that are no rectangle along x and y.",
                "This version computes box rooms: give four corners of a rectangle.",
            )  # fmt: skip
        if area < 0:
            raise InputError("shape.plan", "its corners run clockwise.", "List them anticlockwise, seen from above.")
        walls: dict[str, tuple[int, bool]] = {"floor": (FLOOR, True), "ceiling": (CEILING, True)}
        for number, ((x0, y0), (x1, y1)) in enumerate(zip(plan, plan[1:] + plan[:1], strict=True), start=1):
            if y0 == y1:
                walls[f"wall-{number}"] = (2 if y0 == ys[0] else 3, x1 > x0)
            else:
                walls[f"wall-{number}"] = (0 if x0 == xs[0] else 1, y1 > y0)
        return Frame((xs[1] - xs[0], ys[1] - ys[0], ceiling.height_m), (xs[0], ys[0]), walls)

    def face(self, surface: str, *, field: str) -> tuple[int, bool]:
        if surface not in self.walls:
            raise InputError(field, f"{surface!r} is not a surface of this room.", f"Use one of {', '.join(self.walls)}.")
        return self.walls[surface]

    def name_of(self, face: int) -> str:
        return next(name for name, (number, _) in self.walls.items() if number == face)

    def local(self, at: At3) -> Point:
        return at[0] - self.offset[0], at[1] - self.offset[1], at[2]

    def rect(self, patch: PatchDoc, *, field: str) -> tuple[int, Rect]:
        """Face and rectangle along its axes. On floor and ceiling x_m, z_m are plan coordinates."""
        face, rising = self.face(patch.surface, field=f"{field}.surface")
        start, low = patch.x_m, patch.z_m
        if face in (FLOOR, CEILING):
            start, low = start - self.offset[0], low - self.offset[1]
        elif not rising:
            start = self.size_m[0 if face >= 2 else 1] - patch.x_m - patch.width_m
        return face, (start, start + patch.width_m, low, low + patch.height_m)

    def patch_fields(self, face: int, rect: Rect) -> dict[str, Any]:
        """The other way: `surface`, `x_m`, `z_m`, `width_m`, `height_m` for a rectangle on a face."""
        name = self.name_of(face)
        a0, a1, b0, b1 = rect
        start, low = a0, b0
        if face in (FLOOR, CEILING):
            start, low = a0 + self.offset[0], b0 + self.offset[1]
        elif not self.walls[name][1]:
            start = self.size_m[0 if face >= 2 else 1] - a1
        sizes = {"x_m": start, "z_m": low, "width_m": a1 - a0, "height_m": b1 - b0}
        return {"surface": name, **{key: round(value, 4) for key, value in sizes.items()}}


_DEFAULT_SURFACE = {"floor": "floor-boards", "ceiling": "plasterboard-ceiling"}


def _material(surface: SurfaceDoc, *, field: str, default: str, name: str = "Panel") -> Material:
    if surface.absorber is not None:
        spec = surface.absorber
        return _computed(
            spec.thickness_m, spec.flow_resistivity, spec.gap_m, spec.facing_resistance, spec.facing_mass, name, field
        )
    if surface.absorption is not None:
        return own_material(field, {str(k): v for k, v in surface.absorption.items()}, field=f"{field}.absorption")
    return material_named(surface.material or default, field=f"{field}.material")


_computed_cache: dict[tuple[Any, ...], Material] = {}


def _computed(*spec: Any) -> Material:
    """Computed absorbers are kept: the same panel is asked for at every step of a drag."""
    if spec[:6] not in _computed_cache:
        thickness, resistivity, gap, resistance, mass, name, field = spec
        try:
            absorber = PorousAbsorber(thickness, resistivity, gap, resistance, mass)
        except InputError as exc:
            raise InputError(f"{field}.{exc.field}", exc.reason, exc.cure) from exc
        if len(_computed_cache) > 500:
            _computed_cache.clear()
        _computed_cache[spec[:6]] = computed_material(absorber, name=name)
    return _computed_cache[spec[:6]]


_OPENING_MATERIAL = {"window": "glass-window", "door": "door-wood"}
_TREATMENT_MATERIAL = {
    "duvet": "duvet-hung",
    "curtain": "curtain-cotton",
    "open-wardrobe": "wardrobe-open",
    "rug": "carpet-cotton",
}


def _overlay(frame: Frame, patch: PatchDoc, *, field: str, default: str, is_treatment: bool) -> Overlay:
    face, rect = frame.rect(patch, field=field)
    material = _material(patch, field=field, default=default, name=getattr(patch, "label", None) or patch.kind)
    return Overlay(name=field, face=face, rect=rect, material=material, is_treatment=is_treatment, kind=patch.kind)


def box_of(room: RoomDoc) -> Box:
    """The core's room value. Raises InputError or OutsideRoom naming the field."""
    frame = Frame.of(room)
    for name in room.surfaces:
        frame.face(name, field=f"surfaces.{name}")
    faces = [
        _material(
            room.surfaces.get(frame.name_of(face), SurfaceDoc()), field=f"surfaces.{frame.name_of(face)}",
            default=_DEFAULT_SURFACE.get(frame.name_of(face), "plaster-on-brick"),
        )
        for face in range(6)
    ]  # fmt: skip
    box = Box(name=room.name, size_m=frame.size_m, faces=tuple(faces), air=Air(room.air.temperature_c, room.air.humidity_pct))
    overlays = tuple(
        _overlay(
            frame, opening, field=f"openings.{i}", default=_OPENING_MATERIAL.get(opening.kind, "door-wood"), is_treatment=False
        )
        for i, opening in enumerate(room.openings)
    )
    furnishings = []
    for i, piece in enumerate(room.furnishings):
        kind = kind_named(piece.kind, field=f"furnishings.{i}.kind")
        at = (piece.at[0] - frame.offset[0], piece.at[1] - frame.offset[1])
        box.check_point((*at, 0.01), field=f"furnishings.{i}", label=kind.name)
        furnishings.append(Furnishing(kind, at, piece.size_m or kind.size_m, piece.turn_deg))
    noises = tuple(_noise(frame, noise, field=f"noises.{i}") for i, noise in enumerate(room.noises))
    return Box(box.name, box.size_m, box.faces, box.air, overlays, tuple(furnishings), noises)


def _noise(frame: Frame, noise: NoiseDoc, *, field: str) -> NoiseSource:
    lx, ly, lz = frame.size_m
    if noise.at is not None:
        at = frame.local(noise.at)
    elif noise.surface is not None:
        face, _ = frame.face(noise.surface, field=f"{field}.surface")
        centre = np.array([lx, ly, lz]) / 2
        centre[face // 2] = frame.size_m[face // 2] * (face % 2)
        at = (float(centre[0]), float(centre[1]), float(centre[2]))
    else:
        raise InputError(field, "has neither a place `at` nor a `surface`.", "Say where the noise comes from.")
    levels = octaves_from_table({str(k): v for k, v in noise.octaves_db.items()}, field=f"{field}.octaves_db", low=-20, high=130)
    return NoiseSource(noise.name, levels, at, tuple(noise.hours), noise.kind, noise.hum_hz)


def arrangement_of(room: RoomDoc, arrangement: ArrangementDoc, box: Box) -> Arrangement:
    """The core's arrangement, checked against the room. Raises InputError or OutsideRoom naming the field."""
    frame = Frame.of(room)
    field = f"arrangements.{arrangement.id}"
    performer, mic = arrangement.performer, arrangement.microphone
    value = Arrangement(
        performer=Performer(frame.local(performer.at), performer.faces_deg, source_named(performer.source)),
        microphone=Microphone(frame.local(mic.at), mic.aims_deg, mic.tilt_deg, mic.pattern),
        treatments=tuple(
            _overlay(
                frame, patch, field=f"{field}.treatments.{i}", default=_TREATMENT_MATERIAL.get(patch.kind, "mineral-wool-50"),
                is_treatment=True,
            )
            for i, patch in enumerate(arrangement.treatments)
        ),
    )  # fmt: skip
    box.check_arrangement(value, field=field)
    for i, monitor in enumerate(arrangement.monitors):
        box.check_point(frame.local(monitor.at), field=f"{field}.monitors.{i}", label="monitor")
    if arrangement.listener is not None:
        box.check_point(frame.local(arrangement.listener.at), field=f"{field}.listener", label="chair")
    return value


def check_document(room: RoomDoc) -> None:
    """Everything that can be checked: shape, surfaces, every arrangement. Raises InputError or OutsideRoom."""
    box = box_of(room)
    seen: set[str] = set()
    for arrangement in room.arrangements:
        if arrangement.id in seen:
            raise InputError("arrangements", f"has two arrangements called {arrangement.id!r}.", "Give each its own id.")
        seen.add(arrangement.id)
        arrangement_of(room, arrangement, box)
