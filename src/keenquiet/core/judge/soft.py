"""Moves that make something soft: behind the performer, where reflections hit, in the corners, a wardrobe opened.

What is offered is a grid: panels along every wall at two heights, thick ones in every corner. The search ranks them
all.
"""

from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import Final

import numpy as np

from keenquiet.core.edits import Hang, SetState, TakeDown
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.judge.places import distance_between, faced, placing, reach_m, stands_free
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.room import Arrangement, Overlay, Rect, Room, direction
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.materials import computed_material
from keenquiet.core.things.pieces import TUNABLE_HZ, membrane_for, pieces
from keenquiet.core.things.porous import PorousAbsorber
from keenquiet.core.things.resonators import Membrane, Perforated
from keenquiet.core.types import FloatArray

_LEAST_CLOTH_M: Final = 1.0
_ELBOW_M: Final = 0.15  # between a piece and whoever stands before it
_PASSAGE_M: Final = 0.75  # of the room that is left before a piece
_OF_THE_WIDTH: Final = 4  # a piece takes at most this part of the narrower side
_CLOTH_DEPTH_M: Final = 0.15
_GRID_M: Final = 0.15
_CLOTH: Final = ("curtain", "rug", "blanket")


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


def _covered_by(room: Room, face: int, rect: Rect) -> list[tuple[float, float]]:
    """Stretches along a wall in front of which tall furniture stands, for something hung at this height. [m]"""
    plane = room.faces[face]
    spans = []
    for piece in room.furnishings:
        corners = np.column_stack([piece.footprint, np.zeros(4)])
        depth = (corners - plane.origin) @ plane.normal
        if depth.min() > 0.3 or depth.max() < 0 or piece.size_m[2] < rect[2] + 0.3:
            continue
        along = plane.to_flat(corners)[:, 0]
        spans.append((float(along.min()), float(along.max())))
    return spans


def _clear_of_furniture(room: Room, face: int, rect: Rect | None) -> Rect | None:
    """The widest part of a rectangle on a wall that no tall furniture stands in front of, None when under 1 m is
    left.
    """
    if rect is None:
        return None
    spans = [(rect[0], rect[1])]
    for low, high in _covered_by(room, face, rect):
        spans = [part for a, b in spans for part in ((a, min(b, low)), (max(a, high), b)) if part[1] > part[0]]
    widest = max(spans, key=lambda span: span[1] - span[0], default=(0.0, 0.0))
    return (*widest, rect[2], rect[3]) if widest[1] - widest[0] >= _LEAST_CLOTH_M else None


def _overlay(key: str, face: int, rect: Rect) -> Overlay:
    """A piece of the table where it is hung."""
    piece = pieces()[key]
    return Overlay(piece.label, face, rect, piece.material, is_treatment=True, kind=piece.kind, piece=key)


def soft_behind(scenario: Scenario, limits: Limits) -> Iterator[Candidate]:
    """The duvet or a curtain on the wall that the microphone sees past the performer."""
    room, arrangement = scenario.room, scenario.arrangement
    face, centre = _face_behind(room, arrangement)
    gradient = 1 - arrangement.microphone.a
    if _taken(arrangement, face, ("duvet", "curtain")):
        return
    rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.0, 1.8, lowest=0.4))
    # there is one, and where it hangs it stays
    if limits.has_duvet and rect is not None and not _taken(arrangement, None, ("duvet",)):
        duvet = _overlay("duvet", face, rect)
        yield Candidate("soft-behind", (Hang(duvet),), "duvet", facts={"face": face, "gradient": gradient})
    rect = _clear_of_furniture(room, face, _centred(room, face, centre, 2.2, 2.2))
    if rect is not None:
        curtain = _overlay("curtain", face, rect)
        yield Candidate("soft-behind", (Hang(curtain),), "curtain", facts={"face": face, "gradient": gradient})


def wardrobes(scenario: Scenario) -> Iterator[Candidate]:
    """Each wardrobe opened: as everybody stands, and with the performer's back to its clothes."""
    for number, piece in enumerate(scenario.room.furnishings):
        if piece.kind.key == "wardrobe" and not piece.is_open:
            opened = SetState(f"furnishings.{number}", "open")
            yield Candidate("wardrobe", (opened,), facts={"stand": "here"})
            stood = _before(scenario, piece)
            if stood is not None:
                yield Candidate("wardrobe", (opened, *placing(stood)), facts={"stand": "before"})


def _before(scenario: Scenario, piece: Furnishing) -> Arrangement | None:
    """The arrangement with the performer's back to the front of a piece, None when nobody can stand there."""
    room, arrangement = scenario.room, scenario.arrangement
    front = piece.axes[1]
    stand = np.array(piece.at) + front * (piece.size_m[1] / 2 + 0.45)
    faces_deg = float(np.degrees(np.arctan2(front[1], front[0])))
    at = (float(stand[0]), float(stand[1]), arrangement.performer.at[2])
    placed = faced(arrangement, at, faces_deg, distance_between(arrangement))
    others = replace(room, furnishings=tuple(f for f in room.furnishings if f is not piece))
    return placed if stands_free(others, placed) else None


def fits(room: Room, arrangement: Arrangement, overlay: Overlay) -> bool:
    """Whether a piece of this depth leaves room: to whoever and whatever stands before it, and to the wall opposite."""
    deep = _depth_m(overlay)
    plane = room.faces[overlay.face]
    if plane.kind != "wall":
        return True
    if deep * _OF_THE_WIDTH > float(np.min(np.ptp(room.shape.corners, axis=0))):
        return False
    u0, u1, _, _ = overlay.rect
    for at in (arrangement.performer.at, arrangement.microphone.at, *(m.at for m in arrangement.monitors)):
        flat = plane.to_flat(np.array([at]))[0]
        away = float((np.asarray(at) - plane.origin) @ plane.normal)
        if u0 - _ELBOW_M < flat[0] < u1 + _ELBOW_M and away < deep + _ELBOW_M:
            return False
    middle = plane.to_space(np.array([[(u0 + u1) / 2, 1.0]]))[0][:2] + 1e-3 * plane.normal[:2]
    across = [
        reached
        for wall in range(len(room.shape.plan))
        if wall != overlay.face and (reached := reach_m(room, wall, middle, plane.normal[:2])) is not None
    ]
    return not across or min(across) - deep >= _PASSAGE_M


def _depth_m(overlay: Overlay) -> float:
    """How far a piece reaches into the room. [m]"""
    absorber = overlay.material.absorber
    if isinstance(absorber, PorousAbsorber):
        return absorber.thickness_m + absorber.gap_m
    if isinstance(absorber, Membrane | Perforated):
        return absorber.backing.gap_m + absorber.backing.fill_m + 0.02
    return _CLOTH_DEPTH_M if overlay.kind in ("duvet", "curtain", "blanket") else 0.05


def livelier(scenario: Scenario) -> Iterator[Candidate]:
    """What lets the room answer: something that hangs here taken down, curtains drawn back, a rug rolled up, a wardrobe
    shut, a door opened.
    """
    for number, overlay in enumerate(scenario.arrangement.treatments):
        yield Candidate("take-down", (TakeDown(number),), facts={"what": overlay.kind or "piece", "face": overlay.face})
    for changeable in scenario.room.changeables:
        if changeable.kind in _CLOTH and changeable.state == "drawn":
            undrawn = SetState(changeable.name, "undrawn")
            yield Candidate("undrape", (undrawn,), facts={"what": changeable.kind})
        if changeable.kind == "door" and changeable.state == "shut" and "open" in dict(changeable.states):
            yield Candidate("open-door", (SetState(changeable.name, "open"),))
    for number, piece in enumerate(scenario.room.furnishings):
        if piece.kind.key == "wardrobe" and piece.is_open:
            yield Candidate("undrape", (SetState(f"furnishings.{number}", "shut"),), facts={"what": "wardrobe"})


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


def _hidden(room: Room, face: int, rect: Rect) -> bool:
    """Whether tall furniture stands in front of more than a hand's width of it."""
    return any(min(rect[1], high) - max(rect[0], low) > 0.1 for low, high in _covered_by(room, face, rect))


def reflection_panels(scenario: Scenario, now: Forecast, limits: Limits) -> Iterator[Candidate]:
    """A panel where the strongest single reflections hit, walls and ceiling, and all along the walls at mouth height; a
    rug where it is the floor.
    """
    room, arrangement = scenario.room, scenario.arrangement
    single = (now.paths.faces[:, 1] < 0) & (now.paths.faces[:, 0] < len(room.faces)) & ~now.paths.blocked
    for path in np.flatnonzero(single)[np.argsort(-now.paths.level_db[single])]:
        face, hit = int(now.paths.faces[path, 0]), now.paths.points[path, 0]
        facts = {
            "face": face,
            "delay_ms": float(now.paths.delay_s[path] * 1000),
            "level_db": float(now.paths.level_db[path]),
        }
        plane = room.faces[face]
        if plane.kind == "floor":
            rect = _centred(room, face, hit, 1.4, 2.0)
            if rect is not None and not _taken(arrangement, face, ("rug",)):
                rug = _overlay("rug", face, rect)
                yield Candidate("reflection", (Hang(rug),), "rug", facts=facts)
            continue
        overhead = plane.kind == "ceiling"
        if plane.kind == "step" or (overhead and not limits.may_drill):
            continue  # nothing heavy overhead without proper fixings
        wide, high = (1.2, 0.6) if overhead else (0.6, 1.2)
        for rect, placed in _around(room, face, hit, wide, high):
            if _free_rect(room, arrangement, face, rect) and not (plane.kind == "wall" and _hidden(room, face, rect)):
                hung = _overlay("panel", face, rect)
                yield Candidate(
                    "reflection", (Hang(hung),), "panel-overhead" if overhead else "panel", facts=facts | placed
                )


def _around(
    room: Room, face: int, hit: FloatArray, wide: float, high: float
) -> Iterator[tuple[Rect, dict[str, float]]]:
    """Rectangles on a face at a point and, on walls, along it on either side at three heights, with where each is."""
    seen = set()
    plane = room.faces[face]
    u0, u1, _, _ = plane.extent
    flat = plane.to_flat(hit)
    starts = [float(flat[0])]
    if plane.kind == "wall":
        starts += [float(u) for u in np.arange(u0 + wide / 2, u1 - wide / 2 + 1e-9, _GRID_M)]
    for start in starts:
        for rise in (0.0, 0.3, -0.3) if plane.kind == "wall" else (0.0,):
            rect = _centred(room, face, plane.to_space(np.array([[start, flat[1] + rise]]))[0], wide, high)
            if rect is not None and rect not in seen:
                seen.add(rect)
                yield rect, {"start_m": start, "rise_m": rise}


_VARIANTS: Final = ("panel-50", "panel-150", "foam-50", "blanket", "slotted")


def variants(panels: Iterable[Candidate], scenario: Scenario) -> Iterator[Candidate]:
    """Other pieces in the places of panels that help: thinner, thicker, foam, a blanket."""
    room, arrangement = scenario.room, scenario.arrangement
    for panel in panels:
        hung = next(edit.overlay for edit in panel.edits if isinstance(edit, Hang))
        plane = room.faces[hung.face]
        if plane.kind != "wall":
            continue
        u0, u1, v0, v1 = hung.rect
        for key in _VARIANTS:
            piece = pieces()[key]
            centre = plane.to_space(np.array([[(u0 + u1) / 2, (v0 + v1) / 2]]))[0]
            rect = _centred(room, hung.face, centre, piece.width_m, piece.height_m)
            if (
                rect is not None
                and _free_rect(room, arrangement, hung.face, rect)
                and not _hidden(room, hung.face, rect)
            ):
                overlay = _overlay(key, hung.face, rect)
                yield Candidate("reflection", (Hang(overlay),), key, facts=panel.facts)


def traps(scenario: Scenario, now: Forecast) -> Iterator[Candidate]:
    """Two thick panels stacked against a wall, in its corners and along it; in its corners two boards on boxes, too,
    tuned to the note that hangs on most.
    """
    room, arrangement = scenario.room, scenario.arrangement
    note_hz = now.boom.note_hz
    tuned = computed_material(membrane_for(note_hz)) if TUNABLE_HZ[0] <= note_hz <= TUNABLE_HZ[1] else None
    for face in range(len(room.shape.plan)):
        u0, u1, _, top = room.faces[face].extent
        for start in np.unique(np.round([*np.arange(u0, u1 - 0.6 + 1e-9, 2 * _GRID_M), u1 - 0.6], 6)):
            stack: list[Rect] = [
                (float(start), float(start) + 0.6, low, min(low + 1.2, top)) for low in (0.0, 1.2) if top - low > 0.2
            ]
            if start >= u0 and all(
                room.faces[face].holds_rect(r) and _free_rect(room, arrangement, face, r) and not _hidden(room, face, r)
                for r in stack
            ):
                hung = tuple(Hang(_overlay("trap", face, r)) for r in stack)
                in_corner = min(start - u0, u1 - 0.6 - start) < 0.05
                facts = {"face": face, "note_hz": note_hz, "where": "corner" if in_corner else "wall"}
                yield Candidate("trap", hung, "trap", len(stack), facts)
                if in_corner and tuned is not None:
                    boards = tuple(Hang(replace(_overlay("membrane", face, r), material=tuned)) for r in stack)
                    yield Candidate("trap", boards, "membrane", len(stack), facts)
