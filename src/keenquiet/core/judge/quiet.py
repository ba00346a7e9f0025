"""Moves against noise: switch it off, or record when it rests."""

from collections.abc import Iterator

import numpy as np

from keenquiet.core.edits import SetHour, Switch
from keenquiet.core.judge.candidate import Candidate
from keenquiet.core.scenario import Scenario


def quiet(scenario: Scenario) -> Iterator[Candidate]:
    """Noises inside that can be switched off, and the next hour at which what runs now has stopped."""
    hour = scenario.hour
    sounding = [noise for noise in scenario.room.noises if noise.name not in scenario.silenced]
    for noise in sounding:
        if noise.kind == "inside" and noise.runs_at(hour):
            yield Candidate("silence", (Switch(noise.name),), facts={"noise": noise.name})
    here = [noise for noise in sounding if noise.hours and noise.runs_at(hour)] if hour is not None else []
    if not here:
        return
    quiet_hours = [h for h in np.arange(9.0, 21.5, 0.25) if not any(n.runs_at(float(h)) for n in here)]
    if not quiet_hours:
        loudest = max(here, key=lambda n: float(n.level_db.max()))
        here = [loudest]
        quiet_hours = [h for h in np.arange(9.0, 21.5, 0.25) if not loudest.runs_at(float(h))]
    if quiet_hours:
        at = float(quiet_hours[0])
        yield Candidate("hour", (SetHour(at),), facts={"hour": at, "resting": tuple(n.name for n in here)})
