"""What helps against a finding in a take, and against a noise in a silence: in the room or at the microphone first."""

from collections.abc import Mapping
from typing import Final

from keenquiet.advice.reasons import WORDS
from keenquiet.core.read.noises import Noise
from keenquiet.core.take.finding import Finding

FINDING_CURES: Final[Mapping[str, str]] = {
    "clipped": "Turn the gain down, or step back for the loud notes; a cut peak cannot be mended.",
    "flat_top": "Something before the recorder is overdriven: turn the preamplifier down, use its pad.",
    "too_quiet": "Turn the gain up until loud notes peak between -12 and -6 dBFS.",
    "dead_channel": WORDS["dead_channel"][1],
    "dc": WORDS["dc_offset"][1],
    "pop": "Aim past the mouth or a hand's width off its line, move back a little, or set a pop screen between.",
    "hum": "A hum at {f_hz:.0f} Hz: switch off what hums, turn the microphone's back to it.",
    "dropout": "The computer lost {value:.0f} ms: close other programs, use a larger buffer, play that line again.",
    "click": "A click: check cables and plugs, and a second device's clock; a single one can be drawn out later.",
    "ess": "Aim past the mouth or lower; later, tame it by about {value:.0f} dB: more than 8 dB makes a lisp.",
    "tone": "A tone at {f_hz:.0f} Hz: a charger, a screen or a lamp; switch them off one by one.",
    "hiss": "Come nearer and turn the gain down; what stays is the recorder's own.",
    "rumble": "Stand the stand on something soft, use the low cut, wait for a quieter hour.",
    "noise": "Something passed, {value:.0f} dB over the room's own: play that line again, or wait for a quieter hour.",
    "roomy": "The room fades in {value:.1f} s behind you: come nearer, or hang something soft behind you.",
    "creep": "{value:+.0f} dB over the take: you came nearer or sang louder. Mark your feet, watch the level.",
    "drift": "{value:+.0f} dB with the bass: you came nearer, or went back. Mark your feet, and keep a hand's width.",
    "jump": "{value:+.0f} dB from one line to the next: the gain was turned, or you stepped. Use one gain.",
    "seam": "The room tone steps by {value:.0f} dB: a cut. Record room tone with each take, and crossfade.",
    "polarity": "One channel is turned over: {value:.0f} dB are lost in mono. Turn its polarity round.",
    "delay": "The second channel comes {value:.1f} ms later: move its microphone, or shift it back.",
}
FINDING_NAMES: Final[Mapping[str, str]] = {
    "clipped": "Cut at full scale",
    "flat_top": "Tops cut flat",
    "too_quiet": "Too quiet",
    "dead_channel": "One channel dead",
    "dc": "Shifted wave",
    "pop": "Pop",
    "hum": "Hum",
    "dropout": "A lost moment",
    "click": "Click",
    "ess": "Sharp ess",
    "tone": "A steady tone",
    "hiss": "Hiss",
    "rumble": "Rumble",
    "noise": "Something passes",
    "roomy": "The room is heard",
    "creep": "The level creeps",
    "drift": "You moved",
    "jump": "The level jumps",
    "seam": "A cut is heard",
    "polarity": "One channel turned over",
    "delay": "One channel late",
}
VERDICTS: Final[Mapping[str, str]] = {
    "keep": "Keep it.",
    "parts": "Keep parts of it: play again the lines that cannot be mended.",
    "again": "Play it again: too much of it cannot be mended.",
}
NOISE_CURES: Final[Mapping[str, str]] = {
    "hum": "Find what hums: switch off one thing after another. Wiring and a hum that stays with the cable out are an "
    "electrician's business; never lift a safety earth.",
    "fan": "Switch the fan off while recording, or set it on something soft and turn the microphone's back to it.",
    "whine": "A screen, a charger or a lamp: switch them off one by one.",
    "rumble": "It comes through the house: stand the microphone on something soft, use its low cut, wait for a quieter "
    "hour.",
    "hiss": "Mostly the recorder's own: come nearer and turn the gain down.",
}


def finding_cure(finding: Finding) -> str:
    """What to do about a finding."""
    return FINDING_CURES[finding.kind].format(f_hz=finding.f_hz or 0.0, value=finding.value)


def noise_cure(noise: Noise) -> str:
    """What to do about a noise."""
    return NOISE_CURES[noise.kind]
