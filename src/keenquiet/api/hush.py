"""What silences say when held together, and of noises."""

from functools import partial
from typing import Annotated

from fastapi import APIRouter, Query

from keenquiet.api.asks import ErrorAnswer, NotedAsk, RoundAsk
from keenquiet.api.deps import DataFolder, in_turn, listening
from keenquiet.documents.convert import read_room
from keenquiet.service import noting, silences
from keenquiet.service.answers.tones import GainsAnswer, HumAnswer, HumTree, RoomToneAnswer, RoundAnswer, SpliceAnswer
from keenquiet.service.noting import NotedAnswer
from keenquiet.service.tones import hum_tree

router = APIRouter(tags=["hush"], responses={422: {"model": ErrorAnswer}, 404: {"model": ErrorAnswer}})


@router.post("/rooms/{room_id}/noise-from-silence")
async def note_from_silence(data: DataFolder, room_id: str, asked: NotedAsk) -> NotedAnswer:
    """A noise with the levels that a silence heard, led back to its place."""
    room, note = read_room(asked.document), partial(noting.noted_from, finding=asked.finding)
    return await in_turn(note, data, room_id, asked.reading_id, room, asked.arrangement_id, asked.noise)


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
