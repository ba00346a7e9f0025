"""Flutter before it is heard: parallel hard patches that face each other, with rate, spacing and how long it lasts."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final

import numpy as np
from shapely.geometry import MultiPoint, Polygon
from shapely.geometry.base import BaseGeometry

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.room.room import Room
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.statistics import Decay

_PARALLEL: Final = float(np.cos(np.deg2rad(3.0)))  # a few degrees send the sound away after some passes
_LEAST_AREA_M2: Final = 0.5
_LEAST_SPACING_M: Final = 0.6
_SOFT: Final = 0.25  # mean absorption from which a patch takes no part
_OUTLASTS: Final = 2.5
_MOST_LOST_DB: Final = 4.0  # a pass that loses more dies out before it is heard as a flutter


@dataclass(frozen=True)
class FlutterPair:
    """Two faces that throw sound to and fro.

    faces : their numbers. spacing_m : between them. rate_hz : repetitions, c / 2L. area_m2 : hard area that both share.
    lost_db : per pass there and back, middle octaves. lasts_s : until 60 dB down.
    outline : (n, 3) corners of the shared patch, on the first face. across : (3,) vector from it to the second. [m]
    """

    faces: tuple[int, int]
    spacing_m: float
    rate_hz: float
    area_m2: float
    lost_db: float
    lasts_s: float
    outline: FloatArray
    across: FloatArray


def flutter_pairs(room: Room) -> list[FlutterPair]:
    """Pairs of parallel faces with a common hard area, worst (longest lasting) first.

    Source: rate c / (2 L) and loss by what both patches absorb and scatter (H. Kuttruff, Room Acoustics, chapter 4,
    flutter echo);
    furniture and soft overlays are cut out of the shared area.
    """
    found = []
    faces = room.faces
    hard = [_hard(room, number, face.polygon) for number, face in enumerate(faces)]
    for i, one in enumerate(faces):
        for j in range(i + 1, len(faces)):
            if min(hard[i].area, hard[j].area) < _LEAST_AREA_M2:
                continue
            other = faces[j]
            spacing = float((other.origin - one.origin) @ one.normal)
            if one.normal @ other.normal > -_PARALLEL or spacing < _LEAST_SPACING_M:
                continue
            opposite = Polygon(one.to_flat(other.to_space(other.outline)))
            shared = hard[i].intersection(opposite).intersection(_mapped(room, j, i, hard[j]))
            if shared.area < _LEAST_AREA_M2:
                continue
            shared = shared.difference(_shadows(room, i, spacing))
            parts = [p for p in getattr(shared, "geoms", [shared]) if isinstance(p, Polygon) and p.area > 0.02]
            area = float(sum(p.area for p in parts))
            if area < _LEAST_AREA_M2:
                continue
            kept = float(np.prod([np.mean(_mirrored(room, f)[MID_OCTAVES]) for f in (i, j)]))
            lost = -10 * np.log10(max(kept, 1e-6))
            # less than the whole wall: what misses the patch is lost too, a little more each time
            lost += 1.5 * max(0.0, 1 - area / 3.0)
            if lost > _MOST_LOST_DB:
                continue
            rate = room.air.speed_m_s / (2 * spacing)
            largest = max(parts, key=lambda p: p.area)
            outline = one.to_space(np.array(largest.exterior.coords)[:-1])
            found.append(
                FlutterPair(
                    (i, j), spacing, rate, area, float(lost), 60 / (float(lost) * rate), outline, one.normal * spacing
                )
            )
    return sorted(found, key=lambda pair: -pair.lasts_s)


def standing_out(pairs: Iterable[FlutterPair], fade: Decay) -> list[FlutterPair]:
    """The pairs that a clap lets be heard as a flutter: those that outlast everything else in the room.

    Where several pairs are as hard, or floor and ceiling as well, what goes to and fro between one of them drowns in
    the rest. Two and a half times the middle decay was set on sums of image sources, in tests: four hard walls or a
    bare box (2.1 times at most) show no repetition, one hard pair among soft faces (2.9) always does.
    """
    rest_s = float(np.mean(fade.middle_s[MID_OCTAVES]))
    return [pair for pair in pairs if pair.lasts_s > _OUTLASTS * rest_s]


def _hard(room: Room, face: int, outline: BaseGeometry) -> BaseGeometry:
    """What is left of a face without its soft overlays."""
    for overlay in room.overlays:
        if overlay.face == face and overlay.material.absorption[MID_OCTAVES].mean() > _SOFT:
            u0, u1, v0, v1 = overlay.rect
            outline = outline.difference(Polygon([(u0, v0), (u1, v0), (u1, v1), (u0, v1)]))
    return outline if room.materials[face].absorption[MID_OCTAVES].mean() <= _SOFT else Polygon()


def _mapped(room: Room, face: int, onto: int, outline: BaseGeometry) -> BaseGeometry:
    one, other = room.faces[face], room.faces[onto]
    parts = [p for p in getattr(outline, "geoms", [outline]) if isinstance(p, Polygon) and not p.is_empty]
    moved: BaseGeometry = Polygon()
    for part in parts:
        rings = [other.to_flat(one.to_space(np.array(ring.coords))) for ring in (part.exterior, *part.interiors)]
        moved = moved.union(Polygon(rings[0], rings[1:]))
    return moved


def _shadows(room: Room, face: int, spacing_m: float) -> BaseGeometry:
    """What bodies that stand between the faces cover, seen along the normal."""
    plane = room.faces[face]
    cover: BaseGeometry = Polygon()
    for body in room.bodies:
        low, high = body.body_m
        corners = np.concatenate([np.column_stack([body.footprint, np.full(4, z)]) for z in (low, high)])
        depth = (corners - plane.origin) @ plane.normal
        if depth.max() > 0 and depth.min() < spacing_m:
            cover = cover.union(_hull(plane.to_flat(corners)))
    return cover


def _hull(points: FloatArray) -> Polygon:
    hull = MultiPoint(points).convex_hull
    return hull if isinstance(hull, Polygon) else Polygon()


def _mirrored(room: Room, face: int) -> FloatArray:
    """Energy that the hard parts of a face send straight back: neither swallowed nor scattered, (8,). [-]"""
    hard = [p for p in room.pieces if p.face == face and p.material.absorption[MID_OCTAVES].mean() <= _SOFT]
    area = sum(p.area_m2 for p in hard)
    kept = sum((p.area_m2 * (1 - p.material.absorption) * (1 - p.material.scattering) for p in hard), start=np.zeros(8))
    mean: FloatArray = kept / max(area, 1e-9)
    return mean
