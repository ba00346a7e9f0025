"""Shapes: sizes against the divergence theorem and by hand, and everything that no room can be built from."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from keenquiet.core.errors import InputError
from keenquiet.core.room.shape import Ceiling, Drop, Shape

ATTIC = Shape(
    ((0, 0), (4.4, 0), (4.4, 3.3), (0, 3.3)), Ceiling(((0, 0.95), (1.35, 2.3), (1.95, 2.3), (3.3, 0.95)), "y")
)
ELL = Shape(((0, 0), (4, 0), (4, 2), (2, 2), (2, 3.5), (0, 3.5)), Ceiling.flat(2.5))
STEPPED = Shape(ELL.plan, Ceiling.flat(2.5, (Drop((0.0, 2.0, 0.0, 1.0), 2.1),)))
SLOPED_ELL = Shape(ELL.plan, Ceiling(((0, 2.6), (4, 1.6)), "x"))


def gauss_volume(shape):
    """A third of the flux of (x, y, z) through all faces, each cut into triangles: the divergence theorem."""
    total = 0.0
    for face in shape.faces:
        # the flux through a plane face is its area times the plane's distance from the origin
        total -= face.area_m2 * float(face.origin @ face.normal)
    return total / 3


@pytest.mark.parametrize(
    ("shape", "floor", "volume", "surface"),
    [  # by hand: attic 4.4 x (3.3 x 0.95 + (3.3 + 0.6) / 2 x 1.35); slopes 1.35 sqrt 2 wide
        (
            ATTIC,
            4.4 * 3.3,
            4.4 * (3.3 * 0.95 + 1.95 * 1.35),
            4.4 * 3.3 + 4.4 * (0.6 + 2 * 1.35 * np.sqrt(2)) + 2 * 4.4 * 0.95 + 2 * (3.3 * 0.95 + 1.95 * 1.35),
        ),
        (ELL, 11.0, 27.5, 22.0 + 15.0 * 2.5),
        # the drop, 2 x 1 m and 0.4 m down, takes its volume and adds its two free sides but covers the same stretch of
        # two walls
        (STEPPED, 11.0, 27.5 - 0.8, 22.0 + 15.0 * 2.5),
    ],
)
def test_floor_volume_and_surface_by_hand(shape, floor, volume, surface):
    assert shape.floor_area_m2 == pytest.approx(floor, rel=1e-9)
    assert shape.volume_m3 == pytest.approx(volume, rel=1e-9)
    assert sum(face.area_m2 for face in shape.faces) == pytest.approx(surface, rel=1e-9)


@pytest.mark.parametrize("shape", [ATTIC, ELL, STEPPED, SLOPED_ELL])
def test_the_faces_close_around_the_volume(shape):
    assert gauss_volume(shape) == pytest.approx(shape.volume_m3, rel=1e-9)
    # and a closed surface has no net area: the normals weighted by area cancel
    assert_allclose(sum(face.area_m2 * face.normal for face in shape.faces), 0, atol=1e-9)


@settings(max_examples=40, deadline=None)
@given(
    sizes=st.tuples(*[st.floats(0.6, 6)] * 4),
    heights=st.tuples(st.floats(1.2, 3), st.floats(1.2, 3)),
    along=st.sampled_from("xy"),
)
def test_any_sloped_l_closes_around_its_volume(sizes, heights, along):
    a, b, c, d = sizes
    plan = ((0, 0), (a + b, 0), (a + b, c), (a, c), (a, c + d), (0, c + d))
    end = a + b if along == "x" else c + d
    shape = Shape(plan, Ceiling(((0, heights[0]), (end, heights[1])), along))
    assert gauss_volume(shape) == pytest.approx(shape.volume_m3, rel=1e-6)


def test_what_is_inside_an_attic_is_below_its_slope():
    points = np.array([[2.0, 0.2, 1.1], [2.0, 0.2, 1.2], [2.0, 1.65, 2.29], [2.0, 1.65, 2.31], [5.0, 1.0, 0.5]])
    assert ATTIC.contains(points).tolist() == [True, False, True, False, False]
    assert ELL.contains(np.array([[1.0, 3.0, 1.0], [3.0, 3.0, 1.0], [np.nan, 1, 1]])).tolist() == [True, False, False]


def test_walls_are_named_along_the_plan_and_measured_from_their_first_corner():
    wall = {f.name: f for f in ATTIC.faces}["wall-2"]  # x = 4.4, from y = 0 to y = 3.3
    assert_allclose(wall.to_space(np.array([[0.0, 0.0], [1.0, 0.5]])), [[4.4, 0, 0], [4.4, 1.0, 0.5]], atol=1e-12)
    assert_allclose(wall.normal, [-1, 0, 0], atol=1e-12)


@pytest.mark.parametrize(
    ("plan", "says"),
    [
        (((0, 0), (3, 3), (3, 0), (0, 3)), "cross or touch"),
        (((0, 0), (0, 3), (4, 3), (4, 0)), "clockwise"),
        (((0, 0), (4, 0), (4, 0), (4, 3), (0, 3)), "same point"),
        (((0, 0), (4, 0), (4.02, 0.02), (4, 3), (0, 3)), "2.8 cm apart"),
        (((0, 0), (4, 0), (4, 3), (2.02, 3), (2.02, 1), (1.98, 1), (1.98, 3), (0, 3)), "4.0 cm apart"),
        (((0, 0), (4, 0), (4, 3), (2.0, 3), (2.03, 0.02), (1.9, 3), (0, 3)), "sliver"),
        (((0, 0), (30, 0), (30, 3), (0, 3)), "30 m"),
        (((0, 0), (4, 0)), "three or more"),
        (((0, 0), (4, float("nan")), (4, 3), (0, 3)), "three or more"),
    ],
)
def test_plans_that_cannot_stand_are_named(plan, says):
    with pytest.raises(InputError, match=r".*") as refused:
        Shape(plan, Ceiling.flat(2.4))
    assert refused.value.field == "shape.plan"
    assert says in refused.value.reason
    assert refused.value.cure


@pytest.mark.parametrize(
    ("ceiling", "field", "says"),
    [
        (Ceiling(((0, 0.0), (3, 2.4)), "y"), "shape.ceiling.profile", "meets the floor"),
        (Ceiling.flat(-1.0), "shape.ceiling.height_m", "meets the floor"),
        (Ceiling.flat(float("nan")), "shape.ceiling.height_m", "not a number"),
        (Ceiling(((2, 2.0), (1, 2.4)), "y"), "shape.ceiling.profile", "runs back"),
        (Ceiling.flat(2.4, (Drop((9, 10, 0, 1), 2.0),)), "shape.ceiling.drops.0", "outside the room"),
        (Ceiling.flat(2.4, (Drop((1, 1.01, 0, 1), 2.0),)), "shape.ceiling.drops.0", "5 cm"),
        (Ceiling.flat(2.4, (Drop((1, 2, 0, 1), 0.1),)), "shape.ceiling.drops.0.height_m", "no height"),
    ],
)
def test_ceilings_that_cannot_be_are_named(ceiling, field, says):
    with pytest.raises(InputError) as refused:
        Shape(((0, 0), (4, 0), (4, 3), (0, 3)), ceiling)
    assert (refused.value.field, says in refused.value.reason) == (field, True)
