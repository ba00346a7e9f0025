"""Where wanted values come from, and why they are what they are: a standard, a paper, or practice."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class Source:
    """name : the standard, the paper, or practice. why : what stands behind the figure, for somebody who asks."""

    name: str
    why: str


SOURCES: Final[Mapping[str, Source]] = {
    "ringing": Source(
        "Fazenda, Stephenson, Goldberg, J. Acoust. Soc. Am. 137 (2015)",
        "Listeners begin to hear a low note as ringing when it hangs for about 0.3 s near 125 Hz; shorter is not heard "
        "apart from the note itself.",
    ),
    "practice-direct": Source(
        "practice",
        "Where the direct sound stands 15 dB over the room, the "
        "room stays behind the voice even after the mix squeezes "
        "it by 10 dB. Livelier music wants the room to answer: 5 to 12 dB.",
    ),
    "practice-early": Source(
        "practice",
        "A single return less than about 20 dB below the voice colours it: it adds a comb of dips that no equaliser "
        "takes out. Listening rooms ask for 10 dB (EBU Tech 3276).",
    ),
    "practice-decay": Source(
        "practice",
        "Rooms of 15 to 40 cubic metres in which voices are recorded dry fade in 0.1 to 0.2 s in the middle; 0.3 to "
        "0.5 s leaves brass and ensembles their bloom.",
    ),
    "practice-noise": Source(
        "practice",
        "Noise 50 dB under the performance is not heard behind it, also after compression lifts the pauses by 10 dB.",
    ),
    "practice-levels": Source(
        "practice",
        "At 24 bits, peaks of -12 to -6 dBFS and an average near -18 dBFS leave room for the one louder note and stay "
        "far above the converter's own noise.",
    ),
}
