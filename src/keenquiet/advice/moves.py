"""What a move is called and why it would help, from what the core found out about it."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Final, cast

import numpy as np

from keenquiet.advice.clock import clock
from keenquiet.advice.screens import SCREEN_NAMES
from keenquiet.advice.surfaces import facing_words, lower_first, note_words, surface_words
from keenquiet.advice.ways import seal_title
from keenquiet.core.judge.candidate import Candidate, Limits
from keenquiet.core.judge.moves import Shortfall
from keenquiet.core.scenario import Scenario

Words = tuple[str, str]
_TOLD_DB: Final = 0.5
_TOLD_S: Final = 0.03
_STRONG_DB: Final = -20.0  # louder than what a dry recording wants of a single return (`judge.wanted`)
_NO_RETURN_DB: Final = -35.0  # softer than what the room sends back all along
_LOW_HZ: Final = 150.0  # under it 10 cm of wool on the wall take less than half


def move_words(
    candidate: Candidate,
    before: Scenario,
    after: Scenario,
    limits: Limits,
    *,
    changes: Mapping[str, float] | None = None,
) -> Words:
    """Title and reason of a move. changes : what it does to each mark, so that no reason claims what is not so. Raises
    KeyError for a kind that has no words.
    """
    if changes is not None:
        candidate = replace(candidate, facts={**candidate.facts, **{f"{mark} by": by for mark, by in changes.items()}})
    return _WORDS[candidate.kind](candidate, before, after, limits)


def _turn(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    return (
        f"Turn to face {facing_words(before.room, after.arrangement)}, microphone in front of you",
        f"Where you send {_sound(before)}, and what lies behind you in the microphone's view, changes what comes back."
        if before.arrangement.microphone.a < 1
        else f"Where you send {_sound(before)} changes what comes back.",
    )


def _place(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), after.arrangement)
    away, facing = cast(float, candidate.facts["away_m"]), facing_words(before.room, after.arrangement)
    return (f"Move: {away:.2f} m from {where}, facing {facing}", _why_there(candidate, before, after))


def _distance(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    metres, nearer = cast(float, candidate.facts["distance_m"]), bool(candidate.facts["nearer"])
    distance = f"{metres:.1f} m" if metres >= 1 else f"{metres * 100:.0f} cm"
    lift = ""
    if cast(float, candidate.facts["gradient"]) > 0:
        lift = "The bass is lifted, and swaying is louder." if nearer else "The bass is lifted less."
    return (
        f"{'Bring' if nearer else 'Take'} the microphone to {distance} from {_outlet(before)}",
        f"Nearer, {_sound(before)} grows and the room stays as it was. {lift}"
        if nearer
        else f"Further away the room has a larger share, and swaying changes less. {lift}",
    )


_OUTLETS: Final = {
    "voice": "your mouth",
    "flute": "the mouth hole",
    "reeds": "the keys",
    "brass": "the bell",
    "trumpet": "the bell",
    "amplifier": "the cone",
    "omni": "the source",
    "loudspeaker": "the loudspeaker",
}


def _outlet(scenario: Scenario) -> str:
    """Where the performer's sound leaves."""
    key = scenario.arrangement.performer.source.key.split("-")[0]
    return _OUTLETS.get(key, "the instrument")


def _sound(scenario: Scenario) -> str:
    return "your voice" if scenario.arrangement.performer.source.key.startswith("voice") else "your sound"


def _why_there(candidate: Candidate, before: Scenario, after: Scenario) -> str:
    """What the other spot has: less of the walls' nearness, of the room, of a swell, of the noise."""

    def nearest_m(scenario: Scenario) -> float:
        at = np.array(scenario.arrangement.performer.at[:2])
        shape = scenario.room.shape
        return min(shape.wall_distance_m(wall, at) for wall in range(len(shape.plan)))

    said = []
    if _gains(candidate, "bounce", _TOLD_DB):
        closer = nearest_m(after) > nearest_m(before) + 0.15
        said.append(
            "no wall stands as close, so less comes back early"
            if closer
            else "less of the room comes back to the microphone"
        )
    if _gains(candidate, "boom", -_TOLD_S):
        said.append("the longest note hangs on less")
    if _gains(candidate, "hush", _TOLD_DB):
        said.append("the noise lies further under you")
    return f"There {', and '.join(said)}." if said else "It changes little by itself."


def _gains(candidate: Candidate, mark: str, least: float) -> bool:
    """Whether a mark changes by that much or more; below zero, for ring times, by that much less. True where nobody has
    worked it out.
    """
    by = cast(float, candidate.facts.get(f"{mark} by", least))
    return by >= least if least > 0 else by <= least


_BEHIND: Final = {
    "duvet": "Hang the duvet in front of {where}, two hands' width off it",
    "curtain": "A heavy curtain in folds across {where}, a hand's width off it",
}


def _soft_behind(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), before.arrangement)
    return (
        _BEHIND[candidate.piece or ""].format(where=where),
        "The microphone looks past you at that wall: softness there counts most, more than foam behind the microphone."
        if cast(float, candidate.facts["gradient"]) > 0
        else "It takes from what the room sends back; this microphone hears all round, so any wall as large does.",
    )


def _microphone(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    pattern = str(candidate.facts["pattern"])
    hears = "all round" if pattern == "omni" else "front and back" if pattern == "figure-8" else "less from behind"
    return (
        f"Put up your {pattern} microphone in the same place",
        f"It hears {hears}: here that lets less of the room, or of the noise, into the recording.",
    )


def _take_down(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), before.arrangement)
    return (
        f"Take the {lower_first(str(candidate.facts['what']))} down from {where}",
        "For what you want to record the room answers too little.",
    )


_UNDRAPED: Final = {
    "curtain": "Draw the curtains back",
    "rug": "Roll the rug up and take it out",
    "blanket": "Take the blanket off the wall",
    "wardrobe": "Shut the wardrobe",
}


def _undrape(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    return (
        f"{_UNDRAPED[str(candidate.facts['what'])]} while you record",
        "For what you want to record the room answers too little: cloth takes its top first.",
    )


def _open_door(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    return "Open the door while you record", "What lies behind it answers too, and this room alone is too dead."


def _wardrobe(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    before_it = candidate.facts["stand"] == "before"
    return (
        "Open the wardrobe and stand with your back to it" if before_it else "Open the wardrobe while you record",
        "Hanging clothes half a metre deep swallow what goes past you, down into the bass.",
    )


def _reflection(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    why = _return_words(cast(float, candidate.facts["delay_ms"]), cast(float, candidate.facts["level_db"]))
    if candidate.piece == "rug":
        return "Lay a thick rug between you and the microphone", why
    where = surface_words(before.room, _face(candidate), before.arrangement)
    mounted = "screwed" if limits.may_drill else "leaned on a shelf or stand"
    if candidate.piece == "blanket":
        return f"A thick blanket hung a hand's width off {where}", why
    thick = _PANELS.get(candidate.piece or "", "60 x 120 cm panel, 10 cm thick,")
    return f"A {thick} on {where}, {mounted}", why


def _return_words(delay_ms: float, level_db: float) -> str:
    """What comes straight back from where a piece is hung, told by how loud it is."""
    if level_db < _NO_RETURN_DB:
        return "Hardly anything comes straight back from there; it takes from the room as a whole."
    told = f"{delay_ms:.1f} ms after you, {level_db:.0f} dB".replace("-", "\N{MINUS SIGN}")
    return f"A {'strong single ' if level_db > _STRONG_DB else ''}return comes from there: {told}."


_PANELS: Final = {
    "panel-50": "60 x 120 cm panel, 5 cm thick,",
    "panel-150": "60 x 120 cm panel, 15 cm thick,",
    "foam-50": "60 x 120 cm piece of foam, 5 cm thick,",
    "slotted": "60 x 120 cm board of slats on a box of wool, 10 cm deep,",
}


def _trap(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    where = surface_words(before.room, _face(candidate), before.arrangement)
    spot = f"in the corner on {where}" if candidate.facts["where"] == "corner" else f"against {where}"
    note_hz = cast(float, candidate.facts["note_hz"])
    note = note_words(note_hz)
    if candidate.piece == "membrane":
        return (
            f"Two 60 x 120 cm boards on boxes 13 cm deep, tuned to {note}, stacked {spot}",
            f"The note near {note} presses hard there: board and air swing with it and take it, and little else.",
        )
    return (
        f"Two 60 x 120 cm panels, 20 cm thick, stacked {spot}",
        f"The note near {note} presses hard there; "
        f"{'only thick panels reach that low' if note_hz < _LOW_HZ else 'so much wool takes it, and what lies above'}.",
    )


def _screen(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    key = str(candidate.piece).removeprefix("screen-")
    behind = str(candidate.facts["behind"]) == "performer"
    return (
        SCREEN_NAMES[key],
        "It takes part of what you feed the room, and of what the microphone hears past you."
        if behind
        else "It takes part of what comes to the microphone from behind and the sides.",
    )


def _together(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    noises = [lower_first(str(noise)) for noise in cast(tuple[str, ...], candidate.facts["noises"])]
    off = f"Keep the {' and the '.join(noises)} out of it" if noises else ""
    hour = candidate.facts.get("hour")
    later = f"record after {clock(cast(float, hour))}" if hour is not None else ""
    said = " and ".join(part for part in (off, later) if part)
    return said[:1].upper() + said[1:], "Each alone wins little while the others go on: together they do."


def _silence(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    noise = lower_first(str(candidate.facts["noise"]))
    return f"Keep the {noise} out of it: off, or in the next room", "It is the noise you have in your own hands."


def _hour(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    resting = " and ".join(cast(tuple[str, ...], candidate.facts["resting"]))
    return f"Record after {clock(cast(float, candidate.facts['hour']))}", f"{resting} will have stopped by then."


def _seal(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    kind, means = str(candidate.facts["kind"]), str(candidate.facts["means"])
    return seal_title(kind, means), "Sound comes in by the weakest part first; then the next one limits."


def _ask(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    noise = lower_first(str(candidate.facts["noise"]))
    return (f"Ask whether the {noise} can rest while you record", "It comes through the building; it is not yours.")


def _null(candidate: Candidate, before: Scenario, after: Scenario, limits: Limits) -> Words:
    noise = lower_first(str(candidate.facts["noise"]))
    return f"Turn the microphone's deaf side to the {noise}", "It hears least where its pattern has its null."


def _face(candidate: Candidate) -> int:
    return cast(int, candidate.facts["face"])


_WORDS: Final[Mapping[str, Callable[[Candidate, Scenario, Scenario, Limits], Words]]] = {
    "turn": _turn,
    "place": _place,
    "distance": _distance,
    "microphone": _microphone,
    "soft-behind": _soft_behind,
    "wardrobe": _wardrobe,
    "reflection": _reflection,
    "trap": _trap,
    "take-down": _take_down,
    "undrape": _undrape,
    "open-door": _open_door,
    "silence": _silence,
    "screen": _screen,
    "together": _together,
    "hour": _hour,
    "seal": _seal,
    "null": _null,
    "ask": _ask,
}


_SHORT: Final[Mapping[str, str]] = {
    "hush": "the noise stays {by:.0f} dB too loud ({leading})",
    "bounce": "the room stays {by:.0f} dB too loud around you",
    "dry": "it stays {by:.0f} dB drier than you want it",
    "dead": "the room fades {by:.1f} s sooner than you want it to",
    "boom": "the note near {note} hangs on {by:.1f} s too long",
}


def shortfall_words(short: Shortfall) -> str:
    """What stays missing whatever is offered, and what would help that is not offered already."""
    said = _SHORT[short.lack].format(
        by=short.by, leading=lower_first(short.leading), note=note_words(short.note_hz) if short.note_hz else ""
    )
    if short.lack == "boom":
        return f"Whatever of this is done, {said}: that takes about {short.wool_m3:.1f} m³ of thick wool in this room."
    others = ["another room"]
    if short.lack in ("dry", "dead"):
        others.append("fewer soft things in it")
    else:
        others = [
            *(["another hour"] if short.rests else []),
            *(["more money"] if short.money else []),
            *others,
            *([] if short.nearer else ["a nearer microphone"]),
        ]
    instead = " or ".join(", ".join(others).rsplit(", ", 1))
    return f"Whatever of this is done, {said}: only {instead} would do more."
