"""Load the demo: the room over the bakery, with a first round of simulated readings."""

from keenquiet.demo.scenario import bakery_room
from keenquiet.service import readings, rooms
from keenquiet.service.data import Data


def load_demo(data: Data) -> str | None:
    """Fill an empty data folder with the demo and return the room's id; a folder that has it stays as it is."""
    document = bakery_room()
    if any(room["name"] == document["name"] for room in rooms.list_rooms(data)):
        return None
    room_id: str = rooms.create(data, document)["id"]
    for seed, kind in enumerate(("tone", "sweep", "take"), start=11):
        readings.from_rig(data, room_id, kind=kind, arrangement_id=None, gain_db=0.0, seed=seed)
    return room_id
