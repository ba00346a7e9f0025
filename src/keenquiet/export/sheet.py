"""A drawing of the room as lines, areas and words in metres, by layer: what SVG and DXF are written from.

Views: `plan` from above; `walls`, each wall unfolded in turn as seen from inside; `section` along x or y; `model` is in
model.py.
"""

from dataclasses import dataclass, field
from typing import Final, Literal

import numpy as np
import shapely
from shapely.geometry import LineString

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Arrangement, Overlay, Room
from keenquiet.core.room.shape import Face
from keenquiet.core.types import FloatArray

VIEWS: Final = ("plan", "walls", "section-x", "section-y", "model")
LAYERS: Final = ("WALLS", "CEILING", "OPENINGS", "COVERS", "TREATMENT", "FURNITURE", "MARKS", "DIMENSIONS", "NAMES")
_ROW_GAP_M: Final = 0.85
_GAP_M: Final = 0.45  # between unfolded walls
_WALL_M: Final = 0.09

Layer = Literal["WALLS", "CEILING", "OPENINGS", "COVERS", "TREATMENT", "FURNITURE", "MARKS", "DIMENSIONS", "NAMES"]


@dataclass(frozen=True)
class Stroke:
    """A run of straight lines, (n, 2). [m]"""

    layer: Layer
    points: FloatArray
    is_closed: bool = False
    is_filled: bool = False
    is_dashed: bool = False


@dataclass(frozen=True)
class Word:
    """Text centred at a place; turned anticlockwise. [m, deg]"""

    layer: Layer
    at: tuple[float, float]
    text: str
    height_m: float = 0.1
    turn_deg: float = 0.0


@dataclass
class Sheet:
    """A drawing: strokes and words, y upwards. [m]"""

    title: str
    strokes: list[Stroke] = field(default_factory=list)
    words: list[Word] = field(default_factory=list)

    def bounds(self) -> tuple[float, float, float, float]:
        """Smallest x and y, largest x and y. [m]"""
        points = np.concatenate(
            [*(stroke.points for stroke in self.strokes), *(np.array([word.at]) for word in self.words)]
        )
        (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)

    def rect(self, layer: Layer, u0: float, u1: float, v0: float, v1: float, **more: bool) -> None:
        """A rectangle."""
        self.strokes.append(Stroke(layer, np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]]), is_closed=True, **more))

    def dimension(self, start: FloatArray, end: FloatArray, off: FloatArray, text: str) -> None:
        """A dimension line beside a stretch: line, ticks, words above it."""
        a, b = start + off, end + off
        along = (b - a) / np.linalg.norm(b - a)
        across = np.array([-along[1], along[0]]) * 0.05
        self.strokes += [Stroke("DIMENSIONS", np.array([a, b]))] + [
            Stroke("DIMENSIONS", np.array([p - across, p + across])) for p in (a, b)
        ]
        turn = float(np.degrees(np.arctan2(along[1], along[0])))
        turn = turn - 180 if turn > 90 else turn + 180 if turn <= -90 else turn
        middle = (a + b) / 2 + off / max(float(np.linalg.norm(off)), 1e-9) * 0.1
        self.words.append(Word("DIMENSIONS", (float(middle[0]), float(middle[1])), text, 0.09, turn))


def sheet_of(room: Room, arrangement: Arrangement | None, view: str) -> Sheet:
    """One view of a room. Raises InputError for an unknown view."""
    if view == "plan":
        return _plan(room, arrangement)
    if view == "walls":
        return _walls(room, arrangement)
    if view in ("section-x", "section-y"):
        return _section(room, arrangement, 0 if view == "section-x" else 1)
    raise InputError("view", f"{view!r} is not a view.", f"Use one of {', '.join(VIEWS)}.")


def _length(metres: float) -> str:
    return f"{metres:.2f} m"


def overlays_of(room: Room, arrangement: Arrangement | None) -> list[tuple[Overlay, Layer]]:
    """Everything on the faces with the layer it is drawn on."""
    layers: dict[str, Layer] = {"window": "OPENINGS", "door": "OPENINGS"}
    listed: list[tuple[Overlay, Layer]] = [
        (o, layers.get(o.kind, "COVERS")) for o in room.overlays if not o.is_treatment
    ]
    hung = arrangement.treatments if arrangement is not None else ()
    return listed + [(o, "TREATMENT") for o in hung]


def _plan(room: Room, arrangement: Arrangement | None) -> Sheet:
    sheet = Sheet(f"{room.name}: plan")
    corners = room.shape.corners
    outer = np.array(room.shape.polygon.buffer(_WALL_M, join_style="mitre").exterior.coords)[:-1]
    sheet.strokes += [Stroke("WALLS", corners, is_closed=True), Stroke("WALLS", outer, is_closed=True)]
    for face in room.faces:
        if face.kind == "ceiling" and len([f for f in room.faces if f.kind == "ceiling"]) > 1:
            sheet.strokes.append(Stroke("CEILING", face.to_space(face.outline)[:, :2], is_closed=True, is_dashed=True))
    for overlay, layer in overlays_of(room, arrangement):
        face = room.faces[overlay.face]
        u0, u1, v0, v1 = overlay.rect
        if face.kind == "wall":
            depth = -_WALL_M if layer == "OPENINGS" else 0.06
            ends = face.to_space(np.array([[u0, v0], [u1, v0]]))[:, :2]
            inward = face.normal[:2] * depth
            sheet.strokes.append(
                Stroke(layer, np.array([ends[0], ends[1], ends[1] + inward, ends[0] + inward]), is_closed=True)
            )
        elif face.kind in ("floor", "ceiling"):
            outline = face.to_space(np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]]))[:, :2]
            sheet.strokes.append(Stroke(layer, outline, is_closed=True, is_dashed=face.kind == "ceiling"))
    for piece in room.furnishings:
        sheet.strokes.append(Stroke("FURNITURE", piece.footprint, is_closed=True))
        sheet.words.append(Word("FURNITURE", piece.at, piece.kind.name, 0.08, _readable(piece.turn_deg)))
    for number, face in enumerate(f for f in room.faces if f.kind == "wall"):
        start, end = corners[number], corners[(number + 1) % len(corners)]
        sheet.dimension(start, end, -face.normal[:2] * 0.3, _length(float(np.linalg.norm(end - start))))
    if arrangement is not None:
        _marks(sheet, arrangement, lambda at: (at[0], at[1]))
    return sheet


def _readable(turn_deg: float) -> float:
    turn = (turn_deg + 90) % 180 - 90
    return 90.0 if turn == -90 else turn


def _marks(sheet: Sheet, arrangement: Arrangement, to_sheet) -> None:  # type: ignore[no-untyped-def]
    spots = {"performer": to_sheet(arrangement.performer.at), "microphone": to_sheet(arrangement.microphone.at)}
    upper = max(spots, key=lambda name: spots[name][1])  # the upper one is named above, so that the two names part
    for name, (x, y) in spots.items():
        arm = 0.06
        sheet.strokes += [
            Stroke("MARKS", np.array([[x - arm, y - arm], [x + arm, y + arm]])),
            Stroke("MARKS", np.array([[x - arm, y + arm], [x + arm, y - arm]])),
        ]
        sheet.words.append(Word("MARKS", (x, y + 0.1 if name == upper else y - 0.17), name, 0.08))


def _walls(room: Room, arrangement: Arrangement | None) -> Sheet:
    sheet = Sheet(f"{room.name}: walls from inside")
    rows = _rows([(face.extent[1] - face.extent[0], face.extent[3]) for face in room.faces if face.kind == "wall"])
    for number, face in enumerate(room.faces):
        if face.kind != "wall":
            continue
        u0, u1, _, v1 = face.extent
        left, foot = rows.pop(0)
        shift = np.array([left, foot])
        sheet.strokes.append(Stroke("WALLS", face.outline + shift, is_closed=True))
        for overlay, layer in overlays_of(room, arrangement):
            if overlay.face == number:
                a, b, c, d = overlay.rect
                sheet.rect(layer, a + left, b + left, c + foot, d + foot)
                words = {
                    "OPENINGS": overlay.kind,
                    "TREATMENT": f"{overlay.kind} {b - a:.2f} x {d - c:.2f} m, foot at {c:.2f} m",
                }.get(layer, overlay.kind)
                sheet.words.append(Word(layer, ((a + b) / 2 + left, (c + d) / 2 + foot), words, 0.07))
        for piece in room.furnishings:
            flat = _against(face, piece.footprint)
            if flat is not None:
                sheet.rect(
                    "FURNITURE", flat[0] + left, flat[1] + left, foot, foot + min(piece.size_m[2], v1), is_dashed=True
                )
                sheet.words.append(
                    Word(
                        "FURNITURE",
                        ((flat[0] + flat[1]) / 2 + left, foot + min(piece.size_m[2], v1) - 0.12),
                        piece.kind.name,
                        0.07,
                    )
                )
        sheet.dimension(
            np.array([u0 + left, foot]), np.array([u1 + left, foot]), np.array([0.0, -0.22]), _length(u1 - u0)
        )
        sheet.dimension(np.array([left, foot]), np.array([left, foot + v1]), np.array([-0.16, 0.0]), _length(v1))
        sheet.words.append(Word("NAMES", ((u0 + u1) / 2 + left, foot + v1 + 0.18), face.name.replace("-", " "), 0.11))
    return sheet


def _rows(sizes: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Where each wall's lower left corner goes so that rows come out about as long as all of them are high. [m]"""
    total = sum(width + _GAP_M for width, _ in sizes)
    count = max(round(np.sqrt(total / (1.6 * (max(height for _, height in sizes) + _ROW_GAP_M)))), 1)
    spots: list[tuple[float, float]] = []
    left, foot = 0.0, 0.0
    for width, _ in sizes:
        if spots and left + width / 2 > total / count:
            left, foot = 0.0, foot - max(height for _, height in sizes) - _ROW_GAP_M
        spots.append((left, foot))
        left += width + _GAP_M
    return spots


def _against(face: Face, footprint: FloatArray) -> tuple[float, float] | None:
    """Where a piece that stands within 30 cm of a wall begins and ends along it. [m]"""
    corners = np.column_stack([footprint, np.zeros(4)])
    depth = (corners - face.origin) @ face.normal
    along = face.to_flat(corners)[:, 0]
    low, high = max(float(along.min()), face.extent[0]), min(float(along.max()), face.extent[1])
    return (low, high) if -0.2 < depth.min() < 0.3 and high - low > 0.05 else None


def _section(room: Room, arrangement: Arrangement | None, axis: int) -> Sheet:
    """Cut through the performer, or the middle; x to the right for a cut along x, y for one along y."""
    sheet = Sheet(f"{room.name}: section along {'xy'[axis]}")
    other = 1 - axis
    at = arrangement.performer.at[other] if arrangement is not None else float(np.mean(room.shape.corners[:, other]))
    far = 60.0
    ends = np.array([[0.0, at], [far, at]]) if axis == 0 else np.array([[at, 0.0], [at, far]])
    ends[0, axis] = -1.0
    cut = room.shape.polygon.intersection(LineString(ends))
    for part in getattr(cut, "geoms", [cut]):
        if part.is_empty or part.length < 1e-6:
            continue
        points = np.array(part.coords)
        stops = np.linspace(points[0], points[-1], 200)
        steps = [shapely.Point(p) for p in stops[1:-1]]
        height = room.shape.height_at(np.array([p.x for p in steps]), np.array([p.y for p in steps]))
        profile = np.column_stack([stops[1:-1, axis], height])
        # heights were taken a step inside the walls: where the ceiling slopes on evenly they are carried to the ends
        low, high = (_at_end(profile[:2, 1], profile[0, 0]), _at_end(profile[:-3:-1, 1], profile[-1, 0]))
        outline = np.vstack(
            [
                [[stops[0, axis], 0.0]],
                [[stops[-1, axis], 0.0]],
                [[stops[-1, axis], high[1]]],
                profile[::-1],
                [[stops[0, axis], low[1]]],
            ]
        )
        sheet.strokes.append(Stroke("WALLS", np.array(LineString(outline).simplify(0.002).coords), is_closed=True))
        sheet.dimension(
            np.array([stops[0, axis], 0.0]),
            np.array([stops[-1, axis], 0.0]),
            np.array([0.0, -0.25]),
            _length(float(part.length)),
        )
        sheet.dimension(
            np.array([stops[0, axis], 0.0]),
            np.array([stops[0, axis], low[1]]),
            np.array([-0.2, 0.0]),
            _length(float(low[1])),
        )
        if profile[:, 1].max() > max(low[1], high[1]) + 0.02:
            end = np.array([stops[-1, axis], 0.0])
            top = np.array([stops[-1, axis], float(profile[:, 1].max())])
            sheet.dimension(end, top, np.array([0.25, 0.0]), _length(float(top[1])))
    for piece in room.furnishings:
        u = piece.footprint[:, axis]
        low_z, _ = piece.body_m
        sheet.rect(
            "FURNITURE", float(u.min()), float(u.max()), low_z if low_z > 0.3 else 0.0, piece.size_m[2], is_dashed=True
        )
        sheet.words.append(Word("FURNITURE", (float(u.mean()), piece.size_m[2] / 2), piece.kind.name, 0.07))
    if arrangement is not None:
        _marks(sheet, arrangement, lambda p: (p[axis], p[2]))
    return sheet


def _at_end(heights: FloatArray, along_m: float) -> tuple[float, float]:
    """The ceiling's height at a wall from the two samples next to it, the nearer first. [m]"""
    step = float(heights[0] - heights[1])
    return float(along_m), round(float(heights[0]) + (step if abs(step) < 0.05 else 0.0), 4)
