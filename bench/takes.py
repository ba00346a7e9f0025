"""What is found in takes: every fault of the simulated performer, clean takes, the room told by the ends of phrases.

`python -m bench.takes` prints a table; the figures in docs/physics.md come from it.
"""

from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from itertools import groupby
from typing import Any

import numpy as np
from tests.core.made_otherwise import PLAYED, PUT_IN, in_a_room, made, spoilt
from tests.core.rig_voices import VOICES

from keenquiet.core.figures import read_take
from keenquiet.core.take.against import against, against_findings
from keenquiet.core.take.bleed import bleed_findings, bleed_of
from keenquiet.core.take.levels import TakeLevels
from keenquiet.core.take.moments import BANDS_HZ, moments_of
from keenquiet.core.types import FloatArray
from keenquiet.demo.scenario import bakery_room
from keenquiet.documents.schema import RoomDoc
from keenquiet.rig.singer import Take, ringing, sung_take
from keenquiet.rig.spoils import SPOILS, flawed_take
from keenquiet.rig.voice import RATE_HZ
from keenquiet.service.reading import rig_take

_SEEDS = range(1, 21)
_ROOMS = 80


def main() -> None:
    """Print what is found, and how often."""
    with ProcessPoolExecutor() as pool:
        _told_of("", pool.map(_sung, *_pairs(SPOILS)))
        _told_of("otherwise ", pool.map(_made_otherwise, *_pairs(PUT_IN)))
        for name, drawn in (
            ("clean takes", pool.map(_clean_sung, *_pairs(range(len(VOICES)), range(31, 43)))),
            ("clean takes in the demo's room, but for its room", pool.map(_clean_in_the_demo, _SEEDS)),
            ("otherwise clean takes", pool.map(_clean_otherwise, *_pairs(("spoken", *PLAYED), range(11, 35)))),
        ):
            found = list(drawn)
            print(f"{name} with a finding: {sum(map(bool, found))} of {len(found)}: {[f for f in found if f]}")
        for name, error_of in (("rig", _room_error_db), ("rays", _other_room_error_db)):
            errors = [error for error in pool.map(error_of, range(_ROOMS)) if error is not None]
            within = sum(abs(error) <= 3 for error in errors)
            withheld = _ROOMS - len(errors)
            print(f"direct over room, {name}: {within} of {len(errors)} within 3 dB, {withheld} withheld: {errors}")


def _pairs(kinds: Iterable[Any], seeds: Iterable[int] = _SEEDS) -> tuple[list[Any], list[int]]:
    """Each kind with each seed."""
    both = [(kind, seed) for kind in kinds for seed in seeds]
    return [kind for kind, _ in both], [seed for _, seed in both]


def _told_of(name: str, taken: Iterable[tuple[str, bool, set[str]]]) -> None:
    """How often each fault was found, and what else was."""
    for kind, its in groupby(taken, key=lambda one: one[0]):
        told = list(its)
        others = sorted(set().union(*(more for _, _, more in told)))
        hits = sum(found for _, found, _ in told)
        print(f"{name}{kind:12s} {hits} of {len(told)}{'   also: ' + ', '.join(others) if others else ''}", flush=True)


def _sung(kind: str, seed: int) -> tuple[str, bool, set[str]]:
    kinds = _told(flawed_take(kind, seed=seed))
    return kind, kind in kinds, kinds - {kind}


def _made_otherwise(kind: str, seed: int) -> tuple[str, bool, set[str]]:
    """The same of a take that shares nothing with the rig: spoken by espeak-ng, played, in a room of image sources."""
    take = spoilt(kind, seed)
    wanted, start, end, _ = take.truth
    found = _levels(take.samples).findings
    hit = any(f.kind == wanted and f.start_s < end + 0.1 and f.end_s > start - 0.1 for f in found)
    return kind, hit, {f.kind for f in found} - {wanted}


def _clean_sung(voice: int, seed: int) -> set[str]:
    return _told(sung_take(seed=seed, **VOICES[voice]))  # type: ignore[arg-type]


def _clean_in_the_demo(seed: int) -> set[str]:
    document = RoomDoc.model_validate(bakery_room())
    return _told(rig_take(document, document.arrangement_doc(None), seed=seed)) - {"roomy"}


def _clean_otherwise(who: str, seed: int) -> set[str]:
    return {f.kind for f in _levels(made(seed, who=who).samples).findings}


def _levels(samples: FloatArray) -> TakeLevels:
    return read_take(np.atleast_2d(samples), RATE_HZ, bits=24).levels


def _told(take: Take) -> set[str]:
    levels = _levels(take.samples)
    found = list(levels.findings)
    if take.reference is not None:
        line = _levels(take.reference)
        apart = against(levels, line, samples=take.samples, line_samples=take.reference, sample_rate_hz=float(RATE_HZ))
        found += against_findings(apart, take.seconds)
    if take.backing is not None:
        leak = bleed_of(take.samples, take.backing, RATE_HZ, levels.phrases, active_dba=levels.active_dba)
        found += bleed_findings(leak, take.seconds)
    return {f.kind for f in found}


def _room_error_db(number: int) -> float | None:
    """Direct over room as told less as it is between 500 and 4000 Hz; None where it is withheld."""
    rng = np.random.default_rng(number)
    t60_s, level_db = float(rng.uniform(0.25, 1.0)), float(rng.uniform(-16.0, -2.0))
    take = sung_take(seed=100 + number, phrases=8, **VOICES[number % len(VOICES)])  # type: ignore[arg-type]
    take = replace(take, room=ringing(take.dry, rng, t60_s=t60_s, level_db=level_db))
    fading = _levels(take.samples).fading
    if fading is None or fading.direct_over_room_db is None:
        return None
    dry, room = (_power(part, take.phrases) for part in (take.dry, take.room))
    return round(fading.direct_over_room_db - 10 * float(np.log10(dry / room)), 1)


def _other_room_error_db(number: int) -> float | None:
    """The same in a shoebox of rays, from 8 cm to 80 cm, spoken or played."""
    take = made(number + 1, who=("spoken", *PLAYED)[number % 4])
    rng = np.random.default_rng(number)
    soaks, distance = float(rng.uniform(0.04, 0.4)), float(np.exp(rng.uniform(np.log(0.08), np.log(0.8))))
    direct, room = in_a_room(rng, take.direct / np.max(np.abs(take.direct)), soaks=soaks, distance=distance)
    fading = _levels(direct + room + 1e-5 * rng.standard_normal(len(room))).fading
    if fading is None or fading.direct_over_room_db is None:
        return None
    dry, wet = (_power(part, take.spans) for part in (direct, room))
    return round(fading.direct_over_room_db - 10 * float(np.log10(dry / wet)), 1)


def _power(samples: FloatArray, phrases: list[tuple[float, float]]) -> float:
    power = moments_of(samples, float(RATE_HZ)).power[:, list(BANDS_HZ).index("speech")]
    return float(sum(power[round(100 * a) : round(100 * b)].sum() for a, b in phrases))


if __name__ == "__main__":
    main()
