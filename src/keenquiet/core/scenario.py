"""A scenario: everything that a forecast rests on. Room, arrangement, hour, what is switched off, gain."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Final

import numpy as np

from keenquiet.core.room.furnishings import Furnishing, Kind
from keenquiet.core.room.room import Arrangement, NoiseSource, Room, Screen
from keenquiet.core.room.ways import Seal, change_db

_SCREEN_DEPTH_M: Final = 0.06
_BLOCKS_M: Final = 0.4  # what is smaller lets all but the top of the voice pass round it


@dataclass(frozen=True)
class Scenario:
    """A room as it is used.

    room : without what the arrangement hangs in it. hour : local time for noises, None any. [h]
    silenced : names of noises that are off. gain_db : recorder's gain against the usual. [dB] weekday : Monday 0, None
    any. sealed : ways in that are closed.
    """

    room: Room
    arrangement: Arrangement
    hour: float | None = None
    silenced: tuple[str, ...] = ()
    gain_db: float = field(default=0.0)
    weekday: int | None = None
    sealed: tuple[Seal, ...] = ()

    @cached_property
    def described(self) -> Room:
        """The room as it sounds: treatments on its faces, screens standing in it, what is off left out.

        A screen is a body among the furniture: it blocks and mirrors paths and adds its absorption; one smaller than
        40 cm is none. What it takes from the late field close to a mouth or a capsule is counted in `waves.screens`.
        """
        room = self.room
        if self.silenced or self.weekday is not None or self.sealed:
            room = replace(room, noises=tuple(self._sounding()))
        bodies = [screen for screen in self.arrangement.screens if is_body(screen)]
        if bodies:
            standing = tuple(_body(screen) for screen in bodies)
            room = replace(room, furnishings=(*room.furnishings, *standing))
        return room.with_overlays(self.arrangement.treatments)

    def _sounding(self) -> Iterator[NoiseSource]:
        """Noises that are not off, as the weekday has them, and as much as closed ways let in."""
        for noise in self.room.noises:
            if noise.name in self.silenced:
                continue
            today = noise if self.weekday is None else noise.on(self.weekday)
            if today is None:
                continue
            if self.sealed and today.kind == "outside" and today.surface is not None:
                less = change_db(self.room.ways, self.sealed, today.surface)
                today = replace(today, level_db=today.level_db + less)
            yield today


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
