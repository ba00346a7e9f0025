"""Words for ways in and for what closes them."""

from collections.abc import Mapping
from typing import Final

WAY_WORDS: Final[Mapping[str, str]] = {
    "wall": "the wall itself",
    "flanking": "through the building",
    "pane": "the window's glass",
    "leaf": "the door's leaf",
    "gap": "the gap under the door",
    "joint": "the joint round the window",
    "keyhole": "the keyhole",
    "vent": "the ventilation opening",
    "pipe": "the hole round a pipe",
    "crack": "a crack",
    "letterbox": "the letterbox",
    "hatch": "the hatch",
}
MEANS_WORDS: Final[Mapping[str, str]] = {
    "strip": "a brush or foam strip",
    "towel": "a rolled towel",
    "tape": "tape and putty",
    "blanket": "a thick blanket hung close",
    "heavy-curtain": "a heavy curtain to the floor",
    "plug": "a padded board pressed in, that lifts out again",
}
WAY_NOTES: Final[Mapping[str, str]] = {
    "vent": "Stays free: it is the air you breathe. A lined duct or another hour helps instead.",
    "flanking": "Nothing you hang helps against what comes through floors and walls.",
    "wall": "A second wall is a builder's work.",
    "pane": "Never plug a window that is a way of escape.",
    "leaf": "The door must still open at once.",
}


def seal_title(kind: str, means: str) -> str:
    """A move that closes a way in."""
    return f"Close {WAY_WORDS[kind]} with {MEANS_WORDS[means]}"
