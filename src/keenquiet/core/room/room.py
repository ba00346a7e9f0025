"""The room as a value: its shape, what its faces are made of, what lies on them, what stands in it."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Final

import numpy as np
from shapely.geometry import Polygon

from keenquiet.core.air import Air
from keenquiet.core.errors import InputError, OutsideRoom
from keenquiet.core.room.calendar import Calendar, DayHours
from keenquiet.core.room.furnishings import Furnishing
from keenquiet.core.room.shape import Ceiling, Face, Shape
from keenquiet.core.room.ways import Way
from keenquiet.core.things.materials import Material
from keenquiet.core.things.microphone import pressure_part
from keenquiet.core.things.sources import Source
from keenquiet.core.types import FloatArray

_THINNEST_M, _LONGEST_M = 0.01, 8.0  # of a piece of furniture
_ON_WALL_M: Final = 1e-3  # nearer than this a mark is in the wall
GUESSED_SPREAD: Final = 0.35  # log-normal: lengths guessed within a tenth, softness within a step, and the catalogue
HEAD_RADIUS_M: Final = 0.03  # closer than this a microphone is inside the mouth
_PASSES_MIN, _PASSES_SHARE = 2.0, 0.2
_THROUGH_M: Final = 0.10  # a tape's error and a skirting board: furniture may reach this far into a wall

Point = tuple[float, float, float]
Rect = tuple[float, float, float, float]  # u0, u1, v0, v1 in the face's own flat coordinates


@dataclass(frozen=True)
class Overlay:
    """Something on a face that replaces what lies under it: a window, a door, a region, a panel, a rug.

    piece : its key among `things.pieces`, "" where nobody says.
    """

    name: str
    face: int
    rect: Rect
    material: Material
    is_treatment: bool = False
    kind: str = ""
    piece: str = ""


@dataclass(frozen=True)
class Changeable:
    """A door, window or curtain that can be changed by hand: what lies on the face in each of its states.

    name : that its overlays carry too. states : state -> overlays. state : the one it is in.
    """

    name: str
    kind: str
    states: tuple[tuple[str, tuple[Overlay, ...]], ...]
    state: str

    def overlays_in(self, state: str) -> tuple[Overlay, ...]:
        """What lies on the face in a state. Raises KeyError for one it cannot be in."""
        return dict(self.states)[state]


@dataclass(frozen=True)
class Piece:
    """A part of a face of one material with a sign: the wall under what is seen of an overlay counts off.

    rect None: the whole face.
    """

    face: int
    rect: Rect | None
    material: Material
    sign: int
    area_m2: float  # signed


@dataclass(frozen=True)
class Cycle:
    """Something that comes and goes by itself: every period_min minutes it sounds for a share of the time."""

    period_min: float
    on_share: float

    @property
    def on_min(self) -> float:
        """How long it sounds each time. [min]"""
        return self.period_min * self.on_share

    @property
    def passes(self) -> bool:
        """Whether one waits until it has passed: it is over within two minutes, and rests most of the time."""
        return self.on_min < _PASSES_MIN and self.on_share < _PASSES_SHARE


@dataclass(frozen=True, eq=False)
class NoiseSource:
    """A noise: octave levels at 1 m while it sounds (8,) [dB re 20 uPa], place, hours of the day it runs (empty =
    always) and weekdays that differ.

    kind : `outside` comes through a surface, `inside` stands in the room, `structure` comes through the building and
    from every side. surface : face it comes through, None inside. cycle : how it comes and goes, None when steady.
    """

    name: str
    level_db: FloatArray
    at: Point
    hours: tuple[tuple[float, float], ...] = ()
    kind: str = "outside"
    hum_hz: float | None = None  # a steady tone that carries half of its octave's energy
    other_days: tuple[DayHours, ...] = ()
    cycle: Cycle | None = None
    surface: int | None = None
    preset: str | None = None

    @property
    def calendar(self) -> Calendar:
        """When it runs."""
        return Calendar(self.hours, self.other_days)

    @property
    def passes(self) -> bool:
        """Whether it only passes: it spoils a take, not the silence between."""
        return self.cycle is not None and self.cycle.passes

    def runs_at(self, hour: float | None, weekday: int | None = None) -> bool:
        """Whether it sounds at this hour; with no hour given, always."""
        return self.calendar.runs_at(hour, weekday)

    def on(self, weekday: int) -> "NoiseSource | None":
        """The same noise as one weekday has it, None where it rests all day."""
        if self.calendar.always:
            return self
        spans = self.calendar.on(weekday)
        return replace(self, hours=() if spans == ((0.0, 24.0),) else spans, other_days=()) if spans else None


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
class Facing:
    """A monitor or a chair: a place and the way it faces on the plan."""

    at: Point
    faces_deg: float = 0.0


@dataclass(frozen=True)
class Screen:
    """Something that stands free: an upright rectangle, `at` the middle of its lower edge, its front facing
    `faces_deg`.

    absorption : by octave, of its front and back alike, (8,). [-]
    """

    kind: str
    at: Point
    faces_deg: float
    width_m: float
    height_m: float
    absorption: tuple[float, ...]


@dataclass(frozen=True)
class Laptop:
    """The recorder: laptop and interface at one place, its screen facing `faces_deg`, with the cables at hand. [m]"""

    at: Point
    faces_deg: float
    mic_cable_m: float = 5.0
    phones_cable_m: float = 3.0


@dataclass(frozen=True)
class Arrangement:
    """Where everybody stands and what is hung: the part of the room that a musician changes."""

    performer: Performer
    microphone: Microphone
    treatments: tuple[Overlay, ...] = ()
    second_microphone: Microphone | None = None
    monitors: tuple[Facing, ...] = ()
    chair: Facing | None = None
    screens: tuple[Screen, ...] = ()
    laptop: Laptop | None = None

    @property
    def placed(self) -> "Arrangement":
        """The same without what hangs on faces."""
        return replace(self, treatments=())


def direction(azimuth_deg: float, elevation_deg: float = 0.0) -> FloatArray:
    """Unit vector, (3,)."""
    return directions(np.asarray(azimuth_deg), np.asarray(elevation_deg))


def directions(azimuth_deg: FloatArray, elevation_deg: FloatArray) -> FloatArray:
    """Unit vectors, (..., 3)."""
    az, el = np.deg2rad(azimuth_deg), np.deg2rad(elevation_deg)
    return np.stack([np.cos(el) * np.cos(az), np.cos(el) * np.sin(az), np.sin(el)], axis=-1)


@dataclass(frozen=True)
class Room:
    """A room with everything in it except the arrangement.

    materials : one for each of the shape's faces, in their order. ways : what lets sound in.
    """

    name: str
    shape: Shape
    materials: tuple[Material, ...]
    air: Air = field(default_factory=Air)
    overlays: tuple[Overlay, ...] = ()
    furnishings: tuple[Furnishing, ...] = ()
    noises: tuple[NoiseSource, ...] = ()
    spread: float | None = (
        None  # log-normal spread of absorption where it is not the catalogue's: after a fit, or guessed
    )
    # frequency [Hz] and extra decay rate [1/s] of single modes, from a fit
    mode_losses: tuple[tuple[float, float], ...] = ()
    changeables: tuple[Changeable, ...] = ()
    ways: tuple[Way, ...] = ()

    def __post_init__(self) -> None:
        if len(self.materials) != len(self.faces):
            raise InputError(
                "surfaces", f"{len(self.materials)} materials for {len(self.faces)} faces.", "Give one each."
            )
        for overlay in self.overlays:
            self.check_overlay(overlay)

    @property
    def faces(self) -> tuple[Face, ...]:
        """The faces: walls, floor, ceilings, steps."""
        return self.shape.faces

    @property
    def volume_m3(self) -> float:
        """Volume. [m3]"""
        return self.shape.volume_m3

    @cached_property
    def air_volume_m3(self) -> float:
        """Volume without the bodies of what stands in it, at least a half. [m3]"""
        bodies = sum(p.size_m[0] * p.size_m[1] * (p.body_m[1] - p.body_m[0]) for p in self.bodies)
        return self.volume_m3 - min(bodies, self.volume_m3 / 2)

    @cached_property
    def face_areas_m2(self) -> FloatArray:
        """Areas of the faces, (n_faces,). [m2]"""
        return np.array([face.area_m2 for face in self.faces])

    def check_overlay(self, overlay: Overlay) -> None:
        """Raise OutsideRoom when an overlay reaches beyond its face."""
        face = self.faces[overlay.face]
        u0, u1, v0, v1 = overlay.rect
        if not face.holds_rect(overlay.rect):
            e0, e1, f0, f1 = face.extent
            raise OutsideRoom(
                overlay.name,
                f"spans {u0:.2f} to {u1:.2f} m by {v0:.2f} to {v1:.2f} m; "
                f"{face.name.replace('-', ' ')} is {e1 - e0:.2f} x {f1 - f0:.2f} "
                f"m{'' if len(face.outline) == 4 else ' and no rectangle'}.",
                "Move it in or make it smaller.",
            )

    def check_furnishing(self, piece: Furnishing, *, field: str) -> None:
        """Raise OutsideRoom when a piece stands through a wall or the ceiling, by more than a tape's error."""
        if not all(_THINNEST_M <= size <= _LONGEST_M for size in piece.size_m):
            raise InputError(
                f"{field}.size_m",
                f"the {piece.kind.name} measures {' x '.join(f'{size:g}' for size in piece.size_m)} m.",
                f"Each side of a piece is {_THINNEST_M * 100:.0f} cm to {_LONGEST_M:.0f} m; check the unit.",
            )
        footprint = Polygon(piece.footprint)
        beyond = footprint.difference(self.shape.polygon.buffer(_THROUGH_M)).area
        if beyond > 1e-6:
            raise OutsideRoom(
                f"{field}.at", f"the {piece.kind.name} goes through a wall.", "Move it in, turn it, or check its size."
            )
        corners = np.array(
            footprint.intersection(self.shape.polygon).buffer(-0.02).exterior.coords if beyond == 0 else []
        )
        if len(corners):
            over = self.shape.height_at(corners[:, 0], corners[:, 1])
            if np.nanmin(over) + 0.02 < piece.size_m[2]:
                raise OutsideRoom(
                    f"{field}.size_m",
                    f"the {piece.kind.name} is {piece.size_m[2]:.2f} m "
                    f"high, the ceiling over it {np.nanmin(over):.2f} m.",
                    "Move it to where the ceiling is higher, or check its height.",
                )

    def with_overlays(self, extra: tuple[Overlay, ...]) -> "Room":
        """The same room with more things on its faces; what is hung before something goes on absorbing with it."""
        hung = tuple(self._in_front(overlay) if overlay.is_treatment else overlay for overlay in extra)
        return replace(self, overlays=(*self.overlays, *hung)) if hung else self

    def _in_front(self, overlay: Overlay) -> Overlay:
        """The overlay with what lies behind most of it."""
        behind = self.materials[overlay.face]
        u0, u1, v0, v1 = overlay.rect
        for other in (o for o in self.overlays if o.face == overlay.face):
            shared = _intersection(overlay.rect, other.rect) if _meet(overlay, other) else None
            if shared is not None and 2 * (shared[1] - shared[0]) * (shared[3] - shared[2]) > (u1 - u0) * (v1 - v0):
                behind = other.material
        return overlay if behind is overlay.material else replace(overlay, material=overlay.material.over(behind))

    def with_state(self, name: str, state: str) -> "Room":
        """The same room with a door, window or curtain in another state. Raises KeyError for one there is not."""
        changed = next(c for c in self.changeables if c.name == name)
        new = changed.overlays_in(state)
        # a rug that is rolled up lies nowhere
        at = next((i for i, overlay in enumerate(self.overlays) if overlay.name == name), len(self.overlays))
        others = [overlay for overlay in self.overlays if overlay.name != name]
        return replace(
            self,
            overlays=(*others[:at], *new, *others[at:]),
            changeables=tuple(replace(c, state=state) if c is changed else c for c in self.changeables),
        )

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        """All surfaces as signed parts: sums over pieces equal sums over what is really exposed."""
        pieces: list[Piece] = []
        for number, face in enumerate(self.faces):
            wall = self.materials[number]
            pieces.append(Piece(number, None, wall, 1, face.area_m2))
            seen: list[tuple[Rect, Material]] = []  # apart from each other: many overlays on one spot stay few pieces
            for overlay in (o for o in self.overlays if o.face == number):
                seen = [(rest, material) for rect, material in seen for rest in _beside(rect, overlay.rect)]
                seen.append((overlay.rect, overlay.material))
            for rect, material in seen:
                pieces += [_piece(number, rect, wall, -1), _piece(number, rect, material, 1)]
        return tuple(pieces)

    @cached_property
    def face_absorption(self) -> FloatArray:
        """Mean absorption coefficient of each face by octave, (n_faces, 8). [-]"""
        area = np.zeros((len(self.faces), 8))
        for piece in self.pieces:
            area[piece.face] += piece.area_m2 * piece.material.absorption
        return area / self.face_areas_m2[:, None]

    @cached_property
    def furniture_area_m2(self) -> FloatArray:
        """Equivalent absorption area of everything standing in the room, by octave, (8,). [m2]"""
        return sum((piece.absorption_area_m2 for piece in self.furnishings), start=np.zeros(8))

    @cached_property
    def bodies(self) -> tuple[Furnishing, ...]:
        """Furnishings that stand in the way of sound."""
        return tuple(piece for piece in self.furnishings if piece.body_m[1] - piece.body_m[0] > 0.005)

    @cached_property
    def body_sides(self) -> tuple[tuple[Face, FloatArray], ...]:
        """Sides and tops of all bodies with the energy each reflects, (8,). [-]"""
        return tuple(side for body in self.bodies for side in body.sides)

    def surface_name(self, number: int) -> str:
        """Name of a face, or of the furnishing whose side it is (numbers past the faces, as paths count them)."""
        sides = self.body_sides
        return self.faces[number].name if number < len(self.faces) else sides[number - len(self.faces)][0].name

    def check_point(self, at: Point, *, field: str, label: str) -> None:
        """Raise OutsideRoom, saying where and how far to move, when a point is not inside or lies within furniture."""
        x1, y1, z1 = self.shape.bounds_m
        for axis, (value, limit) in enumerate(zip(at, (x1, y1, z1), strict=True)):
            name = "xyz"[axis]
            least = _ON_WALL_M if axis == 2 else 0.0
            if not least < value < limit - least:  # NaN is refused too
                way = f"in by {value - limit + 0.05:.2f} m" if value >= limit else "further in"
                raise OutsideRoom(
                    f"{field}.at",
                    f"the {label} is at {name} = {value:.2f} m, the room spans 0 to {limit:.2f} m.",
                    f"Move it {way}.",
                )
        on_wall = not self.shape.stands_clear(np.array(at[:2]), margin_m=_ON_WALL_M)
        if on_wall or not self.shape.contains(np.array(at)):
            height = float(self.shape.height_at(np.array(at[0]), np.array(at[1])))
            if np.isfinite(height) and at[2] >= height:
                raise OutsideRoom(
                    f"{field}.at",
                    f"the {label} is at z = {at[2]:.2f} m, the ceiling there is {height:.2f} m high.",
                    f"Lower it by {at[2] - height + 0.05:.2f} m or move it to where the ceiling is higher.",
                )
            raise OutsideRoom(
                f"{field}.at",
                f"the {label} at x = {at[0]:.2f}, y = {at[1]:.2f} m is in or behind a wall, outside the floor.",
                "Move it onto the floor.",
            )
        for piece in self.bodies:
            if piece.encloses(at):
                raise OutsideRoom(
                    f"{field}.at",
                    f"the {label} is inside the {piece.kind.name}.",
                    f"Move it out of the {piece.kind.name}, or move that.",
                )

    def check_arrangement(self, arrangement: Arrangement, *, field: str = "arrangements") -> None:
        """Raise when a mark lies outside the room, marks lie inside each other, or a treatment cannot hang where it
        should.
        """
        self.check_places(arrangement, field=field)
        self.check_treatments(arrangement)

    def check_places(self, arrangement: Arrangement, *, field: str = "arrangements") -> None:
        """Raise when a mark lies outside the room, in furniture or inside another."""
        self.check_point(arrangement.performer.at, field=f"{field}.performer", label="performer")
        self.check_point(arrangement.microphone.at, field=f"{field}.microphone", label="microphone")
        apart = float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))
        if apart < HEAD_RADIUS_M:
            raise InputError(
                f"{field}.microphone.at",
                f"the microphone is {apart * 100:.1f} cm from the mouth, inside it.",
                f"Keep at least {HEAD_RADIUS_M * 100:.0f} cm between them.",
            )
        second = arrangement.second_microphone
        if second is not None:
            self.check_point(second.at, field=f"{field}.second_microphone", label="second microphone")
        for i, monitor in enumerate(arrangement.monitors):
            self.check_point(monitor.at, field=f"{field}.monitors.{i}", label="monitor")
        if arrangement.chair is not None:
            self.check_point(arrangement.chair.at, field=f"{field}.listener", label="chair")
        if arrangement.laptop is not None:
            self.check_point(arrangement.laptop.at, field=f"{field}.laptop", label="laptop")
        for i, screen in enumerate(arrangement.screens):
            self.check_point((*screen.at[:2], screen.at[2] + 0.01), field=f"{field}.screens.{i}", label="screen")

    def check_treatments(self, arrangement: Arrangement) -> None:
        """Raise OutsideRoom when a treatment reaches beyond its face or across what must open."""
        for overlay in arrangement.treatments:
            self.check_overlay(overlay)
            if overlay.kind == "panel":
                across = next((o for o in self.overlays if o.kind in ("window", "door") and _meet(o, overlay)), None)
                if across is not None:
                    raise OutsideRoom(
                        overlay.name,
                        f"the panel hangs across the {across.kind}.",
                        f"Move it beside the {across.kind}, or use a curtain or a stand: a {across.kind} must open.",
                    )


def box_room(name: str, size_m: Point, materials: tuple[Material, ...], **more: object) -> Room:
    """A box room; materials for the walls y = 0, x = Lx, y = Ly, x = 0, floor, ceiling."""
    lx, ly, lz = size_m
    shape = Shape(((0.0, 0.0), (lx, 0.0), (lx, ly), (0.0, ly)), Ceiling.flat(lz))
    return Room(name, shape, materials, **more)  # type: ignore[arg-type]


def _piece(face: int, rect: Rect, material: Material, sign: int) -> Piece:
    u0, u1, v0, v1 = rect
    return Piece(face, rect, material, sign, sign * (u1 - u0) * (v1 - v0))


def _intersection(one: Rect, other: Rect) -> Rect | None:
    u0, u1 = max(one[0], other[0]), min(one[1], other[1])
    v0, v1 = max(one[2], other[2]), min(one[3], other[3])
    return (u0, u1, v0, v1) if u0 < u1 and v0 < v1 else None


def _beside(rect: Rect, cover: Rect) -> Iterator[Rect]:
    """What is left of a rectangle beside a cover: itself, or up to four parts."""
    shared = _intersection(rect, cover)
    if shared is None:
        yield rect
        return
    (u0, u1, v0, v1), (s0, s1, t0, t1) = rect, shared
    for part in ((u0, s0, v0, v1), (s1, u1, v0, v1), (s0, s1, v0, t0), (s0, s1, t1, v1)):
        if part[1] > part[0] and part[3] > part[2]:
            yield part


def _meet(one: Overlay, other: Overlay) -> bool:
    shared = _intersection(one.rect, other.rect) if one.face == other.face else None
    return shared is not None and (shared[1] - shared[0]) > 0.01 and (shared[3] - shared[2]) > 0.01
