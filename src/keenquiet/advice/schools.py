"""Two schools in words: what each side says, what both give here, and who is right in this room."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from keenquiet.advice.surfaces import note_words
from keenquiet.core.judge.schools import School

_HUNG: Final = (
    "{bounce_db:+.1f} dB over the room, the longest note {ring_s:+.2f} s, 4 kHz fades in {treble:.0%} of 500 Hz's time."
)
_BOUGHT: Final = "{pieces:.0f} of them, {kg:.0f} kg: " + _HUNG
_USUAL: Final = (
    "As usual, {distance_m:.2f} m off: {bounce_db:.1f} dB over the room; its own hiss {own_db:.0f} dB under you, "
    "with the room's noise {under_db:.0f} dB."
)
# of each quarrel: the question, and each side's name with what it gives here
_TEXTS: Final[Mapping[str, tuple[str, Mapping[str, tuple[str, str]]]]] = {
    "dry-or-room": (
        "Dry, or with some room?",
        {
            "dry-voice": ("Dry", "{bounce_db:.1f} dB over the room; dry and close asks for 15 dB and more."),
            "some-room": ("Some room", "{bounce_db:.1f} dB over the room; a little room asks for 10 to 18 dB."),
        },
    ),
    "corner": (
        "Back to the corner, facing it, or the middle?",
        {
            side: (name, "{bounce_db:.1f} dB over the room, the longest note rings {ring_s:.2f} s.")
            for side, name in (("back-to-it", "Back to it"), ("facing-it", "Facing it"), ("middle", "The middle"))
        },
    ),
    "closet": (
        "The small place, or the room?",
        {
            side: (name, "{bounce_db:.1f} dB over the room, longest note {ring_s:.2f} s, noise {hush_db:.0f} dB under.")
            for side, name in (("closet", "The small place"), ("room", "The room"))
        },
    ),
    "distance": (
        "Closer, or further away?",
        {
            side: (name, "At {distance_m:.2f} m {bounce_db:.1f} dB over the room, noise {hush_db:.0f} dB under you.")
            for side, name in (("closer", "Closer"), ("further", "Further"))
        },
    ),
    "capsule": (
        "Condenser, or dynamic?",
        {side: (name, _USUAL) for side, name in (("condenser", "Condenser"), ("dynamic", "Dynamic"))},
    ),
    "lift": (
        "Bass lift: friend or enemy here?",
        {
            "friend": ("Friend", "Its lowest note, {note}, is lifted {here_db:.1f} dB here."),
            "enemy": ("Enemy", "At a hand's width it is {hand_db:.1f} dB; the longest note rings {ring_s:.2f} s."),
        },
    ),
    "breath": (
        "Straight on with a screen, or past it?",
        {
            "straight": ("With a screen", "Push of a p {puff:.2f} of a hand's width straight on; treble as it is."),
            "aside": ("30° past it", "Push of a p {puff:.2f}; treble {treble_db:+.1f} dB."),
        },
    ),
    "screen": (
        "Screen on the capsule, or off it?",
        {
            "on": ("On it", "Leaves {puff:.2f} of the push; bare it is {bare:.2f}."),
            "off": ("15 cm off", "Leaves {puff:.2f} of the push; bare it is {bare:.2f}."),
        },
    ),
    "shield": (
        "A shield round the microphone, or cloth behind you?",
        {
            "shield": ("Shield", "Wins {bounce_db:+.1f} dB over the room; colours by {colour_db:.1f} dB."),
            "cloth": ("Cloth behind you", "Wins {bounce_db:+.1f} dB over the room; colours by {colour_db:.1f} dB."),
        },
    ),
    "loud": (
        "A loud note: step back, turn, or tilt?",
        {
            side: (name, "Level {level_db:+.1f}, bass {bass_db:+.1f}, treble {treble_db:+.1f} dB.")
            for side, name in (("turn", "Turn 45°"), ("tilt", "Tilt it 45°"), ("step-back", "Twice as far"))
        },
    ),
    "foam": (
        "Thin foam over much of the wall, or thick in few places, for the same money?",
        {"foam": ("Foam, 2.5 cm", _BOUGHT), "thick": ("Frames of 10 cm", _BOUGHT)},
    ),
    "thickness": (
        "More thin frames, or fewer thick ones, for the same money?",
        {"thin": ("Frames of 5 cm", _BOUGHT), "thick": ("Frames of 15 cm", _BOUGHT)},
    ),
    "first": (
        "Corners first, or first returns?",
        {"corners": ("Two thick ones in the best corner", _HUNG), "returns": ("One at the best return", _HUNG)},
    ),
    "around": (
        "Treat the room, or screen the microphone?",
        {"room": ("Two frames on the walls", _HUNG), "screen": ("An arc behind the microphone", _HUNG)},
    ),
    "duvets": (
        "A box round the head, a duvet on stands, or a booth?",
        {
            "box": ("The box", _HUNG + " Warm, stale, and one sings louder in it."),
            "t": ("A duvet behind you", _HUNG),
            "booth": ("Duvets all round", _HUNG + " Leave a way out, and air."),
        },
    ),
    "cartons": (
        "Egg cartons, or nothing?",
        {
            "cartons": ("Egg cartons", _HUNG + " They burn fiercely: not near anything warm, not on a way out."),
            "nothing": ("Nothing", "The wall stays as it is."),
        },
    ),
    "ears": (
        "Monitors, or headphones?",
        {
            "monitors": ("Monitors", "The chair hears {swing_db:.0f} dB of swing in the lows."),
            "headphones": ("Headphones", "No room at all, and no bleed when closed; keep them low, ears tire."),
        },
    ),
    "size": (
        "Big monitors, or small?",
        {
            side: (name, "Down to {low_hz:.0f} Hz the chair hears {swing_db:.0f} dB of swing.")
            for side, name in (("big", "Big"), ("small", "Small"))
        },
    ),
}


@dataclass(frozen=True)
class SchoolWords:
    """question, each side's key, name and figures here, and who is right."""

    question: str
    sides: tuple[tuple[str, str, str], ...]
    verdict: str


def school_words(school: School, names: Mapping[str, str] | None = None) -> SchoolWords:
    """A quarrel as a card. names : of sides, where they have names of their own."""
    question, told = _TEXTS[school.key]
    texts = {side: ((names or {}).get(side, name), gives) for side, (name, gives) in told.items()}
    sides = []
    for side in school.sides:
        facts = dict(school.facts[side])
        words = texts[side][1].format(**facts, note=note_words(facts["lowest_hz"]) if "lowest_hz" in facts else "")
        sides.append(
            (
                side,
                texts[side][0],
                words.replace(" -0.0", " 0.0").replace(" +0.0", " 0.0").replace(" -", " −").replace("%", " %"),
            )
        )
    if school.winner is None:
        verdict = "Too close to call here."
    else:
        won = texts[school.winner][0]
        verdict = f"Here: {won if names else won[:1].lower() + won[1:]}."
    return SchoolWords(question, tuple(sides), verdict)
