"""Pieces: what can be hung, laid or stood up, what each is made of and its usual size. The table is `pieces.csv`.

Layers are computed (docs/physics.md, 1) where they can be; sizes and weights are our readings of common ones.
"""

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import Final, Literal, cast

import numpy as np

from keenquiet.core.air import Air
from keenquiet.core.things.materials import CATALOGUE, Material, computed_material
from keenquiet.core.things.porous import Absorber, PorousAbsorber
from keenquiet.core.things.resonators import Backing, Cloth, Membrane, Perforated

Group = Literal["home", "make", "buy"]
Mount = Literal["wall", "corner", "floor", "ceiling", "free"]


@dataclass(frozen=True)
class Piece:
    """group : had at `home`, to `make`, to `buy`. mount : where it belongs. kind : as a treatment or a screen.

    material : what it is made of. kg : of one.
    """

    key: str
    label: str
    group: Group
    mount: Mount
    kind: str
    width_m: float
    height_m: float
    kg: float
    material: Material

    @property
    def area_m2(self) -> float:
        """Of its front. [m2]"""
        return self.width_m * self.height_m


@cache
def pieces() -> Mapping[str, Piece]:
    """The table by key."""
    with resources.files(__package__).joinpath("pieces.csv").open(encoding="utf-8") as lines:
        return MappingProxyType({row["key"]: _piece(row) for row in csv.DictReader(lines)})


def _piece(row: Mapping[str, str]) -> Piece:
    size = (float(row["width_m"]), float(row["height_m"]), float(row["kg"]))
    return Piece(
        row["key"],
        row["label"],
        cast(Group, row["group"]),
        cast(Mount, row["mount"]),
        row["kind"],
        *size,
        _made(row["made"]),
    )


def _made(spec: str) -> Material:
    kind, _, rest = spec.partition(":")
    if kind == "material":
        return CATALOGUE[rest]
    return computed_material(_absorber(kind, tuple(float(part) for part in rest.split("/"))))


def _absorber(kind: str, figures: tuple[float, ...]) -> Absorber:
    """As in the table: porous thickness/resistivity/gap; cloth mass/gap/fullness/resistance; membrane
    mass/gap/fill/resistivity; slotted and perforated share/opening/board/gap/fill/resistivity.
    """
    if kind == "porous":
        return PorousAbsorber(*figures)
    if kind == "cloth":
        return Cloth(*figures)
    if kind == "membrane":
        mass, *backing = figures
        return Membrane(mass, Backing(*backing))
    share, opening, board, *backing = figures
    return Perforated(share, opening, board, Backing(*backing), is_slotted=kind == "slotted")


# below, no board on a box of that depth is heavy enough; above, wool does it
TUNABLE_HZ: Final = (48.0, 150.0)


def membrane_for(note_hz: float, *, depth_m: float = 0.13, fill_m: float = 0.05) -> Membrane:
    """A membrane tuned to a note, on a box of this depth: the mass that what lies behind holds in balance there, within
    what boards weigh.
    """
    air, backing = Air(), Backing(depth_m - fill_m, fill_m)
    spring = backing.impedance(np.array([note_hz]), angle_rad=np.zeros(1), air=air)[0, 0].imag
    mass = -spring * air.density_kg_m3 * air.speed_m_s / (2 * np.pi * note_hz)
    return Membrane(min(max(mass, 1.0), 20.0), backing)
