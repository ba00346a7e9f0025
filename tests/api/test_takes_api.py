"""Takes judged over the API and by command line: every fault of the simulated performer, from file to finding."""

import io
import json
import math
from urllib.parse import unquote

import numpy as np
import pytest
import soundfile
from scipy.signal import resample_poly

from keenquiet.rig.singer import sung_take
from keenquiet.rig.spoils import SPOILS, flawed_take
from keenquiet.rig.voice import RATE_HZ
from keenquiet.store.audiofile import wav_bytes
from tests.core.made_otherwise import mixed

from .test_cli import run  # noqa: F401


@pytest.mark.parametrize("kind", ["pop", "dropout", "roomy", "polarity"])
def test_the_rigs_singer_makes_a_fault_that_is_found_and_settles_no_mark(client, room_id, kind):
    answer = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "faults": [kind], "seed": 4})
    assert answer.status_code == 201, answer.text
    reading = answer.json()
    assert kind in {f["kind"] for f in reading["result"]["findings"]}
    assert reading["simulated"]
    assert not reading["counts"]
    marks = client.get(f"/api/rooms/{room_id}/marks").json()
    assert marks["touch"] is None
    # lines with strong puffs and lost moments are played again
    assert reading["result"]["keep"] == ("parts" if kind in ("pop", "dropout") else "keep")
    assert len(reading["result"]["phrases"]) >= 5
    assert client.get("/api/catalogue").json()["take_faults"][0]["name"]


def test_a_sung_take_is_judged_from_the_terminal_as_its_truth_says(run, tmp_path):  # noqa: F811
    for kind in ("click", "seam", "hum"):
        out = tmp_path / f"{kind}.wav"
        truth = run("sing", str(out), "--fault", kind, "--seed", "6")
        assert truth["simulated"]
        (flaw,) = truth["flaws"]
        found = [f for f in run("analyse", "take", str(out))["findings"] if f["kind"] == kind]
        assert found
        assert found[0]["start_s"] <= flaw["end_s"] + 0.1
        assert found[0]["cure"]
    assert json.dumps(run("sing", str(tmp_path / "clean.wav"))["flaws"]) == "[]"
    assert run("analyse", "take", str(tmp_path / "clean.wav"))["keep_words"] == "Keep it."
    assert run("sing", str(tmp_path / "no.wav"), "--fault", "cough", code=2)["error"]["field"] == "fault"
    assert set(SPOILS) >= {"creep", "drift", "jump", "tone", "hiss", "rumble", "noise", "ess"}


def test_a_take_is_held_against_ones_line_and_another_take_and_named(client, room_id):
    first, second = (
        client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": seed}).json()["id"]
        for seed in (3, 3)
    )
    answer = client.get(f"/api/readings/{second}/against").json()
    assert answer["line_id"] == first
    assert abs(answer["level_db"]) < 0.1
    assert answer["findings"] == []
    assert client.get(f"/api/readings/{first}/against").json() is None
    lines = client.get(f"/api/readings/{first}/by-line/{second}").json()
    assert len(lines["lines"]) >= 4
    assert all(abs(line["gain_db"]) < 0.1 for line in lines["lines"])
    client.patch(f"/api/readings/{second}", json={"tags": ["line", "Evening song", "verse", "distance:30cm"]})
    client.patch(f"/api/readings/{first}", json={"tags": ["Evening song", "verse"]})
    names = [
        client.get(f"/api/readings/{one}/labels.txt").headers["content-disposition"].split('"')[1]
        for one in (first, second)
    ]
    assert names == ["EveningSong-Verse-01.txt", "EveningSong-Verse-02.txt"]
    page = client.get(f"/api/readings/{first}/take.pdf")
    assert page.content.startswith(b"%PDF")
    kept = client.get(f"/api/readings/{first}/original")
    assert kept.content == client.get(f"/api/readings/{first}/audio").content
    assert client.get(f"/api/readings/{first}/labels.docx").status_code == 422


def test_the_room_tone_nearest_to_a_take_goes_with_it(client, room_id):
    def by_rig(kind):
        return client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": kind, "seed": 4}).json()

    take = by_rig("take")
    assert client.get(f"/api/readings/{take['id']}/beside").json() == []
    by_rig("tone")
    near = by_rig("tone")
    clap = by_rig("clap")
    tone, room = (
        client.get(f"/api/readings/{near['id']}/beside"),
        client.get(f"/api/readings/{take['id']}/beside").json(),
    )
    assert tone.status_code == 422  # a silence is no take
    assert [kept["name"] for kept in room] == ["Room tone", "The room"]
    assert room[1]["reading_id"] == clap["id"]
    assert all(kept["same_chain"] and kept["same_room"] for kept in room)
    assert client.get(f"/api/readings/{take['id']}/take.pdf").content.startswith(b"%PDF")


def test_a_take_named_in_any_script_is_handed_out_under_its_name(client, room_id):
    """A header holds Latin-1 only: these were failures of the server."""
    take = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 4}).json()["id"]
    assert client.patch(f"/api/readings/{take}", json={"tags": ["夜 Ночь", "куплет"]}).status_code == 200
    for file in ("labels.csv", "labels.txt", "take.pdf", "original"):
        answer = client.get(f"/api/readings/{take}/{file}")
        assert answer.status_code == 200, file
        said = answer.headers["content-disposition"].split("filename*=")[1]
        assert unquote(said).lower().removeprefix("utf-8''").startswith("夜ночь-куплет-01.")


def test_labels_are_a_track_of_plain_text_in_order_of_time(client, room_id):
    asked = {"kind": "take", "faults": ["dropout"], "seed": 4}
    reading = client.post(f"/api/rooms/{room_id}/readings/rig", json=asked).json()
    rows = [line.split("\t") for line in client.get(f"/api/readings/{reading['id']}/labels.txt").text.splitlines()]
    assert all(len(row) == 3 and float(row[0]) <= float(row[1]) for row in rows)
    assert [float(row[0]) for row in rows] == sorted(float(row[0]) for row in rows)
    lost = next(f for f in reading["result"]["findings"] if f["kind"] == "dropout")
    assert any(row[2].startswith("A lost moment") and abs(float(row[0]) - lost["start_s"]) < 0.01 for row in rows)
    assert sum(row[2].startswith("Line ") for row in rows) == len(reading["result"]["phrases"])


def test_the_wave_holds_the_lowest_and_highest_sample_of_each_stretch(client, room_id):
    reading = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 2}).json()
    whole = client.get(f"/api/readings/{reading['id']}/wave", params={"points": 50}).json()
    assert max(*whole["high"], *(-low for low in whole["low"])) == pytest.approx(
        10 ** (reading["result"]["sample_peak_dbfs"] / 20), rel=1e-2
    )
    part = client.get(f"/api/readings/{reading['id']}/wave", params={"from_s": 1, "to_s": 1.1, "points": 4000}).json()
    assert len(part["high"]) == 4000
    assert part["step_s"] == pytest.approx(0.1 / 4000, abs=1e-4)
    assert client.get(f"/api/readings/{reading['id']}/wave", params={"from_s": 9000}).status_code == 422


def test_a_take_comes_out_of_the_phones_as_late_and_as_loud_as_it_was_played(client, room_id):
    reading = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 3}).json()
    sound, rate = soundfile.read(io.BytesIO(client.get(f"/api/readings/{reading['id']}/original").content))
    late = np.concatenate([np.zeros(round(0.0125 * rate)), 0.5 * sound])
    again = resample_poly(late, 147, 160)  # the second track was kept at 44.1 kHz
    content = io.BytesIO()
    soundfile.write(content, again, 44_100, format="WAV", subtype="PCM_24")
    sent = {"file": ("second track.wav", content.getvalue(), "audio/wav")}
    told = client.post(f"/api/readings/{reading['id']}/in-the-phones", files=sent)
    assert told.status_code == 200, told.text
    told = told.json()
    assert told["latency_ms"] == pytest.approx(12.5, abs=0.2), told
    assert told["gain_db"] == pytest.approx(-6.0, abs=0.3)
    assert told["notches_hz"][0] == pytest.approx(40, abs=1)
    assert "too late" in told["text"]


def test_a_backing_brought_along_is_as_loud_in_the_take_as_it_was_mixed_in(client, room_id):
    take = flawed_take("bleed", seed=2)
    sounds = [("take.wav", wav_bytes(samples, RATE_HZ), "audio/wav") for samples in (take.samples, take.backing)]
    reading = client.post(f"/api/rooms/{room_id}/readings", data={"kind": "take"}, files={"file": sounds[0]}).json()
    told = client.post(f"/api/readings/{reading['id']}/bleed", files={"file": sounds[1]})
    assert told.status_code == 200, told.text
    assert told.json()["under_db"] == pytest.approx(-34, abs=2.5)


def test_a_finished_mix_settles_no_mark_and_turns_no_dial(client, room_id):
    content = wav_bytes(mixed(1, stereo=True), RATE_HZ)
    files = {"file": ("song.wav", content, "audio/wav")}
    reading = client.post(f"/api/rooms/{room_id}/readings", data={"kind": "take"}, files=files).json()
    result = reading["result"]
    assert [reason["code"] for reason in result["verdict"]["reasons"]] == ["mixed"]
    assert result["gain_advice_db"] is None
    assert result["noise_floor_dbfs"] is None
    assert result["true_peak_dbtp"] > -3
    marks = client.get(f"/api/rooms/{room_id}/marks").json()
    assert marks["touch"] is None
    assert marks["hush"] is None
    assert client.get(f"/api/readings/{reading['id']}/take.pdf").content.startswith(b"%PDF")


def test_a_threshold_is_asked_step_by_step_and_level_is_matched_by_what_is_heard(client, room_id):
    first = client.get("/api/thresholds/noise").json()
    assert (first["next_db"], first["plain_db"], first["answered"]) == (-20, -200, 0)
    assert client.get("/api/thresholds/noise", params={"answers": "rr"}).json()["next_db"] == -26
    assert client.get("/api/thresholds/noise", params={"answers": "rrw"}).json()["next_db"] == -23
    assert client.get("/api/thresholds/taste").status_code == 422
    assert client.get("/api/thresholds/noise", params={"answers": "maybe"}).status_code == 422
    reading = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 3}).json()
    part = f"/api/readings/{reading['id']}/part.wav?from_s=1&to_s=5&change=louder&by_db="
    louder, plain = (float(client.get(part + by).headers["x-loudness-lufs"]) for by in ("3", "0"))
    assert louder - plain == pytest.approx(3.0, abs=0.05)


def test_the_series_round_the_microphone_says_where_it_sizzles_least(client, room_id):
    answer = client.get(f"/api/rooms/{room_id}/trials/round").json()
    sizzle = [step["predicted"]["sizzle"] for step in answer["steps"]]
    assert sizzle[0] == 0
    assert sizzle == sorted(sizzle, reverse=True)  # a capsule hears less treble the further aside
    for step, faults in (("0round", ["ess"]), ("30round", [])):
        asked = {"kind": "take", "seed": 5, "faults": faults}
        reading = client.post(f"/api/rooms/{room_id}/readings/rig", json=asked).json()
        client.patch(f"/api/readings/{reading['id']}", json={"tags": [f"round:{step}"]})
    told = client.get(f"/api/rooms/{room_id}/trials/round").json()
    assert told["text"].startswith("Least sizzle 30° round it")


def test_trials_are_predicted_and_then_measured_by_the_takes_tagged_with_their_steps(client, room_id):
    answer = client.get(f"/api/rooms/{room_id}/trials/distance").json()
    assert [step["name"] for step in answer["steps"]] == ["30 cm", "20 cm", "15 cm", "10 cm", "5 cm"]
    levels = [step["predicted"]["level"] for step in answer["steps"]]
    assert levels == pytest.approx([20 * math.log10(30 / cm) for cm in (30, 20, 15, 10, 5)], abs=0.02)
    for step in ("30cm", "20cm"):
        reading = client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": 5}).json()
        client.patch(f"/api/readings/{reading['id']}", json={"tags": [f"distance:{step}"]})
    measured = client.get(f"/api/rooms/{room_id}/trials/distance").json()["steps"]
    assert measured[1]["measured"]["level"] == pytest.approx(0, abs=0.3)  # nobody moved in between
    assert "measured" not in measured[2]
    assert "sizzle" not in client.get(f"/api/rooms/{room_id}/trials/distance").json()["text"]
    assert client.get(f"/api/rooms/{room_id}/trials/moon").status_code == 422


def test_a_singer_in_a_room_is_judged_from_the_terminal_against_line_and_backing(run, tmp_path):  # noqa: F811
    near = run("sing", str(tmp_path / "near.wav"), "--fault", "nearer")
    told = run("analyse", "take", str(tmp_path / "near.wav"), "--line", near["line"])
    assert told["against"]["findings"][0]["kind"] == "nearer"
    assert told["findings"][-1]["value"] == pytest.approx(near["flaws"][0]["size"], abs=0.5)
    leak = run("sing", str(tmp_path / "leak.wav"), "--fault", "bleed")
    told = run("analyse", "take", str(tmp_path / "leak.wav"), "--backing", leak["backing"])
    assert told["bleed"]["under_db"] == pytest.approx(-34, abs=2.5)
    many = run("analyse", "take", str(tmp_path))
    assert {take["file"] for take in many["takes"]} == {path.name for path in tmp_path.iterdir()}
    lines = run("analyse", "lines", near["line"], str(tmp_path / "near.wav"))
    assert len(lines["lines"]) == len(near["phrases"])
    late = run("analyse", "latency", near["line"], near["line"])
    assert late["latency_ms"] == pytest.approx(0.0, abs=0.02)
    empty = tmp_path / "empty"
    empty.mkdir()
    assert run("analyse", "take", str(empty), code=2)["error"]["field"] == "files"


@pytest.fixture(scope="module")
def eleven_minutes():
    """At 8 kHz, with clicks in its first and in its last minute; louder in the middle."""
    rng = np.random.default_rng(5)
    sung = resample_poly(sung_take(seed=12, phrases=12).samples, 1, 6)
    samples = np.resize(sung, 11 * 60 * 8000) * 0.7
    samples[3 * 60 * 8000 : 6 * 60 * 8000] *= 1.2
    clicks_s = (31.25, 640.5)
    for at in clicks_s:
        samples[round(at * 8000) + np.arange(3)] += np.array([0.8, -0.7, 0.3])
    return wav_bytes(samples + 1e-5 * rng.standard_normal(len(samples)), 8000, subtype="PCM_16"), samples, clicks_s


def test_all_of_a_long_take_is_read_drawn_and_played(client, room_id, eleven_minutes, run, tmp_path):  # noqa: F811
    content, samples, clicks_s = eleven_minutes
    sent = client.post(f"/api/rooms/{room_id}/readings", data={"kind": "take"}, files={"file": ("long.wav", content)})
    assert sent.status_code == 201, sent.text
    reading = sent.json()
    assert reading["seconds"] == pytest.approx(660)
    found = [f["start_s"] for f in reading["result"]["findings"] if f["kind"] == "click"]
    assert found == pytest.approx(clicks_s, abs=0.01)
    at = f"/api/readings/{reading['id']}"
    wave = client.get(f"{at}/wave?from_s=0&to_s=660&points=600").json()
    low, high = (np.array(wave[side]) for side in ("low", "high"))
    tiles = samples.reshape(600, -1)
    np.testing.assert_allclose(high, np.minimum(tiles.max(axis=1), 1.0), atol=2e-4)
    np.testing.assert_allclose(low, tiles.min(axis=1), atol=2e-4)
    near = client.get(f"{at}/wave?from_s=640.4&to_s=640.6&points=20").json()
    assert int(np.argmax(near["high"])) == 10
    part = client.get(f"{at}/part.wav?from_s=640&to_s=641&level=false")
    played, rate = soundfile.read(io.BytesIO(part.content))
    assert int(np.argmax(played)) / rate == pytest.approx(0.5, abs=0.001)
    (tmp_path / "long.wav").write_bytes(content)
    told = run("analyse", "take", str(tmp_path / "long.wav"))
    assert [f["start_s"] for f in told["findings"] if f["kind"] == "click"] == pytest.approx(clicks_s, abs=0.01)


def test_what_lies_under_a_take_is_held_against_the_rooms_silence(client, room_id, run, tmp_path):  # noqa: F811
    rng = np.random.default_rng(8)
    sung = sung_take(seed=14)
    still = 1e-3 * rng.standard_normal(12 * RATE_HZ)
    hum = 2e-3 * np.sin(2 * np.pi * 100 * np.arange(len(sung.dry)) / RATE_HZ)
    take = sung.dry + 1e-3 * rng.standard_normal(len(sung.dry))

    def brought(kind, samples, name):
        (tmp_path / name).write_bytes(content := wav_bytes(samples, RATE_HZ))
        sent = client.post(f"/api/rooms/{room_id}/readings", data={"kind": kind}, files={"file": (name, content)})
        assert sent.status_code == 201, sent.text
        return sent.json()["id"]

    first = brought("take", take, "plain.wav")
    assert client.get(f"/api/readings/{first}/underneath").json() is None
    silence = brought("tone", still, "silence.wav")
    plain = client.get(f"/api/readings/{first}/underneath").json()
    assert plain["silence_id"] == silence
    assert plain["told"] is False
    humming = client.get(f"/api/readings/{brought('take', take + hum, 'hum.wav')}/underneath").json()
    assert humming["told"]
    assert humming["new_hz"] == pytest.approx([100.0], abs=1.0)
    assert "100 Hz" in humming["text"]
    silence_file = str(tmp_path / "silence.wav")
    told = run("analyse", "take", str(tmp_path / "hum.wav"), "--silence", silence_file)["underneath"]
    assert told["more_db"] == pytest.approx(humming["more_db"], abs=0.01)
    assert run("analyse", "take", str(tmp_path / "hum.wav"), "--silence", str(tmp_path / "no.wav"), code=2)


def test_which_of_two_takes_is_better_is_kept_with_the_count_of_a_blind_test(client, room_id):
    first, second = (
        client.post(f"/api/rooms/{room_id}/readings/rig", json={"kind": "take", "seed": seed}).json()["id"]
        for seed in (1, 2)
    )
    blind = {"right": 9, "trials": 10}
    said = client.post(f"/api/readings/{second}/better", json={"than_id": first, "blind": blind})
    assert said.status_code == 201
    assert client.get(f"/api/rooms/{room_id}/better").json() == [
        {"better_id": second, "than_id": first, "blind": blind}
    ]
    told = [entry["title"] for entry in client.get(f"/api/rooms/{room_id}/ledger").json()]
    assert any("is better than" in title and "9 of 10 told apart" in title for title in told)
    # said again, the last word of the pair stands; takes stay where they are
    client.post(f"/api/readings/{first}/better", json={"than_id": second})
    (last,) = client.get(f"/api/rooms/{room_id}/better").json()
    assert (last["better_id"], last["blind"]) == (first, None)
    assert client.get(f"/api/readings/{second}").status_code == 200
    assert client.post(f"/api/readings/{first}/better", json={"than_id": first}).status_code == 422
