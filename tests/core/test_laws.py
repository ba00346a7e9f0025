"""Laws that hold in every room, tried on rooms that Hypothesis invents."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from keenquiet.core.judge.forecast import Acoustics, boom_range_hz, forecast
from keenquiet.core.room.room import Microphone, NoiseSource, Overlay, Room
from keenquiet.core.things.materials import CATALOGUE, own_material
from keenquiet.core.things.porous import real_admittance
from keenquiet.core.waves.box_images import image_cells, image_points, wall_hits
from keenquiet.core.waves.modes import damped_modes
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.core.waves.paths import reflected_paths
from keenquiet.core.waves.statistics import decay

from ..conftest import plain_box, standing

SOFT = CATALOGUE["mineral-wool-50"]
sides = st.tuples(*(st.floats(1.5, 7.0),) * 3)
inside = st.tuples(*(st.floats(0.1, 0.9),) * 3)
share = st.tuples(st.floats(0, 0.8), st.floats(0.05, 0.2), st.floats(0, 0.8), st.floats(0.05, 0.2))
LAWS = settings(max_examples=40, deadline=None)


def placed_in(size, one, other):
    a, b = (tuple(float(p * s) for p, s in zip(part, size, strict=True)) for part in (one, other))
    return standing(a, b) if np.linalg.norm(np.subtract(a, b)) > 0.05 else None


def with_patches(room: Room, shares, face: int, material=SOFT) -> Room:
    _, ea, _, eb = room.faces[face].extent
    return room.with_overlays(
        tuple(
            Overlay(f"o{i}", face, (x * ea, (x + w) * ea, y * eb, (y + h) * eb), material)
            for i, (x, w, y, h) in enumerate(shares)
        )
    )


@LAWS
@given(sides, st.lists(share, min_size=1, max_size=4), st.integers(0, 5))
def test_signed_pieces_always_add_up_to_the_wall(size, shares, face):
    room = with_patches(plain_box(size=size), shares, face)
    areas = np.zeros(6)
    for piece in room.pieces:
        areas[piece.face] += piece.area_m2
    assert_allclose(areas, room.face_areas_m2, rtol=1e-9)
    # what is soft is the union of the patches, never more
    soft = sum(p.area_m2 for p in room.pieces if p.material is SOFT)
    each = [(w * h) * room.face_areas_m2[face] for _, w, _, h in shares]
    assert max(each) - 1e-9 <= soft <= sum(each) + 1e-9


def test_many_things_hung_over_one_spot_stay_few_pieces():
    # each used to double what lay below it: two dozen blankets took all memory there was
    blankets = [(0.01 * i, 0.5, 0.007 * i, 0.4) for i in range(40)]
    assert len(with_patches(plain_box(), blankets, 0).pieces) < 400


@LAWS
@given(sides, inside, inside)
def test_swapping_mouth_and_microphone_leaves_every_path_as_long_and_as_loud(size, one, other):
    room = plain_box(size=size, faces=[0.1, 0.2, 0.3, 0.15, 0.4, 0.25])
    # off the round figures that are tried first: a way through an edge belongs to both its walls or to neither
    other = tuple(0.98 * at + shift for at, shift in zip(other, (0.0101, 0.0113, 0.0127), strict=True))
    there, back = placed_in(size, one, other), placed_in(size, other, one)
    if there is None:
        return
    a, b = reflected_paths(room, there), reflected_paths(room, back)
    assert_allclose(np.sort(a.length_m), np.sort(b.length_m), rtol=1e-9)
    assert_allclose(np.sort(a.energy[:, 4]), np.sort(b.energy[:, 4]), rtol=1e-9)


@LAWS
@given(sides, inside, inside)
def test_no_reflection_comes_before_the_direct_sound_or_louder_than_it(size, one, other):
    arrangement = placed_in(size, one, other)
    if arrangement is None:
        return
    paths = reflected_paths(plain_box(size=size, alpha=0.05), arrangement)
    assert np.all(paths.delay_s >= -1e-12)
    assert np.all(paths.energy <= 1 + 1e-9)
    assert np.all(np.diff(paths.delay_s) >= -1e-12)


@LAWS
@given(sides, st.floats(1.1, 3.0))
def test_a_larger_room_of_the_same_stuff_rings_longer_in_proportion(size, factor):
    # without air: Sabine's T goes as V / A, with length
    small, large = (decay(plain_box(size=tuple(s * k for s in size), alpha=0.1)).sabine_s[1] for k in (1.0, factor))
    assert large / small == pytest.approx(factor, rel=0.02)


@LAWS
@given(sides, st.lists(share, min_size=1, max_size=3), st.integers(0, 5))
def test_more_softness_never_makes_a_mode_ring_longer(size, shares, face):
    bare = plain_box(size=size, alpha=0.02)
    f_max = 1.6 * 343.2 / 2 / min(size)
    # softer at every pitch: 50 mm of wool take less than 2 % at the 24 Hz of a large room
    soft = own_material("soft", dict.fromkeys(("125", "250", "500", "1000", "2000", "4000"), 0.6), field="own")
    rooms = (bare, with_patches(bare, shares, face, soft))
    before, after = (damped_modes(room, f_max_hz=f_max) for room in rooms)
    # single modes may trade places; what the room loses in all cannot fall
    assert np.all(after.decay_rate > 0)
    # (coupled pairs draw on modes above the last one counted: a thousandth, seen in a cube with one small patch)
    assert after.decay_rate.sum() >= before.decay_rate.sum() * (1 - 1e-3)


def test_image_cells_are_counted_by_the_octahedron():
    # 2 + 4 n^2 cells with exactly n reflections
    for n in (1, 2, 3, 6):
        assert np.count_nonzero(np.abs(image_cells(n)).sum(axis=1) == n) == 2 + 4 * n * n


def test_an_image_is_hit_as_often_as_its_cell_says_and_lies_where_mirrors_put_it():
    cells = image_cells(4)
    assert np.array_equal(wall_hits(cells).sum(axis=1), np.abs(cells).sum(axis=1))
    size, source = (4.0, 3.0, 2.5), np.array([1.1, 0.9, 1.5])
    images = {tuple(c): p for c, p in zip(cells.tolist(), image_points(cells, source, size), strict=True)}
    assert_allclose(images[(1, 0, 0)], [2 * 4.0 - 1.1, 0.9, 1.5])
    assert_allclose(images[(-1, 0, 0)], [-1.1, 0.9, 1.5])
    assert_allclose(images[(2, -1, 0)], [2 * 4.0 + 1.1, -0.9, 1.5])


def _noisy(kind="inside", at=(1.0, 1.5, 1.2), level=50.0):
    return replace(plain_box(alpha=0.9), noises=(NoiseSource("n", np.full(8, level), at, kind=kind),))


def test_noise_of_a_dead_room_falls_6_db_with_double_distance():
    room = _noisy()
    near, far = (
        noise_at_microphone(
            room, standing((3.5, 2.5, 1.2), (1.0 + r, 1.5, 1.2)), decay=decay(plain_box(alpha=0.9))
        ).by_source_dba["n"]
        for r in (0.2, 0.4)
    )
    assert near - far == pytest.approx(6.0, abs=0.6)


def test_a_cardioid_with_its_back_to_a_noise_hears_less_of_it_than_with_its_front():
    room = _noisy()
    d = decay(room)
    levels = []
    for aims in (180.0, 0.0):
        arrangement = replace(
            standing((3.5, 2.5, 1.2), (1.5, 1.5, 1.2)), microphone=Microphone((1.5, 1.5, 1.2), aims, 0.0, "cardioid")
        )
        levels.append(noise_at_microphone(room, arrangement, decay=d).by_source_dba["n"])
    assert levels[0] - levels[1] > 6


def test_two_equal_noises_are_3_db_more_than_one():
    one = _noisy()
    two = replace(one, noises=(one.noises[0], replace(one.noises[0], name="m")))
    arrangement = standing((3.5, 2.5, 1.2), (1.5, 1.5, 1.2))
    a, b = (noise_at_microphone(room, arrangement, decay=decay(one)).level_dba for room in (one, two))
    assert b - a == pytest.approx(3.0, abs=0.1)


@pytest.mark.parametrize(
    ("hours", "hour", "runs"),
    [
        ((), 3.0, True),
        (((3.5, 10.5),), 3.4, False),
        (((3.5, 10.5),), 3.5, True),
        (((3.5, 10.5),), 10.5, False),
        (((22.0, 2.0),), 23.0, True),
        (((22.0, 2.0),), 1.0, True),
        (((22.0, 2.0),), 12.0, False),
        (((22.0, 2.0),), None, True),
    ],
)
def test_a_noise_keeps_its_hours_over_midnight_too(hours, hour, runs):
    assert NoiseSource("n", np.zeros(8), (1, 1, 1), hours).runs_at(hour) is runs


def test_boom_counts_from_the_performers_lowest_note(placed):
    box, arrangement = placed
    low, high = boom_range_hz(arrangement, box.shape)
    assert low == pytest.approx(0.85 * 165)
    assert high == 300
    note = forecast(Acoustics(box), arrangement).boom.note_hz
    assert low <= note <= high


@LAWS
@given(inside)
def test_the_note_that_hangs_is_heard_and_none_heard_hangs_longer(at):
    room = plain_box(size=(3.6, 2.8, 2.4), faces=[0.05, 0.1, 0.08, 0.05, 0.15, 0.06])
    arrangement = placed_in(room.shape.bounds_m, at, (0.5, 0.52, 0.55))
    if arrangement is None:
        return
    result = forecast(Acoustics(room), arrangement, uncertainty=False)
    low, high = boom_range_hz(arrangement, room.shape)
    counted = (result.modes.f_hz >= low) & (result.modes.f_hz <= high)
    loudest = result.heard_db[counted].max()
    heard = counted & (result.heard_db >= loudest - 10.0)
    assert result.boom.ring_s.value == pytest.approx(result.modes.t60_s[heard].max())


@pytest.mark.parametrize(
    ("cell", "hits"),
    [
        ((1, 0, 0), [0, 1, 0, 0, 0, 0]),
        ((-1, 0, 0), [1, 0, 0, 0, 0, 0]),
        ((3, 0, 0), [1, 2, 0, 0, 0, 0]),
        ((0, -3, 2), [0, 0, 2, 1, 1, 1]),
    ],
)
def test_an_image_says_which_of_two_walls_it_met_more_often(cell, hits):
    assert wall_hits(np.array([cell])).tolist() == [hits]


def test_who_faces_a_wall_hears_that_wall_and_not_the_one_behind():
    room = plain_box(size=(4.0, 3.0, 2.5), alpha=0.1)
    beside = standing((2.0, 1.2, 1.25), (2.0, 1.8, 1.25), source="brass", faces=0.0)  # mid-way between the x walls
    paths = reflected_paths(room, beside)
    first = {
        int(face): float(energy[6]) for (face, then), energy in zip(paths.faces, paths.energy, strict=True) if then < 0
    }
    assert 10 * np.log10(first[1] / first[3]) > 10


def test_a_cardioid_hears_the_wall_it_looks_at():
    room = plain_box(size=(4.0, 3.0, 2.5), alpha=0.1)
    looking = replace(
        standing((2.0, 1.2, 1.25), (2.0, 1.8, 1.25)), microphone=Microphone((2.0, 1.8, 1.25), 0.0, 0.0, "cardioid")
    )
    paths = reflected_paths(room, looking)
    first = {
        int(face): float(energy[4]) for (face, then), energy in zip(paths.faces, paths.energy, strict=True) if then < 0
    }
    # arrivals at atan(0.6/4) = 8.5 degrees off the axis and off its back: (1 + cos)/2 and (1 - cos)/2
    cosine = np.cos(np.arctan2(0.6, 4.0))
    assert first[1] / first[3] == pytest.approx(((1 + cosine) / (1 - cosine)) ** 2, rel=1e-6)


def test_the_constant_pressure_leaks_through_the_walls_alone():
    room = plain_box(size=(4.0, 3.0, 2.5), alpha=0.1)
    beta = float(real_admittance(np.array([0.1]))[0])
    air = room.air.speed_m_s * float(room.air.energy_loss_per_m[0]) / 2
    # dE/dt: the sealed room's pressure falls at c beta S / (2 V)
    expected = room.air.speed_m_s * beta * 59.0 / (2 * 30.0) + air
    assert damped_modes(room, f_max_hz=120).zero_rate == pytest.approx(expected, rel=1e-3)
