"""The network goes, the server goes, the page goes: what was recorded and written is kept, and filed once."""

import os
import re
from contextlib import contextmanager, suppress

import numpy as np
import pytest
from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import expect

from keenquiet.demo.scenario import cupboard
from keenquiet.documents.convert import read_room
from keenquiet.service.reading import rig_recording
from keenquiet.store.audiofile import wav_bytes

from ..soak.kills import Served
from .conftest import eventually, press
from .test_listen import RATE, with_hush, with_microphone

ALL = ("Sweep", "Clap", "Hum glide", "Silence", "Spoken line", "Pop words", "Loudest passage", "Test take")
KEYS = dict(zip(ALL, ("sweep", "clap", "glide", "tone", "spoken", "pops", "loudest", "take"), strict=True))
TRIED = ALL if os.environ.get("KEENQUIET_SOAK") else ("Silence",)


@contextmanager
def recording(playwright, tmp_path, name):
    """A page that listens for a recording of a kind, its browser saying that there is no network; the server."""
    room = read_room(cupboard())
    sound = rig_recording(room, room.arrangements[0], KEYS[name], seed=4).samples
    source = tmp_path / "sound.wav"
    source.write_bytes(wav_bytes(with_hush(sound, 4.0), RATE, subtype="PCM_16"))
    served = Served(tmp_path / "data").ready()
    _, made = served.ask("POST", "/api/rooms", {"document": cupboard()})
    browser = with_microphone(playwright, source)
    try:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, permissions=["microphone"])
        page = context.new_page()
        page.goto(f"{served.url}/rooms/{made['id']}/listen")
        # the browser says that there is no network: this server needs none
        page.evaluate("""() => {
            Object.defineProperty(navigator, 'onLine', { get: () => false })
            dispatchEvent(new Event('offline'))
        }""")
        page.get_by_role("button", name=f"Read: {name}").click()
        page.get_by_role("button", name="Open the microphone").click()
        expect(page.get_by_label("How the gain is set")).to_be_visible()
        playing = page.get_by_label("Play the sweep from this computer meanwhile")
        if playing.count():
            playing.uncheck()
        press(page.get_by_role("button", name="Start in 3 seconds"))
        expect(page.get_by_text(re.compile("^Listening: "))).to_be_visible(timeout=20_000)
        yield page, served, made["id"]
    finally:
        browser.close()
        served.kill()


def filed_in(served, room_id):
    return eventually(lambda: served.ask("GET", f"/api/rooms/{room_id}/readings")[1], len)


@pytest.mark.timeout(240)
@pytest.mark.parametrize("name", TRIED)
def test_wifi_off_and_the_server_killed_while_it_records_the_recording_is_filed_once(playwright, tmp_path, name):
    with recording(playwright, tmp_path, name) as (page, served, room_id):
        served.kill()
        expect(page.get_by_test_id("measuring-place").get_by_role("alert")).to_contain_text(
            "kept in this browser", timeout=60_000
        )
        with back_on(served, tmp_path) as again:
            # nobody presses anything: it is sent as soon as somebody answers
            expect(page.get_by_test_id("big-verdict")).to_be_visible(timeout=60_000)
            page.reload()
            expect(page.get_by_text("was not filed")).to_have_count(0)
            assert [(r["kind"], r["way"]) for r in filed_in(again, room_id)] == [(KEYS[name], "browser")]


@contextmanager
def back_on(served, tmp_path):
    again = Served(tmp_path / "data", port=served.port).ready()
    try:
        yield again
    finally:
        again.kill()


@pytest.mark.timeout(240)
def test_a_tab_whose_process_dies_keeps_its_recording_which_the_next_tab_files_once(playwright, tmp_path):
    with recording(playwright, tmp_path, "Silence") as (page, served, room_id):
        served.kill()
        expect(page.get_by_test_id("measuring-place").get_by_role("alert")).to_contain_text(
            "kept in this browser", timeout=60_000
        )
        # what a browser does to a discarded tab: its process ends without a word to the page
        with page.expect_event("crash"):
            crash(page)
        with back_on(served, tmp_path) as again:
            next_page = page.context.new_page()
            next_page.goto(f"{again.url}/rooms/{room_id}/listen")
            # it may be an hour later: whether it is still wanted is asked
            next_page.get_by_role("button", name="File it now").click()
            assert [r["kind"] for r in filed_in(again, room_id)] == ["tone"]
            next_page.reload()
            expect(next_page.get_by_test_id("take-reading")).to_be_visible()
            assert len(filed_in(again, room_id)) == 1


def crash(page):
    """End the page's process, as the system does when memory runs out."""
    with suppress(PlaywrightError):
        page.goto("chrome://crash", timeout=5_000)


@pytest.mark.timeout(240)
def test_a_laptop_that_sleeps_while_the_server_is_away_files_its_recording_when_it_wakes(playwright, tmp_path):
    with recording(playwright, tmp_path, "Silence") as (page, served, room_id):
        served.kill()
        expect(page.get_by_test_id("measuring-place").get_by_role("alert")).to_contain_text(
            "kept in this browser", timeout=60_000
        )
        system = page.context.new_cdp_session(page)
        system.send("Page.setWebLifecycleState", {"state": "frozen"})
        with back_on(served, tmp_path) as again:
            system.send("Page.setWebLifecycleState", {"state": "active"})
            expect(page.get_by_test_id("big-verdict")).to_be_visible(timeout=60_000)
            assert [r["kind"] for r in filed_in(again, room_id)] == ["tone"]


@pytest.mark.timeout(240)
def test_a_browser_without_room_says_so_and_still_files_what_stays_on_the_page(playwright, tmp_path):
    with recording(playwright, tmp_path, "Silence") as (page, served, room_id):
        page.context.new_cdp_session(page).send(
            "Storage.overrideQuotaForOrigin", {"origin": served.url, "quotaSize": 20_000}
        )
        served.kill()
        expect(page.get_by_test_id("measuring-place").get_by_role("alert")).to_contain_text(
            "could not keep the recording", timeout=60_000
        )
        with back_on(served, tmp_path) as again:
            expect(page.get_by_test_id("big-verdict")).to_be_visible(timeout=60_000)
            assert [r["kind"] for r in filed_in(again, room_id)] == ["tone"]


def test_edits_made_while_the_server_is_away_survive_a_reload_and_are_saved_when_it_is_back(browser, tmp_path):
    served = Served(tmp_path / "data").ready()
    _, made = served.ask("POST", "/api/rooms", {"document": cupboard()})
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(f"{served.url}/rooms/{made['id']}/tape")
    name = page.get_by_role("textbox", name="Name")
    expect(name).to_have_value(made["document"]["name"])
    served.kill()
    name.fill("Kept meanwhile")
    expect(page.get_by_text(re.compile("^Not saved"))).to_be_visible(timeout=20_000)
    served = Served(tmp_path / "data", port=served.port).ready()
    page.reload()
    expect(page.get_by_role("textbox", name="Name")).to_have_value("Kept meanwhile")
    eventually(
        lambda: served.ask("GET", f"/api/rooms/{made['id']}")[1]["document"]["name"],
        lambda seen: seen == "Kept meanwhile",
    )
    page.context.close()
    served.kill()


def test_a_reading_that_the_page_does_not_understand_is_told_and_the_rest_stays(browser, demo):
    # a page of its own: the browser's console tells the failure that is brought about here
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    expect(page.get_by_test_id("mark-bounce")).to_be_visible()

    def strange(route):
        answer = route.fetch()
        body = answer.json()
        body["result"]["bands"] = None
        route.fulfill(response=answer, json=body)

    page.route(re.compile("/api/readings/[0-9a-f-]+$"), strange)
    page.reload()
    expect(page.get_by_text("cannot be shown.").first).to_be_visible()
    expect(page.get_by_text("Taken so far")).to_be_visible()
    expect(page.get_by_test_id("mark-bounce")).to_be_visible()
    expect(page.get_by_test_id("take-reading")).to_be_visible()
    page.context.close()


def test_another_machine_comes_in_by_the_passcode_and_everybody_can_be_signed_out(browser, tmp_path):
    served = Served(tmp_path / "data", "--passcode", "five-wooden-words", "--tls").answering()
    page = browser.new_context(viewport={"width": 390, "height": 844}, ignore_https_errors=True).new_page()
    here = served.url.replace("http:", "https:")
    page.goto(here)
    expect(page).to_have_url(f"{here}/enter")
    page.get_by_label("Passcode").fill("not this one")
    page.get_by_role("button", name="Come in").click()
    expect(page.get_by_role("alert")).to_have_text("That is not the passcode.")
    page.get_by_label("Passcode").fill("five-wooden-words")
    page.get_by_role("button", name="Come in").click()
    expect(page.get_by_role("heading", name="Rooms")).to_be_visible()
    assert page.evaluate("isSecureContext && Boolean(navigator.mediaDevices)")  # so that it may record
    page.goto(f"{here}/enter")
    page.get_by_role("button", name="Sign out everywhere").click()
    expect(page.get_by_role("alert")).to_have_text("Everybody is signed out.")
    page.goto(here)
    expect(page).to_have_url(f"{here}/enter")
    page.context.close()
    served.kill()


def test_a_backup_is_made_and_put_back_from_the_first_page(page, tmp_path):
    served = Served(tmp_path / "data").ready()
    try:
        served.ask("POST", "/api/rooms", {"document": cupboard()})
        page.goto(served.url)
        page.get_by_role("button", name="Backups (0)").click()
        page.get_by_role("button", name="Back up now").click()
        kept = page.get_by_role("button", name="Put back the backup of")
        expect(kept).to_have_count(1)
        page.get_by_role("button", name="Bin").first.click()
        expect(page.get_by_text("None yet.")).to_be_visible()
        kept.click()
        expect(page.get_by_role("dialog")).to_contain_text("1 room, 0 readings")
        page.get_by_role("button", name="Put it back").click()
        expect(page.get_by_role("dialog")).to_contain_text("What stood before is a backup of its own")
        page.get_by_role("button", name="Look at it").click()
        expect(page.get_by_role("link", name=re.compile(cupboard()["name"]))).to_be_visible()
        expect(page.get_by_role("button", name="Backups (2)")).to_be_visible()
    finally:
        served.kill()


def to_the_watch(page):
    page.get_by_role("link", name="Hush").click()
    page.get_by_role("radio", name="Watch", exact=True).click()
    return page.get_by_test_id("watch-bench")


@pytest.mark.timeout(240)
@pytest.mark.in_real_time
def test_a_watch_outlives_its_server_and_another_device_looks_on_and_takes_over(playwright, tmp_path):
    source = tmp_path / "night.wav"
    source.write_bytes(wav_bytes(1e-3 * np.random.default_rng(4).standard_normal(8 * RATE), RATE, subtype="PCM_16"))
    served = Served(tmp_path / "data").ready()
    _, made = served.ask("POST", "/api/rooms", {"document": cupboard()})
    browser = with_microphone(playwright, source)
    try:
        here, there = (browser.new_context(permissions=["microphone"]).new_page() for _ in range(2))
        here.goto(f"{served.url}/rooms/{made['id']}/listen")
        bench = to_the_watch(here)
        press(here.get_by_role("button", name="Watch with this microphone"))

        def told(by):
            return by.ask("GET", f"/api/rooms/{made['id']}/watches")[1][0]

        eventually(lambda: told(served), lambda w: w["seconds"] >= 6, 60)
        served.kill()
        expect(bench).to_contain_text("wait on this device and are sent later", timeout=60_000)
        with back_on(served, tmp_path) as again:
            # nobody presses anything; what was heard meanwhile comes in, and nothing of it is missing
            eventually(lambda: told(again), lambda w: w["seconds"] >= 15, 90)
            assert told(again)["gaps"] == 0
            there.goto(f"{served.url}/rooms/{made['id']}/listen")
            others = to_the_watch(there)
            expect(others).to_contain_text("Another device listens")
            press(there.get_by_role("button", name="Listen with this one instead"))
            expect(others).to_contain_text("Listening")
            expect(bench).to_contain_text("Another device listens", timeout=30_000)
            before = told(again)["seconds"]
            eventually(lambda: told(again), lambda w: w["seconds"] >= before + 6, 60)
            press(there.get_by_role("button", name="Stop the watch"))
            eventually(lambda: told(again), lambda w: w["stopped_why"] == "asked", 30)
            expect(here.get_by_role("button", name="Watch with this microphone")).to_be_visible()
    finally:
        browser.close()
        served.kill()
