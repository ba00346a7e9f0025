"""The box room as a value: faces, what lies on them, what stands in it.

Local frame: origin in a floor corner, x and y along the plan, z up. Faces are numbered by axis and side:
0 x=0, 1 x=Lx, 2 y=0, 3 y=Ly, 4 floor, 5 ceiling.
"""

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Final

import numpy as np

from keenquiet.core.air import Air
from keenquiet.core.errors import InputError, OutsideRoom
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.materials import Material
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.microphone import pressure_part
from keenquiet.core.waves.sources import Source

FLOOR: Final = 4
CEILING: Final = 5
MIN_SIDE_M: Final = 0.5
MAX_SIDE_M: Final = 25.0
HEAD_RADIUS_M: Final = 0.03  # closer than this a microphone is inside the mouth

Point = tuple[float, float, float]
Rect = tuple[float, float, float, float]  # a0, a1, b0, b1 along the face's two axes in rising order of axis


def tangential(face: int) -> tuple[int, int]:
    """The two axes that lie in a face, in rising order."""
    axis = face // 2
    a, b = (i for i in range(3) if i != axis)
    return a, b


@dataclass(frozen=True)
class Overlay:
    """Something on a face that replaces what lies under it: a window, a door, a panel, a rug."""

    name: str
    face: int
    rect: Rect
    material: Material
    is_treatment: bool = False
    kind: str = ""


@dataclass(frozen=True)
class Piece:
    """A rectangle of one material with a sign: overlays subtract what they cover."""

    face: int
    rect: Rect
    material: Material
    sign: int

    @property
    def area_m2(self) -> float:
        """Signed area. [m2]"""
        a0, a1, b0, b1 = self.rect
        return self.sign * (a1 - a0) * (b1 - b0)


@dataclass(frozen=True)
class NoiseSource:
    """A noise: octave levels at 1 m by octave (8,) [dB re 20 uPa], place, hours of the day it runs (empty = always)."""

    name: str
    level_db: FloatArray
    at: Point
    hours: tuple[tuple[float, float], ...] = ()
    kind: str = "outside"
    hum_hz: float | None = None  # a steady tone that carries half of its octave's energy

    def runs_at(self, hour: float | None) -> bool:
        """Whether it sounds at this hour; with no hour given, always."""
        if hour is None or not self.hours:
            return True
        return any(start <= hour < end if start <= end else hour >= start or hour < end for start, end in self.hours)


@dataclass(frozen=True)
class Performer:
    """Who performs: mouth or instrument `at`, facing `faces_deg` on the plan."""

    at: Point
    faces_deg: float
    source: Source


@dataclass(frozen=True)
class Microphone:
    """A microphone `at`, aimed at `aims_deg` on the plan and `tilt_deg` upwards."""

    at: Point
    aims_deg: float
    tilt_deg: float = 0.0
    pattern: str = "cardioid"

    @property
    def a(self) -> float:
        """Pressure part of the pattern."""
        return pressure_part(self.pattern)


@dataclass(frozen=True)
class Arrangement:
    """Where everybody stands and what is hung: the part of the room that a musician changes."""

    performer: Performer
    microphone: Microphone
    treatments: tuple[Overlay, ...] = ()


def direction(azimuth_deg: float, elevation_deg: float = 0.0) -> FloatArray:
    """Unit vector, (3,)."""
    az, el = np.deg2rad(azimuth_deg), np.deg2rad(elevation_deg)
    return np.array([np.cos(el) * np.cos(az), np.cos(el) * np.sin(az), np.sin(el)])


@dataclass(frozen=True)
class Box:
    """A box room with everything in it except the arrangement.

    size_m : length x, width y, height z. [m]
    faces : material of each of the six faces.
    """

    name: str
    size_m: Point
    faces: tuple[Material, ...]
    air: Air = field(default_factory=Air)
    overlays: tuple[Overlay, ...] = ()
    furnishings: tuple[Furnishing, ...] = ()
    noises: tuple[NoiseSource, ...] = ()

    def __post_init__(self) -> None:
        for axis, side in enumerate(self.size_m):
            if not MIN_SIDE_M <= side <= MAX_SIDE_M:
                label = ("length", "width", "height")[axis]
                raise InputError(
                    "shape.ceiling.height_m" if axis == 2 else "shape.plan",
                    f"the {label} is {side:g} m; a room here is {MIN_SIDE_M:g} to {MAX_SIDE_M:g} m.",
                    "Check the tape reading and its unit.",
                )
        for overlay in self.overlays:
            self.check_overlay(overlay)

    @property
    def volume_m3(self) -> float:
        """Volume. [m3]"""
        lx, ly, lz = self.size_m
        return lx * ly * lz

    @property
    def face_areas_m2(self) -> FloatArray:
        """Areas of the six faces. [m2]"""
        lx, ly, lz = self.size_m
        return np.array([ly * lz, ly * lz, lx * lz, lx * lz, lx * ly, lx * ly])

    def face_extent_m(self, face: int) -> tuple[float, float]:
        """Lengths of a face along its two axes. [m]"""
        a, b = tangential(face)
        return self.size_m[a], self.size_m[b]

    def check_overlay(self, overlay: Overlay) -> None:
        """Raise OutsideRoom when an overlay reaches beyond its face."""
        a0, a1, b0, b1 = overlay.rect
        ea, eb = self.face_extent_m(overlay.face)
        slack = 1e-6
        if not (-slack <= a0 < a1 <= ea + slack and -slack <= b0 < b1 <= eb + slack):
            raise OutsideRoom(
                overlay.name, f"spans {a0:.2f} to {a1:.2f} m by {b0:.2f} to {b1:.2f} m, its surface is {ea:.2f} x {eb:.2f} m.",
                "Move it in or make it smaller.",
            )  # fmt: skip

    def with_overlays(self, extra: tuple[Overlay, ...]) -> "Box":
        """The same room with more things on its faces."""
        return replace(self, overlays=(*self.overlays, *extra)) if extra else self

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        """All surfaces as signed rectangles: sums over pieces equal sums over what is really exposed."""
        pieces: list[Piece] = []
        for face in range(6):
            ea, eb = self.face_extent_m(face)
            on_face = [Piece(face, (0.0, ea, 0.0, eb), self.faces[face], 1)]
            for overlay in (o for o in self.overlays if o.face == face):
                covered = [
                    Piece(face, shared, piece.material, -piece.sign)
                    for piece in on_face
                    if (shared := _intersection(piece.rect, overlay.rect)) is not None
                ]
                on_face += [*covered, Piece(face, overlay.rect, overlay.material, 1)]
            pieces += on_face
        return tuple(pieces)

    @cached_property
    def face_absorption(self) -> FloatArray:
        """Mean absorption coefficient of each face by octave, (6, 8). [-]"""
        area = np.zeros((6, 8))
        for piece in self.pieces:
            area[piece.face] += piece.area_m2 * piece.material.absorption
        return area / self.face_areas_m2[:, None]

    @cached_property
    def furniture_area_m2(self) -> FloatArray:
        """Equivalent absorption area of everything standing in the room, by octave, (8,). [m2]"""
        return sum((piece.absorption_area_m2 for piece in self.furnishings), start=np.zeros(8))

    def check_point(self, at: Point, *, field: str, label: str) -> None:
        """Raise OutsideRoom, naming the axis and how far to move, when a point is not inside."""
        for axis, (value, limit) in enumerate(zip(at, self.size_m, strict=True)):
            name = "xyz"[axis]
            if not 0.0 < value < limit:  # NaN is refused too
                way = f"in by {value - limit + 0.05:.2f} m" if value >= limit else "further in"
                raise OutsideRoom(
                    f"{field}.at",
                    f"the {label} is at {name} = {value:.2f} m, the room spans 0 to {limit:.2f} m.",
                    f"Move it {way}.",
                )

    def check_arrangement(self, arrangement: Arrangement, *, field: str = "arrangements") -> None:
        """Raise when a mark lies outside the room, marks lie inside each other, or a treatment reaches over its surface."""
        self.check_point(arrangement.performer.at, field=f"{field}.performer", label="performer")
        self.check_point(arrangement.microphone.at, field=f"{field}.microphone", label="microphone")
        apart = float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))
        if apart < HEAD_RADIUS_M:
            raise InputError(
                f"{field}.microphone.at", f"the microphone is {apart * 100:.1f} cm from the mouth, inside it.",
                f"Keep at least {HEAD_RADIUS_M * 100:.0f} cm between them.",
            )  # fmt: skip
        for overlay in arrangement.treatments:
            self.check_overlay(overlay)


def _intersection(one: Rect, other: Rect) -> Rect | None:
    a0, a1 = max(one[0], other[0]), min(one[1], other[1])
    b0, b1 = max(one[2], other[2]), min(one[3], other[3])
    return (a0, a1, b0, b1) if a0 < a1 and b0 < b1 else None
