"""What follows from a shape alone: sizes, tape readings made to agree, modes as a job, the swell over a plane,
drawings.
"""

import base64
import hashlib
from typing import Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import SUPPORT, low_end_top_hz
from keenquiet.core.room.tape import Reading, squared_up
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.rigid import is_ready, rigid_modes
from keenquiet.documents.convert import room_of, scenario_of
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import RoomDoc
from keenquiet.service.answers.forecast import ShapeAnswer, shape_answer
from keenquiet.service.answers.tools import SquaredAnswer, SwellAnswer, TapeResidual
from keenquiet.service.jobs import Job, started
from keenquiet.service.predict import acoustics_of

_GRID_M: Final = 0.12
PLANES: Final = ("plan", "section-x", "section-y")


def shape_of_room(room: RoomDoc) -> ShapeAnswer:
    """Volume, areas, faces with their outlines, method."""
    return shape_answer(room_of(room), Frame.of(room))


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


def squared_answer(room: RoomDoc) -> SquaredAnswer:
    """The plan that fits the tape's readings best, how far each is off, and which is suspect."""
    readings = [Reading(r.start - 1, r.end - 1, r.length_m) for r in room.tape]
    if not readings:
        raise InputError("tape", "has no readings yet.", "Measure the walls and two diagonals.")
    plan = np.array(room.shape.plan)
    try:
        found = squared_up(plan, readings)
    except InputError as exc:
        raise InputError(f"tape.{exc.field}", exc.reason, exc.cure) from exc
    return SquaredAnswer(
        plan=found.plan,
        rms_m=found.rms_m,
        suspect=found.suspect,
        angles_deg=found.angles_deg,
        readings=[
            TapeResidual(start=r.start + 1, end=r.end + 1, length_m=r.length_m, residual_m=residual)
            for r, residual in zip(readings, found.residual_m, strict=True)
        ],
    )


def swell_answer(room: RoomDoc, arrangement_id: str | None, *, plane: str, height_m: float | None) -> SwellAnswer:
    """Pressure of every mode over a plane, relative to its largest anywhere on it: signed bytes, (n_modes, ny, nx).

    plane : `plan` at `height_m` (the microphone's when None), or `section-x` / `section-y` through the microphone.
    Outside the room -128.
    """
    if plane not in PLANES:
        raise InputError("plane", f"{plane!r} is not a plane.", f"Use one of {', '.join(PLANES)}.")
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    value, mic = scenario.room, np.array(scenario.arrangement.microphone.at)
    bounds = value.shape.bounds_m
    height = float(mic[2]) if height_m is None else height_m
    axes = {"plan": (0, 1), "section-x": (0, 2), "section-y": (1, 2)}[plane]
    first, second = (_steps(bounds[axis]) for axis in axes)
    grid = np.tile(mic, (len(second), len(first), 1))
    grid[..., axes[0]], grid[..., axes[1]] = np.meshgrid(first, second)
    if plane == "plan":
        grid[..., 2] = height
    inside = value.shape.contains(grid)
    if not np.any(inside):
        raise InputError(
            "height_m", f"{height:g} m lies outside the room.", f"Choose a height below {bounds[2]:.2f} m."
        )
    modes = acoustics.modes
    shown = modes.f_hz <= low_end_top_hz(value.shape)
    values = np.zeros((*grid.shape[:2], int(shown.sum())))
    pressure = modes.rigid.values(grid[inside]) @ modes.shapes[:, shown]
    # each mode turned so that its largest value is real: damped shapes are a little complex
    largest = pressure[np.argmax(np.abs(pressure), axis=0), np.arange(pressure.shape[1])]
    values[inside] = np.real(pressure / largest)
    at_mic = np.real((modes.rigid.values(mic) @ modes.shapes[:, shown]) / largest)
    bytes_ = np.where(inside[..., None], np.clip(np.round(values * 127), -127, 127), -128).astype(np.int8)
    return SwellAnswer(
        plane=plane,
        height_m=height,
        nx=len(first),
        ny=len(second),
        step_m=(float(first[1] - first[0]), float(second[1] - second[0])),
        start_m=(float(first[0]) + _offset(room, axes[0]), float(second[0]) + _offset(room, axes[1])),
        f_hz=np.round(modes.f_hz[shown], 2).tolist(),
        at_microphone=np.round(at_mic, 3).tolist(),
        values=base64.b64encode(np.moveaxis(bytes_, 2, 0).tobytes()).decode(),
    )


def _steps(length_m: float) -> FloatArray:
    count = max(int(np.ceil(length_m / _GRID_M)), 6)
    step = length_m / count
    steps: FloatArray = (np.arange(float(count)) + 0.5) * step
    return steps


def _offset(room: RoomDoc, axis: int) -> float:
    return Frame.of(room).offset[axis] if axis < 2 else 0.0


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
