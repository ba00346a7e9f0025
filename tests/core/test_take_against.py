"""Takes held against another recording: one's own line, the backing track, another take line by line, the sound that
was played; and what a file says of its past. Truths are made here or by the simulated performer, never read back.
"""

import numpy as np
import pytest
import scipy

from keenquiet.core.figures import read_take
from keenquiet.core.take.against import against, against_findings
from keenquiet.core.take.automatic import automatic
from keenquiet.core.take.bleed import bleed_findings, bleed_of
from keenquiet.core.take.file_truth import ends_at_hz, true_bits
from keenquiet.core.take.finding import KINDS
from keenquiet.core.take.latency import latency_of, notches_of
from keenquiet.core.take.later import raised_later
from keenquiet.core.take.lines import lines_of
from keenquiet.core.take.moments import moments_of
from keenquiet.core.take.soft_over import soft_over
from keenquiet.core.take.tuning import CENTS_PER_K, cents_apart
from keenquiet.rig.singer import sung_take
from keenquiet.rig.spoils import flawed_take
from keenquiet.rig.voice import RATE_HZ, pinkish


def levels(samples):
    return read_take(np.atleast_2d(samples), RATE_HZ, bits=24).levels


def held(take, line):
    return against(levels(take), levels(line), samples=take, line_samples=line, sample_rate_hz=RATE_HZ)


@pytest.mark.parametrize("seed", [1, 2, 4])
@pytest.mark.parametrize("kind", ["nearer", "turned", "boomy", "thin", "tuning"])
def test_a_take_that_differs_from_ones_line_is_told_so_by_one_word(kind, seed):
    take = flawed_take(kind, seed=seed)
    (found,) = against_findings(held(take.samples, take.reference), take.seconds)
    assert found.kind == kind
    if kind == "nearer":  # half the distance: 20 lg 2
        assert found.value == pytest.approx(6.02, abs=0.5)
    if kind == "tuning":
        assert found.value == pytest.approx(18.0, abs=0.5)


@pytest.mark.parametrize("seed", [2, 4])
def test_the_back_of_a_cardioid_is_the_wrong_side(seed):
    take = flawed_take("wrong_side", seed=seed)
    assert [f.kind for f in against_findings(held(take.samples, take.reference), 1)] == ["wrong_side"]


@pytest.mark.parametrize("seed", range(1, 7))
def test_another_line_and_another_voice_are_no_change_of_place(seed):
    take = sung_take(seed=seed).samples
    for other in (sung_take(seed=seed + 20), sung_take(seed=seed + 40, lowest_hz=98.0)):
        assert not {f.kind for f in against_findings(held(take, other.samples), 1)} - {"nearer", "further"}
    again = sung_take(seed=seed, floor_db=-60.0).samples
    assert against_findings(held(again, take), 1) == []


def test_cents_are_those_of_two_chords_and_the_law_of_an_air_column():
    t = np.arange(4 * RATE_HZ) / RATE_HZ
    chord = [196.0, 294.0, 440.0, 622.0]

    def played(cents):
        return sum(np.sin(2 * np.pi * f * 2 ** (cents / 1200) * k * t) / k for f in chord for k in (1, 2, 3))

    for cents in (-31.0, 4.0, 25.0):
        assert cents_apart(played(0.0), played(cents), RATE_HZ) == pytest.approx(cents, abs=0.5)
    # the speed of sound grows as the root of temperature: cents by hand for one kelvin at 20 degC
    assert pytest.approx(1200 * np.log2(np.sqrt(294.15 / 293.15)), abs=0.01) == CENTS_PER_K
    noise = np.random.default_rng(0).standard_normal((2, 4 * RATE_HZ))
    assert cents_apart(noise[0], noise[1], RATE_HZ) is None


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_backing_that_leaks_is_as_loud_as_it_was_mixed_in(seed):
    take = flawed_take("bleed", seed=seed)
    judged = levels(take.samples)
    found = bleed_of(take.samples, take.backing, RATE_HZ, judged.phrases, active_dba=judged.active_dba)
    assert found.under_db == pytest.approx(-34.0, abs=2.5)
    assert bleed_findings(found, 1)[0].kind == "bleed"
    clean = sung_take(seed=seed)
    not_there = bleed_of(clean.samples, take.backing, RATE_HZ, judged.phrases, active_dba=judged.active_dba)
    assert bleed_findings(not_there, 1) == []


def test_two_takes_are_paired_line_by_line_and_the_cleaner_line_of_each_is_chosen():
    song = sung_take(seed=3, phrases=7)
    a = song.samples.copy()
    lost = int((song.phrases[4][0] + 0.4) * RATE_HZ)
    a[lost : lost + 600] = 0
    left_out = slice(*(int((song.phrases[n][0] - 0.3) * RATE_HZ) for n in (2, 3)))
    b = np.delete(song.samples, np.arange(left_out.start, left_out.stop)) * 10 ** (-3 / 20)
    found = lines_of(levels(a), levels(b), samples_a=a, samples_b=b, sample_rate_hz=RATE_HZ)
    assert len(found.pairs) == 6
    assert [round(p.start_s) for p in found.only_a] == [round(song.phrases[2][0])]
    assert found.only_b == ()
    assert [p.gain_db for p in found.pairs] == pytest.approx([3.0] * 6, abs=0.25)
    assert [p.better for p in found.pairs] == [None, None, None, "b", None, None]
    assert all(join.heard is False for join in found.joins)
    noisy = b + pinkish(np.random.default_rng(1), len(b)) * song.loud * 10 ** (-50 / 20)
    cut = lines_of(levels(a), levels(noisy), samples_a=a, samples_b=noisy, sample_rate_hz=RATE_HZ)
    assert [join.heard for join in cut.joins] == [True] * len(cut.joins)
    assert cut.joins == () or cut.joins[0].step_db == pytest.approx(15, abs=2)


@pytest.mark.parametrize("late", [0, 1, 613, 24_000])
def test_latency_is_that_of_the_samples_put_before(late):
    rng = np.random.default_rng(late)
    sound = rng.standard_normal(RATE_HZ)
    got = np.concatenate([np.zeros(late), 0.3 * sound, np.zeros(2000)])
    got += 0.03 * rng.standard_normal(len(got))
    assert latency_of(sound, got, RATE_HZ).latency_ms == pytest.approx(1000 * late / RATE_HZ, abs=0.02)
    assert latency_of(sound, rng.standard_normal(3 * RATE_HZ), RATE_HZ) is None
    # by hand: 2 ms late, the first notch where half a wave is 2 ms
    assert notches_of(2.0)[:2] == pytest.approx((250.0, 750.0))


def test_a_files_past_is_read_from_its_quiet_and_its_last_bits():
    rng = np.random.default_rng(4)
    take = sung_take(seed=2).samples
    spectrum, f_hz = np.fft.rfft(take), np.fft.rfftfreq(len(take), 1 / RATE_HZ)
    for edge in (8000.0, 11_025.0, 16_000.0):
        cut = np.fft.irfft(spectrum * (f_hz < edge), len(take)) + 1e-8 * rng.standard_normal(len(take))
        assert ends_at_hz(cut, RATE_HZ) == pytest.approx(edge, abs=400)
    assert ends_at_hz(take, RATE_HZ) is None
    slope = scipy.signal.sosfilt(scipy.signal.butter(2, 6000, fs=RATE_HZ, output="sos"), take)
    assert ends_at_hz(slope, RATE_HZ) is None
    assert true_bits(np.round(take * 2**15) / 2**15, 24) == 16
    assert true_bits(np.round(take * 2**23) / 2**23, 24) in (23, 24)


def test_pressed_tops_are_told_only_where_quieter_passages_are_round():
    t = np.arange(RATE_HZ) / RATE_HZ
    tone = np.sin(2 * np.pi * 220 * t)
    parts = [level * tone for level in (1.0, 0.15, 1.0, 0.15, 0.1, 0.2)]
    assert soft_over(np.tanh(2.5 * np.concatenate(parts)), RATE_HZ)
    assert soft_over(np.concatenate(parts), RATE_HZ) == []
    square = np.concatenate([level * np.tanh(6 * tone) for level in (1.0, 0.15, 1.0, 0.15, 0.1, 0.2)])
    assert soft_over(square, RATE_HZ) == []  # square at every level: that is its sound


def test_moments_hold_the_power_of_the_samples_by_parseval():
    rng = np.random.default_rng(1)
    noise = 0.1 * rng.standard_normal(4 * RATE_HZ)
    found = moments_of(noise, float(RATE_HZ))
    # white noise: the share of a band is its width over half the rate
    share = 10 * np.log10((4000 - 500) / (RATE_HZ / 2))
    assert found.mean_level("speech", 5, 390) == pytest.approx(-20 + share, abs=0.2)
    tone = 0.5 * np.sin(2 * np.pi * 1000 * np.arange(RATE_HZ) / RATE_HZ)
    assert moments_of(tone, float(RATE_HZ)).level_dba()[50] == pytest.approx(-9.03, abs=0.1)  # 0 dB at 1 kHz


def test_steady_room_tone_is_no_automatic_gain():
    take = sung_take(seed=11, floor_db=-50.0)
    judged = levels(take.samples)
    assert automatic(judged.moments, judged.phrases, take.seconds) == []


def test_squeezing_brings_the_noise_up_by_ten_decibels_and_leaves_esses():
    found = raised_later(levels(sung_take(seed=5, floor_db=-48.0).samples))
    assert found.noise_db[0] - found.noise_db[1] == pytest.approx(10.0)
    assert found.noise_db[2] < found.noise_db[1] + 1  # pink noise is no duller than a voice
    assert found.esses_db[1] == found.esses_db[0]
    assert found.esses_db[2] == pytest.approx(found.esses_db[0] + 6.0)


def test_every_kind_of_finding_has_its_name_its_cure_and_its_thread():
    from keenquiet.advice.findings import FINDING_CURES, FINDING_MEASURES, FINDING_NAMES, NEEDS_WORDS, THREAD_NAMES

    assert set(KINDS) == set(FINDING_CURES) == set(FINDING_NAMES) == set(FINDING_MEASURES)
    assert {kind.thread for kind in KINDS.values()} == set(THREAD_NAMES)
    assert {kind.needs for kind in KINDS.values() if kind.needs} <= set(NEEDS_WORDS)


@pytest.mark.parametrize("louder_db", [-12.0, -6.0, 6.0])
@pytest.mark.parametrize("seed", [2, 3, 4, 5])
def test_who_sings_louder_or_softer_has_not_moved(seed, louder_db):
    take = sung_take(seed=seed)
    louder = (take.dry + take.room) * 10 ** (louder_db / 20) + take.floor
    levels, line = (read_take(samples[None], RATE_HZ, bits=24).levels for samples in (louder, take.samples))
    found = against(levels, line, samples=louder, line_samples=take.samples, sample_rate_hz=RATE_HZ)
    assert not {f.kind for f in against_findings(found, take.seconds)} & {"nearer", "further", "wrong_side"}
    assert found.level_db == pytest.approx(louder_db, abs=0.3)
