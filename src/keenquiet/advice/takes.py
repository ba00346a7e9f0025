"""Words about a take: its level, what is raised later, what nothing arriving means."""

from typing import Final

from keenquiet.core.take.latency import Latency, notches_of
from keenquiet.core.take.later import Later
from keenquiet.core.take.threshold import Staircase
from keenquiet.core.take.underneath import THIRD_TOLD_DB, TOLD_DB, Underneath
from keenquiet.core.waves.comb import ripple_db

_QUIET_ENOUGH_DB: Final = 35.0  # of noise under a squeezed and lifted performance (our estimate)
_DRY_ENOUGH_DB: Final = 3.0
_SHARP_DB: Final = -1.0
# what is noticed of one's own sound that comes late (our estimates)
_NOT_NOTICED_MS: Final = 5.0
_TOO_LATE_MS: Final = 12.0
_AS_LOUD_DB: Final = 1.0
_ASKED: Final = {"louder": "which is louder?", "brighter": "which is brighter?", "noise": "which has the noise?"}
_LOUD_BACK_DB: Final = 9.0
_SOFT_BACK_DB: Final = 12.0
# what is wanted of a room for a dry close voice ends at 0.2 s and a lively one begins at 0.3 (`core.judge.wanted`);
# ends of words ring longer than T20, for the voice fades with them (our estimate)
_DRY_S: Final = 0.3
_LIVELY_S: Final = 0.5


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


def heard_late_words(found: Latency) -> str:
    """How late and how loud one hears oneself, and what to do about it."""
    late = found.latency_ms
    if late < _NOT_NOTICED_MS:
        told = "below what is noticed."
    elif late < _TOO_LATE_MS:
        told = "singers notice it as a colour, drummers as late."
    else:
        told = "too late to perform with: hear yourself through the interface itself, and mute the way back."
    words = [f"You hear yourself {late:.1f} ms late, {told}"]
    gain = found.gain_db
    if abs(gain) < _AS_LOUD_DB:
        words.append("It comes back as loud as it reached the microphone.")
    else:
        words.append(f"It comes back {abs(gain):.0f} dB {'louder' if gain > 0 else 'quieter'} than it reached it.")
    if gain > _LOUD_BACK_DB:
        words.append("Turn your own voice down in the phones: loud phones tire ears, make singers flat, and leak.")
    elif gain < -_SOFT_BACK_DB:
        words.append("Who hears so little pushes: turn it up, or take one cup off.")
    if late >= 0.3:
        notch = notches_of(late, turned=found.turned)[0]
        words.append(
            f"Heard both ways at once it is a comb, its first notch at {notch:.0f} Hz, "
            f"{ripple_db(10 ** (gain / 20)):.0f} dB from top to notch{', upside down' if found.turned else ''}."
        )
    return " ".join(words)


def threshold_words(what: str, found: Staircase) -> str:
    """What a staircase has come to."""
    if found.next_db is not None:
        return f"Pair {found.answered + 1}: {_ASKED[what]}"
    if found.threshold_db is None:
        return "Not even the plainest difference was heard for sure: better phones, a quieter hour, or another passage."
    plus = f"± {found.plus_minus_db:.1f} dB"
    if what == "noise":
        return f"You hear noise down to {-found.threshold_db:.0f} dB under you ({plus}): less need not worry you."
    return f"You hear {found.threshold_db:.1f} dB {what} ({plus}): smaller differences are not for your ears to judge."


def beside_words(minutes_after: float, *, same_chain: bool, same_room: bool) -> str:
    """When a reading that goes with a take was taken, and what was otherwise then."""
    way, size = "after it" if minutes_after > 0 else "before it", abs(minutes_after)
    if size < 1.5:
        when = f"within a minute {way}"
    else:
        when = f"{size:.0f} minutes {way}" if size < 90 else f"{size / 60:.0f} hours {way}"
    if same_chain and same_room:
        return f"{when}, same gain, same room"
    other = [] if same_chain else ["another gain or input"]
    other += [] if same_room else ["the room was another then"]
    return f"{when}; {', '.join(other)}"


def underneath_words(found: Underneath | None) -> str:
    """What lies under a take against the silence of its room."""
    if found is None:
        return "There is no pause to hear it in."
    if not found.told:
        return f"What lies under you is what the silence has, within {max(abs(found.more_db), 1):.0f} dB."
    parts = []
    if abs(found.more_db) >= TOLD_DB:
        parts.append(
            f"{abs(found.more_db):.0f} dB {'more' if found.more_db > 0 else 'less'} lies under you than in the silence"
        )
    if abs(found.worst_db) >= THIRD_TOLD_DB:
        where = "most of it at" if parts else "it differs at"
        parts.append(f"{where} {found.worst_hz:.0f} Hz ({found.worst_db:+.0f} dB)".replace("-", "\N{MINUS SIGN}"))
    if found.new_hz:
        parts.append(f"new: a tone at {' and '.join(f'{f:.0f}' for f in found.new_hz)} Hz")
    # where the whole is as loud, its pitch that differs most says which way
    apart = found.more_db if abs(found.more_db) >= TOLD_DB or found.new_hz else found.worst_db
    less = apart <= -TOLD_DB
    cure = "something was off that was on then, or the gain was lower" if less else "something was on that was off then"
    said = ", ".join(parts)
    return f"{said[0].upper()}{said[1:]}: {cure}."


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


# what goes with a take, by the form of the reading
BESIDE_NAMES: Final = {"tone": "Room tone", "response": "The room"}

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


def ring_words(fades_s: float, direct_over_room_db: float | None) -> str:
    """Whether a spoken line sounds lively or dry, and by which figure: the room's ring after words, and where the
    speaker is seen to stop, direct sound over the room.
    """
    word = "dry" if fades_s < _DRY_S else "lively" if fades_s > _LIVELY_S else "a little lively"
    over = "" if direct_over_room_db is None else f", you {direct_over_room_db:.0f} dB over it"
    return f"{word}: the room rings {fades_s:.2f} s after words{over}"
