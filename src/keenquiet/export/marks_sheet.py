"""The marks sheet as one A4 page: the plan with every mark taped from two walls, and what else has to be as it was."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from importlib import resources
from io import BytesIO
from typing import Any, Final

import numpy as np
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.cidfonts import UnicodeCIDFont
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from keenquiet.core.types import FloatArray
from keenquiet.documents.plain import one_line
from keenquiet.export.sheet import Sheet

_INK: Final = "#20242b"
_PALE: Final = "#4c4f55"
_INKS: Final = {"TREATMENT": "#2f5d50", "MARKS": "#b3541e", "COVERS": "#2f5d50", "DIMENSIONS": "#4c4f55"}
_LEFT, _RIGHT = 18 * mm, A4[0] - 18 * mm
_PLAN_HEIGHT: Final = 108 * mm
_REGULAR, _BOLD, _EAST = "KQ", "KQ-Bold", "STSong-Light"


@dataclass(frozen=True)
class Line:
    """A length of tape on the plan from a mark to the foot of a wall, (2,) each. [m]"""

    start: FloatArray
    end: FloatArray
    text: str
    who: str


def marks_pdf(sheet: Mapping[str, Any], plan: Sheet, lines: Sequence[Line], cautions: Sequence[str]) -> bytes:
    """One page. sheet : a `MarksSheet` as plain values. plan : the drawing that the tapes are laid on."""
    _fonts()
    out = BytesIO()
    page = Canvas(out, pagesize=A4, invariant=1)
    page.setTitle(one_line(f"{sheet['room']}: marks"))
    top = A4[1] - 18 * mm
    _text(page, _LEFT, top, sheet["room"], 17, bold=True)
    _text(page, _LEFT, top - 6 * mm, f"Marks sheet: {sheet['arrangement']}", 10.5, ink=_PALE)
    y = _drawn(page, plan, lines, top - 12 * mm)
    y = _table(page, sheet["marks"], y - 6 * mm)
    away = f"{sheet['sounding'].capitalize()} to capsule {sheet['mouth_to_mic_m'] * 100:.0f} cm"
    said = f"{away}, {sheet['off_axis_deg']:.0f}° off the axis."
    _text(page, _LEFT, y, said, 10, bold=True)
    y = _columns(page, sheet, y - 7 * mm)
    for words in _wrapped([sheet["proof"], *sheet["stand"], *cautions], 9.2):
        _text(page, _LEFT, y, words, 9.2)
        y -= 4.4 * mm
    page.showPage()
    page.save()
    return out.getvalue()


def _fonts() -> None:
    if _REGULAR in pdfmetrics.getRegisteredFontNames():
        return
    folder = resources.files("keenquiet.export") / "fonts"
    for name, file in ((_REGULAR, "regular"), (_BOLD, "bold")):
        with resources.as_file(folder / f"atkinson-hyperlegible-next-{file}.ttf") as path:
            pdfmetrics.registerFont(TTFont(name, str(path)))
    pdfmetrics.registerFont(UnicodeCIDFont(_EAST))


def _font_for(text: str, *, bold: bool) -> str:
    """Ours where it has every letter; else one that readers of PDF bring for the scripts of East Asia."""
    face = pdfmetrics.getFont(_REGULAR).face  # type: ignore[attr-defined]
    known = all(ord(letter) in face.charToGlyph for letter in text)
    return (_BOLD if bold else _REGULAR) if known else _EAST


def _text(page: Canvas, x: float, y: float, text: str, size: float, *, bold: bool = False, ink: str = _INK) -> None:
    words = one_line(text)
    page.setFillColor(ink)
    page.setFont(_font_for(words, bold=bold), size)
    page.drawString(x, y, words)


def _drawn(page: Canvas, plan: Sheet, lines: Sequence[Line], top: float) -> float:
    """The plan at the largest round scale that fits; returns where it ends."""
    x0, y0, x1, y1 = plan.bounds()
    scale = min((_RIGHT - _LEFT) / (x1 - x0 + 0.3), _PLAN_HEIGHT / (y1 - y0 + 0.3))
    left = _LEFT + ((_RIGHT - _LEFT) - (x1 - x0) * scale) / 2

    def px(point: FloatArray) -> tuple[float, float]:
        return left + float(point[0] - x0) * scale, top - float(y1 - point[1]) * scale

    for stroke in plan.strokes:
        page.setStrokeColor(_INKS.get(stroke.layer, _INK))
        page.setLineWidth(1.4 if stroke.layer in ("WALLS", "MARKS") else 0.6)
        page.setDash(*(((3, 2), 0) if stroke.is_dashed else ((), 0)))
        path = page.beginPath()
        path.moveTo(*px(stroke.points[0]))
        for point in stroke.points[1:]:
            path.lineTo(*px(point))
        if stroke.is_closed:
            path.close()
        page.drawPath(path)
    page.setDash()
    for word in plan.words:
        page.saveState()
        page.translate(*px(np.array(word.at)))
        page.rotate(word.turn_deg)
        words = one_line(word.text)
        size = max(word.height_m * scale, 7.0)
        page.setFont(_font_for(words, bold=False), size)
        page.setFillColor(_INKS.get(word.layer, _PALE))
        page.drawCentredString(0, -size * 0.35, words)
        page.restoreState()
    for line in (one for one in lines if one.who not in ("performer", "microphone")):
        page.setStrokeColor(_PALE)
        page.circle(*px(line.start), 2.5)
        page.setFont(_REGULAR, 7)
        page.setFillColor(_PALE)
        x, y = px(line.start)
        page.drawString(x + 4, y - 8, line.who)
    for line in (one for one in lines if one.who in ("performer", "microphone")):
        page.setStrokeColor(_INKS["MARKS"])
        page.setLineWidth(0.7)
        page.setDash((1, 2), 0)
        page.line(*px(line.start), *px(line.end))
        page.setDash()
        x, y = px((line.start + 2 * line.end) / 3)
        page.setFont(_REGULAR, 8)
        width = page.stringWidth(line.text, _REGULAR, 8)
        page.setFillColor("#ffffff")
        page.rect(x - width / 2 - 1, y - 3, width + 2, 8, stroke=0, fill=1)
        page.setFillColor(_INKS["MARKS"])
        page.drawCentredString(x, y - 1.5, line.text)
    return top - (y1 - y0) * scale


def _table(page: Canvas, marks: Sequence[Mapping[str, Any]], y: float) -> float:
    """A row for every mark: two lengths from two walls, a height, a way to face."""
    at = [_LEFT, _LEFT + 40 * mm, _LEFT + 104 * mm, _LEFT + 122 * mm]
    for x, head in zip(at, ("", "from the walls, square to them", "height", "looks at"), strict=True):
        _text(page, x, y, head, 8.6, ink=_PALE)
    y -= 5 * mm
    for mark in marks:
        page.setStrokeColor("#d8d0c0")
        page.line(_LEFT, y + 3.6 * mm, _RIGHT, y + 3.6 * mm)
        _text(page, at[0], y, mark["name"], 9.6, bold=True)
        for row, words in enumerate(_wrapped([mark["says"]], 8, _RIGHT - at[3])[:1]):
            _text(page, at[3], y - 4.2 * mm - row, words, 8, ink=_PALE)
        for row, (wall, away) in enumerate(zip(mark["walls"], mark["away_m"], strict=True)):
            _text(page, at[1], y - row * 4.2 * mm, f"{away:.2f} m", 9.6, bold=True)
            _text(page, at[1] + 15 * mm, y - row * 4.2 * mm, wall, 8.6)
        _text(page, at[2], y, f"{mark['height_m']:.2f} m", 9.6, bold=True)
        _text(page, at[3], y, mark["faces"], 8.6)
        y -= 9.6 * mm
    return y - 1 * mm


def _columns(page: Canvas, sheet: Mapping[str, Any], y: float) -> float:
    """What is known of the chain on the left, what only the person knows on the right, with lines to write on."""
    middle = (_LEFT + _RIGHT) / 2 - 10 * mm
    left = y
    for name, value in sheet["settings"]:
        _text(page, _LEFT, left, f"{name}: {value}", 9.6)
        left -= 5.4 * mm
    right = y
    page.setStrokeColor(_PALE)
    for name in sheet["by_hand"]:
        _text(page, middle, right, name, 8.6)
        width = page.stringWidth(name, _REGULAR, 8.6)
        page.line(middle + width + 2 * mm, right - 0.6 * mm, _RIGHT, right - 0.6 * mm)
        right -= 5.6 * mm
    return min(left, right) - 3 * mm


def _wrapped(texts: Sequence[str], size: float, width: float = _RIGHT - _LEFT) -> list[str]:
    lines: list[str] = []
    for text in texts:
        line = ""
        for word in text.split():
            longer = f"{line} {word}".strip()
            if pdfmetrics.stringWidth(longer, _REGULAR, size) > width:
                lines.append(line)
                line = word
            else:
                line = longer
        lines.append(line)
    return lines
