"""Words for distance, places, aim and listening."""

from collections.abc import Mapping, Sequence
from typing import Final

from keenquiet.core.judge.aim import Null, gathered_from_front
from keenquiet.core.judge.distance_curve import DistanceCurve, Limit
from keenquiet.core.judge.forecast import Forecast
from keenquiet.core.judge.listening import CHAIR_HZ, Found, ListeningPlace, Triangle
from keenquiet.core.judge.spots import Spot

_LIMITS: Final[Mapping[str, str]] = {
    "puff": "nearer, a spoken p pushes on the capsule",
    "sway": "nearer, 5 cm of sway changes the level by more than 3 dB",
    "loud": "nearer, loud notes pass the 120 dB that a common microphone takes without a pad",
    "lift": "nearer, closeness lifts the low notes by more than 6 dB",
    "dry": "nearer, it is drier than wanted",
    "room": "further, more of the room comes in than wanted",
    "noise": "further, the noise lies too close under you",
}
_AIM: Final[Mapping[str, str]] = {
    "voice": "Aim at the lower lip from a little above or aside; the puff goes straight ahead.",
    "flute": "Aim at the middle of the tube from above; the stream of air leaves at the lip.",
    "reeds": "Aim at the keys between bell and mouthpiece; the bell alone is thin and loud.",
    "brass": "Aim past the bell's rim by a hand's width or two; straight into it the highest partials are harsh.",
    "trumpet": "Aim past the bell's rim by a hand's width or two; straight into it the highest partials are harsh.",
    "cello": "Aim at the strings a hand above the bridge; the f-holes alone boom.",
    "strings-bowed": "Aim at the strings a hand above the bridge; the f-holes alone boom.",
    "guitar": "Aim where the neck meets the body; the hole alone booms, the bridge alone is dull.",
    "strings-plucked": "Aim where the strings are plucked, off any hole; the hole alone booms.",
    **dict.fromkeys(
        ("violin", "viola"), "Aim at the top from above, past the player's left hand; straight down is scratchy."
    ),
    "double-bass": "Aim at the strings a hand above the bridge, a little to the high side; the f-holes alone boom.",
    "piano": "Lid up: aim over the rim at where the hammers strike; upright: over the open top, not at the back.",
    "accordion": "Aim between both sides from a step away; one side alone loses the other hand.",
    "clarinet": "Aim at the keys between bell and mouthpiece; the bell alone is thin and loud.",
    "saxophone": "Aim at the keys above the bell; straight into the bell it is loud and nasal.",
    "harp": "Aim at the middle of the sounding board from the side of the longer strings.",
    "ukulele": "Aim where the neck meets the body; the hole alone booms, the bridge alone is dull.",
    "mandolin": "Aim where the neck meets the body; the holes alone boom, the bridge alone is dull.",
    "banjo": "Aim at the head half way to its rim; the bridge alone is sharp.",
    "drums": "One microphone: over the player's right shoulder, at the snare, a stick's length above the cymbals.",
    "hand-drum": "Aim at the head half way to its rim, a hand's width off the stroke; underneath it booms.",
    "bagpipe": "Aim at the chanter's holes from a step away; near a drone's end only that drone is heard.",
    "choir-small": "Stand them in an arc, all as far from the microphone; aim at the middle, a little from above.",
    "hurdy-gurdy": "Aim at the wheel cover from the front; the keys click, the crank side drones.",
    "amplifier-small": "Aim between the middle of the cone and its rim; the middle is brightest.",
}


def limit_words(limit: Limit) -> str:
    """Why a span ends."""
    return _LIMITS[limit.why]


def distance_sentence(curve: DistanceCurve, here_m: float) -> str:
    """The curve in a sentence: the span, or what cannot be had together."""
    span = curve.span
    if span is None:
        return "No microphone can stand in front of the performer here: turn, or step away from what is in the way."
    ends = {limit.end: limit_words(limit) for limit in span.limits}
    if not span.meets:
        both = " and ".join(ends[end] for end in ("near", "far") if end in ends)
        return f"No distance gives all that is wanted; least is lacking at {_cm(span.from_m)}: {both}."
    where = "inside it" if span.from_m - 0.005 <= here_m <= span.to_m + 0.005 else f"at {_cm(here_m)}"
    said = f"From {_cm(span.from_m)} to {_cm(span.to_m)} all is as wanted; you are {where}."
    return said + "".join(f" {words[:1].upper()}{words[1:]}." for words in ends.values())


def usual_sentence(usual_m: tuple[float, float]) -> str:
    """Where practice puts such a microphone, to go after the span."""
    return f" Usual: {_cm(usual_m[0])} to {_cm(usual_m[1])}."


def spot_reasons(spot: Spot, now: Forecast) -> list[str]:
    """Why a place is better than where the performer stands, strongest first."""
    then = spot.result
    bounce = then.bounce.direct_over_room_db.value - now.bounce.direct_over_room_db.value
    hush = then.hush.under_performance_db.value - now.hush.under_performance_db.value
    ring = then.boom.ring_s.value - now.boom.ring_s.value
    said: list[tuple[float, str]] = []
    if abs(bounce) >= 0.5:
        far = f"{abs(bounce):.1f} dB {'more' if bounce > 0 else 'less'}"
        said.append((bounce / 3, f"You lie {far} over the room."))
    if abs(ring) >= 0.03:
        said.append((-ring / 0.15, f"The longest note rings {abs(ring):.2f} s {'less' if ring < 0 else 'more'}."))
    if now.hush.known and abs(hush) >= 0.5:
        said.append((hush / 3, f"Noise lies {abs(hush):.1f} dB {'further' if hush > 0 else 'less'} under you."))
    if not said:
        return ["As good as where you stand, within what can be told."]
    return [words for _, words in sorted(said, key=lambda pair: -pair[0])]


_WAYS: Final = ("right", "upper right", "top", "upper left", "left", "lower left", "bottom", "lower right")


def way_words(faces_deg: float) -> str:
    """Which way that is on the drawing."""
    return f"the {_WAYS[round(faces_deg / 45) % 8]} of the drawing"


def map_sentence(spots: Sequence[Spot], here: float | None, clear_m: float) -> str:
    """The map in words."""
    if not spots:
        return "Nobody can stand here with a microphone at this distance: bring it nearer, or clear the floor."
    close = "" if clear_m >= 0.3 else f" It is so narrow that the stand is {_cm(clear_m)} off the walls."
    best = spots[0]
    if here is not None and best.lacks >= here - 0.05:
        return f"You stand as well as anywhere here: no place is plainly better.{close}"
    (x, y, _), way = best.arrangement.performer.at, way_words(best.arrangement.performer.faces_deg)
    return f"Best: {x:.2f} m from the left, {y:.2f} m from the bottom of the drawing, facing {way}.{close}"


def null_words(null: Null) -> str:
    """What turning the null is worth, honestly."""
    if null.left_deg > 10:
        return (
            f"The null cannot look at {null.noise} while you are heard: {null.left_deg:.0f}° are left between them. "
            "Stand so that it lies behind or beside the microphone."
        )
    if null.under_db < 0.5:
        lost = f", and loses {-null.under_db:.1f} dB" if null.under_db < -0.1 else ""
        return (
            f"Turning the null to {null.noise} wins nothing here{lost}: most of it reaches the microphone off the "
            "walls, from everywhere."
        )
    return (
        f"The null on {null.noise} puts it {null.under_db:.1f} dB further under you, for {abs(null.level_db):.1f} dB "
        "of your own level."
    )


def front_words(pattern: str, a: float) -> str:
    """Where a pattern gathers the room from, and so which wall to soften."""
    share = gathered_from_front(a)
    if pattern == "omni":
        return "An omni gathers the room from all round alike: no single wall matters more, the nearest bare one first."
    if pattern == "figure-8":
        return "A figure-8 gathers as much from behind it as from its front: soften what it looks at on both sides."
    return (
        f"A {pattern} gathers {share:.0%} of the room from the half it looks into, which is behind you: "
        "that side is the one to soften."
    ).replace("%", " %")


def aim_words(source: str) -> str:
    """Where to aim on this instrument."""
    return _AIM.get("voice" if source.startswith("voice") else source, "Aim at its middle from a little aside.")


def triangle_words(triangle: Triangle, volume_m3: float) -> list[str]:
    """What is out of place in a listening triangle; empty where nothing is."""
    said = ["A monitor stands behind the chair: turn the chair round."] if triangle.is_behind else []
    if len(triangle.sides_m) > 1 and abs(triangle.sides_m[0] - triangle.sides_m[1]) > 0.05:
        said.append(f"One monitor is {_cm(abs(triangle.sides_m[0] - triangle.sides_m[1]))} nearer: the middle leans.")
    if triangle.angle_deg is not None and not 50 <= triangle.angle_deg <= 70:
        said.append(f"They span {triangle.angle_deg:.0f}° at the chair; about 60° is usual.")
    if max(triangle.toe_in_deg, default=0) > 20:
        said.append(f"A monitor looks {max(triangle.toe_in_deg):.0f}° past the chair: turn it in.")
    if max((abs(high) for high in triangle.above_ears_m), default=0) > 0.15:
        said.append("The monitors are not at ear height: lift or tilt them.")
    if max(triangle.sides_m, default=0) > 1.6 and volume_m3 < 40:
        said.append("At more than 1.6 m a small room is heard more than the monitors: come nearer.")
    return said


def listening_sentence(place: ListeningPlace | None, best: Found | None, wall: str, *, searched: bool) -> str:
    """The listening place in a sentence."""
    if place is None and not searched:
        return "No monitors and chair stand here: put them in, or search for their place."
    if place is None:
        if best is None:
            return "There is no room here for monitors and a chair with free places: listen with headphones."
        return f"Nothing stands here to listen with; the best place looks at {wall}: {best.swing_db:.0f} dB of swing."
    low, high = CHAIR_HZ
    said = f"Between {low:.0f} and {high:.0f} Hz the chair hears {place.swing_db:.0f} dB of swing."
    if best is None:
        return said
    wins = place.objective_db - best.objective_db
    return said + (
        f" Looking at {wall} it would be {best.swing_db:.0f} dB."
        if wins > 1
        else " No other free place is plainly better."
    )


def _cm(metres: float) -> str:
    return f"{metres * 100:.0f} cm" if metres < 1 else f"{metres:.2f} m"
