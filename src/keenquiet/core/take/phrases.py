"""Phrases and pauses of a take, to a tenth of a second."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import BoolArray, FloatArray

BLOCK_S: Final = 0.1
_UNDER_LOUD_DB: Final = 22.0
_OVER_QUIET_DB: Final = 8.0
_JOINED: Final = 2  # blocks between syllables
_LEAST: Final = 2


@dataclass(frozen=True)
class Span:
    """From and to. [s]"""

    start_s: float
    end_s: float

    @property
    def seconds(self) -> float:
        """Length. [s]"""
        return self.end_s - self.start_s


def phrases_of(levels_dba: FloatArray) -> tuple[Span, ...]:
    """Stretches in which somebody sounds. levels_dba : A-weighted, of each tenth of a second, (n,). [dBFS]

    Nothing where loud and quiet hardly differ: a drone has no phrases.
    """
    if len(levels_dba) < 5:
        return ()
    loud, quiet = (float(np.percentile(levels_dba, share)) for share in (90, 5))
    if loud - quiet < _OVER_QUIET_DB:
        return ()
    sounds: BoolArray = np.asarray(levels_dba > max(loud - _UNDER_LOUD_DB, quiet + _OVER_QUIET_DB))
    sounds = scipy.ndimage.binary_closing(sounds, np.ones(_JOINED + 1, dtype=bool))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], sounds.astype(int), [0]])))
    return tuple(
        Span(float(start) * BLOCK_S, float(end) * BLOCK_S)
        for start, end in zip(edges[::2], edges[1::2], strict=True)
        if end - start >= _LEAST
    )


def between(phrases: tuple[Span, ...], *, least_s: float, clear_s: float) -> tuple[Span, ...]:
    """Pauses between phrases, clear_s away from what rings on before them; those of least_s and more."""
    found = []
    for one, other in pairwise(phrases):
        start, end = one.end_s + clear_s, other.start_s - 0.1
        if end - start >= least_s:
            found.append(Span(start, end))
    return tuple(found)
