"""Absorbers tuned by mass and air spring, and loosely hung cloth: membrane, perforated and slotted front, curtain.

Layers from the room inwards: front, porous filling, air gap, rigid wall. Impedances are over rho c, time convention
exp(+jwt).
"""

from dataclasses import dataclass, replace
from typing import Final

import numpy as np
import scipy

from keenquiet.core.air import Air
from keenquiet.core.errors import InputError
from keenquiet.core.things.porous import PorousAbsorber
from keenquiet.core.types import ComplexArray, FloatArray

AIR_VISCOSITY: Final = 1.81e-5  # dynamic, 20 degC. [Pa s]
_PLATE_LOSS: Final = (
    0.15  # loss of a thin board on battens, as a share of its mass reactance at resonance (our estimate)
)


def _check(name: str, value: float, low: float, high: float, unit: str) -> None:
    if not low <= value <= high:
        raise InputError(
            f"absorber.{name}", f"{value} {unit} lies outside {low:g} to {high:g} {unit}.", "Check the figure."
        )


@dataclass(frozen=True, slots=True)
class Backing:
    """What lies behind a front: a porous filling against it, then air, then the wall.

    fill_m, gap_m : thicknesses, 0 to 0.6 and 0 to 1, not both 0. [m]   fill_resistivity : 500 to 200 000. [Pa s/m2]
    """

    gap_m: float
    fill_m: float = 0.0
    fill_resistivity: float = 8000.0

    def __post_init__(self) -> None:
        _check("gap_m", self.gap_m, 0.0, 1.0, "m")
        _check("fill_m", self.fill_m, 0.0, 0.6, "m")
        _check("flow_resistivity", self.fill_resistivity, 500.0, 200_000.0, "Pa s/m2")
        if self.gap_m + self.fill_m < 0.005:
            raise InputError(
                "absorber.gap_m", "there is no room behind the front.", "Give at least 5 mm of gap or filling."
            )

    def impedance(self, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
        """Impedance at its front, (m angles, n). [-]"""
        if self.fill_m >= 0.002:
            return PorousAbsorber(self.fill_m, self.fill_resistivity, self.gap_m).impedance(
                f_hz, angle_rad=angle_rad, air=air
            )
        k, cos = 2 * np.pi * f_hz / air.speed_m_s, np.cos(angle_rad)[:, None]
        impedance: ComplexArray = 1 / (1j * np.tan(k * cos * (self.gap_m + self.fill_m)) * cos)
        return impedance


@dataclass(frozen=True, slots=True)
class Membrane:
    """A limp or lightly damped board over an air space. mass_kg_m2 : 0.1 to 40. [kg/m2]

    Resonance of a shallow empty space c/(2 pi) sqrt(rho/(m d)), about 60/sqrt(m d); full of wool about 50.
    Source: H. Kuttruff, Room Acoustics, chapter 2 (vibrating panel before a wall).
    """

    mass_kg_m2: float
    backing: Backing

    def __post_init__(self) -> None:
        _check("mass_kg_m2", self.mass_kg_m2, 0.1, 40.0, "kg/m2")

    def resonance_hz(self, *, air: Air) -> float:
        """Where mass and what lies behind are in balance, filling included: the zero of the reactance. [Hz]"""
        return _in_balance_hz(self, air)

    def impedance(self, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
        """Impedance at its front, (m angles, n). [-]"""
        rho_c = air.density_kg_m3 * air.speed_m_s
        reactance = 2 * np.pi * f_hz * self.mass_kg_m2 / rho_c
        loss = _PLATE_LOSS * _spring_hz(self.mass_kg_m2 / air.density_kg_m3, self.backing, air) * 2 * np.pi
        loss *= self.mass_kg_m2 / rho_c
        impedance: ComplexArray = loss + 1j * reactance + self.backing.impedance(f_hz, angle_rad=angle_rad, air=air)
        return impedance

    def disturbed(self, factor: float) -> "Membrane":
        """The same, off by a factor, as built things are."""
        return replace(self, mass_kg_m2=float(np.clip(self.mass_kg_m2 * factor, 0.1, 40)))


@dataclass(frozen=True, slots=True)
class Perforated:
    """A board with round holes or with slots over an air space.

    open_share : 0.002 to 0.5. [-]   opening_m : hole diameter or slot width, 0.5 to 50 mm. [m]   board_m : thickness.
    [m]
    Source: T. Cox, P. D'Antonio, Acoustic Absorbers and Diffusers, chapter on resonant absorbers: holes with end
    correction
    0.85 a (1 - 1.47 e^1/2 + 0.47 e^3/2) at each side, slots with -(w/pi) ln sin(pi e/2); viscous loss by U. Ingard.
    """

    open_share: float
    opening_m: float
    board_m: float
    backing: Backing
    is_slotted: bool = False

    def __post_init__(self) -> None:
        _check("open_share", self.open_share, 0.002, 0.5, "")
        _check("opening_m", self.opening_m, 0.0005, 0.05, "m")
        _check("board_m", self.board_m, 0.0005, 0.1, "m")

    @property
    def neck_m(self) -> float:
        """Thickness of the air that moves in the openings, end corrections at both sides included. [m]"""
        e = self.open_share
        if self.is_slotted:
            end = -self.opening_m / np.pi * np.log(np.sin(np.pi * e / 2))
        else:
            end = 0.85 * self.opening_m / 2 * (1 - 1.47 * np.sqrt(e) + 0.47 * np.sqrt(e**3))
        return float(self.board_m + 2 * end)

    def resonance_hz(self, *, air: Air) -> float:
        """Where the air in the openings and what lies behind are in balance, filling included; of a shallow empty
        space c/(2 pi) sqrt(e/(t d)). [Hz]
        """
        return _in_balance_hz(self, air)

    def impedance(self, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
        """Impedance at its front, (m angles, n). [-]"""
        omega = 2 * np.pi * f_hz
        viscous = np.sqrt(8 * AIR_VISCOSITY / air.density_kg_m3 * omega) * (1 + self.board_m / self.opening_m)
        front = (viscous + 1j * omega * self.neck_m) / (self.open_share * air.speed_m_s)
        impedance: ComplexArray = front + self.backing.impedance(f_hz, angle_rad=angle_rad, air=air)
        return impedance

    def disturbed(self, factor: float) -> "Perforated":
        """The same, off by a factor, as built things are."""
        return replace(self, open_share=float(np.clip(self.open_share * factor, 0.002, 0.5)))


def _spring_hz(mass_m: float, backing: Backing, air: Air) -> float:
    """Resonance of a mass, as a thickness of air [m], on the spring of an empty shallow space. [Hz]"""
    return air.speed_m_s / (2 * np.pi) / float(np.sqrt(mass_m * (backing.gap_m + backing.fill_m)))


def _in_balance_hz(made: Membrane | Perforated, air: Air) -> float:
    """Lowest zero of the reactance at right angles. [Hz]"""

    def reactance(f_hz: float) -> float:
        return float(made.impedance(np.array([f_hz]), angle_rad=np.zeros(1), air=air)[0, 0].imag)

    low, high = 1.0, 2.0
    while reactance(high) < 0:  # a spring below, a mass above
        low, high = high, 2 * high
    return float(scipy.optimize.brentq(reactance, low, high, xtol=1e-9))


@dataclass(frozen=True, slots=True)
class Cloth:
    """A curtain or blanket hung before a wall.

    mass_kg_m2 : of one layer, 0.05 to 3. [kg/m2]   fullness : cloth width over the width it covers, 1 to 3. [-]
    gap_m : to the wall, 0.005 to 1. [m]   resistance : flow resistance of one layer, 10 to 5000. [Pa s/m]
    Folds put more cloth into the way: mass and resistance grow with fullness, and the gap varies by a fold's depth.
    Source: limp sheet of resistance r and mass m, r in parallel with jwm, before an air gap (Cox, D'Antonio, as above).
    """

    mass_kg_m2: float
    gap_m: float
    fullness: float = 2.0
    resistance: float = 400.0

    def __post_init__(self) -> None:
        _check("mass_kg_m2", self.mass_kg_m2, 0.05, 3.0, "kg/m2")
        _check("gap_m", self.gap_m, 0.005, 1.0, "m")
        _check("fullness", self.fullness, 1.0, 3.0, "")
        _check("resistance", self.resistance, 10.0, 5000.0, "Pa s/m")

    def impedance(self, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
        """Impedance at its front, (m angles, n); folds: mean of the admittance over three gaps. [-]"""
        rho_c = air.density_kg_m3 * air.speed_m_s
        resistance = self.resistance * self.fullness / rho_c
        mass = 2j * np.pi * f_hz * self.mass_kg_m2 * self.fullness / rho_c
        sheet = resistance * mass / (resistance + mass)
        k, cos = 2 * np.pi * f_hz / air.speed_m_s, np.cos(angle_rad)[:, None]
        depth = 0.04 * (self.fullness - 1)
        gaps = [max(self.gap_m + shift * depth, 0.004) for shift in (-0.5, 0.0, 0.5)]
        admittance = sum(1 / (sheet + 1 / (1j * np.tan(k * cos * gap) * cos)) for gap in gaps) / len(gaps)
        impedance: ComplexArray = np.asarray(1 / admittance)
        return impedance

    def disturbed(self, factor: float) -> "Cloth":
        """The same, off by a factor, as hung things are."""
        return replace(self, resistance=float(np.clip(self.resistance * factor, 10, 5000)))
