"""Front or back, in words."""

from collections.abc import Mapping
from typing import Final

from keenquiet.core.take.sides import Sides

_WORDS: Final[Mapping[str, tuple[str, str]]] = {
    "proved": ("This side is the front: {apart} between both.", "The map and the marks may be believed."),
    "wrong_side": ("The other side is the front: it is {apart} louder.", "Turn the microphone round."),
    "both_alike": (
        "Both sides hear alike ({apart} apart): no {pattern} is on.",
        "Look for its pattern switch, or choose the pattern that it has.",
    ),
    "not_even": ("One side is {apart} louder: this is no {pattern}.", "Choose the pattern that it has."),
    "weak": (
        "{apart} apart: one side is louder, but not by the 10 dB of a {pattern}.",
        "Speak from a hand's width, the same line just as loud, or look for its pattern switch.",
    ),
    "not_powered": (
        "There is hiss and no voice: the microphone has no power, or another input was recorded.",
        "Switch its power on at the preamplifier, speakers and phones down first; check input and cable.",
    ),
}


def side_words(sides: Sides, pattern: str) -> tuple[str, str]:
    """What was found, and what to do."""
    text, cure = _WORDS[sides.outcome]
    return text.format(apart=f"{abs(sides.difference_db):.0f} dB", pattern=pattern), cure
