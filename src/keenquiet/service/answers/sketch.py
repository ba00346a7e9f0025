"""A reading as a few strokes: what a row of a list draws beside its words."""

from collections.abc import Sequence
from typing import Final

import numpy as np

from keenquiet.service.answers.readings import CurveResult, GlideResult, ResponseResult, Result, TakeResult, ToneResult

_MOST: Final = 32


def sketch(result: Result) -> list[float | None]:
    """Heights from 0 to 1 from left to right, at most 32, None where nothing was found. Empty when there is none.

    Response: decay time by octave; silence: thirds; take: level over time; glide and curve: level by pitch.
    """
    match result:
        case ResponseResult(bands=bands):
            return _scaled([band.decay_s for band in bands], from_zero=True)
        case ToneResult(thirds=thirds):
            return _scaled([third.level_db for third in thirds])
        case TakeResult(blocks_db=blocks):
            return _scaled(_loudest(blocks or []))
        case GlideResult(curve=curve):
            return _scaled(_loudest(curve.rise_db if curve else []))
        case CurveResult(curve=curve):
            return _scaled(_loudest(curve.level_db))


def _loudest(values: Sequence[float | None]) -> list[float | None]:
    """The highest of each of `_MOST` stretches."""
    parts = np.array_split(np.array([np.nan if v is None else v for v in values], dtype=float), _MOST)
    return [float(np.nanmax(part)) if np.any(np.isfinite(part)) else None for part in parts if len(part)]


def _scaled(values: Sequence[float | None], *, from_zero: bool = False) -> list[float | None]:
    known = [value for value in values if value is not None and np.isfinite(value)]
    if len(known) < 2:
        return []
    low, high = 0.0 if from_zero else min(known), max(known)
    span = max(high - low, 1e-9)
    return [None if value is None else round((value - low) / span, 3) for value in values]
