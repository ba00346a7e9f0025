"""Fit the description to what was read: absorption by octave, held towards the catalogue, and what no absorption
explains.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from keenquiet.core.bands import OCTAVES_HZ
from keenquiet.core.judge.forecast import ABSORPTION_SPREAD, SUPPORT, low_end_top_hz
from keenquiet.core.read.ringing import Note
from keenquiet.core.room.room import Room
from keenquiet.core.types import BoolArray, FloatArray
from keenquiet.core.waves.modes import DECAY_60_DB, SAME_MODE, Modes, damped_modes
from keenquiet.core.waves.statistics import decay

PRIOR_SPREAD: Final = 0.25  # all surfaces together in one octave: catalogue, mounting and clutter (log-normal)
DECAY_SPREAD: Final = 0.05  # one position's T20, ISO 3382-2 engineering grade
RING_SPREAD: Final = 0.15
PLAUSIBLE: Final = (0.5, 2.0)  # beyond this the catalogue is not to blame
MODE_SPREAD: Final = 0.25  # one mode against its octave: wall flex, leaks, a door that rattles (log-normal)
_FACTORS: Final = np.geomspace(0.25, 4.0, 121)
_MODE_FACTORS: Final = np.geomspace(0.35, 2.8, 6)


@dataclass(frozen=True)
class MatchedNote:
    """A ringing note and the mode it is taken for: measured, before and after the fit. [Hz, s]"""

    f_hz: float
    t60_s: float
    mode_hz: float
    before_s: float
    after_s: float


@dataclass(frozen=True)
class Unexplained:
    """Something that no plausible absorption explains, by its key, with figures; its words are in `advice.fit`."""

    key: str
    figures: Mapping[str, float | str]


@dataclass(frozen=True)
class Fit:
    """factor : (8,) on the surfaces' absorption. [-]   measured_s, before_s, after_s : (8,) decay by octave, NaN where
    none. [s]
    spread : log-normal spread left on absorption. notes : ring times matched. unexplained : what is left.
    mode_losses : frequency [Hz] and extra decay rate [1/s] of each matched mode, beyond what the factors give it.
    """

    factor: FloatArray
    measured_s: FloatArray
    before_s: FloatArray
    after_s: FloatArray
    spread: float
    notes: tuple[MatchedNote, ...]
    mode_losses: tuple[tuple[float, float], ...]
    unexplained: tuple[Unexplained, ...]


def scaled_room(room: Room, factor: FloatArray) -> Room:
    """The room with all surfaces' absorption by octave times `factor` (8,)."""
    overlays = tuple(replace(overlay, material=overlay.material.scaled(factor)) for overlay in room.overlays)
    return replace(room, materials=tuple(material.scaled(factor) for material in room.materials), overlays=overlays)


def fitted(
    room: Room, *, decay_s: FloatArray, notes: tuple[Note, ...], report: Callable[[float], None] | None = None
) -> Fit:
    """Factors by octave that bring decay and ring times to what was read, regularised towards 1.

    room : as described, treatments on its faces. decay_s : (8,) measured T20 or T30 by octave, NaN where there is none.
    [s]
    notes : ringing notes. report : told how far it is, 0 to 1; may raise to stop.
    Maximum of a Gaussian posterior in log absorption on a grid: prior PRIOR_SPREAD, reading DECAY_SPREAD with the three
    decay
    formulas' own spread, notes RING_SPREAD each. Then each matched mode's own damping, in the same way.
    """
    before = decay(room)
    trusted = np.array(OCTAVES_HZ) * np.sqrt(2) > before.trusted_above_hz
    used = np.isfinite(decay_s) & trusted
    cost = np.tile((np.log(_FACTORS) / PRIOR_SPREAD) ** 2, (8, 1))
    curves = _decay_curves(room)
    blind = np.zeros((8, len(_FACTORS)))
    for band in np.flatnonzero(used):
        spread = float(np.hypot(DECAY_SPREAD, before.spread[band]))
        blind[band] += ((np.log(curves[:, band]) - np.log(decay_s[band])) / spread) ** 2
    modes, rings = _ring_curves(room, report)
    matched = _matches(notes, modes)
    for note, number in matched:
        octave = _octave_of(note.f_hz)
        if not used[octave]:
            blind[octave] += ((np.log(rings[:, number]) - np.log(note.t60_s)) / RING_SPREAD) ** 2
    best = np.argmin(cost + blind, axis=1)
    informed = np.any(blind > 0, axis=1)
    factor = _filled(_FACTORS[best], informed)
    after = decay(scaled_room(room, factor))
    at = np.argmin(np.abs(_FACTORS[:, None] - factor), axis=0)
    pairs, losses = [], []
    for note, number in matched:
        by_factor = float(rings[at[_octave_of(note.f_hz)], number])
        # what is left after the octave's factor goes to the mode itself, held towards nothing by MODE_SPREAD
        share = MODE_SPREAD**2 / (MODE_SPREAD**2 + RING_SPREAD**2)
        ring = by_factor * (note.t60_s / by_factor) ** share
        losses.append((float(modes.f_hz[number]), float(DECAY_60_DB * (1 / ring - 1 / by_factor))))
        pairs.append(MatchedNote(note.f_hz, note.t60_s, float(modes.f_hz[number]), float(modes.t60_s[number]), ring))
    left = 0.5 * ABSORPTION_SPREAD if informed.sum() >= 3 else ABSORPTION_SPREAD * (1 - 0.15 * float(informed.sum()))
    return Fit(
        factor=factor,
        measured_s=np.where(used, decay_s, np.nan),
        before_s=before.middle_s,
        after_s=after.middle_s,
        spread=left,
        notes=tuple(pairs),
        mode_losses=tuple(losses),
        unexplained=(*_implausible(blind, informed), *_wrong_sizes(room, notes, matched, modes)),
    )


def _octave_of(f_hz: float) -> int:
    return int(np.argmin(np.abs(np.log2(np.array(OCTAVES_HZ) / f_hz))))


def _decay_curves(room: Room) -> FloatArray:
    """Decay by octave for each trial factor, (n_factors, 8): computed at every tenth, smooth in between. [s]"""
    some = _FACTORS[::10]
    tried = np.log(np.stack([decay(scaled_room(room, np.full(8, factor))).middle_s for factor in some]))
    return np.exp(np.stack([np.interp(np.log(_FACTORS), np.log(some), band) for band in tried.T], axis=1))


def _ring_curves(room: Room, report: Callable[[float], None] | None) -> tuple[Modes, FloatArray]:
    """Modes as described, and their ring times for each trial factor, (n_factors, n_modes). [s]"""
    top_hz = low_end_top_hz(room.shape)

    def solved(factor: float) -> Modes:
        changed = room if factor == 1.0 else scaled_room(room, np.full(8, factor))
        return damped_modes(changed, f_max_hz=SUPPORT * top_hz, f_coupled_hz=top_hz)

    described = solved(1.0)
    rings = []
    for number, factor in enumerate(_MODE_FACTORS):
        if report is not None:
            report(number / len(_MODE_FACTORS))
        one = solved(factor)
        rings.append(np.interp(described.f_hz, one.f_hz, one.t60_s))
    tried = np.stack(rings)
    log = np.stack([np.interp(np.log(_FACTORS), np.log(_MODE_FACTORS), np.log(column)) for column in tried.T], axis=1)
    return described, np.exp(log)


def _matches(notes: tuple[Note, ...], modes: Modes) -> list[tuple[Note, int]]:
    """Each note with its nearest mode within SAME_MODE; a mode is taken once, by the nearest note."""
    pairs = []
    for note in notes:
        off = np.abs(modes.f_hz / note.f_hz - 1)
        if off.min() < SAME_MODE:
            pairs.append((float(off.min()), note, int(np.argmin(off))))
    kept: dict[int, Note] = {}
    for _, note, number in sorted(pairs, key=lambda pair: pair[0]):
        kept.setdefault(number, note)
    return [(note, number) for number, note in kept.items()]


def _filled(factor: FloatArray, informed: BoolArray) -> FloatArray:
    """Octaves without a reading take their informed neighbour's factor half way back to 1 for each octave of
    distance.
    """
    if not np.any(informed):
        return np.ones(8)
    known = np.flatnonzero(informed)
    result = np.ones(8)
    for band in range(8):
        near = known[np.argmin(np.abs(known - band))]
        result[band] = factor[near] ** (0.5 ** abs(int(near) - band))
    return result


def _implausible(blind: FloatArray, informed: BoolArray) -> list[Unexplained]:
    """Octaves in which the reading alone, without the catalogue, asks for more than materials can differ."""
    found = []
    for band in np.flatnonzero(informed):
        alone = float(_FACTORS[np.argmin(blind[band])])
        if not PLAUSIBLE[0] <= alone <= PLAUSIBLE[1]:
            key = "swallows_more" if alone > 1 else "swallows_less"
            found.append(Unexplained(key, {"centre_hz": OCTAVES_HZ[band], "times": alone}))
    return found


def _wrong_sizes(
    room: Room, notes: tuple[Note, ...], matched: list[tuple[Note, int]], modes: Modes
) -> list[Unexplained]:
    """Notes that no mode explains; in a box, which length would bring the lowest ones together."""
    taken = {note.f_hz for note, _ in matched}
    strong = [
        n
        for n in notes
        if n.f_hz not in taken and n.f_hz < 0.8 * modes.f_hz[-1] and n.level_db > max(m.level_db for m in notes) - 20
    ]
    found = []
    for note in strong[:2]:
        off = modes.f_hz / note.f_hz
        near = int(np.argmin(np.abs(off - 1)))
        figures: dict[str, float | str] = {"f_hz": note.f_hz, "nearest_hz": float(modes.f_hz[near])}
        orders = modes.orders
        if orders is not None and np.count_nonzero(orders[near]) == 1 and abs(off[near] - 1) < 0.2:
            axis = int(np.argmax(orders[near]))
            size = room.shape.bounds_m[axis]
            figures |= {"axis": "xyz"[axis], "fits_m": float(size * off[near]), "written_m": size}
        found.append(Unexplained("wrong_length" if "axis" in figures else "no_mode", figures))
    return found
