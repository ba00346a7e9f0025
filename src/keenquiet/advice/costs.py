"""What moves cost: price in the room's currency, minutes, reversibility and cautions, by the table in `prices.csv`.

The figures are ours; a room may carry its own prices (`brief.prices`), which come first. A frame costs what its
boards, wool and cloth do.
"""

import csv
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import Final

from keenquiet.advice.materials import Line, takes
from keenquiet.core.judge.candidate import Candidate, Cost, Limits

CAUTIONS: Final[Mapping[str, str]] = MappingProxyType(
    {
        "wall": "Before you drill: look for cables and pipes, and in old "
        "houses have textured coatings checked for asbestos. "
        "Ask the landlord; follow local codes.",
        "fibre": "Cutting mineral wool: gloves, mask, eye protection; close the panel in cloth.",
        "fire": "Keep cloth and foam away from heaters, lamps and candles; leave doors, vents and the way out free.",
        "overhead": "Weight over heads: fix into joists with rated hardware "
        "and a second safety line, or let a joiner do it.",
        "stand": "Weigh down the stand's foot and keep cables off the way out.",
        "mains": "Switch it off as its maker says, and put a note where "
        "you will see it; wiring is an electrician's work.",
        "doors": "Check that open doors cannot swing against the stand.",
        "rug": "Lay it flat, with a non-slip mat: rugs trip people.",
        "tip": "Strap the stack to the wall so that it cannot tip.",
        "vents": "Leave ventilation openings and the way out free; a window that is a way of escape is never plugged. "
        "What a landlord or a code says comes first.",
        "air": "A closed room grows warm and stale: air it between takes.",
        "breath": "A pop screen keeps breath off the capsule at this distance.",
    }
)
CURRENCIES: Final[Mapping[str, str]] = MappingProxyType({"€": "EUR", "£": "GBP", "$": "USD"})
_CLOSE_M: Final = 0.25


@dataclass(frozen=True)
class PriceRow:
    """One row of the table. prices : by currency, none for a frame. minutes, minutes_fixed : stood up, and fixed."""

    key: str
    prices: Mapping[str, float]
    minutes: int
    minutes_fixed: int
    reversible: str
    cautions: tuple[str, ...]
    source: str


@cache
def price_rows() -> Mapping[str, PriceRow]:
    """The table by key."""
    with resources.files(__package__).joinpath("prices.csv").open(encoding="utf-8") as lines:
        return MappingProxyType({row["key"]: _row(row) for row in csv.DictReader(lines)})


def _row(row: Mapping[str, str]) -> PriceRow:
    prices = {currency: float(row[currency]) for currency in CURRENCIES.values() if row[currency]}
    return PriceRow(
        row["key"],
        prices,
        int(row["minutes"]),
        int(row["minutes_fixed"]),
        row["reversible"],
        tuple(row["cautions"].split()),
        row["source"],
    )


@dataclass(frozen=True)
class PriceList:
    """What moves cost in one room. currency : its sign, other ones count as euros. own : prices by key that come
    first.
    """

    currency: str = "€"
    own: Mapping[str, float] = field(default_factory=dict)

    def price(self, key: str, *, fixed: bool = False) -> float:
        """Price of one piece, its fixings counted in where it is fixed. [currency]"""
        return sum(self._listed(what) * amount for what, amount in takes(key, fixed=fixed).items())

    def line(self, line: Line) -> float:
        """Price of one unit of what is bought for frames. [currency]"""
        return self._listed(line.key) * line.per_unit

    def _listed(self, key: str) -> float:
        return self.own.get(key, price_rows()[key].prices[CURRENCIES.get(self.currency, "EUR")])

    def __call__(self, candidate: Candidate, limits: Limits) -> Cost:
        """What a move costs somebody with these limits; cautions by their keys."""
        row = price_rows()[candidate.piece or candidate.kind]
        fixed = limits.may_drill
        cautions = [caution for key in row.cautions if (caution := _caution(key, fixed)) is not None]
        if candidate.kind == "distance" and float(str(candidate.facts["distance_m"])) < _CLOSE_M:
            cautions.append("breath")
        reversible = row.reversible == "yes" or (row.reversible == "unless-fixed" and not fixed)
        price = 0.0 if at_hand(row.key, limits) else self.price(row.key, fixed=fixed) * candidate.count
        minutes = (row.minutes_fixed if fixed else row.minutes) * candidate.count
        return Cost(price, minutes, reversible, tuple(cautions))


_TWO_STANDS: Final = ("screen-duvet-behind-mic", "screen-duvet-on-t")


def at_hand(key: str, limits: Limits) -> bool:
    """Whether a piece costs nothing any more; two stands beside the microphone's carry a duvet."""
    if key in _TWO_STANDS:
        return limits.stands >= 3
    return key.removesuffix("-overhead").removeprefix("screen-") in limits.owned


def _caution(key: str, fixed: bool) -> str | None:
    """What is fixed to a wall needs another word than what stands."""
    if key == "mount":
        return "wall" if fixed else "stand"
    if key == "wall" and not fixed:
        return None
    return key
