import numpy as np
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.air import Air
from keenquiet.core.errors import InputError
from keenquiet.core.room.furnishings import KINDS
from keenquiet.core.things.materials import CATALOGUE, computed_material
from keenquiet.core.things.porous import (
    PorousAbsorber,
    absorption_at,
    diffuse_absorption,
    octave_absorption,
    real_admittance,
)


def test_the_catalogue_has_seventy_materials_and_every_row_is_whole():
    assert len(CATALOGUE) >= 70
    for key, material in CATALOGUE.items():
        assert key == material.key
        assert material.name
        assert material.group
        assert material.source
        assert material.confidence in ("table", "computed", "estimate", "definition")
        assert material.absorption.shape == material.scattering.shape == (8,)
        assert np.all((material.absorption >= 0) & (material.absorption <= 1.2))
        assert np.all((material.scattering >= 0) & (material.scattering <= 1))
        assert 63 in material.filled or material.absorber is not None, f"{key}: textbooks begin at 125 Hz"


@pytest.mark.parametrize(
    ("key", "alpha"),
    [
        ("plaster-on-brick", (0.013, 0.015, 0.02, 0.03, 0.04, 0.05)),
        ("carpet-on-felt", (0.08, 0.08, 0.30, 0.60, 0.75, 0.80)),
    ],
)
def test_rows_hold_the_textbook_figures(key, alpha):
    assert_allclose(CATALOGUE[key].absorption[1:7], alpha)


def test_every_furnishing_absorbs_and_no_more_than_its_surface():
    for kind in KINDS.values():
        assert all(0 < a <= 1 for a in kind.alpha)
        assert len(kind.alpha) == 8


def test_a_layer_on_a_rigid_wall_is_the_cotangent_closed_form():
    # Z = -j Zc cot(k d): the classical result, written out here on its own
    f, sigma, d = np.array([125.0, 500.0, 2000.0]), 12_000.0, 0.05
    x = f / sigma
    zc = 1 + 0.070 * x**-0.632 - 0.107j * x**-0.632
    k = 2 * np.pi * f / Air().speed_m_s * (1 + 0.109 * x**-0.618 - 0.160j * x**-0.618)
    z = -1j * zc / np.tan(k * d)
    expected = 1 - abs((z - 1) / (z + 1)) ** 2
    found = absorption_at(PorousAbsorber(d, sigma), f, angle_rad=np.zeros(1), air=Air())[0]
    assert_allclose(found, expected, rtol=1e-9)


def test_a_quarter_wave_gap_works_a_thin_layer_hardest():
    # a resistive sheet of about rho c, a quarter wavelength off the wall, absorbs nearly everything
    sheet = PorousAbsorber(
        thickness_m=0.02, flow_resistivity=20_600, gap_m=0.1616
    )  # gap + half the layer = lambda/4 at 500 Hz
    alpha = absorption_at(sheet, np.array([500.0, 1000.0]), angle_rad=np.zeros(1), air=Air())[0]
    assert alpha[0] > 0.97
    assert alpha[1] < 0.5  # half a wavelength: the wall pulls the pressure up and the velocity away


def test_thin_foam_has_no_bass_and_a_thick_panel_has():
    thin = octave_absorption(PorousAbsorber(0.025, 9000), air=Air())[1]
    thick = octave_absorption(PorousAbsorber(0.2, 6000, 0.1), air=Air())[1]
    assert thin[1] < 0.1 < 0.6 < thick[1]


def test_random_incidence_is_the_paris_integral():
    absorber, f = PorousAbsorber(0.1, 12_000, 0.05), np.array([250.0])
    angles = (np.arange(20_000) + 0.5) / 20_000 * np.pi / 2
    alpha = absorption_at(absorber, f, angle_rad=angles, air=Air())[:, 0]
    expected = np.sum(alpha * np.sin(2 * angles)) * (np.pi / 2 / 20_000)
    assert diffuse_absorption(absorber, f, air=Air())[0] == pytest.approx(expected, rel=2e-3)


@pytest.mark.parametrize("z", [2.0, 5.0, 50.0, 1000.0])
def test_admittance_inverts_the_formula_it_comes_from(z):
    alpha = 8 / z * (1 + 1 / (1 + z) - 2 / z * np.log(1 + z))
    assert real_admittance(np.array([alpha]))[0] == pytest.approx(1 / z, rel=1e-3)


@pytest.mark.parametrize("bad", [{"thickness_m": 0.0}, {"flow_resistivity": float("nan")}, {"gap_m": -0.01}])
def test_an_impossible_absorber_is_refused(bad):
    with pytest.raises(InputError):
        PorousAbsorber(**({"thickness_m": 0.1, "flow_resistivity": 12_000} | bad))


def test_a_curtain_does_not_beat_a_deep_trap_in_the_bass():
    curtain = CATALOGUE["curtain-cotton"]
    trap = computed_material(PorousAbsorber(thickness_m=0.20, flow_resistivity=6_000, gap_m=0.10))
    low = np.array([50.0, 63.0, 87.0])
    assert np.all(curtain.admittance(low, air=Air()).real < 0.5 * trap.admittance(low, air=Air()).real)
    # the layer itself: 0.5 kg/m2 of resistive cloth 130 mm from a wall falls by 6 dB for each octave down
    sheet = [0.25 / (0.25**2 + (1 / np.tan(2 * np.pi * f / 343.2 * 0.13)) ** 2) for f in (31.5, 63.0)]
    ratio = np.divide(*curtain.admittance(np.array([31.5, 63.0]), air=Air()).real)
    assert ratio == pytest.approx(sheet[0] / sheet[1], rel=0.15)


def test_what_hangs_before_a_wall_never_takes_away_what_the_wall_did():
    board, duvet = CATALOGUE["plasterboard-on-studs"], CATALOGUE["duvet-hung"]
    hung = duvet.over(board)
    assert np.all(hung.absorption >= np.maximum(board.absorption, duvet.absorption) - 1e-12)
    f = np.geomspace(40, 300, 20)
    both = [m.admittance(f, air=Air()).real for m in (hung, board, duvet)]
    assert np.all(both[0] >= np.maximum(both[1], both[2]) - 1e-12)
    assert duvet.over(board) is hung  # one object: the rest of the core tells materials apart by identity


def test_a_band_is_the_mean_over_it_however_steep_the_curve():
    steep = PorousAbsorber(thickness_m=0.10, flow_resistivity=12_000, gap_m=0.30)
    edges = [(f / 2**0.5, f * 2**0.5) for f in (125, 250, 500, 1000)]
    normal, _ = octave_absorption(steep, air=Air())
    for found, (low, high) in zip(normal[1:5], edges, strict=True):
        fine = np.geomspace(low, high, 400)
        known = absorption_at(steep, fine, angle_rad=np.zeros(1), air=Air())[0]
        assert found == pytest.approx(np.trapezoid(known, np.log(fine)) / np.log(high / low), abs=0.006)
