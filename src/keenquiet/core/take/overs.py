"""Peaks cut off, and when: by the converter at full scale, or flat before it at whatever level."""

from typing import Final

import numpy as np

from keenquiet.core.read.quality import flat_tops
from keenquiet.core.take.finding import Finding
from keenquiet.core.types import BoolArray, FloatArray

_FULL: Final = 0.9995
_APART_S: Final = 0.5  # runs nearer than that are one place
_WINDOW_S: Final = 1.0
_NEAR_TOP: Final = 0.97


def clipped_runs(channels: tuple[FloatArray, ...], sample_rate_hz: float) -> list[Finding]:
    """Places where two samples and more stand at full scale, (start, end, how many)."""
    at: list[int] = []
    for channel in channels:
        over: BoolArray = np.asarray((channel >= _FULL) | (channel <= -_FULL))
        inside = np.flatnonzero(over[1:] & over[:-1] & (np.abs(np.diff(channel)) < 1e-3))
        at += inside.tolist()
    if len(at) < 2:
        return []
    order = np.unique(at)
    breaks = np.flatnonzero(np.diff(order) > _APART_S * sample_rate_hz) + 1
    return [
        Finding(
            "clipped",
            float(part[0]) / sample_rate_hz,
            float(part[-1] + 2) / sample_rate_hz,
            float(len(part) + 1),
            "samples",
            0.99,
        )
        for part in np.split(order, breaks)
    ]


def flat_places(channels: tuple[FloatArray, ...], sample_rate_hz: float, *, true_peak_db: float) -> list[Finding]:
    """Where tops are cut flat: windows of a second that reach the ceiling and are flat there, joined."""
    found: list[Finding] = []
    for channel in channels:
        if not flat_tops(channel, sample_rate_hz):
            continue
        window = round(_WINDOW_S * sample_rate_hz)
        ceiling = float(np.max(np.abs(channel)))
        flat = [
            first
            for first in range(0, max(len(channel) - window, 1), window // 2)
            if np.max(np.abs(channel[first : first + window])) >= _NEAR_TOP * ceiling
            and flat_tops(channel[first : first + window], sample_rate_hz)
        ]
        if not flat:
            found.append(Finding("flat_top", 0.0, len(channel) / sample_rate_hz, true_peak_db, "dBFS", 0.8))
            continue
        groups = np.split(np.array(flat), np.flatnonzero(np.diff(flat) > window) + 1)
        found += [
            Finding(
                "flat_top",
                float(group[0]) / sample_rate_hz,
                float(group[-1] + window) / sample_rate_hz,
                true_peak_db,
                "dBFS",
                0.8,
            )
            for group in groups
        ]
        break
    return found
