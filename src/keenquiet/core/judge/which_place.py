"""Which place? Candidate places side by side on the four marks: the best one here, why, and what would change it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final

import numpy as np

from keenquiet.core.judge.forecast import DEFICIT_UNIT, Forecast, deficits
from keenquiet.core.judge.wanted import Wanted
from keenquiet.core.waves.rigid import CLOSET_FIRST_MODE_HZ

CLOSE_CALL: Final = 0.15  # deficits nearer than this are not told apart by their uncertainties
DEAD_S: Final = 0.25
LIVE_S: Final = 0.5
_FLUTTER_HEARD_S: Final = 0.35
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
class Trait:
    """Something about a place by its key, with figures; its words are in `advice.places`."""

    key: str
    figures: Mapping[str, float | str] = field(default_factory=dict)


@dataclass(frozen=True)
class Verdict:
    """How a place does: deficits by mark (0 is as wanted), their sum, what it is like, and what would change it."""

    key: str
    deficits: dict[str, float]
    total: float
    traits: tuple[Trait, ...]
    would_change: Trait | None


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


def first_among_the_notes(result: Forecast) -> bool:
    """Whether the room is so small that its first swell lies among the notes of a voice."""
    return float(result.modes.f_hz[0]) > CLOSET_FIRST_MODE_HZ


def character(result: Forecast) -> tuple[Trait, ...]:
    """What a place is like, each trait with the figures it rests on."""
    mid_s = float(np.mean(result.decay.middle_s[3:5]))
    found = []
    if mid_s <= DEAD_S:
        found.append(Trait("dead", {"mid_s": mid_s}))
    elif mid_s >= LIVE_S:
        found.append(Trait("live", {"mid_s": mid_s}))
    treble = float(result.decay.middle_s[6] / result.decay.middle_s[3])
    if treble < _TREBLE_ROBBED:
        found.append(Trait("treble_robbed", {"share": treble}))
    if first_among_the_notes(result):
        found.append(Trait("small", {"first_hz": float(result.modes.f_hz[0])}))
    ring_s = result.boom.ring_s.value
    if ring_s > max(_BOXY_RING * mid_s, 0.25):
        found.append(Trait("boxy", {"note_hz": result.boom.note_hz, "ring_s": ring_s, "times": ring_s / mid_s}))
    worst = result.flutter[0] if result.flutter else None
    if worst is not None and worst.lasts_s > _FLUTTER_HEARD_S:
        found.append(Trait("flutter", {"spacing_m": worst.spacing_m, "rate_hz": worst.rate_hz}))
    found.append(Trait("noise", {"leading": result.hush.leading, "noise_dba": result.hush.noise_dba}))
    return tuple(found)


def _would_change(candidate: Candidate, best: str, totals: dict[str, float], wanted: Wanted) -> Trait | None:
    """What would turn the order: its quiet hour, or the one mark that must improve and by how much."""
    if candidate.key == best:
        return None
    lead = totals[candidate.key] - totals[best]
    if candidate.quiet is not None:
        later = sum(deficits(candidate.quiet, wanted).values())
        if later < totals[best]:
            return Trait("wins_in_quiet", {"leading": candidate.forecast.hush.leading})
    gaps = deficits(candidate.forecast, wanted)
    mark = max(gaps, key=lambda m: gaps[m])
    if gaps[mark] >= lead - 1e-9:  # a sum of four rounds
        return Trait("draws_level", {"mark": mark, "better": lead * DEFICIT_UNIT[mark]})
    return Trait("not_level", {"mark": mark})
