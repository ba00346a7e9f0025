"""Moves against noise: switch it off, or record when it rests."""

from collections.abc import Iterator

import numpy as np

from keenquiet.core.judge.candidate import MAINS_CAUTION, Candidate, Limits
from keenquiet.core.room.room import Arrangement, Room


def quiet(room: Room, arrangement: Arrangement, limits: Limits) -> Iterator[Candidate]:
    """Noises inside that can be switched off, and the next hour at which what runs now has stopped."""
    for noise in room.noises:
        if noise.kind == "inside" and noise.runs_at(limits.hour):
            yield Candidate(
                "silence",
                f"Keep {_the(noise.name)} out of it: off, or in the next room",
                "It is the noise you have in your own hands.",
                arrangement,
                minutes=3,
                cautions=(MAINS_CAUTION,),
                silence=noise.name,
            )
    if limits.hour is not None:
        here = [noise for noise in room.noises if noise.hours and noise.runs_at(limits.hour)]
        if here:
            quiet_hours = [h for h in np.arange(9.0, 21.5, 0.25) if not any(n.runs_at(float(h)) for n in here)]
            if not quiet_hours:
                loudest = max(here, key=lambda n: float(n.level_db.max()))
                here = [loudest]
                quiet_hours = [h for h in np.arange(9.0, 21.5, 0.25) if not loudest.runs_at(float(h))]
            if quiet_hours:
                hour = float(quiet_hours[0])
                yield Candidate(
                    "hour",
                    f"Record after {int(hour):02d}:{int(hour % 1 * 60):02d}",
                    f"{' and '.join(n.name for n in here)} will have stopped by then.",
                    arrangement,
                    minutes=1,
                    hour=hour,
                )


def _the(name: str) -> str:
    return f"the {name[0].lower()}{name[1:]}"
