"""Make it: what an arrangement's frames take, what is cut from what, what it costs."""

import csv
import io
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any, Final

from keenquiet.advice.costs import PriceList
from keenquiet.advice.making import FIRE_RATING, LANDLORD, TOOLS, UNKNOWN_WALL, caution_texts, fixing_words, steps
from keenquiet.core.errors import InputError
from keenquiet.core.make.cutting import KERF_MM, Cutting, Stock, cut
from keenquiet.core.make.frames import BATT_LAYER_M, Bill, Frame, bill
from keenquiet.core.room.room import Overlay, Room
from keenquiet.core.waves.porous import PorousAbsorber
from keenquiet.documents.schema import RoomDoc
from keenquiet.export.making import making_sheet
from keenquiet.service.answers.making import (
    BarAnswer,
    BillItem,
    BoardsAnswer,
    CutAnswer,
    FixingAnswer,
    FrameAnswer,
    MakingAnswer,
    StepAnswer,
)
from keenquiet.service.predict import acoustics_of, prices_of

_LEAST_FRAME_M: Final = 0.04  # thinner is foam or cloth, and bought
_SOLID: Final = ("brick", "plaster-on-brick", "concrete", "block", "limestone", "hard-wall", "facing-brick")
_HOLLOW: Final = ("plasterboard", "plaster-on-lath", "wood", "plywood")
_BOARD_WIDE_M: Final = 0.1  # the width that the price of a metre is for; others in proportion
_FRAME_MINUTES: Final = 45
_FIX_MINUTES: Final = 15


def cut_answer(pieces: Any, stock: Any) -> CutAnswer:
    """Contract of `cut`. pieces, stock : as read from JSON: a list of millimetres, of {length_mm, count, price}, or an
    object that holds such a list under `pieces` or `stock`, and `kerf_mm`. Raises InputError for anything else.
    """
    lengths = [length for length, count, _ in _listed(pieces, "pieces") for _ in range(1 if count is None else count)]
    bars = [Stock(length, count, price) for length, count, price in _listed(stock, "stock")]
    kerf = next((one["kerf_mm"] for one in (stock, pieces) if isinstance(one, dict) and "kerf_mm" in one), KERF_MM)
    if not isinstance(kerf, int | float):
        raise InputError("kerf_mm", f"{kerf!r} is no width.", "Give millimetres.")
    return _cut_answer(cut(lengths, bars, kerf_mm=float(kerf)))


def _listed(given: Any, field: str) -> list[tuple[float, int | None, float]]:
    """Length, count and price of each entry."""
    listed = given.get(field) if isinstance(given, dict) else given
    if not isinstance(listed, list):
        raise InputError(field, "is no list.", f'Give a list of lengths in mm, or {{"{field}": [...]}}.')
    found = []
    for number, one in enumerate(listed):
        entry = one if isinstance(one, dict) else {"length_mm": one}
        length, count, price = entry.get("length_mm"), entry.get("count"), entry.get("price", 0.0)
        whole = count is None or (isinstance(count, int) and not isinstance(count, bool) and 0 <= count <= 10_000)
        if not _is_number(length) or not _is_number(price) or not whole:
            raise InputError(f"{field}.{number}", "is no length with a count.", 'E.g. {"length_mm": 1200, "count": 4}.')
        found.append((float(str(length)), count, float(str(price))))
    return found


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _cut_answer(found: Cutting) -> CutAnswer:
    return CutAnswer(
        bars=[BarAnswer(stock_mm=bar.stock_mm, cuts_mm=list(bar.cuts_mm)) for bar in found.bars],
        waste_pct=100 * found.waste_share,
        lower_bound_bars=found.lower_bound_bars,
    )


def making_answer(room: RoomDoc, arrangement_id: str | None = None) -> MakingAnswer:
    """Contract of `make`. Raises InputError where a frame cannot be made of what is sold."""
    doc = room.arrangement_doc(arrangement_id)
    scenario, _ = acoustics_of(room, doc)
    frames, others = _sorted(scenario.room, scenario.arrangement.treatments)
    fixed = room.brief.may_drill
    found = bill(frames, fixed=fixed)
    prices = prices_of(room)
    items = [*_to_make(found, prices), *_to_buy(others, prices)]
    overhead = any(frame.overhead for frame in frames)
    notes = [FIRE_RATING, *([LANDLORD] if fixed or overhead else [])]
    if any(fixing.assumed for fixing in found.fixings):
        notes.append(UNKNOWN_WALL)
    return MakingAnswer(
        room=room.name,
        arrangement=doc.name or doc.id,
        currency=room.brief.currency,
        frames=[
            FrameAnswer(
                name=frame.name,
                width_m=frame.width_m,
                height_m=frame.height_m,
                thickness_m=frame.thickness_m,
                kg=frame.kg,
                timber_mm=list(frame.timber_mm),
            )
            for frame in frames
        ],
        timber=[
            BoardsAnswer(wide_mm=1000 * wide, **_cut_answer(cutting).model_dump())
            for wide, cutting in found.timber.items()
        ],
        batts=_cut_answer(found.batts),
        cloth_m=found.cloth_m,
        fixings=[
            FixingAnswer(
                name=one.frame.name,
                count=one.count,
                holds_kg=one.holds_kg,
                load_kg=one.load_kg,
                assumed=one.assumed,
                words=fixing_words(one),
            )
            for one in found.fixings
        ],
        items=items,
        cost=sum(item.cost for item in items),
        kg=found.kg,
        minutes=len(frames) * (_FRAME_MINUTES + (_FIX_MINUTES if fixed else 0)) + 10 * len(others),
        tools=list(TOOLS) if frames else [],
        steps=[
            StepAnswer(text=text, cautions=caution_texts(keys))
            for text, keys in (steps(fixed=fixed, overhead=overhead) if frames else [])
        ],
        notes=notes if frames or others else ["Nothing hangs here yet: take a plan, or a piece from the shelf."],
    )


def _sorted(room: Room, hung: Sequence[Overlay]) -> tuple[list[Frame], list[str]]:
    """What hangs here as frames to make, and what is bought or at hand by its key in the list of prices."""
    frames: list[Frame] = []
    others: list[str] = []
    for overlay in hung:
        absorber = overlay.material.absorber
        label = overlay.material.name  # a document's label
        foam = "foam" in label.lower()
        wool = isinstance(absorber, PorousAbsorber) and absorber.thickness_m >= _LEAST_FRAME_M and not foam
        if overlay.kind == "panel" and wool and isinstance(absorber, PorousAbsorber):
            u0, u1, v0, v1 = overlay.rect
            frames.append(
                Frame(
                    f"{label} ({len(frames) + 1})",
                    round(u1 - u0, 3),
                    round(v1 - v0, 3),
                    absorber.thickness_m,
                    absorber.flow_resistivity,
                    room.faces[overlay.face].kind != "wall",
                    _wall(room.materials[overlay.face].key),
                )
            )
        else:
            others.append("foam-50" if foam else overlay.kind)
    return frames, others


def _wall(material: str) -> str | None:
    if material.startswith(_SOLID):
        return "solid"
    return "hollow" if material.startswith(_HOLLOW) else None


def _to_make(found: Bill, prices: PriceList) -> list[BillItem]:
    if not found.frames:
        return []
    bars = Counter((wide, bar.stock_mm) for wide, cutting in found.timber.items() for bar in cutting.bars)
    hooks = sum(one.count for one in found.fixings)
    lines = sum(one.frame.overhead for one in found.fixings)
    return [
        *(
            _item(
                prices,
                "make-timber",
                f"Board 18 x {1000 * wide:.0f} mm, {length / 1000:.1f} m",
                count,
                "piece",
                length / 1000 * (wide / _BOARD_WIDE_M),
            )
            for (wide, length), count in sorted(bars.items())
        ),
        _item(
            prices,
            "make-wool",
            f"Mineral wool batt 60 x 120 cm, {BATT_LAYER_M * 100:.0f} cm",
            len(found.batts.bars),
            "piece",
            0.72,
        ),
        _item(prices, "make-cloth", "Cloth that breathes, 1.5 m wide", round(found.cloth_m + 0.05, 1), "m"),
        _item(prices, "make-small", "Screws, glue, staples", len(found.frames), "frame"),
        *([_item(prices, "make-hook", "Plugs and screws, or rated hooks", hooks, "piece")] if hooks else []),
        *([_item(prices, "make-line", "Second lines of wire", lines, "piece")] if lines else []),
    ]


def _item(prices: PriceList, key: str, name: str, amount: float, unit: str, per_unit: float = 1.0) -> BillItem:
    price = prices.price(key) * per_unit
    return BillItem(key=key, name=name, amount=amount, unit=unit, price=price, cost=price * amount)


_NAMES: Final[Mapping[str, str]] = {
    "duvet": "Duvet",
    "curtain": "Curtain in folds, with its rod",
    "rug": "Rug with a mat under it",
    "blanket": "Thick blanket",
    "foam-50": "Foam, by the piece of 60 x 120 cm",
    "open-wardrobe": "Wardrobe, opened",
}


def _to_buy(others: Sequence[str], prices: PriceList) -> list[BillItem]:
    found = []
    for key, count in Counter(others).items():
        known = key if key in _NAMES and key != "open-wardrobe" else "blanket"
        price = prices.price(known)
        found.append(
            BillItem(key=known, name=_NAMES.get(key, key), amount=count, unit="piece", price=price, cost=price * count)
        )
    return found


def making_csv(room: RoomDoc, arrangement_id: str | None = None) -> str:
    """What to buy and what to cut as CSV, units in the header."""
    answer = making_answer(room, arrangement_id)
    out = io.StringIO()
    lines = csv.writer(out)
    lines.writerow(["item", "amount", "unit", f"price ({answer.currency})", f"cost ({answer.currency})"])
    for item in answer.items:
        lines.writerow([_safe(item.name), f"{item.amount:g}", item.unit, f"{item.price:.2f}", f"{item.cost:.2f}"])
    lines.writerow([])
    lines.writerow(["bar", "stock (mm)", "cuts (mm)"])
    boards = [(f"board {one.wide_mm:.0f} mm", one) for one in answer.timber]
    for name, cutting in (*boards, ("batt", answer.batts)):
        for number, bar in enumerate(cutting.bars, 1):
            lines.writerow([f"{name} {number}", f"{bar.stock_mm:g}", " + ".join(f"{c:g}" for c in bar.cuts_mm)])
    return out.getvalue()


def _safe(text: str) -> str:
    """A name that no table takes for a formula."""
    return f"'{text}" if text[:1] in "=+-@" else text


def making_pdf(room: RoomDoc, arrangement_id: str | None = None) -> bytes:
    """The same as pages to print."""
    return making_sheet(making_answer(room, arrangement_id).model_dump())
