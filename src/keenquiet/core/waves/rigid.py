"""Which method gives a shape's rigid modes: closed form, a section times cosines, or finite elements in space."""

from collections.abc import Callable
from typing import Final, Literal, Protocol

from keenquiet.core.kept import Kept
from keenquiet.core.room.room import Piece
from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray, IntArray
from keenquiet.core.waves.box_modes import BoxModes

Method = Literal["box", "prism", "solid"]
Progress = Callable[[float], None]
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


def is_basis(one: object) -> bool:
    """Whether something is rigid modes: kept and weighed here, by whatever else they are held."""
    return hasattr(one, "overlap_m2")


# finite elements weigh most: a mesh with its fields some tens of megabytes
_kept: Final[Kept[tuple[Shape, float, float], RigidModes]] = Kept(most_bytes=150_000_000, most=12)


def is_ready(shape: Shape, *, f_max_hz: float, speed_m_s: float) -> bool:
    """Whether the modes are at hand or quickly found; False when only the slow method will do and has not run yet."""
    return method_for(shape) != "solid" or (shape, f_max_hz, speed_m_s) in _kept


def rigid_modes(shape: Shape, *, f_max_hz: float, speed_m_s: float, progress: Progress | None = None) -> RigidModes:
    """Rigid modes up to a frequency; they depend on the shape alone and are kept for the last dozen shapes."""
    return _kept.find(
        (shape, f_max_hz, speed_m_s), lambda: _made(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s, progress=progress)
    )


def _made(shape: Shape, *, f_max_hz: float, speed_m_s: float, progress: Progress | None) -> RigidModes:
    method = method_for(shape)
    if method == "box":
        return BoxModes.of(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s)
    if method == "prism":
        # finite elements take longest to load of all: boxes and light commands do without
        from keenquiet.core.waves.prism_modes import PrismModes

        return PrismModes.of(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s)
    from keenquiet.core.waves.solid_modes import SolidModes

    return SolidModes.of(shape, f_max_hz=f_max_hz, speed_m_s=speed_m_s, progress=progress)
