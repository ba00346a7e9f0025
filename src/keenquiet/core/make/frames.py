"""What frames of mineral wool take: timber lengths, batts, cloth, weight, and what holds them.

Sizes of what is sold, densities and loads are our readings of common ones; a wall that nobody knows is taken as the
weaker: a hollow one.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.make.cutting import Cutting, Stock, cut

TIMBER_MM: Final = (2400.0, 3000.0)  # lengths sold, planed boards
BOARD_MM: Final = 18.0  # thick
BATT_M: Final = (0.6, 1.2)
BATT_LAYER_M: Final = 0.05
CLOTH_WIDE_M: Final = 1.5
_OVERLAP_M: Final = 0.05  # of the cloth behind the frame, on every side
_WOOL_AT_12000: Final = 40.0  # kg/m3 at that flow resistivity, in proportion (our reading of data sheets)
_TIMBER_KG_M3: Final = 500.0
_CLOTH_KG_M2: Final = 0.25
# what one fixing is trusted with, half of what makers state for common plugs (our estimates) [kg]
HOLDS_KG: Final = {"hollow": 5.0, "solid": 12.0}
OVERHEAD_KG: Final = 4.0  # a rated hook in a joist, swinging loads counted in
_SPARE: Final = 2.0  # times the weight


@dataclass(frozen=True)
class Frame:
    """One frame: outer size, thickness and flow resistivity of its wool, whether it hangs overhead, what wall holds it
    (`hollow`, `solid`, None unknown). [m, Pa s/m2]
    """

    name: str
    width_m: float
    height_m: float
    thickness_m: float
    flow_resistivity: float
    overhead: bool = False
    wall: str | None = None

    @property
    def timber_mm(self) -> tuple[float, float, float, float]:
        """Two posts as long as the frame, two rails between them."""
        long, short = sorted((self.height_m, self.width_m), reverse=True)
        return long * 1000, long * 1000, short * 1000 - 2 * BOARD_MM, short * 1000 - 2 * BOARD_MM

    @property
    def kg(self) -> float:
        """Weight with wool, boards as deep as the wool, and cloth."""
        wool = self.width_m * self.height_m * self.thickness_m * _WOOL_AT_12000 * self.flow_resistivity / 12_000
        timber = sum(self.timber_mm) / 1000 * BOARD_MM / 1000 * self.thickness_m * _TIMBER_KG_M3
        return wool + timber + 2 * self.width_m * self.height_m * _CLOTH_KG_M2

    @property
    def layers(self) -> int:
        """Batts of 5 cm, one on the other."""
        return max(round(self.thickness_m / BATT_LAYER_M), 1)


@dataclass(frozen=True)
class Fixing:
    """count : of hooks or plugs for one frame. holds_kg : what each is trusted with. load_kg : what each carries."""

    frame: Frame
    count: int
    holds_kg: float
    load_kg: float
    assumed: bool


@dataclass(frozen=True)
class Bill:
    """timber : how to cut boards, by how wide they are, as deep as the wool [m].
    batts : the same in strips of 60 cm. cloth_m : from a roll 1.5 m wide. fixings : one each
    for the frames that are fixed.
    """

    frames: tuple[Frame, ...]
    timber: Mapping[float, Cutting]
    batts: Cutting
    wool_m2: float
    cloth_m: float
    fixings: tuple[Fixing, ...]

    @property
    def kg(self) -> float:
        """Of all frames."""
        return sum(frame.kg for frame in self.frames)


def bill(frames: Sequence[Frame], *, fixed: bool, stock: Sequence[Stock] | None = None) -> Bill:
    """Everything for some frames. fixed : screwed to walls; overhead ones always are. stock : timber that can be had.

    Raises InputError where a frame is longer than any timber.
    """
    bars = stock or [Stock(length) for length in TIMBER_MM]
    depths = sorted({round(frame.thickness_m, 3) for frame in frames})
    timber = {
        deep: cut([mm for one in frames if abs(one.thickness_m - deep) < 1e-3 for mm in one.timber_mm], bars)
        for deep in depths
    }
    strips = [strip for frame in frames for strip in _strips_mm(frame)]
    batts = cut(strips, [Stock(BATT_M[1] * 1000)], kerf_mm=0.0)
    return Bill(
        frames=tuple(frames),
        timber=timber,
        batts=batts,
        wool_m2=len(batts.bars) * BATT_M[0] * BATT_M[1],
        cloth_m=cloth_m([_cloth(frame) for frame in frames]),
        fixings=tuple(fixing(frame) for frame in frames if fixed or frame.overhead),
    )


def _strips_mm(frame: Frame) -> list[float]:
    """Strips of batt 60 cm wide that fill a frame, every layer; the last one of a wide frame is cut narrower."""
    narrow, long = sorted((frame.width_m, frame.height_m))
    across = int(np.ceil(narrow / BATT_M[0] - 1e-9))
    whole, rest = divmod(round(long * 1000, 1), BATT_M[1] * 1000)
    one = [BATT_M[1] * 1000] * int(whole) + ([rest] if rest > 1 else [])
    return one * across * frame.layers


def _cloth(frame: Frame) -> tuple[float, float]:
    """The piece of cloth that goes round a frame, narrower side first. [m]"""
    more = 2 * (frame.thickness_m + _OVERLAP_M)
    narrow, long = sorted((frame.width_m + more, frame.height_m + more))
    return narrow, long


def cloth_m(pieces: Sequence[tuple[float, float]], *, wide_m: float = CLOTH_WIDE_M) -> float:
    """Length of a roll for pieces (narrow, long), laid in shelves: beside each other while they fit, longest first. [m]

    A piece wider than the roll is sewn: it takes its length for every width.
    """
    total, left, shelf = 0.0, 0.0, 0.0
    for narrow, long in sorted(pieces, key=lambda piece: -piece[1]):
        widths = int(np.ceil(narrow / wide_m - 1e-9))
        if widths > 1:
            total += long * widths
        elif narrow <= left + 1e-9 and long <= shelf + 1e-9:
            left -= narrow
        elif long <= wide_m and narrow < long:
            # turned, its long side lies across the roll
            total, left, shelf = total + narrow, wide_m - long, narrow
        else:
            total, left, shelf = total + long, wide_m - narrow, long
    return total


def fixing(frame: Frame) -> Fixing:
    """What holds a frame: twice its weight on half of what a fixing is sold for; never fewer than two, four overhead
    with a second line apart from them.
    """
    holds = OVERHEAD_KG if frame.overhead else HOLDS_KG[frame.wall or "hollow"]
    count = max(int(np.ceil(_SPARE * frame.kg / holds)), 4 if frame.overhead else 2)
    return Fixing(frame, count, holds, frame.kg / count, assumed=frame.wall is None and not frame.overhead)
