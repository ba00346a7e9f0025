"""What a reading settles, what it was predicted to be, and how a move is proved by it."""

import numpy as np
import pytest

from keenquiet.core.read.ringing import Note
from keenquiet.service import ledger, readings, rooms
from keenquiet.service.answers.forecast import FlutterAnswer, PathAnswer
from keenquiet.service.answers.numbers import plain
from keenquiet.service.answers.readings import EarlyAnswer, FlutterHeard, RingingAnswer
from keenquiet.service.kinds.responses import between, hanging_note, matched, named
from keenquiet.service.predict import predict
from keenquiet.service.reading import analyse, rig_recording
from keenquiet.store.audiofile import Audio, wav_bytes

from ..conftest import boxed_bakery as bakery_room
from ..conftest import by_rig, document_of, marks_now, stored_room

RATE = 48_000


def heard(samples, rate=RATE) -> Audio:
    return Audio(np.atleast_2d(samples), float(rate), 24, ".wav")


@pytest.fixture(scope="module")
def sweep():
    from keenquiet.documents.convert import read_room

    room = read_room(bakery_room())
    return room, rig_recording(room, room.arrangements[0], "sweep", seed=31)


def test_the_note_that_hangs_is_the_longest_of_those_heard():
    notes = (Note(150, 0.5, 0.0), Note(180, 0.9, -9.0), Note(200, 2.0, -14.0), Note(60, 3.0, 6.0))
    assert hanging_note(notes, (140, 300)).f_hz == 180  # 200 Hz is too faint, 60 Hz below the voice
    assert hanging_note(notes, (40, 300)).f_hz == 60
    assert hanging_note((), (40, 300)) is None


def test_a_sweep_settles_bounce_and_boom_and_was_predicted_for_its_loudspeaker(sweep):
    room, recording = sweep
    answer = analyse(heard(recording.samples), "sweep", curves=True)
    settled = answer.settled(room, room.arrangements[0])
    measured, predicted = settled.measured, settled.predicted
    assert set(measured) == set(predicted) == {"bounce", "boom"}
    loudspeaker, performer = (predict(room, loudspeaker=on).bounce.direct_over_room_db.value for on in (True, False))
    # what the loudspeaker made is led over to the performer, and the performer's is what was promised
    assert measured["bounce"].value - measured["bounce"].raw_value == pytest.approx(performer - loudspeaker, abs=1e-3)
    assert predicted["bounce"].value == pytest.approx(performer, abs=1e-3)
    assert measured["bounce"].value == pytest.approx(predicted["bounce"].value, abs=2.5)
    assert measured["bounce"].decay_s == pytest.approx(predict(room).bounce.decay_s.value, rel=0.25)
    assert measured["boom"].value == pytest.approx(predicted["boom"].value, rel=0.5)


def test_ringing_notes_are_set_beside_modes_that_are_near_and_no_others(sweep):
    room, _ = sweep
    forecast = predict(room)
    first = forecast.modes.f_hz[0]
    near, far = (
        matched(RingingAnswer(f_hz=f, t60_s=0.7, level_db=0.0, note=""), forecast).mode for f in (first * 1.004, 33.0)
    )
    assert near.indices == (1, 0, 0)
    assert near.f_hz == pytest.approx(first, abs=0.01)
    assert far is None  # no mode of this room lies within 3 % of 33 Hz


def path(delay_ms, level_db, where):
    return PathAnswer(order=1, delay_ms=delay_ms, level_db=level_db, surfaces=["x"], points=[[0, 0, 0]], where=where)


def test_early_returns_are_named_by_the_path_that_fits_or_not_at_all():
    paths = [path(4.2, -19.0, "the ceiling"), path(4.4, -30.0, "the floor")]
    early = [named(EarlyAnswer(delay_ms=at, level_db=level), paths) for at, level in ((4.3, -20.0), (12.0, -25.0))]
    assert [n.where for n in early] == ["the ceiling", None]
    assert [n.predicted_db for n in early] == [-19.0, None]


@pytest.mark.parametrize(
    ("spoil", "code"),
    [
        (lambda x: np.clip(4 * x, -1, 1), "clipped"),
        (lambda x: 0.3 * np.clip(3 * x, -0.8, 0.8), "flat_topped"),
        (lambda x: x[: int(4.2 * RATE)], "incomplete"),
        (lambda x: x[::-1].copy(), "no_sweep"),
        (lambda x: np.where(np.mod(np.arange(len(x)) / RATE, 1.0) < 0.2, 0.0, x), "gated"),
    ],
)
def test_a_spoiled_sweep_settles_nothing_and_says_why(sweep, spoil, code):
    room, recording = sweep
    answer = analyse(heard(spoil(recording.samples)), "sweep", curves=True)
    assert not answer.usable
    assert code in [reason.code for reason in answer.result.verdict.reasons]
    assert answer.settled(room, room.arrangements[0]).measured == {}


def test_a_take_settles_touch_and_its_pauses_hush(sweep):
    room, _ = sweep
    take = rig_recording(room, room.arrangements[0], "take", seed=5)
    answer = analyse(heard(take.samples), "take")
    settled = answer.settled(room, room.arrangements[0])
    assert settled.measured["touch"].value == pytest.approx(20 * np.log10(np.max(np.abs(take.samples))), abs=0.5)
    assert settled.measured["hush"].value == pytest.approx(settled.predicted["hush"].value, abs=10)


def test_a_reading_goes_stale_when_somebody_moves_and_fresh_when_they_return(data):
    room_id = stored_room(data)
    by_rig(data, room_id)
    assert marks_now(data, room_id)["bounce"]["current"]
    moved = bakery_room()
    moved["arrangements"][0]["microphone"]["at"] = [2.2, 1.2, 1.48]
    rooms.save(data, room_id, moved, revision=1)
    found = marks_now(data, room_id)["bounce"]
    assert (found["current"], found["since"]) == (False, "the microphone's place")
    rooms.save(data, room_id, bakery_room(), revision=2)
    assert marks_now(data, room_id)["bounce"]["current"]


def test_a_renamed_room_or_another_hour_leaves_a_reading_fresh(data):
    room_id = stored_room(data)
    by_rig(data, room_id)
    changed = bakery_room() | {"name": "Above the ovens"}
    changed["arrangements"][0]["hour"] = 12
    rooms.save(data, room_id, changed, revision=1)
    assert marks_now(data, room_id)["bounce"]["current"]


def test_each_move_is_proved_by_the_readings_before_the_next(data):
    room_id, revision = stored_room(data), 1
    titles = ("Nearer", "Nearer still")
    for title, at in zip(titles, ([2.40, 1.34, 1.49], [2.52, 1.44, 1.50]), strict=True):
        document = document_of(data, room_id)
        standing = document["arrangements"][0]
        tried = {**standing, "id": "what-if", "microphone": {**standing["microphone"], "at": at}}
        revision = rooms.save(
            data, room_id, {**document, "arrangements": [standing, tried]}, revision=revision
        ).revision
        revision = ledger.mark_done(data, room_id, revision=revision, kind="distance", title=title).revision
        by_rig(data, room_id, seed=revision)
    entries = {entry.title: entry for entry in ledger.ledger(data, room_id) if entry.kind == "move"}
    proofs = {title: next(row for row in entries[title].proof if row.mark == "bounce") for title in titles}
    assert proofs["Nearer"].reading_id != proofs["Nearer still"].reading_id
    assert proofs["Nearer"].measured_before is None
    assert proofs["Nearer still"].measured_before == pytest.approx(proofs["Nearer"].measured)
    for proof in proofs.values():
        spread = 2 * (proof.plus_minus**2 + proof.measured_plus_minus**2) ** 0.5
        assert proof.within == (abs(proof.measured - proof.predicted) <= spread)
    assert proofs["Nearer still"].measured > proofs["Nearer"].measured + 2


def test_the_sound_of_a_reading_is_the_sound_that_came(data):
    room_id = stored_room(data)
    content = wav_bytes(0.1 * np.random.default_rng(3).standard_normal(4 * RATE), RATE)
    kept = plain(
        readings.take_in(
            data,
            room_id,
            kind="tone",
            way="import",
            file_name="hush.wav",
            content=content,
            arrangement_id=None,
            settings={"device": "d"},
        )
    )
    sound = readings.audio_of(data, kept["id"])
    assert (sound.read_bytes(), sound.suffix) == (content, ".wav")
    assert kept["settings"] == {"device": "d"}
    assert not kept["simulated"]


def test_a_glide_finds_a_swell_where_the_room_has_one(data):
    """In the rig's room the strongest swell lies on a mode that the drawing predicts, and says so."""
    reading = by_rig(data, stored_room(data), "glide", seed=3)
    assert reading["verdict"]["usable"]
    assert reading["measured"] == {}
    swells = reading["result"]["swells"]
    assert swells
    assert swells[0]["rise_db"] >= 3
    assert swells[0]["mode"]["f_hz"] == pytest.approx(swells[0]["f_hz"], rel=0.03)
    curve = reading["result"]["curve"]
    assert len(curve["f_hz"]) == len(curve["rise_db"]) > 30


def test_a_flutter_is_given_the_walls_that_fit():
    def pair(spacing_m, lasts_s, where):
        figures = {"surfaces": [], "rate_hz": 1, "area_m2": 1, "lost_db": 1, "outline": [], "across": [0, 0, 0]}
        return FlutterAnswer(spacing_m=spacing_m, lasts_s=lasts_s, where=where, **figures)

    pairs = [pair(3.62, 0.8, ["the window wall", "the door wall"]), pair(2.84, 1.2, ["left", "right"])]
    fits, none = (
        between(FlutterHeard(rate_hz=rate, spacing_m=spacing, strength_db=5.0), pairs).between
        for rate, spacing in ((47.4, 3.6), (85.0, 2.0))
    )
    assert fits == ["the window wall", "the door wall"]
    assert none is None
