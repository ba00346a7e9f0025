"""What a musician would call surfaces, sides and notes."""

import numpy as np

from keenquiet.core.judge.places import reach_m
from keenquiet.core.room.room import Arrangement, Room, direction
from keenquiet.core.waves.modes import nearest_note


def surface_words(room: Room, face: int, arrangement: Arrangement) -> str:
    """What a musician would call a surface: by its window or door, else by where it lies from the performer."""
    if face >= len(room.faces):
        return f"the {room.surface_name(face)}"
    plane = room.faces[face]
    if plane.kind == "floor":
        return "the floor"
    if plane.kind == "ceiling":
        if abs(plane.normal[2]) < 0.99:
            return f"the slope {side_words(room, face, arrangement)}"
        return "the low part of the ceiling" if plane.name.startswith("ceiling-drop") else "the ceiling"
    if plane.kind == "step":
        return "the step in the ceiling"
    kinds = {overlay.kind for overlay in room.overlays if overlay.face == face}
    for kind in ("window", "door"):
        if kind in kinds:
            return f"the {kind} wall"
    return f"the wall {side_words(room, face, arrangement)}"


def side_words(room: Room, face: int, arrangement: Arrangement) -> str:
    """Where a face lies from the performer: `behind you`, `in front of you`, `to your left`, `to your right`."""
    facing = direction(arrangement.performer.faces_deg)[:2]
    outward = -room.faces[face].normal[:2]
    outward = outward / max(float(np.linalg.norm(outward)), 1e-9)
    ahead = float(facing @ outward)
    if abs(ahead) >= 0.7:
        return "in front of you" if ahead > 0 else "behind you"
    left = float(facing[0] * outward[1] - facing[1] * outward[0])
    return "to your left" if left > 0 else "to your right"


def note_words(f_hz: float) -> str:
    """`G2 (96 Hz)`."""
    name, _ = nearest_note(f_hz)
    return f"{name} ({f_hz:.0f} Hz)"


def facing_words(room: Room, arrangement: Arrangement) -> str:
    """What the performer would look at."""
    ahead = direction(arrangement.performer.faces_deg)[:2]
    at = np.array(arrangement.performer.at[:2])
    for furnishing in room.furnishings:
        towards = np.array(furnishing.at) - at
        length = float(np.linalg.norm(towards))
        if length > 0.3 and float(ahead @ towards) / length > 0.94:
            return f"the {furnishing.kind.name}"
    walls = range(len(room.shape.plan))
    reached = sorted((away, wall) for wall in walls if (away := reach_m(room, wall, at, ahead)) is not None)
    if not reached:
        return "the room"
    away, face = reached[0]
    words = surface_words(room, face, arrangement)
    first, second = room.shape.corners[face], room.shape.corners[(face + 1) % len(room.shape.plan)]
    hit = at + away * ahead
    near_corner = min(np.hypot(*(hit - first)), np.hypot(*(hit - second))) < 0.35
    if near_corner and abs(float(ahead @ room.faces[face].normal[:2])) < 0.9:
        return f"the corner by {words}"
    return words.replace(f"wall {side_words(room, face, arrangement)}", "far wall")


def upper_first(text: str) -> str:
    """The same with its first letter large."""
    return text[:1].upper() + text[1:]


def lower_first(text: str) -> str:
    """The same with its first letter small, unless it begins with an abbreviation."""
    return text if text[:2].isupper() else text[:1].lower() + text[1:]
