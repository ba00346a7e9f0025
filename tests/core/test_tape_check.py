"""Returns heard on the rig against the tape: right lengths agree, a wrong one is named with its size."""

import pytest

from keenquiet.core.judge.tape_check import tape_check
from keenquiet.core.read.sweep import deconvolve
from keenquiet.documents.convert import read_room
from keenquiet.service.predict import predict
from keenquiet.service.reading import rig_recording

from ..conftest import boxed_bakery


@pytest.fixture(scope="module")
def heard():
    room = read_room(boxed_bakery() | {"noises": []})
    return deconvolve(rig_recording(room, room.arrangements[0], "sweep", seed=5).samples, 48_000.0).impulse


def checked(document, impulse):
    forecast = predict(read_room(document | {"noises": []}), loudspeaker=True)
    return forecast, tape_check(forecast.room, forecast.arrangement, forecast.paths, impulse, 48_000.0)


def test_the_room_as_it_is_agrees(heard):
    _, found = checked(boxed_bakery(), heard)
    assert found.agrees
    apart = [abs(r.off_m) for r in found.returns if r.off_m is not None]
    assert len(apart) >= 4
    assert sorted(apart)[len(apart) // 2] < 0.02  # half of them within 2 cm of way


@pytest.mark.parametrize("drawn_m", [2.53, 2.30])
def test_a_ceiling_drawn_at_the_wrong_height_is_named(heard, drawn_m):
    document = boxed_bakery()
    document["shape"]["ceiling"]["height_m"] = drawn_m
    forecast, found = checked(document, heard)
    assert found.agrees is False
    assert found.suspect is not None
    kind, number = found.suspect
    assert (kind, forecast.room.faces[number].name) == ("face", "ceiling")
    assert found.off_m == pytest.approx(2.41 - drawn_m, abs=0.02)


@pytest.mark.parametrize(("axis", "by_m"), [(0, 0.10), (0, -0.10), (2, 0.15)])
def test_a_microphone_off_its_mark_is_named(heard, axis, by_m):
    document = boxed_bakery()
    document["arrangements"][0]["microphone"]["at"][axis] += by_m
    _, found = checked(document, heard)
    assert found.agrees is False
    assert found.suspect == ("microphone", axis)
    assert found.off_m == pytest.approx(-by_m, abs=0.025)


def test_with_nothing_to_hear_nothing_is_said(rng):
    _, found = checked(boxed_bakery(), rng.standard_normal(24_000) * 1e-3)
    assert found.agrees is not True
