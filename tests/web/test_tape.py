"""The tape step, the views of a room, the fit and the places, driven through the built interface."""

import json
import re
import urllib.request
from pathlib import Path

import pytest
from playwright.sync_api import expect

from .conftest import CHROMIUM, FLAGS, eventually
from .test_floor import loaded
from .test_journey import new_room, server_room, settled, value_of


def document_of(demo, room_id):
    return server_room(demo.url, room_id)["document"]


def until(look, wanted):
    """What is seen once it is as wanted; a change is saved a moment after it is made."""
    eventually(look, lambda seen: seen == wanted)


def start_from(page, name):
    page.get_by_role("button", name="Start from ▾").click()
    page.get_by_role("menuitem", name=re.compile(f"^{name}")).click()


def test_a_plan_is_started_dragged_nudged_typed_and_undone(page, demo):
    room_id = new_room(page, demo.url, "Plan", ("4", "3.5", "2.5"))
    start_from(page, "L")
    until(lambda: len(document_of(demo, room_id)["shape"]["plan"]), 6)
    wall = page.get_by_role("button", name=re.compile("^Wall 2 "))
    box = wall.bounding_box()
    x, y = box["x"] + 12, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y, steps=5)
    page.mouse.move(x + 60, y, steps=5)
    page.mouse.up()
    settled(page)
    plan = document_of(demo, room_id)["shape"]["plan"]
    wider = plan[1][0]
    assert 4.3 < wider < 5.2  # 60 px at 85 to 115 px per metre
    assert plan[2][0] == wider  # the wall moved whole and stayed upright
    wall.focus()
    page.keyboard.press("Shift+ArrowLeft")
    until(lambda: document_of(demo, room_id)["shape"]["plan"][1][0], pytest.approx(wider - 0.1, abs=1e-6))
    field = page.get_by_role("textbox", name="Wall 1", exact=True)
    field.fill("4.2")
    field.press("Enter")
    until(lambda: document_of(demo, room_id)["shape"]["plan"][1][0], pytest.approx(4.2))
    field.fill("2 cm")
    field.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("a wall here is 5 cm to 25 m")
    corner = page.get_by_role("button", name=re.compile("^Corner 4"))
    corner.focus()
    page.keyboard.press("Delete")
    until(lambda: len(document_of(demo, room_id)["shape"]["plan"]), 5)
    for _ in range(5):
        page.get_by_role("button", name=re.compile("^Undo")).click()
    until(lambda: document_of(demo, room_id)["shape"]["plan"], [[0, 0], [4, 0], [4, 3.5], [0, 3.5]])


def test_every_start_makes_a_room_that_stands_and_sounds(page, demo):
    room_id = new_room(page, demo.url, "Starts", ("4", "3.5", "2.5"))
    for name, corners, ceiling in (
        ("Alcove", 8, "flat"),
        ("Bay", 8, "flat"),
        ("Chimney", 8, "flat"),
        ("Attic", 4, "pitched"),
        ("Box", 4, "flat"),
    ):
        start_from(page, name)
        until(
            lambda: (len((shape := document_of(demo, room_id)["shape"])["plan"]), shape["ceiling"]["kind"]),
            (corners, ceiling),
        )
        expect(page.get_by_test_id("mark-boom").locator("[data-value]")).to_be_visible(timeout=20_000)
        expect(page.get_by_role("alert")).to_have_count(0)


def test_tape_readings_are_squared_and_the_misread_one_is_shown(page, demo):
    room_id = new_room(page, demo.url, "Squared", ("3.6", "2.8", "2.4"))
    with urllib.request.urlopen(f"{demo.url}/api/rooms/{room_id}") as answer:
        room = json.load(answer)
    lengths = {(1, 2): 3.62, (2, 3): 2.84, (3, 4): 3.62, (1, 4): 2.84, (1, 3): 4.601, (2, 4): 4.72}
    room["document"]["tape"] = [{"start": a, "end": b, "length_m": v} for (a, b), v in lengths.items()]
    body = json.dumps({"revision": room["revision"], "document": room["document"]}).encode()
    urllib.request.urlopen(
        urllib.request.Request(
            f"{demo.url}/api/rooms/{room_id}", body, {"content-type": "application/json"}, method="PUT"
        )
    )
    page.goto(f"{demo.url}/rooms/{room_id}/tape")
    page.get_by_role("button", name="Check with diagonals (6)").click()
    page.get_by_role("button", name="Do they agree?").click()
    expect(page.get_by_text("Corner 2 to 4: 4.72 m does not fit the others. Take it again.")).to_be_visible()
    page.get_by_role("button", name="Remove reading 6").click()
    page.get_by_role("button", name="Do they agree?").click()
    expect(page.get_by_text(re.compile("They agree within"))).to_be_visible()
    page.get_by_role("button", name="Use the plan that fits best").click()
    until(lambda: document_of(demo, room_id)["shape"]["plan"][2], pytest.approx([3.62, 2.84], abs=0.004))


def test_surfaces_take_a_catalogue_row_layers_or_own_figures(page, demo):
    room_id = new_room(page, demo.url, "Made of")
    page.get_by_role("button", name=re.compile("^Wall 1, ")).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("radio", name="Built from layers").click()
    expect(dialog.get_by_role("img").first).to_be_visible()
    curve = dialog.get_by_role("img").first.inner_html()
    slider = dialog.get_by_label(re.compile("^Thickness"))
    slider.focus()
    for _ in range(8):
        page.keyboard.press("ArrowLeft")
    eventually(
        dialog.get_by_role("img").first.inner_html, lambda seen: seen != curve
    )  # drawn while the thickness changes
    dialog.get_by_role("button", name="Use this").click()
    settled(page)
    absorber = document_of(demo, room_id)["surfaces"]["wall-1"]["absorber"]
    assert (absorber["kind"], absorber["thickness_m"]) == ("porous", pytest.approx(0.06))
    page.get_by_role("button", name=re.compile("^Wall 2, ")).click()
    page.get_by_role("dialog").get_by_role("radio", name="Own figures").click()
    field = page.get_by_role("dialog").get_by_label("500 (Hz)")
    field.fill("1.5")
    field.press("Enter")
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("from 0 to 1.2")
    field.fill("0.45")
    field.press("Enter")
    page.get_by_role("dialog").get_by_role("button", name="Use these").click()
    until(lambda: (document_of(demo, room_id)["surfaces"].get("wall-2", {}).get("absorption") or {}).get("500"), 0.45)


def test_covers_and_furniture_come_go_and_change_the_sound(page, demo):
    room_id = new_room(page, demo.url, "Furnished", ("4", "3.5", "2.5"))
    expect(page.get_by_test_id("mark-boom").locator("[data-value]")).to_be_visible()
    bare = value_of(page, "boom")
    page.get_by_role("button", name=re.compile("^Furniture and people")).click()
    page.get_by_role("button", name=re.compile("^Add a piece")).click()
    page.get_by_role("option", name=re.compile("^sofa", re.I)).click()
    until(lambda: [f["kind"] for f in document_of(demo, room_id)["furnishings"]], ["sofa"])
    eventually(lambda: value_of(page, "boom") < bare, bool)
    page.get_by_role("button", name=re.compile("^Curtains, rugs")).click()
    page.get_by_role("button", name="Add a blanket").click()
    page.get_by_role("button", name="Add a rug").click()
    until(lambda: [c["kind"] for c in document_of(demo, room_id)["covers"]], ["blanket", "rug"])


def test_the_same_room_is_seen_four_ways(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/tape")
    page.get_by_role("radio", name="Walls", exact=True).click()
    walls = page.get_by_test_id("walls-view")
    for name in ("Wall 3", "Wall 7", "books", "3.62 m"):
        expect(walls).to_contain_text(name)
    page.get_by_role("radio", name="Section").click()
    section = page.get_by_test_id("section-view")
    expect(section).to_contain_text("2.41 m")
    mouth = section.get_by_role("button", name=re.compile("^Mouth height"))
    mouth.focus()
    page.keyboard.press("ArrowUp")
    until(lambda: document_of(demo, demo.room_id)["arrangements"][0]["performer"]["at"][2], pytest.approx(1.53))
    page.keyboard.press("Control+z")
    settled(page)
    page.get_by_role("radio", name="Flutter").click()
    page.get_by_role("radio", name="Floor", exact=True).click()
    expect(page.get_by_test_id("flutter")).to_contain_text("a second for")


def test_the_model_turns_and_is_loaded_only_when_asked_for(playwright, demo):
    browser = playwright.chromium.launch(
        executable_path=CHROMIUM,
        args=[*(f for f in FLAGS if f != "--disable-gpu"), "--use-angle=swiftshader", "--enable-unsafe-swiftshader"],
    )
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    scripts = []
    page.on("request", lambda r: scripts.append(r.url) if "solid-view" in r.url else None)
    page.goto(f"{demo.url}/rooms/{demo.room_id}/tape")
    expect(page.get_by_test_id("mark-bounce")).to_be_visible()
    assert scripts == []
    page.get_by_role("radio", name="Model").click()
    canvas = page.get_by_test_id("solid-view").locator("canvas")
    expect(canvas).to_be_visible(timeout=15_000)
    assert scripts
    pictures = [eventually(canvas.screenshot, lambda seen: len(seen) > 8_000)]  # more than an empty sheet
    page.get_by_test_id("solid-view").focus()
    for _ in range(4):
        page.keyboard.press("ArrowLeft")
    eventually(canvas.screenshot, lambda seen: seen != pictures[0])
    browser.close()


def test_a_note_is_chosen_from_the_list_and_painted(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/marks")
    page.get_by_role("radio", name="Room", exact=True).click()
    page.get_by_role("radio", name="Notes").click()
    page.get_by_role("button", name=re.compile("^Paint the swell of")).nth(2).click()
    expect(page.get_by_role("radio", name="Swell")).to_be_checked()
    expect(page.get_by_text(re.compile(r"Hz, rings"))).to_be_visible()
    expect(page.get_by_test_id("drawing").locator("circle").nth(200)).to_be_attached(timeout=10_000)
    floor = page.get_by_test_id("floor").bounding_box()
    for step in (0, 6):
        page.mouse.move(floor["x"] + floor["width"] * 0.45 + step, floor["y"] + floor["height"] * 0.4)
    expect(page.get_by_test_id("pointer-reading")).to_contain_text(re.compile(r"[A-G]#?\d \d+ Hz"))


def test_a_return_is_answered_with_something_soft(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/marks")
    loaded(page)
    page.get_by_role("radio", name="Room", exact=True).click()
    page.get_by_role("radio", name="Returns").click()
    expect(page.get_by_role("radio", name="Returns")).to_be_checked()
    before = value_of(page, "bounce")
    page.get_by_role("button", name=re.compile("^Try something soft where")).last.click()
    expect(page.get_by_test_id("status")).to_contain_text("trying")
    eventually(lambda: value_of(page, "bounce") > before, bool)
    page.keyboard.press("Control+z")
    settled(page)


def test_a_fit_is_shown_kept_said_and_taken_back(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/listen")
    page.get_by_role("button", name="Fit it to the readings").click()
    sheet = page.get_by_test_id("fit-sheet")
    expect(sheet).to_contain_text("What it does to the marks", timeout=30_000)
    page.get_by_role("button", name="Keep the fit").click()
    until(lambda: (document_of(demo, demo.room_id).get("fit") or {}).get("spread", 1) < 0.2, True)
    expect(page.get_by_text("Predictions fitted to your readings")).to_be_visible()
    page.get_by_role("button", name="Back to the catalogue").click()
    until(lambda: document_of(demo, demo.room_id).get("fit"), None)


def test_the_drawing_is_saved_as_svg_and_dxf(page, demo):
    page.goto(f"{demo.url}/rooms/{demo.room_id}/tape")
    page.get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Print or save the drawing").click()
    for button, start in (("Save SVG", b"<svg"), ("Save DXF", b"  0")):
        with page.expect_download() as file:
            page.get_by_role("button", name=button).click()
        content = Path(file.value.path()).read_bytes()
        assert start in content[:200]
        assert file.value.suggested_filename.startswith("over-the-bakery-plan")


def test_something_of_ones_own_is_hung_where_it_is_told_with_its_caution(page, demo):
    room_id = new_room(page, demo.url, "Own", ("4", "3.5", "2.5"))
    page.goto(f"{demo.url}/rooms/{room_id}/treat")
    page.get_by_role("button", name="Hang something of your own").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("look for cables and pipes")
    dialog.get_by_label("From the wall's first corner").fill("3.8")
    dialog.get_by_label("From the wall's first corner").press("Enter")
    expect(dialog.get_by_role("alert")).to_contain_text("past the end of the wall")
    expect(dialog.get_by_role("button", name="Hang it")).to_be_disabled()
    dialog.get_by_label("From the wall's first corner").fill("1.2")
    dialog.get_by_label("From the wall's first corner").press("Enter")
    dialog.get_by_role("button", name="Hang it").click()
    until(lambda: len(document_of(demo, room_id)["arrangements"][0]["treatments"]), 1)
    (hung,) = document_of(demo, room_id)["arrangements"][0]["treatments"]
    assert (hung["surface"], hung["x_m"], hung["absorber"]["thickness_m"]) == ("wall-1", 1.2, 0.1)


def test_places_are_added_by_guess_checked_and_recommended(page, demo):
    page.goto(f"{demo.url}/places/Hurdy-gurdy%20and%20alto")
    places = page.get_by_test_id("place")
    expect(places).to_have_count(3, timeout=30_000)
    expect(page.get_by_test_id("recommendation")).to_contain_text(re.compile("Attic|bakery|Cupboard"))
    page.get_by_role("button", name="Add a place").click()
    page.get_by_role("button", name="a bathroom").click()
    page.get_by_role("radio", name="Hard all round").click()
    page.get_by_role("button", name="Put it beside the others").click()
    expect(places).to_have_count(4, timeout=30_000)
    bathroom = places.filter(has_text="Bathroom")
    expect(bathroom).to_contain_text("a guess, nothing measured yet")
    bathroom.get_by_role("button", name="Three-minute check").click()
    for done, check in enumerate(("Clap", "Silence", "Spoken line")):
        page.get_by_role("button", name=re.compile(f"^{check}")).click()
        page.get_by_role("radio", name="Practice rig").click()
        page.get_by_role("button", name="Let the rig record").click()
        page.get_by_role("button", name="See what it says").click(timeout=30_000)
        expect(page.get_by_role("button", name=re.compile("^✓"))).to_have_count(done + 1, timeout=30_000)
    page.get_by_role("button", name="Back to the places").click()
    expect(bathroom).to_contain_text("marks measured (simulated)", timeout=30_000)
    room_id = bathroom.get_by_role("link").get_attribute("href").split("/")[2]
    page.goto("about:blank")  # nobody looks at a room that is taken away
    urllib.request.urlopen(urllib.request.Request(f"{demo.url}/api/rooms/{room_id}", method="DELETE"))
