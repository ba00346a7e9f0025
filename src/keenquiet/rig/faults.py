"""What goes wrong when people record: faults the rig can be told to make, so that the verdict can be met before it
matters.
"""

from collections.abc import Callable
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray

RATE_HZ: Final = 48_000
SWAY_M: Final = 0.12
_SWAY_S: Final = 2.6

Fault = Callable[[FloatArray, np.random.Generator], FloatArray]

# name -> what a person would call it
FAULTS: Final = {
    "gain-too-high": "Gain too high",
    "fan-on": "A fan left on",
    "window-open": "The window open to the street",
    "moving": "Moving during the recording",
    "door-slam": "A door slams",
    "auto-gain": "Automatic gain on",
    "noise-suppression": "Noise suppression on",
    "drop-out": "The computer loses a moment",
    "stopped-early": "Stopped too early",
    "left-empty": "Left channel not plugged in",
}
GAIN_TOO_HIGH_DB: Final = 24.0
IN_THE_AIR: Final = frozenset({"fan-on", "window-open", "moving", "door-slam"})


def in_the_air(pressure: FloatArray, faults: tuple[str, ...], rng: np.random.Generator, *, unit: float) -> FloatArray:
    """Faults that happen in the room, before the microphone. unit : amplitude of 0 dB sound pressure level. (n,) ->
    (n,)
    """
    n = len(pressure)
    t = np.arange(n) / RATE_HZ
    if "fan-on" in faults:
        blades = sum(
            10 ** (level / 20) * np.sin(2 * np.pi * 31.0 * k * t + rng.uniform(0, 6.28))
            for k, level in ((3, 46), (6, 40), (9, 34))
        )
        rush = _noise(n, rng, 120, 2500) * 10 ** (44 / 20)
        pressure = pressure + unit * (blades * np.sqrt(2) + rush)
    if "window-open" in faults:
        street = _noise(n, rng, 40, 1500) * 10 ** (47 / 20)
        at = rng.uniform(0.35, 0.65) * n / RATE_HZ
        passing = _noise(n, rng, 60, 3000) * 10 ** (62 / 20) * np.exp(-(((t - at) / 0.8) ** 2))
        pressure = pressure + unit * (street + passing)
    if "door-slam" in faults:
        at = rng.uniform(0.35, 0.6) * n / RATE_HZ
        since = np.maximum(t - at, 0)
        thump = np.sin(2 * np.pi * 74 * since) * np.exp(-since / 0.07) + 0.5 * rng.standard_normal(n) * np.exp(
            -since / 0.03
        )
        pressure = pressure + unit * 10 ** (88 / 20) * thump * (t >= at)
    return pressure


def swaying(dry: FloatArray, wet: FloatArray, there: FloatArray, late_s: float) -> FloatArray:
    """Somebody sways with the microphone: the way from the source grows and shrinks, and what the room adds changes.

    wet : dry sound through the response where the sway begins, (n,). there : response at its far end, direct sound at
    the same sample. late_s : how much later the direct sound comes there.
    """
    n = len(wet)
    part = (1 - np.cos(2 * np.pi * np.arange(n) / RATE_HZ / _SWAY_S)) / 2
    mixed = (1 - part) * wet + part * scipy.signal.oaconvolve(dry, there)[:n]
    moved: FloatArray = scipy.ndimage.map_coordinates(
        mixed, [np.arange(n) - part * late_s * RATE_HZ], order=3, mode="nearest"
    )
    return moved


def in_the_chain(samples: FloatArray, faults: tuple[str, ...], rng: np.random.Generator) -> FloatArray:
    """Faults of microphone input and computer. (n,) -> (m,), or (2, m) when there are two channels."""
    if "auto-gain" in faults:
        samples = _auto_gain(samples)
    if "noise-suppression" in faults:
        samples = _suppressed(samples)
    if "drop-out" in faults:
        at = int(rng.uniform(0.45, 0.6) * len(samples))
        samples = np.delete(samples, np.s_[at : at + int(0.035 * RATE_HZ)])
    if "stopped-early" in faults:
        samples = samples[: int(0.5 * len(samples))]
    if "left-empty" in faults:
        samples = np.stack([np.zeros(len(samples)), samples])
    return samples


def _noise(n: int, rng: np.random.Generator, low_hz: float, high_hz: float) -> FloatArray:
    """Noise between two frequencies, RMS 1."""
    sos = scipy.signal.butter(1, [low_hz, high_hz], btype="bandpass", fs=RATE_HZ, output="sos")
    noise: FloatArray = scipy.signal.sosfilt(sos, rng.standard_normal(n))
    return noise / np.std(noise)


def _auto_gain(samples: FloatArray) -> FloatArray:
    """Gain that holds the level near -20 dBFS: down within 0.05 s, up within a second, at most 30 dB up."""
    block = RATE_HZ // 100
    blocks = samples[: len(samples) // block * block].reshape(-1, block)
    level = 10 * np.log10(np.maximum(np.mean(blocks**2, axis=1), 1e-12))
    gain, held = np.empty(len(level)), 30.0
    for i, now_db in enumerate(level):  # a hundred steps a second: a recursion, no sum
        wished = float(np.clip(-20.0 - now_db, -20.0, 30.0))
        held += (wished - held) * (0.2 if wished < held else 0.01)
        gain[i] = held
    smooth = np.interp(np.arange(len(samples)), (np.arange(len(gain)) + 0.5) * block, gain)
    limited: FloatArray = np.clip(samples * 10 ** (smooth / 20), -0.98, 0.98)
    return limited


def _suppressed(samples: FloatArray) -> FloatArray:
    """A gate: what lies less than 20 dB over the quietest tenth is turned to nothing."""
    block = RATE_HZ // 50
    blocks = samples[: len(samples) // block * block].reshape(-1, block)
    level = 10 * np.log10(np.maximum(np.mean(blocks**2, axis=1), 1e-12))
    open_ = (level > np.percentile(level, 10) + 20).astype(float)
    shape = np.repeat(scipy.ndimage.maximum_filter1d(open_, 3), block)
    gated: FloatArray = samples[: len(shape)] * shape
    return gated
