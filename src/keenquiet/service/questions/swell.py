"""Pressure of every mode over a plane of the room."""

import base64
from typing import Annotated, Final

import numpy as np
from pydantic import Field

from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import low_end_top_hz
from keenquiet.core.types import FloatArray
from keenquiet.service.answers.numbers import Answer
from keenquiet.service.case import Case
from keenquiet.service.questions.base import ArrangementAsk, Question

_GRID_M: Final = 0.12
PLANES: Final = {"plan": (0, 1), "section-x": (0, 2), "section-y": (1, 2)}  # and their axes


class SwellAsk(ArrangementAsk):
    """plane : `plan` at `height_m` (the microphone's when null), `section-x` or `section-y` through the microphone."""

    plane: str = "plan"
    height_m: Annotated[float, Field(gt=0, lt=30)] | None = None


class SwellAnswer(Answer):
    """Pressure of every mode over a plane: signed bytes (n_modes, ny, nx) as base64, -128 outside."""

    plane: str
    height_m: float
    nx: int
    ny: int
    step_m: tuple[float, float]
    start_m: tuple[float, float]
    f_hz: list[float]
    at_microphone: list[float]
    values: str


def swell(case: Case, asked: SwellAsk) -> SwellAnswer:
    """Pressure of every mode over a plane of the room.

    Relative to its largest anywhere on it: signed bytes, (n_modes, ny, nx), outside the room -128.
    """
    plane = asked.plane
    if plane not in PLANES:
        raise InputError("plane", f"{plane!r} is not a plane.", f"Use one of {', '.join(PLANES)}.")
    shape, mic, axes = case.scenario.room.shape, np.array(case.stand.microphone.at), PLANES[plane]
    bounds = shape.bounds_m
    height = float(mic[2]) if asked.height_m is None else asked.height_m
    first, second = (_steps(bounds[axis]) for axis in axes)
    grid = np.tile(mic, (len(second), len(first), 1))
    grid[..., axes[0]], grid[..., axes[1]] = np.meshgrid(first, second)
    if plane == "plan":
        grid[..., 2] = height
    inside = shape.contains(grid)
    if not np.any(inside):
        raise InputError(
            "height_m", f"{height:g} m lies outside the room.", f"Choose a height below {bounds[2]:.2f} m."
        )
    modes = case.acoustics.modes
    shown = modes.f_hz <= low_end_top_hz(shape)
    values = np.zeros((*grid.shape[:2], int(shown.sum())))
    pressure = modes.rigid.values(grid[inside]) @ modes.shapes[:, shown]
    # each mode turned so that its largest value is real: damped shapes are a little complex
    largest = pressure[np.argmax(np.abs(pressure), axis=0), np.arange(pressure.shape[1])]
    values[inside] = np.real(pressure / largest)
    at_mic = np.real((modes.rigid.values(mic) @ modes.shapes[:, shown]) / largest)
    bytes_ = np.where(inside[..., None], np.clip(np.round(values * 127), -127, 127), -128).astype(np.int8)
    offset = (*case.frame.offset, 0.0)
    return SwellAnswer(
        plane=plane,
        height_m=height,
        nx=len(first),
        ny=len(second),
        step_m=(float(first[1] - first[0]), float(second[1] - second[0])),
        start_m=(float(first[0]) + offset[axes[0]], float(second[0]) + offset[axes[1]]),
        f_hz=np.round(modes.f_hz[shown], 2).tolist(),
        at_microphone=np.round(at_mic, 3).tolist(),
        values=base64.b64encode(np.moveaxis(bytes_, 2, 0).tobytes()).decode(),
    )


def _steps(length_m: float) -> FloatArray:
    count = max(int(np.ceil(length_m / _GRID_M)), 6)
    step = length_m / count
    steps: FloatArray = (np.arange(float(count)) + 0.5) * step
    return steps


SWELL = Question("swell", SwellAsk, SwellAnswer, swell, heard="not here")
