"""What every page rests on: nothing moves while it loads, nothing fails, no edit is lost, one is back where one was."""

import json
import re
import threading
import urllib.request
from itertools import pairwise
from pathlib import Path

import pytest
from playwright.sync_api import expect

from keenquiet.demo.load import load_demo
from keenquiet.service import ledger, rooms
from keenquiet.service.answers.numbers import plain

from .conftest import Server, eventually, provoke
from .test_hush import bakery
from .test_journey import new_room, server_room, settled, value_of

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
STEPS = ("brief", "tape", "listen", "marks", "treat", "hush", "take", "session", "ledger")
SHIFTS = """window.shifted = 0; new PerformanceObserver((seen) => {
  for (const e of seen.getEntries()) if (!e.hadRecentInput) window.shifted += e.value
}).observe({type: 'layout-shift', buffered: true})"""

# every answer is late by up to 0.6 s, so that they come in another order each time
LATE = """const send = window.fetch; let seed = %d
window.fetch = async (...asked) => {
  const answer = await send(...asked)
  seed = (seed * 1103515245 + 12345) %% 2147483648
  await new Promise((go) => setTimeout(go, (seed / 2147483648) * 600))
  return answer
}"""


def loaded(page):
    """A step with all that it asks the server for."""
    # the ledger shows its lanes, and on a phone the strings besides
    there = page.locator("[data-testid=marks][aria-busy=false], [data-testid=felts][aria-busy=false]")
    expect(there.or_(page.get_by_test_id("lanes")).first).to_be_visible(timeout=30_000)
    for working in ("Weighing what could be done", "Opening the", "Unrolling the drawing"):
        expect(page.get_by_text(working)).to_have_count(0, timeout=30_000)
    expect(page.get_by_label("Working", exact=True)).to_have_count(0, timeout=30_000)
    page.wait_for_load_state("networkidle")


def serious(page):
    page.evaluate(AXE.read_text())  # a script tag would meet the page's own policy
    found = page.evaluate("axe.run({resultTypes: ['violations']})")["violations"]
    return [
        (v["id"], [n["html"][:140] for n in v["nodes"][:2]]) for v in found if v["impact"] in ("serious", "critical")
    ]


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_every_step_of_the_demo_opens_stands_still_and_is_accessible(page, demo, theme):
    page.add_init_script(f"localStorage.setItem('kq-theme', '{theme}')")
    page.add_init_script(SHIFTS)
    for step in STEPS:
        page.goto(f"{demo.url}/rooms/{demo.room_id}/{step}")
        loaded(page)
        assert page.evaluate("window.shifted") < 0.02, step
        assert serious(page) == [], f"{step} ({theme})"
    for path, there in (("/", "Over the bakery"), ("/places", "Which place?")):
        page.goto(demo.url + path)
        expect(page.get_by_text(there).first).to_be_visible()
        expect(page.get_by_text("Weighing the places")).to_have_count(0, timeout=60_000)
        assert serious(page) == [], f"{path} ({theme})"


def test_every_step_of_a_fresh_room_and_an_empty_folder_opens_and_stands_still(page, tmp_path):
    server = Server(tmp_path / "empty").start()
    page.add_init_script(SHIFTS)
    for path in ("/", "/places"):
        page.goto(server.url + path)
        page.wait_for_load_state("networkidle")
    room_id = new_room(page, server.url, "Fresh")
    for step in STEPS:
        page.goto(f"{server.url}/rooms/{room_id}/{step}")
        loaded(page)
        assert page.evaluate("window.shifted") < 0.02, step
        expect(page.get_by_role("alert")).to_have_count(0)
    server.stop()


def test_on_a_phone_nothing_is_wider_than_the_screen_and_nothing_moves(browser, demo):
    page = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True).new_page()
    page.add_init_script(SHIFTS)
    page.add_init_script(LATE % 7)
    for step in STEPS:
        page.goto(f"{demo.url}/rooms/{demo.room_id}/{step}")
        loaded(page)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, step
        assert page.evaluate("window.shifted") < 0.02, step
        # what the step asks and its answer stand on the first screen
        first = page.get_by_test_id("first-line").bounding_box()
        assert first["y"] + first["height"] < 844, step
    page.goto(f"{demo.url}/rooms/{demo.room_id}/marks")
    small = page.get_by_test_id("drawing").bounding_box()
    page.get_by_role("button", name="Full screen").click()
    eventually(lambda: page.get_by_test_id("drawing").bounding_box()["height"] > 2 * small["height"], bool)
    page.get_by_role("button", name="Back", exact=True).click()
    eventually(lambda: page.get_by_test_id("drawing").bounding_box()["height"] < 1.2 * small["height"], bool)
    page.context.close()


def rename(page, name):
    page.get_by_role("textbox", name="Name").fill(name)


def name_of(demo, room_id):
    return server_room(demo.url, room_id)["name"]


def test_leaving_a_room_saves_what_was_waiting_on_a_slow_server_too(page, demo):
    room_id = new_room(page, demo.url, "Old name")
    gate = threading.Event()
    page.route("**/api/rooms/*", lambda route: (gate.wait(0.8), route.continue_()))
    rename(page, "New name")
    page.get_by_role("link", name="Keen Quiet").click()
    expect(page.get_by_role("link", name="New name")).to_be_visible(timeout=20_000)
    assert name_of(demo, room_id) == "New name"
    page.unroute("**/api/rooms/*")
    page.get_by_role("link", name="New name").click()
    page.get_by_role("link", name="Tape").click()
    length = page.get_by_label("Length").first
    length.fill("4.25")
    page.get_by_role("link", name="Keen Quiet").click()
    eventually(lambda: server_room(demo.url, room_id)["document"]["shape"]["plan"][1][0], lambda x: x == 4.25)


def test_reloading_and_closing_lose_nothing(page, demo):
    room_id = new_room(page, demo.url, "Before")
    rename(page, "Reloaded")
    page.reload()
    expect(page.get_by_role("textbox", name="Name")).to_have_value("Reloaded")
    eventually(lambda: name_of(demo, room_id), lambda name: name == "Reloaded")
    # closed while the server did not answer: the browser kept it, and the next visit brings it
    page.route("**/api/rooms/*", lambda route: route.abort() if route.request.method == "PUT" else route.continue_())
    rename(page, "Closed")
    expect(page.get_by_text("Not saved: ")).to_be_visible()
    again = page.context.new_page()
    page.close()
    again.goto(f"{demo.url}/rooms/{room_id}/tape")
    expect(again.get_by_role("textbox", name="Name")).to_have_value("Closed")
    eventually(lambda: name_of(demo, room_id), lambda name: name == "Closed")


def test_no_reading_is_filed_while_the_room_is_not_saved(page, demo):
    room_id = new_room(page, demo.url, "Unsaved")
    page.goto(f"{demo.url}/rooms/{room_id}/marks")
    page.get_by_role("button", name=re.compile("^mic:")).press("ArrowRight")
    settled(page)
    page.route("**/api/rooms/*", lambda route: route.abort() if route.request.method == "PUT" else route.continue_())
    page.get_by_role("button", name=re.compile("^mic:")).press("Shift+ArrowRight")
    page.get_by_role("link", name="Listen").click()
    page.get_by_role("button", name="Read: Silence").click()
    page.get_by_role("radio", name="Practice rig").click()
    page.get_by_role("button", name="Let the rig record").click()
    expect(page.get_by_test_id("measuring-place").get_by_role("alert")).to_contain_text("not answering")
    with urllib.request.urlopen(f"{demo.url}/api/rooms/{room_id}/readings") as answer:
        assert json.load(answer) == []


def test_a_reload_and_the_back_button_land_where_one_was(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.get_by_role("button", name=re.compile(r"^Silence .* dB\(A\)")).click()
    expect(page.get_by_text("What is there when nobody plays?")).to_be_visible()
    page.reload()
    expect(page.get_by_text("What is there when nobody plays?")).to_be_visible()
    page.get_by_role("button", name="Table and compare").click()
    expect(page.get_by_test_id("readings-sheet")).to_be_visible()
    page.go_back()
    expect(page.get_by_test_id("readings-sheet")).to_be_hidden()
    expect(page.get_by_text("What is there when nobody plays?")).to_be_visible()
    page.get_by_role("button", name="Read: Sweep").click()
    page.reload()
    expect(page.get_by_test_id("measuring-place")).to_be_visible()
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_test_id("measuring-place")).to_be_hidden()
    page.goto(f"{demo.url}/rooms/{demo.room_id}/marks")
    page.get_by_role("radio", name="Section").click()
    page.get_by_role("radio", name="Swell").click()
    page.reload()
    expect(page.get_by_test_id("section-view")).to_be_visible()
    expect(page.get_by_role("radio", name="Swell")).to_be_checked()
    # how the room is seen belongs to its step: the walls are what is treated
    page.get_by_role("link", name="Treat").click()
    expect(page.get_by_test_id("walls-view")).to_be_visible()


def test_a_mark_is_the_same_on_the_step_among_the_places_and_in_the_ledger(page, tmp_path):
    server = Server(tmp_path / "one").start()
    room_id = load_demo(server.app.state.data)
    page.goto(f"{server.url}/rooms/{room_id}/treat")
    shown = f"{value_of(page, 'bounce'):.1f}"
    expect(page.get_by_test_id("source-bounce")).to_contain_text("measured")
    page.get_by_role("link", name="Ledger").click()
    expect(page.get_by_test_id("lanes")).to_contain_text(shown)
    expect(page.get_by_test_id("ledger")).to_contain_text(f"Bounce {shown} dB")
    page.goto(f"{server.url}/places/Hurdy-gurdy%20and%20alto")
    place = page.get_by_test_id("place").filter(has_text="Over the bakery")
    expect(place).to_contain_text(re.compile(rf"Bounce{shown} ±"), timeout=60_000)
    # the room changes: what was measured stands beside the prediction, with what changed since
    page.goto(f"{server.url}/rooms/{room_id}/marks")
    page.get_by_role("button", name=re.compile("^mic:")).press("Shift+ArrowRight")
    settled(page)
    expect(page.get_by_test_id("source-bounce")).to_contain_text(f"from {shown} measured before", timeout=30_000)
    server.stop()


def test_a_move_is_tried_with_its_edits_and_done_with_what_was_changed_meanwhile(page, demo):
    room_id = new_room(page, demo.url, "Edits")
    page.goto(f"{demo.url}/rooms/{room_id}/marks")
    page.get_by_test_id("next-moves").get_by_role("button", name="Try").first.click(timeout=30_000)
    page.get_by_role("button", name=re.compile("^mic:")).press("ArrowUp")
    settled(page)
    tried = server_room(demo.url, room_id)["document"]["arrangements"][1]["trying"]
    assert tried["edits"][-1]["do"] == "place"
    assert len(tried["edits"]) >= 2
    page.get_by_role("button", name="I have done it").click()
    expect(page.get_by_role("button", name="I have done it")).to_be_hidden(timeout=30_000)
    with urllib.request.urlopen(f"{demo.url}/api/rooms/{room_id}/ledger") as answer:
        done = next(entry for entry in json.load(answer) if entry["kind"] == "move")
    assert [edit["do"] for edit in done["detail"]["edits"]] == [edit["do"] for edit in tried["edits"]]


def test_a_search_that_the_page_gave_up_is_stopped_on_the_server(page, demo):
    room_id = new_room(page, demo.url, "Given up", ("5.1", "4.3", "2.6"))
    with page.expect_response(lambda r: "/api/moves" in r.url and "pending" in r.text()) as asked:
        page.goto(f"{demo.url}/rooms/{room_id}/treat")
    job = asked.value.json()["pending"]["id"]
    page.get_by_role("link", name="Keen Quiet").click()

    def state():
        with urllib.request.urlopen(f"{demo.url}/api/jobs/{job}") as answer:
            return json.load(answer)["state"]

    assert eventually(state, lambda now: now not in ("waiting", "running")) in ("cancelled", "done")


def test_rigged_faults_are_the_only_refusals(page, demo):
    provoke(page, 422, "/api/length")
    new_room(page, demo.url, "Refused")
    page.get_by_label("Length").first.fill("as long as it is")
    page.get_by_label("Length").first.press("Enter")
    expect(page.get_by_role("alert").first).to_be_visible()


@pytest.mark.parametrize("width", [1280, 390])
def test_a_ledger_of_many_moves_is_accessible_and_each_can_be_chosen(page, demo, width):
    data = demo.app.state.data
    room_id = bakery(demo, f"Long ledger {width}")
    for number in range(24):
        title = f"Turn the gain to {number % 5} dB, move {number + 1}"
        trying = {"kind": "own", "title": title, "edits": [{"do": "set-gain", "gain_db": float(number % 5)}]}
        kept = rooms.opened(data, room_id)
        document = plain(kept.document)
        document["arrangements"].append(document["arrangements"][0] | {"id": "what-if", "trying": trying})
        saved = rooms.save(data, room_id, document, revision=kept.revision)
        ledger.mark_done(data, room_id, revision=saved.revision, kind="own", title=title)
    page.set_viewport_size({"width": width, "height": 800})
    page.goto(f"{demo.url}/rooms/{room_id}/ledger")
    loaded(page)
    assert serious(page) == []
    flags = page.get_by_test_id("lanes").get_by_role("button")
    boxes = sorted((flag.bounding_box() for flag in flags.all()), key=lambda box: box["x"])
    assert len(boxes) >= (12 if width == 1280 else 6)
    assert all(one["x"] + one["width"] < two["x"] for one, two in pairwise(boxes))
    assert min(min(box["width"], box["height"]) for box in boxes) >= 23.5
    flags.first.press("Enter")
    expect(flags.first).to_have_attribute("aria-pressed", "true")
