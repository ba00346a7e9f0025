"""Takes beyond a reading: against one's own line, line by line, what leaks, the wave, labels, one page to keep."""

from typing import Annotated

from fastapi import APIRouter, Query, Response, UploadFile
from fastapi.responses import FileResponse

from keenquiet.api.asks import BetterAsk, ErrorAnswer
from keenquiet.api.deps import DataFolder, content_of, handed_out, lane_of, listening
from keenquiet.documents.plain import shown_name
from keenquiet.service import beside_take, choosing, readings, take_page, takes, trials, underneath
from keenquiet.service.answers.takes import (
    AgainstAnswer,
    BesideAnswer,
    BetterAnswer,
    BleedAnswer,
    LatencyAnswer,
    LinesAnswer,
    StaircaseAnswer,
    TrialsAnswer,
    UnderneathAnswer,
    WaveAnswer,
)

router = APIRouter(tags=["takes"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})


@router.post("/readings/{reading_id}/better", status_code=201)
def say_better(data: DataFolder, reading_id: str, asked: BetterAsk) -> BetterAnswer:
    """Keep that a take is better than another."""
    return choosing.better(data, reading_id, asked.than_id, asked.blind)


@router.get("/rooms/{room_id}/better")
def read_better(data: DataFolder, room_id: str) -> list[BetterAnswer]:
    """Which takes were said to be better than which, newest first."""
    return choosing.preferences(data, room_id)


@router.get("/readings/{reading_id}/against")
def read_against(data: DataFolder, reading_id: str, line_id: str | None = None) -> AgainstAnswer | None:
    """A take against the performer's own line, named or the first; null where there is none."""
    with listening():
        return takes.against_line(data, reading_id, line_id)


@router.get("/readings/{reading_id}/by-line/{other_id}")
def read_by_line(data: DataFolder, reading_id: str, other_id: str) -> LinesAnswer:
    """Two takes line by line: the cleaner one of each, and whether the cuts would be heard."""
    with listening():
        return takes.takes_by_line(data, reading_id, other_id)


@router.post("/readings/{reading_id}/bleed")
def read_bleed(data: DataFolder, reading_id: str, file: UploadFile) -> BleedAnswer:
    """How loud a backing track, sent along, is in a take."""
    with listening(lane_of(file)), content_of(file) as content:
        return takes.bleed_in(data, reading_id, content, shown_name(file.filename or "backing"))


@router.post("/readings/{reading_id}/in-the-phones")
def read_phones(data: DataFolder, reading_id: str, file: UploadFile) -> LatencyAnswer:
    """How late and how loud a take comes out of the headphones, by a recording of one cup held to the microphone."""
    with listening(lane_of(file)), content_of(file) as content:
        return takes.in_the_phones(data, reading_id, content, shown_name(file.filename or "phones"))


@router.get("/readings/{reading_id}/wave")
def read_wave(
    data: DataFolder,
    reading_id: str,
    from_s: Annotated[float, Query(ge=0, le=1e6)] = 0.0,
    to_s: Annotated[float, Query(gt=0, le=1e6)] = 7500.0,
    points: Annotated[int, Query(ge=10, le=4000)] = 900,
) -> WaveAnswer:
    """The wave of part of a recording."""
    return takes.wave_of(data, reading_id, from_s=from_s, to_s=to_s, points=points)


@router.get("/readings/{reading_id}/labels.{form}")
def read_labels(data: DataFolder, reading_id: str, form: str) -> Response:
    """Findings and lines as a table (csv) or a label track in plain text (txt)."""
    text = takes.labels_of(data, reading_id, form)
    name = takes.take_name(data, takes.take_row(data, reading_id))
    return handed_out(text, f"{name}.{form}", "text/csv" if form == "csv" else "text/plain")


@router.get("/readings/{reading_id}/underneath")
def read_underneath(data: DataFolder, reading_id: str) -> UnderneathAnswer | None:
    """What lies under a take against the room's silence by the same chain; null where there is none near in time."""
    with listening():
        return underneath.underneath_take(data, reading_id)


@router.get("/readings/{reading_id}/beside")
def read_beside(data: DataFolder, reading_id: str) -> list[BesideAnswer]:
    """The room tone and the reading of the room that go with a take."""
    return beside_take.beside_take(data, reading_id)


@router.get("/readings/{reading_id}/take.pdf")
def read_page(data: DataFolder, reading_id: str) -> Response:
    """One page about a take, to keep with it."""
    content, name = take_page.take_pdf(data, reading_id)
    return handed_out(content, f"{name}.pdf", "application/pdf")


@router.get("/readings/{reading_id}/original")
def read_original(data: DataFolder, reading_id: str) -> Response:
    """The recording bit for bit as it came, under the take's own name."""
    path = readings.audio_of(data, reading_id)
    name = takes.take_name(data, takes.take_row(data, reading_id))
    return FileResponse(path, filename=f"{name}{path.suffix}", media_type="application/octet-stream")


@router.get("/thresholds/{what}")
def read_threshold(what: str, answers: Annotated[str, Query(max_length=60, pattern="^[rw]*$")] = "") -> StaircaseAnswer:
    """The next pair of a staircase, or the smallest difference heard. answers : r and w, right and wrong so far."""
    return takes.threshold_answer(what, answers)


@router.get("/rooms/{room_id}/trials/{series}")
def read_trials(data: DataFolder, room_id: str, series: str, arrangement_id: str | None = None) -> TrialsAnswer:
    """A guided series with what is predicted of each step, and what the takes tagged with it have measured."""
    with listening():
        return trials.trials_of(data, room_id, series, arrangement_id)
