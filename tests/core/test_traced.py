"""Decay, direct over room, noise and nulls against a ray tracer that shares no line with the core (`traced.py`)."""

from dataclasses import replace

import numpy as np
import pytest

from keenquiet.core.judge.aim import null_towards_noise
from keenquiet.core.judge.forecast import Acoustics
from keenquiet.core.room.room import Microphone, NoiseSource, direction
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.core.waves.reverberant import direct_over_room_at_db, mid_band_db
from keenquiet.core.waves.statistics import decay

from .traced import BANDS, traced, world_of
from .traced_rooms import arrangement, by_rays, predicted, traced_room


# lively above, soft below: rooms whose furniture stands low under bare walls, and panels that lie among them
@pytest.mark.parametrize("number", [1, 5, 11, 13, 18])
def test_a_furnished_room_decays_and_is_heard_as_its_rays_are(number):
    room, with_panels, source, mic = traced_room(number)
    for built in (room, with_panels):
        decay_s, bounce_db = by_rays(built, source, mic, number)
        told_s, told_db = predicted(built, source, mic)
        assert told_s == pytest.approx(decay_s, rel=0.15)
        assert told_db == pytest.approx(bounce_db, abs=1.0)
        mapped = direct_over_room_at_db(
            built, arrangement(source, mic), decay=decay(built), sources=source[None], mics=mic[None]
        )
        assert mid_band_db(mapped)[0] == pytest.approx(bounce_db, abs=1.2)


def heard_db(room, noise_at, microphone, seed):
    """A noise that sends alike all round, at a microphone, 500 to 2000 Hz, relative to its level at 1 m."""
    aim, at = direction(microphone.aims_deg, microphone.tilt_deg), np.array(microphone.at)
    _, heard, direct = traced(world_of(room), noise_at, at, aim, microphone.a, np.random.default_rng(seed), rays=12_000)
    return 10 * np.log10(4 * np.pi * (heard.sum(axis=0) + direct))


@pytest.mark.parametrize("number", [2, 6, 8])
def test_noise_at_a_microphone_and_what_a_null_wins(number):
    room, _, source, mic = traced_room(number)
    ahead = (source - mic) / np.linalg.norm(source - mic)
    aside = np.array([-ahead[1], ahead[0], 0.0])
    fan = mic + 0.5 * aside + np.array([0.0, 0.0, -0.4])
    noise = NoiseSource("Fan", np.full(8, 50.0), tuple(fan), kind="inside")
    room = replace(room, noises=(noise,))
    bearing = np.degrees(np.arctan2(ahead[1], ahead[0]))
    placed = replace(arrangement(source, mic), microphone=Microphone(tuple(mic), float(bearing) + 40, 0.0, "figure-8"))
    found = null_towards_noise(Acoustics(room), placed)
    turned = replace(placed, microphone=Microphone(tuple(mic), found.aims_deg, found.tilt_deg, "figure-8"))
    for where, seed in ((placed, 1), (turned, 2)):
        told = noise_at_microphone(room, where, decay=decay(room)).source_octaves_db["Fan"][BANDS]
        assert told == pytest.approx(50 + heard_db(room, fan, where.microphone, seed), abs=1.0)
    before, after = (heard_db(room, fan, where.microphone, 3)[1] for where in (placed, turned))
    cosines = [direction(w.microphone.aims_deg, w.microphone.tilt_deg) @ ahead for w in (placed, turned)]
    voice_db = 20 * np.log10(abs(cosines[1] / cosines[0]))
    assert found.level_db == pytest.approx(voice_db, abs=0.01)
    assert found.under_db == pytest.approx(voice_db - (after - before), abs=1.5)
    assert found.under_db > 1
