"""What frames take from the shop: boards, wool, cloth and small parts, by their keys in the list of prices."""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from types import MappingProxyType
from typing import Final

from keenquiet.core.make.frames import BATT_LAYER_M, Bill, Frame, bill
from keenquiet.core.things.pieces import Piece, pieces
from keenquiet.core.things.porous import PorousAbsorber

_BOARD_WIDE_M: Final = 0.1  # the width that the price of a metre is for; others in proportion
_DEEPEST_FRAME_M: Final = 0.25  # deeper is a corner filled with wool, and has no boards
_OVERHEAD: Final = "-overhead"


@dataclass(frozen=True)
class Line:
    """amount of a unit, each of which is worth `per_unit` of what the price under `key` is for."""

    key: str
    name: str
    amount: float
    unit: str
    per_unit: float = 1.0


def lines_of(found: Bill) -> Iterator[Line]:
    """What a bill of frames means in the shop."""
    if not found.frames:
        return
    bars = Counter((wide, bar.stock_mm) for wide, cutting in found.timber.items() for bar in cutting.bars)
    for (wide, length), count in sorted(bars.items()):
        name = f"Board 18 x {1000 * wide:.0f} mm, {length / 1000:.1f} m"
        yield Line("make-timber", name, count, "piece", length / 1000 * (wide / _BOARD_WIDE_M))
    batt = f"Mineral wool batt 60 x 120 cm, {BATT_LAYER_M * 100:.0f} cm"
    yield Line("make-wool", batt, len(found.batts.bars), "piece", 0.72)
    yield Line("make-cloth", "Cloth that breathes, 1.5 m wide", round(found.cloth_m + 0.05, 1), "m")
    yield Line("make-small", "Screws, glue, staples", len(found.frames), "frame")
    hooks = sum(one.count for one in found.fixings)
    wires = sum(one.frame.overhead for one in found.fixings)
    if hooks:
        yield Line("make-hook", "Plugs and screws, or rated hooks", hooks, "piece")
    if wires:
        yield Line("make-line", "Second lines of wire", wires, "piece")


def wool_of(piece: Piece) -> PorousAbsorber | None:
    """The wool of what is boards round wool, so that its price is that of its materials; None for all else."""
    layer = piece.material.absorber
    if piece.group != "make" or piece.mount == "free" or not isinstance(layer, PorousAbsorber):
        return None
    return layer if layer.thickness_m <= _DEEPEST_FRAME_M else None


@cache
def takes(key: str, *, fixed: bool = False) -> Mapping[str, float]:
    """What one piece is bought as: amounts by key in the list of prices; what is not made is itself, once."""
    piece = pieces().get(key.removesuffix(_OVERHEAD))
    if piece is None or (wool := wool_of(piece)) is None:
        return MappingProxyType({key: 1.0})
    overhead = piece.mount == "ceiling" or key.endswith(_OVERHEAD)
    size = (piece.width_m, piece.height_m, wool.thickness_m, wool.flow_resistivity)
    found: dict[str, float] = {}
    for line in lines_of(bill([Frame(piece.label, *size, overhead)], fixed=fixed)):
        found[line.key] = found.get(line.key, 0.0) + line.amount * line.per_unit
    return MappingProxyType(found)
