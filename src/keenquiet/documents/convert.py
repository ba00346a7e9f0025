"""A document converted once to the core's values: the room, an arrangement in it, the scenario they make."""

from dataclasses import replace
from typing import Any

import numpy as np
from pydantic import ValidationError

from keenquiet.core.air import Air
from keenquiet.core.bands import octaves_from_table
from keenquiet.core.edits import Edit, MoveFurniture, SetState, applied
from keenquiet.core.errors import InputError
from keenquiet.core.room.calendar import Calendar, DayHours
from keenquiet.core.room.furnishings import Furnishing, kind_named
from keenquiet.core.room.room import (
    GUESSED_SPREAD,
    Arrangement,
    Cycle,
    Facing,
    Laptop,
    Microphone,
    NoiseSource,
    Overlay,
    Performer,
    Room,
    Screen,
)
from keenquiet.core.room.ways import Seal
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.sources import Source, source_named
from keenquiet.core.types import FloatArray
from keenquiet.documents.errors import input_error
from keenquiet.documents.frame import Frame, shape_of
from keenquiet.documents.schema import (
    ArrangementDoc,
    CalendarDoc,
    FaceDoc,
    FacingDoc,
    LaptopDoc,
    MicrophoneDoc,
    NoiseDoc,
    PerformerDoc,
    RoomDoc,
    ScreenDoc,
)
from keenquiet.documents.surfaces import (
    DEFAULT_SURFACE,
    absorber_of,
    computed,
    cover_states,
    material_of,
    opening_states,
    treatment_overlay,
)
from keenquiet.documents.upgrade import upgraded
from keenquiet.documents.ways import ways_of


def read_room(data: Any) -> RoomDoc:
    """A room document from parsed JSON, an older one brought up to date. Raises InputError naming the first offending
    field.
    """
    try:
        room = RoomDoc.model_validate(upgraded(data))
    except ValidationError as exc:
        raise input_error(exc) from exc
    shape_of(room)
    return room


def read_arrangement(data: Any) -> ArrangementDoc:
    """An arrangement as it was kept, an older one brought up to date. Raises InputError naming the field."""
    try:
        return ArrangementDoc.model_validate(upgraded({"arrangements": [data]})["arrangements"][0])
    except ValidationError as exc:
        raise input_error(exc) from exc


def room_of(doc: RoomDoc) -> Room:
    """The core's room value. Raises InputError or OutsideRoom naming the field."""
    frame = Frame.of(doc)
    names = {*frame.numbers, "ceiling"}
    for name in doc.surfaces:
        if name not in names:
            frame.face(name, field=f"surfaces.{name}")
    factor = None
    if doc.fit is not None:
        table = {str(k): v for k, v in doc.fit.absorption_factor.items()}
        factor = octaves_from_table(table, field="fit.absorption_factor", low=0.1, high=10.0)
    materials, overlays = _faces(doc, frame)
    changeables = [opening_states(frame, opening, field=f"openings.{i}") for i, opening in enumerate(doc.openings)]
    changeables += [cover_states(frame, cover, field=f"covers.{i}") for i, cover in enumerate(doc.covers)]
    if factor is not None:
        materials = [material.scaled(factor) for material in materials]
        overlays = [_scaled(overlay, factor) for overlay in overlays]
        changeables = [
            replace(c, states=tuple((state, tuple(_scaled(o, factor) for o in there)) for state, there in c.states))
            for c in changeables
        ]
    overlays += [overlay for changeable in changeables for overlay in changeable.overlays_in(changeable.state)]
    spread = doc.fit.spread if doc.fit is not None else GUESSED_SPREAD if doc.guessed else None
    room = Room(
        doc.name,
        frame.shape,
        tuple(materials),
        Air(doc.air.temperature_c, doc.air.humidity_pct),
        tuple(overlays),
        spread=spread,
        mode_losses=tuple((loss.f_hz, loss.rate_per_s) for loss in doc.fit.mode_losses) if doc.fit is not None else (),
        changeables=tuple(c for c in changeables if len(c.states) > 1),
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
    room = replace(room, furnishings=tuple(furnishings), noises=noises)
    return replace(room, ways=ways_of(doc, room))


def _faces(doc: RoomDoc, frame: Frame) -> tuple[list[Any], list[Overlay]]:
    """Materials of the faces in their order, and the regions on them."""
    materials, regions = [], []
    for number, face in enumerate(frame.shape.faces):
        surface = (
            doc.surfaces.get(face.name)
            or (doc.surfaces.get("ceiling") if face.kind in ("ceiling", "step") else None)
            or FaceDoc()
        )
        default = DEFAULT_SURFACE.get(face.kind, "plaster-on-brick")
        materials.append(material_of(surface, field=f"surfaces.{face.name}", default=default))
        for i, region in enumerate(surface.regions if face.name in doc.surfaces else []):
            field = f"surfaces.{face.name}.regions.{i}"
            rect = frame.rect_on(number, region.x_m, region.z_m, region.width_m, region.height_m)
            material = material_of(region, field=field, default="plaster-on-brick", name=region.name or "Region")
            regions.append(Overlay(field, number, rect, material, kind="region"))
    return materials, regions


def _scaled(overlay: Overlay, factor: FloatArray) -> Overlay:
    return replace(overlay, material=overlay.material.scaled(factor))


def _noise(frame: Frame, noise: NoiseDoc, *, field: str) -> NoiseSource:
    number = None
    if noise.surface is not None and noise.kind != "inside":
        ceiling = next(f.name for f in frame.shape.faces if f.kind == "ceiling")
        name = ceiling if noise.surface == "ceiling" else noise.surface
        number = frame.face(name, field=f"{field}.surface")
    if noise.at is not None:
        at = frame.local(noise.at)
    elif number is not None:
        face = frame.shape.faces[number]
        centre = face.to_space(
            np.array(face.polygon.representative_point().coords[0] if face.holes else face.polygon.centroid.coords[0])
        )
        at = (float(centre[0]), float(centre[1]), float(centre[2]))
    else:
        raise InputError(field, "has neither a place `at` nor a `surface`.", "Say where the noise comes from.")
    levels = octaves_from_table(
        {str(k): v for k, v in noise.octaves_db.items()}, field=f"{field}.octaves_db", low=-20, high=130, sloped=True
    )
    calendar = calendar_of(noise)
    return NoiseSource(
        noise.name,
        levels,
        at,
        calendar.hours,
        noise.kind,
        noise.hum_hz,
        calendar.other_days,
        None if noise.cycle is None else Cycle(noise.cycle.period_min, noise.cycle.on_share),
        number,
        noise.preset,
    )


def calendar_of(doc: NoiseDoc | CalendarDoc) -> Calendar:
    """When something runs or is allowed."""
    others = (DayHours(frozenset(day.weekdays), tuple(day.hours)) for day in doc.other_days)
    return Calendar(tuple(doc.hours), tuple(others))


def arrangement_of(room: RoomDoc, arrangement: ArrangementDoc, value_room: Room) -> Arrangement:
    """The core's arrangement, checked against the room. Raises InputError or OutsideRoom naming the field."""
    frame = Frame.of(room)
    field = f"arrangements.{arrangement.id}"
    performer = arrangement.performer
    second = arrangement.second_microphone
    value = Arrangement(
        performer=Performer(frame.local(performer.at), performer.faces_deg, _source(performer)),
        microphone=_microphone(frame, arrangement.microphone),
        treatments=tuple(
            treatment_overlay(frame, patch, field=f"{field}.treatments.{i}")
            for i, patch in enumerate(arrangement.treatments)
        ),
        second_microphone=None if second is None else _microphone(frame, second),
        monitors=tuple(_facing(frame, monitor) for monitor in arrangement.monitors),
        chair=None if arrangement.listener is None else _facing(frame, arrangement.listener),
        laptop=None if arrangement.laptop is None else _laptop(frame, arrangement.laptop),
        screens=tuple(
            screen_of(frame, screen, field=f"{field}.screens.{i}") for i, screen in enumerate(arrangement.screens)
        ),
    )
    value_room.check_arrangement(value, field=field)
    return value


def _source(performer: PerformerDoc) -> Source:
    source = source_named(performer.source)
    return source if performer.lowest_hz is None else replace(source, lowest_hz=performer.lowest_hz)


def _microphone(frame: Frame, mic: MicrophoneDoc) -> Microphone:
    return Microphone(frame.local(mic.at), mic.aims_deg, mic.tilt_deg, mic.pattern)


def _facing(frame: Frame, doc: FacingDoc) -> Facing:
    return Facing(frame.local(doc.at), doc.faces_deg)


def _laptop(frame: Frame, doc: LaptopDoc) -> Laptop:
    return Laptop(frame.local(doc.at), doc.faces_deg, doc.mic_cable_m, doc.phones_cable_m)


def screen_of(frame: Frame, doc: ScreenDoc, *, field: str) -> Screen:
    material = computed(absorber_of(doc.absorber, field=f"{field}.absorber"), doc.kind)
    absorption = tuple(float(a) for a in material.absorption)
    return Screen(doc.kind, frame.local(doc.at), doc.faces_deg, doc.width_m, doc.height_m, absorption)


def scenario_of(room: RoomDoc, arrangement: ArrangementDoc, value_room: Room | None = None) -> Scenario:
    """The scenario of a document's arrangement, everything checked. Raises InputError or OutsideRoom naming the field.

    value_room : `room_of(room)` where it is at hand.
    """
    value_room = room_of(room) if value_room is None else value_room
    frame = Frame.of(room)
    silenced = tuple(dict.fromkeys(arrangement.silenced))
    bare = Scenario(
        value_room,
        arrangement_of(room, arrangement, value_room),
        arrangement.hour,
        silenced,
        arrangement.gain_db,
        arrangement.weekday,
        tuple(Seal(seal.way, seal.means) for seal in arrangement.sealed),
    )
    edits: list[Edit] = [
        *(SetState(opened.what, opened.state) for opened in arrangement.opened),
        *(
            MoveFurniture(moved.number, (moved.at[0] - frame.offset[0], moved.at[1] - frame.offset[1]), moved.turn_deg)
            for moved in arrangement.moved
        ),
    ]
    if not edits:
        return bare
    try:
        changed = applied(edits, bare)
        for moved in arrangement.moved:
            changed.room.check_furnishing(changed.room.furnishings[moved.number], field="moved")
        changed.room.check_arrangement(changed.arrangement, field=f"arrangements.{arrangement.id}")
    except InputError as exc:
        raise InputError(f"arrangements.{arrangement.id}.{exc.field}", exc.reason, exc.cure) from exc
    return changed


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
        scenario_of(room, arrangement, value_room)
