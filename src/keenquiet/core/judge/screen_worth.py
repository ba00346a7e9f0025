"""What each screen of an arrangement is worth: with it against without it, everything else as it stands."""

from dataclasses import dataclass, replace

import numpy as np

from keenquiet.core.bands import MID_OCTAVES
from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.scenario import is_body
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.reverberant import place_bounce_db
from keenquiet.core.waves.screens import colour_db, screened
from keenquiet.core.waves.statistics import decay


@dataclass(frozen=True)
class ScreenWorth:
    """bounce_db : what it wins in direct over room, all told. room_fed_db, gathered_db : what it takes from what the
    performer feeds the room, and from what the room feeds the microphone; colour_db : the comb that it adds. [dB]
    """

    kind: str
    bounce_db: float
    room_fed_db: float
    gathered_db: float
    colour_db: float


def screen_worths(room: Room, arrangement: Arrangement, *, bounce_db: float) -> list[ScreenWorth]:
    """Every screen in turn, in the arrangement's order. room : as it sounds with all of them (`Scenario.described`).

    bounce_db : direct over room with all of them. [dB]
    """
    # those that are large enough to be bodies stand among the furniture, in their order
    there = iter([i for i, piece in enumerate(room.furnishings) if piece.kind.key.startswith("screen-")])
    bodies = [next(there) if is_body(screen) else None for screen in arrangement.screens]
    found = []
    for number, screen in enumerate(arrangement.screens):
        rest = tuple(other for i, other in enumerate(arrangement.screens) if i != number)
        without = replace(arrangement, screens=rest)
        pieces = tuple(piece for i, piece in enumerate(room.furnishings) if i != bodies[number])
        bare = replace(room, furnishings=pieces)
        before = place_bounce_db(bare, without, decay=decay(bare))
        alone = screened(replace(arrangement, screens=(screen,)))
        found.append(
            ScreenWorth(
                kind=screen.kind,
                bounce_db=bounce_db - before,
                room_fed_db=_mid_db(alone.fed),
                gathered_db=_mid_db(alone.gathered),
                colour_db=colour_db(screen, arrangement),
            )
        )
    return found


def _mid_db(share: FloatArray) -> float:
    return float(10 * np.log10(np.mean(share[MID_OCTAVES])))
