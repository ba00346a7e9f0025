"""Words and cautions of screens."""

from collections.abc import Mapping
from typing import Final

SCREEN_NAMES: Final[Mapping[str, str]] = {
    "desk-arc": "Arc of foam behind the microphone",
    "foam-ball": "Ball of foam round the capsule, open in front",
    "duvet-behind-mic": "Duvet on a T of two stands behind the microphone",
    "duvet-on-t": "Duvet on a T of two stands behind you",
    "panel-on-feet": "Panel on feet behind you, 10 cm of wool",
    "mattress": "Mattress stood up behind you",
    "clothes-rail": "Rail full of clothes behind you",
    "booth": "Duvets round your back and both sides",
    "head-box": "Box of foam round your head",
}
_HEAVY: Final = "It can fall: tie it to something that stands, and weigh the feet down."
_FIRE: Final = "Keep cloth and foam away from lamps, heaters and plugs."
SCREEN_CAUTIONS: Final[Mapping[str, tuple[str, ...]]] = {
    "duvet-behind-mic": (_HEAVY, _FIRE),
    "duvet-on-t": (_HEAVY, _FIRE),
    "panel-on-feet": (_HEAVY,),
    "clothes-rail": (_HEAVY, _FIRE),
    "mattress": (_HEAVY, "A tall mattress is heavy: two people."),
    "booth": (_HEAVY, _FIRE, "Leave a way out, and air: it gets warm and stale within minutes."),
    "head-box": (_FIRE, "Warm and stale inside, and one sings louder: come out after every take, phones low."),
}
_SMALL_DB: Final = 1.0
_COLOURED_DB: Final = 3.0


def screen_words(bounce_db: float, colour_db: float) -> str:
    """Whether it is worth it, in a sentence."""
    coloured = f" It colours: {colour_db:.0f} dB of comb from its own return." if colour_db >= _COLOURED_DB else ""
    if bounce_db < -0.3:
        return f"It makes things worse here by {-bounce_db:.1f} dB.{coloured}"
    if bounce_db < _SMALL_DB:
        return f"Hardly worth the carrying here: {max(bounce_db, 0.0):.1f} dB.{coloured}"
    return f"It puts you {bounce_db:.1f} dB further over the room.{coloured}"
