import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import signal

from keenquiet.core.errors import MeasurementError
from keenquiet.core.figures import read_take, read_tone
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
    assert {f.kind for f in read_take(clipped[None], RATE).levels.findings} == {"clipped"}
    assert {f.kind for f in read_take(flattened[None], RATE).levels.findings} == {"flat_top"}
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


def passing(rng, *, seconds=20.0, from_s, to_s, over_db, tone_hz=None):
    """Even noise over which something passes."""
    t = np.arange(int(seconds * RATE)) / RATE
    quiet = 0.001 * rng.standard_normal(len(t))
    swell = np.clip(np.minimum(t - from_s, to_s - t) / 0.8, 0, 1)
    other = rng.standard_normal(len(t)) if tone_hz is None else np.sqrt(2) * np.sin(2 * np.pi * tone_hz * t)
    return quiet + 0.001 * 10 ** (over_db / 20) * swell * other


def test_a_tram_is_an_event_in_a_silence_and_no_speech(rng):
    tram = passing(rng, from_s=6.0, to_s=15.0, over_db=24)
    read = read_tone(tram[None], RATE)
    (event,) = read.tone.events
    assert (event.start_s, event.end_s) == pytest.approx((6.2, 14.8), abs=0.4)
    assert event.rise_db == pytest.approx(24, abs=1)
    assert [reason.code for reason in read.verdict.reasons] == ["disturbed"]
    # the steady part is that of the noise alone
    alone = room_tone(0.001 * rng.standard_normal(len(tram)), RATE)
    assert np.max(np.abs(read.tone.steady_thirds_db - alone.steady_thirds_db)[3:]) < 1.0


def test_what_passes_for_longer_than_half_the_time_is_no_fan(rng):
    over = passing(rng, from_s=5.0, to_s=17.0, over_db=20, tone_hz=130.0)
    tone = read_tone(over[None], RATE).tone
    assert [(event.start_s, event.end_s) for event in tone.events] == [pytest.approx((5.2, 16.8), abs=0.9)]
    assert tone.tones == ()
    running = (
        0.001 * rng.standard_normal(len(over))
        + sine(130, -50)[: len(over)].mean()
        + 0.01 * np.sin(2 * np.pi * 130 * np.arange(len(over)) / RATE)
    )
    assert [t.kind for t in read_tone(running[None], RATE).tone.tones] == ["fan"]


def test_words_are_still_no_silence(rng):
    t = np.arange(int(12 * RATE)) / RATE
    spoken = (np.sin(2 * np.pi * 1.4 * t) > 0) * (np.sin(2 * np.pi * 0.2 * t) > -0.6) * rng.standard_normal(len(t))
    with pytest.raises(MeasurementError) as refused:
        read_tone((0.03 * spoken + 0.001 * rng.standard_normal(len(t)))[None], RATE)
    assert (refused.value.code, refused.value.variant) == ("not_a_recording", "no_silence")


@pytest.mark.parametrize("bits", [16, 24])
def test_the_converters_last_bit_is_no_quiet_room(rng, bits):
    dither = np.round(0.9 * rng.standard_normal(int(10 * RATE))).clip(-2, 2) / 2 ** (bits - 1)
    with pytest.raises(MeasurementError) as refused:
        read_tone(dither[None], RATE, calibration_db=100)
    assert (refused.value.code, refused.value.variant) == ("silent", "last_bit")


def sung(rng, seconds=8.0):
    t = np.arange(int(seconds * RATE)) / RATE
    phase = 2 * np.pi * np.cumsum(180 * (1 + 0.01 * np.sin(2 * np.pi * 5 * t))) / RATE
    wave = sum(np.cos(k * phase + rng.uniform(0, 6.28)) / k for k in range(1, 25))
    wave = wave * (0.6 + 0.4 * np.sin(2 * np.pi * 0.7 * t))
    return wave / np.max(np.abs(wave))


@pytest.mark.parametrize("noise_db", [-80, -50])
@pytest.mark.parametrize("level", [0.02, 0.4])
def test_flat_tops_are_seen_at_any_level_with_noise_on_them(rng, level, noise_db):
    wave = sung(rng)
    noise = 10 ** (noise_db / 20) * rng.standard_normal(len(wave))
    assert flat_tops(level * (np.clip(wave, -0.6, 0.6) + noise))
    assert flat_tops(level * (np.clip(wave, -2, 0.45) + noise))  # one side alone
    assert not flat_tops(level * (wave + noise))


@pytest.mark.parametrize(
    "wave",
    [
        np.sin(2 * np.pi * 50.3 * T),
        np.sin(2 * np.pi * 1000 * T),
        signal.sawtooth(2 * np.pi * 110 * T, 0.5),
        signal.sawtooth(2 * np.pi * 110 * T),
        np.tanh(np.sin(2 * np.pi * 150 * T)),
        np.random.default_rng(4).standard_normal(len(T)) / 5,
    ],
    ids=["low sine", "sine", "triangle", "saw", "soft", "noise"],
)
def test_no_flat_top_is_seen_where_none_was_cut(rng, wave):
    assert not flat_tops(0.5 * wave)
    assert not flat_tops(0.5 * wave + 0.001 * rng.standard_normal(len(wave)))


def test_a_fault_in_the_second_channel_is_a_fault(rng):
    wave = _phrases(rng, -12.0, -70)
    kinds = {f.kind for f in read_take(np.stack([wave, np.clip(6 * wave, -1, 1)]), RATE).levels.findings}
    assert kinds == {"clipped", "hiss"}  # sixfold, its white noise lies 44 dB under a low note by ear
    both = read_take(np.stack([wave, 2 * wave]), RATE).levels
    one = read_take(wave[None], RATE).levels
    # BS.1770 sums channels: 1 + 4 times the power; peaks are the louder channel's
    assert both.loudness_lufs - one.loudness_lufs == pytest.approx(10 * np.log10(5), abs=0.02)
    assert both.sample_peak_dbfs - one.sample_peak_dbfs == pytest.approx(6.02, abs=0.01)


def test_the_edges_of_a_file_raise_no_true_peak():
    wave = 0.5 * np.cos(2 * np.pi * 60 * T)  # begins and ends at its top
    assert read_take(wave[None], RATE).levels.true_peak_dbtp == pytest.approx(-6.02, abs=0.05)


def test_a_hum_that_starts_halfway_is_found_where_it_is(rng):
    t = np.arange(int(40 * RATE)) / RATE
    voice = 0.3 * np.sin(2 * np.pi * 330 * t) * (np.mod(t, 3) < 2)
    hum = 0.004 * np.sin(2 * np.pi * 100 * t) * (t > 20)
    findings = read_take((voice + hum + 2e-4 * rng.standard_normal(len(t)))[None], RATE).levels.findings
    (found,) = [f for f in findings if f.kind == "hum"]
    assert found.f_hz == pytest.approx(100, abs=1)
    assert (found.start_s, found.end_s) == pytest.approx((20, 40), abs=1)


def test_an_offset_is_no_noise(rng):
    wave = _phrases(rng, -10.0, -70)
    plain, shifted = (read_take(x[None], RATE).levels for x in (wave, wave + 0.05))
    assert shifted.noise_floor_dbfs == pytest.approx(plain.noise_floor_dbfs, abs=0.2)
