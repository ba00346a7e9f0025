"""Borrowed halls and churches: an answer in time, by fewer modes, that agrees with statistics and says so."""

import time
from dataclasses import replace

import numpy as np
import pytest

from keenquiet.advice.marks import boom_sentence
from keenquiet.core.judge.forecast import SUPPORT, Acoustics, boom_range_hz, forecast, is_hall, low_end_top_hz
from keenquiet.core.judge.wanted import PURPOSES
from keenquiet.core.room.room import Arrangement, Microphone, Performer, Room, box_room
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.things.materials import own_material
from keenquiet.core.things.sources import SOURCES
from keenquiet.core.waves.box_modes import orders_below
from keenquiet.core.waves.mode_count import mode_count
from keenquiet.core.waves.rigid import method_for

PLASTER = own_material("plaster", {"1000": 0.15}, field="plaster")
L_PLAN = ((0.0, 0.0), (24.0, 0.0), (24.0, 12.0), (14.0, 12.0), (14.0, 22.0), (0.0, 22.0))


def room_of(shape: Shape) -> Room:
    return Room("hall", shape, tuple(PLASTER for _ in shape.faces))


def box(x, y, z):
    return box_room("hall", (x, y, z), tuple([PLASTER] * 6))


def pitched(x, y, low, high):
    profile = ((0.0, low), (x / 2, high), (x, low))
    return Shape(((0.0, 0.0), (x, 0.0), (x, y), (0.0, y)), Ceiling(profile, "x"))


def standing(source="voice-sung", x=4.0):
    return Arrangement(
        Performer((x, 5.0, 1.6), 0.0, SOURCES[source]), Microphone((x + 0.5, 5.0, 1.5), 180.0, 0.0, "cardioid")
    )


@pytest.mark.parametrize("size", [(3.6, 2.8, 2.4), (5.1, 4.2, 2.7), (12.0, 9.0, 3.5), (25.0, 25.0, 4.0)])
@pytest.mark.parametrize("f_hz", [80.0, 150.0, 300.0])
def test_the_number_of_modes_is_about_that_of_a_box_counted_one_by_one(size, f_hz):
    shape = box(*size).shape
    counted = len(orders_below(f_hz, size_m=size, speed_m_s=343.0))
    about = float(mode_count(np.array(f_hz), shape, speed_m_s=343.0))
    assert about == pytest.approx(counted, rel=0.12, abs=8)


def test_rooms_of_a_home_are_followed_to_the_top_and_halls_less_far():
    for small in (box(3.6, 2.8, 2.4), box(5.5, 4.5, 2.7), room_of(pitched(4.0, 5.0, 1.2, 2.6))):
        assert not is_hall(small.shape)
    tops = [low_end_top_hz(box(side, side, 4.0).shape) for side in (6.0, 10.0, 15.0, 20.0, 25.0)]
    assert tops == sorted(tops, reverse=True)
    assert 60 <= tops[-1] < tops[1] < 300
    for size in ((10.0, 9.0, 3.5), (25.0, 25.0, 4.0)):
        assert len(orders_below(SUPPORT * low_end_top_hz(box(*size).shape), size_m=size, speed_m_s=343.0)) < 700


@pytest.mark.parametrize(
    "room",
    [
        box(25.0, 25.0, 4.0),
        box(18.0, 9.0, 7.0),
        room_of(Shape(L_PLAN, Ceiling.flat(5.0))),
        room_of(pitched(24.0, 24.0, 3.0, 8.0)),
        room_of(Shape(L_PLAN, Ceiling(((0.0, 3.0), (12.0, 7.0), (24.0, 3.0)), "x"))),
    ],
    ids=["25 x 25 m", "church", "L", "pitched 24 x 24 m", "pitched L"],
)
@pytest.mark.parametrize("source", ["voice-sung", "hurdy-gurdy"])
def test_a_hall_is_forecast_in_time_for_low_and_high_voices_and_says_how_far(room, source):
    began = time.process_time()
    found = forecast(Acoustics(room), standing(source))
    took = time.process_time() - began
    # two seconds on a quiet machine; elements in space are a job with progress
    assert took < (9 if method_for(room.shape) == "solid" else 5)
    low, high = boom_range_hz(standing(source), room.shape)
    assert low < found.boom.note_hz < SUPPORT * high
    assert np.isfinite(
        [found.boom.ring_s.value, found.boom.swing_db.value, found.bounce.direct_over_room_db.value]
    ).all()
    assert f"{low_end_top_hz(room.shape):.0f} Hz" in boom_sentence(found, PURPOSES["dry-voice"])


def test_where_the_modes_of_a_hall_end_they_fade_as_statistics_say():
    """Two independent ways to the same decay: damped modes of the wave equation, and Kuttruff's diffuse field."""
    room = box(19.0, 13.0, 6.0)
    acoustics = Acoustics(room)
    modes, top = acoustics.modes, low_end_top_hz(room.shape)
    near_top = (modes.f_hz > top / 1.4) & (modes.f_hz <= top)
    # oblique modes: they meet all walls, as the diffuse field does
    oblique = near_top & np.array([kind == "oblique" for kind in modes.kinds])
    octave = int(np.argmin(np.abs(np.log2(np.array([63.0, 125, 250, 500, 1000, 2000, 4000, 8000]) / top))))
    assert float(np.median(modes.t60_s[oblique])) == pytest.approx(float(acoustics.decay.middle_s[octave]), rel=0.35)


def test_twelve_floors_one_after_the_other_keep_memory_bounded():
    from keenquiet.core.waves import paths, response, rigid

    for side in range(10, 22):
        room = box(float(side), float(side) - 1, 4.0)
        acoustics = Acoustics(room)
        for x in (2.0, 3.0):
            forecast(acoustics, replace(standing(x=x)))
    for kept in (rigid._kept, response._kept, paths._kept):
        assert kept.bytes < 160_000_000
