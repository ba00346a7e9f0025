"""Modes of true shapes: against published eigenvalues, closed forms, refined meshes and a complex solve with absorbing
walls.
"""

from dataclasses import replace

import numpy as np
import pytest
import skfem
from numpy.testing import assert_allclose
from scipy.linalg import eigh
from scipy.sparse.linalg import eigs
from skfem.models.poisson import laplace, mass

from keenquiet.core.air import Air
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import SOLID_TOP_HZ, SUPPORT
from keenquiet.core.room.room import Overlay, Room
from keenquiet.core.room.shape import Ceiling, Drop, Shape
from keenquiet.core.things.materials import own_material
from keenquiet.core.waves import elements, rigid
from keenquiet.core.waves.box_modes import BoxModes
from keenquiet.core.waves.modes import damped_modes
from keenquiet.core.waves.prism_modes import PrismModes
from keenquiet.core.waves.response import Transfer, level_db
from keenquiet.core.waves.solid_modes import SolidModes

from ..conftest import plain_box
from .test_shapes import ATTIC, ELL

C = Air().speed_m_s


def test_the_l_has_its_published_eigenvalues():
    """Neumann eigenvalues of the L of three unit squares.

    Source: M. Dauge, Benchmark computations for Maxwell equations (2004), the L-shaped domain; confirmed by the third,
    pi^2.
    """
    published = np.array([1.475621845, 3.534031366, 9.869604401, 9.869604401, 11.389479398])
    ell = Shape(((0, 0), (2, 0), (2, 1), (1, 1), (1, 2), (0, 2)), Ceiling.flat(2.4))
    modes = PrismModes.of(ell, f_max_hz=300, speed_m_s=C)
    flat = modes.f_hz[[kind == "plan" for kind in modes.kinds]][:5]
    assert_allclose((2 * np.pi * flat / C) ** 2, published, rtol=6e-4)  # 0.03 % in frequency


def test_an_isosceles_right_triangle_has_its_closed_form_by_both_methods():
    # Neumann modes of the half square: those of the square that are even about the diagonal, k = pi/a sqrt(m^2 + n^2),
    # m >= n
    a, h = 3.0, 2.5
    triangle = Shape(((0, 0), (a, 0), (0, a)), Ceiling.flat(h))
    m, n, l = np.meshgrid(*[np.arange(12)] * 3, indexing="ij")
    exact = C / 2 * np.sqrt((m**2 + n**2) / a**2 + (l / h) ** 2)[m >= n]
    exact = np.sort(exact[(exact > 0) & (exact < 190)])
    assert_allclose(PrismModes.of(triangle, f_max_hz=190, speed_m_s=C).f_hz, exact, rtol=2e-4)
    solid = SolidModes.of(triangle, f_max_hz=190 * SUPPORT, speed_m_s=C).f_hz
    assert_allclose(solid[: len(exact)], exact, rtol=3e-3)


def test_l_and_attic_modes_lie_within_three_per_mille_of_refined_elements():
    for shape in (ELL, ATTIC):
        used = PrismModes.of(shape, f_max_hz=200, speed_m_s=C).f_hz
        refined = PrismModes.of(shape, f_max_hz=400, speed_m_s=C).f_hz[: len(used)]  # half the step
        assert_allclose(used, refined, rtol=1e-3)
    # the attic's prism lies on its side: elements in space know nothing of that
    top_hz = SUPPORT * SOLID_TOP_HZ  # the mesh that a forecast uses
    solid = SolidModes.of(ATTIC, f_max_hz=top_hz, speed_m_s=C).f_hz
    prism = PrismModes.of(ATTIC, f_max_hz=top_hz, speed_m_s=C).f_hz
    below = prism < SOLID_TOP_HZ
    assert_allclose(solid[: below.sum()], prism[below], rtol=3e-3)


def test_a_box_gives_the_same_modes_and_damping_by_both_ways():
    room = plain_box(faces=[0.1, 0.3, 0.05, 0.2, 0.15, 0.08])
    trap = own_material("trap", {"125": 0.8, "250": 0.9, "500": 0.9}, field="x")
    room = replace(room, overlays=(Overlay("trap", 1, (0.3, 1.4, 0.2, 2.1), trap),))
    by_form = damped_modes(
        room, f_max_hz=250, rigid=BoxModes.of(room.shape, f_max_hz=250, speed_m_s=room.air.speed_m_s)
    )
    by_mesh = damped_modes(
        room, f_max_hz=250, rigid=PrismModes.of(room.shape, f_max_hz=250, speed_m_s=room.air.speed_m_s)
    )
    assert_allclose(by_mesh.f_hz, by_form.f_hz, rtol=1e-3)
    assert_allclose(by_mesh.decay_rate, by_form.decay_rate, rtol=5e-3)
    here, there = np.array((1.0, 0.8, 1.4)), np.array((2.6, 2.1, 1.2))
    f = np.arange(25.0, 210.0, 1.0)
    levels = [level_db(Transfer(room, modes).response(here, there, f)) for modes in (by_form, by_mesh)]
    assert_allclose(levels[0], levels[1], atol=0.3)


SIZE = (4.0, 3.0, 2.5)
SOFT = own_material("soft", {"63": 0.5, "125": 0.6, "250": 0.8, "500": 0.9}, field="x")
BARE = own_material("bare", dict.fromkeys(("63", "125", "250", "500"), 0.0), field="x")


def _complex_solve(x0, x1, target_hz):
    """Complex natural frequency nearest `target_hz` of the box whose wall y = 0 is soft from x0 to x1 over its whole
    height.

    Straight from the Helmholtz equation on quadratic bricks with dp/dn = -jk beta p: no modes, no perturbation.
    """
    mesh = skfem.MeshHex.init_tensor(*(np.linspace(0, side, n + 1) for side, n in zip(SIZE, (10, 6, 4), strict=True)))
    basis = skfem.Basis(mesh, skfem.ElementHex2())
    stiffness, masses = laplace.assemble(basis), mass.assemble(basis)
    soft = mesh.facets_satisfying(lambda x: (np.abs(x[1]) < 1e-9) & (x[0] > x0) & (x[0] < x1), boundaries_only=True)
    rim = mass.assemble(skfem.FacetBasis(mesh, basis.elem, facets=soft))
    k = 2 * np.pi * target_hz / C + 0j
    for _ in range(3):
        beta = SOFT.admittance(np.array([k.real * C / 2 / np.pi]), air=Air())[0]
        squared, _ = eigs((stiffness + 1j * k * beta * rim).tocsc(), k=1, M=masses.tocsc().astype(complex), sigma=k**2)
        k = np.sqrt(squared[0])
    return k.real * C / 2 / np.pi, abs(k.imag) * C


def test_a_soft_patch_damps_by_where_it_is_as_a_complex_solve_says():
    """The first length mode has its pressure at the ends: softness in a corner damps it, in the middle it hardly
    does.
    """
    bare = Room("r", plain_box(SIZE).shape, (BARE,) * 6)

    def first_mode(room):
        modes = damped_modes(room, f_max_hz=300)
        number = int(np.argmin(np.abs(modes.f_hz - C / 8)))
        return modes.f_hz[number], modes.decay_rate[number]

    rates = {}
    for name, x0, x1 in (("corner", 0.0, 0.8), ("middle", 1.6, 2.4)):
        patched = replace(bare, overlays=(Overlay("soft", 0, (x0, x1, 0.0, SIZE[2]), SOFT),))
        found_hz, found_rate = first_mode(patched)
        exact_hz, exact_rate = _complex_solve(x0, x1, C / 8)
        assert found_hz == pytest.approx(exact_hz, rel=3e-4)
        assert found_rate - first_mode(bare)[1] == pytest.approx(exact_rate, rel=0.015)  # less what the air takes
        rates[name] = exact_rate
    assert rates["corner"] > 5 * rates["middle"]


def test_a_step_in_the_ceiling_lies_between_the_two_heights():
    """A strip across the room lowered to 2.1 m: upright modes rise, by less than if the whole ceiling came down."""
    plan = ((0, 0), (4, 0), (4, 3), (0, 3))
    high, low = (Shape(plan, Ceiling.flat(z)) for z in (2.5, 2.1))
    stepped = Shape(plan, Ceiling.flat(2.5, (Drop((0, 1.5, 0, 1.7), 2.1),)))
    assert [rigid.method_for(s) for s in (high, stepped)] == ["box", "solid"]
    first = [BoxModes.of(s, f_max_hz=120, speed_m_s=C).f_hz for s in (high, low)]
    found = SolidModes.of(stepped, f_max_hz=120, speed_m_s=C)
    upright = C / 2 / np.array([2.5, 2.1])
    # counted: as many modes as Weyl's law with the edges' share expects, none lost
    assert len(first[1]) - 2 <= len(found.f_hz) <= len(first[0]) + 2
    values = found.values(np.array([[2.0, 1.5, 0.01], [2.0, 1.5, 2.49]]))
    turning = found.f_hz[(values[0] * values[1] < 0)]
    assert np.any((turning > upright[0]) & (turning < upright[1]))


def test_every_mode_shape_has_mean_square_one_and_no_slope_at_walls():
    modes = SolidModes.of(ATTIC, f_max_hz=160, speed_m_s=C)
    rng = np.random.default_rng(3)
    points = rng.uniform((0, 0, 0), (4.4, 3.3, 2.3), (60_000, 3))
    values = modes.values(points[ATTIC.contains(points)])
    assert_allclose(np.mean(values**2, axis=0), 1, atol=0.06)  # by chance, 60 000 points: about 0.01 each
    at, near = (modes.values(np.array([[x, 1.5, 1.0]])) for x in (1e-6, 0.02))
    assert_allclose(at, near, atol=0.02)


def test_a_room_too_large_for_elements_is_refused_with_a_way_out():
    hall = Shape(
        ((0, 0), (20, 0), (20, 16), (0, 16)), Ceiling(((0, 3.0), (8, 7.0), (16, 3.5)), "y", (Drop((2, 4, 2, 4), 2.6),))
    )
    with pytest.raises(InputError, match="unknowns") as refused:
        SolidModes.of(hall, f_max_hz=250, speed_m_s=C)
    assert refused.value.field == "shape"
    assert "200,000" in refused.value.reason


def test_lanczos_finds_what_a_dense_solver_finds():
    mesh, _ = elements.plan_mesh([ELL.polygon], step_m=0.25)
    k, _ = elements.eigenmodes(mesh, k_max=8.0, volume=11.0, count=55)
    basis = skfem.Basis(mesh, skfem.ElementTriP3())
    assert basis.N > elements._DENSE_UP_TO  # so that the iteration is what was tried
    squared = eigh(
        laplace.assemble(basis).toarray(), mass.assemble(basis).toarray(), eigvals_only=True, subset_by_index=(1, 90)
    )
    assert_allclose(k**2, squared[squared <= 64.0], rtol=1e-7)
