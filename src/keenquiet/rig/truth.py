"""The rig's true room: the catalogue's absorption, off by a seeded amount, as real rooms are."""

import zlib
from dataclasses import replace

import numpy as np

from keenquiet.core.room.room import Room
from keenquiet.core.things.materials import Material

SPREAD = 0.18  # log-normal, per surface; octaves of one surface vary together with some freedom


def true_room(room: Room) -> Room:
    """The same room with its real absorption. The amount depends on the room's name and each surface only.

    So two readings of one room see the same truth, and an added panel brings its own error and changes no other.
    """
    materials = tuple(
        _disturbed(material, f"{room.name}/{face.name}")
        for face, material in zip(room.faces, room.materials, strict=True)
    )
    overlays = tuple(
        replace(
            overlay,
            material=_disturbed(
                overlay.material, f"{room.name}/{room.faces[overlay.face].name}/{overlay.material.key}"
            ),
        )
        for overlay in room.overlays
    )
    return replace(room, materials=materials, overlays=overlays)


def _disturbed(material: Material, key: str) -> Material:
    rng = np.random.default_rng(zlib.crc32(key.encode()))
    common, by_octave = rng.standard_normal(), rng.standard_normal(8)
    factor = np.exp(SPREAD * (0.85 * common + 0.5 * by_octave))
    absorption = np.clip(material.absorption * factor, 0.002, 1.0)
    absorber = material.absorber
    if absorber is not None:
        absorber = absorber.disturbed(float(factor[0]))
    return replace(material, absorption=absorption, absorber=absorber)
