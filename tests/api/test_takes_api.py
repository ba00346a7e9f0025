"""Takes judged over the API and by command line: every fault of the simulated performer, from file to finding."""

import json

import pytest

from keenquiet.rig.spoils import SPOILS

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
    assert reading["result"]["keep"] == ("parts" if kind == "dropout" else "keep")
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
