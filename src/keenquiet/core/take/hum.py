"""Hum in the pauses of a take."""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Final

import numpy as np

from keenquiet.core.read.held import holds
from keenquiet.core.read.parts import power_density
from keenquiet.core.read.tone import by_family, find_tones
from keenquiet.core.take.finding import Finding
from keenquiet.core.types import BoolArray, FloatArray

_BLOCK_S: Final = 0.1
_HUM_OVER_FLOOR_DB: Final = 15.0
_NEARBY_S: Final = 10.0
_MOST_PARTS: Final = 12


def hums(
    channels: Sequence[FloatArray], sample_rate_hz: float, floor: float, pauses: BoolArray, block: int
) -> Iterator[Finding]:
    """Hum in the pauses of each part of a take, told once with the parts that it fills."""
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
    for f, where in sorted(seen.items(), key=lambda item: -max(level for _, level in item[1]))[:3]:
        first, last = min(part for part, _ in where), max(part for part, _ in where)
        loudest = max(level for _, level in where)
        yield Finding("hum", float(edges[first] * _BLOCK_S), float(edges[last + 1] * _BLOCK_S), loudest, "dBFS", 0.7, f)


def in_blocks(samples: FloatArray, block: int, chosen: BoolArray) -> FloatArray:
    """The samples of the chosen blocks, one after another."""
    return samples[: len(chosen) * block].reshape(-1, block)[chosen].ravel()
