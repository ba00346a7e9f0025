"""Words of making frames: tools, steps, and the caution at each."""

from typing import Final

from keenquiet.advice.costs import CAUTIONS
from keenquiet.core.make.frames import Fixing

TOOLS: Final = (
    "tape, pencil, square",
    "saw (or have the boards cut where you buy them)",
    "screwdriver or drill, 4 mm bit",
    "stapler with 8 mm staples",
    "long knife for the wool",
    "scissors",
)
STEPS: Final[tuple[tuple[str, tuple[str, ...]], ...]] = (
    ("Cut the boards by the list, longest first; lay each bar's pieces together before you cut the next.", ()),
    ("Drill, glue and screw two posts and two rails to each frame; measure both diagonals: alike, it is square.", ()),
    ("Cut the batts a centimetre larger than the opening, press them in dry and without gaps.", ("fibre",)),
    (
        "Lay cloth on the floor, the frame on it; staple the middle of each side, then outwards, corners last. "
        "You must be able to breathe through the cloth: what stops breath stops sound.",
        (),
    ),
    ("Staple thin cloth over the back, so that no fibre falls out.", ("fibre",)),
)
_FIXED: Final = ("Hold a frame up with a second pair of hands, mark, look for cables, then fix.", ("wall", "fire"))
_STOOD: Final = ("Stand the frames on feet or on furniture, strapped so that they cannot tip.", ("tip", "fire"))
_OVERHEAD: Final = ("Fix overhead frames into joists, with a second line each.", ("overhead", "wall"))
FIRE_RATING: Final = "Use mineral wool and cloth sold with a fire rating; keep frames off doors, vents and the way out."
LANDLORD: Final = "Rented? Ask before you drill, keep the screws' holes small, and note where they are for moving out."
UNKNOWN_WALL: Final = "Nobody has said what the wall is: it is taken as the weaker, a hollow one."


def steps(*, fixed: bool, overhead: bool) -> list[tuple[str, tuple[str, ...]]]:
    """In their order, with the keys of their cautions."""
    return [*STEPS, _FIXED if fixed else _STOOD, *([_OVERHEAD] if overhead else [])]


def caution_texts(keys: tuple[str, ...]) -> list[str]:
    """Cautions in full."""
    return [CAUTIONS[key] for key in keys]


def fixing_words(found: Fixing) -> str:
    """How a frame is held."""
    kind = "rated hooks and a second line" if found.frame.overhead else "screws with plugs"
    load = f"{found.load_kg:.1f} kg on each, trusted with {found.holds_kg:.0f} kg"
    return f"{found.frame.name}: {found.count} {kind}, {load}."
