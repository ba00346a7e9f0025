"""A room made audible gives the forecast back when it is read; a change proves a promise or does not."""

import numpy as np
import pytest

from keenquiet.core.errors import InputError
from keenquiet.core.figures import read_impulse
from keenquiet.core.hear.impulse import RATE_HZ, impulse_of, outdoors
from keenquiet.core.hear.line import LOUDNESS_LUFS, at_rate, heard_through, loudness_lufs
from keenquiet.core.judge.forecast import Acoustics, Figure, forecast
from keenquiet.core.judge.proof import REPEATS, best_reading, proof
from keenquiet.core.things.sources import SOURCES
from keenquiet.demo.scenario import attic, bakery_room, cupboard
from keenquiet.documents.convert import read_room
from keenquiet.rig.recorder import made_line
from keenquiet.service.predict import acoustics_of

from ..conftest import plain_box, standing


def _results():
    for make in (bakery_room, attic, cupboard):
        room = read_room(make())
        scenario, acoustics = acoustics_of(room, room.arrangement_doc(None))
        yield make.__name__, forecast(acoustics, scenario.arrangement, uncertainty=False)
    box = plain_box(size=(4.2, 3.1, 2.5), alpha=0.15)
    placed = standing((1.0, 1.2, 1.5), (1.6, 1.5, 1.4), pattern="cardioid", source="voice-sung", aims=207.0)
    yield "box", forecast(Acoustics(box), placed, uncertainty=False)


@pytest.mark.parametrize(("name", "result"), list(_results()), ids=lambda v: v if isinstance(v, str) else "")
def test_a_synthesised_response_reads_like_the_forecast(name, result):
    read = read_impulse(impulse_of(result)[None], RATE_HZ, computed=True)
    assert read.direct_over_room_db == pytest.approx(result.bounce.direct_over_room_db.value, abs=1.0)
    mid = [band.t20_s for band in read.bands if 400 < band.centre_hz < 1500]
    assert np.mean(mid) == pytest.approx(np.mean(result.decay.middle_s[3:5]), rel=0.10)


def test_outdoors_is_the_direct_sound_alone():
    result = next(r for name, r in _results() if name == "box")
    alone = outdoors(result)
    start = int(np.argmax(np.abs(alone)))
    assert start == pytest.approx(0.005 * RATE_HZ, abs=2)
    late = alone[start + int(0.01 * RATE_HZ) :]
    assert np.sum(late**2) < 0.01 * np.sum(alone**2)  # what is left is the fall below 30 Hz
    # far above the bass lift it is as loud as the distance says
    away = np.linalg.norm(np.subtract(result.arrangement.performer.at, result.arrangement.microphone.at))
    f_hz = np.fft.rfftfreq(len(alone), 1 / RATE_HZ)
    mid = np.abs(np.fft.rfft(alone))[(f_hz > 2000) & (f_hz < 4000)].mean()
    assert 20 * np.log10(mid * away) == pytest.approx(0.0, abs=0.6)


def test_versions_are_alike_in_loudness_and_length():
    dry = made_line(SOURCES["voice-sung"], seed=3)[: 5 * RATE_HZ]
    result = next(r for name, r in _results() if name == "box")
    lines = heard_through(dry, [impulse_of(result), outdoors(result)])
    assert len(lines[0]) == len(lines[1])
    levels = [loudness_lufs(line) for line in lines]
    assert levels[0] == pytest.approx(levels[1], abs=0.1)
    assert levels[0] <= LOUDNESS_LUFS + 0.1
    assert max(np.max(np.abs(line)) for line in lines) <= 0.9
    # the room hangs on after the line's end, outdoors does not
    last = len(dry) + int(0.1 * RATE_HZ)
    assert np.sum(lines[0][last:] ** 2) > 5 * np.sum(lines[1][last:] ** 2)
    with pytest.raises(InputError):
        heard_through(np.zeros(RATE_HZ), [outdoors(result)])
    tone = np.sin(2 * np.pi * 440 * np.arange(44_100) / 44_100)
    assert len(at_rate(tone, 44_100)) == RATE_HZ


PROMISED = Figure(6.0, 2.0)


@pytest.mark.parametrize(
    ("mark", "promised", "measured", "outcome"),
    [
        ("hush", PROMISED, 5.4, "proved"),
        ("hush", PROMISED, 9.0, "proved"),  # more than was promised
        ("hush", PROMISED, 0.3, "not_proved"),  # nothing happened, whatever the levels' own uncertainty
        ("hush", PROMISED, -5.0, "not_proved"),
        ("hush", Figure(12.0, 1.0), 3.0, "partly"),
        ("hush", Figure(0.5, 0.3), 0.2, "too_small"),
        ("boom", Figure(-0.4, 0.1), -0.35, "proved"),
        ("boom", Figure(-0.4, 0.1), 0.3, "not_proved"),
        ("boom", Figure(-0.05, 0.1), 0.02, "too_small"),
        ("bounce", Figure(0.3, 0.3), 2.5, "proved"),  # small was promised, much was measured
    ],
)
def test_a_change_is_judged_not_two_levels(mark, promised, measured, outcome):
    assert proof(mark, promised, measured) == outcome


def test_a_silence_proves_a_fan_and_a_sweep_a_panel():
    assert best_reading({"hush": Figure(6, 2), "bounce": Figure(0.1, 0.3), "boom": Figure(0, 0.1)}) == "tone"
    assert best_reading({"hush": Figure(0.3, 2), "bounce": Figure(2.0, 0.5), "boom": Figure(-0.1, 0.1)}) == "sweep"
    assert best_reading({"bounce": Figure(0.2, 0.3)}) is None
    assert best_reading({}) is None
    assert set(REPEATS) == {"bounce", "boom", "hush"}


def test_by_chance_an_unchanged_room_is_not_taken_for_a_proof():
    # two readings that differ by what readings repeat within: a promise is confirmed in few of many
    rng = np.random.default_rng(6)
    for mark, size in (("hush", 4.0), ("bounce", 2.5), ("boom", -0.3)):
        apart = rng.normal(0, np.sqrt(2) * REPEATS[mark], 4000)
        said = [proof(mark, Figure(size, abs(size) * 0.3), float(change)) for change in apart]
        assert np.mean([outcome in ("proved", "partly") for outcome in said]) < 0.03
