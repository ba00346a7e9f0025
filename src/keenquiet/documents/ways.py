"""Ways in from a document: every wall, pane, door leaf, gap, keyhole and noted leak as the core's `Way`."""

from collections.abc import Iterator
from typing import Final

import numpy as np

from keenquiet.core.room.room import Room
from keenquiet.core.room.ways import KEYHOLE_M2, Way, flanking, leaf_share, open_share
from keenquiet.documents.frame import Frame
from keenquiet.documents.schema import LeakDoc, OpeningDoc, RoomDoc

_JOINT_MM: Final = 0.5  # round a window's sash that closes well (our estimate)
_DOOR_GAP_MM: Final = 6.0  # under an inner door (our estimate)
_OPEN: Final = {"shut": 0.0, "ajar": 0.1, "open": 1.0}
_MADE_OF: Final = (  # what a catalogue surface is built of, by the beginning of its key
    ("plasterboard", "boards-on-studs"),
    ("plaster-on-lath", "lath"),
    ("wood", "boards-on-studs"),
    ("plywood", "boards-on-studs"),
    ("ceiling-", "boards-on-studs"),
    ("concrete", "concrete"),
    ("floor-concrete", "concrete"),
    ("marble", "concrete"),
    ("block", "block"),
)
_LEAF: Final = {
    ("door", None): "door-light",
    ("door", "light"): "door-light",
    ("door", "solid"): "door-solid",
    ("window", None): "pane-single",
    ("window", "single"): "pane-single",
    ("window", "double"): "pane-double",
    ("window", "secondary"): "pane-secondary",
}


def leaf_of_surface(kind: str, material: str | None) -> str:
    """Key of the leaf that a face of this kind and catalogue material is taken for."""
    for beginning, leaf in _MADE_OF:
        if material is not None and material.startswith(beginning):
            return leaf
    return "brick" if kind == "wall" else "timber-floor"


def ways_of(doc: RoomDoc, room: Room) -> tuple[Way, ...]:
    """All ways in, surface by surface. Raises InputError naming the field of a leak that lies outside its surface."""
    frame = Frame.of(doc)
    openings = [way for i, opening in enumerate(doc.openings) for way in _opening(frame, opening, f"openings.{i}")]
    openings += [_leak(frame, leak, f"leaks.{i}") for i, leak in enumerate(doc.leaks)]
    found: list[Way] = []
    for number, face in enumerate(room.faces):
        here = [way for way in openings if way.face == number]
        surface = doc.surfaces.get(face.name)
        left = max(face.area_m2 - sum(way.area_m2 for way in here), 0.1)
        share = leaf_share(leaf_of_surface(face.kind, surface.material if surface else None))
        found += [*here, Way("", "wall", number, left, share), flanking(number, face.area_m2)]
    return tuple(found)


def _opening(frame: Frame, opening: OpeningDoc, key: str) -> Iterator[Way]:
    face, (u0, u1, v0, v1) = frame.rect(opening, field=key)
    width, height = u1 - u0, v1 - v0
    space = frame.shape.faces[face].to_space

    def at(u: float, v: float) -> tuple[float, float, float]:
        x, y, z = space(np.array([u, v]))
        return float(x), float(y), float(z)

    stands_open = _OPEN[opening.state]
    leaf = "leaf" if opening.kind == "door" else "pane"
    known = "door" if opening.kind == "door" else "window"  # of any other kind is a hole with a pane in it
    share = np.array(leaf_share(_LEAF.get((known, opening.make), _LEAF[known, None])))
    share = (1 - stands_open) * share + stands_open
    middle = at((u0 + u1) / 2, (v0 + v1) / 2)
    yield Way(f"{key}.{leaf}", leaf, face, width * height, tuple(float(s) for s in share), middle)
    if opening.kind == "door":
        gap = (_DOOR_GAP_MM if opening.gap_mm is None else opening.gap_mm) / 1000
        yield Way(f"{key}.gap", "gap", face, width * gap, open_share(), at((u0 + u1) / 2, v0))
        yield Way(f"{key}.keyhole", "keyhole", face, KEYHOLE_M2, open_share(), at(u1 - 0.06, v0 + 1.05))
    else:
        gap = (_JOINT_MM if opening.gap_mm is None else opening.gap_mm) / 1000
        yield Way(f"{key}.gap", "joint", face, 2 * (width + height) * gap, open_share(), at((u0 + u1) / 2, v0))


def _leak(frame: Frame, leak: LeakDoc, key: str) -> Way:
    face = frame.face(leak.surface, field=f"{key}.surface")
    side = 0.005
    u0, u1, v0, v1 = frame.rect_on(face, leak.x_m - side, leak.z_m - side, 2 * side, 2 * side)
    x, y, z = frame.shape.faces[face].to_space(np.array([(u0 + u1) / 2, (v0 + v1) / 2]))
    spot = (float(x), float(y), float(z))
    return Way(key, leak.kind, face, leak.area_cm2 / 1e4, open_share(), spot)
