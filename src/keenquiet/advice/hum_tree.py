"""Where a hum or buzz comes from, one change at a time: questions, what to do, where each answer leads.

After every change the same ten seconds of silence: the hum went, or it stayed. Nothing here touches mains wiring.
"""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class Step:
    """ask : what is tried. do : how. went, stayed : where each outcome leads, a step's or an end's key."""

    key: str
    ask: str
    do: str
    went: str
    stayed: str


@dataclass(frozen=True)
class End:
    """cause : what it is. cure : what to do. caution : what not to."""

    key: str
    cause: str
    cure: str
    caution: str = ""


START: Final = "microphone"
STEPS: Final = (
    Step(
        "microphone",
        "Does it come through the air or through the wires?",
        "Unplug the microphone at the interface, leave the gain where it is, and record the silence again.",
        "air-or-cable",
        "battery",
    ),
    Step(
        "air-or-cable",
        "Is it the cable and what lies beside it?",
        "Plug in again. Lead the cable away from plugs, chargers and mains leads, cross them at right angles, then use "
        "another cable.",
        "end-cable",
        "lamp",
    ),
    Step(
        "lamp",
        "Is it a lamp or a dimmer?",
        "Switch every lamp in the room off at its switch; turn a dimmer fully up or fully off.",
        "end-dimmer",
        "pickup",
    ),
    Step(
        "pickup",
        "Does it change when the microphone or instrument turns?",
        "Turn it by a quarter and move it a metre from power supplies, screens and amplifiers.",
        "end-field",
        "room-machines",
    ),
    Step(
        "room-machines",
        "Is it a machine that you hear with your own ears?",
        "Switch off fridge, fan, computer and charger one by one: take a house round.",
        "end-machine",
        "end-building",
    ),
    Step(
        "battery",
        "Does it go when the laptop runs on its battery?",
        "Pull the laptop's charger out and record the silence again.",
        "charger",
        "second-device",
    ),
    Step(
        "charger",
        "Is it this charger?",
        "Plug it into another socket, on the same strip as everything else; then try another charger of the same kind.",
        "end-charger",
        "end-battery",
    ),
    Step(
        "second-device",
        "Is a second device joined to the chain?",
        "Unplug screen, monitors, amplifier, network and every other cable from laptop and interface, one at a time.",
        "end-loop",
        "strip",
    ),
    Step(
        "strip",
        "Does it go with everything on one strip?",
        "Plug all of the recording gear into one strip on one socket, and nothing else into it.",
        "end-strip",
        "end-wiring",
    ),
)
_EARTH: Final = "Never lift a safety earth: it is what keeps a fault from killing you."
ENDS: Final = (
    End("end-cable", "The cable or its way", "Keep it clear of mains leads, or replace it. Balanced cables help."),
    End("end-dimmer", "A dimmer or a lamp's supply", "Record with it off, or on a plain switch; use another lamp.",
        "A dimmer in the wall is an electrician's to change."),
    End("end-field", "A magnetic field", "Keep a metre from supplies, screens and amplifiers; turn the pickup."),
    End("end-machine", "A machine in the house", "Switch it off while recording, and put it on the list to put back."),
    End("end-building", "It comes with the building", "Pick an hour at which it rests, turn the microphone's null "
        "to it, or come nearer."),
    End("end-charger", "The charger", "Use another charger, or record on the battery.", _EARTH),
    End("end-battery", "Mains power reaches the laptop", "Record on the battery; charge between takes.", _EARTH),
    End("end-loop", "Two devices joined twice", "Leave the second one unplugged while recording, or put an isolating "
        "transformer for audio into the line between them.", _EARTH),
    End("end-strip", "Two sockets, two earths", "Keep everything on that one strip.",
        "Do not overload the strip. " + _EARTH),
    End("end-wiring", "The wiring of the house, or the gear itself", "Try the same gear in another house. If it is "
        "quiet there, call an electrician; if not, the gear needs repair.", _EARTH),
)  # fmt: skip


def hum_words(changes: list[tuple[str, float, float | None]]) -> str:
    """What went. changes : kind, pitch and change of each family, None where it went altogether."""
    gone = [f"{kind} at {f_hz:.0f} Hz" for kind, f_hz, change in changes if change is None or change < -6]
    if gone:
        return f"It went: {', '.join(gone)}. What you changed carries it."
    less = [
        f"{kind} at {f_hz:.0f} Hz by {-change:.0f} dB"
        for kind, f_hz, change in changes
        if change is not None and change < -2
    ]
    if less:
        return f"It is less: {', '.join(less)}. What you changed is part of it."
    if changes:
        return "It stayed: what you changed has nothing to do with it."
    return "There is no hum in the first of them."
