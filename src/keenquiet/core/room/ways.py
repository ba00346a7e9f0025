"""Ways in: what lets sound through a surface, part by part, and what closing one of them buys.

Leaves by mass law (`things.transmission`, `things.leaves`), gaps as open area. What comes through the building
whatever is closed limits every surface: a part of its own, `flanking`. All of it is sure to about 3 dB.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from types import MappingProxyType
from typing import Final

import numpy as np

from keenquiet.core.bands import exact_octaves_hz
from keenquiet.core.errors import InputError
from keenquiet.core.things.leaves import leaves
from keenquiet.core.things.transmission import mass_law_db, through_db, transmission
from keenquiet.core.types import FloatArray

WAY_SPREAD_DB: Final = 3.0
FLANKING_DB: Final = 50.0  # of a whole surface, however well it is closed (our estimate for a home)
KEYHOLE_M2: Final = 1e-4


@dataclass(frozen=True)
class Means:
    """Something that closes a way. left : share of an open area that stays open. mass_kg_m2 : of what hangs or stands
    before a leaf, None for a seal. leaky : share of a leaf's area that it leaves open round its edges.

    All our estimates; `advice.ways` has words and cautions.
    """

    key: str
    fits: tuple[str, ...]
    left: float = 0.1
    mass_kg_m2: float | None = None
    leaky: float = 0.0


MEANS: Final[Mapping[str, Means]] = MappingProxyType(
    {
        means.key: means
        for means in (
            Means("strip", ("gap", "joint"), left=0.1),
            Means("towel", ("gap",), left=0.3),
            Means("tape", ("keyhole", "pipe", "crack", "letterbox", "joint"), left=0.05),
            Means("blanket", ("leaf", "pane", "hatch"), mass_kg_m2=3.0, leaky=0.15),
            Means("heavy-curtain", ("leaf", "pane"), mass_kg_m2=1.2, leaky=0.25),
            Means("plug", ("pane", "hatch"), mass_kg_m2=15.0, leaky=0.03),
        )
    }
)


@dataclass(frozen=True)
class Way:
    """A way in. key : in the document. kind : `wall`, `pane`, `leaf`, `gap`, `joint`, `keyhole`, `vent`, `pipe`,
    `crack`, `letterbox`, `hatch`, `flanking`. face : the surface. share : of the power let through, (8,). [-]
    """

    key: str
    kind: str
    face: int
    area_m2: float
    share: tuple[float, ...]
    at: tuple[float, float, float] | None = None

    @property
    def power(self) -> FloatArray:
        """Power let through, against 1 m2 that is open, (8,). [-]"""
        return self.area_m2 * np.array(self.share)

    def closed_by(self, means: Means) -> "Way":
        """The same way, closed. Raises InputError where this does not close it, and for a ventilation opening."""
        if self.kind == "vent":
            raise InputError("sealed", "a ventilation opening stays free.", "Use a lined duct, or pick another hour.")
        if self.kind not in means.fits:
            raise InputError("sealed", f"{means.key!r} does not close a {self.kind}.", "Choose another means.")
        if means.mass_kg_m2 is None:
            return Way(self.key, self.kind, self.face, self.area_m2 * means.left, self.share, self.at)
        before = transmission(mass_law_db(means.mass_kg_m2, exact_octaves_hz()))
        kept = np.minimum(before + means.leaky, 1.0)
        return Way(self.key, self.kind, self.face, self.area_m2, tuple(np.array(self.share) * kept), self.at)


@dataclass(frozen=True)
class Seal:
    """A way closed: its key and the key of what closes it."""

    way: str
    means: str


@cache
def leaf_share(key: str) -> tuple[float, ...]:
    """Share of the power that a leaf of the table lets through, by octave, (8,). [-]"""
    return tuple(float(share) for share in transmission(leaves()[key][1]))


def open_share() -> tuple[float, ...]:
    """What a hole lets through."""
    return (1.0,) * 8


def flanking(face: int, area_m2: float) -> Way:
    """What comes through the building whatever is closed."""
    return Way("", "flanking", face, area_m2, tuple(transmission(np.full(8, FLANKING_DB))))


def closed(ways: Iterable[Way], seals: Sequence[Seal]) -> tuple[Way, ...]:
    """Ways with those closed that are. Raises InputError for a way that is not there or means that do not fit."""
    found = list(ways)
    known = {way.key: number for number, way in enumerate(found) if way.key}
    for number, seal in enumerate(seals):
        if seal.way not in known:
            raise InputError(f"sealed.{number}.way", f"there is no {seal.way!r}.", "Look at the ways in.")
        if seal.means not in MEANS:
            raise InputError(f"sealed.{number}.means", f"{seal.means!r} is unknown.", f"Use one of {', '.join(MEANS)}.")
        at = known[seal.way]
        found[at] = found[at].closed_by(MEANS[seal.means])
    return tuple(found)


def change_db(ways: Sequence[Way], seals: Sequence[Seal], face: int) -> FloatArray:
    """By how much less comes through a face once these seals are in, at most 0, (8,). [dB]"""
    before, after = (_through(part, face) for part in (ways, closed(ways, seals)))
    change: FloatArray = after - before
    return change


def _through(ways: Sequence[Way], face: int) -> FloatArray:
    here = [way for way in ways if way.face == face]
    if not here:
        return np.zeros(8)
    return through_db(np.array([way.area_m2 for way in here]), np.array([way.share for way in here]))
