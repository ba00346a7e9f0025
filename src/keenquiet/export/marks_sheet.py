"""The marks sheet as one A4 page: the plan with every mark taped from two walls, and what else has to be as it was."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from io import BytesIO
from typing import Any, Final

import numpy as np
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from keenquiet.core.types import FloatArray
from keenquiet.documents.plain import one_line
from keenquiet.export.pages import INK, LEFT, PALE, REGULAR, RIGHT, canvas, font_for, fonts, put, wrapped
from keenquiet.export.sheet import Sheet

_INKS: Final = {"TREATMENT": "#2f5d50", "MARKS": "#b3541e", "COVERS": "#2f5d50", "DIMENSIONS": "#4c4f55"}
_PLAN_HEIGHT: Final = 108 * mm


@dataclass(frozen=True)
class Line:
    """A length of tape on the plan from a mark to the foot of a wall, (2,) each. [m]"""

    start: FloatArray
    end: FloatArray
    text: str
    who: str


def marks_pdf(sheet: Mapping[str, Any], plan: Sheet, lines: Sequence[Line], cautions: Sequence[str]) -> bytes:
    """One page. sheet : a `MarksSheet` as plain values. plan : the drawing that the tapes are laid on."""
    fonts()
    out = BytesIO()
    page = canvas(out, f"{sheet['room']}: marks")
    top = A4[1] - 18 * mm
    put(page, LEFT, top, sheet["room"], 17, bold=True)
    put(page, LEFT, top - 6 * mm, f"Marks sheet: {sheet['arrangement']}", 10.5, ink=PALE)
    y = _drawn(page, plan, lines, top - 12 * mm)
    y = _table(page, sheet["marks"], y - 6 * mm)
    away = f"{sheet['sounding'].capitalize()} to capsule {sheet['mouth_to_mic_m'] * 100:.0f} cm"
    said = f"{away}, {sheet['off_axis_deg']:.0f}° off the axis."
    put(page, LEFT, y, said, 10, bold=True)
    y = _columns(page, sheet, y - 7 * mm)
    for words in wrapped([sheet["proof"], *sheet["stand"], *cautions], 9.2):
        put(page, LEFT, y, words, 9.2)
        y -= 4.4 * mm
    page.showPage()
    page.save()
    return out.getvalue()


def _drawn(page: Canvas, plan: Sheet, lines: Sequence[Line], top: float) -> float:
    """The plan at the largest round scale that fits; returns where it ends."""
    x0, y0, x1, y1 = plan.bounds()
    scale = min((RIGHT - LEFT) / (x1 - x0 + 0.3), _PLAN_HEIGHT / (y1 - y0 + 0.3))
    left = LEFT + ((RIGHT - LEFT) - (x1 - x0) * scale) / 2

    def px(point: FloatArray) -> tuple[float, float]:
        return left + float(point[0] - x0) * scale, top - float(y1 - point[1]) * scale

    for stroke in plan.strokes:
        page.setStrokeColor(_INKS.get(stroke.layer, INK))
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
        page.setFont(font_for(words, bold=False), size)
        page.setFillColor(_INKS.get(word.layer, PALE))
        page.drawCentredString(0, -size * 0.35, words)
        page.restoreState()
    for line in (one for one in lines if one.who not in ("performer", "microphone")):
        page.setStrokeColor(PALE)
        page.circle(*px(line.start), 2.5)
        page.setFont(REGULAR, 7)
        page.setFillColor(PALE)
        x, y = px(line.start)
        page.drawString(x + 4, y - 8, line.who)
    for line in (one for one in lines if one.who in ("performer", "microphone")):
        page.setStrokeColor(_INKS["MARKS"])
        page.setLineWidth(0.7)
        page.setDash((1, 2), 0)
        page.line(*px(line.start), *px(line.end))
        page.setDash()
        x, y = px((line.start + 2 * line.end) / 3)
        page.setFont(REGULAR, 8)
        width = page.stringWidth(line.text, REGULAR, 8)
        page.setFillColor("#ffffff")
        page.rect(x - width / 2 - 1, y - 3, width + 2, 8, stroke=0, fill=1)
        page.setFillColor(_INKS["MARKS"])
        page.drawCentredString(x, y - 1.5, line.text)
    return top - (y1 - y0) * scale


def _table(page: Canvas, marks: Sequence[Mapping[str, Any]], y: float) -> float:
    """A row for every mark: two lengths from two walls, a height, a way to face."""
    at = [LEFT, LEFT + 40 * mm, LEFT + 104 * mm, LEFT + 122 * mm]
    for x, head in zip(at, ("", "from the walls, square to them", "height", "looks at"), strict=True):
        put(page, x, y, head, 8.6, ink=PALE)
    y -= 5 * mm
    for mark in marks:
        page.setStrokeColor("#d8d0c0")
        page.line(LEFT, y + 3.6 * mm, RIGHT, y + 3.6 * mm)
        put(page, at[0], y, mark["name"], 9.6, bold=True)
        for row, words in enumerate(wrapped([mark["says"]], 8, RIGHT - at[3])[:1]):
            put(page, at[3], y - 4.2 * mm - row, words, 8, ink=PALE)
        for row, (wall, away) in enumerate(zip(mark["walls"], mark["away_m"], strict=True)):
            put(page, at[1], y - row * 4.2 * mm, f"{away:.2f} m", 9.6, bold=True)
            put(page, at[1] + 15 * mm, y - row * 4.2 * mm, wall, 8.6)
        put(page, at[2], y, f"{mark['height_m']:.2f} m", 9.6, bold=True)
        put(page, at[3], y, mark["faces"], 8.6)
        y -= 9.6 * mm
    return y - 1 * mm


def _columns(page: Canvas, sheet: Mapping[str, Any], y: float) -> float:
    """What is known of the chain on the left, what only the person knows on the right, with lines to write on."""
    middle = (LEFT + RIGHT) / 2 - 10 * mm
    left = y
    for name, value in sheet["settings"]:
        put(page, LEFT, left, f"{name}: {value}", 9.6)
        left -= 5.4 * mm
    right = y
    page.setStrokeColor(PALE)
    for name in sheet["by_hand"]:
        put(page, middle, right, name, 8.6)
        width = page.stringWidth(name, REGULAR, 8.6)
        page.line(middle + width + 2 * mm, right - 0.6 * mm, RIGHT, right - 0.6 * mm)
        right -= 5.6 * mm
    return min(left, right) - 3 * mm
