"""Furniture: every row complete and in range, absorption by hand, bodies whose sides close and look outwards."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.errors import InputError, OutsideRoom
from keenquiet.core.room.furnishings import KINDS, Furnishing, kind_named

from ..conftest import plain_box


@pytest.mark.parametrize("kind", KINDS.values(), ids=lambda k: k.key)
def test_every_row_is_complete_and_in_range(kind):
    assert len(kind.alpha) == 8
    assert all(0 < a <= 1.0 for a in kind.alpha)
    assert 0 <= kind.scattering <= 1
    assert all(0.05 <= side <= 2.6 for side in kind.size_m)
    assert 0 <= kind.body[0] <= kind.body[1] <= 1
    assert kind.name == kind.name.lower()


def test_absorption_is_exposed_area_times_alpha():
    bed = Furnishing(KINDS["bed"], (1.0, 1.0), (2.0, 1.4, 0.5))
    exposed = 2.0 * 1.4 + (2 * 1.4 + 2.0) * 0.5  # the top, both ends and one long side
    assert_allclose(bed.absorption_area_m2, exposed * np.array(KINDS["bed"].alpha))


def test_an_open_full_wardrobe_swallows_more_than_an_open_empty_or_a_shut_one():
    shut, empty, full = (
        Furnishing(KINDS["wardrobe"], (1, 1), (0.9, 0.6, 2.0), is_open=is_open, fullness=share)
        for is_open, share in ((False, 1.0), (True, 0.0), (True, 1.0))
    )
    at_1k = [w.absorption_area_m2[4] for w in (shut, empty, full)]
    assert at_1k[2] > at_1k[1] + 1.0  # 1.8 m2 of opening, nine tenths against an eighth
    assert at_1k[1] == pytest.approx(at_1k[0], abs=0.25)


@pytest.mark.parametrize("turn", [0.0, 30.0, 137.0])
def test_sides_close_round_the_body_and_look_outwards(turn):
    piece = Furnishing(KINDS["wardrobe"], (2.0, 1.5), (0.9, 0.6, 2.0), turn)
    sides = [face for face, _ in piece.sides]
    assert sum(f.area_m2 for f in sides) == pytest.approx(2 * (0.9 + 0.6) * 2.0 + 0.9 * 0.6)
    middle = np.array([2.0, 1.5, 1.0])
    for face in sides:
        centre = face.to_space(face.outline).mean(axis=0)
        assert (centre - middle) @ face.normal > 0
    # upright sides cancel; what is left is the top
    assert_allclose(sum(f.area_m2 * f.normal for f in sides), [0, 0, 0.54], atol=1e-9)


def test_a_point_inside_is_inside_whichever_way_it_stands():
    piece = Furnishing(KINDS["wardrobe"], (2.0, 1.5), (0.9, 0.6, 2.0), 90.0)
    assert piece.encloses((2.0, 1.9, 1.0))  # half of 0.9 m now lies along y
    assert not piece.encloses((2.4, 1.5, 1.0))
    assert not piece.encloses((2.0, 1.5, 2.1))


@pytest.mark.parametrize(
    ("at", "size", "says"),
    [
        ((0.3, 1.5), (0.9, 0.6, 2.0), "through a wall"),
        ((2.0, 1.5), (0.9, 0.6, 2.7), "ceiling over it 2.50 m"),
        ((2.0, 1.5), (0.9, 0.6, 0.001), "measures"),
    ],
)
def test_what_cannot_stand_is_refused_with_its_figures(at, size, says):
    room = plain_box((4.0, 3.0, 2.5))
    with pytest.raises((InputError, OutsideRoom)) as refused:
        room.check_furnishing(Furnishing(KINDS["wardrobe"], at, size), field="furnishings.0")
    assert says in refused.value.reason
    assert refused.value.field.startswith("furnishings.0")


def test_a_kind_nobody_knows_is_named_with_those_that_are():
    with pytest.raises(InputError) as refused:
        kind_named("throne", field="furnishings.0.kind")
    assert "wardrobe" in refused.value.cure
