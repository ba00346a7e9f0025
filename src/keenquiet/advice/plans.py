"""Words of plans: what they are called, what comes first, where money ends to buy much."""

from collections.abc import Collection, Mapping, Sequence
from typing import Final

from keenquiet.advice.places import trait_words
from keenquiet.core.judge.which_place import Trait

_CLOSE = 0.03  # of what is lacking
_GAIN_DB = 2.0
_THIN: Final = frozenset({"duvet", "curtain", "blanket", "rug", "foam-25", "foam-50", "panel-50"})


def plan_name(number: int, count: int) -> str:
    """By what it spends."""
    if count == 1:
        return "The plan"
    return ("Nothing spent", "Modest", "All of the budget")[number if number < count - 1 else -1]


def first_words(alone: Mapping[str, float]) -> str:
    """Corners or reflections first, by what the best of each wins alone."""
    panel, trap = alone.get("reflection"), alone.get("trap")
    if panel is None and trap is None:
        return ""
    if panel is None or trap is None:
        only = "first returns" if trap is None else "corners and bass"
        return f"Only the {only} can be treated here with what is allowed."
    figures = (
        f"the best panel wins {100 * max(panel, 0):.0f} %, the best pair of traps {100 * max(trap, 0):.0f} % of a mark"
    )
    if abs(panel - trap) < _CLOSE:
        return f"Bass or reflections first? Too close to call here: {figures}."
    return f"{'Reflections' if panel > trap else 'Bass'} first here: {figures}."


def knee_words(knee: int | None, costs: Sequence[float], currency: str) -> str:
    """From where on money buys little. knee : how many moves come before. costs : of each move, in their order."""
    if knee is None:
        return ""
    return f"Up to here money wins most: the {currency}{sum(costs[knee:]):.0f} below buy less than a seventh of it."


def gain_words(louder_db: float) -> list[str]:
    """What the recorder's gain must follow by."""
    if abs(louder_db) < _GAIN_DB:
        return []
    nearer = louder_db > 0
    return [
        f"You are {'nearer' if nearer else 'further away'}: turn the gain {'down' if nearer else 'up'} "
        f"by {abs(louder_db):.0f} dB."
    ]


def note_words_of(dull: float, traits: Sequence[Trait], pieces: Collection[str]) -> list[str]:
    """What a plan does to the sound beside the marks: a top that is robbed, a box. pieces : that it hangs."""
    said = [trait_words(trait) for trait in traits if trait.key in ("treble_robbed", "boxy")]
    if dull > 0:
        said.append(
            "Thin cloth takes the top and leaves the rest: thicker pieces, or fewer, keep it even."
            if _THIN & set(pieces)
            else "The top fades faster than the rest here: what takes low notes evens it out."
        )
    return said
