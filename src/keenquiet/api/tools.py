"""Computation without storage: catalogue, lengths, forecasts, next moves, jobs."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response

from keenquiet.api.asks import (
    ArrangementAsk,
    DistanceAsk,
    DocumentAsk,
    ErrorAnswer,
    ForecastAsk,
    HearAsk,
    ListeningAsk,
    MapAsk,
    PlanAsk,
    ReachAsk,
    SchoolsAsk,
    SwellAsk,
    Units,
)
from keenquiet.api.deps import Async, DataFolder, answered, computing
from keenquiet.core.errors import InputError
from keenquiet.core.units import format_feet_inches, parse_length_m
from keenquiet.core.waves.modes import nearest_note, note_hz
from keenquiet.documents.convert import read_room
from keenquiet.documents.schema import AbsorberDoc, ChainDoc, RoomDoc
from keenquiet.service import absorbers, background, hearing, making, marks_sheet, placing, reaching, screening, shapes
from keenquiet.service.answers.forecast import ForecastAnswer, ShapeAnswer
from keenquiet.service.answers.jobs import HealthAnswer, JobAnswer, Pending
from keenquiet.service.answers.making import MakingAnswer
from keenquiet.service.answers.moves import MovesAnswer
from keenquiet.service.answers.placing import (
    AimAnswer,
    DistanceAnswer,
    ListeningAnswer,
    MapAnswer,
    SchoolsAnswer,
    ScreensAnswer,
)
from keenquiet.service.answers.plans import PlanAnswer
from keenquiet.service.answers.reach import ReachAnswer
from keenquiet.service.answers.sheet import MarksSheet
from keenquiet.service.answers.tools import (
    AbsorberAnswer,
    Catalogue,
    LengthAnswer,
    NoteAnswer,
    SquaredAnswer,
    SwellAnswer,
)
from keenquiet.service.catalogue import catalogue
from keenquiet.service.data import Data
from keenquiet.service.forecasting import forecast_in
from keenquiet.service.jobs import Job, cancel, job, job_answer
from keenquiet.service.known import room_as_read
from keenquiet.service.rooms import rooms_beside
from keenquiet.service.standing import kept_readings, usable_readings
from keenquiet.store.errors import NotFound

router = APIRouter(tags=["tools"], responses={422: {"model": ErrorAnswer}})
_NO_JOB = "There is no such job; it may have been forgotten after a restart."


@router.get("/health")
def health(request: Request) -> HealthAnswer:
    """Whether the server answers, and what still comes into the folder."""
    preparing: Job[None] | None = request.app.state.preparing
    return HealthAnswer(preparing=job_answer(preparing) if preparing is not None and preparing.going else None)


@router.get("/catalogue")
def read_catalogue() -> Catalogue:
    """Everything that can be chosen: materials, performers, patterns, furnishings, purposes, kinds of readings."""
    return catalogue()


@router.get("/length")
def length(
    text: Annotated[str, Query(max_length=60)],
    field: Annotated[str, Query(max_length=40)] = "length",
    units: Units = "metric",
) -> LengthAnswer:
    """A length as typed, in metres and on an imperial tape."""
    metres = parse_length_m(text, field=field, imperial=units == "imperial")
    return LengthAnswer(metres=round(metres, 5), imperial=format_feet_inches(metres))


@router.get("/note")
def note(text: Annotated[str, Query(max_length=20)]) -> NoteAnswer:
    """A note as typed, as a pitch and by its name."""
    f_hz = note_hz(text)
    if not 16 <= f_hz <= 2000:
        raise InputError("note", f"{text.strip()} is no lowest note.", "Between 16 and 2000 Hz.")
    return NoteAnswer(f_hz=round(f_hz, 2), name=nearest_note(f_hz)[0])


@router.post("/forecast")
def forecast(data: DataFolder, asked: ForecastAsk) -> ForecastAnswer | Pending:
    """Marks, paths, modes, decay and response for one arrangement of a document, or the job that must end first."""
    room = read_room(asked.document)
    modes = shapes.modes_job(room)
    if modes is not None:
        found = answered(modes, patient=False)
        if isinstance(found, Pending):
            return found
    with computing():
        return forecast_in(
            data, asked.room_id, room, asked.arrangement_id, to_hz=asked.to_hz, screens=bool(asked.screens)
        )


@router.get("/jobs/{job_id}", responses={404: {"model": ErrorAnswer}})
def read_job(job_id: str) -> JobAnswer:
    """How far a piece of background work is."""
    return _job(job_id)


@router.delete("/jobs/{job_id}", responses={404: {"model": ErrorAnswer}})
def cancel_job(job_id: str) -> JobAnswer:
    """Tell background work to stop."""
    cancel(job_id)
    return _job(job_id)


def _job(job_id: str) -> JobAnswer:
    found = job(job_id)
    if found is None:
        raise NotFound(_NO_JOB)
    return job_answer(found)


@router.post("/shape")
def shape(asked: DocumentAsk) -> ShapeAnswer:
    """Volume, areas and faces of a document's shape."""
    with computing():
        return shapes.shape_of_room(read_room(asked.document))


@router.post("/square")
def square(asked: DocumentAsk) -> SquaredAnswer:
    """The plan that fits the document's tape readings best, and how far each is off."""
    with computing():
        return shapes.squared_answer(read_room(asked.document))


@router.post("/swell")
def swell(asked: SwellAsk) -> SwellAnswer:
    """Pressure of every mode over a plane of the room."""
    with computing():
        return shapes.swell_answer(
            read_room(asked.document), asked.arrangement_id, plane=asked.plane, height_m=asked.height_m
        )


@router.post(
    "/drawing", responses={200: {"content": {"image/svg+xml": {}, "image/vnd.dxf": {}}}}, response_class=Response
)
def drawing(asked: ForecastAsk, view: str = "plan", kind: str = "svg") -> Response:
    """A view of the room to print or to take into a drawing program."""
    with computing():
        text, media = shapes.drawing(read_room(asked.document), asked.arrangement_id, view=view, kind=kind)
    return Response(text, media_type=media)


@router.post("/absorber")
def absorber(asked: AbsorberDoc) -> AbsorberAnswer:
    """Absorption of something described by its layers."""
    return absorbers.absorber_answer(asked)


@router.post("/moves")
def moves(asked: ArrangementAsk, data: DataFolder, later: Async) -> MovesAnswer | Pending:
    """Ranked next moves for one arrangement of a document."""
    return answered(background.moves(_room(asked, data), asked.arrangement_id), patient=not later)


def _room(asked: ArrangementAsk, data: Data) -> RoomDoc:
    """The document, of a kept room with its noises as its readings say."""
    return room_as_read(data, asked.room_id, read_room(asked.document), asked.arrangement_id)


def _last_chain(asked: ArrangementAsk, data: Data) -> ChainDoc | None:
    """How the chain was set when something was last recorded in a kept room, where anybody wrote it down."""
    rows = () if asked.room_id is None else kept_readings(data, asked.room_id)
    return next((row.arrangement.chain for row in rows if row.arrangement.chain != ChainDoc()), None)


def _with_modes(asked: ArrangementAsk, data: Data) -> RoomDoc:
    """The room, once its modes are at hand: slow ones are found by the one job that finds them for everybody."""
    room = _room(asked, data)
    modes = shapes.modes_job(room)
    if modes is not None:
        answered(modes, patient=True)
    return room


@router.post("/distance")
def distance(asked: DistanceAsk, data: DataFolder) -> DistanceAnswer:
    """What every distance between performer and microphone gives here, and the span that gives what is wanted."""
    room = _with_modes(asked, data)
    with computing():
        return placing.distance_answer(room, asked.arrangement_id, role=asked.role, screen=asked.screen)


@router.post("/map")
def map_of_places(asked: MapAsk, data: DataFolder) -> MapAnswer:
    """How good every free spot of the floor is, and the best three."""
    room = _with_modes(asked, data)
    with computing():
        return placing.map_answer(
            room, asked.arrangement_id, mark=asked.mark, height_m=asked.height_m, step_m=asked.step_m
        )


@router.post("/listening")
def listening_place(asked: ListeningAsk, data: DataFolder) -> ListeningAnswer:
    """What monitors and chair give, and with `search` the best places along each wall."""
    room = _with_modes(asked, data)
    with computing():
        return placing.listening_answer(room, asked.arrangement_id, search=asked.search, free=bool(asked.free))


@router.post("/aim")
def aim(asked: ArrangementAsk, data: DataFolder) -> AimAnswer:
    """How the microphone's angle trades level, bass, treble, breath and noise."""
    room = _with_modes(asked, data)
    with computing():
        return placing.aim_answer(room, asked.arrangement_id)


@router.post("/marks-sheet")
def read_marks_sheet(asked: ArrangementAsk, data: DataFolder) -> MarksSheet:
    """Where everybody stands by tape, and what else has to be as it was."""
    room = _with_modes(asked, data)
    with computing():
        return marks_sheet.sheet_answer(room, asked.arrangement_id, last=_last_chain(asked, data))


@router.post("/marks-sheet.pdf", responses={200: {"content": {"application/pdf": {}}}}, response_class=Response)
def print_marks_sheet(asked: ArrangementAsk, data: DataFolder) -> Response:
    """The same as one printable page."""
    room = _with_modes(asked, data)
    with computing():
        page = marks_sheet.sheet_pdf(room, asked.arrangement_id)
    return Response(page, media_type="application/pdf")


@router.post("/plan")
def plan(asked: PlanAsk, data: DataFolder, later: Async) -> PlanAnswer | Pending:
    """Sets of moves within a budget: nothing spent, some of it, all of it, each in its order."""
    room = _room(asked, data)
    asked_for = {
        "budget": asked.budget,
        "only": asked.only,
        "locked": tuple(asked.locked or ()),
        "locked_cost": asked.locked_cost or 0.0,
        "keep_free": tuple(asked.keep_free or ()),
        "reversible": bool(asked.reversible),
        "marks": tuple(asked.marks or ()),
        "quick": bool(asked.quick),
    }
    rows = () if asked.room_id is None else usable_readings(data, asked.room_id)
    return answered(background.plan(room, asked.arrangement_id, asked_for, rows), patient=not later)


@router.post("/make")
def make(asked: ArrangementAsk) -> MakingAnswer:
    """What an arrangement's frames take: to buy, to cut, what holds them, in which steps."""
    return making.making_answer(read_room(asked.document), asked.arrangement_id)


@router.post("/make.pdf", responses={200: {"content": {"application/pdf": {}}}}, response_class=Response)
def print_make(asked: ArrangementAsk) -> Response:
    """The same as pages to print."""
    return Response(making.making_pdf(read_room(asked.document), asked.arrangement_id), media_type="application/pdf")


@router.post("/make.csv", responses={200: {"content": {"text/csv": {}}}}, response_class=Response)
def table_make(asked: ArrangementAsk) -> Response:
    """The same as a table."""
    return Response(making.making_csv(read_room(asked.document), asked.arrangement_id), media_type="text/csv")


@router.post("/hear.wav", responses={200: {"content": {"audio/wav": {}}}}, response_class=Response)
def hear(asked: HearAsk, data: DataFolder) -> Response:
    """A dry line in several arrangements and outdoors, one channel each, alike in loudness."""
    room = _with_modes(ArrangementAsk(document=asked.document), data)
    with computing():
        dry = (
            hearing.line_for(room, seed=asked.seed or 1)
            if asked.reading_id is None
            else hearing.line_of(data, asked.reading_id)
        )
        wav = hearing.versions_wav(room, asked.versions, dry)
        # what is recorded in a roomy room is heard with that room twice
        twice = asked.reading_id is not None and hearing.is_roomy(room)
    return Response(wav, media_type="audio/wav", headers={"x-room-twice": "yes" if twice else "no"})


@router.post("/reach")
def in_reach(asked: ReachAsk, data: DataFolder) -> ReachAnswer:
    """Stands, cables, the laptop, open monitors and a second source at this place."""
    room = _with_modes(asked, data)
    with computing():
        return reaching.reach_answer(room, asked.arrangement_id, second=asked.second)


@router.post("/schools")
def schools(asked: SchoolsAsk, data: DataFolder) -> SchoolsAnswer:
    """What practitioners disagree on, both sides computed in this room."""
    room = _with_modes(asked, data)
    if asked.about == "treatment":
        with computing():
            return placing.treat_schools_answer(room, asked.arrangement_id)
    others = [] if asked.room_id is None else rooms_beside(data, asked.room_id, project=room.project)
    with computing():
        return placing.schools_answer(room, asked.arrangement_id, others=others)


@router.post("/screens")
def screens(asked: ArrangementAsk, data: DataFolder) -> ScreensAnswer:
    """Screens that could be set up here, each judged by the whole forecast with it, best first."""
    room = _with_modes(asked, data)
    with computing():
        return screening.screens_answer(room, asked.arrangement_id)
