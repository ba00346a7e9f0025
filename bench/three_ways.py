"""Decay of twelve bare rooms three ways: predicted, by the rig, by an independent engine. Prints the table of
docs/physics.md: `python -m bench.three_ways`.
"""

from dataclasses import replace

import numpy as np
import pyroomacoustics as engine
from tests.conftest import standing

from keenquiet.core.room.room import Room
from keenquiet.core.room.shape import Ceiling, Shape
from keenquiet.core.things.materials import CATALOGUE
from keenquiet.core.waves.statistics import decay, scattering
from keenquiet.demo.scenario import attic, bakery_room, cupboard
from keenquiet.documents.convert import read_room, room_of
from keenquiet.rig.rays import STEP_S, scattered_field
from keenquiet.rig.scene import Scene

_BAND = 4  # 1 kHz


def box(name: str, size: tuple[float, float, float], walls: str, floor: str, ceiling: str, **other: str) -> Room:
    """A bare box; `other` names single walls."""
    x, y, z = size
    shape = Shape(((0, 0), (x, 0), (x, y), (0, y)), Ceiling.flat(z))
    keys = {face.name: walls for face in shape.faces} | {"floor": floor, "ceiling": ceiling}
    keys |= {key.replace("_", "-"): material for key, material in other.items()}
    return Room(name, shape, tuple(CATALOGUE[keys[face.name]] for face in shape.faces))


def rooms() -> list[Room]:
    """Twelve, from closet to hall."""
    bare = [replace(room_of(read_room(of())), furnishings=()) for of in (bakery_room, cupboard, attic)]
    plan = ((0.0, 0.0), (5.0, 0.0), (5.0, 2.2), (2.4, 2.2), (2.4, 4.0), (0.0, 4.0))
    ell = Shape(plan, Ceiling.flat(2.5))
    return [
        box("Bathroom", (2.2, 1.7, 2.4), "tiles-ceramic", "tiles-ceramic", "plasterboard-ceiling"),
        box("Closet of clothes", (1.6, 1.0, 2.3), "plaster-on-lath", "carpet-thin", "plasterboard-ceiling",
            wall_1="wardrobe-open"),
        box("Box room", (2.4, 2.1, 2.4), "plasterboard-on-studs", "carpet-thin", "plasterboard-ceiling"),
        box("Carpeted bedroom", (3.8, 3.2, 2.4), "plaster-on-brick", "carpet-thin", "plasterboard-ceiling"),
        box("Bare bedroom", (3.8, 3.2, 2.4), "plaster-on-brick", "floor-boards", "plasterboard-ceiling"),
        box("Foamed on one wall", (3.8, 3.2, 2.4), "plaster-on-brick", "floor-boards", "plasterboard-ceiling",
            wall_1="mineral-wool-50"),
        box("Garage", (5.6, 3.0, 2.5), "block-painted", "floor-concrete", "wood-boards"),
        box("Living room", (5.4, 4.2, 2.5), "plaster-on-brick", "floor-parquet", "plaster-on-lath"),
        Room("L-shaped room", ell, tuple(
            CATALOGUE["carpet-thin" if f.kind == "floor" else "plaster-on-brick"] for f in ell.faces)),
        *bare,
    ]  # fmt: skip


def by_engine(room: Room, share: float, seed: int) -> float:
    """Decay at 1 kHz by ray tracing of an independent engine, mean of three places. [s]"""
    engine.random.seed(seed)
    walls = []
    for face, alpha in zip(room.faces, room.face_absorption[:, _BAND], strict=True):
        corners = face.to_space(face.outline)
        material = engine.Material(float(alpha), share)
        seen = corners if np.dot(np.cross(corners[1] - corners[0], corners[2] - corners[1]), face.normal) < 0 else None
        ordered = corners if seen is not None else corners[::-1]
        walls.append(engine.wall_factory(ordered.T, material.absorption_coeffs, material.scattering_coeffs))
    there = engine.Room(walls, fs=16000, max_order=1, ray_tracing=True, air_absorption=True)
    there.set_ray_tracing(n_rays=15000, receiver_radius=0.3)
    inside = points(room, 4)
    there.add_source(inside[0])
    for place in inside[1:]:
        there.add_microphone(place)
    there.compute_rir()
    return float(np.mean([
        engine.experimental.measure_rt60(there.rir[m][0], fs=16000, decay_db=20) for m in range(3)
    ]))  # fmt: skip


def points(room: Room, count: int) -> np.ndarray:
    """Places well inside, seeded."""
    rng, found = np.random.default_rng(8), []
    corners = np.concatenate([face.to_space(face.outline) for face in room.faces])
    while len(found) < count:
        tried = corners.min(axis=0) + rng.random(3) * np.ptp(corners, axis=0)
        near = tried + 0.25 * np.concatenate([np.eye(3), -np.eye(3)])
        if np.all(room.shape.contains(near)) and all(np.linalg.norm(tried - one) > 0.4 for one in found):
            found.append(tried)
    return np.array(found)


def by_rig(room: Room) -> float:
    """Decay at 1 kHz of all the room's energy by the rig's rays. [s]"""
    source, mic = points(room, 2)
    placed, scene = standing(tuple(source), tuple(mic)), Scene(room)
    field = sum(
        scattered_field(scene, placed, seconds=3.0, rng=np.random.default_rng(seed)).everything[:, _BAND]
        for seed in range(4)
    )
    left = np.cumsum(field[::-1])[::-1]
    level = 10 * np.log10(np.maximum(left / left[0], 1e-12))
    return 3 * STEP_S * float(np.argmax(level < -25) - np.argmax(level < -5))


def main() -> None:
    """Print the table."""
    print("| room | predicted | rig | independent engine | Eyring |\n|---|---|---|---|---|")
    off_rig, off_engine = [], []
    for number, room in enumerate(rooms()):
        share = round(scattering(room), 2)
        even = replace(room, materials=tuple(replace(m, scattering=np.full(8, share)) for m in room.materials))
        air_free = replace(even, overlays=tuple(
            replace(o, material=replace(o.material, scattering=np.full(8, share))) for o in even.overlays))  # fmt: skip
        found = decay(air_free)
        predicted, spread = float(found.middle_s[_BAND]), float(found.spread[_BAND])
        rig, theirs = by_rig(air_free), by_engine(air_free, share, number)
        off_rig.append(predicted / rig - 1)
        off_engine.append(predicted / theirs - 1)
        print(
            f"| {room.name}, {room.volume_m3:.0f} m3 | {predicted:.2f} +-{predicted * spread:.2f} | {rig:.2f} "
            f"| {theirs:.2f} | {found.eyring_s[_BAND]:.2f} |"
        )
    for name, off in (("rig", off_rig), ("engine", off_engine)):
        print(f"{name}: rms {np.sqrt(np.mean(np.square(off))):.1%}, worst {max(np.abs(off)):.0%}")


if __name__ == "__main__":
    main()
