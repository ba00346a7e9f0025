"""Words of the marks sheet: walls by what cannot be mistaken, stands by whether they reach."""

from collections.abc import Mapping
from typing import Any, Final

import numpy as np

from keenquiet.advice.placing import way_words
from keenquiet.core.room.room import Room
from keenquiet.core.waves.stands import STANDS, Stand, StandCheck

PROOF: Final = (
    "Put it back: one mark after the other, then a sweep with the loudspeaker where you were. Its first returns at "
    "the same milliseconds prove the place, direct over room within 2 dB the distance; a spoken line within 2 dB the "
    "level. A stand that may stay is the cheapest mark of all."
)
_FOR_BREATH: Final = "Mouth to pop screen, screen to capsule"
# what the sheet asks for, and the field of an arrangement's chain that says it
_BY_HAND: Final = (
    ("Gain on the preamplifier", "dial"),
    ("Pad", "pad"),
    ("Low cut", "low_cut"),
    ("Headphones: level, closed or open", "phones"),
    ("Front of the microphone: which side", None),
    ("Windows, curtains, doors", None),
)
MICROPHONE_CAUTIONS: Final[Mapping[str, str]] = {
    "condenser": "A condenser needs phantom power (48 V): plug it in first, then switch it on; "
    "off again, wait a breath, then unplug.",
    "ribbon": "Phantom power off before a ribbon is plugged in, no patch bay between, and no breath or wind on it: "
    "either can tear the ribbon.",
}
CAUTIONS: Final = ("Tape cables down where anybody walks.", "Point a tripod's one leg under its boom; weigh it down.")


def by_hand(chain: Mapping[str, Any], *, breath: bool) -> list[str]:
    """What only the person knows and has not said yet, to be written down."""
    asked = [name for name, field in _BY_HAND if field is None or not chain[field]]
    return [*asked, _FOR_BREATH] if breath and chain["screen_gap_m"] is None else asked


def chain_words(type_: str | None, chain: Mapping[str, Any]) -> list[tuple[str, str]]:
    """How the chain is set, name and value, as far as anybody said."""
    named = (("Dial", "dial"), ("Pad", "pad"), ("Low cut", "low_cut"), ("Headphones", "phones"))
    said = [("Microphone", type_ or ""), *((name, chain[field]) for name, field in named)]
    if chain["screen_gap_m"] is not None:
        said += [("Pop screen off the capsule", f"{chain['screen_gap_m'] * 100:.0f} cm")]
    if chain["temperature_c"] is not None:
        said += [("Temperature then", f"{chain['temperature_c']:.0f} °C")]
    return [(name, value) for name, value in said if value]


def wall_words(room: Room, wall: int) -> str:
    """A wall by its window or door, else by where it lies on the drawing, with its number."""
    kinds = {overlay.kind for overlay in room.overlays if overlay.face == wall}
    number = f"wall {wall + 1}"
    for kind in ("window", "door"):
        if kind in kinds and sum(any(o.face == w and o.kind == kind for o in room.overlays) for w in _walls(room)) == 1:
            return f"the {kind} wall ({number})"
    outward = -room.faces[wall].normal[:2]
    side = way_words(float(np.degrees(np.arctan2(outward[1], outward[0])))).removesuffix(" of the drawing")
    return f"the wall at {side} ({number})"


def _walls(room: Room) -> range:
    return range(len(room.shape.plan))


def stand_words(found: StandCheck) -> str:
    """Whether a stand can do it."""
    stand: Stand = STANDS[found.key]
    if found.short_m > 0.005:
        return f"{stand.name}: {found.short_m * 100:.0f} cm too {'low' if found.too_low else 'high'}."
    if not found.fits:
        return f"{stand.name}: its foot ({stand.foot_m * 200:.0f} cm across) meets a wall or furniture."
    if found.boom_m > 0 and found.tips:
        return f"{stand.name}: tips over with {found.boom_m * 100:.0f} cm of boom; weigh down its foot or shorten it."
    return f"{stand.name}: reaches and stands."
