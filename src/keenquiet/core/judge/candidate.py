"""A move before it is judged, what limits it, and the cautions that stand beside it."""

from dataclasses import dataclass
from typing import Final

from keenquiet.core.room.room import Arrangement

WALL_CAUTION: Final = (
    "Before you drill: look for cables and pipes, and in old houses have textured coatings checked for asbestos. "
    "Ask the landlord; follow local codes."
)
FIBRE_CAUTION: Final = "Cutting mineral wool: gloves, mask, eye protection; close the panel in cloth."
FIRE_CAUTION: Final = (
    "Keep cloth and foam away from heaters, lamps and candles; leave doors, vents and the way out free."
)
OVERHEAD_CAUTION: Final = (
    "Weight over heads: fix into joists with rated hardware and a second safety line, or let a joiner do it."
)
STAND_CAUTION: Final = "Weigh down the stand's foot and keep cables off the way out."
MAINS_CAUTION: Final = (
    "Switch it off as its maker says, and put a note where you will see it; wiring is an electrician's work."
)


@dataclass(frozen=True)
class Limits:
    """What the performer can do: budget [currency], whether walls may be drilled, whether a duvet is at hand, recording
    hour [h].
    """

    budget: float = 120.0
    may_drill: bool = False
    has_duvet: bool = True
    hour: float | None = None


@dataclass(frozen=True)
class Candidate:
    """A move before it is judged."""

    kind: str
    title: str
    why: str
    arrangement: Arrangement
    cost: float = 0.0
    minutes: int = 2
    reversible: bool = True
    cautions: tuple[str, ...] = ()
    hour: float | None = None
    silence: str | None = None
