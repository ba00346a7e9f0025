"""Who performs: level at 1 m and directivity by octave, and the lowest note.

Levels are sound pressure in dB re 20 uPa at 1 m on the axis, free field. Speech follows ANSI S3.5-1997 table 1
(octave speech spectra, normal and loud effort), extended to 63 and 125 Hz. The others are rounded from ranges in
J. Meyer, Acoustics and the Performance of Music; treat them as +-5 dB (where he gives the power of a family only, a
member's level is our estimate from it). Directivity indices of the voice are rounded
from W. Chu, A. Warnock, NRC Canada IRC-RR-104 (2002); the others are our estimates from radiating size.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, sum_db
from keenquiet.core.errors import InputError
from keenquiet.core.types import FloatArray


@dataclass(frozen=True)
class Source:
    """One kind of performer.

    level_db : (8,) by octave at 1 m on the axis. [dB re 20 uPa]
    directivity_index_db : (8,) by octave. [dB]
    lowest_hz : fundamental of the lowest note usually played. [Hz]
    """

    key: str
    name: str
    level_db: tuple[float, ...]
    directivity_index_db: tuple[float, ...]
    lowest_hz: float

    @property
    def level_dba(self) -> float:
        """A-weighted level at 1 m. [dB re 20 uPa]"""
        return float(sum_db(np.array(self.level_db) + A_WEIGHTING_OCTAVES_DB))

    def gain(self, cos_angle: FloatArray) -> FloatArray:
        """Pressure gain off the axis relative to the axis, (..., 8) for cos_angle (...). [-]

        A first-order pattern b + (1-b) cos with the given directivity index, floored at -20 dB: heads and bodies
        diffract.
        Above the 4.8 dB that this family reaches on the branch 1 > b > 0.5, the cardioid is raised to a power.
        """
        index = np.array(self.directivity_index_db)
        b, power = _pattern_for_index(index)
        shape = np.maximum(b + (1 - b) * np.asarray(cos_angle)[..., None], 0.0) ** power
        gain: FloatArray = np.maximum(shape, 0.1)
        return gain


def _pattern_for_index(index_db: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Pressure part and exponent that give this directivity index on axis.

    1/Q = b^2 + (1-b)^2/3 up to Q = 3 (b = 0.5). Beyond, (0.5 + 0.5 cos)^p has Q = 2p + 1.
    """
    q = 10 ** (index_db / 10)
    inside = np.clip(1 / q, 1 / 3, 1.0)
    b = 0.25 + np.sqrt(np.maximum(0.0625 - (1 / 3 - inside) * 0.75, 0.0))
    return np.where(q > 3, 0.5, np.maximum(b, 0.5)), np.where(q > 3, (q - 1) / 2, 1.0)


_SPEECH_DI = (0.3, 0.8, 1.6, 2.4, 2.8, 3.8, 4.6, 5.4)
_ALL: Final = (
    Source("omni", "Even source", (70.0,) * 8, (0.0,) * 8, 40),
    Source("voice-soft", "Soft voice", (35, 44, 52, 54, 45, 40, 36, 32), _SPEECH_DI, 98),
    Source("voice-spoken", "Spoken voice", (40, 50, 57.2, 59.8, 53.5, 48.8, 43.8, 38.6), _SPEECH_DI, 98),
    Source("voice-sung", "Sung voice", (42, 55, 66, 71, 68, 63, 57, 50), _SPEECH_DI, 165),
    Source("voice-loud", "Loud voice", (42, 58, 66.5, 74, 71.5, 66.5, 58.8, 51.3), _SPEECH_DI, 98),
    Source("flute", "Flute", (30, 40, 66, 72, 70, 66, 58, 50), (0, 0.3, 0.8, 1.5, 2, 2.5, 3.5, 4.5), 262),
    Source("reeds", "Reeds", (40, 62, 71, 73, 70, 65, 58, 50), (0, 0.3, 0.8, 1.5, 2.5, 3.5, 5, 6), 147),
    Source("brass", "Brass", (45, 68, 80, 84, 82, 78, 71, 62), (0, 0.5, 1, 2.5, 4.5, 6.5, 8.5, 10), 82),
    # single instruments of those families: the same radiation, their own lowest note (J. Meyer, tables of ranges)
    Source("trumpet", "Trumpet", (40, 60, 76, 84, 84, 81, 75, 66), (0, 0.3, 0.8, 2, 4, 6.5, 8.5, 10), 165),
    Source("cello", "Cello", (46, 64, 70, 69, 64, 59, 53, 46), (0, 0.5, 1, 1.8, 2.2, 2.6, 3, 3.5), 65),
    Source("guitar", "Guitar", (40, 60, 66, 62, 57, 52, 46, 38), (0, 0.5, 1, 1.8, 2.2, 2.6, 3, 3.5), 82),
    Source("strings-bowed", "Bowed strings", (40, 55, 68, 70, 67, 63, 57, 50), (0, 0.3, 0.8, 1.5, 2, 2.5, 3, 3.5), 98),
    Source(
        "strings-plucked", "Plucked strings", (45, 62, 66, 62, 57, 52, 46, 38), (0, 0.5, 1, 1.8, 2.2, 2.6, 3, 3.5), 82
    ),
    Source("violin", "Violin", (30, 45, 66, 69, 67, 63, 57, 50), (0, 0.3, 0.8, 1.5, 2, 2.5, 3, 3.5), 196),
    Source("viola", "Viola", (34, 54, 67, 68, 64, 59, 53, 46), (0, 0.3, 0.8, 1.5, 2, 2.5, 3, 3.5), 131),
    Source("double-bass", "Double bass", (66, 73, 71, 66, 60, 54, 47, 40), (0, 0.7, 1.3, 2, 2.4, 2.8, 3.2, 3.6), 41),
    Source("piano", "Piano", (62, 70, 74, 74, 70, 64, 57, 48), (0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5), 28),
    Source("accordion", "Accordion", (50, 66, 73, 75, 73, 69, 62, 53), (0, 0.3, 0.8, 1.5, 2, 2.5, 3, 3.5), 65),
    Source("clarinet", "Clarinet", (40, 58, 71, 73, 70, 65, 58, 50), (0, 0.3, 0.8, 1.5, 2.5, 3.5, 5, 6), 147),
    Source("saxophone", "Saxophone", (42, 66, 76, 79, 77, 72, 65, 56), (0, 0.4, 1, 2, 3, 4, 5.5, 7), 104),
    Source("harp", "Harp", (55, 64, 66, 64, 59, 53, 46, 38), (0, 0.3, 0.8, 1.2, 1.6, 2, 2.5, 3), 31),
    Source("ukulele", "Ukulele", (25, 40, 60, 60, 56, 51, 45, 37), (0, 0.3, 0.8, 1.5, 2, 2.5, 3, 3.5), 262),
    Source("mandolin", "Mandolin", (28, 46, 63, 65, 62, 58, 52, 44), (0, 0.3, 0.8, 1.5, 2, 2.5, 3, 3.5), 196),
    Source("banjo", "Banjo", (30, 55, 68, 71, 69, 65, 58, 50), (0, 0.4, 1, 1.8, 2.6, 3.2, 4, 4.6), 131),
    Source("drums", "Drum kit", (82, 86, 87, 87, 86, 84, 81, 76), (0, 0.3, 0.8, 1.2, 1.8, 2.4, 3, 3.5), 50),
    Source("hand-drum", "Hand drum", (66, 75, 76, 73, 70, 66, 60, 52), (0, 0.5, 1, 1.8, 2.4, 3, 3.5, 4), 80),
    Source("bagpipe", "Bagpipe", (50, 72, 80, 86, 88, 87, 80, 70), (0, 0.3, 0.8, 1.2, 1.8, 2.4, 3, 3.5), 117),
    Source("choir-small", "Small choir", (48, 61, 72, 77, 74, 69, 63, 56), _SPEECH_DI, 82),
    Source("hurdy-gurdy", "Hurdy-gurdy", (40, 58, 68, 71, 70, 67, 61, 53), (0, 0.4, 0.9, 1.6, 2.2, 2.8, 3.5, 4.2), 98),
    Source("amplifier-small", "Small amplifier", (62, 74, 78, 78, 77, 75, 68, 55), (0, 1, 2.2, 3.8, 5, 6.5, 8, 9), 82),
    # The loudspeaker that plays the sweep in place of the performer: a small box, as most homes have.
    Source(
        "loudspeaker-small",
        "Small loudspeaker",
        (58, 70, 75, 75, 75, 75, 75, 72),
        (0, 0.4, 1.2, 2.2, 3.8, 5.2, 6.5, 8),
        60,
    ),
)
SOURCES: Final = {source.key: source for source in _ALL}


def source_named(key: str) -> Source:
    """A source by key. Raises InputError for an unknown key."""
    if key not in SOURCES:
        raise InputError("performer.source", f"{key!r} is not a known source.", f"Use one of {', '.join(SOURCES)}.")
    return SOURCES[key]
