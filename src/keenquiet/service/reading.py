"""Taking a reading: sound in, figures and marks out, kept whole or not at all."""

from dataclasses import asdict, dataclass
from typing import Any, Final

import numpy as np

from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.judge.forecast import HEARD_WITHIN_DB, Forecast, boom_range_hz
from keenquiet.core.judge.moves import without_noises
from keenquiet.core.judge.tape_check import tape_check
from keenquiet.core.read.decay import onset_index
from keenquiet.core.read.figures import (
    ResponseFigures,
    TakeFigures,
    ToneFigures,
    low_swing_db,
    read_glide,
    read_impulse,
    read_sweep,
    read_take,
    read_tone,
)
from keenquiet.core.read.quality import Reason, Verdict, refused
from keenquiet.core.read.ringing import Note
from keenquiet.core.types import FloatArray
from keenquiet.core.waves.modes import SAME_MODE
from keenquiet.documents import ArrangementDoc, RoomDoc, arrangement_of, room_of
from keenquiet.rig.faults import FAULTS
from keenquiet.rig.recorder import FULL_SCALE_SPL_DB, Recording, RigSettings, record
from keenquiet.service.answers import (
    Json,
    glide_json,
    marks_json,
    refused_json,
    response_json,
    rounded,
    take_json,
    tape_json,
    tone_json,
)
from keenquiet.service.predict import hour_of, predict, silenced_in
from keenquiet.store.audiofile import Audio

KINDS: Final = ("sweep", "ir", "clap", "glide", "tone", "take", "spoken", "pops", "loudest")
RESPONSES: Final = ("sweep", "ir", "clap")
TAKES: Final = ("take", "spoken", "pops", "loudest")
SPOKEN: Final = ("spoken", "pops")  # said, whatever the performer plays or sings otherwise
_TRUNCATED: Final = Reason(
    "truncated_file",
    "The file is shorter than its header says: it was cut off.",
    "Export it again; the part that is there was read.",
)


@dataclass(frozen=True)
class Answer:
    """figures in the contract's shape, with curves for the plots; whether they stand."""

    result: Json
    usable: bool
    response: ResponseFigures | None = None


def analyse(audio: Audio, kind: str, *, curves: bool = False, **options: Any) -> Answer:
    """Read a recording. A recording that cannot be read gives an answer with a verdict, not an exception.

    options : `spec` for sweeps, `calibration_db` for tones, `fraction` 3 for thirds.
    """
    try:
        answer = _read(audio, kind, curves=curves, **options)
    except MeasurementError as exc:
        verdict = refused(exc)
        if audio.truncated:
            verdict = Verdict(False, (*verdict.reasons, _TRUNCATED))
        return Answer(refused_json(kind, verdict, sample_rate_hz=audio.sample_rate_hz), usable=False)
    if audio.truncated:
        reasons = [*answer.result["verdict"]["reasons"], asdict(_TRUNCATED)]
        answer.result["verdict"] = {
            **answer.result["verdict"],
            "word": "usable" if answer.usable else "not usable",
            "reasons": reasons,
        }
    return answer


def _read(audio: Audio, kind: str, *, curves: bool, **options: Any) -> Answer:
    channels, rate, bits = audio.channels, audio.sample_rate_hz, audio.bits
    if kind == "sweep":
        found = read_sweep(channels, rate, bits=bits, **options)
        return Answer(response_json(found, curves=curves), found.verdict.usable, found)
    if kind in ("ir", "clap"):
        impulse = read_impulse(channels, rate, bits=bits, computed=kind == "ir", **options)
        return Answer(response_json(impulse, curves=curves), impulse.verdict.usable, impulse)
    if kind == "tone":
        tone: ToneFigures = read_tone(channels, rate, bits=bits, **options)
        return Answer(tone_json(tone), tone.verdict.usable)
    if kind == "glide":
        glide = read_glide(channels, rate, bits=bits)
        return Answer(glide_json(glide, curves=curves), glide.verdict.usable)
    if kind in TAKES:
        take: TakeFigures = read_take(channels, rate, bits=bits, spoken=kind in SPOKEN)
        return Answer(take_json(take, curves=curves), take.verdict.usable)
    raise InputError("kind", f"{kind!r} is not a kind of reading.", f"Use one of {', '.join(KINDS)}.")


def rig_recording(
    room: RoomDoc,
    arrangement: ArrangementDoc,
    kind: str,
    *,
    seed: int,
    gain_db: float = 0.0,
    faults: tuple[str, ...] = (),
) -> Recording:
    """What the practice rig's recorder gets in this room with this arrangement, with the faults it is told to make."""
    if kind not in KINDS:
        raise InputError("kind", f"{kind!r} is not a kind of reading.", f"Use one of {', '.join(KINDS)}.")
    if unknown := [fault for fault in faults if fault not in FAULTS]:
        raise InputError("faults", f"{unknown[0]!r} is no fault the rig can make.", f"Use one of {', '.join(FAULTS)}.")
    box = room_of(room)
    value = arrangement_of(room, arrangement, box)
    settings = RigSettings(seed=seed, gain_db=gain_db, hour=hour_of(arrangement), faults=faults)
    described = without_noises(box, silenced_in(arrangement)).with_overlays(value.treatments)
    return record(described, value, kind, settings)  # type: ignore[arg-type]


def measured_marks(kind: str, answer: Answer, room: RoomDoc, arrangement: ArrangementDoc) -> tuple[Json, Json]:
    """Marks that a reading settles, and the same figures as they were predicted for it: (measured, predicted).

    A sweep is played by a loudspeaker, whose directivity differs from the performer's: both columns are for the
    loudspeaker, and `performer_correction_db` (from the same models) leads over to the performer.
    """
    if not answer.usable:
        return {}, {}
    try:
        here = room.model_copy(update={"arrangements": [arrangement]})
        forecast = predict(here, arrangement.id, loudspeaker=kind in ("sweep", "ir"))
        performing = predict(here, arrangement.id)
    except InputError:
        return {}, {}
    if answer.response is not None:
        return _from_response(answer.response, forecast, performing, here, is_clap=kind == "clap")
    if kind in TAKES:
        spoken = predict(here.model_copy(update={"arrangements": [speaking(arrangement)]}), arrangement.id)
        louder_db = performing.hush.performance_dba - spoken.hush.performance_dba
        return _from_take(answer.result, kind, marks_json(performing, here), louder_db=louder_db)
    return {}, {}


def speaking(arrangement: ArrangementDoc) -> ArrangementDoc:
    """The same places with somebody who speaks."""
    return arrangement.model_copy(
        update={"performer": arrangement.performer.model_copy(update={"source": "voice-spoken"})}
    )


def _from_take(result: Json, kind: str, marks: Json, *, louder_db: float) -> tuple[Json, Json]:
    """Touch from what holds the loudest notes, Hush from what has pauses.

    louder_db : by how much the performance is louder than speech by the usual levels. A spoken line is led over to it,
    as uncertain as
    one person's effort is.
    """
    measured: Json = {}
    if kind in ("take", "loudest"):
        measured["touch"] = {
            "value": result["true_peak_dbtp"],
            "plus_minus": 0.5,
            "average_dbfs": result["average_dbfs"],
            "noise_floor_dbfs": result["noise_floor_dbfs"],
            "gain_advice_db": result["gain_advice_db"],
        }
    if kind == "take" and result["snr_db"] is not None:
        measured["hush"] = {"value": result["snr_db"], "plus_minus": 2.0, "from": "the pauses of the take"}
    if kind == "spoken" and result["snr_db"] is not None:
        measured["hush"] = {"value": round(result["snr_db"] + louder_db, 2), "plus_minus": 6.0, "from": "a spoken line"}
    predicted = (
        {"hush": {"value": marks["hush"]["value"], "plus_minus": marks["hush"]["plus_minus"]}}
        if "hush" in measured
        else {}
    )
    return measured, predicted


def _from_response(
    figures: ResponseFigures, forecast: Forecast, performing: Forecast, room: RoomDoc, *, is_clap: bool
) -> tuple[Json, Json]:
    marks = marks_json(forecast, room)
    measured: Json = {}
    predicted: Json = {}
    if figures.direct_over_room_db is not None and not is_clap:
        correction = performing.bounce.direct_over_room_db.value - forecast.bounce.direct_over_room_db.value
        measured["bounce"] = {
            "value": figures.direct_over_room_db,
            "plus_minus": 0.7,
            "performer_correction_db": correction,
            "decay_s": figures.t_mid_s,
        }
        predicted["bounce"] = {
            key: marks["bounce"][key] for key in ("value", "plus_minus", "decay_s", "decay_plus_minus_s")
        }
    note = hanging_note(figures.ringing, boom_range_hz(performing.arrangement))
    if note is not None:
        low, high = boom_range_hz(performing.arrangement)
        measured["boom"] = {
            "value": note.t60_s,
            "plus_minus": 0.1 * note.t60_s,
            "note_hz": note.f_hz,
            "swing_db": low_swing_db(figures.low_f_hz, figures.low_db, low_hz=max(low, 60.0), high_hz=high),
        }
        predicted["boom"] = {key: marks["boom"][key] for key in ("value", "plus_minus", "note_hz")}
    return rounded(measured), rounded(predicted)


def hanging_note(notes: tuple[Note, ...], range_hz: tuple[float, float]) -> Note | None:
    """The note that hangs longest among those heard, by the same rule as the prediction."""
    inside = [note for note in notes if range_hz[0] <= note.f_hz <= range_hz[1]]
    if not inside:
        return None
    loudest = max(note.level_db for note in inside)
    return max((note for note in inside if note.level_db >= loudest - HEARD_WITHIN_DB), key=lambda note: note.t60_s)


def matched_modes(result: Json, forecast: Forecast) -> list[Json]:
    """Ringing notes beside the predicted mode nearest to each, within 3 %."""
    modes = forecast.modes
    listed = []
    for note in result.get("ringing", []):
        near = np.flatnonzero(np.abs(modes.f_hz / note["f_hz"] - 1) < SAME_MODE)
        best = (
            int(near[np.argmax(forecast.heard_db[near] - 200 * np.abs(modes.f_hz[near] / note["f_hz"] - 1))])
            if len(near)
            else None
        )
        mode = (
            None
            if best is None
            else {
                "f_hz": modes.f_hz[best],
                "t60_s": modes.t60_s[best],
                "indices": None if modes.orders is None else [int(n) for n in modes.orders[best]],
            }
        )
        listed.append({**note, "mode": mode})
    matched: list[Json] = rounded(listed, 3)
    return matched


def matched_swells(result: Json, forecast: Forecast) -> list[Json]:
    """Swells of a glide beside the predicted mode within 3 % that is heard most at the microphone."""
    modes = forecast.modes
    listed = []
    for swell in result.get("swells", []):
        near = np.flatnonzero(np.abs(modes.f_hz / swell["f_hz"] - 1) < SAME_MODE)
        best = int(near[np.argmax(forecast.heard_db[near])]) if len(near) else None
        mode = (
            None if best is None else {"f_hz": modes.f_hz[best], "t60_s": modes.t60_s[best], "kind": modes.kinds[best]}
        )
        listed.append({**swell, "mode": mode})
    matched: list[Json] = rounded(listed, 3)
    return matched


def fitting_walls(result: Json, pairs: list[Json]) -> Json | None:
    """A measured flutter with the pair of surfaces whose spacing fits within 5 %, the hardest first."""
    flutter: Json | None = result.get("flutter")
    if flutter is None:
        return None
    fits = [pair for pair in pairs if abs(pair["spacing_m"] / flutter["spacing_m"] - 1) < 0.05]
    best = max(fits, key=lambda pair: pair["lasts_s"]) if fits else None
    return {**flutter, "between": best["where"] if best else None}


def named_reflections(result: Json, paths: list[Json]) -> list[Json]:
    """Measured early arrivals beside the drawn path that fits within 0.35 ms and 15 dB."""
    listed = []
    for found in result.get("early", []):
        near = [
            p
            for p in paths
            if abs(p["delay_ms"] - found["delay_ms"]) < 0.35 and abs(p["level_db"] - found["level_db"]) < 15
        ]
        best = max(near, key=lambda path: path["level_db"]) if near else None
        listed.append(
            {**found, "where": best["where"] if best else None, "predicted_db": best["level_db"] if best else None}
        )
    return listed


def tape_checked(figures: ResponseFigures, forecast: Forecast) -> Json | None:
    """Whether the returns heard agree with the lengths taped."""
    return tape_json(
        tape_check(forecast.room, forecast.arrangement, forecast.paths, figures.impulse, figures.sample_rate_hz),
        forecast,
    )


def calibration_of_rig(gain_db: float) -> float:
    """Level that 0 dBFS corresponds to on the rig: known, since it is simulated. [dB re 20 uPa]"""
    return FULL_SCALE_SPL_DB - gain_db


def impulse_for_plot(figures: ResponseFigures, *, seconds: float = 0.05) -> Json:
    """Energy-time curve after the direct sound, thinned for drawing."""
    start = max(onset_index(figures.impulse) - int(0.001 * figures.sample_rate_hz), 0)
    part: FloatArray = figures.impulse[start : start + int(seconds * figures.sample_rate_hz)]
    block = max(int(0.0001 * figures.sample_rate_hz), 1)
    power = part[: len(part) // block * block].reshape(-1, block) ** 2
    level = 10 * np.log10(np.maximum(power.max(axis=1) / power.max(), 1e-6))
    time_ms = (np.arange(len(level)) + 0.5) * block / figures.sample_rate_hz * 1000 - 1.0
    plot: Json = rounded({"time_ms": time_ms, "level_db": level}, 2)
    return plot
