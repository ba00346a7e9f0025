"""Proof of a move: the change that was measured against the change that was promised, each with its own uncertainty.

Two levels that are each sure to 5 dB tell a change of 1 dB apart when the same things were read in the same way: what
they share falls out. What is left is what a reading repeats within.
"""

from collections.abc import Mapping
from typing import Final, Literal

import numpy as np

from keenquiet.core.judge.forecast import Figure

Outcome = Literal["proved", "partly", "not_proved", "too_small"]
# standard uncertainty of one reading taken again with nothing changed: eight sweeps and eight silences of the rig,
# each with its own noise, player's clock and delay, differ by 0.002 dB, 0.040 s and 0.27 dB (bench/repeats.py); a
# loudspeaker and a microphone set up again by the marks sheet, and another minute of the street, add the greater part
# (estimates)
REPEATS: Final[Mapping[str, float]] = {"bounce": 0.4, "boom": 0.05, "hush": 0.7}
READ_BY: Final[Mapping[str, str]] = {"bounce": "sweep", "boom": "sweep", "hush": "tone"}


def proof(mark: str, promised: Figure, measured: float) -> Outcome:
    """What a measured change says of a promised one, both in the mark's unit.

    Too small: neither stands clear of what two readings differ by. Proved: the right way, clear, and not less than half
    of the promise or within its uncertainty. Partly: the right way and clear, but less. Raises KeyError for a mark that
    readings of a change do not settle.
    """
    repeat = np.sqrt(2) * REPEATS[mark]
    clear = 2 * repeat
    if abs(promised.value) < clear and abs(measured) < clear:
        return "too_small"
    if abs(measured) < clear or measured * promised.value <= 0:
        return "not_proved"
    spread = 2 * float(np.hypot(promised.plus_minus, repeat))
    enough = abs(measured) >= abs(promised.value) / 2
    return "proved" if enough and abs(measured) >= abs(promised.value) - spread else "partly"


def best_reading(promised: Mapping[str, Figure]) -> str | None:
    """The kind of reading that shows a move best: of the mark whose promised change stands furthest above what readings
    repeat within; None where none would show it.
    """
    clear = {mark: abs(promised[mark].value) / REPEATS[mark] for mark in REPEATS if mark in promised}
    mark = max(clear, key=lambda name: clear[name], default=None)
    return None if mark is None or clear[mark] < 2 * np.sqrt(2) else READ_BY[mark]
