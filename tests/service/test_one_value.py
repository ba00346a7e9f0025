"""A reading knows the room it was taken in; a mark has one value, wherever it is shown; nothing is half written."""

import numpy as np
import pytest
from sqlalchemy import event

from keenquiet.core.errors import InputError
from keenquiet.demo.scenario import demo_rooms
from keenquiet.documents.convert import read_room
from keenquiet.service import bundles, ledger, reading_set, readings, rooms, settle
from keenquiet.service.case import Case
from keenquiet.service.data import Data
from keenquiet.store.audiofile import wav_bytes
from keenquiet.store.errors import RevisionConflict

from ..conftest import by_rig, document_of, forecast_now, marks_now, stored_room


def changed(data, room_id, change) -> None:
    document = document_of(data, room_id)
    change(document)
    rooms.save(data, room_id, document, revision=rooms.opened(data, room_id).revision)


def carpet(doc):
    doc["surfaces"]["floor"] = {"material": "carpet-cotton"}


def higher(doc):
    doc["shape"]["ceiling"]["height_m"] = 2.8


def sofa_out(doc):
    doc["furnishings"].pop(0)


def panel(doc):
    doc["arrangements"][0]["treatments"].append(
        {
            "kind": "panel",
            "surface": "wall-2",
            "x_m": 0.5,
            "z_m": 0.6,
            "width_m": 0.6,
            "height_m": 1.2,
            "absorber": {"thickness_m": 0.1},
        }
    )


@pytest.mark.parametrize(
    ("change", "said"),
    [(carpet, "floor"), (higher, "size|shape|height"), (sofa_out, "furniture|bed"), (panel, "hangs")],
)
def test_a_reading_of_another_room_no_longer_counts_as_current(data, change, said):
    room_id = stored_room(data)
    by_rig(data, room_id, "sweep")
    assert marks_now(data, room_id)["bounce"]["current"]
    changed(data, room_id, change)
    mark = marks_now(data, room_id)["bounce"]
    assert not mark["current"]
    assert any(word in mark["since"] for word in said.split("|")), mark["since"]
    shown = forecast_now(data, room_id).marks.bounce
    assert (shown.source, shown.value) == ("predicted", shown.predicted.value)
    place = settle.compare_places(data, project=None).places[0]
    assert place.measured == []
    assert mark["since"] in place.changed
    with pytest.raises(InputError, match="changed"):
        settle.fit_room(data, room_id)


def test_a_name_a_budget_and_a_move_within_a_centimetre_change_nothing(data):
    room_id = stored_room(data)
    by_rig(data, room_id, "sweep")

    def touched(doc):
        doc["name"] = "Called something else"
        doc["brief"]["budget"] = 900
        doc["arrangements"][0]["microphone"]["at"][0] += 0.008

    changed(data, room_id, touched)
    assert marks_now(data, room_id)["bounce"]["current"]


def test_a_mark_has_one_value_on_the_step_among_the_places_and_in_the_ledger(data):
    room_id = stored_room(data)
    for kind in ("tone", "sweep", "take"):
        by_rig(data, room_id, kind)
    on_the_step = forecast_now(data, room_id).marks
    among_places = settle.compare_places(data, project=None).places[0].marks
    measured = marks_now(data, room_id)
    told = {}
    for entry in reversed(ledger.ledger(data, room_id)):
        told |= {mark: figure["value"] for mark, figure in entry.detail.get("measured", {}).items()}
    for mark in ("bounce", "boom", "hush", "touch"):
        shown, placed = getattr(on_the_step, mark), getattr(among_places, mark)
        assert shown.source == "measured"
        values = {round(v, 6) for v in (shown.value, placed.value, measured[mark]["value"], told[mark])}
        assert len(values) == 1, (mark, values)
        assert shown.predicted == placed.predicted  # the other one stands beside it, the same everywhere


def test_the_ledger_of_a_room_without_moves_opens(data):
    room_id = stored_room(data)
    assert [entry.kind for entry in ledger.ledger(data, room_id)] == ["room"]


def test_of_two_saves_from_one_revision_one_is_refused(data):
    room_id = stored_room(data)
    document = document_of(data, room_id)
    rooms.save(data, room_id, document, revision=1)
    with pytest.raises(RevisionConflict) as refused:
        rooms.save(data, room_id, document, revision=1)
    assert refused.value.newest == 2


def test_a_move_is_done_whole_or_not_at_all(data):
    room_id = stored_room(data)

    def tried(doc):
        doc["arrangements"].append({**doc["arrangements"][0], "id": "what-if", "gain_db": -6})

    changed(data, room_id, tried)
    before = document_of(data, room_id)

    def fail(connection, cursor, statement, *rest):
        if "INSERT INTO moves" in statement:
            raise RuntimeError("the disk is full")

    event.listen(data.database.engine, "before_cursor_execute", fail)
    with pytest.raises(RuntimeError, match="disk is full"):
        ledger.mark_done(data, room_id, revision=2, kind="own", title="Softer")
    event.remove(data.database.engine, "before_cursor_execute", fail)
    assert (rooms.opened(data, room_id).revision, document_of(data, room_id)) == (2, before)


def test_a_move_keeps_its_edits_checked(data):
    room_id = stored_room(data)
    edit = {"do": "set-gain", "gain_db": -6.0}

    def tried(doc):
        trying = {"kind": "gain", "title": "Softer", "edits": [edit]}
        doc["arrangements"].append({**doc["arrangements"][0], "id": "what-if", "gain_db": -6, "trying": trying})

    changed(data, room_id, tried)
    ledger.mark_done(data, room_id, revision=2, kind="gain", title="Softer")
    assert ledger.ledger(data, room_id)[0].detail["edits"] == [edit]
    with pytest.raises(InputError):
        ledger.mark_done(data, room_id, revision=3, kind="gain", title="None", edits=[{"do": "fly"}])


def test_a_room_without_arrangements_is_given_somebody_and_spoils_no_other(data):
    stored_room(data)
    bare = document_of(data, stored_room(data)) | {"name": "Bare", "arrangements": []}
    rooms.create(data, bare)
    found = settle.compare_places(data, project=None)
    assert "Bare" in [place.name for place in found.places]


@pytest.mark.parametrize("hour", ["9.5", 99, -1, float("nan")])
def test_an_hour_is_a_number_of_the_day(data, hour):
    document = document_of(data, stored_room(data))
    document["arrangements"][0]["hour"] = hour
    with pytest.raises(InputError):
        rooms.create(data, document)


def test_a_refused_silence_calibrates_nothing_and_says_so(data):
    room_id = stored_room(data)
    quiet = wav_bytes(np.zeros(48_000 // 2), 48_000)
    chain = {"device": "Recorder", "gain": "low"}
    refused = readings.take_in(
        data, room_id, content=quiet, file_name="q.wav", kind="tone", way="import", arrangement_id=None, settings=chain
    )
    assert not refused.verdict.usable
    with pytest.raises(InputError):
        reading_set.calibrated_by_reading(data, refused.id, method="meter", level_db=30.0)


def test_a_bundle_loses_nothing_references_and_settings_included(data, tmp_path):
    room_id = stored_room(data)
    ids = [by_rig(data, room_id, "sweep", seed=seed)["id"] for seed in (1, 2)]
    reading_set.average_of(data, room_id, ids)

    def tried(doc):
        trying = {"kind": "gain", "title": "Softer", "edits": [{"do": "set-gain", "gain_db": -6.0}]}
        doc["arrangements"].append({**doc["arrangements"][0], "id": "what-if", "gain_db": -6, "trying": trying})

    changed(data, room_id, tried)
    ledger.mark_done(data, room_id, revision=2, kind="gain", title="Softer")
    content, _ = bundles.exported(data, room_id)
    other = Data(tmp_path / "other")
    try:
        came = bundles.imported(other, content).id
        assert document_of(other, came) == document_of(data, room_id)
        old, new = readings.listed(data, room_id), readings.listed(other, came)
        renamed = {a.id: b.id for a, b in zip(old, new, strict=True)}
        for before, after in zip(old, new, strict=True):
            wanted = before.settings.model_dump()
            if wanted.get("average_of"):
                wanted["average_of"] = [renamed[i] for i in wanted["average_of"]]
            assert after.settings.model_dump() == wanted
            assert (after.measured, after.taken_at, after.current) == (before.measured, before.taken_at, before.current)
        assert set(renamed.values()).isdisjoint(renamed)
        mine, theirs = ledger.ledger(data, room_id), ledger.ledger(other, came)
        assert [e.title for e in theirs if "imported from a bundle" not in e.title] == [e.title for e in mine]
        proof = next(e for e in theirs if e.kind == "move").proof
        assert proof is not None
        assert [row.measured_before for row in proof] == [
            row.measured_before for row in next(e for e in mine if e.kind == "move").proof
        ]
    finally:
        other.close()


@pytest.mark.parametrize("room", demo_rooms(), ids=lambda room: room["name"])
def test_draws_lie_round_the_figure_whose_spread_they_are(room):
    """They left out furniture and the decay: 3 dB off over the bakery, 4 in the cupboard."""
    now = Case(read_room(room)).now
    assert now.bounce_draws_db.mean() == pytest.approx(now.bounce.direct_over_room_db.value, abs=0.2)
