"""Hints beside choices: what a pattern is good for, what a purpose means."""

from collections.abc import Mapping
from typing import Final

PATTERN_HINTS: Final[Mapping[str, str]] = {
    "omni": "hears all round, no bass lift",
    "subcardioid": "a little towards the front",
    "cardioid": "front, deaf behind: the usual one",
    "supercardioid": "narrower, deaf to the sides behind",
    "hypercardioid": "narrowest of the family",
    "figure-8": "front and back, deaf to the sides",
}
PURPOSE_HINTS: Final[Mapping[str, str]] = {
    "dry-voice": "The voice close and clear, the room out of the way",
    "spoken": "Reading, narration, talking",
    "some-room": "Close, but not in a box",
    "lively": "Room to bloom: brass, several players",
}
