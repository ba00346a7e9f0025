"""What gets through a wall, a pane, a gap: mass law with its plateau, leaks, and parts side by side.

Valid to about 3 dB for single leaves and for leaks larger than a keyhole; flanking through the building is not in it
(`core.room.ways` gives it as a way of its own that limits what sealing buys).
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import exact_octaves_hz
from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray

_MASS_LAW_DB: Final = 47.0  # field incidence: R = 20 log10(m f) - 47; D. Bies, C. Hansen, Engineering Noise Control, 8
_SLOPE_DB: Final = 10.0  # an octave above the plateau


@dataclass(frozen=True)
class Leaf:
    """A single leaf: mass per area [kg/m2], height of its plateau [dB] and how many octaves wide it is.

    more_db : what a second leaf behind an air space adds, by octave, (8,).
    """

    mass_kg_m2: float
    plateau_db: float
    plateau_octaves: float
    more_db: tuple[float, ...] = (0.0,) * 8


def mass_law_db(mass_kg_m2: float, f_hz: FloatArray) -> FloatArray:
    """Sound reduction of a limp leaf for sound from all sides, at least 0. [dB]

    Raises InputError for a mass that is not above 0.
    """
    if not mass_kg_m2 > 0:
        raise InputError("mass_kg_m2", f"{mass_kg_m2} kg/m2 is no leaf.", "Give a mass above 0.")
    reduction: FloatArray = np.maximum(20 * np.log10(mass_kg_m2 * np.asarray(f_hz)) - _MASS_LAW_DB, 0.0)
    return reduction


def leaf_reduction_db(leaf: Leaf) -> FloatArray:
    """Sound reduction by octave, (8,). [dB]

    Mass law up to the plateau, flat over its width, then 10 dB an octave: the plateau method (B. Watters, J. Acoust.
    Soc. Am. 31 (1959) 898; heights and widths by material in D. Bies, C. Hansen, Engineering Noise Control, 8).
    """
    f_hz = exact_octaves_hz()
    law = mass_law_db(leaf.mass_kg_m2, f_hz)
    start_hz = 10 ** ((leaf.plateau_db + _MASS_LAW_DB) / 20) / leaf.mass_kg_m2
    end_hz = start_hz * 2**leaf.plateau_octaves
    above = leaf.plateau_db + _SLOPE_DB * np.log2(np.maximum(f_hz / end_hz, 1.0))
    reduction: FloatArray = np.where(f_hz <= start_hz, law, np.minimum(law, above)) + np.array(leaf.more_db)
    return reduction


def transmission(reduction_db: FloatArray) -> FloatArray:
    """Share of the power that gets through. [-]"""
    share: FloatArray = 10 ** (-np.asarray(reduction_db) / 10)
    return share


def through_db(areas_m2: FloatArray, shares: FloatArray) -> FloatArray:
    """Power that parts side by side let through, relative to 1 m2 that is open, (n_bands,). [dB]

    areas_m2 : (n,). shares : (n, n_bands), power let through by each. Powers add.
    """
    through: FloatArray = 10 * np.log10(np.maximum(np.asarray(areas_m2) @ np.asarray(shares), 1e-20))
    return through


def composite_reduction_db(areas_m2: FloatArray, shares: FloatArray) -> FloatArray:
    """Sound reduction of a wall made of parts, (n_bands,). [dB]"""
    reduction: FloatArray = 10 * np.log10(float(np.sum(areas_m2))) - through_db(areas_m2, shares)
    return reduction
