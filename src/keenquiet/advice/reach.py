"""Words of what is in reach: cables, the meter, the keys; open monitors; a second source in the null."""

from typing import Final

from keenquiet.core.judge.reach import Reach
from keenquiet.core.judge.second_source import OnSecond
from keenquiet.core.waves.howl import Howl

TRIP: Final = "Lay cables along the wall and tape them down where anybody walks; leave the way to the door free."
DESK: Final = (
    "On a desk, the microphone hears knocks and the desk's own return: a stand on the floor, a shock mount, "
    "a cloth on the desk."
)
OPEN_MONITORS: Final = "Monitors off, or the microphone muted, before you turn anything up: a howl hurts ears at once."
_LOUD_FAN: Final = 0.2
_WORTH_DB: Final = 1.0


def reach_words(found: Reach, *, mic_cable_m: float, phones_cable_m: float) -> list[str]:
    """What is out of reach first; one line when all is well."""
    said = []
    if found.mic_short_m > 0:
        said.append(
            f"The microphone's cable needs {found.mic_cable_m:.1f} m along the floor; yours of {mic_cable_m:.1f} m "
            f"is {found.mic_short_m * 100:.0f} cm short."
        )
    if found.phones_short_m > 0:
        said.append(
            f"The headphones hang {found.phones_short_m * 100:.0f} cm short of your head "
            f"with {phones_cable_m:.1f} m of cable."
        )
    if not found.in_sight:
        said.append(
            f"The meter is {found.sight_deg:.0f}° from where you look; within 30° you see it without turning away "
            "from the microphone."
        )
    if found.walk_m > 0:
        said.append(
            f"It is {found.walk_m:.1f} m to the keys: start the recording, walk, stand still, count to three; a remote "
            "key saves the walk."
        )
    if found.fan is not None and found.fan_share is not None:
        share = f"{found.fan} makes {found.fan_share * 100:.0f} % of the noise at the microphone"
        loud = "move it away or behind something soft" if found.fan_share > _LOUD_FAN else "moving it wins little"
        said.append(f"{share}: {loud}.")
    return said or ["Cables reach, the meter is in sight, the keys are at hand."]


def howl_words(found: Howl) -> str:
    """How loud monitors may be with the microphone open."""
    quiet = found.loudest_db - found.live_db
    limit = f"With the microphone open the monitors may bring at most {found.loudest_db:.0f} dB of you at the chair"
    if found.may_be_open:
        return f"{limit}, {quiet:.0f} dB over your own sound there; above that they may howl."
    under = f"{limit}, {-quiet:.0f} dB under your own sound there, or they may howl"
    return f"{under}: listen with headphones while you record."


def second_words(best: OnSecond | None) -> str:
    """What the best null on the other source buys."""
    if best is None:
        return "Both lie in one line from the microphone: no null tells them apart; put it aside, or nearer."
    if best.apart_db - best.apart_now_db < _WORTH_DB:
        return "No null on it wins a decibel here: the room brings it back, or you would lie aside, too."
    kept = f"you lose {-best.kept_db:.1f} dB" if best.kept_db < -0.3 else "you lose nothing"
    return (
        f"A {best.pattern} with its null on it has you {best.apart_db:.0f} dB over it, "
        f"aimed as now {best.apart_now_db:.0f} dB; {kept}."
    )
