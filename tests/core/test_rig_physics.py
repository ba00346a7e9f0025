"""The rig's rays, mirrors and grid on what is known another way: image sources one and all, closed forms, finite
elements, an independent engine.
"""

from dataclasses import replace

import numpy as np
import pytest

from keenquiet.core.room.furnishings import KINDS, Furnishing
from keenquiet.core.room.room import Arrangement, Overlay, Room
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.waves.response import smoothed_db
from keenquiet.core.waves.rigid import rigid_modes
from keenquiet.rig.grid import Grid, grid_response
from keenquiet.rig.impulse import _modal, rig_impulse
from keenquiet.rig.mirrors import mirrored_arrivals
from keenquiet.rig.rays import scattered_field
from keenquiet.rig.scene import Scene

from ..conftest import plain_box, standing

SOURCE, MIC = (1.1, 0.9, 1.5), (2.9, 1.7, 1.2)


def scattering(room: Room, share: float) -> Room:
    return replace(room, materials=tuple(replace(m, scattering=np.full(8, share)) for m in room.materials))


def even(source=SOURCE, mic=MIC) -> Arrangement:
    """An even source and an omni."""
    placed = standing(source, mic)
    return replace(
        placed,
        performer=replace(placed.performer, source=SOURCES["omni"]),
        microphone=replace(placed.microphone, pattern="omni"),
    )


def every_image(room: Room, alpha: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Delay, energy at 1 kHz and order of all images of a box with even walls, straight from the lattice."""
    size = np.array(room.shape.bounds_m)
    cells = np.stack(np.meshgrid(*[np.arange(-36, 37)] * 3, indexing="ij"), -1).reshape(-1, 3)
    away = np.linalg.norm(np.where(cells % 2 == 0, cells * size + SOURCE, (cells + 1) * size - SOURCE) - MIC, axis=1)
    order = np.abs(cells).sum(axis=1)
    energy = (1 - alpha) ** order * np.exp(-away * room.air.energy_loss_per_m[4]) / away**2
    return away / room.air.speed_m_s, energy, order


def test_rays_bring_what_all_image_sources_bring():
    room = scattering(plain_box(alpha=0.2), 0.0)
    field = scattered_field(Scene(room), even(), seconds=0.5, rng=np.random.default_rng(3)).energy[:, 4]
    delay, energy, order = every_image(room, 0.2)
    for start, end in ((0.02, 0.04), (0.04, 0.08), (0.08, 0.16), (0.16, 0.24)):
        within = (order > 3) & (delay >= start) & (delay < end)
        found = 10 * np.log10(field[round(start * 1000) : round(end * 1000)].sum() / energy[within].sum())
        assert abs(found) < 0.6


def test_mirrors_find_each_image_of_a_box_and_no_other():
    room = scattering(plain_box(alpha=0.2), 0.0)
    arrivals = mirrored_arrivals(Scene(room), even(), np.random.default_rng(3))
    delay, energy, order = every_image(room, 0.2)
    first = order <= 3
    assert np.allclose(np.sort(arrivals.delay_s), np.sort(delay[first]))
    assert np.allclose(np.sort(arrivals.amplitude[:, 4] ** 2), np.sort(energy[first]), rtol=1e-6)


def test_scattered_rooms_hold_what_a_diffuse_field_holds():
    # steady energy of reflected sound in a diffuse field: 16 pi (1 - alpha) / A, H. Kuttruff, Room Acoustics, chapter 5
    room = scattering(plain_box(alpha=0.15), 1.0)
    placed = even()
    field = scattered_field(Scene(room), placed, seconds=1.0, rng=np.random.default_rng(3))
    held = field.energy.sum(axis=0)[3]  # nothing is mirrored
    area = float(room.face_areas_m2.sum()) * 0.15
    assert 10 * np.log10(held / (16 * np.pi * 0.85 / area)) == pytest.approx(0.0, abs=1.0)


def test_a_wardrobe_in_between_hides_the_direct_sound_and_returns_some_from_its_side():
    room, placed = plain_box(alpha=0.2), even((1.0, 1.5, 1.3), (3.0, 1.5, 1.3))
    wardrobe = replace(room, furnishings=(Furnishing(KINDS["wardrobe"], (2.0, 1.5), (1.0, 0.6, 2.0)),))
    free, hidden = (mirrored_arrivals(Scene(one), placed, np.random.default_rng(1)) for one in (room, wardrobe))
    assert hidden.amplitude[0, 4] < 0.3 * free.amplitude[0, 4]
    assert len(hidden.order) < len(free.order)
    beside = even((0.6, 1.0, 1.3), (0.6, 2.0, 1.3))
    back = mirrored_arrivals(Scene(wardrobe), beside, np.random.default_rng(1))
    by_side = 2 * np.hypot(0.5, 0.9) / room.air.speed_m_s  # over the side at x = 1.5
    assert np.min(np.abs(back.delay_s - by_side)) < 1e-6


def test_what_hangs_only_matters_where_it_hangs():
    # the way from the performer over the floor strikes at (2.0, 1.3): a rug there takes it, a rug elsewhere does not
    room, placed = plain_box(alpha=0.05), even((1.0, 1.3, 1.2), (3.0, 1.3, 1.2))
    floor = room.shape.floor
    there, elsewhere = (
        mirrored_arrivals(
            Scene(room.with_overlays((Overlay("rug", floor, rect, CATALOGUE["mineral-wool-50"]),))),
            placed,
            np.random.default_rng(1),
        )
        for rect in ((1.2, 2.8, 0.5, 2.1), (0.1, 0.6, 2.3, 2.9))
    )
    delay = 2 * np.hypot(1.0, 1.2) / room.air.speed_m_s
    levels = [one.amplitude[np.argmin(np.abs(one.delay_s - delay)), 6] for one in (there, elsewhere)]
    assert 20 * np.log10(levels[0] / levels[1]) < -6


def test_the_grid_agrees_with_the_eigenproblem_of_a_box():
    room, placed = plain_box(alpha=0.2), even()
    f_hz = np.arange(25.0, 240.0, 0.5)
    by_grid = grid_response(room, np.array(SOURCE), np.array(MIC), f_hz)
    by_modes = _modal(room, placed, f_hz)
    apart = smoothed_db(20 * np.log10(np.abs(by_grid)), f_hz) - smoothed_db(20 * np.log10(np.abs(by_modes)), f_hz)
    assert np.std(apart) < 0.5
    assert abs(np.mean(apart)) < 0.3


def test_the_grid_under_a_slope_rings_where_finite_elements_put_the_modes():
    attic = Shape(((0, 0), (4.4, 0), (4.4, 3.3), (0, 3.3)), Ceiling(((0, 1.0), (1.6, 2.3), (3.3, 2.3)), "y"))
    board = plain_box(alpha=0.01).materials[0]
    room = Room("attic", attic, (board,) * len(attic.faces))
    grid = Grid.of(room)
    assert grid.volume_m3.sum() == pytest.approx(room.volume_m3, rel=0.01)
    f_hz = np.arange(30.0, 130.0, 0.25)
    heard = np.abs(grid_response(room, np.array([0.2, 0.15, 0.2]), np.array([4.2, 3.1, 0.2]), f_hz))
    peaks = f_hz[1:-1][(heard[1:-1] > heard[:-2]) & (heard[1:-1] > heard[2:])]
    rigid = rigid_modes(attic, f_max_hz=140.0, speed_m_s=room.air.speed_m_s).f_hz
    for mode in rigid[:6]:
        assert np.min(np.abs(peaks / mode - 1)) < 0.01


@pytest.mark.parametrize("key", ["glass-window", "plywood-10mm", "mineral-wool-50", "plasterboard-on-studs"])
def test_walls_in_time_take_what_their_admittance_takes(key):
    # one cell whose pressure is a sine: what its wall takes in step with the change of pressure is the real part
    material = CATALOGUE[key]
    room = replace(plain_box((2.1, 1.6, 2.3)), materials=(material,) * 6)
    one_wall = replace(Grid.of(room).walls, cells=(np.array([0]),), area_m2=(np.array([1.0]),))
    for f_hz in (40.0, 63.0, 100.0, 160.0, 250.0):
        dt = 2e-4
        walls = one_wall.in_steps(dt, np.array([1.0]))
        time_s = np.arange(4000) * dt
        pressure = np.sin(2 * np.pi * f_hz * time_s)
        rate, taken = np.zeros(4000), np.zeros(4000)
        for step in range(1, 3999):
            before, after = pressure[[step - 1]], pressure[[step + 1]]
            held = np.zeros(1)
            walls.withdraw(held)
            walls.learn(after, before)
            rate[step] = (after[0] - before[0]) / (2 * dt)
            taken[step] = (float(walls.at_once[0]) * (after[0] - before[0]) - held[0]) / dt**2
        late = slice(2000, 3998)
        real = np.sum(taken[late] * rate[late]) / np.sum(rate[late] ** 2)
        known = float(material.admittance(np.array([f_hz]), air=room.air)[0].real)
        assert real == pytest.approx(known, rel=0.3)


def test_uneven_walls_decay_as_an_independent_engine_says():
    engine = pytest.importorskip("pyroomacoustics")
    engine.random.seed(5)
    rng = np.random.default_rng(5)
    for number in range(3):
        size, alphas = rng.uniform((2.0, 2.0, 2.2), (5.0, 4.5, 2.8)), np.exp(rng.uniform(np.log(0.04), np.log(0.5), 6))
        room = scattering(plain_box(tuple(size), faces=list(alphas)), 0.3)
        source, mic = 0.3 * size, 0.62 * size
        ours = rig_impulse(room, even(tuple(source), tuple(mic)), seed=number).t60_s[4]
        walls = dict(zip(("west", "east", "south", "north", "floor", "ceiling"), alphas, strict=True))
        there = engine.ShoeBox(
            size,
            fs=16000,
            materials={name: engine.Material(float(a), 0.3) for name, a in walls.items()},
            max_order=3,
            ray_tracing=True,
            air_absorption=False,
        )
        there.set_ray_tracing(n_rays=20000, receiver_radius=0.4)
        there.add_source(source)
        there.add_microphone(mic)
        there.compute_rir()
        theirs = engine.experimental.measure_rt60(there.rir[0][0], fs=16000, decay_db=20)
        assert ours == pytest.approx(theirs, rel=0.25)
