"""Readings kept: imported, recorded or from the rig; marks as measured now; audio kept with each."""

from typing import Any, Final

import numpy as np

from keenquiet.core.errors import InputError
from keenquiet.core.read.curve import read_curve
from keenquiet.core.read.decay import band_decays
from keenquiet.core.read.quality import Verdict
from keenquiet.core.read.sweep import SweepSpec, exponential_sweep
from keenquiet.documents import ArrangementDoc, RoomDoc, read_room
from keenquiet.service import calibrations
from keenquiet.service.answers import Json, band_rows, flutter_json, paths_json, rounded, verdict_json
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
    tape_checked,
)
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
    "spoken": "Spoken line",
    "pops": "Pop words",
    "loudest": "Loudest passage",
    "curve": "Curve",
}
# What must be the same for a reading to still speak of the arrangement that stands.
_PLACES: Final = ("performer", "microphone", "treatments", "silenced")


def take_in(
    data: Data,
    room_id: str,
    *,
    kind: str,
    way: str,
    file_name: str,
    content: bytes,
    arrangement_id: str | None,
    settings: Json,
) -> Json:
    """Keep an imported or recorded reading. Raises InputError when the file cannot be decoded at all."""
    if kind not in (*KINDS, "curve"):
        raise InputError("kind", f"{kind!r} is not a kind of reading.", f"Use one of {', '.join(KINDS)} or curve.")
    if way not in WAYS[:2]:
        raise InputError("way", f"{way!r} is not a way in.", "Use import or browser.")
    if kind == "curve":
        return _curve_kept(data, room_id, file_name, content, arrangement_id, settings)
    audio = decode_apart(content, file_name)
    if kind == "tone":
        settings = {**settings, **calibrations.for_chain(data, settings)}
    return _kept(data, room_id, kind, way, file_name, content, audio, arrangement_id, settings)


def from_rig(
    data: Data,
    room_id: str,
    *,
    kind: str,
    arrangement_id: str | None,
    gain_db: float,
    seed: int | None = None,
    faults: tuple[str, ...] = (),
) -> Json:
    """Let the practice rig take a reading of the room as arranged; its seed differs each time unless given."""
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    arrangement = room.arrangement_doc(arrangement_id)
    if not -30 <= gain_db <= 40:
        raise InputError(
            "gain_db", f"{gain_db:g} dB lies outside -30 to 40 dB.", "Set the gain within the rig's range."
        )
    chosen = seed if seed is not None else int.from_bytes(bytes.fromhex(new_id().replace("-", "")[:6]), "big")
    recording = rig_recording(room, arrangement, kind, seed=chosen, gain_db=gain_db, faults=faults)
    content = wav_bytes(recording.samples, recording.sample_rate_hz)
    audio = Audio(np.atleast_2d(recording.samples), float(recording.sample_rate_hz), 24, ".wav")
    settings = {
        "gain_db": gain_db,
        "device": "practice rig",
        "seed": chosen,
        "calibration_db": calibration_of_rig(gain_db),
    }
    if faults:
        settings["faults"] = list(faults)
    return _kept(data, room_id, kind, "rig", f"rig-{kind}.wav", content, audio, arrangement_id, settings)


def _kept(
    data: Data,
    room_id: str,
    kind: str,
    way: str,
    file_name: str,
    content: bytes,
    audio: Audio,
    arrangement_id: str | None,
    settings: Json,
) -> Json:
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    arrangement = room.arrangement_doc(arrangement_id)
    answer = analyse(audio, kind, curves=True, **_calibrated(kind, settings))
    measured, predicted = measured_marks(kind, answer, room, arrangement)
    return filed(
        data,
        room_id,
        kind=kind,
        way=way,
        simulated=way == "rig",
        file_name=file_name,
        content=content,
        suffix=audio.suffix,
        sample_rate_hz=audio.sample_rate_hz,
        seconds=audio.seconds,
        arrangement=arrangement,
        settings=settings,
        result=with_room(answer, kind, room, arrangement),
        measured=measured,
        predicted=predicted,
    )


def _calibrated(kind: str, settings: Json) -> Json:
    value = settings.get("calibration_db")
    return {"calibration_db": float(value)} if kind == "tone" and isinstance(value, int | float) else {}


def _curve_kept(
    data: Data, room_id: str, file_name: str, content: bytes, arrangement_id: str | None, settings: Json
) -> Json:
    with data.database.session() as session:
        arrangement = read_room(room_row(session, room_id).document).arrangement_doc(arrangement_id)
    try:
        f_hz, level_db = read_curve(content.decode("utf-8-sig"))
    except UnicodeDecodeError as exc:
        raise InputError(
            "file", f"{file_name} is no text.", "Give frequency in Hz and level in dB, one pair a line."
        ) from exc
    result = {"curve": rounded({"f_hz": f_hz, "level_db": level_db}, 3), "verdict": verdict_json(Verdict(True))}
    return filed(
        data,
        room_id,
        kind="curve",
        way="import",
        simulated=False,
        file_name=file_name,
        content=content,
        suffix=".csv",
        sample_rate_hz=0.0,
        seconds=0.0,
        arrangement=arrangement,
        settings=settings,
        result=result,
        measured={},
        predicted={},
    )


def filed(
    data: Data, room_id: str, *, content: bytes, suffix: str, arrangement: ArrangementDoc, file_name: str, **fields: Any
) -> Json:
    """Put a reading and its sound where they stay, with its line in the ledger; whole or not at all."""
    digest = data.audio.keep(content, suffix)
    row = Reading(
        id=new_id(),
        room_id=room_id,
        taken_at=now(),
        arrangement=arrangement.model_dump(mode="json", exclude_none=True),
        audio_sha256=digest,
        audio_suffix=suffix,
        file_name=file_name[:200],
        note="",
        tags=[],
        counts=True,
        **fields,
    )
    with data.database.session() as session:
        room_row(session, room_id)
        session.add(row)
        session.flush()
        title = f"{_WORDS[row.kind]}{' (simulated)' if row.simulated else ''}: {row.result['verdict']['word']}"
        detail = {"measured": row.measured, "predicted": row.predicted}
        note_in_ledger(session, room_id, "reading", title, detail, reading_id=row.id)
    return full(row)


def with_room(answer: Answer, kind: str, room: RoomDoc, arrangement: ArrangementDoc) -> Json:
    """The answer set beside the drawing: reflections named by surface, ringing notes matched with modes, the tape
    checked.
    """
    result = dict(answer.result)
    here = room.model_copy(update={"arrangements": [arrangement]})
    try:
        forecast = predict(here, arrangement.id, loudspeaker=kind in ("sweep", "ir"))
    except InputError:
        forecast = None  # a room that cannot be predicted still keeps its reading
    if answer.response is not None:
        figures = answer.response
        result["thirds"] = band_rows(band_decays(figures.impulse, figures.sample_rate_hz, fraction=3))
        result["energy_time"] = impulse_for_plot(figures)
        if forecast is not None:
            result["ringing"] = matched_modes(result, forecast)
            result["early"] = named_reflections(result, paths_json(forecast, here))
            result["flutter"] = fitting_walls(result, flutter_json(forecast, here))
            result["trusted_above_hz"] = round(forecast.decay.trusted_above_hz, 1)
            result["tape"] = tape_checked(figures, forecast)
    elif "swells" in result and forecast is not None:
        result["swells"] = matched_swells(result, forecast)
    return result


def summary(row: Reading) -> Json:
    """A reading without its figures."""
    return {
        "id": row.id,
        "kind": row.kind,
        "way": row.way,
        "simulated": row.simulated,
        "taken_at": row.taken_at.isoformat(),
        "file_name": row.file_name,
        "sample_rate_hz": row.sample_rate_hz,
        "seconds": row.seconds,
        "note": row.note,
        "tags": row.tags,
        "counts": row.counts,
        "verdict": row.result["verdict"],
        "measured": row.measured,
        "predicted": row.predicted,
        "settings": row.settings,
        "headline": headline(row),
        "mic_at": row.arrangement["microphone"]["at"],
    }


def headline(row: Reading) -> Json:
    """The few figures that a table of readings shows; null where the reading does not give one."""
    result = row.result
    mid = [band for band in result.get("bands", []) if band["centre_hz"] in (500, 1000)]

    def middle(key: str) -> float | None:
        given = [band[key] for band in mid if band.get(key) is not None]
        return round(sum(given) / len(given), 3) if given else None

    return {
        "t_mid_s": result.get("t_mid_s"),
        "edt_mid_s": middle("edt_s"),
        "c50_mid_db": middle("c50_db"),
        "direct_over_room_db": result.get("direct_over_room_db"),
        "laeq_db": result.get("laeq_db"),
        "calibrated": result.get("calibrated"),
        "true_peak_dbtp": result.get("true_peak_dbtp"),
        "snr_db": result.get("snr_db"),
        "loudness_lufs": result.get("loudness_lufs"),
        "swell_hz": result["swells"][0]["f_hz"] if result.get("swells") else None,
        "pops": sum(f["kind"] == "pop" for f in result["findings"])
        if row.kind == "pops" and "findings" in result
        else None,
    }


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


def described(data: Data, reading_id: str, *, note: str | None, tags: list[str] | None, counts: bool | None) -> Json:
    """Change what is said of a reading: its note, its tags, whether it counts for marks and fit."""
    with data.database.session() as session:
        row = _row(session.get(Reading, reading_id))
        if note is not None:
            row.note = note
        if tags is not None:
            row.tags = list(dict.fromkeys(tag.strip()[:40] for tag in tags if tag.strip()))[:12]
        if counts is not None and counts != row.counts:
            row.counts = counts
            words = "counts again" if counts else "set aside: it settles no mark"
            note_in_ledger(session, row.room_id, "reading", f"{_WORDS[row.kind]} {words}", {}, reading_id=row.id)
        return summary(row)


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
    rows = [row for row in reading_rows(data, room_id) if row.counts and row.result["verdict"]["usable"]]
    marks: Json = {}
    for mark in ("bounce", "boom", "hush", "touch"):
        settling = [row for row in rows if mark in row.measured]
        chosen = next((row for row in settling if not row.simulated), settling[0] if settling else None)
        if chosen is not None:
            marks[mark] = _mark_from(chosen, chosen.measured[mark], room)
    _hush_from_silence(rows, marks, room)
    _pops_into_touch(rows, marks)
    return marks


def _pops_into_touch(rows: list[Reading], marks: Json) -> None:
    """The newest reading of pop words adds its pops to Touch, real before simulated, never a simulated one to a real
    figure.
    """
    said = [row for row in rows if row.kind == "pops"]
    chosen = next((row for row in said if not row.simulated), said[0] if said else None)
    if chosen is None or "touch" not in marks or (chosen.simulated and not marks["touch"]["simulated"]):
        return
    pops = [finding["value"] for finding in chosen.result["findings"] if finding["kind"] == "pop"]
    marks["touch"] |= {"pops": len(pops), "pop_db": max(pops, default=None)}


def _mark_from(row: Reading, figure: Json, room: RoomDoc) -> Json:
    # A sweep is played by a loudspeaker; the mark speaks of the performer, whose directivity differs.
    value = round(figure["value"] + figure.get("performer_correction_db", 0.0), 4)
    return {
        **figure,
        "value": value,
        "raw_value": figure["value"],
        "reading_id": row.id,
        "taken_at": row.taken_at.isoformat(),
        "simulated": row.simulated,
        "stale": _places(row.arrangement) != _places(_standing(room)),
    }


def _standing(room: RoomDoc) -> Json:
    return room.arrangement_doc(None).model_dump(mode="json", exclude_none=True)


def _places(arrangement: Json) -> list[Any]:
    return [arrangement.get(key) or None for key in _PLACES]


def _hush_from_silence(rows: list[Reading], marks: Json, room: RoomDoc) -> None:
    """A recorded silence and a take give Hush better than a take's pauses, when nothing changed between them.

    Both must come through the same chain at the same gain, with everybody in the same place. Imported files never
    count:
    nothing is known of their gain. Real pairs come before simulated ones, and those never over a real figure.
    """
    for tone in sorted(
        (row for row in rows if row.kind == "tone" and row.way != "import"), key=lambda row: row.simulated
    ):
        if tone.simulated and marks.get("hush") and not marks["hush"]["simulated"]:
            return
        for take in (row for row in rows if row.kind == "take" and _chain(row) == _chain(tone)):
            noise = tone.result["laeq_db"] - (tone.settings.get("calibration_db") or 0.0)
            figure = {
                "value": round(take.result["active_dba"] - noise, 2),
                "plus_minus": 1.5,
                "from": "a silence and a take",
            }
            marks["hush"] = _mark_from(tone, figure, room)
            return


def _chain(row: Reading) -> list[Any]:
    set_as = [row.settings.get(key) for key in ("device", "channel", "gain", "gain_db")]
    return [row.way, *set_as, *_places(row.arrangement)]
