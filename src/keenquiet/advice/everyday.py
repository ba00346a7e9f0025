"""What people call what a room is made of, how likely each is a floor, a wall, a ceiling (our ordering of homes)."""

import csv
from collections.abc import Mapping
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import Final

PLACES: Final = ("floor", "wall", "ceiling")


@cache
def _rows() -> tuple[dict[str, str], ...]:
    with resources.files(__package__).joinpath("everyday.csv").open(encoding="utf-8") as lines:
        return tuple(csv.DictReader(lines))


@cache
def everyday_names() -> Mapping[str, tuple[str, ...]]:
    """Everyday names by material, the commonest first."""
    return MappingProxyType({row["material"]: tuple(row["called"].split("; ")) for row in _rows()})


@cache
def likely_places() -> Mapping[str, dict[str, int]]:
    """By material its rank among likely floors, walls and ceilings, 1 the likeliest."""
    return MappingProxyType(
        {row["material"]: {place: int(row[place]) for place in PLACES if row[place]} for row in _rows()}
    )
