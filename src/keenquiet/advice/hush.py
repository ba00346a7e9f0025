"""Words for Hush: what is heard under what, when to record, what a house round says, what to put back afterwards."""

from collections.abc import Sequence
from typing import Final

from keenquiet.advice.clock import clock
from keenquiet.advice.surfaces import lower_first
from keenquiet.core.judge.cooling import Warming
from keenquiet.core.judge.hours import Window
from keenquiet.core.read.audible import Audible
from keenquiet.core.read.gain_pair import GainPair

_BETTER: Final = 0.1
_HEARD_DB: Final = 0.05  # less is printed as nothing
DAYS: Final = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
RESTORE: Final = "Put back on what you switched off: {names}."
HEAT: Final = (
    "A closed room grows warm and stale: air it between takes, drink, and stop when you feel unwell. "
    "Never cover a heater."
)
HUM_CAUTION: Final = "Whatever is inside the wall is an electrician's work. Never lift a safety earth."
ESCAPE: Final = "Vents, doors and windows that are ways out stay free; a landlord's word and the local code come first."
_UNDER: Final = {
    "never": "Nobody will hear it under you, nor in the pauses.",
    "pauses": "It is heard in the pauses only.",
    "quiet": "It is heard under quiet phrases.",
    "always": "It is heard under everything you play.",
}


def audible_words(found: Audible) -> str:
    """Under what the noise is heard, and where in pitch."""
    said = _UNDER[found.worst]
    if found.first_hz is None or found.last_hz is None:
        return said
    where = (
        f"near {hertz(found.first_hz)}"
        if found.last_hz < 1.3 * found.first_hz
        else f"from {hertz(found.first_hz)} to {hertz(found.last_hz)}"
    )
    return f"{said[:-1]}, {where}."


def hertz(f_hz: float) -> str:
    """A pitch in words."""
    return f"{f_hz / 1000:.1f} kHz" if f_hz >= 1000 else f"{f_hz:.0f} Hz"


def chance_words(chance: float | None) -> str:
    """A chance as people say it; none at all is no matter of waiting."""
    if chance is None:
        return "too little to say"
    if chance == 0:
        return "what goes on all the time is too loud for a take"
    tenths = round(chance * 10)
    if chance >= 0.995:
        return "every take stays undisturbed"
    if tenths == 0:
        return "hardly a take stays undisturbed"
    names = ("", "one take in ten", "two in ten", "three in ten", "four in ten", "every other take", "six in ten")
    later = ("seven in ten", "eight in ten", "nine in ten", "nearly every take")
    return f"{(*names, *later)[tenths]} stay{'s' if tenths in (1, 5, 10) else ''} undisturbed"


def window_words(
    windows: Sequence[Window],
    anytime: Sequence[Window] = (),
    *,
    least_bad: Window | None = None,
    under_db: float | None = None,
) -> str:
    """The best windows in a sentence, days that are alike together; better ones outside the hours that are allowed.

    least_bad : the quietest stretch where none is good, under_db : how far its noise lies under the performance.
    """
    outside = ""
    if anytime and (not windows or anytime[0].chance > windows[0].chance + _BETTER):
        outside = f" Outside your hours: {_one_window(anytime)}."
    if not windows and least_bad is not None:
        noise = "" if under_db is None else f", noise {under_db:.0f} dB under you"
        return (
            f"No hour in which you may play is quiet enough. Least bad: {_days([least_bad.weekday])} "
            f"{clock(least_bad.from_h)} to {clock(least_bad.to_h)}{noise}; {chance_words(least_bad.chance)}.{outside}"
        )
    if not windows:
        return (
            f"No hour in which you may play stays undisturbed: note more, watch a night, or allow other hours.{outside}"
        )
    said = _one_window(windows)
    return f"{said[:1].upper()}{said[1:]}.{outside}"


def _one_window(windows: Sequence[Window]) -> str:
    best = windows[0]
    alike = sorted({w.weekday for w in windows if (w.from_h, w.to_h) == (best.from_h, best.to_h)})
    return f"{_days(alike)} {clock(best.from_h)} to {clock(best.to_h)}: {chance_words(best.chance)}"


def _days(days: Sequence[int]) -> str:
    if len(days) == 7:
        return "every day"
    if len(days) > 2 and days == list(range(days[0], days[-1] + 1)):
        return f"{DAYS[days[0]]} to {DAYS[days[-1]]}"
    return " and ".join(DAYS[day] for day in days)


def attempts_words(chance: float | None) -> str:
    """How often one has to try."""
    if chance is None or chance <= 0:
        return ""
    tries = 1 / chance
    return (
        "Count on one attempt."
        if tries < 1.15
        else f"Count on {tries:.0f} attempts."
        if tries >= 1.8
        else ("Count on one attempt, now and then two.")
    )


def round_words(*, valid: bool, again_db: float | None, told: int, untold: Sequence[str], loudest: str | None) -> str:
    """What a house round says."""
    if not valid:
        return (
            f"All on again was {abs(again_db or 0):.1f} dB {'louder' if (again_db or 0) > 0 else 'quieter'} than at"
            " first: the house changed meanwhile. Take the round again."
        )
    if told == 0 or loudest is None:
        return "None of them can be told from the rest: something else leads."
    rest = f" {', '.join(untold)} cannot be told: too far below the rest." if untold else ""
    unsure = (
        "" if again_db is not None else " All on was not taken again: nothing says whether the house stayed the same."
    )
    return f"{loudest} leads.{rest}{unsure}"


def gain_words(found: GainPair) -> str:
    """Whether turning the gain would help."""
    if found.advice == "same":
        return (
            "Nearly all of the noise comes before the gain, from the room and the preamplifier: turning it down makes"
            " you and the noise quieter alike. Only the room, or a nearer microphone, helps."
        )
    return (
        f"The recorder's own noise is {100 * found.chain_share:.0f} % of what is there at the lower gain: "
        f"{found.gain_db:.0f} dB more gain puts the noise {found.wins_db:.1f} dB further under you, and turning down "
        "would bring it up."
    )


def warming_words(found: Warming) -> str:
    """How long a room stays near its temperature without its fan."""
    return (
        f"Cool the room first, then switch the fan off: about {found.minutes:.0f} ± {found.plus_minus_min:.0f} minutes "
        f"until it is {found.allowed_k:.1f} K warmer. Winds rise by {found.cents_per_k:.1f} cents for each kelvin."
    )


NO_WAY: Final = "Nothing that could be closed lets in what matters at this hour."


def ways_words(best: str, wins: str) -> str:
    """Which way in is worth closing first. wins : see `buys_words`."""
    return f"{best[:1].upper() + best[1:]} first: {wins}, ± 3 dB. Then the next one limits."


def buys_words(hush_db: float, passing_db: float | None) -> str:
    """What closing a way wins, steady noise and passing noise told apart."""
    parts = [f"Hush +{hush_db:.1f} dB"] if hush_db >= _HEARD_DB else []
    if passing_db is not None and passing_db >= _HEARD_DB:
        parts.append(f"{passing_db:.1f} dB under what passes")
    return " and ".join(parts) or "nothing comes in here now"


def restore_words(names: Sequence[str]) -> str:
    """What is switched off for the recording and must come back."""
    return RESTORE.format(names=", ".join(lower_first(name) for name in names)) if names else ""
