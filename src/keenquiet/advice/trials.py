"""Words of the trials: what to do in each series, its steps and its columns."""

from collections.abc import Sequence
from typing import Any, Final

SERIES_WORDS: Final = {
    "distance": (
        "How near?",
        "Sing the same line at each distance, the gain as it is; begin far away. A string of that length from the "
        "microphone to your lips keeps it honest.",
    ),
    "angle": (
        "Straight on or past it?",
        "Sing the same line straight at the microphone, then past it by a little, by half, by a right angle; then with "
        "the microphone above and below your mouth. Choose the way with the least sizzle that is still clear.",
    ),
    "round": (
        "Where does it sizzle least?",
        "Sing the same line, one with many esses, at the microphone, then go round it by a hand's width at a time and "
        "sing at it still. Stay where the esses are soft and the words still clear.",
    ),
    "behind": (
        "Shield, or something soft behind you?",
        "Sing the same line bare, with a screen around the microphone, and with something soft behind you instead.",
    ),
    "blankets": (
        "How many blankets?",
        "Sing the same line, then hang one blanket more each time: behind you first, then to either side. Keep "
        "blankets off heaters, lamps and candles, and stands from tipping.",
    ),
    "gains": (
        "Is the hiss the recorder's own?",
        "Sing the same line at the gain as it is, and turned up by 6 dB. Where the noise under you shrinks, the "
        "recorder made it.",
    ),
    "phones": (
        "Closed or open headphones?",
        "Sing the same line with the backing in your ears, cups closed, then open. Turn them down between: what is "
        "comfortable in open ones is loud in closed ones.",
    ),
}
STEP_WORDS: Final = {
    **{f"{cm}cm": f"{cm} cm" for cm in (5, 10, 15, 20, 30)},
    **{f"{deg}deg": "straight on" if deg == 0 else f"{deg}° past it" for deg in (0, 20, 45, 90)},
    **{f"{deg}round": "in front of it" if deg == 0 else f"{deg}° round it" for deg in (0, 15, 30, 45, 60)},
    "above": "from above",
    "below": "from below",
    "bare": "bare",
    "shield": "screen around it",
    "soft": "soft behind you",
    **{f"{n}blankets": ("none", "one", "two", "three")[n] for n in range(4)},
    "low": "as it is",
    "high": "6 dB up",
    "closed": "closed",
    "open": "open",
}
COLUMNS: Final = {
    "level": "level",
    "bounce": "direct over room",
    "hush": "noise under you",
    "bass": "bass at 100 Hz",
    "treble": "treble at 8 kHz",
    "sizzle": "esses over the vowels",
    "bleed": "bleed under you",
}
_AGREES_DB: Final = 3.0


def said_of(steps: Sequence[Any]) -> str:
    """How far measured and predicted lie apart, or what to do first."""
    apart = [
        abs(step.measured[key] - value)
        for step in steps[1:]
        if step.measured
        for key, value in step.predicted.items()
        if key in step.measured
    ]
    if not apart:
        return "Nothing measured yet: the first step first, all others are set against it."
    worst = max(apart)
    esses = {
        step.name: step.measured["sizzle"]
        for step in steps
        if "sizzle" in step.predicted and step.measured and "sizzle" in step.measured
    }
    if len(esses) > 1:
        least = min(esses, key=lambda name: esses[name])
        by = f": {-esses[least]:.1f} dB under the first" if esses[least] < 0 else ""
        return f"Least sizzle {least}{by}."
    return (
        f"Measured lies within {worst:.1f} dB of what was predicted."
        if worst <= _AGREES_DB
        else f"Measured lies up to {worst:.1f} dB from what was predicted: trust what was measured."
    )
