"""Decay by energy walks against closed forms, image sources and an independent ray tracer."""

import numpy as np
import pyroomacoustics as pra
import pytest

from keenquiet.core.waves.energy_walks import LITTLE, MUCH
from keenquiet.core.waves.statistics import decay, walked_decay

from ..conftest import plain_box

BAND = 4
SPEED = 343.2


def seconds(energy, step_s):
    """Decay time of an energy histogram, -5 to -25 dB of its backward integral."""
    level = 10 * np.log10(np.cumsum(energy[::-1])[::-1] / energy.sum() + 1e-15)
    first, last = np.argmax(level < -5), np.argmax(level < -25)
    return -60 * step_s / np.polyfit(np.arange(first, last), level[first:last], 1)[0]


def by_images(size, alphas, rng):
    """All image sources of a box up to 1.2 s, three pairs of places."""
    size, longest = np.array(size), 1.2
    histogram = np.zeros(1200)
    for _ in range(3):
        source, mic = rng.uniform(0.2, 0.8, (2, 3)) * size
        axes = []
        for a in range(3):
            i = np.arange(-int(longest * SPEED / size[a]) - 2, int(longest * SPEED / size[a]) + 2)
            place = np.where(i % 2 == 0, i * size[a] + source[a], (i + 1) * size[a] - source[a]) - mic[a]
            more, less = (np.abs(i) + 1) // 2, np.abs(i) // 2
            at_low, at_high = np.where(i < 0, more, less), np.where(i < 0, less, more)
            axes.append((place**2, at_low * np.log(1 - alphas[2 * a]) + at_high * np.log(1 - alphas[2 * a + 1])))
        for square, lost in zip(*axes[0], strict=True):
            far = square + axes[1][0][:, None] + axes[2][0]
            kept = np.exp(lost + axes[1][1][:, None] + axes[2][1]) / far
            slot = (np.sqrt(far) / SPEED * 1000).astype(int)
            inside = slot < 1200
            histogram += np.bincount(slot[inside], weights=kept[inside], minlength=1200)
    return seconds(histogram, 0.001)


def by_rays(size, alphas, scatters, seed):
    """An independent engine's rays at two microphones, the mean of four throws: one throw wanders by up to 5 %."""
    pra.random.seed(seed)  # numpy's own seed does not reach the engine's rays
    names = ("west", "east", "south", "north", "floor", "ceiling")
    walls = {name: pra.Material(a, scatters) for name, a in zip(names, alphas, strict=True)}
    found = []
    for _ in range(4):
        room = pra.ShoeBox(size, fs=16_000, max_order=0, ray_tracing=True, air_absorption=False, materials=walls)
        room.set_ray_tracing(n_rays=15_000, receiver_radius=0.4, energy_thres=1e-6, time_thres=3.0)
        room.add_source(np.array(size) * (0.3, 0.35, 0.55))
        room.add_microphone(np.array([[0.65, 0.6, 0.45], [0.4, 0.7, 0.6]]).T * np.array(size)[:, None])
        room.compute_rir()
        found += [seconds(room.rir[mic][0] ** 2, 1 / 16_000) for mic in range(2)]
    return float(np.mean(found))


def uneven(rng):
    size = tuple(float(side) for side in rng.uniform((1.4, 1.6, 2.1), (5.5, 4.5, 2.9)))
    return size, [float(a) for a in np.exp(rng.uniform(np.log(0.05), np.log(0.75), 6))]


@pytest.mark.parametrize("alpha", [0.05, 0.2, 0.5])
def test_even_walls_that_scatter_everything_decay_as_the_formula_says(alpha):
    room = plain_box((4.0, 3.2, 2.5), alpha=alpha)
    # ways between walls differ in length (variance 0.4 of the mean squared): H. Kuttruff, Room Acoustics, chapter 5
    known = decay(room).eyring_s[BAND] / (1 + 0.2 * np.log(1 - alpha))
    assert walked_decay(room, 1.0).middle_s[BAND] == pytest.approx(known, rel=0.06)


def test_walls_that_mirror_decay_as_their_images_do(rng):
    for _ in range(5):
        size, alphas = uneven(rng)
        room = plain_box(size, faces=alphas)
        assert walked_decay(room, 0.0).middle_s[BAND] == pytest.approx(by_images(size, alphas, rng), rel=0.12)


def test_uneven_rooms_decay_as_an_independent_tracer_says(rng):
    apart, sigmas = [], []
    for number in range(10):
        size, alphas = uneven(rng)
        scatters = (0.05, 0.1, 0.2, 0.4)[number % 4]
        room = plain_box(size, faces=alphas)
        walked = [walked_decay(room, scatters, *mixing) for mixing in ((), (LITTLE,), (MUCH,))]
        middle, little, much = (found.middle_s[BAND] for found in walked)
        traced = by_rays(size, alphas, scatters, number)
        apart.append(abs(middle / traced - 1))
        spread = np.hypot((max(little, middle) - min(much, middle)) / 2 / middle, 0.08)
        sigmas.append(apart[-1] / spread)
    # the engine bends every reflection and decays for longer, who scatters by chance (`traced.py`) for less
    assert np.sum(np.array(apart) < 0.18) >= 8
    assert max(sigmas) < 2


def test_a_closet_of_clothes_with_bare_ends_hangs_on_longer_than_eyring_promises():
    room = plain_box((1.7, 0.95, 2.3), faces=[0.05, 0.05, 0.8, 0.8, 0.3, 0.06])
    found = decay(room)
    assert found.middle_s[BAND] > 1.3 * found.eyring_s[BAND]
    assert found.spread[BAND] > 0.15  # how much it scatters decides, and is not known
    even = decay(plain_box((4.0, 3.2, 2.5), alpha=0.2))
    assert even.spread[BAND] < 0.1


def test_a_bent_decay_is_predicted_as_bent():
    bare_pair = plain_box((3.0, 2.6, 2.4), faces=[0.03, 0.03, 0.6, 0.6, 0.6, 0.6])
    assert decay(bare_pair).bent
    assert not decay(plain_box((4.0, 3.2, 2.5), alpha=0.2)).bent
