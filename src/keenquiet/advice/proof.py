"""Words of a proof."""

from collections.abc import Mapping
from typing import Final

_WORDS: Final[Mapping[str, str]] = {
    "proved": "Proved.",
    "partly": "Partly: it helped, by less than promised.",
    "not_proved": "Not proved: the readings show no such change. Is it done as drawn?",
    "too_small": "Too small to prove: less than two readings of an unchanged room differ by.",
}


_TOGETHER: Final = "It was read after {count} moves, so it speaks of them together."


def proof_words(outcome: str, moves: int = 1) -> str:
    """What a measured change says of a promised one. moves : how many were done before it was read."""
    return _WORDS[outcome] if moves == 1 else f"{_WORDS[outcome]} {_TOGETHER.format(count=moves)}"
