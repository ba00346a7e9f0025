"""`analyse splice` and `analyse shares` from files, as scripts use them."""

import numpy as np
import pytest
import soundfile

from .test_cli import run

__all__ = ["run"]
FS = 48_000


def written(path, *, seed, level=2e-3, more=None):
    rng = np.random.default_rng(seed)
    samples = level * rng.standard_normal(12 * FS)
    soundfile.write(path, samples if more is None else samples + more, FS, subtype="PCM_24")
    return path


def test_a_cut_is_told(run, tmp_path):
    same = run("analyse", "splice", written(tmp_path / "a.wav", seed=1), written(tmp_path / "b.wav", seed=2), "--json")
    assert same["heard"] is False
    assert {"broadband_db", "worst", "new_tones", "crossfade_ms"} <= set(same)
    louder = written(tmp_path / "c.wav", seed=3, level=4e-3)
    cut = run("analyse", "splice", tmp_path / "a.wav", louder, "--json")
    assert cut["heard"] is True
    assert cut["broadband_db"] == pytest.approx(6.0, abs=0.3)
    missing = run("analyse", "splice", tmp_path / "a.wav", tmp_path / "none.wav", "--json", code=2)
    assert missing["error"]["field"] == "second"


def test_a_house_round_is_told(run, tmp_path):
    house = np.random.default_rng(9).standard_normal(12 * FS) * 1e-3
    every = written(tmp_path / "all.wav", seed=1, level=3e-3, more=house)
    off = written(tmp_path / "off.wav", seed=2, level=1e-5, more=house)
    again = written(tmp_path / "again.wav", seed=4, level=3e-3, more=house)
    said = run("analyse", "shares", "--all", every, "--without", f"Fan={off}", "--again", again, "--json")
    assert said["valid"] is True
    share = said["shares"][0]
    assert share["name"] == "Fan"
    # white noise of 3e-3: its A-weighted level by the same reading of it alone
    alone = run("analyse", "tone", written(tmp_path / "fan.wav", seed=5, level=3e-3), "--json")
    assert share["level_db"] == pytest.approx(alone["laeq_db"], abs=0.5)
    assert share["plus_minus_db"] < 1
    once = run("analyse", "shares", "--all", every, "--without", f"Fan={off}", "--json")
    assert once["flags"] == ["not_repeated"]
    wrong = run("analyse", "shares", "--all", every, "--without", "Fan", "--json", code=2)
    assert wrong["error"]["field"] == "without"
