"""What a move is called and why it would help, from what the core found out about it."""

from collections.abc import Callable, Mapping
from typing import Final, cast

from keenquiet.advice.surfaces import facing_words, lower_first, note_words, surface_words
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.scenario import Scenario

Words = tuple[str, str]


def clock(hour: float) -> str:
    """`09:30`."""
    return f"{int(hour):02d}:{round(hour % 1 * 60):02d}"


def move_words(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    """Title and reason of a move. Raises KeyError for a kind that has no words."""
    return _WORDS[candidate.kind](candidate, before, after, limits)


def _turn(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    return (
        f"Turn to face {facing_words(before.room, after.arrangement)}, microphone in front of you",
        "Where you send your voice, and what lies behind you in the microphone's view, changes what comes back.",
    )


def _place(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), after.arrangement)
    away, facing = cast(float, candidate.facts["away_m"]), facing_words(before.room, after.arrangement)
    return (
        f"Move: {away:.2f} m from {where}, facing {facing}",
        "Another spot has softer things around it and sits away from the strongest swells.",
    )


def _distance(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    return (
        f"Bring the microphone to {cast(float, candidate.facts['distance_m']) * 100:.0f} cm from your mouth",
        "Half the distance doubles your own sound and leaves the room as it was. Closer also lifts the bass and makes "
        "swaying louder.",
    )


_BEHIND: Final = {
    "duvet": "Hang the duvet in front of {where}, two hands' width off it",
    "curtain": "A heavy curtain in folds across {where}, a hand's width off it",
}


def _soft_behind(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), before.arrangement)
    return (
        _BEHIND[candidate.piece or ""].format(where=where),
        "The microphone looks past you at that wall: softness there counts most, more than foam behind the microphone.",
    )


def _wardrobe(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    before_it = candidate.facts["stand"] == "before"
    return (
        "Open the wardrobe and stand with your back to it" if before_it else "Open the wardrobe while you record",
        "Hanging clothes half a metre deep swallow what goes past you, down into the bass.",
    )


def _reflection(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    delay, level = cast(float, candidate.facts["delay_ms"]), cast(float, candidate.facts["level_db"])
    why = f"A strong single return comes from there: {delay:.1f} ms after you, {level:.0f} dB."
    if candidate.piece == "rug":
        return "Lay a thick rug between you and the microphone", why
    where = surface_words(before.room, _face(candidate), before.arrangement)
    mounted = "screwed" if limits.may_drill else "leaned on a shelf or stand"
    return f"A 60 x 120 cm panel, 10 cm thick, on {where}, {mounted}", why


def _trap(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), before.arrangement)
    spot = f"in the corner on {where}" if candidate.facts["where"] == "corner" else f"against {where}"
    note = note_words(cast(float, candidate.facts["note_hz"]))
    return (
        f"Two 60 x 120 cm panels, 20 cm thick, stacked {spot}",
        f"The note near {note} presses hard there; only thick panels reach that low.",
    )


def _silence(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    noise = lower_first(str(candidate.facts["noise"]))
    return f"Keep the {noise} out of it: off, or in the next room", "It is the noise you have in your own hands."


def _hour(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    resting = " and ".join(cast(tuple[str, ...], candidate.facts["resting"]))
    return f"Record after {clock(cast(float, candidate.facts['hour']))}", f"{resting} will have stopped by then."


def _face(candidate: Candidate) -> int:
    return cast(int, candidate.facts["face"])


_WORDS: Final[Mapping[str, Callable[[Candidate, Scenario, Scenario, Limits], Words]]] = {
    "turn": _turn,
    "place": _place,
    "distance": _distance,
    "soft-behind": _soft_behind,
    "wardrobe": _wardrobe,
    "reflection": _reflection,
    "trap": _trap,
    "silence": _silence,
    "hour": _hour,
}
