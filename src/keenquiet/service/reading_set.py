"""What several readings give together: an average, a table, the same words compared, a calibration and all it
changes.
"""

import csv
import io
from typing import Any, Final

import numpy as np
from sqlalchemy import select

from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.read.average import Averaged, averaged
from keenquiet.core.take.same_words import same_words
from keenquiet.core.types import FloatArray
from keenquiet.documents import ArrangementDoc, read_room
from keenquiet.service import calibrations
from keenquiet.service.answers import Json, rounded
from keenquiet.service.data import Data, note_in_ledger, room_row
from keenquiet.service.predict import predict
from keenquiet.service.reading import RESPONSES, SPOKEN, TAKES, Answer, analyse, measured_marks, speaking
from keenquiet.service.readings import filed, summary, with_room
from keenquiet.service.rooms import reading_rows
from keenquiet.store.audiofile import Audio, decode_apart, wav_bytes
from keenquiet.store.errors import NotFound
from keenquiet.store.models import Reading

_PLAYED_RMS_DBFS: Final = -24.0
_MOST_RAISE_DB: Final = 60.0
_MOST_PART_S: Final = 120.0
_COLUMNS: Final = (
    ("Kind", "kind"),
    ("Taken", "taken_at"),
    ("Way", "way"),
    ("Simulated", "simulated"),
    ("Counts", "counts"),
    ("Verdict", "word"),
    ("Reasons", "reasons"),
    ("Microphone x [m]", "mic_x"),
    ("Microphone y [m]", "mic_y"),
    ("Microphone z [m]", "mic_z"),
    ("T mid [s]", "t_mid_s"),
    ("EDT mid [s]", "edt_mid_s"),
    ("C50 mid [dB]", "c50_mid_db"),
    ("Direct over room [dB]", "direct_over_room_db"),
    ("LAeq [dB or dBFS]", "laeq_db"),
    ("Calibrated", "calibrated"),
    ("True peak [dBTP]", "true_peak_dbtp"),
    ("Under the performance [dB]", "snr_db"),
    ("Loudness [LUFS]", "loudness_lufs"),
    ("Strongest swell [Hz]", "swell_hz"),
    ("Pops", "pops"),
    ("Tags", "tags"),
    ("Note", "note"),
    ("File", "file_name"),
)


def _opened(data: Data, reading_id: str) -> Reading:
    with data.database.session() as session:
        row = session.get(Reading, reading_id)
    if row is None:
        raise NotFound("There is no such reading here.")
    return row


def sound_of(data: Data, row: Reading) -> Audio:
    """The sound kept with a reading, decoded."""
    if row.audio_suffix == ".csv":
        raise InputError("reading", "is a curve; it has no sound.", "Choose a recording.")
    return decode_apart(data.audio.path(row.audio_sha256, row.audio_suffix).read_bytes(), row.file_name)


def loudest_channel(audio: Audio) -> FloatArray:
    """The channel that holds the sound, (n,)."""
    channel: FloatArray = audio.channels[int(np.argmax(audio.channels.std(axis=1)))]
    return channel


def impulse_of(data: Data, reading_id: str) -> tuple[FloatArray, float]:
    """The impulse response behind a sweep, clap or imported response, and its sample rate. Raises InputError for other
    kinds.
    """
    row = _opened(data, reading_id)
    if row.kind not in RESPONSES:
        raise InputError("reading", "holds no impulse response.", "Choose a sweep, a clap or an imported response.")
    answer = analyse(sound_of(data, row), row.kind)
    if answer.response is None:
        raise InputError("reading", "could not be read; it has no impulse response.", "See its verdict.")
    return answer.response.impulse, answer.response.sample_rate_hz


def response_wav(impulse: FloatArray, sample_rate_hz: float) -> bytes:
    """An impulse response as 32-bit float WAV, peak at 0.9."""
    return wav_bytes(impulse / max(float(np.max(np.abs(impulse))), 1e-12) * 0.9, sample_rate_hz, subtype="FLOAT")


def impulse_wav(data: Data, reading_id: str) -> bytes:
    """A reading's impulse response as WAV."""
    return response_wav(*impulse_of(data, reading_id))


def mean_response(found: list[tuple[FloatArray, float]], *, field: str) -> tuple[Averaged, float, Answer]:
    """Mean of repeats (impulse, sample rate), its rate, and what is read from it.

    Raises InputError on `field` when they are fewer than two, of different sample rates, or unlike each other.
    """
    if len(found) < 2:
        raise InputError(field, "names fewer than two readings.", "Choose two or more.")
    if len({rate for _, rate in found}) > 1:
        raise InputError(field, "names readings of different sample rates.", "Average readings of one recorder.")
    rate = found[0][1]
    try:
        mean = averaged([impulse for impulse, _ in found], rate)
    except MeasurementError as exc:
        raise InputError(field, exc.reason, exc.cure) from exc
    return mean, rate, analyse(Audio(mean.impulse[None], rate, None, ".wav"), "ir", curves=True)


def average_of(data: Data, room_id: str, reading_ids: list[str]) -> Json:
    """Keep the average of repeats of a sweep as a reading of its own.

    Raises InputError when they are fewer than two, simulated and real ones mixed, taken elsewhere or otherwise, or
    unlike each other.
    """
    rows = [_opened(data, reading_id) for reading_id in dict.fromkeys(reading_ids)]
    if any(
        row.room_id != room_id or row.kind not in ("sweep", "ir") or not row.result["verdict"]["usable"] for row in rows
    ):
        raise InputError(
            "reading_ids", "names something that is no usable sweep of this room.", "Choose usable sweeps only."
        )
    if len({row.simulated for row in rows}) > 1:
        raise InputError("reading_ids", "mixes simulated with real readings.", "Average either, never both.")
    if len({str([row.arrangement.get(k) for k in ("performer", "microphone", "treatments")]) for row in rows}) > 1:
        raise InputError(
            "reading_ids",
            "names readings of different places or treatment.",
            "Average repeats only; compare the others.",
        )
    mean, rate, answer = mean_response([impulse_of(data, row.id) for row in rows], field="reading_ids")
    with data.database.session() as session:
        room = read_room(room_row(session, room_id).document)
    arrangement = ArrangementDoc.model_validate(rows[0].arrangement)
    measured, predicted = measured_marks("ir", answer, room, arrangement)
    return filed(
        data,
        room_id,
        kind="ir",
        way=rows[0].way,
        simulated=rows[0].simulated,
        file_name=f"average-of-{len(rows)}.wav",
        content=response_wav(mean.impulse, rate),
        suffix=".wav",
        sample_rate_hz=rate,
        seconds=len(mean.impulse) / rate,
        arrangement=arrangement,
        settings={
            "average_of": [row.id for row in rows],
            "likeness": round(mean.likeness, 3),
            "device": rows[0].settings.get("device"),
        },
        result=with_room(answer, "ir", room, arrangement),
        measured=measured,
        predicted=predicted,
    )


def part_wav(data: Data, reading_id: str, *, from_s: float, to_s: float, level: bool) -> tuple[bytes, float]:
    """Part of a reading's sound to listen to, raised to an audible level when asked, and by how much. [dB]

    Raises InputError when the part lies outside the recording.
    """
    row = _opened(data, reading_id)
    audio = sound_of(data, row)
    if not 0 <= from_s < to_s or from_s >= audio.seconds:
        raise InputError(
            "from_s", f"{from_s:g} to {to_s:g} s is no part of {audio.seconds:.1f} s.", "Choose a part inside."
        )
    rate = audio.sample_rate_hz
    samples = loudest_channel(audio)[int(from_s * rate) : int(min(to_s, from_s + _MOST_PART_S) * rate)]
    samples = samples - samples.mean()
    raised = 0.0
    if level:
        rms = 20 * float(np.log10(max(float(samples.std()), 1e-9)))
        peak = 20 * float(np.log10(max(float(np.max(np.abs(samples))), 1e-9)))
        raised = float(np.clip(min(_PLAYED_RMS_DBFS - rms, -1.0 - peak), 0.0, _MOST_RAISE_DB))
    fade = np.clip(np.minimum(np.arange(len(samples)), np.arange(len(samples))[::-1]) / (0.01 * rate), 0, 1)
    return wav_bytes(samples * fade * 10 ** (raised / 20), rate), raised


def words_compared(data: Data, first_id: str, second_id: str) -> Json:
    """Two recordings of the same words, level-matched: `{gain_db, thirds: [{centre_hz, difference_db}], noise_db,
    simulated}`.
    """
    rows = [_opened(data, reading_id) for reading_id in (first_id, second_id)]
    if any(row.kind not in TAKES for row in rows):
        raise InputError("reading", "is no take or spoken line.", "Choose two recordings of the same words.")
    sounds = [sound_of(data, row) for row in rows]
    return {**words_answer(*sounds), "simulated": [row.simulated for row in rows]}


def words_answer(first: Audio, second: Audio) -> Json:
    """Contract of `analyse compare`."""
    try:
        found = same_words(loudest_channel(first), first.sample_rate_hz, loudest_channel(second), second.sample_rate_hz)
    except MeasurementError as exc:
        raise InputError("file", exc.reason, exc.cure) from exc
    answer: Json = rounded(
        {
            "gain_db": found.gain_db,
            "thirds": [
                {"centre_hz": f, "difference_db": d} for f, d in zip(found.centres_hz, found.difference_db, strict=True)
            ],
            "noise_db": found.noise_db,
        },
        2,
    )
    return answer


def readings_csv(data: Data, room_id: str) -> str:
    """All readings of a room as a table, newest first, units in the header."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\n")
    writer.writerow([name for name, _ in _COLUMNS])
    for row in reading_rows(data, room_id):
        said = summary(row)
        cells: dict[str, Any] = {
            **said,
            **said["headline"],
            "word": said["verdict"]["word"],
            "tags": " ".join(said["tags"]),
            "reasons": " ".join(reason["code"] for reason in said["verdict"]["reasons"]),
            **dict(zip(("mic_x", "mic_y", "mic_z"), said["mic_at"], strict=True)),
        }
        writer.writerow([_plain(cells[key]) for _, key in _COLUMNS])
    return buffer.getvalue()


def _plain(value: Any) -> Any:
    """A cell that no spreadsheet takes for a formula."""
    if isinstance(value, str) and value and value[0] in "=+-@\t":
        return f"'{value}"
    return "" if value is None else value


def calibrated_by_reading(data: Data, reading_id: str, *, method: str, level_db: float | None) -> Json:
    """Calibrate a reading's chain by what a meter showed during a silence, or roughly by a voice's usual level.

    meter : a silence and the dB(A) that a sound level meter beside the microphone showed. voice : a take or spoken
    line; the level predicted
    for this performer, or for speech, at the microphone. Silences of the same chain are read anew. Raises InputError
    where one of them is missing.
    """
    row = _opened(data, reading_id)
    chain = calibrations.chain_of(row.settings)
    if chain is None:
        raise InputError("reading", "does not say its device and gain.", "Take it again and say how the gain was set.")
    if row.simulated:
        raise InputError("reading", "is simulated; the rig knows its own level.", "Calibrate a real chain.")
    if method == "meter":
        if row.kind != "tone" or level_db is None or not 15 <= level_db <= 110:
            raise InputError(
                "level_db",
                "needs a silence and what the meter showed, 15 to 110 dB(A).",
                "Read the meter while the silence is recorded.",
            )
        shown = row.result["laeq_db"] - (row.settings.get("calibration_db") or 0.0)
        full_scale = level_db - shown
    elif method == "voice":
        if row.kind not in TAKES or row.result.get("active_dba") is None:
            raise InputError("reading", "is no take or spoken line.", "Choose one in which the voice sounds as usual.")
        full_scale = _predicted_dba(data, row) - row.result["active_dba"]
    else:
        raise InputError("method", f"{method!r} needs a recording of its own.", "Use meter or voice with a reading.")
    made = calibrations.kept(data, chain, method=method, full_scale_db=full_scale)
    return {**made, "reread": reread_silences(data, chain)}


def _predicted_dba(data: Data, row: Reading) -> float:
    with data.database.session() as session:
        room = read_room(room_row(session, row.room_id).document)
    arrangement = ArrangementDoc.model_validate(row.arrangement)
    if row.kind in SPOKEN:
        arrangement = speaking(arrangement)
    return predict(room.model_copy(update={"arrangements": [arrangement]}), arrangement.id).hush.performance_dba


def reread_silences(data: Data, chain: tuple[str, str, str]) -> int:
    """Read real silences of a chain anew with its calibration; how many there were."""
    found = calibrations.for_chain(data, dict(zip(("device", "channel", "gain"), chain, strict=True)))
    with data.database.session() as session:
        rows = session.scalars(select(Reading).where(Reading.kind == "tone", Reading.simulated.is_(False))).all()
        changed = 0
        for row in rows:
            if (
                calibrations.chain_of(row.settings) != chain
                or row.settings.get("calibration_db") == found["calibration_db"]
            ):
                continue
            row.settings = {**row.settings, **found}
            row.result = analyse(
                sound_of(data, row), "tone", curves=True, calibration_db=found["calibration_db"]
            ).result
            note_in_ledger(session, row.room_id, "reading", "A silence was calibrated", {}, reading_id=row.id)
            changed += 1
    return changed


def calibrated_by_calibrator(
    data: Data, content: bytes, file_name: str, chain: tuple[str, str, str], level_db: float
) -> Json:
    """Calibrate a chain by a recording of a calibrator."""
    full_scale = calibrations.from_calibrator(content, file_name, level_db)
    made = calibrations.kept(data, chain, method="calibrator", full_scale_db=full_scale)
    return {**made, "reread": reread_silences(data, chain)}
