"""Words of a proof."""

from collections.abc import Mapping
from typing import Final

_WORDS: Final[Mapping[str, str]] = {
    "proved": "Proved.",
    "partly": "Partly: it helped, by less than promised.",
    "not_proved": "Not proved: the readings show no such change. Is it done as drawn?",
    "too_small": "Too small to prove: less than two readings of an unchanged room differ by.",
}


def proof_words(outcome: str) -> str:
    """What a measured change says of a promised one."""
    return _WORDS[outcome]
