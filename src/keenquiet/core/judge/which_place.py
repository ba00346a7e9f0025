"""Which place? Candidate places side by side on the four marks: the best one here, why, and what would change it."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from keenquiet.core.judge.forecast import Forecast, deficits
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.judge.words import note_words
from keenquiet.core.waves.rigid import CLOSET_FIRST_MODE_HZ

CLOSE_CALL: Final = 0.15  # deficits nearer than this are not told apart by their uncertainties
DEAD_S: Final = 0.25
_TREBLE_ROBBED: Final = 0.62  # decay at 4 kHz over decay at 500 Hz: soft things thin on bass leave a dull sound
_BOXY_RING: Final = 1.6  # the longest note over the mid-band decay: a hollow after-ring on some notes


@dataclass(frozen=True)
class Candidate:
    """A place to record in: its forecast now, and the same at its quietest hour (None when noises do not change)."""

    key: str
    name: str
    forecast: Forecast
    quiet: Forecast | None = None


@dataclass(frozen=True)
class Verdict:
    """How a place does: deficits by mark (0 is as wanted), their sum, reasons in plain sentences, and what would change
    it.
    """

    key: str
    deficits: dict[str, float]
    total: float
    reasons: tuple[str, ...]
    would_change: str | None


def ranked(candidates: list[Candidate], *, wanted: Wanted) -> list[Verdict]:
    """Verdicts, best place first.

    A mark can be replaced by a measured one beforehand: the forecast's figures are what is judged.
    """
    gaps = {c.key: deficits(c.forecast, wanted) for c in candidates}
    totals = {key: sum(each.values()) for key, each in gaps.items()}
    order = sorted(candidates, key=lambda c: totals[c.key])
    best = order[0].key if order else ""
    return [
        Verdict(c.key, gaps[c.key], totals[c.key], character(c.forecast), _would_change(c, best, totals, wanted))
        for c in order
    ]


def character(result: Forecast) -> tuple[str, ...]:
    """What a place is like, each sentence with the figures it rests on."""
    mid_s = float(np.mean(result.decay.middle_s[3:5]))
    said = []
    if mid_s <= DEAD_S:
        said.append(f"Dead: it fades in {mid_s:.2f} s.")
    elif mid_s >= 0.5:
        said.append(f"Live: it takes {mid_s:.2f} s to fade.")
    treble = float(result.decay.middle_s[6] / result.decay.middle_s[3])
    if treble < _TREBLE_ROBBED:
        said.append(
            f"Robs the treble: 4 kHz fades in {treble * 100:.0f} % of the time of 500 Hz, so it sounds dull, not dry."
        )
    lowest_hz = float(result.modes.f_hz[0])
    if lowest_hz > CLOSET_FIRST_MODE_HZ:
        said.append(
            f"Small: its first swell lies at {note_words(lowest_hz)}, among the notes you perform, not below them."
        )
    if result.boom.ring_s.value > max(_BOXY_RING * mid_s, 0.25):
        said.append(
            f"Boxy: {note_words(result.boom.note_hz)} rings {result.boom.ring_s.value:.2f} "
            f"s, {result.boom.ring_s.value / mid_s:.1f} times as long as the middle."
        )
    worst = result.flutter[0] if result.flutter else None
    if worst is not None and worst.lasts_s > 0.35:
        said.append(
            f"A clap can flutter between bare walls {worst.spacing_m:.2f} m apart, {worst.rate_hz:.0f} times a second."
        )
    said.append(
        f"{result.hush.leading} is the loudest thing when you are "
        f"silent: {result.hush.noise_dba:.0f} dB(A) at the microphone."
    )
    return tuple(said)


def recommendation(verdicts: list[Verdict], names: dict[str, str]) -> str:
    """One sentence: the place to use, or that two are level."""
    if not verdicts:
        return "No place yet: add one with its three sizes."
    best = verdicts[0]
    if len(verdicts) == 1:
        return f"{names[best.key]} is the only place so far. Add another to compare."
    second = verdicts[1]
    if second.total - best.total < CLOSE_CALL:
        return (
            f"{names[best.key]} and {names[second.key]} are level within "
            "what can be predicted: take the quieter, or read both."
        )
    gains = {mark: second.deficits[mark] - best.deficits[mark] for mark in best.deficits}
    mark = max(gains, key=lambda m: gains[m])
    return f"{names[best.key]}: mostly for its {mark.capitalize()}, against {names[second.key]}."


def _would_change(candidate: Candidate, best: str, totals: dict[str, float], wanted: Wanted) -> str | None:
    """What would turn the order: its quiet hour, or the one mark that must improve and by how much."""
    if candidate.key == best:
        return None
    lead = totals[candidate.key] - totals[best]
    if candidate.quiet is not None:
        later = sum(deficits(candidate.quiet, wanted).values())
        if later < totals[best]:
            return f"It would win while {candidate.forecast.hush.leading} rests."
    gaps = deficits(candidate.forecast, wanted)
    mark = max(gaps, key=lambda m: gaps[m])
    scale, unit = {"bounce": (10.0, "dB"), "boom": (0.5, "s"), "hush": (15.0, "dB"), "touch": (12.0, "dB")}[mark]
    if gaps[mark] >= lead:
        return f"It would draw level with {lead * scale:.{2 if unit == 's' else 0}f} {unit} better {mark.capitalize()}."
    return f"Even a perfect {mark.capitalize()} would not bring it level."
