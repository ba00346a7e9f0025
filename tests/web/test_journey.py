"""Points 1 to 7 of the thin slice, driven through the built interface."""

import io
import json
import re
import urllib.request
from pathlib import Path

import pytest
from playwright.sync_api import expect

from .conftest import by_rig, eventually, provoke


def value_of(page, mark):
    """A mark as shown, once it speaks of what is in sight."""
    expect(page.locator("[data-testid=marks][aria-busy=false]")).to_be_visible(timeout=30_000)
    return float(page.get_by_test_id(f"mark-{mark}").locator("[data-value]").first.get_attribute("data-value"))


def settled(page):
    expect(page.get_by_test_id("status")).to_have_text(re.compile(r"(^|· )saved$"), timeout=30_000)


def server_room(url, room_id):
    with urllib.request.urlopen(f"{url}/api/rooms/{room_id}") as answer:
        return json.load(answer)


def new_room(page, url, name, sizes=("3.62", "284 cm", "7' 11\"")):
    page.goto(url)
    page.get_by_role("button", name="Tape out a room").click()
    page.get_by_label("What do you call it?").fill(name)
    for label, text in zip(("Length", "Width", "Height"), sizes, strict=True):
        page.get_by_label(label).fill(text)
    page.get_by_role("button", name="Draw it").click()
    page.wait_for_url("**/tape")
    expect(page.get_by_role("textbox", name="Name")).to_be_visible()  # the room is there, not only its address
    return page.url.split("/rooms/")[1].split("/")[0]


def test_the_demo_shows_the_spare_room_to_scale_with_its_four_marks(page, demo):
    page.goto(demo.url)
    page.get_by_role("link", name="Over the bakery").click()
    expect(page.get_by_test_id("drawing")).to_contain_text("3.62 m")
    for mark, name in (("bounce", "Bounce"), ("boom", "Boom"), ("hush", "Hush"), ("touch", "Touch")):
        row = page.get_by_test_id(f"mark-{mark}")
        expect(row).to_contain_text(name)
        row.get_by_role("button", name="Why?").click()
        expect(row).to_contain_text("Wanted")
        expect(row).to_contain_text("simulated")
    # to scale: the drawn floor has the room's proportions
    box = page.get_by_test_id("floor").bounding_box()
    assert box["width"] / box["height"] == pytest.approx(3.62 / (2.84 + 0.3), rel=0.01)  # the alcove is 30 cm deep


def test_a_room_of_ones_own_is_made_furnished_and_kept(page, demo):
    room_id = new_room(page, demo.url, "Room room")
    page.get_by_role("button", name=re.compile("^Floor, ")).click()
    page.get_by_label("Search the catalogue").fill("carpet felt")
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Carpet on felt")).first.click()
    page.get_by_role("button", name="Use this").click()
    page.get_by_role("button", name=re.compile("^Doors and windows")).click()
    page.get_by_role("button", name="Add a window").click()
    page.get_by_role("button", name="Add a door").click()
    page.get_by_role("button", name="Air").click()
    page.get_by_label("Temperature (°C)").fill("24")
    page.get_by_label("Temperature (°C)").press("Enter")
    page.get_by_label("Length").fill("13' 1 1/2\"")
    page.get_by_label("Length").press("Enter")
    # the server reads the length first: "saved" may still speak of the change before
    eventually(
        lambda: server_room(demo.url, room_id)["document"]["shape"]["plan"][1][0] == pytest.approx(4.0005, abs=1e-3),
        bool,
    )
    document = server_room(demo.url, room_id)["document"]
    assert document["surfaces"]["floor"]["material"] == "carpet-on-felt"
    assert [o["kind"] for o in document["openings"]] == ["window", "door"]
    assert document["air"]["temperature_c"] == 24


@pytest.mark.parametrize("sizes", [("0", "3", "2.4"), ("40 m", "3", "2.4"), ("three", "3", "2.4"), ("-2", "3", "2.4")])
def test_impossible_dimensions_are_refused_at_the_field(page, demo, sizes):
    provoke(page, 422, "/api/rooms")
    page.goto(demo.url)
    page.get_by_role("button", name="Tape out a room").click()
    for label, text in zip(("Length", "Width", "Height"), sizes, strict=True):
        page.get_by_label(label).fill(text)
    page.get_by_role("button", name="Draw it").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("Length")
    expect(page.get_by_label("Length")).to_have_value(sizes[0])  # nothing lost


def test_marks_move_by_mouse_keys_and_typing_and_undo_takes_it_back(page, demo):
    room_id = new_room(page, demo.url, "Moves")
    page.goto(f"{demo.url}/rooms/{room_id}/marks")
    mic = page.get_by_role("button", name=re.compile("^mic:"))
    expect(page.get_by_test_id("mark-bounce")).to_be_visible()
    before = server_room(demo.url, room_id)["document"]["arrangements"][0]["microphone"]["at"]
    mic.focus()
    mic.press("ArrowRight")
    mic.press("Shift+ArrowUp")
    mic.press("[")
    settled(page)
    moved = server_room(demo.url, room_id)["document"]["arrangements"][0]["microphone"]
    assert moved["at"][:2] == pytest.approx([round(before[0], 2) + 0.01, round(before[1], 2) + 0.10], abs=0.0051)
    assert moved["aims_deg"] == 5
    far = value_of(page, "bounce")
    mic.hover()  # it stands still, and nothing lies over it
    box = mic.bounding_box()
    performer = page.get_by_role("button", name=re.compile("^voice:")).bounding_box()
    (x, y), (px, py) = ((b["x"] + b["width"] / 2, b["y"] + b["height"] / 2) for b in (box, performer))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(px + (x - px) * 0.4, py + (y - py) * 0.4, steps=8)
    page.mouse.up()
    settled(page)
    eventually(lambda: value_of(page, "bounce") > far + 2, bool)  # nearer is drier
    page.get_by_role("button", name=re.compile("^Undo")).click()
    settled(page)
    eventually(lambda: value_of(page, "bounce") == pytest.approx(far, abs=0.01), bool)
    page.get_by_role("button", name=re.compile("^Redo")).click()
    page.get_by_role("button", name="Exact places").click()
    field = page.get_by_role("group", name="microphone").get_by_label("From the left")
    field.fill("1 m")
    field.press("Enter")
    eventually(
        lambda: (
            server_room(demo.url, room_id)["document"]["arrangements"][0]["microphone"]["at"][0] == pytest.approx(1.0)
        ),
        bool,
    )
    field.fill("9 m")
    field.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("keep inside")


def test_undo_and_redo_live_through_a_reload_and_say_what_they_do(page, demo):
    room_id = new_room(page, demo.url, "Undone later")
    page.get_by_role("link", name="Marks").click()
    mic = page.get_by_role("button", name=re.compile("^mic:"))

    def stands():
        return server_room(demo.url, room_id)["document"]["arrangements"][0]["microphone"]["at"]

    before = stands()
    mic.focus()
    for _ in range(2):  # two steps, each saved by itself
        there = stands()
        mic.press("Shift+ArrowUp")
        eventually(lambda there=there: stands() != there, bool)
        settled(page)
    after = stands()
    page.reload()
    undo = page.get_by_role("button", name=re.compile("^Undo: "))
    undo.click()
    undo.click()
    eventually(lambda: stands() == before, bool)
    settled(page)
    page.reload()
    redo = page.get_by_role("button", name=re.compile("^Redo: "))
    redo.click()
    redo.click()
    eventually(lambda: stands() == after, bool)


def test_what_is_undone_before_it_was_saved_counts_as_saved(page, demo):
    room_id = new_room(page, demo.url, "Quick")
    page.goto(f"{demo.url}/rooms/{room_id}/marks")
    mic = page.get_by_role("button", name=re.compile("^mic:"))
    mic.press("ArrowRight")
    page.keyboard.press("Control+z")
    settled(page)
    assert server_room(demo.url, room_id)["revision"] <= 3


def test_a_move_is_tried_done_and_proved_and_the_ledger_has_it(page, demo):
    room_id = new_room(page, demo.url, "Proof")
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    assert "simulated" in by_rig(page, "Sweep")
    expect(
        page.get_by_text("A good reading (simulated)").or_(page.get_by_text("Usable, with care (simulated)"))
    ).to_be_visible()
    page.goto(f"{demo.url}/rooms/{room_id}/treat")
    moves = page.get_by_test_id("next-moves")
    expect(moves.get_by_role("button", name="Try").first).to_be_visible(timeout=90_000)
    before = value_of(page, "bounce")
    row = moves.get_by_role("listitem").filter(has_text="duvet").first
    row.get_by_role("button", name="Try").click()
    expect(moves).to_contain_text("I have done it")
    expect(moves).to_contain_text("heaters")  # the caution stands where the decision is made
    eventually(lambda: value_of(page, "bounce") > before + 0.5, bool)
    page.keyboard.press("Control+z")
    eventually(lambda: value_of(page, "bounce") == pytest.approx(before, abs=0.01), bool)
    page.keyboard.press("Control+Shift+z")
    page.get_by_role("button", name="I have done it").click()
    expect(page.get_by_role("button", name="I have done it")).to_be_hidden(timeout=30_000)
    expect(page.get_by_text("Take down")).to_be_visible()
    page.goto(f"{demo.url}/rooms/{room_id}/ledger")
    expect(page.get_by_test_id("ledger")).to_contain_text("Not proved yet", timeout=20_000)
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    by_rig(page, "Sweep")
    expect(page.get_by_role("button", name=re.compile("^Put this Sweep"))).to_have_count(2, timeout=30_000)
    page.goto(f"{demo.url}/rooms/{room_id}/ledger")
    proof = page.get_by_test_id("proof").first
    expect(proof).to_contain_text("Bounce")
    expect(proof).to_contain_text("simulated")
    expect(page.get_by_test_id("ledger")).to_contain_text("Done: Hang the duvet")


def test_two_windows_on_one_room_show_the_conflict_and_lose_nothing(page, browser, demo):
    room_id = new_room(page, demo.url, "Shared")
    other = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    other.goto(f"{demo.url}/rooms/{room_id}/tape")
    for window, name in ((page, "First"), (other, "Second")):
        window.get_by_role("textbox", name="Name").fill(name)
        expect(window.get_by_test_id("status")).not_to_have_text("saved")
        expect(window.get_by_test_id("status")).to_have_text(re.compile("^(saved|changed elsewhere)$"), timeout=30_000)
    conflict = other.get_by_test_id("conflict")
    expect(conflict).to_contain_text("another window")
    assert server_room(demo.url, room_id)["name"] == "First"
    expect(other.get_by_role("textbox", name="Name")).to_have_value("Second")
    conflict.get_by_role("button", name="Keep what I see here").click()
    expect(conflict).to_be_hidden()
    settled(other)
    assert server_room(demo.url, room_id)["name"] == "Second"
    other.get_by_role("button", name="Undo: the other window").click()
    expect(other.get_by_role("textbox", name="Name")).to_have_value("First")
    other.context.close()


def test_the_bundle_goes_out_and_comes_in_through_the_page(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/marks")
    page.get_by_role("button", name="More").click()
    with page.expect_download() as bundle:
        page.get_by_role("menuitem", name="Export this room").click()
    assert bundle.value.suggested_filename == "over-the-bakery.kq.zip"
    content = Path(bundle.value.path()).read_bytes()
    page.goto(demo.url)
    page.get_by_label("Bundle").set_input_files({"name": "b.kq.zip", "mimeType": "application/zip", "buffer": content})
    page.wait_for_url("**/marks")
    brought = page.url.split("/rooms/")[1].split("/")[0]
    assert server_room(demo.url, brought)["document"] == server_room(demo.url, demo.room_id)["document"]
    page.goto("about:blank")  # nobody looks at a room that is taken away
    urllib.request.urlopen(urllib.request.Request(f"{demo.url}/api/rooms/{brought}", method="DELETE"))


def test_when_the_server_is_gone_the_page_says_so_and_saves_afterwards(browser, demo):
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.add_init_script("localStorage.setItem('kq-units', 'metric')")
    page = context.new_page()
    room_id = new_room(page, demo.url, "Gone")
    page.route("**/api/**", lambda route: route.abort())
    page.get_by_role("textbox", name="Name").fill("Gone and back")
    expect(page.get_by_text("Not saved: Keen Quiet is not answering.")).to_be_visible(timeout=10_000)
    page.unroute("**/api/**")
    page.get_by_role("button", name="Save again").click()
    settled(page)
    assert server_room(demo.url, room_id)["name"] == "Gone and back"
    page.context.close()


def test_what_is_binned_can_be_taken_out_again(page, demo):
    room_id = new_room(page, demo.url, "Binned")
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    by_rig(page, "Silence")
    page.get_by_role("button", name="Put this Silence into the bin").click(timeout=30_000)
    page.get_by_role("button", name="In the bin (1)").click()
    page.get_by_role("button", name=re.compile("^Take Silence")).click()
    expect(page.get_by_role("button", name="Put this Silence into the bin")).to_be_visible()
    page.goto(demo.url)
    page.get_by_role("button", name="Put Binned into the bin").click()
    page.get_by_role("button", name=re.compile("^In the bin")).click()
    page.get_by_role("button", name="Take Binned out of the bin").click()
    expect(page.get_by_role("link", name="Binned")).to_be_visible()
    page.goto("about:blank")  # nobody looks at a room that is taken away
    urllib.request.urlopen(urllib.request.Request(f"{demo.url}/api/rooms/{room_id}", method="DELETE"))


def test_brief_and_hush_steer_the_marks_and_the_moves(page, demo):
    room_id = new_room(page, demo.url, "Steered")
    page.goto(f"{demo.url}/rooms/{room_id}/brief")
    page.get_by_role("button", name=re.compile("^How it should sound")).click()
    page.get_by_role("option", name=re.compile("Lively")).click()
    page.get_by_label("Budget").fill("a little")
    page.get_by_label("Budget").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("A sum from 0")
    page.get_by_label("Budget").fill("0")
    page.get_by_label("Budget").press("Enter")
    page.get_by_label("A duvet").uncheck()
    expect(page.get_by_test_id("felt-bounce")).to_contain_text("5.0 to 12.0 dB")
    # sitting down lowers mouth and capsule alike
    page.get_by_role("button", name=re.compile("^Standing or seated")).click()
    page.get_by_role("option", name="Seated").click()
    settled(page)
    here = server_room(demo.url, room_id)["document"]["arrangements"][0]
    assert here["performer"]["at"][2] == pytest.approx(1.2, abs=0.01)
    assert here["microphone"]["at"][2] < 1.3
    page.goto(f"{demo.url}/rooms/{room_id}/treat")
    moves = page.get_by_test_id("next-moves")
    expect(moves.get_by_role("button", name="Try").first.or_(moves.get_by_text("Nothing left"))).to_be_visible(
        timeout=30_000
    )
    expect(moves).not_to_contain_text("about €")
    expect(moves).not_to_contain_text("duvet")

    page.goto(f"{demo.url}/rooms/{demo.room_id}/hush")
    expect(page.get_by_text("Laptop fan").first).to_be_visible()
    before = value_of(page, "hush")
    page.get_by_label("Off, or out of the room, while recording").check()
    expect(page.get_by_text("switched off", exact=True)).to_be_visible()
    eventually(lambda: value_of(page, "hush") > before + 1, bool)
    page.keyboard.press("Control+z")
    eventually(lambda: value_of(page, "hush") == pytest.approx(before, abs=0.01), bool)
    # the hour is dragged along the day; after the extractor stops it is quieter
    page.get_by_label("You record at").press("ArrowRight")
    expect(page.get_by_test_id("first-line")).to_contain_text("At 09:45")
    for _ in range(6):
        page.get_by_label("You record at").press("ArrowRight")
    expect(page.get_by_test_id("first-line")).to_contain_text("At 11:15")
    eventually(lambda: value_of(page, "hush") > before + 1, bool)
    for _ in range(7):
        page.get_by_role("button", name=re.compile("^Undo")).click()
    settled(page)


def test_keys_units_and_the_swell_of_a_note(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/marks")
    expect(page.get_by_test_id("mark-bounce")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("move the chosen mark by 1 cm")
    page.keyboard.press("Escape")
    page.keyboard.press("2")
    page.wait_for_url("**/tape")
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Show feet and inches").click()
    expect(page.get_by_test_id("drawing")).to_contain_text("11' 10 1/2\"")
    expect(page.get_by_role("textbox", name="Wall 6")).to_have_value("9' 3 3/4\"")
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Show metres").click()
    page.get_by_role("radio", name="Swell").click()
    first = page.get_by_text(re.compile(r"Hz, rings")).inner_text()
    page.get_by_role("button", name="Lower note").click()
    expect(page.get_by_text(re.compile(r"Hz, rings"))).not_to_have_text(first)
    expect(page.get_by_test_id("drawing").locator("circle").nth(200)).to_be_attached(timeout=30_000)


def test_every_view_of_a_reading_answers_its_question(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.get_by_role("button", name=re.compile("^Sweep Hangs")).first.click()
    for view, question in (
        ("Fade", "How does the 1k Hz octave fade?"),
        ("Early", "What comes back first?"),
        ("Ringing", "Which notes ring on?"),
        ("Hanging", "Which low notes hang on?"),
        ("Lows", "Which notes swell"),
        ("Figures", "band by band"),
        ("Decay", "How long does the room hang on?"),
    ):
        page.get_by_role("radio", name=view, exact=True).click()
        expect(page.get_by_role("heading", name=re.compile(question.replace("?", r"\?")))).to_be_visible()
    page.get_by_role("radio", name="Figures", exact=True).click()
    expect(page.get_by_test_id("band-table")).to_contain_text("T30")
    page.goto(f"{demo.url}/rooms/{demo.room_id}/take")
    expect(page.get_by_test_id("take-figures")).to_contain_text("Loudest peak")
    expect(page.get_by_test_id("take-figures")).to_contain_text("dBFS")


def test_plots_are_read_by_keys_and_saved(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/tape")
    page.get_by_role("button", name="What it does to sound").click()
    plot = page.get_by_test_id("plot-decay-by-octave")
    plot.get_by_role("img").focus()
    page.keyboard.press("ArrowRight")
    expect(plot).to_contain_text("63 Hz:")
    saved = {}
    for kind in ("Drawing (SVG)", "Picture (PNG)", "Figures (CSV)"):
        plot.get_by_role("button", name="Save").click()
        with page.expect_download() as file:
            page.get_by_role("menuitem", name=kind).click()
        saved[kind] = Path(file.value.path()).read_bytes()
    assert b"var(--" not in saved["Drawing (SVG)"]
    assert saved["Picture (PNG)"].startswith(b"\x89PNG")
    head = io.StringIO(saved["Figures (CSV)"].decode()).readline()
    assert "pitch [Hz]" in head
    assert "[s]" in head
