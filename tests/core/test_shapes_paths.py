"""Paths in rooms that are no boxes, against an independent image-source engine; bodies in the way and as mirrors;
flutter.
"""

import numpy as np
import pyroomacoustics as pra
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.read.flutter import find_flutter
from keenquiet.core.room.furnishings import Furnishing, kind_named
from keenquiet.core.room.room import Overlay, Room
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.things.materials import own_material
from keenquiet.core.waves.flutter_pairs import flutter_pairs, standing_out
from keenquiet.core.waves.images import shadow
from keenquiet.core.waves.paths import reflected_paths
from keenquiet.core.waves.statistics import decay

from ..conftest import plain_box, standing
from .test_shapes import ELL


def even(alpha, name="even"):
    return own_material(name, dict.fromkeys(("125", "250", "500", "1000", "2000", "4000"), alpha), field="x")


def room_of_shape(shape, alpha=0.2):
    return Room("r", shape, (even(alpha),) * len(shape.faces))


@pytest.mark.parametrize(
    ("source", "mic"), [((3.3, 0.7, 1.5), (2.61, 1.43, 1.2)), ((3.4, 1.1, 1.6), (0.83, 2.87, 1.3))]
)
def test_reflections_in_an_l_equal_an_independent_engine(source, mic):
    """Count, delays to 0.01 ms, levels to 0.1 dB. In the second case performer and microphone do not see each other."""
    room = room_of_shape(ELL)
    engine = pra.Room.from_corners(
        np.array(ELL.plan).T, fs=48_000, max_order=2, air_absorption=False, materials=pra.Material(0.2)
    )
    engine.extrude(2.5, materials=pra.Material(0.2))
    engine.add_source(source)
    engine.add_microphone(mic)
    engine.image_source_model()
    images = engine.sources[0]
    seen = np.asarray(engine.visibility[0])[0].astype(bool)
    reflected = seen & (images.orders > 0)
    length = np.linalg.norm(images.images.T[reflected] - np.array(mic), axis=1)
    amplitude = np.abs(np.asarray(images.damping)[0][reflected])
    # that engine lists an image twice when two orders of the same two walls lead to it
    rounded = np.unique(np.round(np.column_stack([images.images.T[reflected], length, amplitude]), 6), axis=0)
    expected = rounded[np.lexsort((rounded[:, 4], rounded[:, 3]))]

    found = reflected_paths(room, standing(source, mic))
    direct = float(np.linalg.norm(np.subtract(source, mic)))
    order = np.lexsort((found.energy[:, 4], np.round(found.length_m, 6)))
    assert len(found.length_m) == len(expected)
    c = room.air.speed_m_s
    assert_allclose(found.length_m[order] / c * 1000, expected[:, 3] / c * 1000, atol=0.01)
    air = np.exp(-room.air.energy_loss_per_m[4] * (found.length_m - direct))
    level = 10 * np.log10(found.energy[:, 4] / air) + 20 * np.log10(found.length_m / direct)
    assert_allclose(level[order], 20 * np.log10(expected[:, 4]), atol=0.1)


def test_a_slope_reflects_as_its_plane_says():
    """A roof at 45 degrees over y: the image of (x, y, z) in the plane z = 1 + y is (x, z - 1, y + 1)."""
    shape = Shape(((0, 0), (4, 0), (4, 2), (0, 2)), Ceiling(((0, 1.0), (2, 3.0)), "y"))
    source, mic = np.array((1.0, 1.2, 1.0)), np.array((2.5, 1.4, 1.1))
    found = reflected_paths(room_of_shape(shape), standing(tuple(source), tuple(mic)), order=1)
    ceiling = [f.name for f in shape.faces].index("ceiling")
    image = np.array((source[0], source[2] - 1, source[1] + 1))
    number = int(np.flatnonzero(found.faces[:, 0] == ceiling)[0])
    assert found.length_m[number] == pytest.approx(np.linalg.norm(image - mic), abs=1e-9)
    hit = found.points[number, 0]
    assert hit[2] == pytest.approx(1 + hit[1], abs=1e-9)


def wardrobe(at, size=(0.9, 0.6, 2.0)):
    return Furnishing(kind_named("wardrobe", field="x"), at, size)


def test_a_wardrobe_in_the_way_takes_the_path_and_gives_its_own():
    room = plain_box((4.0, 3.0, 2.5), alpha=0.1)
    here = standing((1.0, 1.5, 1.2), (3.0, 1.5, 1.2))
    before = reflected_paths(room, here, order=1)
    blocked_room = Room("r", room.shape, room.materials, furnishings=(wardrobe((3.5, 1.5), (0.5, 0.5, 2.0)),))
    after = reflected_paths(blocked_room, here, order=1)
    east = [f.name for f in room.faces].index("wall-2")
    through = int(np.flatnonzero(after.faces[:, 0] == east)[0])
    was = int(np.flatnonzero(before.faces[:, 0] == east)[0])
    assert after.blocked[through]
    assert not before.blocked[was]
    assert after.energy[through, 6] < 0.05 * before.energy[was, 6]  # at 4 kHz nothing to speak of gets past
    # by hand: the wardrobe's near side at x = 3.25 sends sound back over 2.25 + 0.25 m
    own = np.flatnonzero(after.faces[:, 0] >= len(room.faces))
    assert np.any(np.abs(after.length_m[own] - 2.5) < 1e-9)


def test_low_notes_go_round_a_body_and_what_misses_it_is_untouched():
    body = wardrobe((0.0, 0.0), (0.6, 0.6, 2.0))
    start, end = np.array([[-1.0, 0.0, 1.0], [-1.0, 0.5, 1.0]]), np.array([[1.0, 0.0, 1.0], [1.0, 0.5, 1.0]])
    passed = shadow((body,), start, end, wavenumber=2 * np.pi * np.array([20.0, 4000.0]) / 343)
    assert passed[0, 0] > 0.9
    assert passed[0, 1] < 0.01
    assert_allclose(passed[1], 1.0)  # passes 20 cm beside it


def flutter_room(alpha_ends, **more):
    # x = 0 and x = 3.43 bare or not, everything else soft
    soft, ends = even(0.9), even(alpha_ends)
    shape = plain_box((3.43, 3.0, 2.5)).shape
    return Room("r", shape, (soft, ends, soft, ends, soft, soft), **more)


def test_two_bare_walls_flutter_at_half_the_speed_of_sound_over_their_distance():
    room = flutter_room(0.02)
    (pair,) = flutter_pairs(room)
    assert pair.spacing_m == pytest.approx(3.43)
    assert pair.rate_hz == pytest.approx(room.air.speed_m_s / 6.86)
    assert pair.area_m2 == pytest.approx(7.5)
    # each pass there and back loses what both walls swallow and scatter
    kept = [
        float(np.mean(((1 - m.absorption) * (1 - m.scattering))[3:6])) for m in (room.materials[1], room.materials[3])
    ]
    assert pair.lost_db == pytest.approx(-10 * np.log10(np.prod(kept)), abs=1e-6)
    assert pair.lasts_s == pytest.approx(60 / (pair.lost_db * pair.rate_hz))


def test_flutter_ends_with_one_soft_wall_a_tilt_or_furniture_between():
    assert flutter_pairs(flutter_room(0.6)) == []
    cover = Overlay("cloth", 1, (0.0, 3.0, 0.0, 2.5), even(0.8))
    assert flutter_pairs(flutter_room(0.02, overlays=(cover,))) == []
    tilted = Shape(((0, 0), (3.43, 0), (3.0, 3.0), (0, 3.0)), Ceiling.flat(2.5))  # 8 degrees
    soft, bare = even(0.9), even(0.02)
    assert flutter_pairs(Room("r", tilted, (soft, bare, soft, bare, soft, soft))) == []
    shelf = Furnishing(kind_named("bookcase", field="x"), (1.7, 1.0), (0.4, 2.0, 2.4))
    (left,) = flutter_pairs(flutter_room(0.02, furnishings=(shelf,)))
    assert left.area_m2 == pytest.approx(7.5 - 2.0 * 2.4, abs=0.02)


def summed_images(size, alphas, source, mic, *, seconds=0.5, rate=48_000):
    """A clap in a box that mirrors: every image by itself, walls x0 x1 y0 y1 z0 z1."""
    heard = np.zeros(int(rate * seconds) + 2)
    axes = []
    for a in range(3):
        k = np.arange(-int(343.2 * seconds / (2 * size[a])) - 1, int(343.2 * seconds / (2 * size[a])) + 2)
        kept = np.sqrt(1 - np.array(alphas[2 * a : 2 * a + 2]))
        at = np.concatenate([2 * k * size[a] + source[a], 2 * k * size[a] - source[a]]) - mic[a]
        hits = np.abs(np.concatenate([k, k - 1])), np.abs(np.concatenate([k, k]))
        axes.append((at, kept[0] ** hits[0] * kept[1] ** hits[1]))
    (x, gx), (y, gy), (z, gz) = axes
    for along, gain in zip(x, gx, strict=True):
        far = np.sqrt(along**2 + y[:, None] ** 2 + z**2).ravel()
        when = far / 343.2 * rate
        inside = when < len(heard) - 1
        np.add.at(heard, when[inside].astype(int), (gain * np.outer(gy, gz).ravel() / far)[inside])
    return heard


@pytest.mark.parametrize(
    ("alphas", "flutters"),
    [
        ([0.05] * 6, False),  # bare: three pairs, none stands out
        ([0.05] * 4 + [0.7, 0.7], False),  # four hard walls go round, not to and fro
        ([0.05] * 4 + [0.35, 0.05], False),
        ([0.7, 0.7, 0.05, 0.05, 0.7, 0.7], True),
    ],
)
@pytest.mark.parametrize("size", [(3.6, 2.8, 2.4), (5.2, 3.9, 2.6)])
def test_flutter_is_told_where_a_sum_of_images_lets_it_be_heard(size, alphas, flutters):
    west, east, south, north, floor, ceiling = map(even, alphas)
    room = Room("r", plain_box(size).shape, (south, east, north, west, floor, ceiling))
    told = standing_out(flutter_pairs(room), decay(room))
    mouth, ear = (size[0] * 0.4, size[1] * 0.3, 1.5), (size[0] * 0.55, size[1] * 0.42, 1.45)
    heard = find_flutter(summed_images(size, alphas, mouth, ear), 48_000)
    assert (heard is not None) is flutters
    assert [pair.spacing_m for pair in told] == ([pytest.approx(heard.spacing_m, rel=0.02)] if flutters else [])
