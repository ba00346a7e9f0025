"""A take on one A4 page: its level over time with lines and knots, its figures, what was found and what helps."""

from collections.abc import Sequence
from dataclasses import dataclass
from io import BytesIO
from typing import Final

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from keenquiet.export.pages import INK, LEFT, PALE, RIGHT, canvas, fonts, put, put_right, wrapped

_HEIGHT: Final = 48 * mm
_MOST_POINTS: Final = 1500
_FLOOR_DB: Final = -72.0
_LAST_Y: Final = 22 * mm
_FELT, _WARM = "#c9d6cd", "#b3541e"


@dataclass(frozen=True)
class PagePart:
    """Something found: from and to [s], its name, what helps."""

    start_s: float
    end_s: float
    name: str
    cure: str


def take_page(
    *,
    title: str,
    under: str,
    verdict: str,
    figures: Sequence[tuple[str, str]],
    blocks_db: Sequence[float | None],
    lines: Sequence[tuple[float, float]],
    found: Sequence[PagePart],
    later: str,
) -> bytes:
    """One page. blocks_db : level of each tenth of a second. lines : from and to of each. [s]"""
    fonts()
    out = BytesIO()
    page = canvas(out, title)
    top = A4[1] - 20 * mm
    put(page, LEFT, top, title, 17, bold=True)
    put(page, LEFT, top - 6 * mm, under, 10.5, ink=PALE)
    y = top - 14 * mm
    for words in wrapped([verdict], 11):
        put(page, LEFT, y, words, 11, bold=True)
        y -= 5.4 * mm
    y = _level(page, blocks_db, lines, found, y - 2 * mm)
    for name, value in figures:
        put(page, LEFT, y, name, 10, ink=PALE)
        put_right(page, LEFT + 100 * mm, y, value, 10, bold=True)
        y -= 5 * mm
    y -= 3 * mm
    put(page, LEFT, y, "Found" if found else "Nothing that spoils takes was found.", 12, bold=True)
    y -= 6 * mm
    for number, part in enumerate(found):
        if y < _LAST_Y:
            put(page, LEFT, y, f"and {len(found) - number} more", 9.2, ink=PALE)
            break
        put(page, LEFT, y, f"{_clock(part.start_s)}  {part.name}", 9.8, bold=True)
        for words in wrapped([part.cure], 9.2, RIGHT - LEFT - 58 * mm):
            put(page, LEFT + 58 * mm, y, words, 9.2)
            y -= 4.3 * mm
        y -= 0.8 * mm
    if later and y > _LAST_Y + 10 * mm:
        y -= 3 * mm
        put(page, LEFT, y, "In the mix", 12, bold=True)
        for words in wrapped([later], 9.8):
            y -= 5 * mm
            put(page, LEFT, y, words, 9.8)
    page.showPage()
    page.save()
    return out.getvalue()


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{seconds % 60:04.1f}"


def _level(
    page: Canvas,
    blocks_db: Sequence[float | None],
    lines: Sequence[tuple[float, float]],
    found: Sequence[PagePart],
    top: float,
) -> float:
    """The level over time on felt where lines are, a knot where something was found; returns where it ends."""
    seconds = max(0.1 * len(blocks_db), 1.0)
    bottom = top - _HEIGHT

    def across(at_s: float) -> float:
        return LEFT + min(max(at_s / seconds, 0.0), 1.0) * (RIGHT - LEFT)

    page.setFillColor(_FELT)
    for start, end in lines:
        page.roundRect(across(start), bottom, max(across(end) - across(start), 1), _HEIGHT, 1.5 * mm, stroke=0, fill=1)
    page.setStrokeColor(INK)
    page.setLineWidth(0.8)
    way = page.beginPath()
    each = -(-len(blocks_db) // _MOST_POINTS) or 1  # of an hour the loudest of each stretch is drawn
    for first in range(0, len(blocks_db), each):
        told = [level for level in blocks_db[first : first + each] if level is not None]
        share = (max([*told, _FLOOR_DB]) - _FLOOR_DB) / -_FLOOR_DB
        point = across(0.1 * (first + 0.5 * each)), bottom + share * _HEIGHT
        (way.moveTo if first == 0 else way.lineTo)(*point)
    page.drawPath(way)
    page.setFillColor(_WARM)
    for part in found:
        page.circle(across(part.start_s), bottom - 3 * mm, 1.3 * mm, stroke=0, fill=1)
    put(page, LEFT, bottom - 8.5 * mm, "0 s", 8.5, ink=PALE)
    put_right(page, RIGHT, bottom - 8.5 * mm, f"{seconds:.0f} s", 8.5)
    return bottom - 15 * mm
