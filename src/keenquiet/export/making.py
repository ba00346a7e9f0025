"""Make it, as pages to print: what to buy, what to cut with every bar to scale, steps with their cautions."""

from collections import Counter
from collections.abc import Mapping, Sequence
from io import BytesIO
from typing import Any, Final

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm

from keenquiet.export.pages import INK, LEFT, PALE, REGULAR, RIGHT, canvas, fonts, put, put_right, wrapped

_BOTTOM: Final = 18 * mm
_BAR: Final = 7 * mm
_FELT, _WASTE = "#dfe8e2", "#ffffff"


class _Pages:
    """A canvas that begins a new page where the next lines would not fit."""

    def __init__(self, title: str) -> None:
        self.out = BytesIO()
        self.page = canvas(self.out, title)
        self.y = A4[1] - 18 * mm

    def room(self, height: float) -> None:
        if self.y - height < _BOTTOM:
            self.page.showPage()
            self.y = A4[1] - 18 * mm

    def head(self, text: str) -> None:
        self.room(18 * mm)
        self.y -= 4 * mm
        put(self.page, LEFT, self.y, text, 12.5, bold=True)
        self.y -= 6.5 * mm

    def lines(self, texts: Sequence[str], size: float = 9.6, *, ink: str = INK, left: float = LEFT) -> None:
        for words in wrapped(texts, size, RIGHT - left):
            self.room(5 * mm)
            put(self.page, left, self.y, words, size, ink=ink)
            self.y -= 4.6 * mm

    def bar(self, stock_mm: float, cuts_mm: Sequence[float], count: int, longest_mm: float) -> None:
        """One bar to scale and how many of it, its cuts by their length, what is left over in dots."""
        self.room(_BAR + 5 * mm)
        page, start = self.page, LEFT + 12 * mm
        scale = (RIGHT - start) / longest_mm
        x, y = start, self.y - _BAR + 3 * mm
        put(page, LEFT, y + 2.2 * mm, f"{count} x", 9.6, bold=True)
        page.setStrokeColor(PALE)
        page.setLineWidth(0.6)
        for length in cuts_mm:
            page.setFillColor(_FELT)
            page.rect(x, y, length * scale, _BAR, fill=1)
            page.setFillColor("#20242b")
            page.setFont(REGULAR, 8.5)
            page.drawCentredString(x + length * scale / 2, y + 2.2 * mm, f"{length:.0f}")
            x += length * scale
        end = start + stock_mm * scale
        page.setFillColor(_WASTE)
        page.setDash((2, 2), 0)
        page.rect(x, y, max(end - x, 0), _BAR, fill=1)
        page.setDash()
        self.y -= _BAR + 3.5 * mm

    def done(self) -> bytes:
        self.page.showPage()
        self.page.save()
        return self.out.getvalue()


def making_sheet(answer: Mapping[str, Any]) -> bytes:
    """All of it. answer : a `MakingAnswer` as plain values."""
    fonts()
    pages = _Pages(f"{answer['room']}: make it")
    put(pages.page, LEFT, pages.y, answer["room"], 17, bold=True)
    pages.y -= 6.5 * mm
    count = len(answer["frames"])
    frames = f"{count} frame{'s' if count != 1 else ''}, {answer['kg']:.0f} kg, " if count else ""
    hours = answer["minutes"] / 60
    said = f"Make it: {answer['arrangement']}. {frames}about {hours:.1f} h, {answer['currency']}{answer['cost']:.0f}."
    pages.lines([said], 10.5, ink=PALE)
    _bought(pages, answer)
    boards = [(f"Cut the boards 18 x {one['wide_mm']:.0f} mm", one) for one in answer["timber"]]
    for title, cutting in (*boards, ("Cut the batts, 60 cm wide", answer["batts"])):
        if cutting["bars"]:
            pages.head(f"{title} (mm): {cutting['left_over']}")
            longest = max(bar["stock_mm"] for bar in cutting["bars"])
            alike = Counter((bar["stock_mm"], tuple(bar["cuts_mm"])) for bar in cutting["bars"])
            for (stock_mm, cuts_mm), count in alike.items():
                pages.bar(stock_mm, cuts_mm, count, longest)
    if answer["frames"]:
        pages.head("Frames")
        pages.lines(
            [
                f"{f['name']}: {f['width_m'] * 100:.0f} x {f['height_m'] * 100:.0f} cm, "
                f"{f['thickness_m'] * 100:.0f} cm of wool, {f['kg']:.1f} kg. Posts {f['timber_mm'][0]:.0f}, "
                f"rails {f['timber_mm'][2]:.0f} mm."
                for f in answer["frames"]
            ]
        )
        pages.lines([one["words"] for one in answer["fixings"]])
        pages.head("You need")
        pages.lines([", ".join(answer["tools"]) + "."])
        pages.head("Do it")
    for number, step in enumerate(answer["steps"], 1):
        pages.lines([f"{number}. {step['text']}"])
        pages.lines([f"Take care: {text}" for text in step["cautions"]], 8.8, ink="#9a3412", left=LEFT + 5 * mm)
    pages.head("Before you begin")
    pages.lines(answer["notes"])
    return pages.done()


def _bought(pages: _Pages, answer: Mapping[str, Any]) -> None:
    pages.head("Buy, or have")
    for item in answer["items"]:
        pages.room(5.5 * mm)
        amount = f"{item['amount']:g} {item['unit']}{'s' if item['amount'] != 1 and item['unit'] != 'm' else ''}"
        put(pages.page, LEFT, pages.y, item["name"], 9.6)
        put_right(pages.page, RIGHT - 50 * mm, pages.y, amount, 9.6)
        put_right(pages.page, RIGHT - 24 * mm, pages.y, f"{answer['currency']}{item['price']:.2f}", 9.6)
        put_right(pages.page, RIGHT, pages.y, f"{answer['currency']}{item['cost']:.2f}", 9.6, bold=True)
        pages.y -= 5.4 * mm
    put_right(pages.page, RIGHT, pages.y, f"in all {answer['currency']}{answer['cost']:.2f}", 10, bold=True)
    pages.y -= 5.4 * mm
