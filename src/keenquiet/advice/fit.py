"""What a fit to readings changed and what it could not explain, in words."""

from collections.abc import Mapping
from typing import Final

from keenquiet.core.judge.fit import Unexplained

_AXES: Final = {"x": "length along x", "y": "length along y", "z": "height"}
_WORDS: Final[Mapping[str, tuple[str, str]]] = {
    "swallows_more": (
        "At {centre_hz:.0f} Hz the room swallows {times:.1f} times what its surfaces should.",
        "an open door or window, a hollow wall, soft things that are not in the description",
    ),
    "swallows_less": (
        "At {centre_hz:.0f} Hz the room swallows only {times:.1f} of what its surfaces should.",
        "something described as softer than it is, or furniture that was taken out",
    ),
    "no_mode": (
        "A note at {f_hz:.1f} Hz rings where no mode of this shape lies; the nearest is {nearest_hz:.1f} Hz.",
        "a length that was read wrong",
    ),
    "wrong_length": (
        "A note at {f_hz:.1f} Hz rings where no mode of this shape lies; the nearest is {nearest_hz:.1f} Hz.",
        "the {length}: {fits_m:.2f} m would fit, {written_m:.2f} m is written down",
    ),
}


def unexplained_words(found: Unexplained) -> tuple[str, str]:
    """What is not explained, and what to look for."""
    what, look_for = _WORDS[found.key]
    figures = {**found.figures, "length": _AXES.get(str(found.figures.get("axis")), "")}
    return what.format(**figures), look_for.format(**figures)


def moved_words(centre_hz: float, factor: float) -> str:
    """What the fit changed in one octave."""
    change = (factor - 1) * 100
    more = "more" if change > 0 else "less"
    return f"{centre_hz:.0f} Hz: surfaces swallow {abs(change):.0f} % {more} than the catalogue says."
