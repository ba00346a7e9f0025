"""The catalogue of ordinary materials: absorption and scattering by octave, with a source row by row."""

import csv
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from importlib import resources
from types import MappingProxyType
from typing import Final

import numpy as np

from keenquiet.core.air import Air
from keenquiet.core.bands import OCTAVES_HZ, at_frequencies, octaves_from_table
from keenquiet.core.errors import InputError
from keenquiet.core.things.porous import Absorber, PorousAbsorber, octave_absorption, real_admittance
from keenquiet.core.types import ComplexArray, FloatArray

_NORMAL: Final = np.zeros(1)
_LOOSE: Final = ("cloth", "soft")  # how rows of cloth, carpet, felt and wool are drawn
# Textbooks give one figure for "rough" or "smooth" at most; lows see smoother walls than highs (our estimate).
_SCATTER_BY_OCTAVE: Final = np.array([0.2, 0.3, 0.5, 0.8, 1.0, 1.2, 1.4, 1.5])


@dataclass(frozen=True, eq=False)
class Material:
    """A material as mounted, never a material in general. Two are the same when they are one object.

    absorption : random incidence by octave, (8,). [-]
    scattering : by octave, (8,). [-]
    filled : octaves not in the source, held from their neighbour.
    absorber : set when the figures are computed; the low end then uses its complex impedance.
    loose : cloth and other thin porous layers: below the measured bands they take less and less (`loose_below`).
    under : what it hangs in front of, which goes on doing what it does where the piece does less.
    """

    key: str
    name: str
    group: str
    mounting: str
    absorption: FloatArray
    scattering: FloatArray
    source: str
    confidence: str
    hatch: str
    filled: tuple[int, ...] = ()
    absorber: Absorber | None = None
    loose: bool = False
    under: "Material | None" = None

    @cached_property
    def _real_beta(self) -> FloatArray:
        return real_admittance(self.absorption)

    def scaled(self, factor: FloatArray) -> "Material":
        """The same with its absorption by octave times `factor` (8,), as a fit to readings asks; a computed one keeps
        its layers.
        """
        return replace(self, absorption=np.clip(self.absorption * factor, 0.0, 1.2), confidence="fitted")

    def admittance(self, f_hz: FloatArray, *, air: Air) -> ComplexArray:
        """Specific admittance at normal incidence, (n,). [-]"""
        if self.absorber is not None:
            own = np.asarray(1 / self.absorber.impedance(f_hz, angle_rad=_NORMAL, air=air)[0])
        else:
            own = at_frequencies(self._real_beta, f_hz).astype(complex)
            if self.loose:
                own = own * np.minimum(f_hz / OCTAVES_HZ[0], 1.0) ** 2
        if self.under is None:
            return own
        behind = self.under.admittance(f_hz, air=air)
        return np.where(own.real >= behind.real, own, behind)

    def over(self, wall: "Material") -> "Material":
        """The same in front of a wall: in no octave less than the wall did. One object for each pair."""
        return _in_front(self, wall)


@lru_cache(maxsize=256)
def _in_front(piece: Material, wall: Material) -> Material:
    if np.all(piece.absorption >= wall.absorption) and piece.absorber is None:
        return piece
    return replace(piece, absorption=np.maximum(piece.absorption, wall.absorption), under=wall)


def loose_below(absorption: FloatArray, filled: tuple[int, ...]) -> FloatArray:
    """Absorption (8,), octaves below a table's falling to a quarter each, as of a resistive layer a small part of a
    wavelength from its wall: alpha = 8 r (k d)^2 (H. Kuttruff, Room Acoustics, chapter 2). [-]
    """
    falling = absorption.copy()
    lowest = next(number for number, band in enumerate(OCTAVES_HZ) if band not in filled)
    for number in reversed(range(lowest)):
        falling[number] = falling[number + 1] / 4
    return falling


def own_material(key: str, table: Mapping[str, float], *, field: str) -> Material:
    """A material from an octave table as in `room.json`. Raises InputError for values outside 0..1.2."""
    return Material(
        key=key,
        name="Own figures",
        group="Own",
        mounting="as given",
        absorption=octaves_from_table(table, field=field, low=0.0, high=1.2),
        scattering=0.1 * _SCATTER_BY_OCTAVE,
        source="given by the user",
        confidence="own",
        hatch="solid",
        filled=tuple(band for band in OCTAVES_HZ if str(band) not in table),
    )


def computed_material(
    absorber: Absorber, *, key: str = "absorber", name: str = "Panel", air: Air | None = None, hatch: str = "soft"
) -> Material:
    """A material computed from what it is built of."""
    return Material(
        key=key,
        name=name,
        group="Absorbers",
        mounting="as described",
        absorption=octave_absorption(absorber, air=air or Air())[1],
        scattering=0.1 * _SCATTER_BY_OCTAVE,
        source="computed from its layers (docs/physics.md, 1)",
        confidence="computed",
        hatch=hatch,
        absorber=absorber,
    )


def material_named(key: str, *, field: str) -> Material:
    """A catalogue material. Raises InputError for an unknown key."""
    if key not in CATALOGUE:
        raise InputError(
            field, f"{key!r} is not in the catalogue.", "Choose a listed material, or give absorption by octave."
        )
    return CATALOGUE[key]


def _row(row: Mapping[str, str]) -> Material:
    scattering = np.minimum(float(row["scattering"]) * _SCATTER_BY_OCTAVE, 1.0)
    absorber = None
    loose = False
    filled: tuple[int, ...] = ()
    if row["absorber"]:
        thickness, resistivity, gap = (float(part) for part in row["absorber"].split("/"))
        absorber = PorousAbsorber(thickness_m=thickness, flow_resistivity=resistivity, gap_m=gap)
        absorption = octave_absorption(absorber, air=Air())[1]
    else:
        table = {str(band): float(row[f"a{band}"]) for band in OCTAVES_HZ[1:] if row[f"a{band}"]}
        absorption = octaves_from_table(table, field=row["key"], low=0.0, high=1.2)
        loose = row["hatch"] in _LOOSE
        filled = tuple(band for band in OCTAVES_HZ if str(band) not in table)
    if loose:
        absorption = loose_below(absorption, filled)
    return Material(
        key=row["key"],
        name=row["name"],
        group=row["group"],
        mounting=row["mounting"],
        absorption=absorption,
        scattering=scattering,
        source=row["source"],
        confidence=row["confidence"],
        hatch=row["hatch"],
        filled=filled,
        absorber=absorber,
        loose=loose,
    )


def _read_catalogue() -> Mapping[str, Material]:
    with resources.files(__package__).joinpath("materials.csv").open(encoding="utf-8") as lines:
        return MappingProxyType({row["key"]: _row(row) for row in csv.DictReader(lines)})


CATALOGUE: Final = _read_catalogue()
