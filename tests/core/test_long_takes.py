"""A take that goes on for hours is read stretch by stretch: nothing of it may hang on where the borders lie."""

import numpy as np
import pytest

from keenquiet.core.errors import MeasurementError
from keenquiet.core.figures import read_long_take, read_take
from keenquiet.core.take.finding import OF_A_MIX
from keenquiet.core.take.levels import long_take_levels
from keenquiet.core.take.part import read_part
from keenquiet.rig.singer import sung_take
from keenquiet.rig.voice import RATE_HZ
from tests.core.made_otherwise import mixed

PART_S = 12.0


def in_parts(samples, *, part_s=PART_S):
    def part(a, b):
        return read_part([samples[round(a * RATE_HZ) : round(b * RATE_HZ)]], RATE_HZ, bits=24)

    return long_take_levels(part, len(samples) / RATE_HZ, part_s=part_s)


@pytest.fixture(scope="module")
def faulty():
    """Eighteen phrases with a hum over all of it, and clicks beside, on and far from the borders at 12 and 24 s."""
    take = sung_take(seed=8, phrases=18)
    t = np.arange(len(take.dry)) / RATE_HZ
    samples = take.samples + take.loud * (0.008 * np.sin(2 * np.pi * 50 * t) + 0.006 * np.sin(2 * np.pi * 100 * t))
    count = round(t[-1] / PART_S)
    border = round(t[-1] / count * 10) / 10
    at = [4.4, border - 0.0005, 2 * border + 0.0004, t[-1] - 2.2]
    for one in at:
        samples[round(one * RATE_HZ) + np.arange(3)] += 0.8 * np.max(np.abs(samples)) * np.array([1.0, -0.83, 0.33])
    return samples, at


def test_levels_of_parts_are_those_of_the_whole(faulty):
    samples, _ = faulty
    whole, parts = read_take(samples[None], RATE_HZ, bits=24).levels, in_parts(samples)
    assert parts.loudness_lufs == pytest.approx(whole.loudness_lufs, abs=0.01)
    assert parts.true_peak_dbtp == pytest.approx(whole.true_peak_dbtp, abs=0.01)
    assert parts.average_dbfs == pytest.approx(whole.average_dbfs, abs=0.02)
    assert parts.noise_floor_dba == pytest.approx(whole.noise_floor_dba, abs=0.2)
    assert [(p.start_s, p.end_s) for p in parts.phrases] == [(p.start_s, p.end_s) for p in whole.phrases]
    assert parts.fading.decay_s == pytest.approx(whole.fading.decay_s, rel=0.02)
    np.testing.assert_allclose(parts.thirds_db, whole.thirds_db, atol=1.0)
    assert parts.sections == whole.sections


def test_each_fault_is_found_once_wherever_the_borders_lie(faulty):
    samples, at = faulty
    for part_s in (PART_S, 17.0):
        found = in_parts(samples, part_s=part_s).findings
        assert [f.start_s for f in found if f.kind == "click"] == pytest.approx(at, abs=0.002)
        (hum,) = [f for f in found if f.kind == "hum"]  # of 50 and of 100 Hz: one mains
        assert hum.f_hz == pytest.approx(50, abs=0.5)
        assert hum.start_s < 6
        assert hum.end_s > len(samples) / RATE_HZ - 6
        assert {f.kind for f in found} == {"click", "hum"}


def test_a_long_silence_within_a_take_is_no_fault_and_a_take_of_nothing_is_refused():
    sung = sung_take(seed=9, phrases=5).samples
    rest = np.zeros(40 * RATE_HZ)
    samples = np.concatenate([sung, rest, sung])

    def channels(a, b):
        return samples[None, round(a * RATE_HZ) : round(b * RATE_HZ)]

    figures = read_long_take(channels, len(samples) / RATE_HZ, RATE_HZ, bits=24, part_s=PART_S)
    assert not {f.kind for f in figures.levels.findings} - {"click", "seam", "gate"}
    assert not figures.verdict.reasons
    assert len(figures.levels.phrases) == 2 * len(read_take(sung[None], RATE_HZ).levels.phrases)
    with pytest.raises(MeasurementError, match="silent"):
        read_long_take(lambda a, b: np.zeros((1, round((b - a) * RATE_HZ))), 60.0, RATE_HZ, part_s=PART_S)


def test_a_take_that_grows_louder_over_all_its_parts_is_told_as_one_creep():
    sung = sung_take(seed=10, phrases=24)
    samples = sung.samples * 10 ** (np.linspace(-6, 0, len(sung.dry)) / 20)
    found = [f for f in in_parts(samples).findings if f.kind in ("creep", "drift")]
    assert len(found) == 1
    assert found[0].value == pytest.approx(6.0, abs=2.0)
    assert found[0].end_s == pytest.approx(sung.seconds, abs=0.2)


def test_where_a_long_take_jumps_is_told_between_the_right_two_phrases():
    sung = sung_take(seed=11, phrases=24)
    start, end = sung.phrases[16][0], sung.phrases[15][1]
    at = (start + end) / 2
    samples = sung.samples * np.where(np.arange(len(sung.dry)) < at * RATE_HZ, 0.4, 0.4 * 10 ** (7 / 20))
    (jump,) = (f for f in in_parts(samples).findings if f.kind == "jump")
    assert jump.start_s < at < jump.end_s
    assert jump.end_s < sung.phrases[16][1]
    assert jump.start_s > sung.phrases[15][0]
    assert jump.value == pytest.approx(7.0, abs=1.0)


def test_a_long_mix_is_told_as_one_and_nothing_is_said_of_its_room():
    song = np.concatenate([mixed(seed, stereo=False)[0] for seed in (1, 2)])
    judged = in_parts(song)
    assert judged.mixed
    assert judged.phrases == ()
    assert {f.kind for f in judged.findings} <= OF_A_MIX
