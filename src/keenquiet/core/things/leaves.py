"""Leaves: what doors, windows and walls are made of, from `leaves.csv`."""

import csv
from collections.abc import Mapping
from functools import cache
from importlib import resources
from types import MappingProxyType

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.things.transmission import Leaf


@cache
def leaves() -> Mapping[str, tuple[str, Leaf]]:
    """Label and leaf by key, from the table."""
    with resources.files(__package__).joinpath("leaves.csv").open(encoding="utf-8") as lines:
        return MappingProxyType(
            {
                row["key"]: (
                    row["label"],
                    Leaf(
                        float(row["mass_kg_m2"]),
                        float(row["plateau_db"]),
                        float(row["plateau_octaves"]),
                        tuple(float(row[str(octave)]) for octave in OCTAVES_HZ),
                    ),
                )
                for row in csv.DictReader(lines)
            }
        )
