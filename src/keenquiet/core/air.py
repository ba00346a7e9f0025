"""Air: speed of sound, density, and what air itself absorbs."""

from dataclasses import dataclass
from functools import cached_property
from typing import Final

import numpy as np

from keenquiet.core.bands import exact_octaves_hz
from keenquiet.core.types import FloatArray

PRESSURE_KPA: Final = 101.325  # reference ambient pressure, ISO 9613-1


@dataclass(frozen=True)
class Air:
    """Air in the room. temperature_c [degC], humidity_pct relative humidity [%]."""

    temperature_c: float = 20.0
    humidity_pct: float = 50.0

    @cached_property
    def speed_m_s(self) -> float:
        """Speed of sound. [m/s]  Ideal gas, 331.3 m/s at 0 degC."""
        return 331.3 * float(np.sqrt(1 + self.temperature_c / 273.15))

    @cached_property
    def density_kg_m3(self) -> float:
        """Density of dry air at PRESSURE_KPA. [kg/m3]  Ideal gas, R = 287.05 J/(kg K)."""
        return PRESSURE_KPA * 1000 / (287.05 * (self.temperature_c + 273.15))

    @cached_property
    def energy_loss_per_m(self) -> FloatArray:
        """Intensity attenuation `m` at the octave centres, (8,). [1/m]"""
        return attenuation_db_per_m(exact_octaves_hz(), air=self) / (10 * np.log10(np.e))


def attenuation_db_per_m(f_hz: FloatArray, *, air: Air) -> FloatArray:
    """Pure-tone attenuation by the atmosphere at PRESSURE_KPA. [dB/m]

    f_hz : any shape. [Hz]
    Source: ISO 9613-1:1993, equations 3 to 5 and annex B (molar concentration of water vapour).
    """
    kelvin = air.temperature_c + 273.15
    ratio = kelvin / 293.15
    saturation = 10 ** (-6.8346 * (273.16 / kelvin) ** 1.261 + 4.6151)  # p_sat / p_ref, eq. B.3
    h = air.humidity_pct * saturation  # molar concentration [%], ambient pressure = reference pressure
    oxygen_hz = 24 + 4.04e4 * h * (0.02 + h) / (0.391 + h)
    nitrogen_hz = ratio**-0.5 * (9 + 280 * h * np.exp(-4.170 * (ratio ** (-1 / 3) - 1)))
    f2 = np.asarray(f_hz, dtype=float) ** 2
    attenuation: FloatArray = (
        8.686
        * f2
        * (
            1.84e-11 * ratio**0.5
            + ratio**-2.5
            * (
                0.01275 * np.exp(-2239.1 / kelvin) / (oxygen_hz + f2 / oxygen_hz)
                + 0.1068 * np.exp(-3352.0 / kelvin) / (nitrogen_hz + f2 / nitrogen_hz)
            )
        )
    )
    return attenuation
