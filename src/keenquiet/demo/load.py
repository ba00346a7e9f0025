"""Load the demo: the duo's three places, each with a first round of simulated readings."""

from keenquiet.demo.scenario import demo_rooms
from keenquiet.service import readings, rooms
from keenquiet.service.data import Data

_READINGS = (("tone", "sweep", "take"), ("tone", "sweep"), ("tone", "sweep"))


def load_demo(data: Data) -> str | None:
    """Fill an empty data folder with the demo and return the spare room's id; a folder that has it stays as it is."""
    documents = demo_rooms()
    if any(room.name == documents[0]["name"] for room in rooms.list_rooms(data)):
        return None
    spare_room = ""
    # the spare room last, so that it is the one on top of the list
    for document, kinds in reversed(list(zip(documents, _READINGS, strict=True))):
        spare_room = rooms.create(data, document).id
        for seed, kind in enumerate(kinds, start=11):
            readings.from_rig(data, spare_room, kind=kind, arrangement_id=None, gain_db=0.0, seed=seed)
    return spare_room
