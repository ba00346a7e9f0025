"""The command-line contract: one JSON document, exit 0 or 2."""

import json
import sys

import numpy as np
import pytest
import soundfile

from keenquiet import cli
from keenquiet.demo.scenario import attic, cupboard
from keenquiet.demo.scenario import bakery_room as full_bakery
from keenquiet.store.audiofile import wav_bytes

from ..conftest import boxed_bakery as bakery_room

RATE = 48_000


@pytest.fixture
def run(monkeypatch, capsys):
    def call(*words, code=0):
        monkeypatch.setattr(sys, "argv", ["keenquiet", *(str(w) for w in words)])
        with pytest.raises(SystemExit) as left:
            cli.main()
        assert (left.value.code or 0) == code
        return json.loads(capsys.readouterr().out)

    return call


@pytest.fixture
def room_file(tmp_path):
    path = tmp_path / "room.json"
    path.write_text(json.dumps(bakery_room()))
    return path


def test_predict_has_the_contracts_shape(run, room_file):
    answer = run("predict", room_file, "--to-hz", 120, "--json")
    assert answer["modes"][0]["f_hz"] == pytest.approx(343.2 / 2 / 3.62, rel=2e-3)  # by hand, losses shift it a little
    assert answer["modes"][0]["indices"] == [1, 0, 0]
    assert max(m["f_hz"] for m in answer["modes"]) <= 120
    assert max(answer["response"]["f_hz"]) <= 120
    assert set(answer["marks"]) == {"bounce", "boom", "hush", "touch"}
    assert {"order", "delay_ms", "level_db", "surfaces", "points"} <= set(answer["paths"][0])
    assert [d["centre_hz"] for d in answer["decay"]] == [63, 125, 250, 500, 1000, 2000, 4000, 8000]
    assert {"sabine_s", "eyring_s", "arau_s"} <= set(answer["decay"][0])


def test_a_simulated_sweep_is_analysed_and_its_response_kept(run, room_file, tmp_path):
    wav, ir = tmp_path / "s.wav", tmp_path / "ir.wav"
    made = run("simulate", room_file, "--reading", "sweep", "--out", wav, "--seed", 3, "--json")
    answer = run("analyse", "sweep", wav, "--out", ir, "--json")
    assert answer["sweep"]["clock_ppm"] == pytest.approx(made["set"]["clock_ppm"], abs=5)
    assert answer["verdict"]["usable"]
    assert len(answer["bands"]) == 8
    again = run("analyse", "ir", ir, "--thirds", "--json")
    assert again["t_mid_s"] == pytest.approx(answer["t_mid_s"], rel=0.1)
    assert len(again["bands"]) == 27


@pytest.mark.parametrize("reading", ["tone", "take", "clap", "glide"])
def test_other_readings_are_simulated_and_analysed(run, room_file, tmp_path, reading):
    wav = tmp_path / "r.wav"
    run("simulate", room_file, "--reading", reading, "--out", wav, "--json")
    answer = run("analyse", reading, wav, "--json")
    assert answer["verdict"]["usable"]
    expected = {
        "tone": {"laeq_db", "l90_db", "thirds", "octaves", "nc", "nr", "tones", "events", "calibrated"},
        "take": {
            "loudness_lufs",
            "true_peak_dbtp",
            "sample_peak_dbfs",
            "noise_floor_dbfs",
            "snr_db",
            "gain_advice_db",
            "findings",
        },
        "glide": {"swells", "pitch_low_hz", "pitch_high_hz"},
        "clap": {"bands", "t_mid_s", "early", "ringing", "flutter"},
    }
    assert expected[reading] <= set(answer)


def test_same_seed_same_recording(run, room_file, tmp_path):
    for name in ("a", "b"):
        run("simulate", room_file, "--reading", "tone", "--out", tmp_path / name, "--seed", 5)
    assert (tmp_path / "a").read_bytes() == (tmp_path / "b").read_bytes()


def test_a_calibrated_tone_reads_in_decibels(run, tmp_path):
    t = np.arange(6 * RATE) / RATE
    tone, calibrator = tmp_path / "t.wav", tmp_path / "c.wav"
    tone.write_bytes(wav_bytes(0.01 * np.sin(2 * np.pi * 1000 * t), RATE))
    calibrator.write_bytes(wav_bytes(0.1 * np.sin(2 * np.pi * 1000 * t), RATE))
    answer = run("analyse", "tone", tone, "--calibrator", calibrator, "--calibrator-db", 94, "--json")
    assert answer["calibrated"]
    assert answer["laeq_db"] == pytest.approx(74.0, abs=0.3)
    noise = tmp_path / "n.wav"
    noise.write_bytes(wav_bytes(0.1 * np.random.default_rng(1).standard_normal(RATE * 6), RATE))
    doubtful = run("analyse", "tone", tone, "--calibrator", noise, "--json")
    assert "not_a_steady_tone" in [r["code"] for r in doubtful["verdict"]["reasons"]]


@pytest.mark.parametrize(
    ("make", "code"),
    [(lambda n: np.zeros(n), "silent"), (lambda n: 0.1 * np.random.default_rng(2).standard_normal(n), "no_sweep")],
)
def test_what_is_no_sweep_gets_a_verdict_not_a_crash(run, tmp_path, make, code):
    path = tmp_path / "x.wav"
    path.write_bytes(wav_bytes(make(8 * RATE), RATE))
    answer = run("analyse", "sweep", path, "--json")
    assert not answer["verdict"]["usable"]
    assert answer["verdict"]["reasons"][0]["code"] == code
    assert answer["bands"] == []  # the contract's keys are there, empty
    assert {"t_mid_s": None, "sweep": None, "flutter": None}.items() <= answer.items()
    assert answer["verdict"]["reasons"][0]["cure"]


def test_refusals_name_field_reason_and_cure(run, room_file, tmp_path):
    broken = tmp_path / "broken.json"
    broken.write_text("{")
    outside = bakery_room()
    outside["arrangements"][0]["performer"]["at"] = [9, 1, 1.5]
    away = tmp_path / "away.json"
    away.write_text(json.dumps(outside))
    soundfile.write(tmp_path / "many.wav", np.zeros((100, 17)), RATE)
    for words in (
        ("predict", tmp_path / "none.json"),
        ("predict", broken),
        ("predict", away),
        ("predict", room_file, "--arrangement", "nope"),
        ("analyse", "ir", tmp_path / "many.wav"),
        ("analyse", "take", tmp_path / "none.wav"),
        ("simulate", room_file, "--reading", "dance", "--out", tmp_path / "o.wav"),
        ("absorber", "--thickness", 0, "--flow-resistivity", 9000),
        ("import", tmp_path / "none.kq.zip", "--data", tmp_path / "d"),
        ("export", "Nowhere", "--out", tmp_path / "o", "--data", tmp_path / "d"),
        ("serve", "--host", "0.0.0.0", "--data", tmp_path / "d"),
        ("predict", room_file, "--to-hz", 900),
        ("analyse", "sweep"),
        ("simulate", room_file, "--reading", "tone", "--out", tmp_path / "o.wav", "--seed", "x"),
        ("dance",),
    ):
        error = run(*words, "--json", code=2)["error"] if words[0] != "serve" else run(*words, code=2)["error"]
        assert error["field"]
        assert error["reason"]
        assert error["cure"]


def test_export_and_import_by_name(run, room_file, tmp_path):
    one, two = tmp_path / "one", tmp_path / "two"
    run("import", room_file, "--data", one, "--json")
    run("export", "Over the bakery", "--out", tmp_path / "b.kq.zip", "--data", one, "--json")
    assert run("import", tmp_path / "b.kq.zip", "--data", two, "--json")["name"] == "Over the bakery"
    assert run("backup", "--data", two, "--json")["backup"].endswith("by-hand.db")


def test_schema_and_absorber(run):
    assert run("schema")["title"] == "RoomDoc"
    rows = run("absorber", "--thickness", 0.1, "--flow-resistivity", 12000, "--gap", 0.05, "--json")["octaves"]
    assert [row["centre_hz"] for row in rows] == [63, 125, 250, 500, 1000, 2000, 4000, 8000]
    assert rows[0]["diffuse"] < 0.3 < 0.9 < rows[4]["diffuse"]


def test_a_membrane_is_tuned_to_a_note(run):
    found = run("absorber", "--note", 82.4, "--gap", 0.1, "--json")
    assert 60 / (found["mass_kg_m2"] * 0.1) ** 0.5 == pytest.approx(82.4, rel=0.02)  # the rule of thumb
    assert found["resonance_hz"] == pytest.approx(82.4, rel=0.01)
    refused = run("absorber", "--note", 250, "--gap", 0.2, "--json", code=2)
    assert "shallower" in json.dumps(refused)


def test_predict_knows_true_shapes(run, tmp_path):
    for make, kind in ((full_bakery, "plan"), (attic, "section")):
        path = tmp_path / f"{make.__name__}.json"
        path.write_text(json.dumps(make()))
        found = run("predict", path, "--to-hz", 120, "--json")
        assert all(m["indices"] is None for m in found["modes"])
        assert kind in {m["kind"] for m in found["modes"]}
        assert found["schroeder_hz"] > 100
        assert found["paths"][0]["delay_ms"] > 0


def test_rooms_are_drawn_squared_fitted_and_compared(run, tmp_path):
    paths = []
    for make in (full_bakery, cupboard):
        paths.append(tmp_path / f"{make.__name__}.json")
        paths[-1].write_text(json.dumps(make()))
    room = paths[0]
    assert run("draw", room, "--out", tmp_path / "plan.dxf", "--json")["bytes"] > 1000
    assert (tmp_path / "plan.dxf").read_text().startswith("  0\nSECTION")
    squared = run("square", room, "--json")
    assert squared["rms_m"] < 0.01
    assert squared["suspect"] is None
    run("simulate", room, "--reading", "sweep", "--out", tmp_path / "sweep.wav", "--json")
    fitted = run("fit", room, tmp_path / "sweep.wav", "--sweep", "--out", tmp_path / "fitted.json", "--json")
    assert json.loads((tmp_path / "fitted.json").read_text())["fit"] == fitted["fit"]
    compared = run("places", *paths, "--json")
    assert [p["name"] for p in compared["places"]]
    assert compared["recommendation"]
    assert len(run("materials", "--json")["materials"]) >= 70
    assert all("brick" in json.dumps(m).lower() for m in run("materials", "--search", "brick", "--json")["materials"])
    slot = run("absorber", "--kind", "slotted", "--open-share", 0.08, "--gap", 0.1, "--thickness", 0.05, "--json")
    assert 100 < slot["resonance_hz"] < 600
    for words in (
        ("draw", room, "--out", tmp_path / "plan.bmp"),
        ("draw", room, "--out", tmp_path / "no" / "plan.svg"),
        ("draw", room, "--view", "roof", "--out", tmp_path / "x.svg"),
        ("absorber", "--kind", "membrane", "--mass", 0, "--gap", 0.1),
        ("fit", room, tmp_path / "plan.dxf"),
    ):
        assert run(*words, "--json", code=2)["error"]["cure"]


def test_words_are_read_and_compared_and_faults_made(run, room_file, tmp_path):
    files = {kind: tmp_path / f"{kind}.wav" for kind in ("spoken", "pops", "loudest")}
    for kind, path in files.items():
        assert run("simulate", room_file, "--reading", kind, "--gain", -8, "--out", path, "--json")["simulated"]
        assert run("analyse", kind, path, "--json")["verdict"]["usable"]
    assert {f["kind"] for f in run("analyse", "pops", files["pops"], "--json")["findings"]} <= {
        "pop",
        "too_quiet",
        "hum",
        "floor",
    }
    compared = run("analyse", "compare", files["spoken"], files["loudest"], "--json")
    assert compared["gain_db"] < -8  # song is louder than speech: it is turned down
    left = tmp_path / "left.wav"
    assert run("simulate", room_file, "--reading", "tone", "--fault", "left-empty", "--out", left, "--json")[
        "faults"
    ] == ["left-empty"]
    heard = run("analyse", "tone", left, "--meter-db", 37.5, "--json")
    assert heard["laeq_db"] == pytest.approx(37.5, abs=0.01)
    assert [reason["code"] for reason in heard["verdict"]["reasons"]] == ["dead_channel"]


def test_repeats_are_averaged_and_set_beside_a_drawing(run, room_file, tmp_path):
    files = [tmp_path / f"{seed}.wav" for seed in (1, 2)]
    for seed, path in enumerate(files, start=1):
        run("simulate", room_file, "--reading", "sweep", "--seed", seed, "--out", path, "--json")
    mean = run("analyse", "average", *files, "--out", tmp_path / "mean.wav", "--json")
    one = run("analyse", "sweep", files[0], "--room", room_file, "--json")
    assert mean["likeness"] > 0.95
    inr = [next(b["inr_db"] for b in answer["bands"] if b["centre_hz"] == 1000) for answer in (mean, one)]
    assert inr[0] > inr[1] + 1.5  # twice as many: 3 dB less noise
    assert one["tape"]["agrees"] is not False
    assert any(arrival["where"] for arrival in one["early"])
    again = run("analyse", "ir", tmp_path / "mean.wav", "--json")
    assert again["t_mid_s"] == pytest.approx(mean["t_mid_s"], rel=0.01)
