"""What several readings give together: an average, a table, the same words compared, a calibration and all it
changes.
"""

import csv
import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import numpy as np
from sqlalchemy import select

from keenquiet.advice.reasons import error_words
from keenquiet.core.errors import InputError, MeasurementError
from keenquiet.core.read.average import Averaged, averaged
from keenquiet.core.take.loudness import loudness_lufs
from keenquiet.core.take.same_words import same_words
from keenquiet.core.take.threshold import SCALES, changed
from keenquiet.core.types import FloatArray
from keenquiet.documents.convert import read_arrangement
from keenquiet.documents.plain import one_line
from keenquiet.documents.scene import MATTERS, Scene, differences
from keenquiet.service import calibrations
from keenquiet.service.answers.calibrations import CalibrationAnswer
from keenquiet.service.answers.numbers import plain
from keenquiet.service.answers.readings import ReadingAnswer, ReadingSettings, TakeResult, ToneResult
from keenquiet.service.answers.tools import ThirdDifference, WordsAnswer
from keenquiet.service.briefs import brief_of, reading_rows, result_of
from keenquiet.service.data import Data, note_in_ledger
from keenquiet.service.kinds import kind_named, of_form
from keenquiet.service.kinds.base import ReadOptions
from keenquiet.service.kinds.takes import speaking
from keenquiet.service.predict import predict
from keenquiet.service.reading import Heard, analyse
from keenquiet.service.readings import filed, room_of_row, row_of, settings_of, summary_or_damage
from keenquiet.store.apart import decode_apart
from keenquiet.store.audiofile import Audio, wav_bytes
from keenquiet.store.models import Reading

_PLAYED_RMS_DBFS: Final = -24.0
_MOST_RAISE_DB: Final = 60.0
_CHANGE_ROOM_DB: Final = 9.0
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


def sound_of(data: Data, row: Reading) -> Audio:
    """The sound kept with a reading, decoded; of a long take its loudest ten minutes."""
    kind = kind_named(row.kind)
    return decode_apart(
        sound_path(data, row), row.file_name, most_seconds=kind.most_seconds, loudest_part=kind.in_parts
    )


def sound_path(data: Data, row: Reading) -> Path:
    """The file kept with a reading. Raises InputError for a curve."""
    if row.audio_suffix == ".csv":
        raise InputError("reading", "is a curve; it has no sound.", "Choose a recording.")
    return data.audio.path(row.audio_sha256, row.audio_suffix)


def loudest_channel(audio: Audio) -> FloatArray:
    """The channel that holds the sound, (n,)."""
    channel: FloatArray = audio.channels[int(np.argmax(audio.channels.std(axis=1)))]
    return channel


def impulse_of(data: Data, reading_id: str) -> tuple[FloatArray, float]:
    """The impulse response behind a sweep, clap or imported response, and its sample rate. Raises InputError for other
    kinds.
    """
    row = row_of(data, reading_id)
    if kind_named(row.kind).form != "response":
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


def mean_response(found: list[tuple[FloatArray, float]], *, field: str) -> tuple[Averaged, float, Heard]:
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
        raise InputError(field, *error_words(exc)) from exc
    return mean, rate, analyse(Audio(mean.impulse[None], rate, None, ".wav"), "ir", curves=True)


def average_of(data: Data, room_id: str, reading_ids: list[str]) -> ReadingAnswer:
    """Keep the average of repeats of a sweep as a reading of its own.

    Raises InputError when they are fewer than two, simulated and real ones mixed, taken elsewhere or otherwise, or
    unlike each other.
    """
    rows = [row_of(data, reading_id) for reading_id in dict.fromkeys(reading_ids)]
    if any(
        row.room_id != room_id or not kind_named(row.kind).averaged or not result_of(row).verdict.usable for row in rows
    ):
        raise InputError(
            "reading_ids", "names something that is no usable sweep of this room.", "Choose usable sweeps only."
        )
    if len({row.simulated for row in rows}) > 1:
        raise InputError("reading_ids", "mixes simulated with real readings.", "Average either, never both.")
    if len({row.audio_sha256 for row in rows}) < len(rows):
        raise InputError(
            "reading_ids",
            "names the same recording twice: a copy adds nothing to an average.",
            "Choose each recording once.",
        )
    if any(not same_scene(rows[0], row) for row in rows[1:]):
        raise InputError(
            "reading_ids",
            "names readings of different places or treatment.",
            "Average repeats only; compare the others.",
        )
    mean, rate, heard = mean_response([impulse_of(data, row.id) for row in rows], field="reading_ids")
    room, revision = room_of_row(data, room_id)
    arrangement = read_arrangement(rows[0].arrangement)
    settings = ReadingSettings(
        average_of=[row.id for row in rows], likeness=round(mean.likeness, 3), device=rows[0].settings.get("device")
    )
    kept = filed(
        data,
        room_id,
        kind=heard.kind,
        way=rows[0].way,
        simulated=rows[0].simulated,
        file_name=f"average-of-{len(rows)}.wav",
        content=response_wav(mean.impulse, rate),
        audio=Audio(mean.impulse[None], rate, None, ".wav"),
        room=room,
        revision=revision,
        arrangement=arrangement,
        settings=settings,
        result=heard.beside(room, arrangement),
        settled=heard.settled(room, arrangement),
        scene=rows[0].scene,
    )
    return kept


def same_scene(one: Reading, other: Reading) -> bool:
    """Whether two readings were taken in the same scene as far as a response goes."""
    if one.scene is not None and one.scene == other.scene:
        return True
    if one.scene is None or other.scene is None:
        return all(
            one.arrangement.get(k) == other.arrangement.get(k) for k in ("performer", "microphone", "treatments")
        )
    scenes = (Scene.model_validate(row.scene) for row in (one, other))
    return not {found.part for found in differences(*scenes)} & MATTERS["bounce"]


@dataclass(frozen=True)
class PlayedPart:
    """Part of a sound to listen to, by how much it was raised [dB], and its loudness [LUFS], None where too short."""

    content: bytes
    raised_db: float
    loudness_lufs: float | None


def part_wav(
    data: Data,
    reading_id: str,
    *,
    from_s: float,
    to_s: float,
    level: bool,
    change: str | None = None,
    by_db: float = 0.0,
) -> PlayedPart:
    """Part of a reading's sound to listen to, raised to an audible level when asked. change, by_db : what is made of it
    first, as `core.take.threshold.changed` has it; the peak stays below full scale.

    Raises InputError when the part lies outside the recording, and for a change that is not known.
    """
    if change is not None and change not in SCALES:
        raise InputError("change", f"{change!r} is no change.", f"Use one of {', '.join(SCALES)}.")
    row = row_of(data, reading_id)
    if not 0 <= from_s < to_s or from_s >= row.seconds:
        raise InputError(
            "from_s", f"{from_s:g} to {to_s:g} s is no part of {row.seconds:.1f} s.", "Choose a part inside."
        )
    span = (from_s, min(to_s, from_s + _MOST_PART_S))
    audio = decode_apart(sound_path(data, row), row.file_name, span_s=span)
    rate, samples = audio.sample_rate_hz, loudest_channel(audio)
    samples = samples - samples.mean()
    raised = 0.0
    if level:
        rms = 20 * float(np.log10(max(float(samples.std()), 1e-9)))
        peak = 20 * float(np.log10(max(float(np.max(np.abs(samples))), 1e-9)))
        raised = float(np.clip(min(_PLAYED_RMS_DBFS - rms, -1.0 - peak), 0.0, _MOST_RAISE_DB))
    if change is not None:
        # raised as the plain sound is, with room for the loudest change: the pair differs by nothing else
        raised -= _CHANGE_ROOM_DB
        samples = changed(samples, rate, change, by_db, seed=0)
    fade = np.clip(np.minimum(np.arange(len(samples)), np.arange(len(samples))[::-1]) / (0.01 * rate), 0, 1)
    played = samples * fade * 10 ** (raised / 20)
    return PlayedPart(wav_bytes(played, rate), raised, loudness_lufs([played], rate))


def words_compared(data: Data, first_id: str, second_id: str) -> WordsAnswer:
    """Two recordings of the same words, level-matched."""
    rows = [row_of(data, reading_id) for reading_id in (first_id, second_id)]
    if any(kind_named(row.kind).form != "take" for row in rows):
        raise InputError("reading", "is no take or spoken line.", "Choose two recordings of the same words.")
    sounds = [sound_of(data, row) for row in rows]
    return words_answer(*sounds).model_copy(update={"simulated": [row.simulated for row in rows]})


def words_answer(first: Audio, second: Audio) -> WordsAnswer:
    """Contract of `analyse compare`."""
    try:
        found = same_words(loudest_channel(first), first.sample_rate_hz, loudest_channel(second), second.sample_rate_hz)
    except MeasurementError as exc:
        raise InputError("file", *error_words(exc)) from exc
    return WordsAnswer(
        gain_db=round(found.gain_db, 2),
        thirds=[
            ThirdDifference(centre_hz=f, difference_db=round(float(d), 2))
            for f, d in zip(found.centres_hz, found.difference_db, strict=True)
        ],
        noise_db=None if found.noise_db is None else round(found.noise_db, 2),
    )


def readings_csv(data: Data, room_id: str) -> str:
    """All readings of a room as a table, newest first, units in the header."""
    buffer = io.StringIO()
    writer = csv.writer(buffer, lineterminator="\n")
    writer.writerow([name for name, _ in _COLUMNS])
    for row in reading_rows(data, room_id):
        said = plain(summary_or_damage(row))
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
    """A cell that no spreadsheet takes for a formula: on one line, since one with line ends can start a row anew."""
    if not isinstance(value, str):
        return "" if value is None else value
    line = one_line(value)
    return f"'{line}" if line[:1] in ("=", "+", "-", "@") else line


def calibrated_by_reading(data: Data, reading_id: str, *, method: str, level_db: float | None) -> CalibrationAnswer:
    """Calibrate a reading's chain by what a meter showed during a silence, or roughly by a voice's usual level.

    meter : a silence and the dB(A) that a sound level meter beside the microphone showed. voice : a take or spoken
    line; the level predicted for this performer, or for speech, at the microphone. Silences of the same chain are read
    anew. Raises InputError where one of them is missing or the reading could not be used.
    """
    row = row_of(data, reading_id)
    chain = calibrations.chain_of(row.settings)
    if chain is None:
        raise InputError("reading", "does not say its device and gain.", "Take it again and say how the gain was set.")
    if row.simulated:
        raise InputError("reading", "is simulated; the rig knows its own level.", "Calibrate a real chain.")
    result = result_of(row)
    if method == "meter":
        if not isinstance(result, ToneResult) or level_db is None or not 15 <= level_db <= 110:
            raise InputError(
                "level_db",
                "needs a silence and what the meter showed, 15 to 110 dB(A).",
                "Read the meter while the silence is recorded.",
            )
        full_scale = level_db - _level_of(result.laeq_db, result.verdict.usable) + _calibration_of(row)
    elif method == "voice":
        if not isinstance(result, TakeResult):
            raise InputError("reading", "is no take or spoken line.", "Choose one in which the voice sounds as usual.")
        full_scale = _predicted_dba(data, row) - _level_of(result.active_dba, result.verdict.usable)
    else:
        raise InputError("method", f"{method!r} needs a recording of its own.", "Use meter or voice with a reading.")
    made = calibrations.kept(data, chain, method=method, full_scale_db=full_scale)
    return made.model_copy(update={"reread": reread_silences(data, chain)})


def _level_of(level_db: float | None, usable: bool) -> float:
    """The level that a reading gave. Raises InputError for one that was refused."""
    if level_db is None or not usable:
        raise InputError("reading", "could not be used; it has no level.", "See its verdict, and take another.")
    return level_db


def _calibration_of(row: Reading) -> float:
    return settings_of(row.settings).calibration_db or 0.0


def _predicted_dba(data: Data, row: Reading) -> float:
    room, _ = room_of_row(data, row.room_id)
    arrangement = read_arrangement(row.arrangement)
    if kind_named(row.kind).spoken:
        arrangement = speaking(arrangement)
    return predict(room.model_copy(update={"arrangements": [arrangement]}), arrangement.id).hush.performance_dba


def reread_silences(data: Data, chain: tuple[str, str, str]) -> int:
    """Read real silences of a chain anew with its calibration; how many there were."""
    found = calibrations.for_chain(data, dict(zip(("device", "channel", "gain"), chain, strict=True)))
    with data.database.session() as session:
        rows = session.scalars(
            select(Reading).where(Reading.kind.in_(of_form("tone")), Reading.simulated.is_(False))
        ).all()
        changed = 0
        for row in rows:
            same = row.settings.get("calibration_db") == found["calibration_db"]
            if calibrations.chain_of(row.settings) != chain or same:
                continue
            row.settings = {**row.settings, **found}
            options = ReadOptions(calibration_db=found["calibration_db"])
            result = analyse(sound_of(data, row), row.kind, curves=True, options=options).result
            row.result, row.brief = plain(result), brief_of(row.kind, result)
            note_in_ledger(session, row.room_id, "reading", "A silence was calibrated", {}, reading_id=row.id)
            changed += 1
    return changed


def calibrated_by_calibrator(
    data: Data, content: bytes | Path, file_name: str, chain: tuple[str, str, str], level_db: float
) -> CalibrationAnswer:
    """Calibrate a chain by a recording of a calibrator."""
    full_scale = calibrations.from_calibrator(content, file_name, level_db)
    made = calibrations.kept(data, chain, method="calibrator", full_scale_db=full_scale)
    return made.model_copy(update={"reread": reread_silences(data, chain)})
