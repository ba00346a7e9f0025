"""A simulated performer with a truth beside: what is sung, the room it rings in, and the noise under it, kept apart so
that each can be spoiled by itself. Always simulated.

In a small room of its own, of noise that dies away, or in a room as drawn, by the rig's response of it.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np
import scipy

from keenquiet.core.types import FloatArray
from keenquiet.rig.voice import RATE_HZ, pinkish, sung_line

_PEAK: Final = 0.35
_FLOOR_DB: Final = -62.0  # of room and recorder under the phrases' level
_OWN_T60_S: Final = 0.2
_OWN_ROOM_DB: Final = -14.0
_DIRECT_S: Final = 0.0015  # after the first sound, which nothing has come back in yet


@dataclass(frozen=True)
class Flaw:
    """A fault that is there: kind as in a take's findings, from and to [s], its size in the finding's unit."""

    kind: str
    start_s: float
    end_s: float
    size: float = 0.0


@dataclass
class Take:
    """dry, room, floor : direct sound, what the room adds, noise, all at the microphone, (n,). phrases : from and to of
    each [s]. flaws : the truth. chain : what the recorder got where that is more than their sum, (n,) or (2, n).
    reference, backing : another take of the same line, the song in the headphones, where the fault needs one.
    distance_m : from mouth to microphone.
    """

    dry: FloatArray
    room: FloatArray
    floor: FloatArray
    phrases: list[tuple[float, float]]
    flaws: list[Flaw] = field(default_factory=list)
    chain: FloatArray | None = None
    reference: FloatArray | None = None
    backing: FloatArray | None = None
    distance_m: float = 0.3

    @property
    def samples(self) -> FloatArray:
        """What the recorder got, (n,) or (2, n)."""
        return self.dry + self.room + self.floor if self.chain is None else self.chain

    @property
    def seconds(self) -> float:
        """Length. [s]"""
        return len(self.dry) / RATE_HZ

    @property
    def loud(self) -> float:
        """Root mean square of the phrases."""
        parts = [self.samples[..., int(a * RATE_HZ) : int(b * RATE_HZ)].ravel() for a, b in self.phrases]
        return float(np.sqrt(np.mean(np.concatenate(parts) ** 2)))

    def flawed(self, *flaws: Flaw) -> "Take":
        """The same with more to its truth."""
        return replace(self, flaws=[*self.flaws, *flaws])


def sung_take(
    *,
    seed: int,
    phrases: int = 6,
    lowest_hz: float = 196.0,
    breathy: float = 0.0,
    floor_db: float = _FLOOR_DB,
    instrument: str = "voice",
    loud_db: tuple[float, ...] = (0.0,),
) -> Take:
    """A take without a fault, in a small room of its own.

    breathy : share of breath in the voice, 1 is a whisper. floor_db : noise under it. loud_db : of each phrase in turn.
    """
    rng = np.random.default_rng(seed)
    line = sung_line(rng, phrases=phrases, lowest_hz=lowest_hz, breathy=breathy, instrument=instrument, loud_db=loud_db)
    dry = line.dry * _PEAK / np.max(np.abs(line.dry))
    take = Take(dry, ringing(dry, rng, t60_s=_OWN_T60_S, level_db=_OWN_ROOM_DB), np.zeros(len(dry)), line.phrases)
    return replace(take, floor=pinkish(rng, len(dry)) * take.loud * 10 ** (floor_db / 20))


def ringing(dry: FloatArray, rng: np.random.Generator, *, t60_s: float, level_db: float) -> FloatArray:
    """What a room adds that fades so: noise that dies away, of so much energy against the direct sound, (n,)."""
    t = np.arange(int(1.25 * t60_s * RATE_HZ)) / RATE_HZ
    tail = rng.standard_normal(len(t)) * 10 ** (-3 * t / t60_s) * (t > 0.003)
    tail *= 10 ** (level_db / 20) / np.sqrt(np.sum(tail**2))
    wet: FloatArray = scipy.signal.oaconvolve(dry, tail)[: len(dry)]
    return wet


def sung_through(
    impulse: FloatArray,
    noise: Callable[[int], FloatArray],
    *,
    seed: int,
    rms: float,
    distance_m: float,
    **line: float | str,
) -> Take:
    """A take without a fault in a room. impulse : (n,), performer to microphone, free field at 1 m is 1. noise : of the
    room and the recorder, (n,), by its length. rms : of the performance at 1 m. line : as `voice.sung_line` takes it.
    """
    rng = np.random.default_rng(seed)
    sung = sung_line(rng, **{"phrases": 6, "lowest_hz": 196.0, **line})  # type: ignore[arg-type]
    inside = np.concatenate([sung.dry[int(a * RATE_HZ) : int(b * RATE_HZ)] for a, b in sung.phrases])
    dry = sung.dry * rms / float(np.sqrt(np.mean(inside**2)))
    first = int(np.argmax(np.abs(impulse) > 0.3 * np.max(np.abs(impulse))))
    fade = np.clip((first + _DIRECT_S * RATE_HZ - np.arange(len(impulse))) / (0.0005 * RATE_HZ) + 1, 0, 1)
    direct, rest = (scipy.signal.oaconvolve(dry, part)[: len(dry)] for part in (impulse * fade, impulse * (1 - fade)))
    return Take(direct, rest, noise(len(dry)), sung.phrases, distance_m=distance_m)
