"""A sheet as DXF: metres, one named layer for each kind of thing."""

from io import StringIO
from typing import Final

import ezdxf
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment

from keenquiet.documents.plain import one_line
from keenquiet.export.model import Flat
from keenquiet.export.sheet import LAYERS, Sheet

_COLOURS: Final = {
    "WALLS": 7,
    "CEILING": 8,
    "OPENINGS": 5,
    "COVERS": 3,
    "TREATMENT": 96,
    "FURNITURE": 33,
    "MARKS": 30,
    "DIMENSIONS": 8,
    "NAMES": 7,
}


def dxf_of_model(title: str, flats: list[Flat]) -> str:
    """The room in space as closed 3-D polylines, in metres."""
    drawing = _blank()
    drawing.header.custom_vars.append("title", one_line(title))
    for flat in flats:
        points = [tuple(float(v) for v in p) for p in flat.points]
        drawing.modelspace().add_polyline3d(points, close=len(points) > 2, dxfattribs={"layer": flat.layer})
    return _text(drawing)


def dxf_of(sheet: Sheet) -> str:
    """The drawing as an R2010 DXF in metres."""
    drawing = _blank()
    space = drawing.modelspace()
    for stroke in sheet.strokes:
        line = {"layer": stroke.layer, **({"linetype": "DASHED"} if stroke.is_dashed else {})}
        space.add_lwpolyline([(float(x), float(y)) for x, y in stroke.points], close=stroke.is_closed, dxfattribs=line)
    for word in sheet.words:
        text = space.add_text(
            one_line(word.text), height=word.height_m, rotation=word.turn_deg, dxfattribs={"layer": word.layer}
        )
        text.set_placement(word.at, align=TextEntityAlignment.MIDDLE_CENTER)
    return _text(drawing)


def _blank() -> Drawing:
    drawing = ezdxf.filemanagement.new("R2010", setup=["linetypes"])
    drawing.header["$INSUNITS"] = 6  # metres
    for layer in LAYERS:
        drawing.layers.add(layer, color=_COLOURS[layer])
    return drawing


def _text(drawing: Drawing) -> str:
    out = StringIO()
    drawing.write(out)
    return out.getvalue()
