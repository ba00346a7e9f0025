"""Hush in the browser: noises noted and dragged, the week, a watch over reloads, a house round, ways in, room tone."""

import json
import re
import urllib.request

import numpy as np
import pytest
from playwright.sync_api import expect

from keenquiet.demo.scenario import bakery_room
from keenquiet.store.audiofile import wav_bytes

from .conftest import eventually, press, provoke
from .test_journey import new_room
from .test_listen import with_microphone

RATE = 48_000


def bakery(demo, name):
    """The demo's room anew, under a name of its own."""
    body = json.dumps({"document": {**bakery_room(), "name": name, "project": ""}}).encode()
    request = urllib.request.Request(f"{demo.url}/api/rooms", body, {"content-type": "application/json"})
    with urllib.request.urlopen(request) as answer:
        return json.loads(answer.read())["id"]


def look(page, name):
    page.get_by_role("radio", name=name, exact=True).click()


def asked(demo, address):
    with urllib.request.urlopen(f"{demo.url}/api/{address}") as answer:
        return json.loads(answer.read())


def test_a_noise_is_noted_moved_and_forgotten_in_a_fresh_room(page, demo):
    new_room(page, demo.url, "Noisy corner")
    page.get_by_role("link", name="Hush").click()
    expect(page.get_by_test_id("first-line")).to_contain_text("Not known yet")
    expect(page.get_by_test_id("day-ribbon")).to_contain_text("No noise is noted yet")
    page.get_by_role("button", name="Note a noise").click()
    page.get_by_role("button", name="Computer or laptop fan").click()
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_test_id("day-ribbon")).to_contain_text("Computer or laptop")
    expect(page.get_by_test_id("first-line")).to_contain_text("predicted")
    grip = page.get_by_role("button", name=re.compile("Computer or laptop fan: drag it"))
    before = grip.bounding_box()
    grip.focus()
    page.keyboard.press("Shift+ArrowRight")
    page.wait_for_function(
        "x => document.querySelector('[aria-label^=\"Computer or laptop fan: drag\"]').getBoundingClientRect().x > x",
        arg=before["x"] + 2,
    )
    page.get_by_role("button", name="Change Computer or laptop fan").click()
    page.get_by_label("Hours, every day").fill("9 to 17:30")
    page.get_by_role("button", name="Su", exact=True).click()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("from 09:00 to 17:30")).to_be_visible()
    page.get_by_role("button", name="Record on Su").click()
    expect(page.get_by_text("· not at all")).to_be_visible()
    page.get_by_role("button", name="Change Computer or laptop fan").click()
    page.get_by_role("button", name="Forget it").click()
    expect(page.get_by_test_id("day-ribbon")).to_contain_text("No noise is noted yet")
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_test_id("day-ribbon")).to_contain_text("Computer or laptop")


def test_the_silent_night_of_the_demo_is_found_and_fan_and_hour_only_help_together(page, demo):
    room = bakery(demo, "Silent night")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    moves = page.get_by_test_id("quiet-moves")
    together = moves.get_by_role("listitem").filter(has_text="Only together").first
    expect(together).to_contain_text("Record after 10:30")
    expect(together).to_contain_text("laptop fan")
    page.get_by_label("Off, or out of the room, while recording").first.check()
    expect(page.get_by_test_id("restore")).to_contain_text("Laptop fan runs again")
    look(page, "The week")
    expect(page.get_by_test_id("week-bench")).to_contain_text("Outside your hours")
    expect(page.get_by_test_id("week-bench")).to_contain_text("every take stays undisturbed")
    page.get_by_role("button", name=re.compile("Sunday 02:00")).click()
    expect(page.get_by_test_id("first-line")).to_contain_text("At 02:30")
    expect(page.get_by_test_id("first-line")).to_contain_text("Every take stays undisturbed")
    for kind, suffix in (("calendar", "ics"), ("table", "csv")):
        with page.expect_download() as saved:
            page.get_by_role("button", name=re.compile(kind)).click()
        assert saved.value.suggested_filename == f"Silent night quiet hours.{suffix}"


def test_eight_hours_are_watched_over_three_reloads_and_nothing_is_lost(page, demo):
    room = bakery(demo, "Watched")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    look(page, "Watch")
    press(page.get_by_role("button", name="Practice night"))
    bench = page.get_by_test_id("watch-bench")
    for hours in (2, 4, 6, 8):
        least = hours * 3600
        eventually(lambda: asked(demo, f"rooms/{room}/watches"), lambda w, s=least: w and w[0]["seconds"] >= s, 120)
        if hours < 8:
            page.reload()
            look(page, "Watch")
            expect(bench).to_contain_text("Listening")
    page.get_by_role("button", name="Stop the watch").click()
    expect(page.get_by_role("button", name="Practice night")).to_be_visible()
    (watch,) = asked(demo, f"rooms/{room}/watches")
    assert watch["seconds"] >= 8 * 3600
    assert watch["gaps"] == 0
    assert watch["stopped_why"] == "asked"
    assert watch["megabytes"] < 1
    with urllib.request.urlopen(f"{demo.url}/api/watches/{watch['id']}/log.csv") as answer:
        times = [row.split(",")[0] for row in answer.read().decode().splitlines()[1:]]
    assert len(times) == len(set(times)) == watch["seconds"]
    expect(bench.get_by_role("img", name=re.compile("Level over time"))).to_be_visible()


@pytest.mark.in_real_time
def test_a_microphone_is_watched_and_what_passes_can_be_heard(playwright, demo, tmp_path):
    rng = np.random.default_rng(4)
    samples = 1e-3 * rng.standard_normal(8 * RATE)
    samples[5 * RATE : 6 * RATE] *= 60
    source = tmp_path / "night.wav"
    source.write_bytes(wav_bytes(samples, RATE, subtype="PCM_16"))
    browser = with_microphone(playwright, source)
    page = browser.new_context(viewport={"width": 390, "height": 844}).new_page()
    room = bakery(demo, "Watched with a microphone")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    look(page, "Watch")
    page.get_by_role("button", name="Watch with this microphone").click()
    expect(page.get_by_test_id("watch-bench")).to_contain_text("Listening")
    eventually(
        lambda: asked(demo, f"rooms/{room}/watches"), lambda w: w and w[0]["clips"] >= 1 and w[0]["seconds"] >= 12, 90
    )
    page.reload()
    look(page, "Watch")
    before = asked(demo, f"rooms/{room}/watches")[0]["seconds"]
    eventually(lambda: asked(demo, f"rooms/{room}/watches"), lambda w: w[0]["seconds"] > before + 3, 60)
    page.get_by_role("button", name="Stop the watch").click()
    expect(page.get_by_role("button", name=re.compile("what passed")).first).to_be_visible()
    browser.close()


def test_a_full_disk_is_told_and_the_watch_goes_on_when_there_is_room(page, demo):
    room = bakery(demo, "Full disk")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    look(page, "Watch")
    press(page.get_by_role("button", name="Practice night"))
    eventually(lambda: asked(demo, f"rooms/{room}/watches"), lambda w: w and w[0]["seconds"] > 1000)
    provoke(page, 507, "/levels")
    full = {"error": {"field": "disk", "reason": "The disk is full.", "cure": "Make room."}}
    page.route("**/levels", lambda route: route.fulfill(status=507, json=full))
    expect(page.get_by_test_id("watch-bench")).to_contain_text("The disk is full.")
    before = asked(demo, f"rooms/{room}/watches")[0]["seconds"]
    page.unroute("**/levels")
    eventually(lambda: asked(demo, f"rooms/{room}/watches"), lambda w: w[0]["seconds"] > before)
    (watch,) = asked(demo, f"rooms/{room}/watches")
    assert (watch["stopped_why"], watch["gaps"]) == ("", 0)


def test_a_house_round_tells_what_each_machine_makes(page, demo):
    room = bakery(demo, "House round")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    look(page, "House round")
    page.get_by_role("button", name="Begin a house round").click()
    page.get_by_role("radio", name="Practice rig").click()
    expect(page.get_by_label("Shop fridge below", exact=True)).to_be_checked()
    expect(page.get_by_label("Trams", exact=True)).to_have_count(0)  # nobody switches off what passes outside
    page.get_by_role("button", name="Begin", exact=True).click()
    shares = page.get_by_role("list", name="Shares, loudest first")
    expect(shares.get_by_role("listitem")).to_have_count(2, timeout=90_000)
    expect(page.get_by_test_id("round-bench")).to_contain_text("leads")
    look(page, "Hum")
    page.get_by_role("button", name="It stayed").click()
    page.get_by_role("button", name="It went").click()
    page.get_by_role("button", name="It went").click()
    expect(page.get_by_role("status").filter(has_text="The charger")).to_contain_text("Never lift a safety earth")
    look(page, "Room tone")
    page.get_by_test_id("tone-tools").get_by_role("button", name="Practice rig").click()
    expect(page.get_by_test_id("tone-tools")).to_contain_text("Best from", timeout=60_000)
    with page.expect_download():
        page.get_by_role("link", name="Save as WAV").click()


def test_ways_are_sealed_and_opened_and_their_cautions_stand_there(page, demo):
    room = bakery(demo, "Sealed")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    look(page, "Ways in")
    bench = page.get_by_test_id("ways-bench")
    bench.get_by_role("button", name=re.compile("Seal it with tape")).first.click()
    expect(bench).to_contain_text("Sealed with tape and putty")
    expect(bench).to_contain_text("ways out stay free")
    bench.get_by_role("button", name="Open it again").click()
    expect(bench.get_by_role("button", name="Open it again")).to_have_count(0)
    look(page, "Heard under you")
    expect(page.get_by_test_id("meaning-bench")).to_contain_text("after 10 dB of squeezing")


def test_without_a_microphone_the_watch_says_so(page, demo):
    room = bakery(demo, "No microphone")
    page.goto(f"{demo.url}/rooms/{room}/hush")
    look(page, "Watch")
    page.get_by_role("button", name="Watch with this microphone").click()
    expect(page.get_by_test_id("watch-bench")).to_contain_text("Paused")
    page.get_by_role("button", name="Stop the watch").click()
    expect(page.get_by_role("button", name="Watch with this microphone")).to_be_visible()
