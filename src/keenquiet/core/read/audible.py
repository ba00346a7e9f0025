"""What a noise means for the recording: how far under the performance it lies now, squeezed and layered, and in which
pitch it is heard under which phrase.

A band of noise goes unheard under a phrase when it lies 16 dB or more below what the phrase excites there. A phrase
excites its own band, and higher ones 9 dB less for each third: upward spread of masking at moderate levels (E. Zwicker,
H. Fastl, Psychoacoustics, chapter 4; 16 dB lies between noise masked by noise, 4 dB, and by tones, 24 dB: our choice).
"""

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np

from keenquiet.core.bands import A_WEIGHTING_OCTAVES_DB, a_weighting_db, at_frequencies, exact_thirds_hz, sum_db
from keenquiet.core.types import FloatArray

SQUEEZE_DB: Final = 10.0  # what compression usually lifts pauses by
TREBLE_DB: Final = 6.0  # a shelf from 4 kHz on
QUIET_PHRASE_DB: Final = 12.0  # under the usual level
_MASKED_DB: Final = 16.0
_SPREAD_DB: Final = 9.0  # a third upwards
_LISTENING_DBA: Final = 70.0  # a performance played back in a quiet living room (our estimate)
# Threshold of hearing in quiet by third octave from 25 Hz on, ISO 226:2003, table 1 (20 Hz to 12.5 kHz). [dB]
_THRESHOLD_DB: Final = (
    68.7, 59.5, 51.1, 44.0, 37.5, 31.5, 26.5, 22.1, 17.9, 14.4, 11.4, 8.6, 6.2, 4.4,
    3.0, 2.2, 2.4, 3.5, 1.7, -1.3, -4.2, -6.0, -5.4, -1.5, 6.0, 12.6, 13.9,
)  # fmt: skip

Heard = Literal["never", "pauses", "quiet", "always"]


@dataclass(frozen=True)
class Under:
    """How far noise lies under the performance. [dB, A-weighted]

    now : as recorded. squeezed : after compression by 10 dB. lifted : with a treble shelf of 6 dB besides. layered :
    squeezed and lifted, after so many layers, each with its own noise.
    """

    now: float
    squeezed: float
    lifted: float
    layered: float


@dataclass(frozen=True)
class Audible:
    """By third octave, (n,) each: noise and performance at the microphone [dB], and under what the noise is heard.

    first_hz, last_hz : where it is heard most widely, None where it is not. worst : the widest of `heard`.
    """

    centres_hz: FloatArray
    noise_db: FloatArray
    performance_db: FloatArray
    heard: tuple[Heard, ...]
    worst: Heard
    first_hz: float | None
    last_hz: float | None


def under_performance(performance_db: FloatArray, noise_db: FloatArray, *, layers: int = 1) -> Under:
    """From octave levels at the microphone, (8,) each. [dB]  layers : of one performer, 10 log10 of them is added."""
    treble = np.where(np.arange(8) >= 6, TREBLE_DB, 0.0)  # 4 and 8 kHz

    def apart(shelf: FloatArray | float) -> float:
        one, other = (float(sum_db(db + shelf + A_WEIGHTING_OCTAVES_DB)) for db in (performance_db, noise_db))
        return one - other

    now = apart(0.0)
    lifted = apart(treble) - SQUEEZE_DB
    return Under(now, now - SQUEEZE_DB, lifted, lifted - 10 * float(np.log10(max(layers, 1))))


def thirds_of(octaves_db: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Third-octave centres [Hz] and levels of a smooth spectrum given by octave, (27,) each: a third of its power."""
    centres = exact_thirds_hz()
    levels: FloatArray = at_frequencies(octaves_db, centres) - 10 * np.log10(3.0)
    return centres, levels


def audible(
    centres_hz: FloatArray, performance_db: FloatArray, noise_db: FloatArray, *, lift_db: float = 0.0
) -> Audible:
    """Under what a noise is heard, third by third. Levels at the microphone, (n,). [dB re 20 uPa]

    lift_db : by how much the quiet is raised against the loud afterwards: 10 dB of compression bring quiet phrases and
    pauses up together. What lies under the threshold of hearing, with the performance played back at 70 dB(A), is
    never heard.
    """
    excited = _excitation(performance_db)
    threshold = np.interp(np.log(centres_hz), np.log(exact_thirds_hz()), np.array(_THRESHOLD_DB))
    turned_db = _LISTENING_DBA - float(sum_db(performance_db + a_weighting_db(centres_hz)))
    sounds = noise_db + lift_db + turned_db > threshold
    loud = noise_db + lift_db > excited - _MASKED_DB
    quiet = noise_db > excited - QUIET_PHRASE_DB - _MASKED_DB
    order: tuple[Heard, ...] = ("never", "pauses", "quiet", "always")
    rank = np.where(sounds, np.where(loud, 3, np.where(quiet, 2, 1)), 0)
    worst = int(rank.max())
    where = centres_hz[rank == worst] if worst > 0 else np.zeros(0)
    return Audible(
        centres_hz,
        noise_db,
        performance_db,
        tuple(order[int(r)] for r in rank),
        order[worst],
        float(where.min()) if len(where) else None,
        float(where.max()) if len(where) else None,
    )


def _excitation(performance_db: FloatArray) -> FloatArray:
    """What a performance excites in each third: its own level, or a lower one's less 9 dB for each third between."""
    thirds = np.arange(len(performance_db))
    apart = thirds[:, None] - thirds[None, :]
    spread = np.where(apart >= 0, performance_db[None, :] - _SPREAD_DB * apart, -np.inf)
    excitation: FloatArray = spread.max(axis=1)
    return excitation
