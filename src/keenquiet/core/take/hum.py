"""Hum in the pauses of a take: the mains and all its harmonics are one thing, told once."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Final

import numpy as np

from keenquiet.core.bands import a_weighting_db, sum_db
from keenquiet.core.read.held import holds
from keenquiet.core.read.parts import power_density
from keenquiet.core.read.tone import by_family, find_tones
from keenquiet.core.take.finding import Finding
from keenquiet.core.types import BoolArray, FloatArray

_BLOCK_S: Final = 0.1
_HUM_OVER_FLOOR_DB: Final = 15.0
_NEARBY_S: Final = 10.0
_MOST_PARTS: Final = 12
_UNDER_DB: Final = 65.0


def hums(
    channels: Sequence[FloatArray],
    sample_rate_hz: float,
    floor: float,
    pauses: BoolArray,
    block: int,
    *,
    active_dba: float,
) -> list[Finding]:
    """Hum in the pauses of each part of a take, told once with the parts that it fills: its strongest harmonic, and
    the level of all together. What lies A-weighted 65 dB under the performance is not heard, not even squeezed.

    active_dba : level of the performance, A-weighted. [dBFS]
    """
    parts = max(min(int(len(pauses) * _BLOCK_S / _NEARBY_S), _MOST_PARTS), 1)
    edges = np.linspace(0, len(pauses), parts + 1).astype(int)
    seen: dict[float, list[tuple[int, float]]] = {}
    for channel in channels:
        for part, (first, last) in enumerate(pairwise(edges)):
            quiet = in_blocks(channel[first * block : last * block], block, pauses[first:last])
            if len(quiet) <= sample_rate_hz:
                continue
            f_hz, density = power_density(quiet, sample_rate_hz, segment=int(sample_rate_hz))
            tones = by_family(find_tones(f_hz, density))
            for tone in tones[:3]:
                # what fades in each pause is the end of a note, whatever its pitch
                if (
                    tone.kind == "hum"
                    and tone.level_db > floor - _HUM_OVER_FLOOR_DB
                    and holds([quiet], sample_rate_hz, tone.f_hz)
                ):
                    name = next((f for f in seen if abs(f - tone.f_hz) < 1.5), tone.f_hz)
                    seen.setdefault(name, []).append((part, tone.level_db))
    if not seen:
        return []
    where = [part for found in seen.values() for part, _ in found]
    loudest = np.array([max(level for _, level in found) for found in seen.values()])
    if sum_db(loudest + a_weighting_db(np.array(list(seen)))) < active_dba - _UNDER_DB:
        return []
    first, last = (float(edges[at] * _BLOCK_S) for at in (min(where), max(where) + 1))
    return [Finding("hum", first, last, float(sum_db(loudest)), "dBFS", 0.7, list(seen)[int(np.argmax(loudest))])]


def in_blocks(samples: FloatArray, block: int, chosen: BoolArray) -> FloatArray:
    """The samples of the chosen blocks, one after another."""
    return samples[: len(chosen) * block].reshape(-1, block)[chosen].ravel()
