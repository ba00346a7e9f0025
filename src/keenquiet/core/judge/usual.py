"""How far from a microphone each performer usually stands: where practice begins, before a room has its say.

Our readings of what recordists do, not measurements: a condenser hears a whole instrument from about its own length
away, a dynamic is used close. Brass bells are loud and throw straight: a condenser stands a metre or two off.
"""

from typing import Final

Range = tuple[float, float]  # [m]
_MOUTH: Final = ((0.15, 0.30), (0.03, 0.10))
_BRASS: Final = ((1.0, 2.0), (0.15, 0.30))
_BLOWN: Final = ((0.30, 0.80), (0.10, 0.25))
_BOWED: Final = ((0.40, 1.00), (0.15, 0.30))
_PLUCKED: Final = ((0.20, 0.50), (0.08, 0.15))
_BIG: Final = ((0.60, 1.50), (0.10, 0.30))
_AMPLIFIER: Final = ((0.20, 0.60), (0.02, 0.10))
_FAMILY: Final = {
    **dict.fromkeys(("voice-soft", "voice-spoken", "voice-sung", "voice-loud"), _MOUTH),
    **dict.fromkeys(("brass", "trumpet", "bagpipe"), _BRASS),
    **dict.fromkeys(("flute", "reeds", "clarinet", "saxophone"), _BLOWN),
    **dict.fromkeys(("cello", "strings-bowed", "violin", "viola", "double-bass", "hurdy-gurdy"), _BOWED),
    **dict.fromkeys(("guitar", "strings-plucked", "ukulele", "mandolin", "banjo"), _PLUCKED),
    **dict.fromkeys(("piano", "accordion", "harp", "drums", "hand-drum", "choir-small"), _BIG),
    "amplifier-small": _AMPLIFIER,
}


def usual_m(source: str, *, dynamic: bool = False) -> Range:
    """From and to, for a condenser or ribbon, or a dynamic microphone; unknown sources as blown instruments. [m]"""
    return _FAMILY.get(source, _BLOWN)[dynamic]


def usual_middle_m(source: str, *, dynamic: bool = False) -> float:
    """The middle of that, by ratio. [m]"""
    near, far = usual_m(source, dynamic=dynamic)
    return (near * far) ** 0.5
