"""Where a trap hangs matters: its effect on the first modes against a complex finite-element solve of the wave equation
with the trap's impedance on its own facets, which shares no formula with the modal damping.
"""

import numpy as np
import pytest
import scipy.sparse.linalg
from skfem import Basis, BilinearForm, ElementHex2, FacetBasis, MeshHex
from skfem.helpers import dot, grad

from keenquiet.core.air import Air
from keenquiet.core.judge.forecast import Acoustics
from keenquiet.core.room.room import Overlay
from keenquiet.core.things.materials import computed_material
from keenquiet.core.things.porous import PorousAbsorber

from ..conftest import plain_box

LX, LY, LZ = 3.2, 2.6, 2.4
TRAP = PorousAbsorber(thickness_m=0.2, flow_resistivity=6000, gap_m=0.1)
# on the wall y = 0, u along x: in the corner on the floor, in the middle of the edge on the floor, in the wall's middle
PLACES = {"corner": (0.0, 0.8, 0.0, 1.2), "edge": (1.2, 2.0, 0.0, 1.2), "middle": (1.2, 2.0, 0.6, 1.8)}


@BilinearForm
def stiffness(p, q, _):
    return dot(grad(p), grad(q))


@BilinearForm
def mass(p, q, _):
    return p * q


def _solved(rect, f_guess, beta_of, walls_beta):
    """Complex eigenfrequencies nearest to guesses, fixed-point over the impedance's own frequency."""
    u0, u1, v0, v1 = rect
    lines = [np.unique(np.round([*np.linspace(0, LX, 9), u0, u1], 6)), np.linspace(0, LY, 7)]
    lines.append(np.unique(np.round([*np.linspace(0, LZ, 7), v0, v1], 6)))
    mesh = MeshHex.init_tensor(*lines)
    basis = Basis(mesh, ElementHex2())
    k, m = stiffness.assemble(basis), mass.assemble(basis)
    hung = mesh.facets_satisfying(
        lambda x: (np.abs(x[1]) < 1e-9) & (x[0] > u0) & (x[0] < u1) & (x[2] > v0) & (x[2] < v1), boundaries_only=True
    )
    rest = np.setdiff1d(mesh.boundary_facets(), hung)
    on_trap = mass.assemble(FacetBasis(mesh, ElementHex2(), facets=hung))
    on_walls = mass.assemble(FacetBasis(mesh, ElementHex2(), facets=rest))
    c = Air().speed_m_s
    found = []
    for f in f_guess:
        wave = 2 * np.pi * f / c + 0j
        for _ in range(6):
            beta = beta_of(max(wave.real * c / (2 * np.pi), 20.0))
            lossy = (k + 1j * wave * (beta * on_trap + walls_beta * on_walls)).tocsc()
            values = scipy.sparse.linalg.eigs(lossy, k=2, M=m.tocsc(), sigma=wave**2, return_eigenvectors=False)
            wave = np.sqrt(values[np.argmin(np.abs(values - wave**2))])
        found.append(wave * c)
    return np.array(found)


@pytest.mark.parametrize("place", PLACES)
def test_a_trap_takes_from_the_first_modes_what_finite_elements_say(place):
    air = Air()
    room = plain_box(size=(LX, LY, LZ), alpha=0.02)
    material = computed_material(TRAP, air=air)
    hung = Overlay("trap", 0, PLACES[place], material, is_treatment=True, kind="panel")
    modes = Acoustics(room.with_overlays((hung,))).modes
    walls = float(room.materials[0].admittance(np.array([60.0]), air=air)[0].real)
    chosen = np.argsort(modes.f_hz)[:4]
    omega = _solved(
        PLACES[place], modes.f_hz[chosen], lambda f: complex(material.admittance(np.array([f]), air=air)[0]), walls
    )
    # exp(+j w t): a wave that fades has a positive imaginary part
    np.testing.assert_allclose(omega.imag, modes.decay_rate[chosen], rtol=0.10, atol=0.1)
    np.testing.assert_allclose(omega.real / (2 * np.pi), modes.f_hz[chosen], rtol=0.01)
