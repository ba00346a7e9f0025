"""Candidate places: a box from what was typed, softness that sounds like its word, a corner across the room."""

from itertools import pairwise

import pytest

from keenquiet.core.errors import InputError
from keenquiet.documents.convert import check_document, read_room
from keenquiet.service.candidates import SOFTNESS, another_corner, box_document
from keenquiet.service.predict import predict

SIZES = {"length": "11' 10 1/2\"", "width": "2,84 m", "height": "241cm"}


def test_sizes_are_read_as_typed_and_the_room_stands():
    document = box_document(name=" Landing ", **SIZES, project=" Duo ")
    check_document(read_room(document))
    assert document["shape"]["plan"][2] == pytest.approx([3.6195, 2.84])
    assert document["shape"]["ceiling"]["height_m"] == pytest.approx(2.41)
    assert (document["name"], document["project"], document["guessed"]) == ("Landing", "Duo", False)


@pytest.mark.parametrize("sizes", [("0.9", "0.7", "2.0"), ("12", "8", "3"), ("0.5", "25", "0.6")])
@pytest.mark.parametrize("softness", ["", *SOFTNESS])
def test_any_box_from_a_cupboard_to_a_hall_stands_with_its_cloth(sizes, softness):
    length, width, height = sizes
    check_document(read_room(box_document(name="x", length=length, width=width, height=height, softness=softness)))


def test_each_word_for_softness_is_deader_than_the_one_before():
    fades = [
        float(predict(read_room(box_document(name="x", **SIZES, softness=word))).decay.middle_s[4]) for word in SOFTNESS
    ]
    assert all(later < 0.85 * earlier for earlier, later in pairwise(fades))


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"length": "40 m"}, "length"),
        ({"width": "wide"}, "width"),
        ({"height": "0"}, "height"),
        ({"softness": "fluffy"}, "softness"),
    ],
)
def test_what_cannot_be_is_named(change, field):
    with pytest.raises(InputError) as refused:
        box_document(name="x", **(SIZES | change))
    assert refused.value.field == field


def test_a_corner_across_twice_is_the_corner_itself():
    document = box_document(name="x", **SIZES)
    there = another_corner(document)
    back = another_corner(there)
    for who, key in (("performer", "faces_deg"), ("microphone", "aims_deg")):
        first, last = document["arrangements"][0][who], back["arrangements"][0][who]
        assert last["at"] == pytest.approx(first["at"], abs=2e-3)
        assert last[key] == pytest.approx(first[key])
        assert there["arrangements"][0][who]["at"] != first["at"]
