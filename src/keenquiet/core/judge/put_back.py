"""Is everybody back where they stood? Two sweeps of one place, or one spoken line twice, before everything was cleared
away and after.

The first returns of a sweep are the place's own fingerprint: each is as late as its way is longer, so 5 cm show as
0.15 ms. Direct over room tells the distance between mouth and microphone, the decay whether the room is as it was. A
clap is never twice the same: its own few milliseconds hide first returns (two of the rig's share one of six), so it
proves nothing. A spoken line proves level, and by bass and treble why it is another.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.types import FloatArray

# a tape put back to a centimetre changes a way by two, 0.06 ms; 3 and 5 cm change most ways by more than this (three of
# the rig's rooms; the same sweep again differs by 0.02 ms and 0.00 dB)
SAME_MS: Final = 0.1
SAME_DB: Final = 1.0
SAME_DECAY: Final = 0.15
SAME_LEVEL_DB: Final = 2.0  # nobody says a line twice more alike than that; the rig's voice differs by 1.8 dB
_BASS_DB: Final = 1.0
_TREBLE_DB: Final = 2.0
_LEAST_SHARED: Final = 0.6
_STRONGEST: Final = 6


@dataclass(frozen=True)
class Trace:
    """What a response keeps of its place. bounce_db : direct over room; early : delay [ms] and level [dB] of first
    returns; mid_s : decay in the middle. None where it cannot be told.
    """

    bounce_db: float | None
    early: tuple[tuple[float, float], ...]
    mid_s: float | None


@dataclass(frozen=True)
class PutBack:
    """shared, of : how many of the strongest first returns came at the same time. bounce_db, level_db, decay_share :
    changes, None where they cannot be told.

    moved : keys of what is not as it was: `nearer`, `further`, `elsewhere`, `livelier`, `drier`, `louder`, `softer`,
    `turned`; empty when all is.
    """

    shared: int
    of: int
    moved: tuple[str, ...]
    bounce_db: float | None = None
    decay_share: float | None = None
    level_db: float | None = None

    @property
    def proved(self) -> bool:
        """Whether everything that could be told is as it was, and something could be told."""
        return not self.moved and (self.of > 0 or self.level_db is not None)


def put_back(then: Trace, now: Trace) -> PutBack:
    """Hold the newer trace against the older one."""
    strongest = sorted(then.early, key=lambda one: -one[1])[:_STRONGEST]
    shared = sum(_comes_back(delay, now.early) for delay, _ in strongest)
    bounce = None if then.bounce_db is None or now.bounce_db is None else now.bounce_db - then.bounce_db
    decay = None if not then.mid_s or not now.mid_s else now.mid_s / then.mid_s - 1
    moved: list[str] = []
    changed_room = decay is not None and abs(decay) > SAME_DECAY
    if changed_room and decay is not None:
        moved.append("livelier" if decay > 0 else "drier")
    # a room that answers more or less explains as much of direct over room as its decay has changed
    left = None if bounce is None else bounce + (10 * np.log10(1 + decay) if decay is not None else 0.0)
    if left is not None and abs(left) > SAME_DB:
        moved.append("nearer" if left > 0 else "further")
    elif strongest and shared < _LEAST_SHARED * len(strongest):
        moved.append("elsewhere")
    return PutBack(shared, len(strongest), tuple(moved), bounce_db=bounce, decay_share=decay)


def line_back(louder_db: float, centres_hz: FloatArray, difference_db: FloatArray) -> PutBack:
    """One spoken line twice. louder_db : the second over the first. difference_db : by third octave once made equally
    loud, (n,). Nearer is louder with more bass, for closeness lifts it; turned away is duller.
    """

    def mean(low: float, high: float) -> float:
        inside = difference_db[(centres_hz >= low) & (centres_hz <= high)]
        return float(np.mean(inside)) if len(inside) else 0.0

    middle = mean(500, 2000)
    bass, treble = mean(80, 200) - middle, mean(4000, 8000) - middle
    moved: list[str] = []
    if abs(louder_db) > SAME_LEVEL_DB:
        with_bass = bass * np.sign(louder_db) > _BASS_DB
        moved.append(
            ("nearer" if louder_db > 0 else "further") if with_bass else "louder" if louder_db > 0 else "softer"
        )
    if abs(treble) > _TREBLE_DB:
        moved.append("turned")
    return PutBack(0, 0, tuple(moved), level_db=louder_db)


def _comes_back(delay_ms: float, early: Sequence[tuple[float, float]]) -> bool:
    return any(abs(delay_ms - other) <= SAME_MS for other, _ in early)
