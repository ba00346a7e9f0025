"""Readings kept: imported, recorded or from the rig; marks as measured now; audio kept with each."""

from typing import Any, Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.read.sweep import SweepSpec, exponential_sweep
from keenquiet.documents import ArrangementDoc, RoomDoc, read_room
from keenquiet.service.answers import Json, flutter_json, paths_json
from keenquiet.service.data import Data, new_id, note_in_ledger, now, room_row
from keenquiet.service.predict import predict
from keenquiet.service.reading import (
    KINDS,
    Answer,
    analyse,
    calibration_of_rig,
    fitting_walls,
    impulse_for_plot,
    matched_modes,
    matched_swells,
    measured_marks,
    named_reflections,
    rig_recording,
)  # fmt: skip
from keenquiet.service.rooms import reading_rows
from keenquiet.store.audiofile import Audio, decode_apart, wav_bytes
from keenquiet.store.errors import NotFound
from keenquiet.store.models import Reading

WAYS: Final = ("import", "browser", "rig")
_WORDS: Final = {
    "sweep": "Sweep",
    "ir": "Impulse response",
    "clap": "Clap",
    "glide": "Hum glide",
    "tone": "Silence",
    "take": "Test take",
}
# What must be the same for a reading to still speak of the arrangement that stands.
_PLACES: Final = ("performer", "microphone", "treatments", "silenced")


def take_in(
    data: Data, room_id: str, *, kind: str, way: str, file_name: str, content: bytes, arrangement_id: str | None, settings: Json
) -> Json:
    """Keep an imported or recorded reading. Raises InputError when the file cannot be decoded at all."""
    if kind not in KINDS:
        raise InputError("kind", f"{kind!r} is not a kind of reading.", f"Use one of {', '.join(KINDS)}.")
    if way not in WAYS[:2]:
        raise InputError("way", f"{way!r} is not a way in.", "Use import or browser.")
    audio = decode_apart(content, file_name)
    return _kept(data, room_id, kind, way, file_name, content, audio, arrangement_id, settings)


def from_rig(data: Data, room_id: str, *, kind: str, arrangement_id: str | None, gain_db: float, seed: int | None = None) -> Json:
    """Let the practice rig take a reading of the room as arranged; its seed differs each time unless given."""
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    arrangement = room.arrangement_doc(arrangement_id)
    if not -30 <= gain_db <= 40:
        raise InputError("gain_db", f"{gain_db:g} dB lies outside -30 to 40 dB.", "Set the gain within the rig's range.")
    chosen = seed if seed is not None else int.from_bytes(bytes.fromhex(new_id().replace("-", "")[:6]), "big")
    recording = rig_recording(room, arrangement, kind, seed=chosen, gain_db=gain_db)
    content = wav_bytes(recording.samples, recording.sample_rate_hz)
    audio = Audio(recording.samples[None, :], float(recording.sample_rate_hz), 24, ".wav")
    settings = {"gain_db": gain_db, "device": "practice rig", "seed": chosen, "calibration_db": calibration_of_rig(gain_db)}
    return _kept(data, room_id, kind, "rig", f"rig-{kind}.wav", content, audio, arrangement_id, settings)


def _kept(
    data: Data, room_id: str, kind: str, way: str, file_name: str, content: bytes, audio: Audio, arrangement_id: str | None,
    settings: Json,
) -> Json:  # fmt: skip
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    arrangement = room.arrangement_doc(arrangement_id)
    options: dict[str, Any] = {}
    if kind == "tone" and isinstance(settings.get("calibration_db"), int | float):
        options["calibration_db"] = float(settings["calibration_db"])
    answer = analyse(audio, kind, curves=True, **options)
    measured, predicted = measured_marks(kind, answer, room, arrangement)
    result = _with_room(answer, room, arrangement)
    digest = data.audio.keep(content, audio.suffix)
    row = Reading(
        id=new_id(), room_id=room_id, kind=kind, way=way, simulated=way == "rig", taken_at=now(),
        arrangement=arrangement.model_dump(mode="json", exclude_none=True), audio_sha256=digest, audio_suffix=audio.suffix,
        file_name=file_name[:200], sample_rate_hz=audio.sample_rate_hz, seconds=audio.seconds, settings=settings, result=result,
        measured=measured, predicted=predicted, note="",
    )  # fmt: skip
    with data.database.session() as session:
        room_row(session, room_id)
        session.add(row)
        session.flush()
        verdict = result["verdict"]["word"]
        title = f"{_WORDS[kind]}{' (simulated)' if row.simulated else ''}: {verdict}"
        note_in_ledger(session, room_id, "reading", title, {"measured": measured, "predicted": predicted}, reading_id=row.id)
    return full(row)


def _with_room(answer: Answer, room: RoomDoc, arrangement: ArrangementDoc) -> Json:
    """The answer set beside the drawing: reflections named by surface, ringing notes matched with modes."""
    result = dict(answer.result)
    here = room.model_copy(update={"arrangements": [arrangement]})
    try:
        forecast = predict(here, arrangement.id)
    except InputError:
        forecast = None  # a room that cannot be predicted still keeps its reading
    if answer.response is not None:
        result["energy_time"] = impulse_for_plot(answer.response)
        if forecast is not None:
            result["ringing"] = matched_modes(result, forecast)
            result["early"] = named_reflections(result, paths_json(forecast, here))
            result["flutter"] = fitting_walls(result, flutter_json(forecast, here))
            result["trusted_above_hz"] = round(forecast.decay.trusted_above_hz, 1)
    elif "swells" in result and forecast is not None:
        result["swells"] = matched_swells(result, forecast)
    return result


def summary(row: Reading) -> Json:
    """A reading without its figures."""
    return {
        "id": row.id, "kind": row.kind, "way": row.way, "simulated": row.simulated, "taken_at": row.taken_at.isoformat(),
        "file_name": row.file_name, "sample_rate_hz": row.sample_rate_hz, "seconds": row.seconds, "note": row.note,
        "verdict": row.result["verdict"], "measured": row.measured, "predicted": row.predicted, "settings": row.settings,
    }  # fmt: skip


def full(row: Reading) -> Json:
    """A reading with everything that the plots show."""
    return {**summary(row), "result": row.result, "arrangement": row.arrangement}


def listed(data: Data, room_id: str, *, binned: bool = False) -> list[Json]:
    """Readings of a room, or those in its bin, newest first."""
    return [summary(row) for row in reading_rows(data, room_id, binned=binned)]


def opened(data: Data, reading_id: str) -> Json:
    """One reading with its figures. Raises NotFound."""
    with data.database.session() as session:
        return full(_row(session.get(Reading, reading_id)))


def audio_of(data: Data, reading_id: str) -> tuple[bytes, str]:
    """The sound kept with a reading, and its suffix."""
    with data.database.session() as session:
        row = _row(session.get(Reading, reading_id))
    return data.audio.path(row.audio_sha256, row.audio_suffix).read_bytes(), row.audio_suffix


def set_binned(data: Data, reading_id: str, *, binned: bool) -> Json:
    """Put a reading into the bin, or take it out again."""
    with data.database.session() as session:
        row = _row(session.get(Reading, reading_id))
        row.deleted_at = now() if binned else None
        words = "put into the bin" if binned else "taken out of the bin"
        note_in_ledger(session, row.room_id, "bin", f"{_WORDS[row.kind]} {words}", {}, reading_id=row.id)
        return summary(row)


def _row(row: Reading | None) -> Reading:
    if row is None:
        raise NotFound("There is no such reading here.")
    return row


def sweep_wav(sample_rate_hz: int = 48_000, *, spec: SweepSpec | None = None) -> bytes:
    """The sweep file to play: half a second of silence, the sweep at -12 dBFS, two seconds of silence."""
    if sample_rate_hz not in (44_100, 48_000, 88_200, 96_000):
        raise InputError("rate", f"{sample_rate_hz} Hz is not offered.", "Use 44100, 48000, 88200 or 96000.")
    sweep = 0.25 * exponential_sweep(spec or SweepSpec(), sample_rate_hz)
    return wav_bytes(np.pad(sweep, (sample_rate_hz // 2, 2 * sample_rate_hz)), sample_rate_hz)


def measured_now(data: Data, room_id: str) -> Json:
    """The marks as last measured, each with its reading; `stale` when the arrangement has changed since.

    Real readings come first: a simulated one counts only where no real one settles the mark.
    """
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    rows = [row for row in reading_rows(data, room_id) if row.result["verdict"]["usable"]]
    marks: Json = {}
    for mark in ("bounce", "boom", "hush", "touch"):
        settling = [row for row in rows if mark in row.measured]
        chosen = next((row for row in settling if not row.simulated), settling[0] if settling else None)
        if chosen is not None:
            marks[mark] = _mark_from(chosen, chosen.measured[mark], room)
    _hush_from_silence(rows, marks, room)
    return marks


def _mark_from(row: Reading, figure: Json, room: RoomDoc) -> Json:
    # A sweep is played by a loudspeaker; the mark speaks of the performer, whose directivity differs.
    value = round(figure["value"] + figure.get("performer_correction_db", 0.0), 4)
    return {
        **figure, "value": value, "raw_value": figure["value"], "reading_id": row.id, "taken_at": row.taken_at.isoformat(), "simulated": row.simulated,
        "stale": _places(row.arrangement) != _places(_standing(room)),
    }  # fmt: skip


def _standing(room: RoomDoc) -> Json:
    return room.arrangement_doc(None).model_dump(mode="json", exclude_none=True)


def _places(arrangement: Json) -> list[Any]:
    return [arrangement.get(key) or None for key in _PLACES]


def _hush_from_silence(rows: list[Reading], marks: Json, room: RoomDoc) -> None:
    """A recorded silence and a take give Hush better than a take's pauses, when nothing changed between them.

    Both must come through the same chain at the same gain, with everybody in the same place. Imported files never count:
    nothing is known of their gain. Real pairs come before simulated ones, and those never over a real figure.
    """
    for tone in sorted((row for row in rows if row.kind == "tone" and row.way != "import"), key=lambda row: row.simulated):
        if tone.simulated and marks.get("hush") and not marks["hush"]["simulated"]:
            return
        for take in (row for row in rows if row.kind == "take" and _chain(row) == _chain(tone)):
            noise = tone.result["laeq_db"] - (tone.settings.get("calibration_db") or 0.0)
            figure = {"value": round(take.result["active_dba"] - noise, 2), "plus_minus": 1.5, "from": "a silence and a take"}
            marks["hush"] = _mark_from(tone, figure, room)
            return


def _chain(row: Reading) -> list[Any]:
    return [row.way, row.settings.get("device"), row.settings.get("gain_db"), *_places(row.arrangement)]
