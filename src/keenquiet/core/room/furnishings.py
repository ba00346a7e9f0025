"""Furniture and people: equivalent absorption area, scattering, and the body that stands in the way of sound.

Absorption figures are our estimates from exposed upholstered area times textbook absorption of upholstery and cloth
(Vorlaender 2008 appendix, seating rows), scaled with the size of the piece; treat them as +-30 %.
"""

import csv
from dataclasses import dataclass
from functools import cached_property
from importlib import resources
from types import MappingProxyType
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.room.shape import Face
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.types import BoolArray, FloatArray


@dataclass(frozen=True)
class Kind:
    """A kind of furnishing.

    size_m : usual length, depth, height. alpha, scattering : per square metre of exposed surface by octave, (8,). [-]
    body : lower and upper end of what blocks sound, as shares of the height; equal ends block nothing.
    """

    key: str
    name: str
    size_m: tuple[float, float, float]
    alpha: tuple[float, ...]
    scattering: float
    body: tuple[float, float]


# Scattering grows with frequency as the piece grows against the wavelength (our estimate; 1 kHz is the table's figure).
SCATTER_BY_OCTAVE: Final = np.array([0.2, 0.3, 0.5, 0.8, 1.0, 1.2, 1.4, 1.5])
_X, _Y, _Z = np.eye(3)
# An open wardrobe, doors folded back: full, it is the catalogue's own layer of hanging clothes; empty, a bare wooden
# niche.
_OPEN_FULL: Final = np.minimum(CATALOGUE["wardrobe-open"].absorption, 1.0)
_OPEN_EMPTY: Final = np.array([0.10, 0.14, 0.16, 0.14, 0.12, 0.12, 0.12, 0.12])


@dataclass(frozen=True)
class Furnishing:
    """A piece in the room: `at` its centre on the plan, `size_m` length, depth, height, `turn_deg` anticlockwise.

    is_open, fullness : for a wardrobe, whether its front stands open and how full it hangs, 0 to 1.
    """

    kind: Kind
    at: tuple[float, float]
    size_m: tuple[float, float, float]
    turn_deg: float = 0.0
    is_open: bool = False
    fullness: float = 0.7

    @property
    def absorption_area_m2(self) -> FloatArray:
        """Equivalent absorption area by octave, (8,): exposed faces (top and three sides) times alpha. [m2]"""
        length, depth, height = self.size_m
        exposed = length * depth + (2 * depth + length) * height
        area: FloatArray = exposed * np.array(self.kind.alpha)
        return area + self.open_front_area_m2 if self.is_open else area

    @property
    def body_absorption(self) -> FloatArray:
        """Absorption coefficient of its body by octave that gives its area on the sides that are free, (8,). [-]"""
        length, depth, _ = self.size_m
        low, high = self.body_m
        free = length * depth + (2 * depth + length) * (high - low)
        return self.absorption_area_m2 / free

    @property
    def open_front_area_m2(self) -> FloatArray:
        """What its front takes more when it stands open, by octave, (8,). [m2]"""
        inside = self.fullness * _OPEN_FULL + (1 - self.fullness) * _OPEN_EMPTY
        more: FloatArray = self.size_m[0] * self.size_m[2] * (inside - np.array(self.kind.alpha))
        return more

    @cached_property
    def axes(self) -> FloatArray:
        """Unit vectors along its length and its depth (towards its front), (2, 2)."""
        turn = np.deg2rad(self.turn_deg)
        return np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])

    @cached_property
    def footprint(self) -> FloatArray:
        """Corners on the plan, anticlockwise, (4, 2). [m]"""
        half = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) / 2 * np.array(self.size_m[:2])
        return np.asarray(self.at) + half @ self.axes

    @property
    def body_m(self) -> tuple[float, float]:
        """Lower and upper end of what blocks sound; equal when nothing does. [m]"""
        return self.kind.body[0] * self.size_m[2], self.kind.body[1] * self.size_m[2]

    @property
    def scattering(self) -> FloatArray:
        """Share of what its sides reflect that leaves in other than the mirror direction, by octave, (8,). [-]"""
        return np.clip(self.kind.scattering * SCATTER_BY_OCTAVE, 0, 0.95)

    @cached_property
    def sides(self) -> tuple[tuple[Face, FloatArray], ...]:
        """Upright sides and top of its body with the energy each reflects in its mirror direction, (8,). [-]"""
        low, high = self.body_m
        if high - low <= 0.005:
            return ()
        diffuse = self.scattering
        kept = (1 - np.minimum(np.array(self.kind.alpha), 1.0)) * (1 - diffuse)
        corners = self.footprint
        sides = []
        for number in range(4):
            start, end = corners[number], corners[(number + 1) % 4]
            length = float(np.linalg.norm(end - start))
            along = (end - start) / length
            outline = np.array([[0.0, 0.0], [length, 0.0], [length, high - low], [0.0, high - low]])
            face = Face(
                self.kind.name,
                "body",
                np.array([*start, low]),
                np.array([*along, 0.0]),
                np.array([0.0, 0.0, 1.0]),
                np.array([along[1], -along[0], 0.0]),
                outline,
            )
            is_front = self.is_open and number == 2
            opened = self.fullness * _OPEN_FULL + (1 - self.fullness) * _OPEN_EMPTY
            sides.append((face, (1 - opened) * (1 - diffuse) if is_front else kept))
        top = Face(self.kind.name, "body", np.array([0.0, 0.0, high]), _X, _Y, _Z, corners)
        return (*sides, (top, kept))

    def covers(self, xy: FloatArray, *, margin_m: float = 0.0) -> BoolArray:
        """Whether places on the plan (..., 2) lie over it, or within `margin_m` of it, (...)."""
        local = np.abs((np.asarray(xy, dtype=float) - np.asarray(self.at)) @ self.axes.T)
        over: BoolArray = np.all(local < np.array(self.size_m[:2]) / 2 + margin_m, axis=-1)
        return over

    def encloses(self, at: tuple[float, float, float]) -> bool:
        """Whether a point lies inside its body."""
        low, high = self.body_m
        return bool(low < at[2] < high and self.covers(np.array(at[:2])))


def _row(row: dict[str, str]) -> Kind:
    length, depth, height = (float(part) for part in row["size_m"].split("/"))
    low, high = (float(part) for part in row["body"].split("/"))
    alpha = tuple(float(part) for part in row["alpha"].split("/"))
    return Kind(row["key"], row["name"], (length, depth, height), alpha, float(row["scattering"]), (low, high))


def _read() -> MappingProxyType[str, Kind]:
    with resources.files(__package__).joinpath("furnishings.csv").open(encoding="utf-8") as lines:
        return MappingProxyType({row["key"]: _row(row) for row in csv.DictReader(lines)})


KINDS: Final = _read()


def kind_named(key: str, *, field: str) -> Kind:
    """A furnishing kind by key. Raises InputError for an unknown one."""
    if key not in KINDS:
        raise InputError(field, f"{key!r} is not a known furnishing.", f"Use one of {', '.join(KINDS)}.")
    return KINDS[key]
