"""Noises that homes have, by octave at 1 m from the thing or from the surface it comes through. `noise_presets.csv`.

The spectra are our estimates from everyday levels, sure to 6 dB: they say what leads and in which pitch, until a
silence is read here.
"""

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import Final

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.room.calendar import Span
from keenquiet.core.room.room import Cycle

PRESET_SPREAD_DB: Final = 6.0


@dataclass(frozen=True)
class NoisePreset:
    """kind, cycle : as of a noise. behind : the kind of surface it usually comes through, "" inside.

    level_db : (8,) at 1 m. [dB re 20 uPa] again : whether it must be switched on again afterwards.
    """

    key: str
    label: str
    kind: str
    behind: str
    level_db: tuple[float, ...]
    hum_hz: float | None
    cycle: Cycle | None
    hours: tuple[Span, ...]
    again: bool


@cache
def noise_presets() -> Mapping[str, NoisePreset]:
    """The table by key."""
    with resources.files(__package__).joinpath("noise_presets.csv").open(encoding="utf-8") as lines:
        return MappingProxyType({row["key"]: _preset(row) for row in csv.DictReader(lines)})


def _preset(row: Mapping[str, str]) -> NoisePreset:
    hours = [span.split("-") for span in row["hours"].split()]
    return NoisePreset(
        key=row["key"],
        label=row["label"],
        kind=row["kind"],
        behind=row["behind"],
        level_db=tuple(float(row[str(octave)]) for octave in OCTAVES_HZ),
        hum_hz=float(row["hum_hz"]) if row["hum_hz"] else None,
        cycle=Cycle(float(row["period_min"]), float(row["on_share"])) if row["period_min"] else None,
        hours=tuple((float(start), float(end)) for start, end in hours),
        again=row["again"] == "yes",
    )
