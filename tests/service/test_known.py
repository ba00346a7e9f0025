"""What was read goes on: after a change it is led over by the change alone, and noises are held against a silence."""

from copy import deepcopy

import numpy as np
import pytest

from keenquiet.core.things.sources import SOURCES
from keenquiet.documents.convert import read_room
from keenquiet.service import ledger, reading_set, readings, rooms
from keenquiet.service.answers.numbers import plain
from keenquiet.service.known import room_as_read
from keenquiet.service.predict import predict
from keenquiet.service.rooms import opened
from keenquiet.store.audiofile import wav_bytes

from ..conftest import boxed_bakery, by_rig, document_of, forecast_now, marks_now, stored_room


def changed(data, room_id, change):
    document = document_of(data, room_id)
    change(document)
    rooms.save(data, room_id, document, revision=opened(data, room_id).revision)


def nearer(doc):
    arrangement = doc["arrangements"][0]
    mouth, capsule = (arrangement[who]["at"] for who in ("performer", "microphone"))
    arrangement["microphone"]["at"] = [round((m + c) / 2, 3) for m, c in zip(mouth, capsule, strict=True)]


def test_a_mark_after_a_move_is_what_was_measured_and_the_change_and_its_spread_says_so(data):
    room_id = stored_room(data)
    by_rig(data, room_id, "sweep")
    measured = marks_now(data, room_id)["bounce"]
    before = predict(read_room(document_of(data, room_id))).bounce.direct_over_room_db
    changed(data, room_id, nearer)
    after = predict(read_room(document_of(data, room_id))).bounce.direct_over_room_db
    shown = forecast_now(data, room_id).marks.bounce
    assert shown.led
    assert shown.source == "predicted"
    assert shown.value == pytest.approx(measured["value"] + after.value - before.value, abs=0.01)
    assert shown.plus_minus > measured["plus_minus"]
    # the decay is the room's: it stays what was read, wherever the microphone stands
    assert forecast_now(data, room_id).decay_middle.measured


def test_a_silence_stays_one_when_the_microphone_or_the_hour_changes(data):
    room_id = stored_room(data)
    for kind in ("tone", "take"):
        by_rig(data, room_id, kind)
    before = forecast_now(data, room_id).marks.hush
    assert before.source == "measured"
    changed(data, room_id, nearer)
    after = forecast_now(data, room_id).marks.hush
    assert after.led
    assert "Not known" not in after.sentence
    # half the way is 6 dB louder, by the law of distance; the noise of the room hardly changes
    assert after.value - before.value == pytest.approx(6.0, abs=0.5)


def test_noises_are_held_against_the_silence_that_was_heard(data):
    room_id = stored_room(data)
    for kind in ("tone", "take"):
        by_rig(data, room_id, kind)

    def louder(doc):
        for noise in doc["noises"]:
            noise["octaves_db"] = {octave: level + 15 for octave, level in noise["octaves_db"].items()}

    value = forecast_now(data, room_id).marks.hush.value
    changed(data, room_id, louder)  # a note was wrong by 15 dB, the room is the same
    room = read_room(document_of(data, room_id))
    assert predict(room).hush.under_performance_db.value < value - 8
    heard = predict(room_as_read(data, room_id, room)).hush.under_performance_db.value
    assert heard == pytest.approx(value, abs=1.0)
    assert forecast_now(data, room_id).marks.hush.value == pytest.approx(value, abs=1.0)


def test_what_hush_lacks_is_named_with_the_reading_that_gives_it(data):
    room_id = stored_room(data, boxed_bakery() | {"noises": []})
    assert forecast_now(data, room_id).marks.hush.lacks.kind == "tone"
    for seed in range(9):
        by_rig(data, room_id, "tone", seed=seed)
    lacking = forecast_now(data, room_id).marks.hush
    assert lacking.value is None
    assert (lacking.lacks.kind, lacking.lacks.button) == ("take", "Sing a line")
    assert "silence is kept" in lacking.sentence  # nobody who has nine is told to take one
    by_rig(data, room_id, "take")
    found = forecast_now(data, room_id).marks
    assert found.hush.lacks is None
    assert found.hush.measured.current
    assert found.touch.lacks is None


def test_a_silence_of_known_level_gives_hush_by_how_loud_such_performers_are(data):
    room_id = stored_room(data)
    noise = 10 ** (-60 / 20) * np.random.default_rng(1).standard_normal(4 * 48_000)
    taken = plain(
        readings.take_in(
            data,
            room_id,
            kind="tone",
            way="import",
            file_name="tone.wav",
            content=wav_bytes(noise, 48_000),
            arrangement_id=None,
            settings={"device": "Blue interface", "gain": "dial at 2"},
        )
    )
    waiting = forecast_now(data, room_id).marks.hush
    assert waiting.measured is None
    assert "tell its level" in waiting.sentence  # who has one is not told to take one
    reading_set.calibrated_by_reading(data, taken["id"], method="meter", level_db=33.0)
    marks = forecast_now(data, room_id).marks.hush
    arrangement = document_of(data, room_id)["arrangements"][0]
    away = np.linalg.norm(np.subtract(arrangement["performer"]["at"], arrangement["microphone"]["at"]))
    # by hand: the level at 1 m, further by 20 log of the distance, over 33 dB(A)
    level = SOURCES[arrangement["performer"]["source"]].level_dba - 20 * np.log10(away)
    assert marks.source == "measured"
    assert marks.value == pytest.approx(level - 33.0, abs=0.1)
    assert marks.plus_minus == pytest.approx(np.hypot(4.0, 2.0), abs=0.05)  # of the performer, of the meter


def test_moves_between_which_nothing_was_read_share_their_proof(data):
    room_id = stored_room(data)
    by_rig(data, room_id, "sweep")
    for title, edits in (
        ("Nearer", [{"do": "set-gain", "gain_db": 1.0}]),
        ("A duvet", [{"do": "set-gain", "gain_db": 2.0}]),
    ):

        def tried(doc, title=title, edits=edits):
            standing = doc["arrangements"][0]
            trying = {"kind": "own", "title": title, "edits": edits}
            other = deepcopy(standing) | {"id": "what-if", "trying": trying}
            if title == "Nearer":
                nearer({"arrangements": [other]})
            doc["arrangements"] = [standing, other]

        changed(data, room_id, tried)
        ledger.mark_done(data, room_id, revision=opened(data, room_id).revision, kind="own", title=title)
    by_rig(data, room_id, "sweep")
    moves = [entry for entry in ledger.ledger(data, room_id) if entry.kind == "move"]
    rows = [next(row for row in entry.proof if row.mark == "bounce") for entry in moves]
    assert [row.shared_with for row in rows] == [["Nearer"], ["A duvet"]]
    assert rows[0].change_measured == rows[1].change_measured
    assert rows[0].change_predicted == pytest.approx(rows[1].change_predicted)
    assert "2 moves" in rows[0].words
