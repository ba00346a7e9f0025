"""Which method gives a shape's rigid modes: closed form, a section times cosines, or finite elements in space."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Final, Literal, Protocol

import numpy as np

from keenquiet.core.room.room import Piece
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.box_modes import BoxModes

Method = Literal["box", "prism", "solid"]
Progress = Callable[[float], None]
_KEPT: Final = 12
CLOSET_FIRST_MODE_HZ: Final = 70.0  # from about here the first modes lie among the notes of a voice, not below them


class RigidModes(Protocol):
    """Rigid modes of a shape, lowest first, the constant one left out."""

    @property
    def orders(self) -> IntArray | None:
        """Orders along the axes of a box, (n, 3), else None."""

    @property
    def f_hz(self) -> FloatArray:
        """Frequencies, (n,). [Hz]"""

    @property
    def kinds(self) -> list[str]:
        """A word for each mode."""

    def values(self, points: FloatArray) -> FloatArray:
        """Mode shapes at points (..., 3), mean of psi^2 over the room 1: (..., n). [-]"""

    def overlap_m2(self, piece: Piece, rows: IntArray, columns: IntArray) -> FloatArray:
        """Signed integral of psi_m psi_n over a piece for pairs of modes, (n_pairs,). [m2]"""

    def rest(self, source: FloatArray, receiver: FloatArray, k: FloatArray) -> FloatArray:
        """V times the part of the Green's function that higher modes add, (..., n_k). [m2]"""


def method_for(shape: Shape) -> Method:
    """`box` for a box along the axes, `prism` for any plan under a flat ceiling and for sections over a rectangle, else
    `solid`.
    """
    if shape.box_size_m is not None:
        return "box"
    return "prism" if shape.cross_section is not None else "solid"


def first_mode_hz(shape: Shape, *, speed_m_s: float) -> float:
    """Half a wavelength over the longest way across: where the first mode of a room about that long lies. [Hz]"""
    points = np.concatenate([face.to_space(face.outline) for face in shape.faces])
    spans = np.ptp(points, axis=0)
    return speed_m_s / (2 * float(np.max(spans)))


_lock = threading.Lock()
_kept: OrderedDict[tuple[Shape, float, float], RigidModes] = OrderedDict()


def is_ready(shape: Shape, *, f_max_hz: float, speed_m_s: float) -> bool:
    """Whether the modes are at hand or quickly found; False when only the slow method will do and has not run yet."""
    return method_for(shape) != "solid" or (shape, f_max_hz, speed_m_s) in _kept


def rigid_modes(shape: Shape, *, f_max_hz: float, speed_m_s: float, progress: Progress | None = None) -> RigidModes:
    """Rigid modes up to a frequency; they depend on the shape alone and are kept for the last dozen shapes."""
    key = (shape, f_max_hz, speed_m_s)
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    method = method_for(shape)
    made: RigidModes
    if method == "box":
        made = BoxModes.of(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s)
    elif method == "prism":
        # finite elements take longest to load of all: boxes and light commands do without
        from keenquiet.core.waves.prism_modes import PrismModes

        made = PrismModes.of(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s)
    else:
        from keenquiet.core.waves.solid_modes import SolidModes

        made = SolidModes.of(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s, progress=progress)
    with _lock:
        _kept[key] = made
        while len(_kept) > _KEPT:
            _kept.popitem(last=False)
    return made
