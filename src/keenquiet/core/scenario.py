"""A scenario: everything that a forecast rests on. Room, arrangement, hour, what is switched off, gain."""

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Final

import numpy as np

from keenquiet.core.room.furnishings import Furnishing, Kind
from keenquiet.core.room.room import Arrangement, Room, Screen

_SCREEN_DEPTH_M: Final = 0.06
_BLOCKS_M: Final = 0.4  # what is smaller lets all but the top of the voice pass round it


@dataclass(frozen=True)
class Scenario:
    """A room as it is used.

    room : without what the arrangement hangs in it. hour : local time for noises, None any. [h]
    silenced : names of noises that are off. gain_db : recorder's gain against the usual. [dB]
    """

    room: Room
    arrangement: Arrangement
    hour: float | None = None
    silenced: tuple[str, ...] = ()
    gain_db: float = field(default=0.0)

    @cached_property
    def described(self) -> Room:
        """The room as it sounds: treatments on its faces, screens standing in it, what is off left out.

        A screen is a body among the furniture: it blocks and mirrors paths and adds its absorption; one smaller than
        40 cm is none. What it takes from the late field close to a mouth or a capsule is counted in `waves.screens`.
        """
        room = self.room
        if self.silenced:
            room = replace(room, noises=tuple(noise for noise in room.noises if noise.name not in self.silenced))
        bodies = [screen for screen in self.arrangement.screens if is_body(screen)]
        if bodies:
            standing = tuple(_body(screen) for screen in bodies)
            room = replace(room, furnishings=(*room.furnishings, *standing))
        return room.with_overlays(self.arrangement.treatments)


def is_body(screen: Screen) -> bool:
    """Whether a screen is large enough to stand in the way."""
    return min(screen.width_m, screen.height_m) >= _BLOCKS_M


def _body(screen: Screen) -> Furnishing:
    kind = Kind(
        f"screen-{screen.kind}",
        f"{screen.kind} screen",
        (1.0, _SCREEN_DEPTH_M, 1.0),
        screen.absorption,
        0.1,
        (screen.at[2] / (screen.at[2] + screen.height_m), 1.0),
    )
    # a furnishing's front lies a quarter turn on from its length
    size = (screen.width_m, _SCREEN_DEPTH_M, float(np.round(screen.at[2] + screen.height_m, 6)))
    return Furnishing(kind, (screen.at[0], screen.at[1]), size, screen.faces_deg - 90.0)
