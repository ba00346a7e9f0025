"""Shared fixtures: the demo room as document and as values, seeded noise."""

import os
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

from keenquiet.advice.costs import PriceList
from keenquiet.advice.moves import move_words
from keenquiet.core.judge.candidate import Limits
from keenquiet.core.judge.moves import next_moves
from keenquiet.core.room.room import Arrangement, Microphone, Performer, Room, box_room
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.materials import own_material
from keenquiet.core.things.sources import SOURCES
from keenquiet.demo.scenario import bakery_room
from keenquiet.documents.convert import arrangement_of, read_room, room_of
from keenquiet.documents.schema import RoomDoc
from keenquiet.service import readings, rooms
from keenquiet.service.answers.numbers import plain
from keenquiet.service.case import Case
from keenquiet.service.data import Data
from keenquiet.service.questions.forecast import FORECAST, ForecastAsk

from .kept_responses import kept_on_disk

# the same examples at every run, so that a run says something of the change; with KEENQUIET_SOAK=1 others are drawn
settings.register_profile("same", derandomize=not os.environ.get("KEENQUIET_SOAK"))
settings.load_profile("same")
if not os.environ.get("KEENQUIET_SOAK"):
    kept_on_disk()

SOAKING = bool(os.environ.get("KEENQUIET_SOAK"))


def many(full: int, few: int) -> int:
    """How often something is drawn: in full by `make soak` (KEENQUIET_SOAK=1), a few times else."""
    return full if SOAKING else few


HERE = "http://127.0.0.1"  # the only host that is served without a passcode


@pytest.fixture
def rng():
    return np.random.default_rng(7)


def boxed_bakery() -> dict:
    """The spare room without its alcove and curtain: a box, for what has a closed form."""
    room = bakery_room()
    room["shape"]["plan"] = [[0, 0], [3.62, 0], [3.62, 2.84], [0, 2.84]]
    materials = {
        name: room["surfaces"][of]
        for name, of in (
            ("floor", "floor"),
            ("ceiling", "ceiling"),
            ("wall-1", "wall-5"),
            ("wall-2", "wall-6"),
            ("wall-3", "wall-7"),
            ("wall-4", "wall-8"),
        )
    }
    room |= {"surfaces": materials, "covers": [], "tape": []}
    room["openings"][0]["surface"] = "wall-3"
    room["openings"][1] |= {"surface": "wall-1", "x_m": 2.55}
    room["furnishings"][2] |= {"at": [1.6, 0.15], "size_m": [1.1, 0.25, 1.8]}
    for noise, wall in zip(room["noises"], ("wall-2", "wall-3"), strict=False):
        noise["surface"] = wall
    return room


@pytest.fixture
def bakery() -> RoomDoc:
    return read_room(boxed_bakery())


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
    west, east, south, north, floor, ceiling = (
        own_material("own", dict.fromkeys(octaves, a), field="own") for a in alphas
    )
    return box_room("plain", size, (south, east, north, west, floor, ceiling))


def standing(performer, mic, *, pattern="omni", source="omni", faces=0.0, aims=180.0) -> Arrangement:
    return Arrangement(Performer(performer, faces, SOURCES[source]), Microphone(mic, aims, 0.0, pattern))


def moves_in(room, arrangement, *, wanted, limits=None, hour=None, **more):
    """Next moves of an arrangement in a room, by the list of prices."""
    scenario = Scenario(room, arrangement, hour)
    return next_moves(scenario, wanted=wanted, limits=limits or Limits(), costs=PriceList(), **more)


def titles_of(moves, room, arrangement, limits=None):
    """What the moves are called."""
    before = Scenario(room, arrangement)
    return [move_words(move.candidate, before, move.scenario, limits or Limits())[0] for move in moves]


def stored_room(data, document=None) -> str:
    """Keep a room, the boxed bakery unless another is given, and tell its id."""
    return rooms.create(data, document or boxed_bakery()).id


def by_rig(data, room_id, kind="sweep", *, seed=1, gain_db=0.0, **more) -> dict:
    """A reading by the practice rig, as the API would give it."""
    return plain(readings.from_rig(data, room_id, kind=kind, arrangement_id=None, gain_db=gain_db, seed=seed, **more))


def marks_now(data, room_id) -> dict:
    """The marks as last measured, as the API would give them."""
    return {mark: plain(found) for mark, found in readings.standing_in(data, room_id).marks.by_mark().items()}


def forecast_now(data, room_id):
    room = read_room(document_of(data, room_id))
    return FORECAST.compute(Case(room, None, data, room_id), ForecastAsk.of())


def document_of(data, room_id) -> dict:
    """A room's document as it is kept."""
    return rooms.dumped(rooms.opened(data, room_id).document)
