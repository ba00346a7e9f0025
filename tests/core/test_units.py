import pytest
from hypothesis import given
from hypothesis import strategies as st

from keenquiet.core.errors import InputError
from keenquiet.core.units import format_feet_inches, parse_length_m


@pytest.mark.parametrize(
    ("typed", "metres"),
    [  # by hand: 1 in = 0.0254 m, 1 ft = 0.3048 m
        ("3.62", 3.62),
        ("3,62 m", 3.62),
        ("362cm", 3.62),
        (" 3620 mm ", 3.62),
        (".5", 0.5),
        ("11' 10 1/2\"", 11 * 0.3048 + 10.5 * 0.0254),
        ("11’ 10½”", 11 * 0.3048 + 10.5 * 0.0254),
        ("11 ft 10", 11 * 0.3048 + 10 * 0.0254),
        ("9'4\"", 9 * 0.3048 + 4 * 0.0254),
        ("142.5 in", 142.5 * 0.0254),
        ("7'", 7 * 0.3048),
        ('3/4"', 0.75 * 0.0254),
        ("8 foot 3-1/4 inches", 8 * 0.3048 + 3.25 * 0.0254),
    ],
)
def test_lengths_are_read_as_people_type_them(typed, metres):
    assert parse_length_m(typed) == pytest.approx(metres, abs=1e-9)


@pytest.mark.parametrize("typed", ["", "abc", "-3", "nan", "inf", "3 4", "11' 10 1/0\"", "1e3", "3 km", "'"])
def test_what_is_no_length_is_refused_with_the_field_named(typed):
    with pytest.raises(InputError) as caught:
        parse_length_m(typed, field="width")
    assert caught.value.field == "width"
    assert caught.value.cure


@given(st.integers(1, 4000))
def test_what_an_imperial_tape_shows_reads_back_as_the_same_length(eighths):
    metres = eighths * 0.0254 / 8
    assert parse_length_m(format_feet_inches(metres)) == pytest.approx(metres, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "metres"), [("7 10", 2.3876), ("7'10", 2.3876), ("7 ft 10", 2.3876), ("7 10 1/2", 2.4003)]
)
def test_feet_and_inches_are_read_as_people_type_them(text, metres):  # by hand: 7 x 0.3048 + 10 x 0.0254
    assert parse_length_m(text, imperial=True) == pytest.approx(metres, abs=1e-9)


@pytest.mark.parametrize("text", ["3.30", "3,3", " 95 "])
def test_a_bare_number_is_asked_about_where_feet_are_meant(text):
    with pytest.raises(InputError, match="feet, inches or metres"):
        parse_length_m(text, imperial=True)
    assert parse_length_m(text) > 3
