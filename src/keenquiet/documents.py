"""Documents at the edges: `room.json` as Pydantic models, converted once to the core's values.

Field names and meanings are the published format (docs/formats.md); more fields may be added, each with a default.
"""

from dataclasses import replace
from functools import lru_cache
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from keenquiet.core.air import Air
from keenquiet.core.bands import octaves_from_table
from keenquiet.core.errors import InputError
from keenquiet.core.room.furnishings import Furnishing, kind_named
from keenquiet.core.room.materials import Material, computed_material, material_named, own_material
from keenquiet.core.room.room import (
    GUESSED_SPREAD,
    Arrangement,
    Microphone,
    NoiseSource,
    Overlay,
    Performer,
    Point,
    Rect,
    Room,
)
from keenquiet.core.room.shape import Ceiling, Drop, Face, Shape
from keenquiet.core.waves.microphone import PATTERNS
from keenquiet.core.waves.porous import Absorber, PorousAbsorber
from keenquiet.core.waves.resonators import Backing, Cloth, Membrane, Perforated
from keenquiet.core.waves.sources import SOURCES, source_named

Finite = Annotated[
    float, Field(ge=-10_000, le=10_000)
]  # metres or degrees: far beyond any room, near enough to compute with
Positive = Annotated[float, Field(gt=0, le=1_000)]
Figure = Annotated[float, Field(ge=-1e9, le=1e9)]  # each has its own, closer limits where it is used
At2 = tuple[Finite, Finite]
At3 = tuple[Finite, Finite, Finite]
Octaves = dict[Literal["63", "125", "250", "500", "1000", "2000", "4000", "8000"], Figure]


class Document(BaseModel):
    """Base: unknown fields are kept, so a newer file survives a round trip."""

    model_config = ConfigDict(extra="allow")


class AirDoc(Document):
    temperature_c: Annotated[float, Field(ge=-10, le=45)] = 20.0
    humidity_pct: Annotated[float, Field(ge=5, le=100)] = 50.0


class DropDoc(Document):
    """A lower part of the ceiling: a rectangle on the plan from its lower corner, and its height above the floor."""

    x_m: Finite
    y_m: Finite
    width_m: Positive
    depth_m: Positive
    height_m: Finite


class CeilingDoc(Document):
    kind: Literal["flat", "pitched"] = "flat"
    height_m: Finite | None = None
    along: Literal["x", "y"] | None = None
    profile: Annotated[list[tuple[Finite, Finite]], Field(max_length=40)] | None = None
    drops: Annotated[list[DropDoc], Field(max_length=12)] = []


class ShapeDoc(Document):
    plan: Annotated[list[At2], Field(min_length=3, max_length=64)]
    ceiling: CeilingDoc


class AbsorberDoc(Document):
    """What an absorber is built of, from the room inwards. Lengths in metres, flow resistivity in Pa s/m2, masses in
    kg/m2.

    `porous`: thickness_m, flow_resistivity, gap_m, facing. The others keep thickness_m and flow_resistivity for their
    filling
    (thickness 0: none). `membrane`: mass_kg_m2. `perforated`, `slotted`: open_share, opening_m, board_m. `cloth`:
    mass_kg_m2,
    fullness, resistance.
    """

    kind: Literal["porous", "membrane", "perforated", "slotted", "cloth"] = "porous"
    thickness_m: Figure = 0.0
    flow_resistivity: Figure = 8000.0
    gap_m: Figure = 0.0
    facing_resistance: Figure = 0.0
    facing_mass: Figure = 0.0
    mass_kg_m2: Figure = 5.0
    open_share: Figure = 0.05
    opening_m: Figure = 0.006
    board_m: Figure = 0.012
    fullness: Figure = 2.0
    resistance: Figure = 400.0


class SurfaceDoc(Document):
    """What a surface is made of: a catalogue key, own figures by octave, or a computed absorber."""

    material: str | None = None
    absorption: Octaves | None = None
    absorber: AbsorberDoc | None = None


class RegionDoc(SurfaceDoc):
    """A part of a wall made of something else, by its lower corner: brick behind a bed, tiles, a mirror."""

    name: Annotated[str, Field(max_length=80)] = ""
    x_m: Finite
    z_m: Finite
    width_m: Positive
    height_m: Positive


class FaceDoc(SurfaceDoc):
    regions: Annotated[list[RegionDoc], Field(max_length=40)] = []


class PatchDoc(SurfaceDoc):
    kind: str
    surface: str
    x_m: Finite
    z_m: Finite
    width_m: Positive
    height_m: Positive


class OpeningDoc(PatchDoc):
    """A door or a window: lower corner x_m along the wall from its first vertex, z_m above the floor; open, ajar or
    shut.
    """

    hinge: Literal["left", "right"] = "right"
    state: Literal["shut", "ajar", "open"] = "shut"
    behind: Literal["outdoors", "room", "stairs"] = "room"


class CoverDoc(PatchDoc):
    """Cloth that belongs to the room: a curtain (drawn or not), a rug, a blanket on the wall."""

    kind: Literal["curtain", "rug", "blanket"] = "curtain"
    drawn: bool = True
    weight_kg_m2: Annotated[float, Field(ge=0.02, le=5)] = 0.4
    fullness: Figure = 2.0
    gap_m: Figure = 0.08


class TreatmentDoc(PatchDoc):
    label: str | None = None


class FurnishingDoc(Document):
    kind: str
    at: At2
    size_m: tuple[Positive, Positive, Positive] | None = None
    turn_deg: Finite = 0.0
    open: bool = False
    fullness: Annotated[float, Field(ge=0, le=1)] = 0.7


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


class TapeReadingDoc(Document):
    """A length read with the tape between two corners, numbered from 1."""

    start: Annotated[int, Field(ge=1, le=64)]
    end: Annotated[int, Field(ge=1, le=64)]
    length_m: Positive


class ModeLossDoc(Document):
    """What one mode loses beyond the description, found by a fit."""

    f_hz: Annotated[float, Field(gt=5, le=1000)]
    rate_per_s: Annotated[float, Field(ge=-500, le=500)]


class FitDoc(Document):
    """What a fit to readings found: factors on the surfaces' absorption by octave and the spread that is left."""

    absorption_factor: Octaves
    mode_losses: Annotated[list[ModeLossDoc], Field(max_length=400)] = []
    spread: Annotated[float, Field(gt=0, le=1)] = 0.1


class RoomDoc(Document):
    format: Literal["keen-quiet/room"] = "keen-quiet/room"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=120)]
    air: AirDoc = AirDoc()
    brief: BriefDoc = BriefDoc()
    shape: ShapeDoc
    surfaces: dict[str, FaceDoc] = {}
    openings: list[OpeningDoc] = []
    covers: Annotated[list[CoverDoc], Field(max_length=60)] = []
    furnishings: list[FurnishingDoc] = []
    noises: list[NoiseDoc] = []
    arrangements: Annotated[list[ArrangementDoc], Field(max_length=50)] = []
    tape: Annotated[list[TapeReadingDoc], Field(max_length=200)] = []
    fit: FitDoc | None = None
    project: Annotated[str, Field(max_length=120)] = ""
    guessed: bool = False

    def arrangement_doc(self, arrangement_id: str | None = None) -> ArrangementDoc:
        """The arrangement with this id, or the first. Raises InputError when there is none."""
        for arrangement in self.arrangements:
            if arrangement_id in (None, arrangement.id):
                return arrangement
        raise InputError(
            "arrangements",
            f"has no arrangement {arrangement_id!r}." if arrangement_id else "is empty.",
            "Place a performer and a microphone.",
        )


def read_room(data: Any) -> RoomDoc:
    """A room document from parsed JSON. Raises InputError naming the first offending field."""
    try:
        room = RoomDoc.model_validate(data)
    except ValidationError as exc:
        raise input_error(exc) from exc
    shape_of(room)
    return room


def input_error(exc: ValidationError) -> InputError:
    """Our error for the first thing Pydantic found."""
    first = exc.errors()[0]
    message = first["msg"].removeprefix("Value error, ")
    return InputError(".".join(str(part) for part in first["loc"]) or "document", f"{message}.", "Check this field.")


@lru_cache(maxsize=64)
def _shape(plan: tuple[tuple[float, float], ...], ceiling: Ceiling) -> Shape:
    return Shape(plan, ceiling)


def shape_of(room: RoomDoc) -> tuple[Shape, tuple[float, float]]:
    """The room's shape moved so that it begins at x = y = 0, and by how much it was moved. Raises InputError naming the
    field.
    """
    x0, y0 = (min(axis) for axis in zip(*room.shape.plan, strict=True))
    plan = tuple((float(x - x0), float(y - y0)) for x, y in room.shape.plan)
    doc = room.shape.ceiling
    drops = tuple(
        Drop((d.x_m - x0, d.x_m - x0 + d.width_m, d.y_m - y0, d.y_m - y0 + d.depth_m), d.height_m) for d in doc.drops
    )
    if doc.kind == "pitched":
        if not doc.profile or doc.along is None:
            raise InputError(
                "shape.ceiling.profile",
                "a pitched ceiling needs `along` and a profile of points.",
                "Give [distance, height] pairs.",
            )
        start = x0 if doc.along == "x" else y0
        ceiling = Ceiling(tuple((d - start, h) for d, h in doc.profile), doc.along, drops)
    elif doc.height_m is None:
        raise InputError("shape.ceiling.height_m", "a flat ceiling needs its height.", "Measure from floor to ceiling.")
    else:
        ceiling = Ceiling.flat(doc.height_m, drops)
    return _shape(plan, ceiling), (x0, y0)


class Frame:
    """Between a document's coordinates and the core's: the plan's lower corner, and faces by name."""

    def __init__(self, shape: Shape, offset: tuple[float, float]) -> None:
        self.shape = shape
        self.offset = offset
        self.numbers = {face.name: number for number, face in enumerate(shape.faces)}

    @staticmethod
    def of(room: RoomDoc) -> "Frame":
        """Read the shape. Raises InputError naming the field."""
        return Frame(*shape_of(room))

    def face(self, surface: str, *, field: str) -> int:
        if surface not in self.numbers:
            raise InputError(
                field, f"{surface!r} is not a surface of this room.", f"Use one of {', '.join(self.numbers)}."
            )
        return self.numbers[surface]

    def name_of(self, face: int) -> str:
        return self.shape.faces[face].name

    def local(self, at: At3) -> Point:
        return at[0] - self.offset[0], at[1] - self.offset[1], at[2]

    def _shift(self, face: Face) -> tuple[float, float]:
        """What face coordinates differ by: floor and ceiling use the plan's own, walls their own corner."""
        return self.offset if face.kind in ("floor", "ceiling") else (0.0, 0.0)

    def rect(self, patch: PatchDoc, *, field: str) -> tuple[int, Rect]:
        """Face and rectangle on it. On floor and ceiling x_m, z_m are plan coordinates (true lengths along a slope)."""
        number = self.face(patch.surface, field=f"{field}.surface")
        return number, self._rect(number, patch.x_m, patch.z_m, patch.width_m, patch.height_m)

    def _rect(self, number: int, x_m: float, z_m: float, width_m: float, height_m: float) -> Rect:
        dx, dy = self._shift(self.shape.faces[number])
        return x_m - dx, x_m - dx + width_m, z_m - dy, z_m - dy + height_m

    def patch_fields(self, face: int, rect: Rect) -> dict[str, Any]:
        """The other way: `surface`, `x_m`, `z_m`, `width_m`, `height_m` for a rectangle on a face."""
        u0, u1, v0, v1 = rect
        dx, dy = self._shift(self.shape.faces[face])
        sizes = {"x_m": u0 + dx, "z_m": v0 + dy, "width_m": u1 - u0, "height_m": v1 - v0}
        return {"surface": self.name_of(face), **{key: round(value, 4) for key, value in sizes.items()}}


_DEFAULT_SURFACE = {"floor": "floor-boards", "ceiling": "plasterboard-ceiling", "step": "plasterboard-ceiling"}
_OPENING_MATERIAL = {"window": "glass-window", "door": "door-wood"}
_BEHIND_MATERIAL = {"outdoors": "opening-outdoors", "room": "opening-to-room", "stairs": "opening-to-stairs"}
_TREATMENT_MATERIAL = {
    "duvet": "duvet-hung",
    "curtain": "curtain-cotton",
    "open-wardrobe": "wardrobe-open",
    "rug": "carpet-cotton",
}
_RESISTANCE_OF_CLOTH = 900.0  # Pa s/m for each kg/m2: a closely woven curtain of 0.4 kg/m2 has about 400 (our estimate)
_BUNCHED_SHARE = 0.12  # of its width, at each side, when a curtain is not drawn


def absorber_of(spec: AbsorberDoc, *, field: str) -> Absorber:
    """The core's absorber. Raises InputError naming the field."""
    try:
        if spec.kind == "porous":
            return PorousAbsorber(
                spec.thickness_m, spec.flow_resistivity, spec.gap_m, spec.facing_resistance, spec.facing_mass
            )
        if spec.kind == "cloth":
            return Cloth(spec.mass_kg_m2, spec.gap_m, spec.fullness, spec.resistance)
        backing = Backing(spec.gap_m, spec.thickness_m, spec.flow_resistivity)
        if spec.kind == "membrane":
            return Membrane(spec.mass_kg_m2, backing)
        return Perforated(spec.open_share, spec.opening_m, spec.board_m, backing, is_slotted=spec.kind == "slotted")
    except InputError as exc:
        raise InputError(f"{field}.{exc.field}", exc.reason, exc.cure) from exc


def _material(surface: SurfaceDoc, *, field: str, default: str, name: str = "Panel") -> Material:
    if surface.absorber is not None:
        return _computed(absorber_of(surface.absorber, field=field), name)
    if surface.absorption is not None:
        return own_material(field, {str(k): v for k, v in surface.absorption.items()}, field=f"{field}.absorption")
    return material_named(surface.material or default, field=f"{field}.material")


@lru_cache(maxsize=500)
def _computed(absorber: Absorber, name: str) -> Material:
    """Computed absorbers are kept: the same panel is asked for at every step of a drag."""
    return computed_material(absorber, name=name)


def _overlay(frame: Frame, patch: PatchDoc, *, field: str, default: str, is_treatment: bool) -> Overlay:
    face, rect = frame.rect(patch, field=field)
    material = _material(patch, field=field, default=default, name=getattr(patch, "label", None) or patch.kind)
    return Overlay(name=field, face=face, rect=rect, material=material, is_treatment=is_treatment, kind=patch.kind)


def _opening(frame: Frame, opening: OpeningDoc, *, field: str) -> Overlay:
    shut = _OPENING_MATERIAL.get(opening.kind, "door-wood")
    overlay = _overlay(frame, opening, field=field, default=shut, is_treatment=False)
    if opening.state == "shut":
        return overlay
    key = "door-ajar" if opening.state == "ajar" else _BEHIND_MATERIAL[opening.behind]
    return Overlay(overlay.name, overlay.face, overlay.rect, material_named(key, field=field), kind=overlay.kind)


def _covers(frame: Frame, cover: CoverDoc, *, field: str) -> list[Overlay]:
    """A cover as overlays; a curtain that is not drawn hangs bunched at both sides."""
    if cover.kind == "rug":
        return [_overlay(frame, cover, field=field, default="carpet-cotton", is_treatment=False)]
    face, (u0, u1, v0, v1) = frame.rect(cover, field=field)
    if cover.material or cover.absorption or cover.absorber:
        cloth, bunched = (_material(cover, field=field, default="curtain-cotton", name="Curtain"),) * 2
    else:
        resistance = _RESISTANCE_OF_CLOTH * cover.weight_kg_m2
        spec = AbsorberDoc(
            kind="cloth",
            mass_kg_m2=cover.weight_kg_m2,
            gap_m=cover.gap_m,
            resistance=resistance,
            fullness=cover.fullness,
        )
        cloth = _computed(absorber_of(spec, field=field), cover.kind)
        bunched = _computed(absorber_of(spec.model_copy(update={"fullness": 3.0}), field=field), cover.kind)
    if cover.drawn or cover.kind == "blanket":
        return [Overlay(field, face, (u0, u1, v0, v1), cloth, kind=cover.kind)]
    side = _BUNCHED_SHARE * (u1 - u0)
    return [
        Overlay(field, face, rect, bunched, kind=cover.kind)
        for rect in ((u0, u0 + side, v0, v1), (u1 - side, u1, v0, v1))
    ]


def room_of(doc: RoomDoc) -> Room:
    """The core's room value. Raises InputError or OutsideRoom naming the field."""
    frame = Frame.of(doc)
    names = {*frame.numbers, "ceiling"}
    for name in doc.surfaces:
        if name not in names:
            frame.face(name, field=f"surfaces.{name}")
    materials, overlays = [], []
    for number, face in enumerate(frame.shape.faces):
        surface = (
            doc.surfaces.get(face.name)
            or (doc.surfaces.get("ceiling") if face.kind in ("ceiling", "step") else None)
            or FaceDoc()
        )
        materials.append(
            _material(
                surface, field=f"surfaces.{face.name}", default=_DEFAULT_SURFACE.get(face.kind, "plaster-on-brick")
            )
        )
        for i, region in enumerate(surface.regions if face.name in doc.surfaces else []):
            field = f"surfaces.{face.name}.regions.{i}"
            rect = frame._rect(number, region.x_m, region.z_m, region.width_m, region.height_m)
            material = _material(region, field=field, default="plaster-on-brick", name=region.name or "Region")
            overlays.append(Overlay(field, number, rect, material, kind="region"))
    overlays += [_opening(frame, opening, field=f"openings.{i}") for i, opening in enumerate(doc.openings)]
    for i, cover in enumerate(doc.covers):
        overlays += _covers(frame, cover, field=f"covers.{i}")
    spread = GUESSED_SPREAD if doc.guessed else None
    if doc.fit is not None:
        factor = octaves_from_table(
            {str(k): v for k, v in doc.fit.absorption_factor.items()}, field="fit.absorption_factor", low=0.1, high=10.0
        )
        materials = [m.scaled(factor) for m in materials]
        overlays = [
            Overlay(o.name, o.face, o.rect, o.material.scaled(factor), o.is_treatment, o.kind) for o in overlays
        ]
        spread = doc.fit.spread
    room = Room(
        doc.name,
        frame.shape,
        tuple(materials),
        Air(doc.air.temperature_c, doc.air.humidity_pct),
        tuple(overlays),
        spread=spread,
        mode_losses=tuple((loss.f_hz, loss.rate_per_s) for loss in doc.fit.mode_losses) if doc.fit is not None else (),
    )
    furnishings = []
    for i, piece in enumerate(doc.furnishings):
        kind = kind_named(piece.kind, field=f"furnishings.{i}.kind")
        at = (piece.at[0] - frame.offset[0], piece.at[1] - frame.offset[1])
        room.check_point((*at, 0.01), field=f"furnishings.{i}", label=kind.name)
        standing = Furnishing(kind, at, piece.size_m or kind.size_m, piece.turn_deg, piece.open, piece.fullness)
        room.check_furnishing(standing, field=f"furnishings.{i}")
        furnishings.append(standing)
    noises = tuple(_noise(frame, noise, field=f"noises.{i}") for i, noise in enumerate(doc.noises))
    return replace(room, furnishings=tuple(furnishings), noises=noises)


def _noise(frame: Frame, noise: NoiseDoc, *, field: str) -> NoiseSource:
    if noise.at is not None:
        at = frame.local(noise.at)
    elif noise.surface is not None:
        ceiling = next(f.name for f in frame.shape.faces if f.kind == "ceiling")
        name = ceiling if noise.surface == "ceiling" else noise.surface
        face = frame.shape.faces[frame.face(name, field=f"{field}.surface")]
        centre = face.to_space(
            np.array(face.polygon.representative_point().coords[0] if face.holes else face.polygon.centroid.coords[0])
        )
        at = (float(centre[0]), float(centre[1]), float(centre[2]))
    else:
        raise InputError(field, "has neither a place `at` nor a `surface`.", "Say where the noise comes from.")
    levels = octaves_from_table(
        {str(k): v for k, v in noise.octaves_db.items()}, field=f"{field}.octaves_db", low=-20, high=130
    )
    return NoiseSource(noise.name, levels, at, tuple(noise.hours), noise.kind, noise.hum_hz)


def arrangement_of(room: RoomDoc, arrangement: ArrangementDoc, value_room: Room) -> Arrangement:
    """The core's arrangement, checked against the room. Raises InputError or OutsideRoom naming the field."""
    frame = Frame.of(room)
    field = f"arrangements.{arrangement.id}"
    performer, mic = arrangement.performer, arrangement.microphone
    value = Arrangement(
        performer=Performer(frame.local(performer.at), performer.faces_deg, source_named(performer.source)),
        microphone=Microphone(frame.local(mic.at), mic.aims_deg, mic.tilt_deg, mic.pattern),
        treatments=tuple(
            _overlay(
                frame,
                patch,
                field=f"{field}.treatments.{i}",
                default=_TREATMENT_MATERIAL.get(patch.kind, "mineral-wool-50"),
                is_treatment=True,
            )
            for i, patch in enumerate(arrangement.treatments)
        ),
    )
    value_room.check_arrangement(value, field=field)
    for i, monitor in enumerate(arrangement.monitors):
        value_room.check_point(frame.local(monitor.at), field=f"{field}.monitors.{i}", label="monitor")
    if arrangement.listener is not None:
        value_room.check_point(frame.local(arrangement.listener.at), field=f"{field}.listener", label="chair")
    return value


def check_document(room: RoomDoc) -> None:
    """Everything that can be checked: shape, surfaces, every arrangement. Raises InputError or OutsideRoom."""
    value_room = room_of(room)
    seen: set[str] = set()
    for arrangement in room.arrangements:
        if arrangement.id in seen:
            raise InputError(
                "arrangements", f"has two arrangements called {arrangement.id!r}.", "Give each its own id."
            )
        seen.add(arrangement.id)
        arrangement_of(room, arrangement, value_room)
