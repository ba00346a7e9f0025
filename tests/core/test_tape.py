"""Tape readings made to agree: exact ones give the plan, errors are spread, a misread one is found out."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.errors import InputError
from keenquiet.core.room.tape import Reading, inner_angles_deg, squared_up

DRAWN = np.array([[0, 0], [3.6, 0], [3.6, 2.8], [0, 2.8]])
PAIRS = [(0, 1), (1, 2), (2, 3), (3, 0), (0, 2), (1, 3)]


def taped(plan, errors=(0,) * 6):
    return [
        Reading(i, j, float(np.linalg.norm(plan[j] - plan[i])) + e) for (i, j), e in zip(PAIRS, errors, strict=True)
    ]


def test_exact_readings_of_a_crooked_room_give_that_room():
    crooked = np.array([[0, 0], [3.62, 0], [3.55, 2.84], [-0.03, 2.80]])
    found = squared_up(DRAWN, taped(crooked))
    assert_allclose(found.plan, crooked, atol=4e-3)  # softly held square: within the tape's own error
    assert found.rms_m < 3e-3
    assert found.suspect is None
    assert_allclose(found.angles_deg, inner_angles_deg(crooked), atol=0.15)


def test_small_errors_are_spread_and_told():
    square = np.array([[0, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]])
    found = squared_up(DRAWN, taped(square, (0.004, -0.003, -0.005, 0.002, 0.006, -0.004)))
    assert_allclose(found.plan, square, atol=0.015)  # 1 cm between the diagonals shears it by as much
    assert 2e-4 < found.rms_m < 0.006
    assert found.suspect is None


@pytest.mark.parametrize("wrong", range(6))
def test_the_one_reading_that_was_misread_is_the_suspect(wrong):
    square = np.array([[0, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]])
    errors = [0.002, -0.001, 0.001, -0.002, 0.001, 0.002]
    errors[wrong] += 0.10  # a decimetre misread
    assert squared_up(DRAWN, taped(square, errors)).suspect == wrong


def test_angles_of_a_square_and_a_triangle():
    assert_allclose(inner_angles_deg(DRAWN), 90)
    assert_allclose(inner_angles_deg(np.array([[0, 0], [1, 0], [0.5, np.sqrt(3) / 2]])), 60)


@pytest.mark.parametrize(
    "reading", [Reading(0, 0, 2.0), Reading(0, 9, 2.0), Reading(0, 1, 0.0), Reading(0, 1, float("nan"))]
)
def test_readings_that_say_nothing_are_named(reading):
    with pytest.raises(InputError) as refused:
        squared_up(DRAWN, [Reading(0, 1, 3.6), reading])
    assert refused.value.field == "readings.1"
