"""The room as flat pieces in space: what the model drawing is projected from, and what its DXF holds in true metres."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.room.room import Arrangement, Room
from keenquiet.core.types import FloatArray
from keenquiet.export.sheet import Layer, Sheet, Stroke, Word, overlays_of

TURN_DEG: Final = 30.0  # the eye stands before the lower left of the plan, looking down
TILT_DEG: Final = 32.0


@dataclass(frozen=True)
class Flat:
    """A polygon in space, (n, 3) [m], and where its visible side looks, (3,); None for a line seen from all sides."""

    layer: Layer
    points: FloatArray
    normal: FloatArray | None


def flats_of(room: Room, arrangement: Arrangement | None) -> list[Flat]:
    """Faces seen from inside, what is on them, furniture from outside, marks as posts."""
    flats = [
        Flat("CEILING" if f.kind in ("ceiling", "step") else "WALLS", f.to_space(f.outline), f.normal)
        for f in room.faces
    ]
    for overlay, layer in overlays_of(room, arrangement):
        face = room.faces[overlay.face]
        u0, u1, v0, v1 = overlay.rect
        flats.append(Flat(layer, face.to_space(np.array([[u0, v0], [u1, v0], [u1, v1], [u0, v1]])), face.normal))
    for piece in room.furnishings:
        flats += _box(piece.footprint, piece.size_m[2])
    if arrangement is not None:
        for at in (arrangement.performer.at, arrangement.microphone.at):
            flats.append(Flat("MARKS", np.array([[at[0], at[1], 0.0], at]), None))
    return flats


def _box(footprint: FloatArray, height: float) -> list[Flat]:
    low, high = (np.column_stack([footprint, np.full(4, z)]) for z in (0.0, height))
    sides = []
    for i in range(4):
        j = (i + 1) % 4
        along = footprint[j] - footprint[i]
        outward = np.array([along[1], -along[0], 0.0]) / np.linalg.norm(along)
        sides.append(Flat("FURNITURE", np.array([low[i], low[j], high[j], high[i]]), outward))
    return [*sides, Flat("FURNITURE", high, np.array([0.0, 0.0, 1.0]))]


def model_sheet(room: Room, arrangement: Arrangement | None) -> Sheet:
    """The room in parallel projection, opened towards the eye: what looks away is dashed, or left out on furniture."""
    turn, tilt = np.deg2rad(TURN_DEG), np.deg2rad(TILT_DEG)
    eye = np.array([-np.sin(turn) * np.cos(tilt), -np.cos(turn) * np.cos(tilt), np.sin(tilt)])
    right = np.array([np.cos(turn), -np.sin(turn), 0.0])
    plane = np.stack([right, np.cross(eye, right)])
    sheet = Sheet(f"{room.name}: model")
    flats = flats_of(room, arrangement)
    for flat in sorted(flats, key=lambda f: float(np.mean(f.points @ eye))):  # what is far away is drawn first
        faces_eye = flat.normal is None or flat.normal @ eye > 1e-9
        if not faces_eye and flat.layer not in ("WALLS", "CEILING"):
            continue
        sheet.strokes.append(
            Stroke(flat.layer, flat.points @ plane.T, is_closed=len(flat.points) > 2, is_dashed=not faces_eye)
        )
    if arrangement is not None:
        for name, at in (("performer", arrangement.performer.at), ("microphone", arrangement.microphone.at)):
            x, y = plane @ np.array(at)
            sheet.words.append(Word("MARKS", (float(x), float(y) + 0.1), name, 0.08))
    return sheet
