"""Noise: what it means here, when it rests, what silences say when held together."""

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query, Response

from keenquiet.api.asks import ArrangementAsk, ErrorAnswer, HoursAsk, NotedAsk, RoundAsk
from keenquiet.api.deps import DataFolder, computing, listening
from keenquiet.documents.convert import read_room
from keenquiet.service import hours, noting, silences, watching
from keenquiet.service.answers.hush import HoursAnswer, HushAnswer, NotedAnswer
from keenquiet.service.answers.tones import GainsAnswer, HumAnswer, HumTree, RoomToneAnswer, RoundAnswer, SpliceAnswer
from keenquiet.service.hushing import hush_answer
from keenquiet.service.known import room_as_read
from keenquiet.service.rooms import opened
from keenquiet.service.tones import hum_tree

router = APIRouter(tags=["hush"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})


@router.post("/hush")
def hush(asked: ArrangementAsk, data: DataFolder) -> HushAnswer:
    """Which noises spoil takes, under what they are heard, how they come in, what helps alone and together."""
    room = room_as_read(data, asked.room_id, read_room(asked.document), asked.arrangement_id)
    with computing():
        return hush_answer(room, asked.arrangement_id)


@router.post("/rooms/{room_id}/hours")
def read_hours(data: DataFolder, room_id: str, asked: HoursAsk) -> HoursAnswer:
    """Chances of an undisturbed take by weekday and hour, from the notes of a document and the watches of the room."""
    room = room_as_read(data, room_id, read_room(asked.document), asked.arrangement_id, at_all_hours=True)
    log = watching.log_of_room(data, room_id)
    with computing():
        return hours.hours_answer(room, asked.arrangement_id, minutes=asked.minutes, log=log)


@router.get("/rooms/{room_id}/hours.{kind}")
def export_hours(
    data: DataFolder,
    room_id: str,
    kind: str,
    minutes: Annotated[float | None, Query(gt=0, le=240)] = None,
    arrangement_id: str | None = None,
) -> Response:
    """The week as a table, or the best windows as a calendar."""
    room = room_as_read(data, room_id, read_room(opened(data, room_id).document), arrangement_id, at_all_hours=True)
    found = hours.hours_answer(room, arrangement_id, minutes=minutes, log=watching.log_of_room(data, room_id))
    if kind == "ics":
        content, media = hours.hours_ics(room, found, from_day=date.today()), "text/calendar"
    else:
        content, media = hours.hours_csv(found), "text/csv"
    name = "quiet-hours.ics" if kind == "ics" else "quiet-hours.csv"
    return Response(content, media_type=media, headers={"content-disposition": f'attachment; filename="{name}"'})


@router.post("/rooms/{room_id}/noise-from-silence")
def note_from_silence(data: DataFolder, room_id: str, asked: NotedAsk) -> NotedAnswer:
    """A noise with the levels that a silence heard, led back to its place."""
    room = read_room(asked.document)
    with computing():
        return noting.noted_from(
            data, room_id, asked.reading_id, room, asked.arrangement_id, asked.noise, finding=asked.finding
        )


@router.post("/rooms/{room_id}/house-round")
def house_round(data: DataFolder, room_id: str, asked: RoundAsk) -> RoundAnswer:
    """What each source that was off alone makes of the whole."""
    with listening():
        return silences.round_of(data, room_id, asked.all_on, asked.without, asked.again)


@router.get("/readings/{reading_id}/gains/{other_id}")
def compare_gains(
    data: DataFolder, reading_id: str, other_id: str, gain_db: Annotated[float, Query(ge=1, le=40)] = 10.0
) -> GainsAnswer:
    """Two silences, the second with more gain: the room against the chain's own noise."""
    with listening():
        return silences.gains_of(data, reading_id, other_id, gain_db)


@router.get("/readings/{reading_id}/splice/{other_id}")
def compare_room_tones(data: DataFolder, reading_id: str, other_id: str) -> SpliceAnswer:
    """Whether a cut from one silence to the other would be heard."""
    with listening():
        return silences.splice_of(data, reading_id, other_id)


@router.get("/readings/{reading_id}/hum/{other_id}")
def compare_hums(data: DataFolder, reading_id: str, other_id: str) -> HumAnswer:
    """Which hums went between two silences."""
    with listening():
        return silences.hum_of(data, reading_id, other_id)


@router.get("/readings/{reading_id}/room-tone")
def read_room_tone(data: DataFolder, reading_id: str) -> RoomToneAnswer:
    """The evenest ten seconds of a silence of twenty or more."""
    with listening():
        return silences.room_tone_of(data, reading_id)


@router.get("/hum-tree")
def read_hum_tree() -> HumTree:
    """Where a hum comes from, one change at a time."""
    return hum_tree()
