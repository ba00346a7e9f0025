"""What is found in takes that share nothing with the rig: spoken by a speech synthesiser, played by other recipes, in
rooms of image sources, with faults coded a second way; finished mixes; loudness and peaks by published signals.
"""

import numpy as np
import pytest
import scipy

from keenquiet.core.read.figures import read_take
from keenquiet.core.take.loudness import loudness_lufs, true_peak_db
from tests.core.made_otherwise import PLAYED, PUT_IN, RATE, in_a_room, made, mixed, one_after_another, pressed, spoilt

WITHIN_S = 0.15  # a tenth for what is told, and the half of a block for what is put in
# nearer is told from louder only where the room's tail says so: short spoken takes leave it open
ALSO = {"drift": ("drift", "creep"), "crackle": ("click",)}


def levels(samples):
    return read_take(np.atleast_2d(samples), RATE, bits=24).levels


@pytest.mark.parametrize("who", ["spoken", *PLAYED])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_take_without_a_fault_draws_no_finding(who, seed):
    assert levels(made(seed, who=who).samples).findings == ()


@pytest.mark.parametrize("kind", list(PUT_IN))
@pytest.mark.parametrize("seed", [1, 3])
def test_each_fault_is_found_where_it_is(kind, seed):
    take = spoilt(kind, seed)
    _, start, end, _ = take.truth
    found = [f for f in levels(take.samples).findings if f.kind in ALSO.get(kind, (kind,))]
    assert found
    assert any(f.start_s < end + WITHIN_S and f.end_s > start - WITHIN_S for f in found)


def test_a_compressor_and_automatic_gain_differ_by_how_long_they_let_go():
    fast, slow = (levels(spoilt(kind, 2).samples).findings for kind in ("compressed", "auto_gain"))
    assert {"compressed"} == {f.kind for f in fast} & {"compressed", "auto_gain"}
    assert {"auto_gain"} == {f.kind for f in slow} & {"compressed", "auto_gain"}


@pytest.mark.parametrize("who", ["string", "pipe"])
def test_phrases_that_press_no_tops_are_round_at_every_level(who):
    take = made(4, who=who)
    gain = np.ones(len(take.direct))
    for start, end in take.spans[::3]:
        gain[int((start - 0.2) * RATE) : int((end + 0.5) * RATE)] = 0.2
    loud_and_soft = (take.direct + take.room) * gain + take.floor
    assert "soft_over" not in {f.kind for f in levels(loud_and_soft).findings}


@pytest.mark.parametrize("stereo", [True, False])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_finished_mix_is_no_microphone(seed, stereo):
    reading = read_take(mixed(seed, stereo=stereo), RATE, bits=24)
    assert "mixed" in {reason.code for reason in reading.verdict.reasons}
    assert "roomy" in reading.levels.not_looked_for
    assert not {f.kind for f in reading.levels.findings} & {"creep", "seam", "noise", "thump", "pop", "roomy"}


@pytest.mark.parametrize(("who", "lowest"), [("string", 82.0), ("brass", 147.0), ("pipe", 294.0)])
def test_one_instrument_without_pauses_is_no_mix_and_pressed_loud_neither(who, lowest):
    rng = np.random.default_rng(5)
    direct, room = in_a_room(rng, one_after_another(rng, who, 15.0, lowest))
    heard = 0.3 * (direct + room) / np.max(np.abs(direct + room)) + 1e-5 * rng.standard_normal(len(direct))
    for samples in (heard, pressed(heard, 4.0)):
        assert not levels(samples).mixed


def test_a_drone_under_a_melody_is_no_mix():
    t = np.arange(15 * RATE) / RATE
    drone = sum(scipy.signal.sawtooth(2 * np.pi * f_hz * t) for f_hz in (98.0, 147.0))
    melody = one_after_another(np.random.default_rng(3), "brass", 15.0, 294.0)
    assert not levels(0.05 * drone + 0.1 * melody).mixed


# EBU Tech 3341 (2016), table 1: levels in dBFS of a 1 kHz stereo sine with their seconds, and the loudness in LUFS
MINIMUM_REQUIREMENTS = (
    (((-23.0, 20.0),), -23.0),
    (((-33.0, 20.0),), -33.0),
    (((-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0)), -23.0),
    (((-72.0, 10.0), (-36.0, 10.0), (-23.0, 60.0), (-36.0, 10.0), (-72.0, 10.0)), -23.0),
    (((-26.0, 20.0), (-20.0, 20.1), (-26.0, 20.0)), -23.0),
)


@pytest.mark.parametrize(("parts", "wanted"), MINIMUM_REQUIREMENTS)
def test_loudness_is_that_of_the_published_signals_stereo_and_mono(parts, wanted):
    level = np.concatenate([np.full(int(seconds * RATE), 10 ** (db / 20)) for db, seconds in parts])
    sine = level * np.sin(2 * np.pi * 1000 * np.arange(len(level)) / RATE)
    assert loudness_lufs([sine, sine], RATE) == pytest.approx(wanted, abs=0.1)
    assert loudness_lufs([sine], RATE) == pytest.approx(wanted - 3.01, abs=0.1)


def oversampled_peak_db(samples, times=64):
    """True peak of a piece that fades at both ends, by its spectrum made so many times as long."""
    fine = scipy.signal.resample(samples, times * len(samples))
    return 20 * np.log10(np.max(np.abs(fine)))


@pytest.mark.parametrize("who", ["noise", "treble", "quarter", "spoken", "brass", "cut"])
def test_true_peaks_are_those_of_sixty_four_times_as_many_samples(who):
    n = RATE
    rng = np.random.default_rng(7)
    fades = np.minimum(1, np.minimum(np.arange(n), np.arange(n)[::-1]) / 2000)
    if who in ("spoken", "brass"):
        samples = made(2, who=who, phrases=1).samples[n // 2 : n // 2 + n]
    elif who == "cut":
        samples = np.clip(made(3, phrases=1).samples[n // 2 : n // 2 + n] * 8, -1, 1)
    elif who == "quarter":
        samples = 0.5 * np.sin(2 * np.pi * 12_000 * np.arange(n) / RATE + np.pi / 4)
    else:
        high = scipy.signal.butter(6, 15_000, "highpass", fs=RATE, output="sos")
        samples = 0.2 * rng.standard_normal(n)
        samples = scipy.signal.sosfilt(high, samples) if who == "treble" else samples
    assert true_peak_db(samples * fades) == pytest.approx(oversampled_peak_db(samples * fades), abs=0.2)


@pytest.mark.parametrize("who", ["spoken", "string", "pipe"])
@pytest.mark.parametrize("floor_db", [-45.0, -60.0])
def test_the_noise_floor_is_what_was_mixed_in(who, floor_db):
    take = made(6, who=who, floor_db=floor_db)
    high = scipy.signal.butter(2, 20.0, "highpass", fs=RATE, output="sos")
    there = 10 * np.log10(np.mean(scipy.signal.sosfilt(high, take.floor) ** 2))
    assert levels(take.samples).noise_floor_dbfs == pytest.approx(there, abs=1.0)


@pytest.mark.parametrize("seed", [4, 9, 11, 15])
def test_ends_that_fade_into_a_tone_are_no_room(seed):
    take = spoilt("tone", seed)
    assert {f.kind for f in levels(take.samples).findings} == {"tone"}
