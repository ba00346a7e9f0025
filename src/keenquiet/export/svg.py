"""A sheet as SVG: millimetres on paper at a round scale, one group for each layer, ready to print."""

from html import escape
from typing import Final

import numpy as np

from keenquiet.documents.plain import one_line
from keenquiet.export.sheet import LAYERS, Sheet

_MARGIN_M: Final = 0.35
_PEN: Final = {"WALLS": 0.5, "TREATMENT": 0.4, "FURNITURE": 0.25, "OPENINGS": 0.3, "MARKS": 0.4}
_FILL: Final = {"TREATMENT": "#dfe8e2", "FURNITURE": "#f4efe4"}
_INK: Final = {"TREATMENT": "#2f5d50", "MARKS": "#b3541e", "COVERS": "#2f5d50", "DIMENSIONS": "#4c4f55"}


def svg_of(sheet: Sheet, *, per_metre: float = 40.0) -> str:
    """The drawing at 1:25 (40 mm on paper for a metre) by default, with a scale bar."""
    x0, y0, x1, y1 = sheet.bounds()
    x0, y0, x1, y1 = x0 - _MARGIN_M, y0 - _MARGIN_M - 0.3, x1 + _MARGIN_M, y1 + _MARGIN_M

    def px(point: np.ndarray) -> str:
        return f"{(point[0] - x0) * per_metre:.2f},{(y1 - point[1]) * per_metre:.2f}"

    width, height = (x1 - x0) * per_metre, (y1 - y0) * per_metre
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.1f}mm" '
        f'height="{height:.1f}mm" viewBox="0 0 {width:.2f} {height:.2f}">',
        f"<title>{escape(one_line(sheet.title))}</title>",
        f'<rect width="{width:.2f}" height="{height:.2f}" fill="#fff"/>',
    ]
    for layer in LAYERS:
        ink = _INK.get(layer, "#20242b")
        parts.append(
            f'<g id="{layer}" stroke="{ink}" stroke-width="{_PEN.get(layer, 0.18)}" '
            'fill="none" stroke-linejoin="round">'
        )
        for stroke in (s for s in sheet.strokes if s.layer == layer):
            fill = f' fill="{_FILL[layer]}"' if stroke.is_closed and layer in _FILL and not stroke.is_dashed else ""
            dash = ' stroke-dasharray="1.6 1.2"' if stroke.is_dashed else ""
            tag = "polygon" if stroke.is_closed else "polyline"
            parts.append(f'<{tag} points="{" ".join(px(p) for p in stroke.points)}"{fill}{dash}/>')
        for word in (w for w in sheet.words if w.layer == layer):
            x, y = px(np.array(word.at)).split(",")
            turn = f' transform="rotate({-word.turn_deg:.1f} {x} {y})"' if word.turn_deg else ""
            parts.append(
                f'<text x="{x}" y="{y}" font-family="Atkinson Hyperlegible '
                f'Next, sans-serif" font-size="{word.height_m * per_metre:.2f}" '
                'text-anchor="middle" dominant-baseline="central" '
                f'fill="{ink}" stroke="none"{turn}>{escape(one_line(word.text))}</text>'
            )
        parts.append("</g>")
    left, low = _MARGIN_M * per_metre, height - 0.18 * per_metre
    parts.append(
        f'<g id="SCALE" stroke="#20242b" stroke-width="0.3"><path d="M{left:.2f} '
        f'{low - 1:.2f}v2M{left:.2f} {low:.2f}h{per_metre:.2f}m0 -1v2"/>'
        f'<text x="{left + per_metre + 2:.2f}" y="{low:.2f}" '
        'font-family="Atkinson Hyperlegible Next, sans-serif" font-size="3.4" '
        'dominant-baseline="central" fill="#20242b" stroke="none">1 m '
        f"(1:{1000 / per_metre:.0f})   {escape(one_line(sheet.title))}</text></g></svg>"
    )
    return "\n".join(parts)
