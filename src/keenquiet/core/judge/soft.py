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
from keenquiet.core.judge.places import distance_between, faced, stands_free
from keenquiet.core.judge.words import note_words, surface_words
from keenquiet.core.room.box import CEILING, FLOOR, Arrangement, Box, Overlay, direction, tangential
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.materials import CATALOGUE, computed_material
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.porous import PorousAbsorber

_LEAST_CLOTH_M: Final = 1.0
_PANEL: Final = PorousAbsorber(thickness_m=0.10, flow_resistivity=12_000, gap_m=0.05)
_TRAP: Final = PorousAbsorber(thickness_m=0.20, flow_resistivity=6_000, gap_m=0.10)


def _face_behind(room: Box, arrangement: Arrangement) -> tuple[int, FloatArray]:
    """Wall that the microphone sees past the performer, and where its axis meets it."""
    mic, performer = np.array(arrangement.microphone.at), np.array(arrangement.performer.at)
    ray = performer - mic
    ray[2] = 0.0
    if float(np.linalg.norm(ray)) < 1e-6:
        ray = -direction(arrangement.performer.faces_deg)
    with np.errstate(divide="ignore", invalid="ignore"):
        size = np.array(room.size_m)
        reach = np.where(ray > 1e-9, (size - performer) / ray, np.where(ray < -1e-9, -performer / ray, np.inf))
    axis = int(np.argmin(reach[:2]))
    return 2 * axis + int(ray[axis] > 0), performer + ray * reach[axis]


def _centred(room: Box, face: int, centre: FloatArray, width: float, height: float, *, lowest: float = 0.0) -> tuple[float, ...]:
    """Rectangle on a face around a point, pushed inside its edges."""
    a, b = tangential(face)
    ea, eb = room.face_extent_m(face)
    width, height = min(width, ea), min(height, eb - lowest)
    a0 = float(np.clip(centre[a] - width / 2, 0, ea - width))
    b0 = float(np.clip(centre[b] - height / 2, lowest, eb - height))
    return a0, a0 + width, b0, b0 + height


def _clear_of_furniture(room: Box, face: int, rect: tuple[float, ...]) -> tuple[float, ...] | None:
    """The widest part of a rectangle on a wall that no tall furniture stands in front of, None when under 1 m is left."""
    along = 1 - face // 2
    spans = [(rect[0], rect[1])]
    for piece in room.furnishings:
        turn = np.deg2rad(piece.turn_deg)
        across_m = [
            abs(piece.size_m[0] * np.cos(turn)) + abs(piece.size_m[1] * np.sin(turn)),
            abs(piece.size_m[0] * np.sin(turn)) + abs(piece.size_m[1] * np.cos(turn)),
        ]
        gap = abs(piece.at[face // 2] - (room.size_m[face // 2] if face % 2 else 0.0)) - across_m[face // 2] / 2
        if gap > 0.3 or piece.size_m[2] < rect[2] + 0.3:
            continue
        low, high = piece.at[along] - across_m[along] / 2, piece.at[along] + across_m[along] / 2
        spans = [part for a, b in spans for part in ((a, min(b, low)), (max(a, high), b)) if part[1] > part[0]]
    widest = max(spans, key=lambda span: span[1] - span[0], default=(0.0, 0.0))
    return (*widest, rect[2], rect[3]) if widest[1] - widest[0] >= _LEAST_CLOTH_M else None


def _with(arrangement: Arrangement, *overlays: Overlay) -> Arrangement:
    return replace(arrangement, treatments=(*arrangement.treatments, *overlays))


def _overlay(room: Box, kind: str, face: int, rect: tuple[float, ...], material_key: str | PorousAbsorber, name: str) -> Overlay:
    material = (
        CATALOGUE[material_key] if isinstance(material_key, str) else computed_material(material_key, name=name, air=room.air)
    )
    return Overlay(name, face, (rect[0], rect[1], rect[2], rect[3]), material, True, kind)


def soft_behind(room: Box, arrangement: Arrangement, limits: Limits) -> Iterator[Candidate]:
    """The duvet or a curtain on the wall that the microphone sees past the performer."""
    face, centre = _face_behind(room, arrangement)
    where = surface_words(room, face, arrangement)
    why = "The microphone looks past you at that wall: softness there counts most, more than foam behind the microphone."
    if not _taken(arrangement, face, ("duvet", "curtain", "open-wardrobe")):
        rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.0, 1.8, lowest=0.4))
        if limits.has_duvet and rect is not None:
            yield Candidate(
                "soft-behind", f"Hang the duvet in front of {where}, two hands' width off it", why,
                _with(arrangement, _overlay(room, "duvet", face, rect, "duvet-hung", "Duvet")),
                minutes=10, cautions=(FIRE_CAUTION, STAND_CAUTION),
            )  # fmt: skip
        rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.2, 2.2))
        if rect is None:
            return
        yield Candidate(
            "soft-behind", f"A heavy curtain in folds across {where}, a hand's width off it", why,
            _with(arrangement, _overlay(room, "curtain", face, rect, "curtain-cotton", "Curtain")),
            cost=70.0, minutes=45, cautions=(FIRE_CAUTION, *([WALL_CAUTION] if limits.may_drill else [])),
        )  # fmt: skip


def wardrobes(room: Box, arrangement: Arrangement) -> Iterator[Candidate]:
    """Each wardrobe in the room, opened, with the performer in front of it."""
    for piece in room.furnishings:
        if piece.kind.key == "wardrobe" and not _taken(arrangement, None, ("open-wardrobe",)):
            yield from _open_wardrobe(room, arrangement, piece)


def _open_wardrobe(room: Box, arrangement: Arrangement, piece: Furnishing) -> Iterator[Candidate]:
    """Stand with the back to the open wardrobe: its clothes become the wall behind the performer."""
    x, y = piece.at
    gaps = {0: x, 1: room.size_m[0] - x, 2: y, 3: room.size_m[1] - y}
    turn = np.deg2rad(piece.turn_deg)
    front = np.array([-np.sin(turn), np.cos(turn)])
    face = max(range(4), key=lambda f: (-1 if f % 2 == 0 else 1) * -front[f // 2] - 0.01 * gaps[f])
    width = min(piece.size_m[0], room.face_extent_m(face)[0])
    rect = _centred(room, face, np.array([x, y, piece.size_m[2] / 2]), width, piece.size_m[2])
    open_ = _overlay(room, "open-wardrobe", face, rect, "wardrobe-open", "Open wardrobe")
    inward = np.zeros(2)
    inward[face // 2] = 1.0 if face % 2 == 0 else -1.0
    stand = np.array([x, y]) + inward * (piece.size_m[1] / 2 + 0.45)
    faces_deg = float(np.degrees(np.arctan2(inward[1], inward[0])))
    placed = faced(
        arrangement, (float(stand[0]), float(stand[1]), arrangement.performer.at[2]), faces_deg, distance_between(arrangement)
    )
    if stands_free(replace(room, furnishings=tuple(f for f in room.furnishings if f is not piece)), placed):
        yield Candidate(
            "wardrobe", "Open the wardrobe and stand with your back to it",
            "Hanging clothes half a metre deep swallow what goes past you, down into the bass.",
            _with(placed, open_), minutes=4, cautions=("Check that open doors cannot swing against the stand.",),
        )  # fmt: skip


def _taken(arrangement: Arrangement, face: int | None, kinds: tuple[str, ...]) -> bool:
    return any(o.kind in kinds and (face is None or o.face == face) for o in arrangement.treatments)


def _free_rect(room: Box, arrangement: Arrangement, face: int, rect: tuple[float, ...]) -> bool:
    """Whether a panel there would cover neither window, door nor another treatment."""
    return not any(
        o.face == face and min(rect[1], o.rect[1]) > max(rect[0], o.rect[0]) and min(rect[3], o.rect[3]) > max(rect[2], o.rect[2])
        for o in (*room.overlays, *arrangement.treatments)
    )


def reflection_panels(room: Box, arrangement: Arrangement, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """A panel where the strongest single reflections hit: walls and ceiling; a rug where it is the floor."""
    single = np.flatnonzero(now.paths.faces[:, 1] < 0)
    for path in single[np.argsort(-now.paths.level_db[single])][:3]:
        face, hit = int(now.paths.faces[path, 0]), now.paths.points[path, 0]
        delay, level = now.paths.delay_s[path] * 1000, now.paths.level_db[path]
        where = surface_words(room, face, arrangement)
        why = f"The strongest single return comes from there: {delay:.1f} ms after you, {level:.0f} dB."
        if face == FLOOR:
            rect = _centred(room, face, hit, 1.4, 2.0)
            if not _taken(arrangement, FLOOR, ("rug",)):
                yield Candidate(
                    "reflection", "Lay a thick rug between you and the microphone", why,
                    _with(arrangement, _overlay(room, "rug", face, rect, "carpet-cotton", "Rug")),
                    cost=60.0, minutes=5, cautions=("Lay it flat, with a non-slip mat: rugs trip people.",),
                )  # fmt: skip
            continue
        wide, high = (1.2, 0.6) if face == CEILING else (0.6, 1.2)
        rect = _centred(room, face, hit, wide, high)
        if not _free_rect(room, arrangement, face, rect):
            continue
        mounted = "screwed" if limits.may_drill else "leaned on a shelf or stand"
        cautions = [FIBRE_CAUTION, FIRE_CAUTION]
        if face == CEILING:
            if not limits.may_drill:
                continue  # nothing heavy overhead without proper fixings
            cautions.insert(0, OVERHEAD_CAUTION)
        cautions.append(WALL_CAUTION if limits.may_drill else STAND_CAUTION)
        yield Candidate(
            "reflection", f"A 60 x 120 cm panel, 10 cm thick, on {where}, {mounted}", why,
            _with(arrangement, _overlay(room, "panel", face, rect, _PANEL, "Panel")),
            cost=45.0, minutes=60 if limits.may_drill else 30, reversible=not limits.may_drill, cautions=tuple(cautions),
        )  # fmt: skip


def traps(room: Box, arrangement: Arrangement, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """Two thick panels where the worst note presses hardest: the walls its pressure loads, in a corner."""
    orders = now.modes.orders[now.boom.worst_mode]
    lx, ly, lz = room.size_m
    options = []
    for face in range(4):
        axis = face // 2
        along = 1 - axis
        extent = (lx, ly)[along]
        for corner in (0.0, extent - 0.6):
            rect = (corner, corner + 0.6, 0.0, min(1.2, lz))
            stacked = (corner, corner + 0.6, rect[3], min(2.4, lz))
            if _free_rect(room, arrangement, face, rect) and _free_rect(room, arrangement, face, stacked):
                options.append((int(orders[axis] > 0), face, rect, stacked))
    if not options:
        return
    _, face, rect, stacked = max(options, key=lambda option: option[0])
    traps = tuple(_overlay(room, "panel", face, r, _TRAP, "Bass trap") for r in (rect, stacked) if r[3] - r[2] > 0.2)
    yield Candidate(
        "trap", f"Two 60 x 120 cm panels, 20 cm thick, stacked in the corner on {surface_words(room, face, arrangement)}",
        f"The note near {note_words(now.boom.note_hz)} presses hardest in the corners; only thick panels reach that low.",
        _with(arrangement, *traps), cost=110.0, minutes=90,
        cautions=(FIBRE_CAUTION, FIRE_CAUTION, "Strap the stack to the wall so that it cannot tip."),
    )  # fmt: skip
