"""What a room's shape takes: its modes as a job, drawings."""

import hashlib

from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import SUPPORT, low_end_top_hz
from keenquiet.core.waves.rigid import is_ready, rigid_modes
from keenquiet.documents.convert import room_of, scenario_of
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.jobs import Job, started


def modes_job(room: RoomDoc) -> Job[object] | None:
    """The job that finds this shape's modes when that is slow, None when they are at hand."""
    frame = Frame.of(room)
    speed = room_of(room).air.speed_m_s
    top_hz = SUPPORT * low_end_top_hz(frame.shape)
    if is_ready(frame.shape, f_max_hz=top_hz, speed_m_s=speed):
        return None
    key = "modes-" + hashlib.sha256(repr((frame.shape, top_hz, speed)).encode()).hexdigest()[:16]
    return started(
        key,
        "Working out how this shape swells",
        lambda report: rigid_modes(frame.shape, f_max_hz=top_hz, speed_m_s=speed, progress=report),
    )


def drawing(room: RoomDoc, arrangement_id: str | None, *, view: str, kind: str) -> tuple[str, str]:
    """A drawing as text, and its media type. kind : `svg` or `dxf`."""
    from keenquiet.export.dxf import dxf_of, dxf_of_model  # a library of its own, for this alone
    from keenquiet.export.model import flats_of, model_sheet
    from keenquiet.export.sheet import sheet_of
    from keenquiet.export.svg import svg_of

    value, arrangement = room_of(room), None
    if room.arrangements:
        scenario = scenario_of(room, room.arrangement_doc(arrangement_id), value)
        value, arrangement = scenario.room, scenario.arrangement
    if view == "model" and kind == "dxf":
        return dxf_of_model(f"{room.name}: model", flats_of(value, arrangement)), "image/vnd.dxf"
    sheet = model_sheet(value, arrangement) if view == "model" else sheet_of(value, arrangement, view)
    if kind == "svg":
        return svg_of(sheet), "image/svg+xml"
    if kind == "dxf":
        return dxf_of(sheet), "image/vnd.dxf"
    raise InputError("kind", f"{kind!r} is not a kind of drawing.", "Use svg or dxf.")
