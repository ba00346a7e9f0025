import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import signal

from keenquiet.core.errors import MeasurementError
from keenquiet.core.read.figures import read_take, read_tone
from keenquiet.core.read.quality import checked, flat_tops
from keenquiet.core.read.tone import NC_CURVES, calibration_from, noise_criterion, noise_rating, room_tone

RATE = 48_000.0
T = np.arange(int(12 * RATE)) / RATE


def sine(f, db, t=T):
    return 10 ** (db / 20) * np.sqrt(2) * np.sin(2 * np.pi * f * t)


def test_a_calibrated_kilohertz_reads_its_level():
    tone = room_tone(sine(1000, -40), RATE, calibration_db=100)
    assert tone.laeq_db == pytest.approx(60.0, abs=0.3)
    assert dict(zip(tone.thirds_hz, tone.thirds_db, strict=True))[1000.0] == pytest.approx(60.0, abs=0.3)


def test_white_noise_rises_one_decibel_a_third(rng):
    tone = room_tone(0.01 * rng.standard_normal(len(T)), RATE)
    levels = dict(zip(tone.thirds_hz, tone.thirds_db, strict=True))
    # density 1e-4 * 2 / rate per hertz times the band's width
    for f in (100.0, 1000.0, 10_000.0):
        width = f * (10**0.05 - 10**-0.05)
        assert levels[f] == pytest.approx(10 * np.log10(1e-4 * 2 / RATE * width), abs=0.5)


def test_tones_are_found_within_1_hz_and_1_db_and_named(rng):
    floor = 0.001 * rng.standard_normal(len(T))
    tone = room_tone(floor + sine(100, -50) + sine(233.4, -55) + sine(3100, -60), RATE)
    found = {kind: (f, db) for f, db, kind in ((x.f_hz, x.level_db, x.kind) for x in tone.tones)}
    for kind, f, db in (("hum", 100, -50), ("fan", 233.4, -55), ("whine", 3100, -60)):
        assert found[kind][0] == pytest.approx(f, abs=1)
        assert found[kind][1] == pytest.approx(db, abs=1)
    assert len(tone.tones) == 3


def test_nothing_is_invented_in_plain_noise(rng):
    pink = signal.sosfilt(signal.butter(1, 100, fs=RATE, output="sos"), rng.standard_normal(len(T)))
    for noise in (0.01 * rng.standard_normal(len(T)), 0.01 * pink):
        tone = room_tone(noise, RATE)
        assert tone.tones == ()
        assert tone.events == ()


def test_an_event_is_found_when_it_happened(rng):
    x = 0.001 * rng.standard_normal(len(T))
    x[int(4 * RATE) : int(5.5 * RATE)] *= 6
    (event,) = room_tone(x, RATE).events
    assert event.start_s == pytest.approx(4.0, abs=0.2)
    assert event.end_s == pytest.approx(5.5, abs=0.2)
    assert event.rise_db == pytest.approx(15.6, abs=1.5)


@pytest.mark.parametrize("number", sorted(NC_CURVES))
def test_each_nc_curve_rates_as_itself(number):
    assert noise_criterion(np.array(NC_CURVES[number], dtype=float)) == number


def test_nr_of_the_published_curve():
    # NR 25 by octave, ISO/R 1996 (rounded to whole decibels there)
    assert noise_rating(np.array([55.0, 43.5, 35.0, 29.0, 25.0, 21.8, 19.5, 17.7])) == pytest.approx(25, abs=1)


def test_a_calibrator_gives_the_level_of_full_scale_and_music_does_not_pass(rng):
    level, steady = calibration_from(sine(1000, -20), RATE, level_db=94)
    assert level == pytest.approx(114.0, abs=0.05)
    assert steady
    assert not calibration_from(0.1 * rng.standard_normal(len(T)), RATE, level_db=94)[1]


def test_loudness_of_the_standards_reference_tone():
    # BS.1770: a 997 Hz sine at 0 dBFS peak in one channel reads -3.01 LKFS
    figures = read_take((0.5 * np.sin(2 * np.pi * 997 * T))[None], RATE).levels
    assert figures.loudness_lufs == pytest.approx(-3.01 - 6.02, abs=0.1)


def test_a_true_peak_between_the_samples_is_found():
    x = 0.5 * np.sin(2 * np.pi * 12_000 * T + np.pi / 4)  # samples at 45 degrees: 3 dB under the wave
    levels = read_take(x[None], RATE).levels
    assert levels.sample_peak_dbfs == pytest.approx(-9.03, abs=0.05)
    assert levels.true_peak_dbtp == pytest.approx(-6.02, abs=0.3)


def _phrases(rng, peak_db, floor_db):
    envelope = (np.mod(T, 3) < 2).astype(float)
    voice = np.sin(2 * np.pi * 220 * T) * envelope * 10 ** (peak_db / 20)
    return voice + 10 ** (floor_db / 20) * rng.standard_normal(len(T))


@pytest.mark.parametrize(("peak_db", "low", "high"), [(-2.0, -11, -5), (-9.0, 0, 0), (-30.0, 12, 24)])
def test_gain_advice_brings_the_peak_where_it_belongs(rng, peak_db, low, high):
    levels = read_take(_phrases(rng, peak_db, -80)[None], RATE).levels
    assert low <= levels.gain_advice_db <= high
    assert levels.noise_floor_dbfs == pytest.approx(-80, abs=1)


def test_a_clipped_take_and_a_flattened_one_are_told_apart(rng):
    wave = _phrases(rng, -1.0, -70)
    clipped = np.clip(1.6 * wave, -1, 1)
    flattened = 0.4 * np.clip(1.6 * wave, -1, 1)
    assert [f.kind for f in read_take(clipped[None], RATE).levels.findings] == ["clipped"]
    assert [f.kind for f in read_take(flattened[None], RATE).levels.findings] == ["flat_top"]
    assert read_take(wave[None], RATE).levels.findings == ()
    assert not flat_tops(0.5 * np.sin(2 * np.pi * 41 * T))


@pytest.mark.parametrize(
    ("spoil", "code"),
    [
        (lambda x: np.clip(30 * x, -1, 1), "clipped"),
        (lambda x: x + 0.2, "dc_offset"),
        (lambda x: 1e-4 * x, "too_quiet"),
        (lambda x: np.where(np.mod(T, 1) < 0.3, 0.0, x), "gated"),
        (lambda x: 20 * x, "over_full_scale"),
        (lambda x: np.where(T[500] == T, np.nan, x), "not_a_number"),
    ],
)
def test_faults_are_named(rng, spoil, code):
    assert code in checked(spoil(0.05 * rng.standard_normal(len(T)))[None], RATE).codes


def test_a_dead_channel_is_passed_over_and_silence_refused(rng):
    sound = 0.1 * rng.standard_normal(len(T))
    clean = checked(np.stack([np.zeros(len(T)), sound]), RATE)
    assert "dead_channel" in clean.codes
    assert_allclose(clean.samples, sound - sound.mean())
    with pytest.raises(MeasurementError) as caught:
        read_tone(np.zeros((1, 96_000)), RATE)
    assert caught.value.code == "silent"


def test_a_good_recording_draws_no_remark(rng):
    assert checked(0.1 * rng.standard_normal((1, len(T))), RATE, bits=24).codes == ()
