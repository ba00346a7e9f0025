"""What belongs to the direct sound and what to the room: one rule for predictions and readings.

What arrives within 2.5 ms is not heard as room: the ear fuses it with the direct sound, and a microphone records both
as one coloured sound. It adds to the direct sound by amplitude, so the octave's energy rises or falls with the delay.
How strong and how early it is stays told by the list of paths and the strongest early reflection.
"""

from typing import Final

import numpy as np

from keenquiet.core.bands import band_edges_hz, exact_octaves_hz
from keenquiet.core.types import FloatArray

DIRECT_WINDOW_S: Final = 0.0025
_LEAST: Final = 0.05  # of the direct sound's own energy: no octave is cancelled altogether in a real room


def direct_and_room(energy: FloatArray, later_s: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Energy of the direct sound with what fuses with it, and of the other arrivals, each (..., 8), direct sound alone
    being 1. [-]

    energy : (..., n, 8) of each arrival relative to the direct sound. later_s : (..., n) its delay after it. [s]
    The mean of cos(2 pi f t) over an octave is taken in closed form.
    """
    fused = (later_s <= DIRECT_WINDOW_S)[..., None]
    low, high = band_edges_hz(exact_octaves_hz(), fraction=1)
    added = np.zeros(np.broadcast_shapes(energy.shape, fused.shape))
    near = np.broadcast_to(fused[..., 0], added.shape[:-1])  # few: sines are taken of them alone
    later = 2 * np.pi * np.maximum(np.broadcast_to(later_s, near.shape)[near], 1e-7)[:, None]
    in_step = (np.sin(high * later) - np.sin(low * later)) / (later * (high - low))
    its = np.broadcast_to(energy, added.shape)[near]
    added[near] = its + 2 * np.sqrt(its) * in_step
    direct: FloatArray = np.maximum(1 + added.sum(axis=-2), _LEAST)
    room: FloatArray = np.where(fused, 0.0, energy).sum(axis=-2)
    return direct, room
