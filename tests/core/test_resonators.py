"""Tuned absorbers and cloth against the textbook's resonances and closed forms."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keenquiet.core.air import Air
from keenquiet.core.errors import InputError
from keenquiet.core.things.pieces import membrane_for
from keenquiet.core.things.porous import diffuse_absorption
from keenquiet.core.things.resonators import Backing, Cloth, Membrane, Perforated

AIR = Air()
NORMAL = np.array([0.0])


def normal_absorption(made, f_hz):
    z = made.impedance(np.asarray(f_hz, dtype=float), angle_rad=NORMAL, air=AIR)[0]
    return 1 - np.abs((z - 1) / (z + 1)) ** 2


@pytest.mark.parametrize(("mass", "gap"), [(4.0, 0.1), (10.0, 0.05), (1.5, 0.2)])
def test_a_board_before_a_gap_swallows_most_near_sixty_over_root_md(mass, gap):
    board = Membrane(mass, Backing(gap))
    rule = 60 / np.sqrt(mass * gap)  # the practitioners' rule, metres and kg/m2
    # deep boxes lie a little under it: tan x is more than x
    assert board.resonance_hz(air=AIR) == pytest.approx(rule, rel=0.03)
    f = np.geomspace(20, 1000, 2000)
    assert f[np.argmax(normal_absorption(board, f))] == pytest.approx(rule, rel=0.04)


def test_holes_resonate_as_helmholtz_says():
    # 5 mm holes, 5 % open, 10 mm board, 50 mm deep; by hand with the single hole's end correction 2 x 0.85 a and Fok's
    # factor
    e, d, board, gap = 0.05, 0.005, 0.010, 0.05
    neck = board + 2 * 0.85 * (d / 2) * (1 - 1.47 * np.sqrt(e) + 0.47 * np.sqrt(e**3))
    by_hand = AIR.speed_m_s / (2 * np.pi) * np.sqrt(e / (neck * gap))
    made = Perforated(e, d, board, Backing(gap))
    assert made.resonance_hz(air=AIR) == pytest.approx(by_hand, rel=0.04)  # x against tan x at 500 Hz and 5 cm
    f = np.geomspace(100, 3000, 4000)
    assert f[np.argmax(normal_absorption(made, f))] == pytest.approx(by_hand, rel=0.05)


def test_a_deeper_gap_tunes_lower_and_wool_widens():
    f = np.geomspace(60, 2000, 800)
    shallow, deep = (Perforated(0.04, 0.006, 0.012, Backing(g)) for g in (0.05, 0.2))
    assert deep.resonance_hz(air=AIR) == pytest.approx(shallow.resonance_hz(air=AIR) / 2, rel=0.07)  # x against tan x
    bare, filled = (
        normal_absorption(Perforated(0.04, 0.006, 0.012, b), f) for b in (Backing(0.1), Backing(0.05, 0.05, 10_000))
    )
    assert np.mean(filled > 0.5) > 1.5 * np.mean(bare > 0.5)


@pytest.mark.parametrize("note_hz", [65.4, 98.0, 130.8])
@pytest.mark.parametrize("fill_m", [0.0, 0.05, 0.10])
def test_a_board_made_for_a_note_swallows_most_there_whatever_the_box_is_filled_with(note_hz, fill_m):
    board = membrane_for(note_hz, depth_m=0.14, fill_m=fill_m)
    assert 1.0 < board.mass_kg_m2 < 20.0
    assert board.resonance_hz(air=AIR) == pytest.approx(note_hz, rel=1e-6)
    f = np.geomspace(note_hz / 2, 2 * note_hz, 4000)
    # what it takes peaks where the reactance is 0, a third of a semitone aside for the resistance grows with pitch
    assert 12 * abs(np.log2(f[np.argmax(normal_absorption(board, f))] / note_hz)) < 0.34


def test_a_box_full_of_wool_sounds_lower_than_an_empty_one_as_its_air_is_softer():
    # in wool heat is exchanged: the spring is that of constant temperature, softer by 1.4, so 60 becomes 50.7
    empty, full = (Membrane(10.0, back).resonance_hz(air=AIR) for back in (Backing(0.1), Backing(0.0, 0.1, 5000)))
    assert empty == pytest.approx(60 / np.sqrt(10.0 * 0.1), rel=0.02)
    assert full == pytest.approx(50.7 / np.sqrt(10.0 * 0.1), rel=0.03)


def test_a_heavy_sheet_of_rho_c_swallows_all_a_quarter_wave_off_the_wall():
    gap = 0.2
    rho_c = AIR.density_kg_m3 * AIR.speed_m_s
    sheet = Cloth(3.0, gap, fullness=1.0, resistance=rho_c)
    quarter = AIR.speed_m_s / (4 * gap)
    # z = 1 + j0 in front of a quarter wave of air, but for the mass of 3 kg/m2: |r / jwm| = 0.05
    assert normal_absorption(sheet, [quarter])[0] == pytest.approx(1.0, abs=0.01)
    assert normal_absorption(sheet, [2 * quarter])[0] < 0.02  # half a wave: no motion at the cloth


@settings(max_examples=60, deadline=None)
@given(
    mass=st.floats(0.2, 20),
    gap=st.floats(0.01, 0.5),
    fill=st.floats(0, 0.3),
    e=st.floats(0.005, 0.4),
    hole=st.floats(0.001, 0.03),
)
def test_nothing_passive_swallows_more_than_everything(mass, gap, fill, e, hole):
    f = np.geomspace(50, 8000, 40)
    for made in (
        Membrane(mass, Backing(gap, fill)),
        Perforated(e, hole, 0.01, Backing(gap, fill)),
        Cloth(min(mass, 3), gap),
    ):
        for alpha in (normal_absorption(made, f), diffuse_absorption(made, f, air=AIR)):
            assert np.all((alpha >= -1e-9) & (alpha <= 1 + 1e-9))


@pytest.mark.parametrize(
    ("make", "field"),
    [
        (lambda: Membrane(0.0, Backing(0.1)), "absorber.mass_kg_m2"),
        (lambda: Backing(0.0), "absorber.gap_m"),
        (lambda: Perforated(0.9, 0.005, 0.01, Backing(0.1)), "absorber.open_share"),
        (lambda: Cloth(0.3, float("nan")), "absorber.gap_m"),
    ],
)
def test_what_cannot_be_built_is_named(make, field):
    with pytest.raises(InputError) as refused:
        make()
    assert refused.value.field == field
