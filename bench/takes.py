"""What is found in takes: every fault of the simulated performer, clean takes, the room told by the ends of phrases.

`python -m bench.takes` prints a table; the figures in docs/physics.md come from it.
"""

from dataclasses import replace

import numpy as np
from tests.core.made_otherwise import PLAYED, PUT_IN, in_a_room, made, spoilt
from tests.core.rig_voices import VOICES

from keenquiet.core.read.figures import read_take
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

_SEEDS = range(1, 9)
_ROOMS = 80


def main() -> None:
    """Print what is found, and how often."""
    for kind in SPOILS:
        found = [_told(flawed_take(kind, seed=seed)) for seed in _SEEDS]
        hits = sum(kind in kinds for kinds in found)
        others = sorted({other for kinds in found for other in kinds} - {kind})
        print(f"{kind:12s} {hits} of {len(found)}{'   also: ' + ', '.join(others) if others else ''}")
    clean = [_told(sung_take(seed=seed, **voice)) for voice in VOICES for seed in range(31, 37)]  # type: ignore[arg-type]
    print(f"clean takes with a finding: {sum(bool(kinds) for kinds in clean)} of {len(clean)}")
    document = RoomDoc.model_validate(bakery_room())
    arrangement = document.arrangement_doc(None)
    sung = [_told(rig_take(document, arrangement, seed=seed)) - {"roomy"} for seed in _SEEDS]
    print(f"clean takes in the demo's room with a finding but its room: {sum(bool(kinds) for kinds in sung)} of 8")
    for name, error_of in (("rig", _room_error_db), ("rays", _other_room_error_db)):
        errors = [error for error in (error_of(n) for n in range(_ROOMS)) if error is not None]
        within = sum(abs(error) <= 3 for error in errors)
        withheld = _ROOMS - len(errors)
        print(f"direct over room, {name}: {within} of {len(errors)} within 3 dB, {withheld} withheld: {errors}")
    _made_otherwise()


def _made_otherwise() -> None:
    """The same of takes that share nothing with the rig: spoken by espeak-ng, played, in rooms of image sources."""
    for kind in PUT_IN:
        hits, others = 0, set()
        for seed in _SEEDS:
            take = spoilt(kind, seed)
            wanted, start, end, _ = take.truth
            found = _levels(take.samples).findings
            hits += any(f.kind == wanted and f.start_s < end + 0.1 and f.end_s > start - 0.1 for f in found)
            others |= {f.kind for f in found} - {wanted}
        print(
            f"otherwise {kind:12s} {hits} of {len(_SEEDS)}{'   also: ' + ', '.join(sorted(others)) if others else ''}"
        )
    clean = [_levels(made(seed, who=who).samples).findings for who in ("spoken", *PLAYED) for seed in range(11, 19)]
    print(f"otherwise clean takes with a finding: {sum(bool(found) for found in clean)} of {len(clean)}")


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
