"""Thousands of readings and rooms: told a page at a time, none opened that is not shown."""

import uuid

import pytest
from sqlalchemy import event, insert, select

from keenquiet.demo.scenario import cupboard
from keenquiet.service import readings, rooms
from keenquiet.service.standing import kept_readings, measured_now
from keenquiet.store.models import LedgerEntry, Reading, ReadingResult

from ..conftest import by_rig


@pytest.fixture
def many(data):
    """A room with a silence and a take, each copied a hundred times, the last of each damaged."""
    room_id = rooms.create(data, cupboard()).id
    first = [by_rig(data, room_id, kind, seed=1)["id"] for kind in ("tone", "take")]
    with data.database.session() as session:
        for number in range(200):
            row = session.get_one(Reading, first[number % 2])
            own = {c.key: getattr(row, c.key) for c in Reading.__table__.columns if c.key not in ("id", "sent_as")}
            own |= {"id": str(uuid.uuid4()), "sequence": 10 + number}
            if number >= 198:
                own |= {"arrangement": {"no": "arrangement"}}
            session.execute(insert(Reading), [own])
            session.execute(insert(ReadingResult), [{"reading_id": own["id"], "result": row.result}])
        line = session.scalars(select(LedgerEntry)).first()
        own = {"room_id": room_id, "at": line.at, "kind": "x", "title": "", "detail": {}}
        session.execute(insert(LedgerEntry), [own])
    return room_id


def test_readings_are_told_a_page_at_a_time_each_once_newest_first(data, many):
    pages, before = [], None
    while page := readings.listed(data, many, before=before, most=60):
        pages.append(page)
        before = page[-1].sequence
    told = [one.sequence for page in pages for one in page]
    assert [len(page) for page in pages] == [60, 60, 60, 22]
    assert told == sorted(told, reverse=True)
    assert len(set(told)) == 202
    assert [one.form for one in pages[0][:3]] == ["broken", "broken", "take"]  # damaged ones alone, with a bin beside


def test_a_list_and_the_marks_open_no_result(data, many):
    asked: list[str] = []
    event.listen(data.database.engine, "before_cursor_execute", lambda *args: asked.append(args[2]))
    readings.listed(data, many, most=50)
    room = rooms.opened(data, many).document
    marks = measured_now(data, many, room, room.arrangements[0])
    assert marks.touch is not None
    assert len(kept_readings(data, many)) == 202
    assert [one for one in asked if "reading_results" in one] == []
    assert len(asked) < 60  # not one question for each row


def test_what_a_reading_says_in_brief_is_made_where_it_is_missing(data):
    room_id = rooms.create(data, cupboard()).id
    made = readings.opened(data, by_rig(data, room_id, "take", seed=2)["id"])
    with data.database.session() as session:
        row = session.get_one(Reading, made.id)
        row.brief, row.brief_version = None, 0
    (told,) = readings.listed(data, room_id)
    assert told.model_dump(exclude={"current", "since"}) == readings.opened(data, made.id).model_dump(
        exclude={"current", "since", "result", "arrangement"}
    )
    with data.database.session() as session:
        assert session.get_one(Reading, made.id).brief["headline"] == made.headline.model_dump(mode="json") | {
            "direct_over_room_db": None
        }


def test_rooms_are_told_a_page_at_a_time(data):
    made = [rooms.create(data, cupboard() | {"name": f"Room {number}"}).id for number in range(7)]
    pages = [rooms.list_rooms(data, after=after, most=3) for after in (0, 3, 6)]
    assert [room.id for page in pages for room in page] == made[::-1]
