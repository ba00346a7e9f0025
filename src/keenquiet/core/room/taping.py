"""A place on the floor as two lengths of tape from two walls: how a mark is written down and found again."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray

_LEAST_ACROSS: Final = 0.5  # sine of the angle between two walls: flatter, and a centimetre of tape becomes several


@dataclass(frozen=True)
class Taped:
    """Two walls (0-based) and how far the place is from each, square to it. [m]

    on_wall : whether the tape's end meets the wall itself, or its line drawn on past its corner.
    """

    walls: tuple[int, int]
    away_m: tuple[float, float]
    on_wall: tuple[bool, bool]


def taped(shape: Shape, at: FloatArray) -> Taped:
    """The two nearest walls that cross well and can be met square from a place (2,). [m]

    Raises InputError where the shape has no two walls that cross.
    """
    feet = [_foot(shape, wall, at) for wall in range(len(shape.plan))]
    order = sorted(range(len(feet)), key=lambda wall: (not feet[wall][1], feet[wall][0]))
    first = order[0]
    for second in order[1:]:
        across = abs(float(np.linalg.det(np.stack([_along(shape, first), _along(shape, second)]))))
        if across >= _LEAST_ACROSS:
            return Taped((first, second), (feet[first][0], feet[second][0]), (feet[first][1], feet[second][1]))
    raise InputError("shape.plan", "no two of its walls cross well enough to measure from.", "Check the plan.")


def place_from(shape: Shape, mark: Taped) -> FloatArray:
    """Where a taped place lies, (2,): the crossing of the two lines at those distances. [m]"""
    normals = np.stack([_inward(shape, wall) for wall in mark.walls])
    offsets = [
        _inward(shape, wall) @ shape.corners[wall] + away for wall, away in zip(mark.walls, mark.away_m, strict=True)
    ]
    place: FloatArray = np.linalg.solve(normals, np.array(offsets))
    return place


def _along(shape: Shape, wall: int) -> FloatArray:
    run = shape.corners[(wall + 1) % len(shape.plan)] - shape.corners[wall]
    unit: FloatArray = run / np.linalg.norm(run)
    return unit


def _inward(shape: Shape, wall: int) -> FloatArray:
    x, y = _along(shape, wall)
    return np.array([-y, x])


def _foot(shape: Shape, wall: int, at: FloatArray) -> tuple[float, bool]:
    """How far a place is from a wall's line, square to it and into the room, and whether that foot is on the wall."""
    run = np.asarray(at) - shape.corners[wall]
    length = float(np.linalg.norm(shape.corners[(wall + 1) % len(shape.plan)] - shape.corners[wall]))
    away, share = float(run @ _inward(shape, wall)), float(run @ _along(shape, wall))
    return away, 0 <= share <= length and away > 0
