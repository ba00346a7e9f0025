"""A noise noted straight from a recorded silence: what the microphone heard, led back to the place it comes from."""

from typing import Final

import numpy as np

from keenquiet.core.bands import N_OCTAVES, OCTAVES_HZ, exact_octaves_hz
from keenquiet.core.errors import InputError
from keenquiet.core.judge.forecast import performance_dba
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.noise_at import noise_at_microphone
from keenquiet.documents.convert import room_of
from keenquiet.documents.schema import NoiseDoc, RoomDoc
from keenquiet.service.answers.numbers import Answer, Num2
from keenquiet.service.answers.readings import ToneResult
from keenquiet.service.briefs import result_of
from keenquiet.service.data import Data
from keenquiet.service.predict import acoustics_of
from keenquiet.service.readings import row_of
from keenquiet.service.standing import kept_readings

_CALIBRATED_DB: Final = 3.0  # of the place it is led back to
_BY_VOICE_DB: Final = 6.0
_GUESSED_DB: Final = 10.0
_FULL_SCALE_GUESS_DB: Final = 110.0  # sound pressure at full scale of a common gain (our estimate)
_NAMES: Final = {"hum": "Hum", "fan": "Fan", "whine": "Whine", "rumble": "Rumble", "hiss": "Hiss"}
_BANDS: Final = {"rumble": (0, 2), "hiss": (5, 8)}


class NotedAnswer(Answer):
    """A noise as a silence heard it. plus_minus_db : of its level; by : calibrated, voice or guessed."""

    noise: NoiseDoc
    plus_minus_db: Num2
    by: str


def noted_from(
    data: Data,
    room_id: str,
    reading_id: str,
    room: RoomDoc,
    arrangement_id: str | None,
    noise: NoiseDoc,
    *,
    finding: int | None = None,
) -> NotedAnswer:
    """The noise with its octave levels at 1 m from its place, as a silence heard it.

    finding : number of one of its noises, None for all that is there. What 0 dBFS means is told by a calibration, else
    by a take through the same chain and the performer's usual level, else guessed. Raises InputError for what is no
    silence.
    """
    row = row_of(data, reading_id)
    result = result_of(row)
    if row.room_id != room_id or not isinstance(result, ToneResult) or not result.octaves:
        raise InputError("reading", "is no silence of this room.", "Choose a recorded silence.")
    doc = room.arrangement_doc(arrangement_id)
    scenario, acoustics = acoustics_of(room, doc)
    full_scale, plus_minus, by = _full_scale_db(data, room_id, row.id, result, performance_dba(scenario.arrangement))
    heard = _octaves(result, finding) + full_scale
    # what a noise of 0 dB at 1 m from this place makes at the microphone
    trial = noise.model_copy(update={"octaves_db": {str(octave): 0.0 for octave in OCTAVES_HZ}})
    alone = acoustics.with_noises_of(room_of(room.model_copy(update={"noises": [trial], "arrangements": []})))
    gain = noise_at_microphone(alone.room, scenario.arrangement, decay=acoustics.decay).source_octaves_db[noise.name]
    levels = np.clip(np.round(heard - gain, 1), -20, 120)
    name, hum = _named(result, finding)
    octaves = {
        str(k): float(level) for k, level in zip((63, 125, 250, 500, 1000, 2000, 4000, 8000), levels, strict=True)
    }
    filled = noise.model_copy(
        update={"octaves_db": octaves, "name": noise.name or name, "hum_hz": hum if hum is not None else noise.hum_hz}
    )
    return NotedAnswer(
        noise=NoiseDoc.model_validate(filled.model_dump(exclude_none=True)), plus_minus_db=plus_minus, by=by
    )


def _octaves(result: ToneResult, finding: int | None) -> FloatArray:
    """Octave levels of all that is there, or of one finding: a hum's power in the octave of its pitch. [dB]"""
    levels = np.array([np.nan if band.level_db is None else band.level_db for band in result.octaves], dtype=float)
    levels = np.resize(np.where(np.isfinite(levels), levels, np.nanmin(levels) - 10), N_OCTAVES)
    if finding is None:
        return levels
    if not 0 <= finding < len(result.noises):
        raise InputError("finding", f"there is no finding {finding}.", "Choose one of those that are listed.")
    found = result.noises[finding]
    alone = np.full(N_OCTAVES, -200.0)
    if found.kind in _BANDS:
        first, last = _BANDS[found.kind]
        alone[first:last] = levels[first:last]
        return alone
    power = [10 ** (found.level_db / 10) / max(len(found.harmonics), 1)] * max(len(found.harmonics), 1)
    for number, part in zip(found.harmonics or [1], power, strict=True):
        octave = int(np.argmin(np.abs(np.log(exact_octaves_hz() / (found.f_hz * number)))))
        alone[octave] = 10 * np.log10(10 ** (alone[octave] / 10) + part)
    return alone


def _named(result: ToneResult, finding: int | None) -> tuple[str, float | None]:
    if finding is None:
        return "What is there", None
    found = result.noises[finding]
    tonal = found.kind in ("hum", "fan", "whine")
    pitch = found.f_hz * (found.harmonics[0] if found.harmonics else 1)
    return f"{_NAMES[found.kind]} at {pitch:.0f} Hz" if tonal else _NAMES[found.kind], pitch if tonal else None


def _full_scale_db(
    data: Data, room_id: str, reading_id: str, result: ToneResult, performance: float
) -> tuple[float, float, str]:
    """Sound pressure level of 0 dBFS, how sure, and by what it is known."""
    if result.calibrated:
        return 0.0, _CALIBRATED_DB, "calibrated"
    rows = kept_readings(data, room_id)
    silence = next((kept for kept in rows if kept.id == reading_id), None)
    for kept in rows:
        if silence is not None and kept.kind == "take" and kept.usable and kept.active_dba is not None:
            same = all(kept.settings.get(key) == silence.settings.get(key) for key in ("device", "channel", "gain"))
            if same and kept.way == silence.way:
                return performance - kept.active_dba, _BY_VOICE_DB, "voice"
    return _FULL_SCALE_GUESS_DB, _GUESSED_DB, "guessed"
