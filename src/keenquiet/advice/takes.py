"""Words about a take: its level, what is raised later, what nothing arriving means."""

from typing import Final

from keenquiet.core.take.later import Later

_QUIET_ENOUGH_DB: Final = 35.0  # of noise under a squeezed and lifted performance (our estimate)
_DRY_ENOUGH_DB: Final = 3.0
_SHARP_DB: Final = -1.0


def later_words(found: Later) -> str:
    """What a mix will bring up, and what to do about it now."""
    told = []
    if found.noise_db is not None and found.noise_db[2] < _QUIET_ENOUGH_DB:
        told.append(
            f"Squeezed by 10 dB and brightened, the noise lies only {found.noise_db[2]:.0f} dB under you: come "
            f"nearer or "
            "wait for a quieter hour."
        )
    if found.room_db is not None and found.room_db[1] < _DRY_ENOUGH_DB:
        told.append(f"Squeezed, the room is {_as_loud(found.room_db[1])} you: come nearer, or hang something soft.")
    if found.esses_db is not None and found.esses_db[2] > _SHARP_DB:
        told.append("Brightened, the esses will be sharp: aim a hand's width past the mouth.")
    return " ".join(told) or "Squeezed by 10 dB and brightened it still holds."


def _as_loud(over_db: float) -> str:
    return "as loud as" if over_db > -1.5 else f"{-over_db:.0f} dB over"


def gain_words(advice_db: float, *, lowest: bool, distance_m: float | None) -> str:
    """What to do about the level. lowest : the dial stands at its lowest already."""
    if advice_db == 0:
        return "Leave the gain where it is."
    if advice_db > 0:
        return f"Turn the gain up by about {advice_db:.0f} dB."
    if not lowest:
        return f"Turn the gain down by about {-advice_db:.0f} dB."
    share = 10 ** (-advice_db / 20)
    away = "" if distance_m is None else f", {100 * share * distance_m:.0f} cm for {100 * distance_m:.0f}"
    return f"If the dial is at its lowest already: switch the pad in, or stand {share:.1f} times as far away{away}."


# nothing arrives: asked in this order, each with what to try
NOTHING_ARRIVES: Final = (
    ("input", "Is the right input chosen?", "Choose the interface's own channel, not the laptop's microphone."),
    ("mute", "Is anything muted?", "The interface's mute, the system's input level, the browser's own permission."),
    (
        "powered",
        "Does the microphone need power?",
        "A condenser needs 48 V: level down first, then switch it on. Never for a ribbon microphone unless its maker "
        "says so.",
    ),
    ("side", "Do you speak into its front?", "Speak into each side at a hand's width: the louder is the front."),
    ("level", "Is the gain all the way down?", "Turn it up slowly while you speak, the monitors off, until it moves."),
    ("cable", "Does another cable help?", "Swap it with one that works, at both ends, with the level down."),
)
