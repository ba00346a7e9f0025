"""What the modes left out of a sum add near a source: the Green's function at imaginary wavenumbers, by images.

For a reference wavenumber j kappa the Green's function dies out as exp(-kappa r)/(4 pi r): the source and its first
images give
it exactly enough, in any shape. Subtracting there, and to higher orders in k^2 + kappa^2, makes the modal sum converge
fast
(Kummer's transformation; L. Kantorovich, V. Krylov, Approximate Methods of Higher Analysis, chapter I).
"""

from typing import Final

import numpy as np

from keenquiet.core.room.shape import Shape
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.images import reflections

KAPPA: Final = 4.0  # images further than 2.5 m add less than 0.1 %
TERMS: Final = 3


def screened_moments(shape: Shape, source: FloatArray, receiver: FloatArray) -> FloatArray:
    """Sums over all modes psi psi / (V (kn^2 + kappa^2)^(j+1)) for j = 0, 1, 2, from images, (..., TERMS). [m^(2j-1)]

    source, receiver : (..., 3). [m]  By differentiation of exp(-kappa r)/(4 pi r) with respect to kappa^2.
    """
    _, exists, _, length = reflections(shape, source, receiver)
    straight = np.linalg.norm(np.asarray(source) - receiver, axis=-1)[..., None]
    r = np.concatenate([straight, length], axis=-1)
    there = np.concatenate([np.ones_like(straight), exists], axis=-1)
    fall = np.where(there, np.exp(-KAPPA * r), 0.0)
    terms = (1 / (4 * np.pi * r), 1 / (8 * np.pi * KAPPA), (1 + KAPPA * r) / (32 * np.pi * KAPPA**3))
    return np.stack([np.sum(fall * term, axis=-1) for term in terms], axis=-1)


def rest_beyond(
    shape: Shape,
    source: FloatArray,
    receiver: FloatArray,
    k: FloatArray,
    *,
    product: FloatArray,
    k_modes: FloatArray,
    volume: float,
) -> FloatArray:
    """V times the part of the Green's function that modes beyond the given ones add, (..., n_k). [m2]

    product : (..., n) psi(source) psi(receiver) of the given modes, the constant one left out. k_modes : (n,). [rad/m]
    """
    j = np.arange(TERMS)
    screened = volume * screened_moments(shape, source, receiver)
    known = product @ (k_modes[:, None] ** 2 + KAPPA**2) ** -(j + 1.0) + KAPPA ** -(2 * (j + 1.0))
    rest: FloatArray = (screened - known) @ (k**2 + KAPPA**2) ** j[:, None]
    return rest
