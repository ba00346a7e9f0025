"""Moves that make a surface soft: behind the performer, where reflections hit, in the corners."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

import numpy as np

from keenquiet.core.judge.candidate import (
    FIBRE_CAUTION,
    FIRE_CAUTION,
    OVERHEAD_CAUTION,
    STAND_CAUTION,
    WALL_CAUTION,
    Candidate,
    Limits,
)
from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.judge.places import distance_between, faced, reach_m, stands_free
from keenquiet.core.judge.words import note_words, surface_words
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.materials import CATALOGUE, computed_material
from keenquiet.core.room.room import Arrangement, Overlay, Rect, Room, direction
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.porous import PorousAbsorber

_LEAST_CLOTH_M: Final = 1.0
_PANEL: Final = PorousAbsorber(thickness_m=0.10, flow_resistivity=12_000, gap_m=0.05)
_TRAP: Final = PorousAbsorber(thickness_m=0.20, flow_resistivity=6_000, gap_m=0.10)


def _face_behind(room: Room, arrangement: Arrangement) -> tuple[int, FloatArray]:
    """Wall that the microphone sees past the performer, and where its axis meets it."""
    mic, performer = np.array(arrangement.microphone.at), np.array(arrangement.performer.at)
    ray = (performer - mic)[:2]
    if float(np.linalg.norm(ray)) < 1e-6:
        ray = -direction(arrangement.performer.faces_deg)[:2]
    ray = ray / np.linalg.norm(ray)
    met = (
        (away, wall)
        for wall in range(len(room.shape.plan))
        if (away := reach_m(room, wall, performer[:2], ray)) is not None
    )
    away, face = min(met)
    return face, np.array([*(performer[:2] + away * ray), performer[2]])


def _centred(
    room: Room, face: int, centre: FloatArray, width: float, height: float, *, lowest: float = 0.0
) -> Rect | None:
    """Rectangle on a face around a point in space, pushed inside its edges and made smaller where it must; None when
    none fits.
    """
    plane = room.faces[face]
    u0, u1, v0, v1 = plane.extent
    lowest = max(lowest, v0)
    at = plane.to_flat(centre)
    for share in (1.0, 0.85, 0.7, 0.5):
        w, h = min(width * share, u1 - u0), min(height * share, v1 - lowest)
        start = float(np.clip(at[0] - w / 2, u0, u1 - w))
        low = float(np.clip(at[1] - h / 2, lowest, v1 - h))
        if plane.holds_rect((start, start + w, low, low + h)):
            return start, start + w, low, low + h
    return None


def _clear_of_furniture(room: Room, face: int, rect: Rect | None) -> Rect | None:
    """The widest part of a rectangle on a wall that no tall furniture stands in front of, None when under 1 m is
    left.
    """
    if rect is None:
        return None
    plane = room.faces[face]
    spans = [(rect[0], rect[1])]
    for piece in room.furnishings:
        corners = np.column_stack([piece.footprint, np.zeros(4)])
        depth = (corners - plane.origin) @ plane.normal
        if depth.min() > 0.3 or depth.max() < 0 or piece.size_m[2] < rect[2] + 0.3:
            continue
        along = plane.to_flat(corners)[:, 0]
        low, high = float(along.min()), float(along.max())
        spans = [part for a, b in spans for part in ((a, min(b, low)), (max(a, high), b)) if part[1] > part[0]]
    widest = max(spans, key=lambda span: span[1] - span[0], default=(0.0, 0.0))
    return (*widest, rect[2], rect[3]) if widest[1] - widest[0] >= _LEAST_CLOTH_M else None


def _with(arrangement: Arrangement, *overlays: Overlay) -> Arrangement:
    return replace(arrangement, treatments=(*arrangement.treatments, *overlays))


def _overlay(room: Room, kind: str, face: int, rect: Rect, material_key: str | PorousAbsorber, name: str) -> Overlay:
    material = (
        CATALOGUE[material_key]
        if isinstance(material_key, str)
        else computed_material(material_key, name=name, air=room.air)
    )
    return Overlay(name, face, rect, material, True, kind)


def soft_behind(room: Room, arrangement: Arrangement, limits: Limits) -> Iterator[Candidate]:
    """The duvet or a curtain on the wall that the microphone sees past the performer."""
    face, centre = _face_behind(room, arrangement)
    where = surface_words(room, face, arrangement)
    why = (
        "The microphone looks past you at that wall: softness there counts most, more than foam behind the microphone."
    )
    if not _taken(arrangement, face, ("duvet", "curtain", "open-wardrobe")):
        rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.0, 1.8, lowest=0.4))
        if limits.has_duvet and rect is not None:
            yield Candidate(
                "soft-behind",
                f"Hang the duvet in front of {where}, two hands' width off it",
                why,
                _with(arrangement, _overlay(room, "duvet", face, rect, "duvet-hung", "Duvet")),
                minutes=10,
                cautions=(FIRE_CAUTION, STAND_CAUTION),
            )
        rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.2, 2.2))
        if rect is None:
            return
        yield Candidate(
            "soft-behind",
            f"A heavy curtain in folds across {where}, a hand's width off it",
            why,
            _with(arrangement, _overlay(room, "curtain", face, rect, "curtain-cotton", "Curtain")),
            cost=70.0,
            minutes=45,
            cautions=(FIRE_CAUTION, *([WALL_CAUTION] if limits.may_drill else [])),
        )


def wardrobes(room: Room, arrangement: Arrangement) -> Iterator[Candidate]:
    """Each wardrobe in the room, opened, with the performer in front of it."""
    for piece in room.furnishings:
        if piece.kind.key == "wardrobe" and not piece.is_open and not _taken(arrangement, None, ("open-wardrobe",)):
            yield from _open_wardrobe(room, arrangement, piece)


def _open_wardrobe(room: Room, arrangement: Arrangement, piece: Furnishing) -> Iterator[Candidate]:
    """Stand with the back to the open wardrobe: its clothes become the wall behind the performer."""
    front = np.array([-np.sin(np.deg2rad(piece.turn_deg)), np.cos(np.deg2rad(piece.turn_deg))])
    at = np.array(piece.at)
    walls = range(len(room.shape.plan))
    face = max(
        walls, key=lambda wall: float(room.faces[wall].normal[:2] @ front) - 0.01 * room.shape.wall_distance_m(wall, at)
    )
    if room.shape.wall_distance_m(face, at) > piece.size_m[1] / 2 + 0.3:
        return  # it stands free: its clothes are not in front of any wall
    inward = room.faces[face].normal[:2]
    rect = _centred(room, face, np.array([*at, piece.size_m[2] / 2]), piece.size_m[0], piece.size_m[2])
    if rect is None:
        return
    open_ = _overlay(room, "open-wardrobe", face, rect, "wardrobe-open", "Open wardrobe")
    stand = at + inward * (piece.size_m[1] / 2 + 0.45)
    faces_deg = float(np.degrees(np.arctan2(inward[1], inward[0])))
    placed = faced(
        arrangement,
        (float(stand[0]), float(stand[1]), arrangement.performer.at[2]),
        faces_deg,
        distance_between(arrangement),
    )
    if stands_free(replace(room, furnishings=tuple(f for f in room.furnishings if f is not piece)), placed):
        yield Candidate(
            "wardrobe",
            "Open the wardrobe and stand with your back to it",
            "Hanging clothes half a metre deep swallow what goes past you, down into the bass.",
            _with(placed, open_),
            minutes=4,
            cautions=("Check that open doors cannot swing against the stand.",),
        )


def _taken(arrangement: Arrangement, face: int | None, kinds: tuple[str, ...]) -> bool:
    return any(o.kind in kinds and (face is None or o.face == face) for o in arrangement.treatments)


def _free_rect(room: Room, arrangement: Arrangement, face: int, rect: Rect) -> bool:
    """Whether a panel there would cover neither window, door nor another treatment."""
    return not any(
        o.face == face
        and min(rect[1], o.rect[1]) > max(rect[0], o.rect[0])
        and min(rect[3], o.rect[3]) > max(rect[2], o.rect[2])
        for o in (*room.overlays, *arrangement.treatments)
    )


def reflection_panels(room: Room, arrangement: Arrangement, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """A panel where the strongest single reflections hit: walls and ceiling; a rug where it is the floor."""
    single = np.flatnonzero(
        (now.paths.faces[:, 1] < 0) & (now.paths.faces[:, 0] < len(room.faces)) & ~now.paths.blocked
    )
    for path in single[np.argsort(-now.paths.level_db[single])][:3]:
        face, hit = int(now.paths.faces[path, 0]), now.paths.points[path, 0]
        delay, level = now.paths.delay_s[path] * 1000, now.paths.level_db[path]
        where = surface_words(room, face, arrangement)
        why = f"The strongest single return comes from there: {delay:.1f} ms after you, {level:.0f} dB."
        plane = room.faces[face]
        if plane.kind == "floor":
            rect = _centred(room, face, hit, 1.4, 2.0)
            if rect is not None and not _taken(arrangement, face, ("rug",)):
                yield Candidate(
                    "reflection",
                    "Lay a thick rug between you and the microphone",
                    why,
                    _with(arrangement, _overlay(room, "rug", face, rect, "carpet-cotton", "Rug")),
                    cost=60.0,
                    minutes=5,
                    cautions=("Lay it flat, with a non-slip mat: rugs trip people.",),
                )
            continue
        overhead = plane.kind == "ceiling"
        wide, high = (1.2, 0.6) if overhead else (0.6, 1.2)
        rect = _centred(room, face, hit, wide, high)
        if rect is None or plane.kind == "step" or not _free_rect(room, arrangement, face, rect):
            continue
        mounted = "screwed" if limits.may_drill else "leaned on a shelf or stand"
        cautions = [FIBRE_CAUTION, FIRE_CAUTION]
        if overhead:
            if not limits.may_drill:
                continue  # nothing heavy overhead without proper fixings
            cautions.insert(0, OVERHEAD_CAUTION)
        cautions.append(WALL_CAUTION if limits.may_drill else STAND_CAUTION)
        yield Candidate(
            "reflection",
            f"A 60 x 120 cm panel, 10 cm thick, on {where}, {mounted}",
            why,
            _with(arrangement, _overlay(room, "panel", face, rect, _PANEL, "Panel")),
            cost=45.0,
            minutes=60 if limits.may_drill else 30,
            reversible=not limits.may_drill,
            cautions=tuple(cautions),
        )


def traps(room: Room, arrangement: Arrangement, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """Two thick panels where the worst note presses hardest: the walls its pressure loads, in a corner."""
    options = []
    for face in range(len(room.shape.plan)):
        u0, u1, _, top = room.faces[face].extent
        for corner in (u0, u1 - 0.6):
            stack: list[Rect] = [
                (corner, corner + 0.6, 0.0, min(1.2, top)),
                (corner, corner + 0.6, min(1.2, top), min(2.4, top)),
            ]
            stack = [r for r in stack if r[3] - r[2] > 0.2]
            if all(room.faces[face].holds_rect(r) and _free_rect(room, arrangement, face, r) for r in stack):
                options.append((_pressed(room, now, face, stack), face, stack))
    if not options:
        return
    _, face, stack = max(options, key=lambda option: option[0])
    traps = tuple(_overlay(room, "panel", face, r, _TRAP, "Bass trap") for r in stack)
    yield Candidate(
        "trap",
        f"Two 60 x 120 cm panels, 20 cm thick, stacked in the corner on {surface_words(room, face, arrangement)}",
        f"The note near {note_words(now.boom.note_hz)} presses "
        "hardest in the corners; only thick panels reach that low.",
        _with(arrangement, *traps),
        cost=110.0,
        minutes=90,
        cautions=(FIBRE_CAUTION, FIRE_CAUTION, "Strap the stack to the wall so that it cannot tip."),
    )


def _pressed(room: Room, now: Forecast, face: int, rects: list[Rect]) -> float:
    """Mean squared pressure of the worst note over rectangles on a wall, relative to its mean over the room. [-]"""
    spots = np.array(
        [
            ((0.75 * r[0] + 0.25 * r[1]) + i * (r[1] - r[0]) / 2, (0.75 * r[2] + 0.25 * r[3]) + j * (r[3] - r[2]) / 2)
            for r in rects
            for i in (0, 1)
            for j in (0, 1)
        ]
    )
    plane = room.faces[face]
    values = (
        now.modes.rigid.values(plane.to_space(spots) + 1e-6 * plane.normal) @ now.modes.shapes[:, now.boom.worst_mode]
    )
    return float(np.mean(np.abs(values) ** 2))
