"""The rig is a fair test only when it is right by itself and solves the room another way."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.testing import assert_allclose

from keenquiet.core.bands import exact_octaves_hz
from keenquiet.core.figures import low_end
from keenquiet.core.judge.forecast import Acoustics, forecast, response_grid_hz
from keenquiet.core.read.decay import band_decays
from keenquiet.core.read.tone import room_tone
from keenquiet.core.room.room import NoiseSource, Overlay
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.waves.box_modes import box_mode_hz
from keenquiet.core.waves.response import smoothed_db
from keenquiet.core.waves.statistics import decay
from keenquiet.rig.impulse import SAMPLE_RATE_HZ, rig_impulse
from keenquiet.rig.recorder import FULL_SCALE_SPL_DB, RigSettings, record
from keenquiet.rig.truth import true_room

from ..conftest import plain_box, standing

SOURCE, MIC = (1.1, 0.9, 1.5), (2.9, 1.7, 1.2)


@pytest.fixture(scope="module")
def hard():
    room = plain_box(alpha=0.06)
    return room, rig_impulse(room, standing(SOURCE, MIC), seed=1)


def test_direct_sound_arrives_on_time_at_the_level_of_its_distance(hard):
    room, response = hard
    distance = float(np.linalg.norm(np.subtract(SOURCE, MIC)))
    peak = int(np.argmax(np.abs(response.impulse[: int(0.008 * SAMPLE_RATE_HZ)])))
    assert peak == pytest.approx(distance / room.air.speed_m_s * SAMPLE_RATE_HZ, abs=2)
    # above 2 kHz the first 1.5 ms hold the direct sound alone: its spectrum is 1/r
    window = response.impulse[peak - 36 : peak + 60]
    spectrum = np.abs(np.fft.rfft(window, 4096))
    f = np.fft.rfftfreq(4096, 1 / SAMPLE_RATE_HZ)
    assert np.mean(spectrum[(f > 2000) & (f < 6000)]) == pytest.approx(1 / distance, rel=0.1)


def test_its_low_end_peaks_at_the_closed_form_modes(hard):
    room, response = hard
    spectrum = np.abs(np.fft.rfft(response.impulse))
    f = np.fft.rfftfreq(len(response.impulse), 1 / SAMPLE_RATE_HZ)
    for orders in ((1, 0, 0), (0, 1, 0), (2, 0, 0)):
        expected = float(box_mode_hz(np.array([orders]), size_m=room.shape.bounds_m, speed_m_s=room.air.speed_m_s)[0])
        near = np.abs(f - expected) < 3
        assert f[near][np.argmax(spectrum[near])] == pytest.approx(expected, abs=1.0)


def test_an_even_room_decays_as_eyring_says(hard):
    room, response = hard
    bands = band_decays(response.impulse, SAMPLE_RATE_HZ)
    expected = decay(room).eyring_s
    for i in (4, 5, 6):
        assert bands[i].t30_s == pytest.approx(expected[i], rel=0.1)
    assert_allclose(response.t60_s, expected, rtol=0.05)


def test_two_solutions_of_the_low_end_agree(placed):
    # Galerkin in the frequency domain here, a full quadratic eigenproblem in the rig: same room, same surfaces
    box, arrangement = placed
    f_hz, rig_db = low_end(rig_impulse(box, arrangement, seed=1).impulse, SAMPLE_RATE_HZ)
    predicted = forecast(Acoustics(box), arrangement).response_db
    shown = (f_hz > 35) & (f_hz < 200)
    apart = smoothed_db(predicted, response_grid_hz())[shown] - smoothed_db(rig_db, f_hz)[shown]
    assert np.std(apart) < 1.0


def test_a_curtain_behind_the_performer_weakens_the_return_from_there(placed):
    box, arrangement = placed
    curtain = Overlay("c", 1, (0.4, 2.4, 0.2, 2.2), CATALOGUE["mineral-wool-50"])
    bare, hung = (rig_impulse(room, arrangement, seed=1).impulse for room in (box, box.with_overlays((curtain,))))
    direct = float(np.linalg.norm(np.subtract(arrangement.performer.at, arrangement.microphone.at)))
    arrival = round((direct / box.air.speed_m_s + 0.00536) * SAMPLE_RATE_HZ)
    window = slice(arrival - 30, arrival + 30)
    assert np.sum(hung[window] ** 2) < 0.5 * np.sum(bare[window] ** 2)


def test_recorded_noise_has_the_levels_it_was_given(placed):
    box, arrangement = placed
    level = np.array([50.0, 48, 46, 44, 42, 40, 38, 36])
    mic = arrangement.microphone.at
    loud = replace(box, noises=(NoiseSource("n", level, (mic[0], mic[1], mic[2] - 1.0), kind="inside"),))
    heard = room_tone(
        record(loud, arrangement, "tone", RigSettings(seed=4)).samples, SAMPLE_RATE_HZ, calibration_db=FULL_SCALE_SPL_DB
    )
    # one metre away: the level itself and the room's diffuse share, both through a cardioid's random efficiency
    truth = true_room(loud)
    area = truth.face_areas_m2 @ truth.face_absorption + truth.furniture_area_m2
    expected = level + 10 * np.log10((1 + 16 * np.pi / area) / 3)
    assert_allclose(heard.octaves_db, expected, atol=2.5)


def test_a_humming_noise_hums_at_its_pitch(placed):
    box, arrangement = placed
    tone = room_tone(record(box, arrangement, "tone", RigSettings(seed=2, hour=9.5)).samples, SAMPLE_RATE_HZ)
    assert tone.tones[0].f_hz == pytest.approx(146.0, abs=1.0)
    noon = room_tone(record(box, arrangement, "tone", RigSettings(seed=2, hour=12.0)).samples, SAMPLE_RATE_HZ)
    assert all(abs(found.f_hz - 146.0) > 2 for found in noon.tones)


def test_gain_clips_and_seeds_repeat(placed):
    box, arrangement = placed
    hot = record(box, arrangement, "take", RigSettings(seed=3, gain_db=20)).samples
    assert np.count_nonzero(np.abs(hot) > 0.9999) > 100
    assert np.max(np.abs(hot)) <= 1.0
    one, two, other = (record(box, arrangement, "tone", RigSettings(seed=s)).samples for s in (8, 8, 9))
    assert np.array_equal(one, two)
    assert not np.array_equal(one, other)


def test_an_impulse_response_is_given_without_a_recorder(placed):
    box, arrangement = placed
    found = record(box, arrangement, "ir", RigSettings(seed=3))
    assert np.max(np.abs(found.samples)) == pytest.approx(0.7)
    assert (found.clock_ppm, found.delay_s) == (0.0, 0.0)


def test_a_panel_brings_its_own_error_and_changes_no_other_surface(placed):
    box, _ = placed
    panel = Overlay("p", 1, (0.4, 1.0, 0.2, 1.4), CATALOGUE["mineral-wool-50"])
    bare, hung = true_room(box), true_room(box.with_overlays((panel,)))
    for one, two in zip(bare.materials, hung.materials, strict=True):
        assert np.array_equal(one.absorption, two.absorption)
    assert not np.allclose(hung.overlays[-1].material.absorption, panel.material.absorption)


def test_octave_weights_leave_a_flat_direct_sound(hard):
    _, response = hard
    bands = exact_octaves_hz()
    assert len(response.t60_s) == len(bands)
    peak = int(np.argmax(np.abs(response.impulse[:400])))
    spectrum = np.abs(np.fft.rfft(response.impulse[peak - 36 : peak + 60], 4096))
    f = np.fft.rfftfreq(4096, 1 / SAMPLE_RATE_HZ)
    inside = (f > 1500) & (f < 9000)
    assert np.ptp(20 * np.log10(spectrum[inside])) < 3.0
