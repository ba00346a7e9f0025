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
}
FINDING_NAMES: Final[Mapping[str, str]] = {
    "clipped": "Cut at full scale",
    "flat_top": "Tops cut flat",
    "too_quiet": "Too quiet",
    "dead_channel": "One channel dead",
    "dc": "Shifted wave",
    "pop": "Pop",
    "hum": "Hum",
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
    return FINDING_CURES[finding.kind].format(f_hz=finding.f_hz or 0.0)


def noise_cure(noise: Noise) -> str:
    """What to do about a noise."""
    return NOISE_CURES[noise.kind]
