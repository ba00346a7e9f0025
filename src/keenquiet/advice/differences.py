"""What has changed since a reading, and what an edit does, in words. The page's undo words are these too."""

from collections.abc import Mapping
from typing import Final

_DIFFERENT: Final[Mapping[str, str]] = {
    "shape": "the room's size or shape",
    "surface": "what {what} is made of",
    "opening": "the {what}",
    "cover": "the {what}",
    "furniture": "the {what}",
    "treatment": "what hangs: {what}",
    "screen": "a screen: {what}",
    "noise": "the noise: {what}",
    "performer": "your place",
    "source": "the performer",
    "microphone": "the microphone's place",
    "pattern": "the microphone's pattern",
    "hour": "the hour",
    "silenced": "on or off: {what}",
    "sealed": "the closed ways in",
    "gain": "the gain",
}

EDIT_WORDS: Final[Mapping[str, str]] = {
    "place": "move the {who}",
    "take-out": "take out the {who}",
    "hang": "hang {what}",
    "take-down": "take down {what}",
    "set-state": "make the {what} {state}",
    "move-furniture": "move the {what}",
    "put-screen": "put up a screen",
    "take-screen": "take the screen away",
    "set-hour": "record at another hour",
    "set-weekday": "record on another day",
    "seal-way": "close or open a way in",
    "switch": "switch {what} {state}",
    "set-gain": "set the gain",
    "choose-pattern": "choose the pattern",
    "choose-source": "choose who performs",
}


def difference_words(part: str, what: str) -> str:
    """One difference as a phrase: `the wardrobe`."""
    return _DIFFERENT[part].format(what=what.replace("wall-", "wall ").replace("-", " ") or "something")


def listed(phrases: list[str], *, most: int = 3) -> str:
    """`a, b and c`, the rest counted."""
    shown, more = phrases[:most], len(phrases) - most
    if more > 0:
        shown = [*shown, f"{more} more"]
    return shown[0] if len(shown) == 1 else f"{', '.join(shown[:-1])} and {shown[-1]}" if shown else ""
