"""The shape of a room: a floor polygon under a flat, pitched or stepped ceiling, as plane faces in space.

Axes as in docs/physics.md: x and y on the plan, z up, metres. Walls are numbered from 1 along the plan's edges.
Each face has its own flat coordinates (u, v): on a wall u runs along it from its first corner as seen from inside and v
up from
the floor; on floor and flat ceiling u = x and v = y; on a slope lengths are true lengths along the slope.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Final, Literal

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from keenquiet.core.errors import InputError
from keenquiet.core.types import BoolArray, FloatArray

MIN_SIDE_M: Final = 0.5
MAX_SIDE_M: Final = 25.0
SLIVER_M: Final = 0.05  # a tape cannot tell walls apart that lie closer than this
MIN_CEILING_M: Final = 0.30
_TINY_M: Final = 1e-6
_NUDGE_M: Final = 1e-5

FaceKind = Literal["wall", "floor", "ceiling", "step", "body"]
Point2 = tuple[float, float]


@dataclass(frozen=True)
class Face:
    """A plane face seen from inside.

    origin, u, v : (3,) a point of the plane [m] and two unit vectors in it. normal : (3,) unit vector into the room.
    outline : (n, 2) corners in (u, v). [m]   holes : each (n, 2).
    """

    name: str
    kind: FaceKind
    origin: FloatArray
    u: FloatArray
    v: FloatArray
    normal: FloatArray
    outline: FloatArray
    holes: tuple[FloatArray, ...] = ()

    @cached_property
    def polygon(self) -> Polygon:
        """The outline with its holes as a polygon in (u, v)."""
        return Polygon(self.outline, self.holes)

    @cached_property
    def area_m2(self) -> float:
        """Area. [m2]"""
        return float(self.polygon.area)

    @cached_property
    def extent(self) -> tuple[float, float, float, float]:
        """Smallest and largest u, smallest and largest v. [m]"""
        u0, v0, u1, v1 = self.polygon.bounds
        return u0, u1, v0, v1

    @cached_property
    def _edges(self) -> FloatArray:
        rings = (self.outline, *self.holes)
        return np.concatenate([np.hstack([ring, np.roll(ring, -1, axis=0)]) for ring in rings])

    def covers(self, uv: FloatArray) -> BoolArray:
        """Whether points (..., 2) lie within the outline and outside its holes, by crossings of a ray. (...)"""
        return inside_edges(uv, self._edges)

    def to_space(self, uv: FloatArray) -> FloatArray:
        """Points in space (..., 3) of flat ones (..., 2). [m]"""
        points: FloatArray = self.origin + uv[..., :1] * self.u + uv[..., 1:] * self.v
        return points

    def to_flat(self, points: FloatArray) -> FloatArray:
        """Flat coordinates (..., 2) of points in space (..., 3), projected along the normal. [m]"""
        away = points - self.origin
        return np.stack([away @ self.u, away @ self.v], axis=-1)

    def holds_rect(self, rect: tuple[float, float, float, float]) -> bool:
        """Whether a rectangle u0, u1, v0, v1 lies on the face."""
        u0, u1, v0, v1 = rect
        return bool(u1 > u0 and v1 > v0 and self._widened.covers(box(u0, v0, u1, v1)))

    @cached_property
    def _widened(self) -> BaseGeometry:
        """The outline a tenth of a millimetre larger: what is flush with an edge lies on the face."""
        widened: BaseGeometry = self.polygon.buffer(1e-4)
        shapely.prepare(widened)
        return widened


def inside_edges(uv: FloatArray, edges: FloatArray) -> BoolArray:
    """Even-odd rule for points (..., 2) against edges (n, 4) of closed rings, (...)."""
    x, y = uv[..., 0, None], uv[..., 1, None]
    x0, y0, x1, y1 = edges.T
    straddles = (y0 > y) != (y1 > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        crossing = x0 + (y - y0) * (x1 - x0) / (y1 - y0)
    inside: BoolArray = np.count_nonzero(straddles & (x < crossing), axis=-1) % 2 == 1
    return inside


@dataclass(frozen=True, slots=True)
class Drop:
    """A lower part of the ceiling: a rectangle x0, x1, y0, y1 on the plan at its own height. [m]"""

    rect: tuple[float, float, float, float]
    height_m: float


@dataclass(frozen=True)
class Ceiling:
    """Height over the plan.

    profile : (distance along `along`, height), distances not falling; equal distances make a step. Flat: one point. [m]
    """

    profile: tuple[Point2, ...]
    along: Literal["x", "y"] | None = None
    drops: tuple[Drop, ...] = ()

    @staticmethod
    def flat(height_m: float, drops: tuple[Drop, ...] = ()) -> "Ceiling":
        """A flat ceiling, perhaps with dropped parts."""
        return Ceiling(((0.0, height_m),), None, drops)


@dataclass(frozen=True)
class Region:
    """A part of the ceiling: its outline on the plan and its plane z = a x + b y + c."""

    outline: Polygon
    plane: tuple[float, float, float]
    is_drop: bool = False

    def height_m(self, x: FloatArray, y: FloatArray) -> FloatArray:
        """Height of the plane at places on the plan. [m]"""
        a, b, c = self.plane
        height: FloatArray = a * x + b * y + c
        return height


@dataclass(frozen=True)
class Shape:
    """A room's shape. Raises InputError, naming plan or ceiling, when no room can be built from it.

    plan : corners anticlockwise, seen from above, not closed. [m]
    """

    plan: tuple[Point2, ...]
    ceiling: Ceiling

    def __post_init__(self) -> None:
        _check_plan(self.plan)
        _check_ceiling(self)

    @cached_property
    def polygon(self) -> Polygon:
        """The plan as a polygon."""
        return Polygon(self.plan)

    @cached_property
    def corners(self) -> FloatArray:
        """The plan's corners, (n, 2). [m]"""
        return np.array(self.plan, dtype=float)

    @cached_property
    def _plan_edges(self) -> FloatArray:
        return np.hstack([self.corners, np.roll(self.corners, -1, axis=0)])

    @cached_property
    def box_size_m(self) -> tuple[float, float, float] | None:
        """Length, width, height when the room is a box along the axes from the origin, else None. [m]"""
        x0, y0, x1, y1 = self.polygon.bounds
        if self.ceiling.along or self.ceiling.drops or len(self.plan) != 4 or max(abs(x0), abs(y0)) > 1e-9:
            return None
        if not np.isclose(self.polygon.area, x1 * y1, rtol=1e-9):
            return None
        return x1, y1, self.ceiling.profile[0][1]

    @cached_property
    def floor_area_m2(self) -> float:
        """Area of the floor. [m2]"""
        return float(self.polygon.area)

    @cached_property
    def volume_m3(self) -> float:
        """Volume: each part of the ceiling at the height over its centre of area. [m3]"""
        return float(
            sum(r.outline.area * r.height_m(*np.array(r.outline.centroid.coords[0], dtype=float)) for r in self.regions)
        )

    @cached_property
    def bounds_m(self) -> tuple[float, float, float]:
        """Largest x, y and z; the smallest are where the plan begins. [m]"""
        _, _, x1, y1 = self.polygon.bounds
        return x1, y1, self.highest_m

    @cached_property
    def highest_m(self) -> float:
        """Highest point of the ceiling. [m]"""
        return float(max(np.max(r.height_m(*np.array(r.outline.exterior.coords).T)) for r in self.regions))

    @cached_property
    def lowest_m(self) -> float:
        """Lowest point of the ceiling. [m]"""
        return float(min(np.min(r.height_m(*np.array(r.outline.exterior.coords).T)) for r in self.regions))

    @cached_property
    def regions(self) -> tuple[Region, ...]:
        """Parts of the ceiling, dropped ones last."""
        upper = list(_upper_regions(self.polygon, self.ceiling))
        drops: list[Region] = []
        for drop in self.ceiling.drops:
            x0, x1, y0, y1 = drop.rect
            outline = box(x0, y0, x1, y1)
            for part in _parts(self.polygon.intersection(outline)):
                drops.append(Region(part, (0.0, 0.0, drop.height_m), is_drop=True))
            upper = [Region(part, r.plane, r.is_drop) for r in upper for part in _parts(r.outline.difference(outline))]
        return (*upper, *drops)

    def height_at(self, x: FloatArray, y: FloatArray) -> FloatArray:
        """Height of the ceiling over places on the plan, NaN outside. [m]"""
        places = np.stack([np.asarray(x, dtype=float), np.asarray(y, dtype=float)], axis=-1)
        height = np.full(places.shape[:-1], np.nan)
        for region in self.regions:
            within = shapely.intersects_xy(region.outline, places[..., 0], places[..., 1])
            height = np.where(within, region.height_m(places[..., 0], places[..., 1]), height)
        return height

    def contains(self, points: FloatArray) -> BoolArray:
        """Whether points (..., 3) are inside, (...). NaN is outside."""
        points = np.asarray(points, dtype=float)
        on_plan = inside_edges(points[..., :2], self._plan_edges)
        if self.box_size_m is not None:
            height: FloatArray | float = self.box_size_m[2]
        else:
            height = self.height_at(points[..., 0], points[..., 1])
        inside: BoolArray = on_plan & (points[..., 2] > 0) & (points[..., 2] < height)
        return inside

    def stands_clear(self, xy: FloatArray, *, margin_m: float) -> BoolArray:
        """Whether places on the plan (..., 2) lie inside and at least `margin_m` from every wall, (...)."""
        xy = np.asarray(xy, dtype=float)
        return np.asarray(
            shapely.intersects_xy(self.polygon.buffer(-margin_m + 1e-9), xy[..., 0], xy[..., 1]), dtype=bool
        )

    def wall_distance_m(self, number: int, xy: FloatArray) -> float:
        """Distance from a place on the plan to a wall (0-based) as a stretch, not as an endless line. [m]"""
        start, end = self.corners[number], self.corners[(number + 1) % len(self.plan)]
        along = end - start
        share = float(np.clip((xy - start) @ along / (along @ along), 0, 1))
        return float(np.linalg.norm(xy - start - share * along))

    @cached_property
    def faces(self) -> tuple[Face, ...]:
        """Walls in the plan's order, floor, ceilings, then the upright steps between ceilings."""
        walls = [_wall(self, i) for i in range(len(self.plan))]
        floor = Face("floor", "floor", np.zeros(3), _X, _Y, _Z, self.corners)
        return (*walls, floor, *_ceilings(self.regions), *_steps(self))

    @property
    def floor(self) -> int:
        """Number of the floor among the faces."""
        return len(self.plan)

    @cached_property
    def cross_section(self) -> tuple[tuple[Point2, ...], Literal["x", "y", "z"], float] | None:
        """Outline, axis and length when the room is a prism: a plan under a flat ceiling, or a section drawn along a
        rectangle.

        The outline's coordinates are (x, y) for axis z, (y, z) for axis x, (x, z) for axis y. None for anything else.
        """
        if self.ceiling.along is None and not self.ceiling.drops:
            return self.plan, "z", self.ceiling.profile[0][1]
        x0, y0, x1, y1 = self.polygon.bounds
        if len(self.plan) != 4 or not np.isclose(self.polygon.area, (x1 - x0) * (y1 - y0), rtol=1e-9):
            return None
        for axis, across0, across1 in (("x", x0, x1), ("y", y0, y1)):
            along = "y" if axis == "x" else "x"
            if self.ceiling.along not in (None, along):
                continue
            spans = [d.rect[:2] if axis == "x" else d.rect[2:] for d in self.ceiling.drops]
            if all(start <= across0 + _TINY_M and end >= across1 - _TINY_M for start, end in spans):
                wall = next(f for f in self.faces if f.kind == "wall" and abs(f.normal[0 if axis == "x" else 1]) > 0.5)
                flat = wall.to_space(wall.outline)[:, 1 if axis == "x" else 0]
                outline = np.column_stack([flat, wall.outline[:, 1]])
                if Polygon(outline).exterior.is_ccw is False:
                    outline = outline[::-1]
                return tuple((float(a), float(b)) for a, b in outline), "x" if axis == "x" else "y", across1 - across0
        return None


_X, _Y, _Z = np.eye(3)


def _parts(geometry: shapely.Geometry) -> list[Polygon]:
    """The polygons of an intersection that are more than a line. [m2]"""
    found = geometry.geoms if isinstance(geometry, MultiPolygon | shapely.GeometryCollection) else [geometry]
    return [part for part in found if isinstance(part, Polygon) and part.area > 1e-6]


def _upper_regions(plan: Polygon, ceiling: Ceiling) -> Iterator[Region]:
    if ceiling.along is None:
        yield Region(plan, (0.0, 0.0, ceiling.profile[0][1]))
        return
    x0, y0, x1, y1 = plan.bounds
    start, end = (x0, x1) if ceiling.along == "x" else (y0, y1)
    profile = [(min(start, ceiling.profile[0][0]) - 1, ceiling.profile[0][1]), *ceiling.profile]
    profile.append((max(end, ceiling.profile[-1][0]) + 1, ceiling.profile[-1][1]))
    for (d0, h0), (d1, h1) in pairwise(profile):
        if d1 - d0 < _TINY_M:
            continue
        strip = box(d0, y0 - 1, d1, y1 + 1) if ceiling.along == "x" else box(x0 - 1, d0, x1 + 1, d1)
        slope = (h1 - h0) / (d1 - d0)
        plane = (slope, 0.0, h0 - slope * d0) if ceiling.along == "x" else (0.0, slope, h0 - slope * d0)
        for part in _parts(plan.intersection(strip)):
            yield Region(part, plane)


def _region_at(shape: Shape, place: FloatArray) -> Region | None:
    point = shapely.Point(place)
    return next((r for r in reversed(shape.regions) if r.outline.intersects(point)), None)


def _breaks(shape: Shape, start: FloatArray, end: FloatArray) -> list[float]:
    """Shares of a line on the plan at which it passes from one part of the ceiling to another."""
    line = LineString([start, end])
    length = line.length
    cuts = {0.0, 1.0}
    for region in shape.regions:
        met = region.outline.boundary.intersection(line)
        for part in getattr(met, "geoms", [met]):
            if not part.is_empty:
                cuts.update(line.project(shapely.Point(c)) / length for c in part.coords)
    ordered = sorted(cuts)
    return [c for i, c in enumerate(ordered) if i == 0 or (c - ordered[i - 1]) * length > _TINY_M]


def _wall(shape: Shape, number: int) -> Face:
    start, end = shape.corners[number], shape.corners[(number + 1) % len(shape.plan)]
    length = float(np.linalg.norm(end - start))
    along = (end - start) / length
    inward = np.array([-along[1], along[0]])
    top: list[Point2] = []
    cuts = _breaks(shape, start, end)
    for s0, s1 in pairwise(cuts):
        region = _region_at(shape, start + (s0 + s1) / 2 * (end - start) + _NUDGE_M * inward)
        if region is None:
            continue
        for s in (s0, s1):
            place = start + s * (end - start)
            top.append((s * length, float(region.height_m(place[0], place[1]))))
    outline = _without_repeats([(0.0, 0.0), (length, 0.0), *reversed(top)])
    return Face(
        f"wall-{number + 1}",
        "wall",
        np.array([*start, 0.0]),
        np.array([*along, 0.0]),
        _Z,
        np.array([*inward, 0.0]),
        outline,
    )


def _without_repeats(corners: list[Point2]) -> FloatArray:
    """Corners without doubles and without those that lie on a straight line between their neighbours, (n, 2)."""
    points = [
        c for i, c in enumerate(corners) if np.hypot(c[0] - corners[i - 1][0], c[1] - corners[i - 1][1]) > _TINY_M
    ]
    kept = []
    for i, (x, y) in enumerate(points):
        (x0, y0), (x1, y1) = points[i - 1], points[(i + 1) % len(points)]
        if abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) > 1e-7:
            kept.append((x, y))
    return np.array(kept)


def _ceilings(regions: tuple[Region, ...]) -> Iterator[Face]:
    upper = [r for r in regions if not r.is_drop]
    drops = [r for r in regions if r.is_drop]
    for group, prefix in ((upper, "ceiling"), (drops, "ceiling-drop")):
        for number, region in enumerate(group, start=1):
            name = prefix if prefix == "ceiling" and len(upper) == 1 else f"{prefix}-{number}"
            yield _ceiling(region, name)


def _ceiling(region: Region, name: str) -> Face:
    a, b, _ = region.plane
    x0, y0, _, _ = region.outline.bounds
    stretch_x, stretch_y = float(np.hypot(1, a)), float(np.hypot(1, b))
    u = np.array([1.0, 0.0, a]) / stretch_x
    v = np.array([0.0, 1.0, b]) / stretch_y
    down = np.cross(v, u)
    # u and v keep the plan's values at the lower corner of each part and count true lengths from there
    corner = np.array([x0, y0])
    rings = [
        corner + (np.array(ring.coords)[:-1] - corner) * [stretch_x, stretch_y]
        for ring in (region.outline.exterior, *region.outline.interiors)
    ]
    base = np.array([x0, y0, float(region.height_m(np.array(x0), np.array(y0)))])
    outline = _without_repeats([(float(p), float(q)) for p, q in rings[0]])
    return Face(name, "ceiling", base - x0 * u - y0 * v, u, v, down / np.linalg.norm(down), outline, tuple(rings[1:]))


def _steps(shape: Shape) -> Iterator[Face]:
    """Upright faces where two parts of the ceiling meet at different heights."""
    number = 0
    for region in shape.regions:
        ring = np.array(region.outline.exterior.coords)
        for start, end in pairwise(ring):
            cuts = _breaks(shape, start, end)
            along = (end - start) / np.linalg.norm(end - start)
            outward = np.array([along[1], -along[0]]) * (1.0 if region.outline.exterior.is_ccw else -1.0)
            for s0, s1 in pairwise(cuts):
                middle = start + (s0 + s1) / 2 * (end - start)
                beyond = _region_at(shape, middle + _NUDGE_M * outward)
                if (
                    beyond is None
                    or beyond is region
                    or not shape.polygon.contains(shapely.Point(middle + _NUDGE_M * outward))
                ):
                    continue
                p0, p1 = start + s0 * (end - start), start + s1 * (end - start)
                low = [float(region.height_m(*p)) for p in (p0, p1)]
                high = [float(beyond.height_m(*p)) for p in (p0, p1)]
                if min(h - g for g, h in zip(low, high, strict=True)) > -_TINY_M and max(high) - min(low) > 1e-3:
                    number += 1
                    length = float(np.linalg.norm(p1 - p0))
                    outline = _without_repeats([(0.0, low[0]), (length, low[1]), (length, high[1]), (0.0, high[0])])
                    if len(outline) > 2:
                        yield Face(
                            f"ceiling-step-{number}",
                            "step",
                            np.array([*p0, 0.0]),
                            np.array([*along, 0.0]),
                            _Z,
                            np.array([*outward, 0.0]),
                            outline,
                        )


def _refuse_plan(reason: str, cure: str) -> InputError:
    return InputError("shape.plan", reason, cure)


def _check_plan(plan: tuple[Point2, ...]) -> None:
    points = np.array(plan, dtype=float)
    if len(points) < 3 or not np.all(np.isfinite(points)):
        raise _refuse_plan(
            f"{len(points)} usable corners; a floor needs three or more.", "List the corners anticlockwise."
        )
    edges = np.roll(points, -1, axis=0) - points
    lengths = np.hypot(*edges.T)
    for i in np.flatnonzero(lengths < SLIVER_M):
        j = (int(i) + 1) % len(points)
        what = "are the same point" if lengths[i] < 1e-6 else f"lie {lengths[i] * 100:.1f} cm apart"
        raise _refuse_plan(
            f"corners {i + 1} and {j + 1} {what}; the shortest wall is {SLIVER_M * 100:.0f} cm.",
            "Leave one of them out.",
        )
    polygon = Polygon(plan)
    if not polygon.is_valid:
        raise _refuse_plan(
            f"its walls cross or touch ({shapely.is_valid_reason(polygon)}).",
            "List the corners in the order in which you walk past them.",
        )
    if not polygon.exterior.is_ccw:
        raise _refuse_plan("its corners run clockwise.", "List them anticlockwise, seen from above.")
    if polygon.buffer(-SLIVER_M / 2).is_empty or _narrowest_m(points) < SLIVER_M:
        raise _refuse_plan(
            f"it has a sliver narrower than {SLIVER_M * 100:.0f} cm.",
            "Leave the sliver out: sound at these wavelengths does not see it.",
        )
    x0, y0, x1, y1 = polygon.bounds
    for label, side in (("length", x1 - x0), ("width", y1 - y0)):
        if not MIN_SIDE_M <= side <= MAX_SIDE_M:
            raise _refuse_plan(
                f"the {label} is {side:g} m; a room here is {MIN_SIDE_M:g} to {MAX_SIDE_M:g} m.",
                "Check the tape reading and its unit.",
            )


def _narrowest_m(points: FloatArray) -> float:
    """Smallest distance between a corner and a wall that does not touch it. [m]"""
    n = len(points)
    start, along = points, np.roll(points, -1, axis=0) - points
    away = points[:, None] - start  # corner i, wall j
    share = np.clip(np.sum(away * along, axis=2) / np.sum(along**2, axis=1), 0, 1)
    distance = np.linalg.norm(away - share[..., None] * along, axis=2)
    i, j = np.indices((n, n))
    distance[(i == j) | (i == (j + 1) % n)] = np.inf
    return float(np.min(distance)) if n > 3 else np.inf


def _check_ceiling(shape: Shape) -> None:
    ceiling = shape.ceiling
    field_name = "shape.ceiling.height_m" if ceiling.along is None else "shape.ceiling.profile"
    heights = np.array([h for _, h in ceiling.profile])
    distances = np.array([d for d, _ in ceiling.profile])
    if not np.all(np.isfinite(heights)) or not np.all(np.isfinite(distances)):
        raise InputError(field_name, "has a figure that is not a number.", "Measure again.")
    if np.any(np.diff(distances) < 0):
        raise InputError(
            field_name, "runs back: its distances must not fall.", f"List the points in rising {ceiling.along}."
        )
    for height in heights:
        if not MIN_CEILING_M <= height <= MAX_SIDE_M:
            meets = "the ceiling meets the floor" if height < MIN_CEILING_M else "the height"
            raise InputError(
                field_name,
                f"{meets}: {height:g} m; a ceiling here is {MIN_CEILING_M:g} to {MAX_SIDE_M:g} m high.",
                "End the room with a low upright wall where the slope comes down.",
            )
    if max(heights) < MIN_SIDE_M:
        raise InputError(field_name, f"the height is {max(heights):g} m.", "Check the tape reading and its unit.")
    for number, drop in enumerate(ceiling.drops):
        name = f"shape.ceiling.drops.{number}"
        x0, x1, y0, y1 = drop.rect
        if not (x1 - x0 >= SLIVER_M and y1 - y0 >= SLIVER_M):
            raise InputError(name, "is narrower than 5 cm.", "Give its two corners on the plan, or leave it out.")
        if not drop.height_m >= MIN_CEILING_M:
            raise InputError(
                f"{name}.height_m",
                f"{drop.height_m:g} m is no height to stand under.",
                f"At least {MIN_CEILING_M:g} m.",
            )
        under = shape.polygon.intersection(box(x0, y0, x1, y1))
        if under.area < 1e-4:
            raise InputError(name, "lies outside the room.", "Give its corners on the plan.")
        above = [r for r in _upper_regions(shape.polygon, ceiling) if r.outline.intersection(under).area > 1e-6]
        lowest = min(
            float(np.min(r.height_m(*np.array(p.exterior.coords).T)))
            for r in above
            for p in _parts(r.outline.intersection(under))
        )
        if drop.height_m > lowest - 0.01:
            raise InputError(
                f"{name}.height_m",
                f"{drop.height_m:g} m is not lower than the ceiling over it ({lowest:.2f} m).",
                "Give the lower height.",
            )
        for other in ceiling.drops[:number]:
            a0, a1, b0, b1 = other.rect
            if min(x1, a1) - max(x0, a0) > _TINY_M and min(y1, b1) - max(y0, b0) > _TINY_M:
                raise InputError(name, "overlaps another dropped part.", "Split them so that they only touch.")
