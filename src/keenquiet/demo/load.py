"""Load the demo: the duo's three places, each with a first round of simulated readings."""

from collections.abc import Callable
from functools import partial

from sqlalchemy import select

from keenquiet.demo.scenario import attic, bakery_room, cupboard
from keenquiet.service import readings, rooms
from keenquiet.service.data import Data
from keenquiet.service.jobs import Job, started
from keenquiet.store.models import Reading

# the spare room last, so that it is the one on top of the list
_PLACES = ((attic, ("tone", "sweep")), (cupboard, ("tone", "sweep")), (bakery_room, ("tone", "sweep", "take")))


def load_demo(data: Data) -> str | None:
    """Fill an empty data folder with the demo and return the spare room's id; a folder that has it stays as it is."""
    spare_room = load_rooms(data)
    if spare_room is not None:
        record_readings(data)
    return spare_room


def load_rooms(data: Data) -> str | None:
    """The rooms alone, at once; None when the folder has the spare room."""
    if bakery_room()["name"] in _standing(data):
        return None
    standing = _standing(data)
    return [rooms.create(data, made()).id for made, _ in _PLACES if made()["name"] not in standing][-1]


def record_readings(data: Data, report: Callable[[float], None] = lambda share: None) -> None:
    """The first readings of each demo room that never had one, some ten seconds. `report` may raise to stop."""
    standing = _standing(data)
    asked = [
        (standing[name], seed, kind)
        for made, kinds in reversed(_PLACES)
        if (name := made()["name"]) in standing
        for seed, kind in enumerate(kinds, start=11)
    ]
    with data.database.session() as session:
        heard = {(row.room_id, row.kind) for row in session.execute(select(Reading.room_id, Reading.kind))}
    for number, (room_id, seed, kind) in enumerate(asked):
        report(number / len(asked))
        if (room_id, kind) not in heard:
            readings.from_rig(data, room_id, kind=kind, arrangement_id=None, gain_db=0.0, seed=seed)


def begin(data: Data) -> tuple[str, Job[None]]:
    """The demo's rooms at once, unless they stand: the spare room's id, and the job that makes their readings."""
    made = load_rooms(data)
    job = started(f"demo-{data.folder}", "Recording the demo's readings", partial(record_readings, data))
    return made or _standing(data)[bakery_room()["name"]], job


def _standing(data: Data) -> dict[str, str]:
    return {room.name: room.id for room in rooms.list_rooms(data)}
