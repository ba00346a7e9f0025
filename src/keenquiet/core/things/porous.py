"""Absorbers computed from what they are made of: a porous layer, a facing, a gap, a rigid wall behind."""

from dataclasses import dataclass, replace
from typing import Final, Protocol

import numpy as np

from keenquiet.core.air import Air
from keenquiet.core.bands import band_edges_hz, exact_octaves_hz
from keenquiet.core.errors import InputError
from keenquiet.core.types import ComplexArray, FloatArray

_BAND_POINTS: Final = 9  # frequencies averaged in each octave: thin layers turn quickly within a band
_ANGLES_RAD: Final = np.deg2rad(np.linspace(1.0, 89.0, 45))


@dataclass(frozen=True, slots=True)
class PorousAbsorber:
    """A porous layer on an air gap on a rigid wall.

    thickness_m : 0.002 to 0.6. [m]
    flow_resistivity : 500 to 200 000. [Pa s/m2]
    gap_m : air behind the layer, 0 to 1. [m]
    facing_resistance : specific flow resistance of a cloth on the front, 0 for none. [Pa s/m]
    facing_mass : surface mass of the facing, 0 for none. [kg/m2]
    """

    thickness_m: float
    flow_resistivity: float
    gap_m: float = 0.0
    facing_resistance: float = 0.0
    facing_mass: float = 0.0

    def __post_init__(self) -> None:
        for name, low, high, unit in (
            ("thickness_m", 0.002, 0.6, "m"),
            ("flow_resistivity", 500.0, 200_000.0, "Pa s/m2"),
            ("gap_m", 0.0, 1.0, "m"),
            ("facing_resistance", 0.0, 5000.0, "Pa s/m"),
            ("facing_mass", 0.0, 10.0, "kg/m2"),
        ):
            value = getattr(self, name)
            if not low <= value <= high:
                raise InputError(
                    f"absorber.{name}", f"{value} {unit} lies outside {low:g} to {high:g} {unit}.", "Check the figure."
                )

    def impedance(self, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
        """Impedance at its front over rho c, (m angles, n). [-]"""
        return surface_impedance(self, f_hz, angle_rad=angle_rad, air=air)

    def disturbed(self, factor: float) -> "PorousAbsorber":
        """The same, its flow resistivity off by a factor, as real batches are."""
        return replace(self, flow_resistivity=float(np.clip(self.flow_resistivity * factor, 500, 200_000)))


class Absorber(Protocol):
    """Anything whose impedance at its front is computed: porous layers here, the others in `resonators`."""

    def impedance(self, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
        """Impedance at its front over rho c, (m angles, n). [-]"""

    def disturbed(self, factor: float) -> "Absorber":
        """The same, off by a factor."""

    def __hash__(self) -> int: ...


def surface_impedance(absorber: PorousAbsorber, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> ComplexArray:
    """Specific surface impedance over rho c, time convention exp(+jwt).

    f_hz : (n,). [Hz]   angle_rad : (m,) angle of incidence from the normal. [rad]
    Returns (m, n). [-]
    Source: Y. Miki, J. Acoust. Soc. Jpn (E) 11 (1990), equations for Zc and gamma; transfer matrix of layers with
    Snell refraction (T. Cox, P. D'Antonio, Acoustic Absorbers and Diffusers, chapter on porous absorption).
    """
    k = 2 * np.pi * f_hz / air.speed_m_s
    x = f_hz / absorber.flow_resistivity
    zc = 1 + 0.070 * x**-0.632 - 1j * 0.107 * x**-0.632
    kp = k * (1 + 0.109 * x**-0.618 - 1j * 0.160 * x**-0.618)
    sin = np.sin(angle_rad)[:, None]
    cos = np.cos(angle_rad)[:, None]
    kz = np.sqrt(kp**2 - (k * sin) ** 2)
    z_layer = zc * kp / kz
    # tan is 0 over a gap of 0: the rigid wall, 1/Z = 0. Working with admittances keeps that finite.
    y_gap = 1j * np.tan(k * cos * absorber.gap_m) * cos
    y_layer = 1 / z_layer
    t = np.tan(kz * absorber.thickness_m)
    y_surface = y_layer * (y_gap + 1j * y_layer * t) / (y_layer + 1j * y_gap * t)
    facing = (absorber.facing_resistance + 2j * np.pi * f_hz * absorber.facing_mass) / (
        air.density_kg_m3 * air.speed_m_s
    )
    impedance: ComplexArray = 1 / y_surface + facing
    return impedance


def absorption_at(absorber: Absorber, f_hz: FloatArray, *, angle_rad: FloatArray, air: Air) -> FloatArray:
    """Absorption coefficient for plane waves, (m angles, n frequencies). [-]"""
    z_cos = absorber.impedance(f_hz, angle_rad=angle_rad, air=air) * np.cos(angle_rad)[:, None]
    alpha: FloatArray = 1 - np.abs((z_cos - 1) / (z_cos + 1)) ** 2
    return alpha


def diffuse_absorption(absorber: Absorber, f_hz: FloatArray, *, air: Air) -> FloatArray:
    """Random-incidence absorption coefficient, (n,). [-]  Paris integral, weight sin(2 theta), 0 to 90 degrees."""
    weight = np.sin(2 * _ANGLES_RAD)
    alpha = absorption_at(absorber, f_hz, angle_rad=_ANGLES_RAD, air=air)
    mean: FloatArray = weight @ alpha / np.sum(weight)
    return mean


def octave_absorption(absorber: Absorber, *, air: Air) -> tuple[FloatArray, FloatArray]:
    """Normal and random-incidence absorption by octave, each (8,), averaged over each band (log axis). [-]"""
    low, high = band_edges_hz(exact_octaves_hz(), fraction=1)
    f_hz = np.geomspace(low, high, _BAND_POINTS, axis=-1)
    normal = absorption_at(absorber, f_hz.ravel(), angle_rad=np.zeros(1), air=air)[0]
    diffuse = diffuse_absorption(absorber, f_hz.ravel(), air=air)
    # the trapezoid rule: points on the band's edges stand for half a step each
    share = np.full(_BAND_POINTS, 1.0 / (_BAND_POINTS - 1))
    share[[0, -1]] /= 2
    return normal.reshape(f_hz.shape) @ share, diffuse.reshape(f_hz.shape) @ share


def real_admittance(alpha: FloatArray) -> FloatArray:
    """Specific admittance 1/z of a locally reacting surface with real z > 1.57 and this random-incidence absorption.

    alpha : any shape, clipped to 0.0005..0.95, the largest that the model reaches. [-]
    Source: inversion of alpha = 8/z [1 + 1/(1+z) - (2/z) ln(1+z)] (H. Kuttruff, Room Acoustics, chapter 2).
    """
    return np.interp(np.clip(alpha, 0.0005, _ALPHA_TABLE[-1]), _ALPHA_TABLE, _BETA_TABLE)


def _paris_alpha(z: FloatArray) -> FloatArray:
    alpha: FloatArray = 8 / z * (1 + 1 / (1 + z) - 2 / z * np.log1p(z))
    return alpha


# Tabulated once: 4000 points keep the interpolation error below 1e-5, and a table is vectorised where a root finder is
# not.
_BETA_TABLE: Final = np.geomspace(1e-5, 1 / 1.57, 4000)
_ALPHA_TABLE: Final = _paris_alpha(1 / _BETA_TABLE)
