import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import signal

from keenquiet.core.air import Air, attenuation_db_per_m
from keenquiet.core.bands import (
    A_WEIGHTING_OCTAVES_DB,
    OCTAVES_HZ,
    THIRDS_HZ,
    G,
    a_weighting_db,
    band_filter_sos,
    exact_octaves_hz,
    exact_thirds_hz,
    octaves_from_table,
)
from keenquiet.core.errors import InputError

# IEC 61260-1, class 1: offset from mid-band in octaves of base G -> least and most attenuation in dB.
CLASS_1 = [
    (0, -0.3, 0.3),
    (1 / 8, -0.3, 0.4),
    (1 / 4, -0.3, 0.6),
    (3 / 8, -0.3, 1.3),
    (1, 17.5, None),
    (2, 42, None),
    (3, 61, None),
    (4, 70, None),
]


@pytest.mark.parametrize(("offset", "least", "most"), CLASS_1)
@pytest.mark.parametrize("sign", [-1, 1])
def test_octave_filters_meet_class_1(offset, least, most, sign):
    centre, rate = 500.0, 48_000.0
    f = centre * G ** (sign * offset)
    _, response = signal.sosfreqz(band_filter_sos(centre, rate, 1), worN=[f], fs=rate)
    attenuation = -20 * np.log10(abs(response[0]))
    assert attenuation >= least
    assert most is None or attenuation <= most


def test_exact_centres_lie_within_3_percent_of_their_names():
    assert_allclose(exact_octaves_hz(), OCTAVES_HZ, rtol=0.03)
    assert_allclose(exact_thirds_hz(), THIRDS_HZ, rtol=0.03)


@pytest.mark.parametrize(("n", "db"), [(-15, -39.4), (-10, -19.1), (0, 0.0), (4, 1.3), (10, -2.5)])  # IEC 61672-1 table
def test_a_weighting_equals_the_standards_table(n, db):
    exact = 1000 * 10 ** (n / 10)  # the table holds for exact mid-bands
    assert a_weighting_db(np.array([exact]))[0] == pytest.approx(db, abs=0.06)


def test_octave_a_weights_are_the_curve_at_the_exact_centres():
    assert_allclose(A_WEIGHTING_OCTAVES_DB, a_weighting_db(exact_octaves_hz()), atol=0.11)


@pytest.mark.parametrize(
    ("temperature", "humidity", "db_per_km"),
    [  # ISO 9613-2, table 2, computed there from ISO 9613-1
        (10, 70, (0.1, 0.4, 1.0, 1.9, 3.7, 9.7, 32.8, 117)),
        (20, 70, (0.1, 0.3, 1.1, 2.8, 5.0, 9.0, 22.9, 76.6)),
        (15, 50, (0.1, 0.5, 1.2, 2.2, 4.2, 10.8, 36.2, 129)),
    ],
)
def test_air_absorbs_what_the_standard_says(temperature, humidity, db_per_km):
    found = 1000 * attenuation_db_per_m(exact_octaves_hz(), air=Air(temperature, humidity))
    assert_allclose(found, db_per_km, rtol=0.03, atol=0.055)


def test_speed_of_sound_at_20_degrees():
    assert Air().speed_m_s == pytest.approx(343.2, abs=0.1)


def test_levels_of_a_noise_go_on_as_they_fall_and_absorption_is_held():
    # 6 dB an octave between 2 and 4 kHz: 12 dB at 8 kHz; 12 dB an octave at most; one band alone says no slope
    falling = {"63": 47, "125": 47, "2000": 24, "4000": 18}
    told, held = (octaves_from_table(falling, field="a", low=0, high=130, sloped=sloped) for sloped in (True, False))
    assert (told[-1], held[-1]) == (pytest.approx(12.0), 18.0)
    steep = octaves_from_table({"2000": 50, "4000": 20}, field="a", low=-20, high=130, sloped=True)
    assert steep[-1] == pytest.approx(8.0)
    assert np.all(octaves_from_table({"1000": 30}, field="a", low=0, high=130, sloped=True) == 30)


def test_missing_ends_are_held_and_holes_interpolated():
    table = octaves_from_table({"125": 0.1, "500": 0.3}, field="a", low=0, high=1.2)
    assert_allclose(table[[0, 1, 2, 3, 7]], [0.1, 0.1, 0.2, 0.3, 0.3], atol=0.002)


@pytest.mark.parametrize("table", [{}, {"130": 0.1}, {"125": -0.1}, {"125": float("nan")}, {"125": 1.3}])
def test_a_bad_octave_table_is_refused(table):
    with pytest.raises(InputError):
        octaves_from_table(table, field="a", low=0, high=1.2)
