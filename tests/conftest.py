"""Shared fixtures: the demo room as document and as values, seeded noise."""

from pathlib import Path

import numpy as np
import pytest

from keenquiet.core.room.materials import own_material
from keenquiet.core.room.room import Arrangement, Microphone, Performer, Room, box_room
from keenquiet.core.waves.sources import SOURCES
from keenquiet.demo.scenario import bakery_room
from keenquiet.documents import RoomDoc, arrangement_of, read_room, room_of
from keenquiet.service.data import Data


@pytest.fixture
def rng():
    return np.random.default_rng(7)


@pytest.fixture
def bakery() -> RoomDoc:
    return read_room(bakery_room())


@pytest.fixture
def placed(bakery):
    box = room_of(bakery)
    return box, arrangement_of(bakery, bakery.arrangements[0], box)


@pytest.fixture
def data(tmp_path: Path):
    opened = Data(tmp_path / "data")
    yield opened
    opened.close()


def plain_box(size=(4.0, 3.0, 2.5), alpha=0.1, faces=None) -> Room:
    """A box with the same absorption in every octave: one figure, or one each for
    x = 0, x = L, y = 0, y = L, floor, ceiling."""
    alphas = faces or [alpha] * 6
    octaves = ("125", "250", "500", "1000", "2000", "4000")
    west, east, south, north, floor, ceiling = (own_material("own", dict.fromkeys(octaves, a), field="own") for a in alphas)
    return box_room("plain", size, (south, east, north, west, floor, ceiling))


def standing(performer, mic, *, pattern="omni", source="omni", faces=0.0, aims=180.0) -> Arrangement:
    return Arrangement(Performer(performer, faces, SOURCES[source]), Microphone(mic, aims, 0.0, pattern))
