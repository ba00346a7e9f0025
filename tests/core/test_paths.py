"""Paths against an independent image-source engine and closed forms."""

import numpy as np
import pyroomacoustics as pra
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.judge.forecast import Acoustics
from keenquiet.core.read.early import direct_over_room_db
from keenquiet.core.room.room import Overlay
from keenquiet.core.things.materials import own_material
from keenquiet.core.things.microphone import near_field_gain, proximity_lift_db, random_energy_efficiency
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.waves.paths import reflected_paths
from keenquiet.core.waves.reverberant import room_sound
from keenquiet.core.waves.statistics import critical_distance_m, decay, schroeder_hz

from ..conftest import plain_box, standing

SOURCE, MIC = (1.1, 0.9, 1.5), (2.9, 1.7, 1.2)


def test_paths_equal_an_independent_image_source_engine():
    faces = [0.1, 0.2, 0.3, 0.15, 0.4, 0.25]
    room = plain_box(faces=faces)
    names = ("west", "east", "south", "north", "floor", "ceiling")
    engine = pra.ShoeBox(
        room.shape.bounds_m,
        fs=48_000,
        max_order=2,
        air_absorption=False,
        materials={name: pra.Material(a) for name, a in zip(names, faces, strict=True)},
    )
    engine.add_source(SOURCE)
    engine.add_microphone(MIC)
    engine.image_source_model()
    source = engine.sources[0]
    reflected = source.orders > 0
    length = np.linalg.norm(source.images.T - np.array(MIC), axis=1)
    direct = float(np.linalg.norm(np.subtract(SOURCE, MIC)))
    amplitude = np.asarray(source.damping)[0] * direct / length
    # two paths as long as each other: by level as well
    order = np.lexsort((np.abs(amplitude[reflected]), np.round(length[reflected], 6)))

    found = reflected_paths(room, standing(SOURCE, MIC))
    air = np.exp(-room.air.energy_loss_per_m[4] * (found.length_m - direct))
    assert len(found.length_m) == np.count_nonzero(reflected) == 24
    assert_allclose(found.delay_s, (length[reflected][order] - direct) / room.air.speed_m_s, atol=1e-5)
    mine = np.lexsort((found.energy[:, 4], np.round(found.length_m, 6)))
    assert_allclose(
        10 * np.log10(found.energy[mine, 4] / air[mine]), 20 * np.log10(np.abs(amplitude[reflected][order])), atol=0.1
    )


@pytest.mark.parametrize("behind_m", [0.20, 0.35, 0.42, 0.50, 0.90])
def test_a_wall_close_to_the_microphone_is_parted_alike_by_prediction_and_reading(behind_m):
    size, alpha = (4.0, 3.1, 2.5), 0.4
    room = plain_box(size, alpha=alpha)
    apart = []
    for y, z in ((1.3, 1.45), (0.9, 1.1), (1.7, 1.6), (2.1, 1.35), (1.15, 1.7), (1.9, 0.95)):
        source, mic = (size[0] - behind_m - 0.6, y, z), (size[0] - behind_m, y + 0.1, z - 0.05)
        engine = pra.ShoeBox(size, fs=48_000, max_order=24, air_absorption=False, materials=pra.Material(alpha))
        engine.add_source(source)
        engine.add_microphone(mic)
        engine.compute_rir()
        arrangement = standing(source, mic)
        predicted = room_sound(
            room, arrangement, paths=reflected_paths(room, arrangement), decay=decay(room)
        ).direct_over_room_db
        apart.append(predicted - direct_over_room_db(engine.rir[0][0], 48_000))
    # energies are summed where the engine sums waves: single places scatter by a decibel
    assert abs(np.mean(apart)) < 0.9
    assert max(np.abs(apart)) < 2.2


def test_hit_points_lie_on_their_walls_and_obey_the_law_of_reflection():
    room = plain_box()
    paths = reflected_paths(room, standing(SOURCE, MIC))
    for i in range(len(paths.length_m)):
        walked, at = 0.0, np.array(SOURCE)
        for face, point in zip(paths.faces[i], paths.points[i], strict=True):
            if face < 0:
                continue
            wall = room.faces[face]
            assert (point - wall.origin) @ wall.normal == pytest.approx(0, abs=1e-7)
            assert wall.covers(wall.to_flat(point))
            walked, at = walked + np.linalg.norm(point - at), point
        walked += np.linalg.norm(np.array(MIC) - at)
        assert walked == pytest.approx(paths.length_m[i], abs=1e-6)  # shortest way over these walls: angles are equal


def test_a_panel_over_the_whole_wall_is_the_wall():
    soft = own_material("soft", {"1000": 0.75}, field="s")
    room = plain_box(alpha=0.0).with_overlays((Overlay("p", 0, (0.0, 4.0, 0.0, 2.5), soft),))
    arrangement = standing((2.0, 1.5, 1.25), (2.5, 1.5, 1.25))
    paths, bare = reflected_paths(room, arrangement), reflected_paths(plain_box(alpha=0.0), arrangement)
    i = int(np.flatnonzero((paths.faces[:, 0] == 0) & (paths.faces[:, 1] < 0))[0])
    ratio = 10 * np.log10(paths.energy[i, 5:] / bare.energy[i, 5:])  # where the Fresnel zone fits the wall
    assert_allclose(ratio, 10 * np.log10(0.25), atol=0.05)


def test_a_panel_over_half_the_zone_counts_half():
    soft = own_material("soft", {"1000": 1.0}, field="s")
    hit_x = 2.25
    half = plain_box(alpha=0.0).with_overlays((Overlay("p", 0, (hit_x, 4.0, 0.0, 2.5), soft),))
    arrangement = standing((2.0, 1.5, 1.25), (2.5, 1.5, 1.25))
    paths, bare = reflected_paths(half, arrangement), reflected_paths(plain_box(alpha=0.0), arrangement)
    i = int(np.flatnonzero((paths.faces[:, 0] == 0) & (paths.faces[:, 1] < 0))[0])
    assert_allclose(paths.energy[i, 4:] / bare.energy[i, 4:], 0.5, atol=0.03)


def test_sabine_eyring_and_arau_by_hand():
    # V = 30 m3, S = 59 m2, alpha 0.1 everywhere, air left aside by comparing at 125 Hz
    found = decay(plain_box())
    assert found.sabine_s[1] == pytest.approx(0.161 * 30 / 5.9, rel=4e-3)
    assert found.eyring_s[1] == pytest.approx(0.161 * 30 / (-59 * np.log(0.9)), rel=4e-3)
    assert_allclose(found.arau_s, found.eyring_s, rtol=1e-9)  # even absorption: the two are one formula
    assert schroeder_hz(0.5, volume_m3=50) == pytest.approx(200)


def test_uneven_absorption_rings_longer_by_arau_than_by_eyring():
    found = decay(plain_box(faces=[0.02, 0.02, 0.02, 0.02, 0.8, 0.8]))
    assert np.all(found.arau_s[:6] > 1.3 * found.eyring_s[:6])


def test_critical_distance_of_the_textbook_room():
    assert critical_distance_m(np.array([10.0]))[0] == pytest.approx(0.446, abs=0.001)  # 0.141 sqrt(A)


@pytest.mark.parametrize(("a", "efficiency"), [(1.0, 1.0), (0.5, 1 / 3), (0.25, 0.25), (0.0, 1 / 3)])
def test_patterns_gather_what_their_integral_says(a, efficiency):
    assert random_energy_efficiency(a) == pytest.approx(efficiency)


def test_a_figure_8_at_kr_1_is_lifted_by_3_db_and_an_omni_never():
    c = 343.2
    assert proximity_lift_db(0.0, distance_m=c / (2 * np.pi * 100), f_hz=100, speed_m_s=c) == pytest.approx(
        3.01, abs=0.01
    )
    assert np.abs(near_field_gain(1.0, 1.0, distance_m=0.05, f_hz=np.array([50.0]), speed_m_s=c))[0] == pytest.approx(
        1.0
    )


@pytest.mark.parametrize("key", sorted(SOURCES))
def test_directivity_integrates_to_its_index(key):
    source = SOURCES[key]
    theta = np.linspace(0, np.pi, 4001)
    energy = source.gain(np.cos(theta)) ** 2
    q = 2 / np.trapezoid(energy * np.sin(theta)[:, None], theta, axis=0)
    assert_allclose(10 * np.log10(q), source.directivity_index_db, atol=0.3)  # the -20 dB floor takes a little


def test_spoken_voice_has_the_standard_level():
    # ANSI S3.5 normal effort: 62.35 dB overall at 1 m; 59.3 dB(A) here includes the octaves that the standard leaves
    # out
    levels = np.array(SOURCES["voice-spoken"].level_db)
    assert 10 * np.log10(np.sum(10 ** (levels[2:] / 10))) == pytest.approx(62.35, abs=0.3)


def test_the_sum_of_a_live_room_is_the_diffuse_field():
    # omni to omni, even hard walls: the room's energy is 16 pi r^2 / A' within the statistical formulas' own spread
    room = plain_box(alpha=0.08)
    arrangement = standing(SOURCE, MIC)
    sound = room_sound(room, arrangement, paths=reflected_paths(room, arrangement), decay=Acoustics(room).decay)
    distance2 = float(np.sum(np.subtract(SOURCE, MIC) ** 2))
    diffuse = 16 * np.pi * distance2 / (59 * 0.08)
    assert 10 * np.log10((sound.early + sound.late)[4] / diffuse) == pytest.approx(0, abs=1.0)
