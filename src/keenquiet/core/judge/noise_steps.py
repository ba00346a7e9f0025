"""Noises in the order in which they spoil takes: what steps up and down before what stays.

A take hides what is steady; a step in the middle of it, or between two that are to be cut together, is heard.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.room.room import NoiseSource
from keenquiet.core.waves.noise_at import NoiseAt

STEP_WARNS_DB: Final = 2.0


@dataclass(frozen=True)
class Step:
    """One noise at the microphone. level_dba : while it sounds. share : of the power of what goes on, None for what
    only passes. step_db : by how much the whole rises when it comes, None for what goes on. way : `steady`, `cycles`,
    `passes`.
    """

    name: str
    level_dba: float
    share: float | None
    step_db: float | None
    way: str

    @property
    def warns(self) -> bool:
        """Whether its coming and going is heard."""
        return self.step_db is not None and self.step_db >= STEP_WARNS_DB


def ranked_steps(noise: NoiseAt, sources: Sequence[NoiseSource]) -> tuple[Step, ...]:
    """Noises that sound now: those whose step is heard first, by the step, then the rest by level."""
    cycles = {source.name: source for source in sources if source.cycle is not None}
    going = {name: 10 ** (db / 10) for name, db in noise.by_source_dba.items()}
    whole = sum(going.values())
    found = []
    for name, level in {**noise.by_source_dba, **noise.passing_dba}.items():
        own = 10 ** (level / 10)
        passes = name in noise.passing_dba
        rest = whole if passes else max(whole - own, 1e-12)
        step = 10 * float(np.log10((rest + own) / rest)) if name in cycles else None
        way = "passes" if passes else "cycles" if name in cycles else "steady"
        found.append(Step(name, level, None if passes else own / whole, step, way))
    return tuple(sorted(found, key=lambda s: (not s.warns, -(s.step_db or 0.0) if s.warns else 0.0, -s.level_dba)))
