"""What several readings give together, and the calibrations that belong to a chain."""

import io
import sqlite3

import numpy as np
import pytest
import soundfile
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine

from keenquiet.core.errors import InputError
from keenquiet.core.read.tone import a_weighted
from keenquiet.documents.convert import read_room
from keenquiet.service import bundles, calibrations, ledger, reading_set, readings, rooms, takes
from keenquiet.service.answers.numbers import plain
from keenquiet.service.data import Data
from keenquiet.service.predict import predict
from keenquiet.service.underneath import underneath_take
from keenquiet.store import apart
from keenquiet.store.audiofile import wav_bytes
from keenquiet.store.errors import NotFound

from ..conftest import boxed_bakery as bakery_room
from ..conftest import by_rig, document_of, marks_now, stored_room

RATE = 48_000
CHAIN = {"device": "Blue interface", "gain": "dial at 2"}


@pytest.fixture
def room_id(data):
    return stored_room(data)


def sweep(data, room_id, seed, **more):
    return by_rig(data, room_id, seed=seed, **more)


def brought(data, room_id, kind, samples, **settings):
    content = wav_bytes(samples, RATE)
    return plain(
        readings.take_in(
            data,
            room_id,
            kind=kind,
            way="import",
            file_name=f"{kind}.wav",
            content=content,
            arrangement_id=None,
            settings=settings,
        )
    )


def calibrated(data, reading_id, *, method, level_db):
    return plain(reading_set.calibrated_by_reading(data, reading_id, method=method, level_db=level_db))


def hush(level_dbfs, seed=1):
    return 10 ** (level_dbfs / 20) * np.random.default_rng(seed).standard_normal(4 * RATE)


def speech(seed=2):
    t = np.arange(8 * RATE) / RATE
    return 0.1 * np.sin(2 * np.pi * 300 * t) * (np.mod(t, 2) < 1.2) + hush(-70, seed).repeat(2)


def test_the_average_of_repeats_has_less_noise_and_the_same_decay(data, room_id):
    taken = [sweep(data, room_id, seed) for seed in (1, 2, 3)]
    mean = plain(reading_set.average_of(data, room_id, [reading["id"] for reading in taken]))
    assert mean["simulated"]
    assert mean["settings"]["average_of"] == [reading["id"] for reading in taken]
    at = [band["centre_hz"] for band in mean["result"]["bands"]].index(1000)
    one = taken[0]["result"]["bands"][at]
    assert mean["result"]["bands"][at]["inr_db"] - one["inr_db"] == pytest.approx(10 * np.log10(3), abs=1.5)
    assert mean["result"]["bands"][at]["t20_s"] == pytest.approx(one["t20_s"], rel=0.05)
    assert set(mean["measured"]) == {"bounce", "boom"}


def test_what_cannot_be_averaged_is_refused(data, room_id):
    first = sweep(data, room_id, 1)
    loud = sweep(data, room_id, 2, faults=("gain-too-high",))
    real = brought(
        data, room_id, "ir", 0.2 * np.random.default_rng(3).standard_normal(RATE) * np.exp(-np.arange(RATE) / 3000.0)
    )
    document = document_of(data, room_id)
    document["arrangements"][0]["microphone"]["at"][0] -= 0.3
    rooms.save(data, room_id, document, revision=1)
    elsewhere = sweep(data, room_id, 3)
    for ids, says in (
        ([first["id"]], "fewer than two"),
        ([first["id"], first["id"]], "fewer than two"),
        ([first["id"], loud["id"]], "no usable sweep"),
        ([first["id"], real["id"]], "mixes simulated with real"),
        ([first["id"], elsewhere["id"]], "different places"),
    ):
        with pytest.raises(InputError, match=says):
            reading_set.average_of(data, room_id, ids)
    with pytest.raises(NotFound):
        reading_set.average_of(data, room_id, [first["id"], "none"])


def test_a_meter_calibrates_its_chain_and_no_other(data, room_id):
    before = brought(data, room_id, "tone", hush(-60), **CHAIN)
    other = brought(data, room_id, "tone", hush(-60), device="Blue interface", gain="dial at 5")
    assert not before["result"]["calibrated"]
    made = calibrated(data, before["id"], method="meter", level_db=33.0)
    assert (made["plus_minus_db"], made["reread"]) == (2.0, 1)
    again = plain(readings.opened(data, before["id"]))
    assert again["result"]["laeq_db"] == pytest.approx(33.0, abs=0.01)
    assert again["result"]["nr"] is not None
    later = brought(data, room_id, "tone", hush(-50, 4), **CHAIN)  # 10 dB louder through the same chain
    assert later["result"]["laeq_db"] == pytest.approx(43.0, abs=0.2)
    assert later["settings"]["calibration_method"] == "meter"
    assert not plain(readings.opened(data, other["id"]))["result"]["calibrated"]
    calibrations.removed(data, made["id"])
    assert calibrations.listed(data) == []
    assert not brought(data, room_id, "tone", hush(-50, 5), **CHAIN)["result"]["calibrated"]


def test_a_calibrator_gives_the_level_of_its_tone(data, room_id):
    t = np.arange(5 * RATE) / RATE
    tone = wav_bytes(0.1 * np.sqrt(2) * np.sin(2 * np.pi * 1000 * t), RATE)
    chain = calibrations.chain_of(CHAIN)
    made = reading_set.calibrated_by_calibrator(data, tone, "cal.wav", chain, 94.0)
    assert made.full_scale_db == pytest.approx(114.0, abs=0.02)  # RMS of 0.1 is 20 dB under 1
    with pytest.raises(InputError, match="steady"):
        reading_set.calibrated_by_calibrator(data, wav_bytes(speech(), RATE), "talk.wav", chain, 94.0)


def test_a_spoken_line_calibrates_roughly_by_what_is_predicted_of_speech(data, room_id):
    line = brought(data, room_id, "spoken", speech(), **CHAIN)
    made = calibrated(data, line["id"], method="voice", level_db=None)
    document = bakery_room()
    document["arrangements"][0]["performer"]["source"] = "voice-spoken"  # who sings in this room speaks here
    expected = predict(read_room(document)).hush.performance_dba - line["result"]["active_dba"]
    assert made["full_scale_db"] == pytest.approx(expected, abs=0.01)
    assert made["plus_minus_db"] == 6.0


@pytest.mark.parametrize(
    ("kind", "settings", "method", "level", "says"),
    [
        ("tone", {}, "meter", 30.0, "does not say its device"),
        ("tone", CHAIN, "meter", None, "needs a silence and what the meter showed"),
        ("tone", CHAIN, "meter", -500.0, "15 to 110"),
        ("tone", CHAIN, "voice", None, "no take"),
        ("tone", CHAIN, "guess", None, "needs a recording of its own"),
    ],
)
def test_a_calibration_that_cannot_be_is_refused(data, room_id, kind, settings, method, level, says):
    reading = brought(data, room_id, kind, hush(-60), **settings)
    with pytest.raises(InputError, match=says):
        reading_set.calibrated_by_reading(data, reading["id"], method=method, level_db=level)
    assert calibrations.listed(data) == []


def test_a_reading_set_aside_settles_nothing_until_it_counts_again(data, room_id):
    taken = sweep(data, room_id, 1)
    assert "bounce" in marks_now(data, room_id)
    said = readings.described(data, taken["id"], note="door ajar", tags=["before", " before ", "", "A"], counts=False)
    assert (said.note, said.tags, said.counts) == ("door ajar", ["before", "A"], False)
    assert marks_now(data, room_id) == {}
    readings.described(data, taken["id"], note=None, tags=None, counts=True)
    assert "bounce" in marks_now(data, room_id)
    assert readings.opened(data, taken["id"]).note == "door ajar"


def test_a_singers_spoken_line_is_led_over_to_the_song(data, room_id):
    """Speech is far softer than song: its own distance to the noise would call the room loud."""
    spoken, take = (by_rig(data, room_id, kind, seed=6) for kind in ("spoken", "take"))
    assert spoken["result"]["snr_db"] < take["result"]["snr_db"] - 8
    assert spoken["measured"]["hush"]["value"] == pytest.approx(take["measured"]["hush"]["value"], abs=4)
    assert spoken["measured"]["hush"]["plus_minus"] == 6.0
    assert "touch" not in spoken["measured"]


def test_a_reading_set_aside_proves_no_move(data, room_id):
    document = document_of(data, room_id)
    nearer = {**document["arrangements"][0]["microphone"], "at": [2.40, 1.34, 1.49]}
    document["arrangements"].append({**document["arrangements"][0], "id": "what-if", "microphone": nearer})
    revision = rooms.save(data, room_id, document, revision=1).revision
    ledger.mark_done(data, room_id, revision=revision, kind="distance", title="Nearer")
    taken = sweep(data, room_id, 3)

    def proved():
        (move,) = [entry for entry in ledger.ledger(data, room_id) if entry.kind == "move"]
        return {row.mark for row in move.proof if row.measured is not None}

    assert proved() == {"bounce", "boom"}
    readings.described(data, taken["id"], note=None, tags=None, counts=False)
    assert proved() == set()


def test_pop_words_tell_touch_and_never_a_simulated_one_to_a_real_take(data, room_id):
    by_rig(data, room_id, "pops")
    assert "touch" not in marks_now(data, room_id)  # pops alone are no peak
    by_rig(data, room_id, "loudest", gain_db=-12.0)
    assert marks_now(data, room_id)["touch"]["pops"] >= 1
    brought(data, room_id, "take", speech())
    assert "pops" not in marks_now(data, room_id)["touch"]


def test_a_part_is_raised_to_be_heard_and_never_clips(data, room_id):
    quiet = brought(data, room_id, "tone", hush(-70))
    part = reading_set.part_wav(data, quiet["id"], from_s=1.0, to_s=2.5, level=True)
    samples, rate = soundfile.read(io.BytesIO(part.content))
    assert len(samples) / rate == pytest.approx(1.5, abs=0.001)
    assert part.raised_db == pytest.approx(46.0, abs=0.3)
    assert np.max(np.abs(samples)) < 1
    assert reading_set.part_wav(data, quiet["id"], from_s=1.0, to_s=2.5, level=False).raised_db == 0.0
    with pytest.raises(InputError, match="no part"):
        reading_set.part_wav(data, quiet["id"], from_s=9.0, to_s=10.0, level=True)


def test_the_parts_of_a_pair_differ_by_what_was_changed_and_nothing_else(data, room_id):
    quiet = brought(data, room_id, "tone", hush(-40))

    def heard(change, by_db):
        part = reading_set.part_wav(data, quiet["id"], from_s=0.5, to_s=2.5, level=True, change=change, by_db=by_db)
        return soundfile.read(io.BytesIO(part.content))[0]

    plain = heard("louder", 0.0)
    assert np.std(heard("louder", 6.0)) / np.std(plain) == pytest.approx(10 ** (6 / 20), rel=1e-3)
    added = heard("noise", -20.0) - heard("noise", -200.0)
    assert np.std(a_weighted(added, RATE)) / np.std(a_weighted(plain, RATE)) == pytest.approx(0.1, rel=0.03)
    with pytest.raises(InputError, match="no change"):
        heard("wobblier", 1.0)


def test_an_impulse_response_goes_out_and_comes_in_with_the_same_figures(data, room_id):
    taken = sweep(data, room_id, 4)
    content = reading_set.impulse_wav(data, taken["id"])
    back = plain(
        readings.take_in(
            data,
            room_id,
            kind="ir",
            way="import",
            file_name="ir.wav",
            content=content,
            arrangement_id=None,
            settings={},
        )
    )
    for got, want in zip(back["result"]["bands"], taken["result"]["bands"], strict=True):
        if want["t20_s"] is not None:
            assert got["t20_s"] == pytest.approx(want["t20_s"], rel=0.01)
    tone = brought(data, room_id, "tone", hush(-60))
    with pytest.raises(InputError, match="no impulse response"):
        reading_set.impulse_wav(data, tone["id"])


def test_a_curve_is_kept_listed_and_bundled(data, room_id):
    text = "Hz,dB\n20,-3\n40,0\n80,2\n160,1\n"
    kept = plain(
        readings.take_in(
            data,
            room_id,
            kind="curve",
            way="import",
            file_name="c.csv",
            content=text.encode(),
            arrangement_id=None,
            settings={},
        )
    )
    assert kept["result"]["curve"]["level_db"] == [-3.0, 0.0, 2.0, 1.0]
    readings.described(data, kept["id"], note="from a friend", tags=["old"], counts=None)
    content, _ = bundles.exported(data, room_id)
    again = bundles.imported(data, content)
    (listed,) = readings.listed(data, again.id)
    assert (listed.kind, listed.tags, listed.note) == ("curve", ["old"], "from a friend")
    sound = readings.audio_of(data, listed.id)
    assert (sound.read_bytes(), sound.suffix) == (text.encode(), ".csv")


def test_the_table_defuses_what_a_spreadsheet_would_run(data, room_id):
    taken = brought(data, room_id, "tone", hush(-60))
    readings.described(data, taken["id"], note="=1+1", tags=None, counts=None)
    head, row = reading_set.readings_csv(data, room_id).splitlines()
    assert head.startswith("Kind,Taken,Way,Simulated")
    assert ",'=1+1," in row


def test_readings_of_an_older_folder_are_kept_by_the_migration(tmp_path):
    folder = tmp_path / "old"
    folder.mkdir()
    config = Config()
    from keenquiet.store import database

    config.set_main_option("script_location", str(database.Path(database.__file__).parent / "migrations"))
    engine = create_engine(f"sqlite:///{folder / 'keenquiet.db'}")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "a001")
    engine.dispose()
    with sqlite3.connect(folder / "keenquiet.db") as old:
        old.execute(
            "insert into rooms values ('r', 'Old', 1, '{}', '2026-01-01 00:00:00', '2026-01-01 00:00:00', null)"
        )
        old.execute(
            "insert into readings (id, room_id, kind, way, simulated, "
            "taken_at, arrangement, audio_sha256, audio_suffix, file_name,"
            " sample_rate_hz, seconds, settings, result, measured, predicted, note) values ('x', 'r', 'tone', 'rig', 1,"
            " '2026-01-01 00:00:00', '{}', 'a', '.wav', 'f', 48000, 1, '{}', '{}', '{}', '{}', 'kept')"
        )
    old.close()
    data = Data(folder)
    with data.database.session() as session:
        from keenquiet.store.models import Reading

        row = session.get(Reading, "x")
        assert (row.note, row.tags, row.counts) == ("kept", [], True)
    data.close()
    assert list((folder / "backups").glob(f"*before-{database.NEWEST}.db"))


def test_a_take_that_was_opened_before_starts_no_process(data, monkeypatch):
    room_id = stored_room(data)
    by_rig(data, room_id, "tone")
    line, take = (by_rig(data, room_id, "take", seed=seed)["id"] for seed in (3, 4))

    def opened():
        wave = takes.wave_of(data, take, from_s=0.0, to_s=10.0, points=200)
        return (
            wave,
            takes.against_line(data, take, line),
            takes.takes_by_line(data, line, take),
            underneath_take(data, take),
        )

    first = opened()
    assert first[3] is not None
    monkeypatch.setattr(apart.subprocess, "run", lambda *_, **__: 1 / 0)
    assert opened() == first
