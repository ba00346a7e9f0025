"""Modes against hand calculation and against the exact separable solution with admittance walls."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import optimize

from keenquiet.core.errors import InputError
from keenquiet.core.room.room import Overlay
from keenquiet.core.things.materials import own_material
from keenquiet.core.things.porous import real_admittance
from keenquiet.core.waves.box_modes import box_mode_hz, mode_values, orders_below, surface_overlap_m2
from keenquiet.core.waves.modes import damped_modes, nearest_note, volume_loss_rate
from keenquiet.core.waves.response import Transfer, monitors_response

from ..conftest import plain_box

C = 343.2


@pytest.mark.parametrize(
    ("orders", "hz"),
    [  # by hand: 343 / (2 * 5), 343 / (2 * 4), root of the sum of squares
        ((1, 0, 0), 34.30),
        ((0, 1, 0), 42.88),
        ((1, 1, 0), 54.91),
    ],
)
def test_box_modes_equal_the_hand_calculation(orders, hz):
    found = box_mode_hz(np.array([orders]), size_m=(5.0, 4.0, 2.5), speed_m_s=343.0)
    assert_allclose(found, [hz], rtol=2e-4)


def test_a_room_twice_as_large_has_every_mode_an_octave_lower():
    orders = orders_below(150, size_m=(4, 3, 2.5), speed_m_s=C)
    once = box_mode_hz(orders, size_m=(4, 3, 2.5), speed_m_s=C)
    assert_allclose(box_mode_hz(orders, size_m=(8, 6, 5), speed_m_s=C), once / 2, rtol=1e-12)


def test_no_mode_below_the_limit_is_missed():
    # count by brute force over a grid that is far larger than needed
    size, limit = (3.62, 2.84, 2.41), 200.0
    grid = np.stack(np.meshgrid(*[np.arange(20)] * 3, indexing="ij"), -1).reshape(-1, 3)
    f = C / 2 * np.sqrt(((grid / np.array(size)) ** 2).sum(axis=1))
    assert len(orders_below(limit, size_m=size, speed_m_s=C)) == np.count_nonzero((f > 0) & (f <= limit))


def _exact(size, betas, orders, c):
    """Complex angular frequency of a separable room: each axis has walls of admittance beta_x, beta_y, beta_z."""

    def axis_wavenumber(length, beta, n, k):
        # dp/dn = -j k beta p at both ends: even shapes k_x tan(k_x L/2) = j k beta, odd ones k_x cot(k_x L/2) = -j k
        # beta
        def even(kx):
            return kx * np.sin(kx * length / 2) - 1j * k * beta * np.cos(kx * length / 2)

        def odd(kx):
            return kx * np.cos(kx * length / 2) + 1j * k * beta * np.sin(kx * length / 2)

        start = n * np.pi / length + 2j * k * beta / (n * np.pi) if n else np.sqrt(2j * k * beta / length)
        return optimize.newton(even if n % 2 == 0 else odd, start, tol=1e-13, maxiter=200)

    k = np.linalg.norm(np.array(orders) * np.pi / np.array(size)) + 0j
    for _ in range(60):
        k = np.sqrt(
            sum(axis_wavenumber(length, beta, n, k) ** 2 for length, beta, n in zip(size, betas, orders, strict=True))
        )
    return k * c


@pytest.mark.parametrize("orders", [(1, 0, 0), (0, 1, 0), (1, 1, 0), (2, 0, 1)])
def test_damping_by_even_walls_equals_the_exact_separable_solution(orders):
    room = plain_box(size=(4.1, 3.0, 2.4), alpha=0.06)
    beta = float(real_admittance(np.array([0.06]))[0])
    exact = _exact(room.shape.bounds_m, (beta,) * 3, orders, room.air.speed_m_s)
    modes = damped_modes(room, f_max_hz=260)
    i = int(np.flatnonzero((modes.orders == orders).all(axis=1))[0])
    air_loss = room.air.speed_m_s * float(room.air.energy_loss_per_m[0]) / 2
    assert modes.f_hz[i] == pytest.approx(exact.real / 2 / np.pi, rel=5e-4)
    assert modes.decay_rate[i] == pytest.approx(exact.imag + air_loss, rel=0.02)


def test_three_modes_at_one_frequency_part_as_the_walls_tell_them():
    # a cube: (1,0,0), (0,1,0), (0,0,1) coincide; only the x walls absorb, so one decays twice as fast as the others
    room = plain_box(size=(3.0, 3.0, 3.0), faces=[0.1, 0.1, 0.0, 0.0, 0.0, 0.0])
    beta = float(real_admittance(np.array([0.1]))[0])
    floor = float(real_admittance(np.array([0.0]))[0])
    modes = damped_modes(room, f_max_hz=200)
    rates = np.sort(modes.decay_rate[:3])
    along = _exact(room.shape.bounds_m, (beta, floor, floor), (1, 0, 0), room.air.speed_m_s).imag
    across = _exact(room.shape.bounds_m, (beta, floor, floor), (0, 1, 0), room.air.speed_m_s).imag
    assert_allclose(rates, [across, across, along], rtol=0.03)


def test_a_trap_damps_most_where_the_pressure_is():
    # one patch on the x = 0 wall against the same patch in mid-wall of y = 0, where (1,0,0) has its node
    material = own_material("trap", {"125": 0.6}, field="t")
    base = plain_box(size=(4.0, 3.0, 2.5), alpha=0.02)
    at_end = base.with_overlays((Overlay("a", 3, (1.2, 1.8, 0.0, 1.2), material),))
    at_node = base.with_overlays((Overlay("b", 0, (1.7, 2.3, 0.0, 1.2), material),))
    rate = {
        name: damped_modes(room, f_max_hz=120).decay_rate[0]
        for name, room in (("base", base), ("end", at_end), ("node", at_node))
    }
    # psi^2 is 2 at the end wall; over the middle 0.6 m of the side wall its mean is 2 sin^2 averaged: 1 - sinc
    mean_at_node = 1 - np.sin(np.pi * 0.6 / 4.0) / (np.pi * 0.6 / 4.0)
    ratio = (rate["end"] - rate["base"]) / (rate["node"] - rate["base"])
    assert ratio == pytest.approx(2 / mean_at_node, rel=0.15)
    assert ratio > 20


def test_surface_integrals_equal_numerical_quadrature():
    room = plain_box()
    orders = orders_below(150, size_m=room.shape.bounds_m, speed_m_s=C)
    piece = room.with_overlays((Overlay("p", 0, (0.7, 1.9, 0.3, 1.4), room.materials[0]),)).pieces[2]
    assert piece.rect == (0.7, 1.9, 0.3, 1.4)
    nodes, weights = np.polynomial.legendre.leggauss(20)
    x, z = 1.3 + 0.6 * nodes, 0.85 + 0.55 * nodes
    psi = (
        np.cos(np.pi * np.multiply.outer(orders[:, 0], x) / 4.0)[:, :, None]
        * np.cos(np.pi * np.multiply.outer(orders[:, 2], z) / 2.5)[:, None, :]
        * (np.sqrt(2.0) ** (orders > 0).sum(axis=1))[:, None, None]
    )
    numeric = np.einsum("mij,nij,i,j->mn", psi, psi, weights * 0.6, weights * 0.55) * piece.sign
    assert_allclose(surface_overlap_m2(piece, orders, shape=room.shape), numeric, atol=1e-9)


def test_an_overlay_takes_exactly_what_it_covers():
    room = plain_box(alpha=0.0)
    soft = own_material("soft", {"1000": 1.0}, field="s")
    window = Overlay("w", 0, (0.5, 1.5, 0.5, 1.5), soft)
    over_it = Overlay("o", 0, (1.0, 2.0, 1.0, 2.0), room.materials[0])
    covered = room.with_overlays((window, over_it))
    assert covered.face_absorption[0, 4] * 10.0 == pytest.approx(0.75)  # 1 m2 less the quarter that is covered again


def test_swapping_source_and_microphone_changes_nothing(placed):
    box, arrangement = placed
    modes = damped_modes(box, f_max_hz=250)
    transfer = Transfer(box, modes)
    f = np.geomspace(25, 200, 30)
    a, b = np.array(arrangement.performer.at), np.array(arrangement.microphone.at)
    assert_allclose(transfer.response(a, b, f), transfer.response(b, a, f), rtol=1e-10)


def test_far_below_the_first_mode_the_room_is_an_air_spring():
    # p = rho c^2 Q / (j w V): relative to the free field at 1 m that is 4 pi / (V k^2)
    room = plain_box(alpha=0.002)
    transfer = Transfer(room, damped_modes(room, f_max_hz=250))
    f = np.array([4.0])
    k = 2 * np.pi * f / room.air.speed_m_s
    found = np.abs(transfer.response(np.array([1.0, 1.0, 1.0]), np.array([3.0, 2.0, 1.5]), f))
    assert_allclose(found, 4 * np.pi / (room.volume_m3 * k**2), rtol=0.05)


def test_the_response_equals_a_direct_solution_at_each_frequency(placed):
    """The Galerkin system solved as it stands, constant mode coupled too, many more modes behind it."""
    box, arrangement = placed
    c, size = box.air.speed_m_s, box.shape.bounds_m
    source, mic = np.array(arrangement.performer.at), np.array(arrangement.microphone.at)
    f = np.array([38.0, 44.0, 70.0, 95.0, 123.0, 147.0, 190.0])
    low = np.concatenate([[[0, 0, 0]], orders_below(330, size_m=size, speed_m_s=c)])
    k_low = 2 * np.pi * box_mode_hz(low, size_m=size, speed_m_s=c) / c
    overlap = [(piece.material, surface_overlap_m2(piece, low, shape=box.shape)) for piece in box.pieces]
    high = orders_below(3500, size_m=size, speed_m_s=c)
    k_high = 2 * np.pi * box_mode_hz(high, size_m=size, speed_m_s=c) / c
    high, k_high = high[k_high > k_low.max()], k_high[k_high > k_low.max()]
    soft_end = np.cos(np.pi / 2 * np.clip((k_high / k_high.max() - 0.4) / 0.6, 0, 1)) ** 2
    pair = soft_end * mode_values(high, source, size_m=size) * mode_values(high, mic, size_m=size)
    expected = []
    for hz in f:
        k = 2 * np.pi * hz / c
        walls = sum(material.admittance(np.array([hz]), air=box.air)[0] * area for material, area in overlap)
        loss = 2 * volume_loss_rate(box, np.array([hz]))[0] / c
        system = np.diag(k_low**2 - k**2 + 1j * k * loss) + 1j * k * walls / box.volume_m3
        green = mode_values(low, mic, size_m=size) @ np.linalg.solve(system, mode_values(low, source, size_m=size))
        expected.append(4 * np.pi / box.volume_m3 * (green + np.sum(pair / (k_high**2 - k**2))))
    found = Transfer(box, damped_modes(box, f_max_hz=345, f_coupled_hz=300)).response(source, mic, f)
    assert_allclose(20 * np.log10(np.abs(found)), 20 * np.log10(np.abs(expected)), atol=0.35)


def test_monitors_at_the_performers_place_give_the_performers_response(placed):
    room, arrangement = placed
    transfer = Transfer(room, damped_modes(room, f_max_hz=300))
    mouth, mic, f = np.array(arrangement.performer.at), np.array(arrangement.microphone.at), np.arange(30.0, 250.0, 5.0)
    alone = transfer.response(mouth, mic, f)
    assert_allclose(monitors_response(transfer, np.stack([mouth, mouth]), mic, f), alone, rtol=1e-9)
    # two of them half a wave apart in the lowest length mode drive it against each other
    first = room.shape.bounds_m[0]
    ends = np.array([[0.01, 1.0, 1.2], [first - 0.01, 1.0, 1.2]])
    hz = np.array([room.air.speed_m_s / (2 * first)])
    pair, one = monitors_response(transfer, ends, mic, hz), transfer.response(ends[0], mic, hz)
    assert abs(pair[0]) < 0.25 * abs(one[0])


@pytest.mark.parametrize(
    ("hz", "note"), [(440.0, ("A4", 0)), (261.63, ("C4", 0)), (98.0, ("G2", 0)), (45.0, ("F#1", -47))]
)
def test_notes_are_named(hz, note):
    assert nearest_note(hz) == note


def test_a_room_without_size_is_refused():
    with pytest.raises(InputError):
        box_mode_hz(np.array([[1, 0, 0]]), size_m=(0.0, 3.0, 2.0), speed_m_s=C)
    with pytest.raises(InputError):
        plain_box(size=(float("nan"), 3.0, 2.0))
