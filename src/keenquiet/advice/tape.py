"""What the returns say about the tape, in words."""

from typing import Final

from keenquiet.advice.surfaces import surface_words, upper_first
from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.judge.tape_check import HEARD_WHERE_DRAWN_M, TapeCheck

_WAYS: Final = (
    ("further left", "further right"),
    ("nearer to the foot of the plan", "nearer to its top"),
    ("lower", "higher"),
)


def tape_sentence(found: TapeCheck, result: Forecast) -> str:
    """Whether the lengths taped hold, or which to measure again."""
    heard = sum(check.off_m is not None and abs(check.off_m) < HEARD_WHERE_DRAWN_M for check in found.returns)
    if found.agrees:
        return (
            f"The returns agree with the tape: {heard} of {len(found.returns)} surfaces are heard where they are drawn."
        )
    if found.suspect is None:
        return "Too few returns stand apart to check the tape here."
    off = found.off_m or 0.0
    by = f"{abs(off) * 100:.0f} cm"
    kind, number = found.suspect
    if kind == "microphone":
        way = _WAYS[number][off > 0]
        return f"The returns fit better with the microphone {by} {way} than its mark: measure where it really stood."
    where = upper_first(surface_words(result.room, number, result.arrangement))
    way = "further away" if off > 0 else "nearer"
    return f"{where} is heard {by} {way} than it is drawn: measure that distance again."
