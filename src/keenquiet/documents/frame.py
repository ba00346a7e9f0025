"""Between a document's coordinates and the core's."""

from functools import lru_cache
from typing import Any

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Point, Rect
from keenquiet.core.room.shape import Ceiling, Drop, Face, Shape
from keenquiet.documents.schema import At3, PatchDoc, RoomDoc


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

    def document(self, at: Point) -> At3:
        """A point in the document's coordinates, to the millimetre."""
        return round(at[0] + self.offset[0], 3), round(at[1] + self.offset[1], 3), round(at[2], 3)

    def _shift(self, face: Face) -> tuple[float, float]:
        """What face coordinates differ by: floor and ceiling use the plan's own, walls their own corner."""
        return self.offset if face.kind in ("floor", "ceiling") else (0.0, 0.0)

    def rect(self, patch: PatchDoc, *, field: str) -> tuple[int, Rect]:
        """Face and rectangle on it. On floor and ceiling x_m, z_m are plan coordinates (true lengths along a slope)."""
        number = self.face(patch.surface, field=f"{field}.surface")
        return number, self.rect_on(number, patch.x_m, patch.z_m, patch.width_m, patch.height_m)

    def rect_on(self, number: int, x_m: float, z_m: float, width_m: float, height_m: float) -> Rect:
        """A rectangle in the face's own flat coordinates, by its lower corner in the document's."""
        dx, dy = self._shift(self.shape.faces[number])
        return x_m - dx, x_m - dx + width_m, z_m - dy, z_m - dy + height_m

    def patch_fields(self, face: int, rect: Rect) -> dict[str, Any]:
        """The other way: `surface`, `x_m`, `z_m`, `width_m`, `height_m` for a rectangle on a face."""
        u0, u1, v0, v1 = rect
        dx, dy = self._shift(self.shape.faces[face])
        sizes = {"x_m": u0 + dx, "z_m": v0 + dy, "width_m": u1 - u0, "height_m": v1 - v0}
        return {"surface": self.name_of(face), **{key: round(value, 4) for key, value in sizes.items()}}
