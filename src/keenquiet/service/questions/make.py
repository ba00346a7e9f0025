"""Make it: what an arrangement's frames take, what is cut from what, what it costs."""

import csv
import io
from collections import Counter
from collections.abc import Sequence
from typing import Any, Final

from keenquiet.advice.costs import PriceList, at_hand, price_rows
from keenquiet.advice.making import FIRE_RATING, LANDLORD, TOOLS, UNKNOWN_WALL, caution_texts, fixing_words, steps
from keenquiet.advice.materials import lines_of, wool_of
from keenquiet.advice.screens import SCREEN_NAMES
from keenquiet.advice.ways import MEANS_WORDS
from keenquiet.core.errors import InputError
from keenquiet.core.make.cutting import KERF_MM, Cutting, Stock, cut
from keenquiet.core.make.frames import Bill, Frame, bill
from keenquiet.core.room.room import Overlay
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.pieces import pieces
from keenquiet.core.things.porous import PorousAbsorber
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.numbers import Answer, Num
from keenquiet.service.case import Case
from keenquiet.service.predict import limits_of, prices_of
from keenquiet.service.questions.base import ArrangementAsk, Filed, Question

_LEAST_FRAME_M: Final = 0.04  # thinner is foam or cloth, and bought
_SOLID: Final = ("brick", "plaster-on-brick", "concrete", "block", "limestone", "hard-wall", "facing-brick")
_HOLLOW: Final = ("plasterboard", "plaster-on-lath", "wood", "plywood")
_FRAME_MINUTES: Final = 45
_FIX_MINUTES: Final = 15


class BarAnswer(Answer):
    stock_mm: Num
    cuts_mm: list[Num]


class CutAnswer(Answer):
    """Contract of `cut`. left_over : waste_pct in words, rounded once for page, sheet and terminal."""

    bars: list[BarAnswer]
    waste_pct: Num
    left_over: str
    lower_bound_bars: int


class BoardsAnswer(CutAnswer):
    """Boards of one width, as deep as the wool of their frames."""

    wide_mm: Num


class BillItem(Answer):
    """One line to buy. unit : of amount. price : of one unit, cost : of all, in the room's currency."""

    key: str
    name: str
    amount: Num
    unit: str
    price: Num
    cost: Num


class FrameAnswer(Answer):
    name: str
    width_m: Num
    height_m: Num
    thickness_m: Num
    kg: Num
    timber_mm: list[Num]


class FixingAnswer(Answer):
    """What holds one frame: how many, what each is trusted with and carries; assumed : the wall is not known."""

    name: str
    count: int
    holds_kg: Num
    load_kg: Num
    assumed: bool
    words: str


class StepAnswer(Answer):
    text: str
    cautions: list[str]


class MakingAnswer(Answer):
    """Frames to make, what to cut, what to buy, what holds it, in which steps. bought : pieces that are not made."""

    room: str
    arrangement: str
    currency: str
    frames: list[FrameAnswer]
    timber: list[BoardsAnswer]
    batts: CutAnswer
    cloth_m: Num
    fixings: list[FixingAnswer]
    items: list[BillItem]
    cost: Num
    kg: Num
    minutes: int
    tools: list[str]
    steps: list[StepAnswer]
    notes: list[str]


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
    return CutAnswer.out_of(found, **_left_over(found))


def _left_over(found: Cutting) -> dict[str, Any]:
    return {"waste_pct": 100 * found.waste_share, "left_over": f"{100 * found.waste_share:.0f} % left over"}


def make(case: Case, asked: ArrangementAsk) -> MakingAnswer:
    """What an arrangement's frames take: to buy, to cut, what holds them, in which steps.

    Raises InputError where a frame cannot be made of what is sold.
    """
    room, fixed = case.room, case.room.brief.may_drill
    frames, others = _sorted(case.scenario)
    found = bill(frames, fixed=fixed)
    items = _items(found, others, room)
    overhead = any(frame.overhead for frame in frames)
    notes = [FIRE_RATING, *([LANDLORD] if fixed or overhead else [])]
    if any(fixing.assumed for fixing in found.fixings):
        notes.append(UNKNOWN_WALL)
    return MakingAnswer(
        room=room.name,
        arrangement=case.doc.name or case.doc.id,
        currency=room.brief.currency,
        frames=[FrameAnswer.out_of(frame) for frame in frames],
        timber=[
            BoardsAnswer.out_of(cutting, wide_mm=1000 * wide, **_left_over(cutting))
            for wide, cutting in found.timber.items()
        ],
        batts=_cut_answer(found.batts),
        cloth_m=found.cloth_m,
        fixings=[FixingAnswer.out_of(one, name=one.frame.name, words=fixing_words(one)) for one in found.fixings],
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


def cost_of(room: RoomDoc, scenario: Scenario) -> float:
    """What everything that hangs, stands and seals here takes to buy, bought together. [currency]"""
    frames, others = _sorted(scenario)
    return sum(item.cost for item in _items(bill(frames, fixed=room.brief.may_drill), others, room))


def _sorted(scenario: Scenario) -> tuple[list[Frame], list[str]]:
    """What is here as frames to make, and what is bought or at hand by its key in the list of prices."""
    room, frames, others = scenario.room, list[Frame](), list[str]()
    for overlay in scenario.arrangement.treatments:
        absorber, key = overlay.material.absorber, _piece_of(overlay)
        made = key == "" or (key in pieces() and wool_of(pieces()[key]) is not None)
        if made and isinstance(absorber, PorousAbsorber):
            u0, u1, v0, v1 = overlay.rect
            name = overlay.material.name  # a document's label
            frames.append(
                Frame(
                    f"{name} ({len(frames) + 1})",
                    round(u1 - u0, 3),
                    round(v1 - v0, 3),
                    absorber.thickness_m,
                    absorber.flow_resistivity,
                    room.faces[overlay.face].kind != "wall",
                    _wall(room.materials[overlay.face].key),
                )
            )
        else:
            others.append(key or overlay.kind)
    screens = dict.fromkeys(f"screen-{screen.kind}" for screen in scenario.arrangement.screens)  # an arc is three faces
    seals = [f"seal-{seal.means}" for seal in scenario.sealed]
    return frames, [*others, *screens, *seals]


def _piece_of(overlay: Overlay) -> str:
    """The key of what hangs here, "" for a frame of somebody's own; what names no piece tells it by its kind."""
    if overlay.piece or overlay.kind != "panel":
        return overlay.piece or overlay.kind
    absorber = overlay.material.absorber
    wool = isinstance(absorber, PorousAbsorber) and absorber.thickness_m >= _LEAST_FRAME_M
    return "" if wool and "foam" not in overlay.material.name.lower() else "foam-50"


def _wall(material: str) -> str | None:
    if material.startswith(_SOLID):
        return "solid"
    return "hollow" if material.startswith(_HOLLOW) else None


def _items(found: Bill, others: Sequence[str], room: RoomDoc) -> list[BillItem]:
    """What to buy: what frames take, then whole things, those at hand for nothing."""
    prices, limits = prices_of(room), limits_of(room)
    made = [_item(line.key, line.name, line.amount, line.unit, prices.line(line)) for line in lines_of(found)]
    return made + [
        _item(key, _name(key), count, "piece", 0.0 if at_hand(key, limits) else _price(prices, key))
        for key, count in Counter(others).items()
    ]


def _item(key: str, name: str, amount: float, unit: str, price: float) -> BillItem:
    return BillItem(key=key, name=name, amount=amount, unit=unit, price=price, cost=price * amount)


def _price(prices: PriceList, key: str) -> float:
    return prices.price(key) if key in price_rows() else 0.0


def _name(key: str) -> str:
    if key in pieces():
        return pieces()[key].label
    screen = SCREEN_NAMES.get(key.removeprefix("screen-"))
    means = MEANS_WORDS.get(key.removeprefix("seal-"))
    return screen or (f"{means[:1].upper()}{means[1:]}" if means else key.replace("-", " ").capitalize())


def make_csv(case: Case, asked: ArrangementAsk) -> str:
    """What to buy and what to cut as CSV, units in the header."""
    answer = make(case, asked)
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


def make_pdf(case: Case, asked: ArrangementAsk) -> bytes:
    """The same as pages to print."""
    from keenquiet.export.making import making_sheet  # a library of its own, for this alone

    return making_sheet(make(case, asked).model_dump())


MAKE = Question(
    "make",
    ArrangementAsk,
    MakingAnswer,
    make,
    work="quick",
    heard="not here",
    files={"pdf": Filed("application/pdf", make_pdf), "csv": Filed("text/csv", make_csv)},
)
