"""Take on the page: a fault sung, found on its thread, played and looped by key, cured, compared, named and kept."""

import io
import json
import re
import urllib.request

import numpy as np
import soundfile
from playwright.sync_api import expect

from .conftest import provoke
from .test_hush import bakery


def sung(demo, room, *faults, seed=5, kind="take"):
    """A take of the simulated performer in this room, or another reading by the rig."""
    asked = json.dumps({"kind": kind, "faults": list(faults), "seed": seed}).encode()
    address = f"{demo.url}/api/rooms/{room}/readings/rig"
    with urllib.request.urlopen(urllib.request.Request(address, asked, {"content-type": "application/json"})) as answer:
        return json.loads(answer.read())


def test_a_fault_is_sung_found_on_its_thread_and_two_takes_are_compared_blind(page, demo):
    room = bakery(demo, "Sung with a fault")
    page.goto(f"{demo.url}/rooms/{room}/take")
    for fault in ("A lost moment", "Pop"):
        page.get_by_role("button", name="Read: Test take").click()
        page.get_by_role("radio", name="Practice rig").click()
        page.get_by_label(fault, exact=True).check()
        page.get_by_role("button", name="Let the rig record").click()
        page.get_by_role("button", name="See what it says").click()
        expect(page.get_by_test_id("take-found")).to_contain_text(fault)
        expect(page.get_by_test_id("threads").locator("circle").first).to_be_visible()
    blind = page.get_by_test_id("blind")
    blind.get_by_role("button", name="Begin 10 trials").click()
    blind.get_by_role("button", name="Play X").click()
    for _ in range(10):
        blind.get_by_role("button", name="X is A").click()
    # each trial is a coin of its own: how many times it came up A is not known here either
    expect(blind.get_by_role("status").filter(has_text="of 10 right")).to_have_text(
        re.compile(r"\d+ of 10 right \((by luck once in|as luck)")
    )


def test_the_recording_is_zoomed_and_gone_through_by_keys(page, demo):
    room = bakery(demo, "By keys")
    reading = sung(demo, room, "thump", seed=6)
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{reading['id']}")
    recording = page.get_by_test_id("recording")
    wave = recording.get_by_role("application")
    expect(recording).to_contain_text("of 0:")
    expect(wave.locator("path").first).to_be_attached()
    wave.focus()
    page.keyboard.press("n")
    thump = next(f for f in reading["result"]["findings"] if f["kind"] == "thump")
    expect(recording).to_contain_text(f"0:{thump['start_s']:04.1f}")
    page.keyboard.press("+")
    page.keyboard.press("+")
    expect(wave).not_to_have_attribute("aria-label", re.compile(r"0:00\.0 to 0:1\d"))
    page.keyboard.press("Home")
    expect(wave).to_have_attribute("aria-label", re.compile(r"0:00\.0 to"))
    expect(page.get_by_test_id("threads")).to_contain_text("Looked for, not there")
    expect(page.get_by_test_id("threads")).to_contain_text("no line of yours to hold it against yet")


def test_two_takes_are_held_line_by_line_and_one_is_made_the_line(page, demo):
    room = bakery(demo, "Line by line")
    first, second = sung(demo, room, "dropout"), sung(demo, room, "pop")
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{first['id']}")
    page.get_by_role("radio", name="Line by line").click()
    lines = page.get_by_test_id("by-line")
    expect(lines.get_by_role("listitem")).to_have_count(len(first["result"]["phrases"]), timeout=30_000)
    expect(lines).to_contain_text("B is cleaner")
    expect(lines).to_contain_text("A: A lost moment. B: Pop.")
    page.get_by_role("radio", name="Against my line").click()
    mine = page.get_by_test_id("against-mine")
    mine.get_by_role("button", name="Make this take my line").click()
    expect(mine.get_by_role("button", name="This take is your line")).to_be_disabled()
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{second['id']}")
    page.get_by_role("radio", name="Against my line").click()
    expect(page.get_by_test_id("against-mine")).to_contain_text("As your line was", timeout=30_000)


def test_trials_stand_beside_what_was_predicted_and_the_take_is_named(page, demo):
    room = bakery(demo, "Trials")
    reading = sung(demo, room, "pop")
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{reading['id']}")
    page.get_by_role("radio", name="Trials").click()
    trials = page.get_by_test_id("trials")
    expect(trials.get_by_role("row")).to_have_count(6, timeout=30_000)
    trials.get_by_role("row", name="30 cm").get_by_role("button").click()
    expect(trials.get_by_role("button", name="this take", exact=True)).to_be_visible()
    page.get_by_role("radio", name="Name and keep").click()
    keep = page.get_by_test_id("keep")
    keep.get_by_label("Song").fill("Evening song")
    keep.get_by_label("Section").fill("verse")
    keep.get_by_role("button", name="Name it").click()
    expect(keep.get_by_role("button", name="Name it")).to_be_disabled()
    with page.expect_download() as told:
        keep.get_by_role("link", name="Label track, plain text").click()
    assert told.value.suggested_filename == "EveningSong-Verse-01.txt"
    page.get_by_role("radio", name="In the mix").click()
    expect(page.get_by_test_id("in-the-mix").get_by_role("row")).to_have_count(4)


def test_a_cup_held_to_the_microphone_tells_how_late_and_how_loud(page, demo, tmp_path):
    room = bakery(demo, "In the phones")
    reading = sung(demo, room)
    with urllib.request.urlopen(f"{demo.url}/api/readings/{reading['id']}/original") as answer:
        sound, rate = soundfile.read(io.BytesIO(answer.read()))
    soundfile.write(tmp_path / "cup.wav", np.concatenate([np.zeros(round(0.02 * rate)), 0.5 * sound]), rate)
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{reading['id']}")
    page.get_by_role("radio", name="In the phones").click()
    phones = page.get_by_test_id("phones")
    phones.get_by_label("The recording of one cup").set_input_files(tmp_path / "cup.wav")
    expect(phones.get_by_role("status")).to_contain_text("You hear yourself 20.0 ms late, too late", timeout=30_000)
    expect(phones.get_by_role("status")).to_contain_text("6 dB quieter")
    expect(phones.get_by_test_id("plot-phones-comb").get_by_role("img")).to_be_visible()
    provoke(page, 422, "in-the-phones")
    phones.get_by_label("The recording of one cup").set_input_files(
        {"name": "empty.wav", "mimeType": "audio/wav", "buffer": b""}
    )
    expect(phones.get_by_role("status")).to_contain_text("empty")


def test_a_threshold_of_ones_own_is_found_pair_by_pair_and_kept(page, demo):
    room = bakery(demo, "Own ears")
    reading = sung(demo, room)
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{reading['id']}")
    ears = page.get_by_test_id("own-ears")
    ears.get_by_role("radio", name="Louder").click()
    ears.get_by_role("button", name="Begin").click()
    with page.expect_response(re.compile(r"part\.wav.*change=louder&by_db=6\.00")):
        ears.get_by_role("button", name="Play 1").click()
    # who always says the first is right by luck alone: some fifty pairs at most, and then it is over
    for pair in range(1, 51):
        expect(ears.get_by_role("status")).to_have_text(re.compile(rf"Pair {pair}:|not for your ears|Not even"))
        if not ears.get_by_role("status").get_by_text(re.compile(r"^Pair \d")).count():
            break
        expect(ears.get_by_role("button", name="It is 1")).to_be_enabled()
        ears.get_by_role("button", name="It is 1").click()
    expect(ears.get_by_role("button", name=re.compile("Keep it|Once more"))).to_be_visible()


def test_what_lies_under_a_take_is_held_against_the_rooms_silence(page, demo):
    room = bakery(demo, "Under it")
    take = sung(demo, room)
    page.goto(f"{demo.url}/rooms/{room}/take/reading/{take['id']}")
    page.get_by_role("radio", name="In the mix").click()
    expect(page.get_by_test_id("underneath")).to_contain_text("No silence by this input and gain")
    sung(demo, room, kind="tone")
    page.reload()
    page.get_by_role("radio", name="In the mix").click()
    expect(page.get_by_test_id("underneath")).to_contain_text(
        "The silence: within a minute after it, same gain, same room"
    )
