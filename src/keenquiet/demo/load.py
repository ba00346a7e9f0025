"""Load the demo: the duo's three places, each with a first round of simulated readings."""

from collections.abc import Callable

from sqlalchemy import select

from keenquiet.demo.scenario import attic, bakery_room, cupboard
from keenquiet.service import readings, rooms
from keenquiet.service.data import Data
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
    """The rooms alone, at once; None when the folder has them."""
    if _standing(data).keys() & {made()["name"] for made, _ in _PLACES}:
        return None
    return [rooms.create(data, made()).id for made, _ in _PLACES][-1]


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


def _standing(data: Data) -> dict[str, str]:
    return {room.name: room.id for room in rooms.list_rooms(data)}
