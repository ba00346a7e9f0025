"""Random box rooms with furniture and panels, predicted and traced (`traced.py`)."""

from dataclasses import replace

import numpy as np

from keenquiet.core.room.furnishings import KINDS, Furnishing
from keenquiet.core.room.room import Overlay, Room, box_room
from keenquiet.core.things.materials import CATALOGUE, Material
from keenquiet.core.waves.paths import reflected_paths
from keenquiet.core.waves.reverberant import room_sound
from keenquiet.core.waves.statistics import decay

from ..conftest import standing
from .traced import BANDS, t20, traced, world_of

_WALLS = ("plaster-on-brick", "plasterboard-on-studs", "block-painted", "wood-boards")
_FLOORS = ("floor-boards", "carpet-thin", "floor-parquet", "carpet-on-felt", "floor-concrete")
_CEILINGS = ("plasterboard-ceiling", "plaster-on-lath", "wood-boards")
PANEL = CATALOGUE["mineral-wool-50"]
_PIECES = ("bed", "sofa", "wardrobe", "bookcase", "desk", "armchair", "day-bed")


def random_room(rng: np.random.Generator, furnished: bool) -> Room:
    """A box of 10 to 60 m3, furniture along its walls."""
    size = tuple(float(x) for x in rng.uniform((2.2, 2.4, 2.1), (5.5, 4.6, 2.9)))

    def pick(names: tuple[str, ...]) -> Material:
        return CATALOGUE[names[rng.integers(len(names))]]

    walls = pick(_WALLS)
    room = box_room("traced", size, tuple([walls] * 6))
    of = {"floor": _FLOORS, "ceiling": _CEILINGS}
    room = replace(room, materials=tuple(pick(of[f.kind]) if f.kind in of else walls for f in room.faces))
    pieces = []
    for _ in range(rng.integers(2, 5) if furnished else 0):
        kind = KINDS[_PIECES[rng.integers(len(_PIECES))]]
        long, deep, tall = kind.size_m
        for _ in range(20):
            turn = int(rng.integers(4))
            x, y = (long, deep) if turn % 2 == 0 else (deep, long)
            if x > size[0] - 0.1 or y > size[1] - 0.1:
                continue
            cx = rng.uniform(x / 2, size[0] - x / 2)
            cy = rng.uniform(y / 2, size[1] - y / 2)
            cx, cy = {0: (cx, y / 2), 1: (size[0] - x / 2, cy), 2: (cx, size[1] - y / 2), 3: (x / 2, cy)}[turn]
            box = (cx - x / 2, cx + x / 2, cy - y / 2, cy + y / 2)
            if all(box[1] < b[0] or box[0] > b[1] or box[3] < b[2] or box[2] > b[3] for b, _ in pieces):
                pieces.append((box, Furnishing(kind, (cx, cy), (long, deep, tall), 90.0 * turn)))
                break
    return replace(room, furnishings=tuple(p for _, p in pieces))


def panels_in(room: Room, rng: np.random.Generator) -> Room:
    """Two to five panels on one wall, or clouds under the ceiling."""
    faces = [n for n, f in enumerate(room.faces) if f.kind != "floor"]
    face = faces[rng.integers(len(faces))]
    wide, high = np.ptp(room.faces[face].outline, axis=0)
    low = room.faces[face].outline.min(axis=0)
    hung = []
    for number in range(int(rng.integers(2, 6))):
        u = low[0] + 0.15 + 0.7 * number
        if u + 0.6 > low[0] + wide - 0.05:
            break
        v = low[1] + (0.9 if room.faces[face].kind == "wall" else (high - 1.2) / 2)
        hung.append(Overlay(f"panel {number}", face, (u, u + 0.6, v, v + 1.2), PANEL))
    return room.with_overlays(tuple(hung))


def places(room: Room, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """A performer and a microphone 0.3 to 0.8 m away, clear of walls and of furniture: no return within 2.5 ms."""
    size = np.array(room.shape.bounds_m)
    for _ in range(5000):
        mic = np.array([*rng.uniform(0.75, size[:2] - 0.75), 1.35])
        bearing = rng.uniform(0, 2 * np.pi)
        source = mic + rng.uniform(0.3, 0.8) * np.array([np.cos(bearing), np.sin(bearing), 0.0])
        if np.all(source[:2] > 0.75) and np.all(source[:2] < size[:2] - 0.75) and not any(
            piece.covers(np.stack([mic, source])[:, :2], margin_m=0.45).any() for piece in room.furnishings
        ):  # fmt: skip
            return source, mic
    raise LookupError("no place in this room")


def predicted(room: Room, source, mic) -> tuple[float, float]:
    """Decay in the middle octaves [s] and direct over room [dB]."""
    placed = arrangement(source, mic)
    found = decay(room)
    sound = room_sound(room, placed, paths=reflected_paths(room, placed), decay=found)
    return float(np.mean(found.middle_s[BANDS])), sound.direct_over_room_db


def arrangement(source, mic):
    """A performer heard alike all round before a cardioid that looks at it."""
    bearing = float(np.degrees(np.arctan2(*(source - mic)[1::-1])))
    return standing(tuple(source), tuple(mic), pattern="cardioid", aims=bearing)


def by_rays(room: Room, source, mic, seed: int) -> tuple[float, float]:
    """The same by the tracer."""
    aim = (source - mic) / np.linalg.norm(source - mic)
    everything, heard, direct = traced(world_of(room), source, mic, aim, 0.5, np.random.default_rng(seed))
    return t20(everything), float(-10 * np.log10(np.mean(heard.sum(axis=0) / direct)))


def traced_room(number: int) -> tuple[Room, Room, np.ndarray, np.ndarray]:
    """One of them without and with panels, and where performer and microphone stand. Every fourth is bare."""
    rng = np.random.default_rng(100 + number)
    while True:
        room = random_room(rng, furnished=number % 4 != 0)
        try:
            source, mic = places(room, rng)
        except (LookupError, ValueError):  # too small or too full
            continue
        return room, panels_in(room, rng), source, mic
