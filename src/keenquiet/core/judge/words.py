"""The marks in a musician's words: one plain sentence each, with its reason."""

import numpy as np

from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.judge.wanted import Wanted
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


def bounce_sentence(result: Forecast, wanted: Wanted) -> str:
    """What the room does around the performer, and from where most of it comes."""
    bounce = result.bounce
    face = int(result.paths.faces[bounce.strongest_path, 0])
    where = surface_words(result.room, face, result.arrangement)
    if wanted.bounce_db.deficit(bounce.direct_over_room_db.value) == 0:
        return (
            "Your voice stands clear of the room."
            if wanted.bounce_db.high is None
            else "As much room as you asked for."
        )
    if wanted.bounce_db.high is not None and bounce.direct_over_room_db.value > wanted.bounce_db.high:
        return "Drier than you asked for: step back, or let the room answer."
    if bounce.strongest_early_db > wanted.early_db.high if wanted.early_db.high is not None else False:
        return (
            f"{where[0].upper()}{where[1:]} comes back first and loudest, {bounce.strongest_early_ms:.1f} ms after you."
        )
    return f"The room hangs in the air for {bounce.decay_s.value:.2f} s: a little of everything, no single wall."


def boom_sentence(result: Forecast, wanted: Wanted) -> str:
    """Which note hangs on, or that none does."""
    note = note_words(result.boom.note_hz)
    if wanted.boom_s.deficit(result.boom.ring_s.value) == 0:
        return f"No note hangs on; the longest is {note}."
    return f"A note near {note} swells and hangs on."


def hush_sentence(result: Forecast, wanted: Wanted) -> str:
    """What is heard when nobody plays."""
    leading = result.hush.leading
    if wanted.hush_db.deficit(result.hush.under_performance_db.value) == 0:
        return f"Quiet enough; what is left is {_lower_first(leading)}."
    return f"{leading} sits under the quiet phrases."


def touch_sentence(result: Forecast) -> str:
    """How the microphone is used: distance first, then what it brings."""
    touch = result.touch
    distance = f"{touch.distance_m * 100:.0f} cm away"
    if touch.proximity_db > 6:
        return f"{distance}: the bass is lifted by {touch.proximity_db:.0f} dB."
    if touch.sway_db > 3:
        return f"{distance}: leaning in 5 cm makes you {touch.sway_db:.0f} dB louder."
    if touch.off_axis_deg > 60:
        return f"{distance}, and the microphone looks past you by {touch.off_axis_deg:.0f}°."
    return f"{distance}: swaying 5 cm changes the level by {touch.sway_db:.1f} dB."


def _lower_first(text: str) -> str:
    return text if text[:2].isupper() else text[0].lower() + text[1:]
