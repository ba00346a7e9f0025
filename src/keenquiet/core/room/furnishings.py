"""Furniture and people: equivalent absorption area per item by octave.

Figures are our estimates from exposed upholstered area times textbook absorption of upholstery and cloth
(Vorlaender 2008 appendix, seating rows), scaled with the size of the piece; treat them as +-30 %.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray


@dataclass(frozen=True)
class Kind:
    """A kind of furnishing: absorption per square metre of its exposed surface by octave, (8,). [-]"""

    key: str
    name: str
    size_m: tuple[float, float, float]
    alpha: tuple[float, ...]


_ALL: Final = (
    Kind("day-bed", "day bed", (1.9, 0.8, 0.45), (0.15, 0.25, 0.40, 0.50, 0.55, 0.55, 0.50, 0.50)),
    Kind("bed", "bed", (2.0, 1.4, 0.5), (0.20, 0.30, 0.45, 0.55, 0.60, 0.60, 0.55, 0.55)),
    Kind("sofa", "sofa", (1.8, 0.85, 0.8), (0.20, 0.35, 0.50, 0.55, 0.60, 0.58, 0.52, 0.50)),
    Kind("armchair", "armchair", (0.85, 0.85, 0.9), (0.20, 0.35, 0.50, 0.55, 0.60, 0.58, 0.52, 0.50)),
    Kind("wardrobe", "wardrobe", (0.8, 0.55, 1.95), (0.20, 0.16, 0.12, 0.08, 0.06, 0.06, 0.06, 0.06)),
    Kind("bookcase", "books", (1.15, 0.25, 1.8), (0.10, 0.14, 0.20, 0.22, 0.24, 0.25, 0.27, 0.30)),
    Kind("desk", "desk", (1.2, 0.6, 0.74), (0.10, 0.08, 0.06, 0.05, 0.05, 0.05, 0.05, 0.05)),
    Kind("shelf", "shelf", (0.8, 0.3, 1.6), (0.08, 0.10, 0.12, 0.12, 0.14, 0.15, 0.16, 0.18)),
    Kind("person", "person", (0.5, 0.35, 1.7), (0.06, 0.10, 0.20, 0.30, 0.40, 0.42, 0.42, 0.42)),
)
KINDS: Final = {kind.key: kind for kind in _ALL}


@dataclass(frozen=True)
class Furnishing:
    """A piece in the room: `at` its centre on the plan, `size_m` length, depth, height, `turn_deg` anticlockwise."""

    kind: Kind
    at: tuple[float, float]
    size_m: tuple[float, float, float]
    turn_deg: float = 0.0

    @property
    def absorption_area_m2(self) -> FloatArray:
        """Equivalent absorption area by octave, (8,): exposed faces (top and three sides) times alpha. [m2]"""
        length, depth, height = self.size_m
        exposed = length * depth + (2 * depth + length) * height
        area: FloatArray = exposed * np.array(self.kind.alpha)
        return area


def kind_named(key: str, *, field: str) -> Kind:
    """A furnishing kind by key. Raises InputError for an unknown one."""
    if key not in KINDS:
        raise InputError(field, f"{key!r} is not a known furnishing.", f"Use one of {', '.join(KINDS)}.")
    return KINDS[key]
