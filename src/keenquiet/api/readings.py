"""Readings: taken in, listed, opened, binned; their sound; the sweep file."""

from functools import partial
from typing import Annotated

from anyio.to_thread import run_sync
from fastapi import APIRouter, Form, Header, Query, Response, UploadFile
from fastapi.responses import FileResponse
from pydantic import Field

from keenquiet.api.asks import AverageAsk, CalibrateAsk, ErrorAnswer, ReadingUpdate, RigAsk
from keenquiet.api.deps import LATER, Async, DataFolder, answered, content_of, handed_out, lane_of, listening
from keenquiet.core.errors import InputError
from keenquiet.documents.plain import parsed, shown_name
from keenquiet.service import background, calibrations, compared, reading_set, readings
from keenquiet.service.answers.calibrations import CalibrationAnswer
from keenquiet.service.answers.readings import ReadingAnswer, ReadingSummary
from keenquiet.service.answers.tools import PutBackAnswer, SidesAnswer, TurnAnswer, WordsAnswer
from keenquiet.service.briefs import MOST_LISTED
from keenquiet.service.turns import PLAYED, before
from keenquiet.store.errors import NotFound

router = APIRouter(tags=["readings"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})
_MEDIA = {".wav": "audio/wav", ".flac": "audio/flac", ".aiff": "audio/aiff", ".ogg": "audio/ogg", ".csv": "text/csv"}


@router.get("/rooms/{room_id}/readings")
def list_readings(
    data: DataFolder,
    room_id: str,
    binned: bool = False,
    before: Annotated[int | None, Query(ge=0, le=2**31)] = None,
    most: Annotated[int, Query(ge=1, le=MOST_LISTED)] = MOST_LISTED,
) -> list[ReadingSummary]:
    """Readings of a room, or those in its bin, newest first. before : a `sequence`, for the next page."""
    return readings.listed(data, room_id, binned=binned, before=before, most=most)


@router.post("/rooms/{room_id}/readings", status_code=201)
def take_in(
    data: DataFolder,
    room_id: str,
    file: UploadFile,
    kind: Annotated[str, Form()],
    way: Annotated[str, Form()] = "import",
    arrangement_id: Annotated[str | None, Form()] = None,
    settings: Annotated[str, Form(max_length=4000)] = "{}",
    silenced: Annotated[list[Annotated[str, Field(max_length=80)]], Form(max_length=40)] = [],  # noqa: B006
    counts: Annotated[bool, Form()] = True,
    idempotency_key: Annotated[str | None, Header(min_length=8, max_length=80)] = None,
) -> ReadingAnswer:
    """Take in an imported or recorded reading. settings: JSON object with device, gain_db, track constraints.
    silenced: noises that were off besides those that the arrangement has off. counts: false for what was made
    elsewhere, which is judged and settles no mark.

    Idempotency-Key: the sender's own name for it; what comes again under the same name is answered, not filed again.
    """
    chain = parsed(settings.encode("utf-8", "surrogatepass"), field="settings")
    if not isinstance(chain, dict):
        raise InputError("settings", "is not a JSON object.", "Leave it out.")
    with listening(lane_of(file), idempotency_key), content_of(file) as content:
        return readings.take_in(
            data,
            room_id,
            kind=kind,
            way=way,
            file_name=shown_name(file.filename or "recording"),
            content=content,
            arrangement_id=arrangement_id,
            settings=chain,
            sent_as=idempotency_key,
            silenced=silenced,
            counts=counts,
        )


@router.post("/rooms/{room_id}/readings/rig", status_code=201, response_model=ReadingAnswer, responses=LATER)
async def take_with_rig(data: DataFolder, room_id: str, asked: RigAsk, later: Async) -> ReadingAnswer | Response:
    """Let the practice rig take a reading: simulated, and labelled so."""
    job = await run_sync(partial(background.rig_reading, data, room_id, **asked.model_dump()))
    return await answered(job, later=later, result_at="/api/jobs/{}/reading")


@router.get("/jobs/{job_id}/reading")
def read_job_reading(job_id: str) -> ReadingAnswer:
    """The reading that a job of the practice rig has filed."""
    found = background.ended(job_id)
    if not isinstance(found, ReadingAnswer):
        raise NotFound("There is no reading of this job; it has not ended well, or was forgotten after a restart.")
    return found


@router.get("/rooms/{room_id}/readings.csv")
def read_table(data: DataFolder, room_id: str) -> Response:
    """All readings of a room as a table."""
    return handed_out(reading_set.readings_csv(data, room_id), "readings.csv", "text/csv")


@router.post("/rooms/{room_id}/readings/average", status_code=201)
def average(data: DataFolder, room_id: str, asked: AverageAsk) -> ReadingAnswer:
    """Keep the average of repeats of a sweep as a reading of its own."""
    with listening():
        return reading_set.average_of(data, room_id, asked.reading_ids)


@router.get("/readings/{reading_id}")
def read_reading(data: DataFolder, reading_id: str) -> ReadingAnswer:
    """One reading with everything that the plots show."""
    return readings.opened(data, reading_id)


@router.patch("/readings/{reading_id}")
def update_reading(data: DataFolder, reading_id: str, asked: ReadingUpdate) -> ReadingSummary:
    """Change a reading's note or tags, or set it aside."""
    return readings.described(data, reading_id, note=asked.note, tags=asked.tags, counts=asked.counts)


@router.delete("/readings/{reading_id}")
def bin_reading(data: DataFolder, reading_id: str) -> ReadingSummary:
    """Put a reading into the bin."""
    return readings.set_binned(data, reading_id, binned=True)


@router.post("/readings/{reading_id}/restore")
def restore_reading(data: DataFolder, reading_id: str) -> ReadingSummary:
    """Take a reading out of the bin."""
    return readings.set_binned(data, reading_id, binned=False)


@router.get("/readings/{reading_id}/audio")
def read_audio(data: DataFolder, reading_id: str) -> Response:
    """The sound kept with a reading, as it came."""
    path = readings.audio_of(data, reading_id)
    return FileResponse(path, media_type=_MEDIA.get(path.suffix, "application/octet-stream"))


@router.get("/readings/{reading_id}/impulse.wav")
def read_impulse(data: DataFolder, reading_id: str) -> Response:
    """A reading's impulse response as WAV."""
    with listening(PLAYED):
        content = reading_set.impulse_wav(data, reading_id)
    return handed_out(content, "impulse-response.wav", "audio/wav")


@router.get("/readings/{reading_id}/part.wav")
def read_part(
    data: DataFolder,
    reading_id: str,
    from_s: Annotated[float, Query(ge=0, le=1e6)] = 0.0,
    to_s: Annotated[float, Query(gt=0, le=1e6)] = 600.0,
    level: bool = True,
    change: str | None = None,
    by_db: Annotated[float, Query(ge=-200, le=12)] = 0.0,
) -> Response:
    """Part of a reading's sound to listen to, raised to an audible level unless `level` is off; changed when asked."""
    with listening(PLAYED):
        part = reading_set.part_wav(data, reading_id, from_s=from_s, to_s=to_s, level=level, change=change, by_db=by_db)
    headers = {"x-raised-db": f"{part.raised_db:.1f}"}
    if part.loudness_lufs is not None:
        headers["x-loudness-lufs"] = f"{part.loudness_lufs:.2f}"
    return Response(part.content, media_type="audio/wav", headers=headers)


@router.get("/readings/{reading_id}/same-words/{other_id}")
def compare_words(data: DataFolder, reading_id: str, other_id: str) -> WordsAnswer:
    """The same words before and after, level-matched."""
    with listening():
        return reading_set.words_compared(data, reading_id, other_id)


@router.get("/readings/{reading_id}/sides/{other_id}")
def compare_sides(data: DataFolder, reading_id: str, other_id: str, pattern: str = "cardioid") -> SidesAnswer:
    """A line spoken into both sides of the microphone: which one is its front."""
    with listening():
        return compared.sides_compared(data, reading_id, other_id, pattern)


@router.get("/readings/{reading_id}/put-back/{other_id}")
def compare_places(data: DataFolder, reading_id: str, other_id: str) -> PutBackAnswer:
    """Whether everybody stands where they stood when another reading of the same kind was taken."""
    return compared.back_in_place(data, reading_id, other_id)


@router.get("/turns/{name}")
def read_turn(name: str) -> TurnAnswer:
    """Where a recording stands that was sent under this name and is not read yet."""
    return TurnAnswer(before=before(name))


@router.get("/calibrations")
def list_calibrations(data: DataFolder) -> list[CalibrationAnswer]:
    """Calibrations kept, newest first."""
    return calibrations.listed(data)


@router.post("/calibrations", status_code=201)
def calibrate(data: DataFolder, asked: CalibrateAsk) -> CalibrationAnswer:
    """Calibrate a reading's chain by a meter's reading or by the voice."""
    with listening():
        return reading_set.calibrated_by_reading(data, asked.reading_id, method=asked.method, level_db=asked.level_db)


@router.post("/calibrations/calibrator", status_code=201)
def calibrate_by_calibrator(
    data: DataFolder,
    file: UploadFile,
    device: Annotated[str, Form(max_length=200)],
    gain: Annotated[str, Form(max_length=80)],
    channel: Annotated[str, Form(max_length=40)] = "1",
    level_db: Annotated[float, Form(ge=60, le=130)] = 94.0,
) -> CalibrationAnswer:
    """Calibrate a chain by a recording of a calibrator."""
    chain = calibrations.chain_of({"device": device, "channel": channel, "gain": gain})
    if chain is None:
        raise InputError("gain", "is not said.", "Say the device and how its gain is set.")
    name = shown_name(file.filename or "calibrator")
    with listening(lane_of(file)), content_of(file) as content:
        return reading_set.calibrated_by_calibrator(data, content, name, chain, level_db)


@router.delete("/calibrations/{calibration_id}")
def remove_calibration(data: DataFolder, calibration_id: str) -> CalibrationAnswer:
    """Put a calibration aside."""
    return calibrations.removed(data, calibration_id)


@router.get("/sweep.wav")
def sweep_file(rate: Annotated[int, Query(ge=0, le=1_000_000)] = 48_000) -> Response:
    """The sweep to play in the room."""
    return handed_out(readings.sweep_wav(rate), "keen-quiet-sweep.wav", "audio/wav")
