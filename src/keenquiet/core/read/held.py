"""Does a tone hold on, as machines do, or fade, as what was sung, bowed or plucked does?"""

from typing import Final

import numpy as np

from keenquiet.core.types import FloatArray

_BLOCK_S: Final = 0.25
_ALIKE_DB: Final = 4.0
_SHARE: Final = 0.4  # of the time near its loudest: what is on for part of a recording still is a machine's
_LEAST_BLOCKS: Final = 3


def holds(runs: list[FloatArray], sample_rate_hz: float, f_hz: float) -> bool:
    """Whether a tone stays at its level for two fifths of the time or more. runs : stretches of sound, (n,) each.

    Mixed down by its own frequency and averaged over a quarter of a second; too short to tell counts as held.
    """
    block = round(_BLOCK_S * sample_rate_hz)
    levels = [_levels_db(run[: len(run) // block * block].reshape(-1, block), sample_rate_hz, f_hz) for run in runs]
    level = np.concatenate(levels) if levels else np.zeros(0)
    if len(level) < _LEAST_BLOCKS:
        return True
    top = np.percentile(level, 90)
    return bool(np.mean(level > top - _ALIKE_DB) >= _SHARE)


def _levels_db(blocks: FloatArray, sample_rate_hz: float, f_hz: float) -> FloatArray:
    """Level of the tone in each block, (n_blocks,). [dBFS]"""
    turning = np.exp(-2j * np.pi * f_hz * np.arange(blocks.shape[1]) / sample_rate_hz) * np.hanning(blocks.shape[1])
    amplitude = 2 * np.abs(blocks @ turning) / np.sum(np.hanning(blocks.shape[1]))
    levels: FloatArray = 20 * np.log10(amplitude / np.sqrt(2) + 1e-12)
    return levels
