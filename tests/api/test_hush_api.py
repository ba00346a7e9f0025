"""Noise over the API and by command line: hours, watches, rounds, ways in, noises noted from a silence."""

import io
import json
import time
from datetime import UTC, datetime

import numpy as np
import pytest
import soundfile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from keenquiet.core.read.watch import packed, second_levels_db, unpacked
from keenquiet.demo.scenario import bakery_room
from keenquiet.store.audiofile import wav_bytes

from .test_cli import run  # noqa: F401

RATE = 16_000
MONDAY_MS = 1_767_571_200_000  # 5 January 2026, 00:00 UTC


def quiet_block(rng, seconds=10, level=1e-3):
    return (level * rng.standard_normal(seconds * RATE) * 32767).astype("<i2")


def send(client, watch, pcm, from_ms, offset=60, device=""):
    return client.post(
        f"/api/watches/{watch}/sound",
        files={"file": ("block.pcm", pcm.tobytes())},
        data={"from_ms": from_ms, "offset_min": offset, "rate": RATE, "device": device},
    )


@pytest.fixture
def watch(client, room_id):
    return client.post(f"/api/rooms/{room_id}/watches", json={"way": "browser"}).json()["id"]


def test_levels_of_a_second_are_those_of_its_sound(rng):
    t = np.arange(RATE * 2) / RATE
    tone = 0.1 * np.sqrt(2) * np.sin(2 * np.pi * 1000 * t)  # RMS 0.1: -20 dBFS, A-weighting 0 dB at 1 kHz
    levels = second_levels_db(tone, RATE)
    assert levels.shape == (2, 9)
    assert levels[0, 0] == pytest.approx(-20, abs=0.2)
    assert levels[0, 5] == pytest.approx(-20, abs=0.1)
    assert np.isnan(levels[0, 8])  # 8 kHz octave does not fit under 8 kHz
    back = unpacked(packed(levels))
    assert np.nanmax(np.abs(back - np.clip(levels, -126.5, 0))) <= 0.25
    assert np.isnan(back[0, 8])


def test_blocks_make_a_night_and_what_passes_is_kept_to_be_heard(client, room_id, watch, rng):
    for block in range(6):
        pcm = quiet_block(rng)
        if block == 3:
            pcm[9 * RATE :] = np.clip(pcm[9 * RATE :] * 60, -32000, 32000)  # ends in the next block
        answer = send(client, watch, pcm, MONDAY_MS + 10_000 * block)
        assert answer.status_code == 200, answer.text
    assert answer.json()["next_ms"] == MONDAY_MS + 60_000
    found = client.get(f"/api/watches/{watch}").json()
    assert (found["seconds"], found["gaps"], found["clips"]) == (60, 0, 1)
    (passed,) = found["passed"]
    assert passed["at_ms"] == MONDAY_MS + 39_000
    (clip,) = client.get(f"/api/watches/{watch}/clips").json()
    assert clip["at_ms"] == MONDAY_MS + 37_000
    assert clip["seconds"] == 5
    sound = client.get(f"/api/watches/{watch}/clips/{clip['at_ms']}")
    samples, rate = soundfile.read(io.BytesIO(sound.content))
    assert rate == RATE
    assert len(samples) == 5 * RATE
    assert np.std(samples[2 * RATE : 3 * RATE]) > 20 * np.std(samples[:RATE])
    assert found["megabytes"] < 0.3


def test_a_block_that_comes_twice_late_or_after_a_sleep_is_kept_once_and_a_gap_stays_one(client, watch, rng):
    one, two, three = (quiet_block(rng) for _ in range(3))
    send(client, watch, two, MONDAY_MS + 10_000)
    send(client, watch, two, MONDAY_MS + 10_000)
    send(client, watch, one, MONDAY_MS)
    send(client, watch, three, MONDAY_MS + 7_200_000)
    found = client.get(f"/api/watches/{watch}").json()
    assert (found["seconds"], found["gaps"]) == (30, 1)
    assert None in found["level_db"]
    rows = client.get(f"/api/watches/{watch}/log.csv").text.splitlines()
    assert len(rows) == 31
    assert rows[1].startswith("2026-01-05T00:00:00Z,2026-01-05T01:00:00,")


def test_blocks_that_overlap_count_once_and_a_longer_one_brings_what_is_new(client, watch, rng):
    first, longer = quiet_block(rng), quiet_block(rng, seconds=20)
    assert send(client, watch, first, MONDAY_MS).json()["seconds"] == 10
    assert send(client, watch, longer, MONDAY_MS).json()["seconds"] == 10  # its second half
    assert send(client, watch, longer, MONDAY_MS + 15_300).json()["seconds"] == 15
    assert send(client, watch, first, MONDAY_MS + 5_400).json()["seconds"] == 0
    found = client.get(f"/api/watches/{watch}").json()
    assert (found["seconds"], found["gaps"]) == (35, 0)
    times = [row.split(",")[0] for row in client.get(f"/api/watches/{watch}/log.csv").text.splitlines()[1:]]
    assert len(set(times)) == len(times) == 35


@settings(max_examples=20, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.integers(0, 120), st.integers(1, 40), st.booleans()), min_size=1, max_size=25))
def test_whatever_comes_in_whatever_order_each_second_is_there_once(client, room_id, blocks):
    one = client.post(f"/api/rooms/{room_id}/watches", json={"way": "rig"}).json()["id"]
    heard = set()
    for start, count, twice in blocks:
        ask = {"from_ms": MONDAY_MS + 1000 * start, "offset_min": 0, "rows": [[-60.0] * 9] * count}
        kept = client.post(f"/api/watches/{one}/levels", json=ask).json()["seconds"]
        new = set(range(start, start + count)) - heard
        assert kept == len(new)
        heard |= new
        assert not twice or client.post(f"/api/watches/{one}/levels", json=ask).json()["seconds"] == 0
    found = client.get(f"/api/rooms/{room_id}/watches").json()[0]
    assert (found["id"], found["seconds"]) == (one, len(heard))
    assert found["gaps"] == sum(second + 1 not in heard for second in heard) - 1
    client.post(f"/api/watches/{one}/stop", json={})


def test_one_device_listens_another_looks_on_and_may_take_over(client, room_id, rng):
    mine, other = "device-one", "device-two"
    watch = client.post(f"/api/rooms/{room_id}/watches", json={"way": "browser", "device": mine}).json()["id"]
    block = quiet_block(rng)
    assert send(client, watch, block, MONDAY_MS, device=mine).status_code == 200
    refused = send(client, watch, block, MONDAY_MS + 10_000, device=other)
    assert (refused.status_code, refused.json()["error"]["field"]) == (409, "device")
    over = {"device": other, "from_ms": MONDAY_MS + 20_000}
    assert client.post(f"/api/watches/{watch}/take-over", json=over).json()["device"] == other
    assert send(client, watch, block, MONDAY_MS + 20_000, device=other).status_code == 200
    # what the former one heard before that, and could not send yet, is taken still
    assert send(client, watch, block, MONDAY_MS + 10_000, device=mine).json()["seconds"] == 10
    assert send(client, watch, block, MONDAY_MS + 30_000, device=mine).status_code == 409
    assert client.get(f"/api/watches/{watch}").json()["gaps"] == 0


def test_a_log_of_uneven_steps_is_put_where_its_times_say(client, room_id):
    at = [0, 1, 2.4, 3.4, 4.8, 5.9, 7, 100, 101, 100_000, 100_001]
    rows = "\n".join(f"{MONDAY_MS / 1000 + t},{40 + i}" for i, t in enumerate(at))
    made = client.post(
        f"/api/rooms/{room_id}/watches/import",
        files={"file": ("log.csv", f"time,level\n{rows}\n")},
        data={"unit": "dBA", "offset_min": "60"},
    ).json()
    table = client.get(f"/api/watches/{made['id']}/log.csv").text.splitlines()[1:]
    ask = {"from_ms": MONDAY_MS, "offset_min": 0, "rows": [[-60.0] * 9]}
    assert client.post(f"/api/watches/{made['id']}/levels", json=ask).status_code == 422  # a log takes nothing more
    seconds = [datetime.fromisoformat(row.split(",")[0]).timestamp() - MONDAY_MS / 1000 for row in table]
    late = np.subtract(at, seconds)  # a table names whole seconds; half a step of 1.1 s is what is rounded away
    assert np.min(late) >= -0.56
    assert np.max(late) < 1.56
    assert [float(row.split(",")[2]) for row in table] == [40 + i for i in range(len(at))]


def test_a_muted_microphone_is_no_quiet_night(client, watch, rng):
    send(client, watch, quiet_block(rng), MONDAY_MS)
    send(client, watch, np.zeros(10 * RATE, dtype="<i2"), MONDAY_MS + 10_000)
    send(client, watch, quiet_block(rng), MONDAY_MS + 20_000)
    assert len(client.get(f"/api/watches/{watch}/log.csv").text.splitlines()) == 21


def test_what_cannot_be_a_block_is_refused_in_words(client, watch, rng):
    pcm = quiet_block(rng)
    for answer in (
        send(client, watch, pcm[: RATE // 2], MONDAY_MS),
        send(client, watch, pcm, 12),
        send(client, watch, pcm, MONDAY_MS, offset=5000),
        client.post(f"/api/watches/{watch}/levels", json={"from_ms": MONDAY_MS, "offset_min": 0, "rows": [[1.0, 2.0]]}),
    ):
        assert answer.status_code == 422
        assert answer.json()["error"]["cure"]
    assert client.post("/api/watches/nothing/stop", json={}).status_code == 404
    client.post(f"/api/watches/{watch}/stop", json={"why": "disk"})
    late = send(client, watch, pcm, round(1000 * time.time()) + 60_000)
    assert late.status_code == 422
    assert client.get(f"/api/watches/{watch}").json()["stopped_why"] == "disk"


def test_four_practice_nights_become_chances_and_two_do_not(client, room_id):
    document = client.get(f"/api/rooms/{room_id}").json()["document"]
    document["arrangements"][0]["silenced"] = ["Laptop fan"]
    client.put(f"/api/rooms/{room_id}", json={"document": document, "revision": 1})
    ask = {"document": document, "arrangement_id": "as-is", "minutes": 4}
    watch = client.post(f"/api/rooms/{room_id}/watches", json={"way": "rig"}).json()["id"]
    for night in range(4):
        for hour in range(1, 5):
            at = MONDAY_MS + (24 * night + hour) * 3_600_000
            block = client.get(
                f"/api/rooms/{room_id}/practice-night", params={"from_ms": at, "offset_min": 0, "seconds": 3600}
            ).json()
            kept = client.post(
                f"/api/watches/{watch}/levels", json={"from_ms": at, "offset_min": 0, "rows": block["rows"]}
            )
            assert kept.json()["next_ms"] == at + 3_600_000
        found = client.post("/api/hours", json=ask | {"room_id": room_id}).json()
        two = next(h for h in found["hours"] if h["weekday"] == 0 and h["hour"] == 2)
        if night < 2:
            assert "too_little" in found["flags"]
            assert two["known"] == "noted"
    assert two["known"] == "log"
    assert two["nights"] == 4
    assert two["low"] <= two["chance"] <= two["high"]
    assert two["chance"] > 0.7  # the silent hours of the demo
    four = next(h for h in found["hours"] if h["weekday"] == 0 and h["hour"] == 4)
    assert four["chance"] == 0  # the extractor
    assert found["log"]["gaps"] == 3
    noon = next(h for h in found["hours"] if h["weekday"] == 0 and h["hour"] == 12)
    assert noon["known"] == "noted"
    calendar = client.post("/api/hours.ics", json=ask | {"room_id": room_id}).content.decode()
    assert calendar.startswith("BEGIN:VCALENDAR\r\n")
    assert calendar.count("BEGIN:VEVENT") == calendar.count("END:VEVENT") > 0
    assert all(len(line.encode()) <= 75 for line in calendar.split("\r\n"))
    assert len(client.post("/api/hours.csv", json=ask | {"room_id": room_id}).text.splitlines()) == 169


def log_rows(start=datetime(2026, 1, 5, 20, tzinfo=UTC), n=7200, step=1):
    return [f"{start.timestamp() + i * step:.0f},{30 + (20 if i % 1800 < 20 else 0)}" for i in range(n)]


def test_a_log_from_a_meter_needs_its_unit_and_says_which_row_is_wrong(client, room_id):
    def bring(text, unit="dBA", offset=60):
        return client.post(
            f"/api/rooms/{room_id}/watches/import",
            files={"file": ("night.csv", text.encode())},
            data={"unit": unit, "offset_min": offset},
        )

    rows = log_rows()
    good = bring("time,level_db\n" + "\n".join([*rows[::-1], rows[5], ""]))
    assert good.status_code == 201
    assert good.json()["seconds"] == 7200
    opened = client.get(f"/api/watches/{good.json()['id']}").json()
    assert opened["quiet_db"] == 30
    assert len(opened["passed"]) == 4
    for text, unit in (
        ("time,level_db\n" + "\n".join(rows), "loud"),
        ("when,how\n1,2\n", "dBA"),
        ("time,level_db\nyesterday,30\n", "dBA"),
        ("time,level_db\n2026-01-05T20:00:00,loud\n", "dBA"),
        ("time,level_db\n2026-01-05T20:00:00,9000\n", "dBA"),
        ("", "dBA"),
    ):
        answer = bring(text, unit)
        assert answer.status_code == 422, text[:40]
        assert answer.json()["error"]["cure"]


def test_hush_answers_for_every_demo_room_and_for_one_where_nothing_is_noted(client):
    for document in (bakery_room(), {**bakery_room(), "noises": []}):
        found = client.post("/api/hush", json={"document": document}).json()
        assert found["known"] == bool(document["noises"])
        assert found["under"]["squeezed"] == pytest.approx(found["under"]["now"] - 10, abs=0.02)
    assert found["flags"] == ["noise_unknown"]
    marks = client.post("/api/forecast", json={"document": document}).json()["marks"]
    assert marks["hush"]["value"] is None
    assert "enough" not in marks["hush"]["sentence"].lower()


def test_ways_are_closed_by_an_edit_and_a_vent_is_not(client):
    document = bakery_room()
    document["leaks"] = [{"kind": "vent", "surface": "wall-7", "x_m": 0.4, "z_m": 2.2, "area_cm2": 80}]
    found = client.post("/api/hush", json={"document": document}).json()
    vent = next(way for way in found["ways"] if way["kind"] == "vent")
    assert vent["buys"] == []
    assert vent["share"] > 0.5
    assert "free" in vent["note"]
    document["arrangements"][0]["sealed"] = [{"way": "leaks.0", "means": "tape"}]
    refused = client.post("/api/hush", json={"document": document})
    assert refused.status_code == 422
    document["arrangements"][0]["sealed"] = [{"way": "openings.0.gap", "means": "tape"}]
    after = client.post("/api/hush", json={"document": document}).json()
    assert next(way for way in after["ways"] if way["key"] == "openings.0.gap")["closed_with"]


def by_rig(client, room_id, **asked):
    answer = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "tone", "seed": 3, **asked})
    assert answer.status_code == 201, answer.text
    return answer.json()


def test_what_a_seal_wins_is_what_hush_says_before_and_after_it(client):
    document = bakery_room()
    street = {"63": 66, "125": 62, "250": 58, "500": 55, "1000": 52, "2000": 47, "4000": 40}
    window = document["openings"][0]["surface"]
    document["noises"].append({"name": "Street", "kind": "outside", "surface": window, "octaves_db": street})
    document["arrangements"][0]["silenced"] = ["Laptop fan", "Shop fridge below", "Bakery extractor"]
    found = client.post("/api/hush", json={"document": document}).json()
    marks = {None: client.post("/api/forecast", json={"document": document}).json()["marks"]["hush"]}
    told = {(way["key"], buy["means"]): buy for way in found["ways"] for buy in way["buys"]}
    best = max(told, key=lambda way: told[way]["hush_db"])
    assert told[best]["hush_db"] > 1.0
    for key in (best, min(told, key=lambda way: told[way]["hush_db"])):
        edit = told[key]["edits"][0]
        document["arrangements"][0]["sealed"] = [{"way": edit["way"], "means": edit["means"]}]
        marks[key] = client.post("/api/forecast", json={"document": document}).json()["marks"]["hush"]
        won = marks[key]["predicted"]["value"] - marks[None]["predicted"]["value"]
        assert told[key]["hush_db"] == pytest.approx(won, abs=0.02)
    alone = [move for move in found["moves"] if move["kinds"] == ["seal"]]
    assert max(move["gain_db"] for move in alone) == pytest.approx(told[best]["hush_db"], abs=0.02)
    assert any(buy["passing_db"] for buy in told.values())  # trams: a figure of their own, with a name of its own


def test_a_round_of_the_rig_finds_what_the_rig_switched_off(client, room_id):
    all_on, again = (by_rig(client, room_id, seed=seed)["id"] for seed in (3, 4))
    off = {name: by_rig(client, room_id, silenced=[name])["id"] for name in ("Laptop fan", "Bakery extractor")}
    found = client.post(
        f"/api/rooms/{room_id}/house-round", json={"all_on": all_on, "without": off, "again": again}
    ).json()
    assert found["valid"]
    assert {share["name"] for share in found["shares"]} == set(off)
    predicted = client.post("/api/hush", json={"document": bakery_room()}).json()
    levels = {source["name"]: source["level_dba"] for source in predicted["sources"]}
    one, other = found["shares"]
    assert one["level_db"] - other["level_db"] == pytest.approx(levels[one["name"]] - levels[other["name"]], abs=2.5)
    assert len(one["thirds_db"]) == len(found["thirds_hz"])
    sweep = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "sweep"}).json()["id"]
    wrong = client.post(f"/api/rooms/{room_id}/house-round", json={"all_on": sweep, "without": off})
    assert wrong.status_code == 422


def test_a_noise_is_noted_as_a_silence_heard_it(client, room_id):
    document = bakery_room()
    silence = by_rig(client, room_id, silenced=["Trams", "Shop fridge below", "Bakery extractor"])["id"]
    fan = {"name": "Heard", "kind": "inside", "at": [2.1, 0.55, 0.9], "octaves_db": {"1000": 0}}
    found = client.post(
        f"/api/rooms/{room_id}/noise-from-silence",
        json={"document": document, "reading_id": silence, "noise": fan, "finding": None},
    ).json()
    assert found["by"] == "calibrated"  # the rig's is
    noted = next(n for n in document["noises"] if n["name"] == "Laptop fan")["octaves_db"]
    for octave in ("500", "1000", "2000"):
        assert found["noise"]["octaves_db"][octave] == pytest.approx(noted[octave], abs=3)
    missing = client.post(
        f"/api/rooms/{room_id}/noise-from-silence",
        json={"document": document, "reading_id": silence, "noise": fan, "finding": 30},
    )
    assert missing.status_code == 422


def test_two_gains_room_tone_and_hums_of_kept_silences(client, room_id):
    low, high = (by_rig(client, room_id, gain_db=gain, seed=5)["id"] for gain in (0, 10))
    gains = client.get(f"/api/readings/{low}/gains/{high}").json()
    assert gains["advice"] == "same"  # the rig's own noise comes before its gain
    long = by_rig(client, room_id, seconds=26)["id"]
    tone = client.get(f"/api/readings/{long}/room-tone").json()
    assert tone["end_s"] - tone["start_s"] == 10
    part = client.get(
        f"/api/readings/{long}/part.wav", params={"from_s": tone["start_s"], "to_s": tone["end_s"], "level": False}
    )
    assert soundfile.info(io.BytesIO(part.content)).duration == pytest.approx(10, abs=0.01)
    assert client.get(f"/api/readings/{low}/room-tone").status_code == 422
    without = by_rig(client, room_id, silenced=["Bakery extractor"])["id"]
    hums = client.get(f"/api/readings/{low}/hum/{without}").json()
    extractor = next(f for f in hums["families"] if abs(f["f_hz"] - 146) < 2)
    assert extractor["outcome"] == "went"
    assert hums["words"].startswith("It went")
    cut = client.get(f"/api/readings/{low}/splice/{without}").json()
    assert cut["heard"]
    tree = client.get("/api/hum-tree").json()
    known = {s["key"] for s in tree["steps"]} | {e["key"] for e in tree["ends"]}
    assert {s[way] for s in tree["steps"] for way in ("went", "stayed")} <= known
    reached, todo = set(), [tree["start"]]
    while todo:
        key = todo.pop()
        reached.add(key)
        todo += [
            s[way] for s in tree["steps"] if s["key"] == key for way in ("went", "stayed") if s[way] not in reached
        ]
    assert reached == known


def test_hours_and_silences_by_command_line(run, tmp_path, rng):  # noqa: F811
    room = tmp_path / "room.json"
    room.write_text(json.dumps(bakery_room()))
    found = run("hours", str(room), "--minutes", "4", "--out", str(tmp_path / "quiet.ics"))
    assert {"weekday", "hour", "chance", "low", "high"} <= set(found["hours"][0])
    assert {"weekday", "from", "to"} <= set(found["windows"][0])
    assert len(found["hours"]) == 168
    assert (tmp_path / "quiet.ics").read_text().count("RRULE") > 0
    log = tmp_path / "log.csv"
    nights = [row for day in range(3) for row in log_rows(datetime(2026, 1, 5 + day, 20, tzinfo=UTC))]
    log.write_text("time,level\n" + "\n".join(nights))
    heard = run("hours", str(room), "--minutes", "4", "--log", str(log))
    eight = next(h for h in heard["hours"] if h["weekday"] == 0 and h["hour"] == 20)
    # every half hour 20 s of noise: of all starts (1800 - 20 - 240 + 1) / 1800 are left in peace
    assert eight["chance"] == pytest.approx((1800 - 20 - 239) / 1800, abs=0.02)
    assert run("hours", str(room), "--minutes", "0", code=2)["error"]["field"] == "minutes"
    hush = run("hush", str(room))
    assert hush["moves"][-1]["gain_db"] > hush["moves"][0]["gain_db"]
    silence = tmp_path / "silence.wav"
    silence.write_bytes(wav_bytes(1e-3 * rng.standard_normal(25 * 48_000), 48_000))
    tone = run("analyse", "room-tone", str(silence), "--out", str(tmp_path / "best.wav"))
    assert not tone["disturbed"]
    assert soundfile.info(tmp_path / "best.wav").duration == pytest.approx(10)
    assert run("analyse", "hum", str(silence), str(silence))["families"] == []
    # not a decibel louder at the higher gain: nothing of it comes before the gain
    assert run("analyse", "gains", str(silence), str(silence))["chain_share"] == pytest.approx(1.0)
