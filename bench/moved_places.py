"""Predicted against rig-measured changes of Bounce in ten random furnished rooms: a move of place, and a duvet on two
stands behind the performer. Prints the table of docs/physics.md: `python -m bench.moved_places`.
"""

from dataclasses import replace

import numpy as np
from tests.conftest import standing

from keenquiet.core.judge.forecast import Acoustics, forecast
from keenquiet.core.judge.places import distance_between, faced, stands_free
from keenquiet.core.judge.screen_places import SORTS, uprights
from keenquiet.core.read.early import direct_over_room_db
from keenquiet.core.room.furnishings import KINDS, Furnishing
from keenquiet.core.room.room import Arrangement, Room, Screen
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.scenario import Scenario
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.rig.impulse import rig_impulse
from keenquiet.rig.truth import true_room

_RATE_HZ = 48_000
_WALLS = ("plaster-on-brick", "plasterboard-on-studs", "block-painted", "wood-boards")
_FLOORS = ("floor-boards", "carpet-thin", "floor-parquet", "carpet-on-felt")
_DUVET = CATALOGUE["duvet-hung"].absorption


def drawn(rng: np.random.Generator) -> tuple[Room, Arrangement, Arrangement]:
    """A room with two pieces of furniture, and two places in it that stand free."""
    x, y, z = (float(v) for v in rng.uniform((2.6, 2.4, 2.3), (5.0, 4.2, 2.7)))
    shape = Shape(((0, 0), (x, 0), (x, y), (0, y)), Ceiling.flat(z))
    wall, floor = rng.choice(_WALLS), rng.choice(_FLOORS)
    keys = {face.name: wall for face in shape.faces} | {"floor": floor, "ceiling": "plasterboard-ceiling"}
    pieces = (
        Furnishing(KINDS["wardrobe"], (x - 0.55, 0.35), (1.0, 0.6, 2.0)),
        Furnishing(KINDS["bed"], (1.0, y - 0.5), (1.9, 0.9, 0.5)),
    )
    room = Room("drawn", shape, tuple(CATALOGUE[keys[face.name]] for face in shape.faces), furnishings=pieces)
    found: list[Arrangement] = []
    bare = standing((1, 1, 1.5), (1.4, 1, 1.45), pattern="cardioid", source="voice-sung")
    while len(found) < 2:
        px, py = rng.uniform((0.5, 0.5), (x - 0.5, y - 0.5))
        place = faced(bare, (float(px), float(py), 1.5), float(rng.uniform(0, 360)), distance_between(bare))
        if stands_free(room, place):
            found.append(place)
    return room, found[0], found[1]


def by_both(room: Room, arrangement: Arrangement, seed: int) -> tuple[float, float]:
    """Direct over room predicted and measured on the rig, whose truth differs from the catalogue. [dB]"""
    scenario, truth = Scenario(room, arrangement), Scenario(true_room(room), arrangement)
    told = forecast(Acoustics(scenario.described), arrangement, uncertainty=False).bounce.direct_over_room_db.value
    response = rig_impulse(truth.described, arrangement, seed=seed)
    return told, direct_over_room_db(response.impulse, _RATE_HZ)


def main() -> None:
    """Print the table."""
    sort = next(sort for sort in SORTS if sort.key == "duvet-on-t")
    print("| room | moved: predicted | rig | duvet: predicted | rig |\n|---|---|---|---|---|")
    apart: dict[str, list[float]] = {"moved": [], "duvet": []}
    for seed in range(10):
        room, one, other = drawn(np.random.default_rng(seed))
        screens = tuple(
            Screen("duvet", u.at, u.faces_deg, u.width_m, u.height_m, tuple(_DUVET)) for u in uprights(sort, one)
        )
        first, second = by_both(room, one, seed), by_both(room, other, seed)
        hung = by_both(room, replace(one, screens=screens), seed)
        moved, softer = np.subtract(second, first), np.subtract(hung, first)
        apart["moved"].append(moved[0] - moved[1])
        apart["duvet"].append(softer[0] - softer[1])
        print(f"| {seed} | {moved[0]:+.1f} | {moved[1]:+.1f} | {softer[0]:+.1f} | {softer[1]:+.1f} |", flush=True)
    for name, gaps in apart.items():
        print(f"{name}: rms {np.sqrt(np.mean(np.square(gaps))):.2f} dB, within 2 dB in {sum(np.abs(gaps) <= 2)} of 10")


if __name__ == "__main__":
    main()
