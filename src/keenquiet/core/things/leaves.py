"""Leaves: what doors, windows and walls let through, from `leaves.csv`.

A row with a mass is computed: mass law, plateau, and by octave what a second leaf behind an air space adds. A row
without one is measured: its octaves are the sound reduction itself (panes: EN 12758, table of generally accepted
values, 125 to 4000 Hz; 63 Hz by 6 dB an octave, 8 kHz held from its neighbour).
"""

import csv
from collections.abc import Mapping
from functools import cache
from importlib import resources
from types import MappingProxyType

import numpy as np

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.things.transmission import Leaf, leaf_reduction_db
from keenquiet.core.types import FloatArray


@cache
def leaves() -> Mapping[str, tuple[str, FloatArray]]:
    """Label and sound reduction by octave (8,) [dB] by key, from the table."""
    with resources.files(__package__).joinpath("leaves.csv").open(encoding="utf-8") as lines:
        return MappingProxyType({row["key"]: (row["label"], _reduction_db(row)) for row in csv.DictReader(lines)})


def _reduction_db(row: dict[str, str]) -> FloatArray:
    octaves = tuple(float(row[str(octave)]) for octave in OCTAVES_HZ)
    if not row["mass_kg_m2"]:
        return np.array(octaves)
    return leaf_reduction_db(
        Leaf(float(row["mass_kg_m2"]), float(row["plateau_db"]), float(row["plateau_octaves"]), octaves)
    )
