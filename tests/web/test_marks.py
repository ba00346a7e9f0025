"""Marks: the distance on its curve, the map of places, aim, screens, listening, schools, and back to the same spot."""

import json
import re
import urllib.request

from playwright.sync_api import expect

from keenquiet.demo.scenario import attic, bakery_room

from .conftest import by_rig, eventually
from .test_floor import loaded, serious
from .test_journey import server_room, settled


def room_of(demo, document) -> str:
    asked = urllib.request.Request(
        f"{demo.url}/api/rooms", json.dumps({"document": document}).encode(), {"content-type": "application/json"}
    )
    with urllib.request.urlopen(asked) as answer:
        return json.load(answer)["id"]


def distance_m(demo, room_id) -> float:
    first = server_room(demo.url, room_id)["document"]["arrangements"][0]
    return sum((a - b) ** 2 for a, b in zip(first["performer"]["at"], first["microphone"]["at"], strict=True)) ** 0.5


def opened(page, demo, document, look=None):
    room_id = room_of(demo, document)
    page.goto(f"{demo.url}/rooms/{room_id}/marks")
    loaded(page)
    if look:
        page.get_by_role("radio", name=look, exact=True).click()
    return room_id


def test_the_distance_is_moved_on_its_curve_by_keys_pointer_and_pins_and_the_drawing_follows(page, demo):
    room_id = opened(page, demo, bakery_room())
    curve = page.get_by_role("slider", name="Distance to the microphone")
    expect(curve).to_be_visible()
    before = distance_m(demo, room_id)
    mic = page.get_by_role("button", name=re.compile("^mic:"))
    at = mic.bounding_box()
    curve.press("ArrowLeft")
    settled(page)
    eventually(lambda: distance_m(demo, room_id) < before * 0.97, bool)
    eventually(lambda: mic.bounding_box() != at, bool)
    # a pin is a usual piece of advice: pressed, the microphone stands there
    page.get_by_text("a foot", exact=True).click()
    eventually(lambda: abs(distance_m(demo, room_id) - 0.30) < 0.005, bool)
    box = curve.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.5, steps=5)
    page.mouse.up()
    eventually(lambda: distance_m(demo, room_id) > 0.35, bool)
    expect(page.get_by_test_id("distance-reads")).to_contain_text("dB over the room")
    # a part that sits deeper may stand further away, or the sentence says what is in the way
    page.get_by_role("radio", name="Ensemble", exact=True).click()
    expect(page.get_by_test_id("plot-distance")).to_contain_text(re.compile("all is as wanted|No distance gives"))
    assert serious(page) == []


def test_the_map_shows_places_and_the_best_can_be_tried_and_taken_back(page, demo):
    room_id = opened(page, demo, attic())
    best = page.get_by_test_id("best-places")
    expect(best.get_by_role("listitem")).to_have_count(3)
    best.get_by_role("button", name="Show the map").click()
    expect(page.get_by_test_id("place-map")).to_be_attached()
    page.get_by_role("radio", name="Hush", exact=True).click()
    expect(page).to_have_url(re.compile("map=hush"))
    page.get_by_role("radio", name="Seated", exact=True).click()
    expect(best.get_by_role("listitem").first).to_contain_text("predicted")
    best.get_by_role("button", name="Try").first.click()
    expect(best.get_by_text("Trying")).to_be_visible()
    settled(page)
    page.keyboard.press("Escape")
    settled(page)
    assert [a["id"] for a in server_room(demo.url, room_id)["document"]["arrangements"]] == ["as-is"]
    assert serious(page) == []


def test_aim_screens_listening_and_schools_answer_in_this_room(page, demo):
    opened(page, demo, attic(), "Aim")
    expect(page.get_by_test_id("aim")).to_contain_text("gathers")
    page.get_by_role("radio", name="Screens", exact=True).click()
    screens = page.get_by_test_id("screens")
    expect(screens.get_by_role("listitem")).to_have_count(9)
    expect(screens).to_contain_text("Leave a way out, and air")
    screens.get_by_role("button", name="Try").first.click()
    expect(screens).to_contain_text("screens stand here")
    page.keyboard.press("Escape")
    page.get_by_role("radio", name="Listening", exact=True).click()
    page.get_by_role("button", name="Search every wall").click()
    expect(page.get_by_test_id("listening").get_by_text(re.compile("^Look at the"))).to_have_count(4)
    page.get_by_role("radio", name="Two schools", exact=True).click()
    schools = page.get_by_test_id("schools")
    expect(schools.get_by_role("heading", name="A shield round the microphone, or cloth behind you?")).to_be_visible()
    expect(schools).to_contain_text("Too close to call here.")
    assert serious(page) == []


def test_the_spot_is_written_down_and_put_back_one_mark_at_a_time(page, demo):
    opened(page, demo, bakery_room())
    sheet = page.get_by_test_id("marks-sheet")
    with page.expect_download() as got:
        sheet.get_by_role("button", name="Marks sheet (PDF)").click()
    assert got.value.path().read_bytes().startswith(b"%PDF")
    assert got.value.suggested_filename.endswith("marks.pdf")
    sheet.get_by_role("button", name="Put it back").click()
    back = page.get_by_test_id("put-back")
    expect(back).to_contain_text("Mark 1 of 3")
    expect(back).to_contain_text("window wall")
    back.get_by_role("button", name="It stands").click()
    expect(back).to_contain_text("Microphone, capsule")
    back.get_by_role("button", name="It stands").click()
    expect(back).to_contain_text("Laptop")
    back.get_by_role("button", name="It stands").click()
    expect(back).to_contain_text("Now prove it")
    back.get_by_role("button", name="Sweep now").click()
    expect(page).to_have_url(re.compile("take/sweep"))


def test_a_line_into_both_sides_says_which_is_the_front(page, demo):
    room_id = opened(page, demo, bakery_room())
    for _ in range(2):
        page.goto(f"{demo.url}/rooms/{room_id}/listen")
        loaded(page)
        by_rig(page, "Spoken line")
    page.goto(f"{demo.url}/rooms/{room_id}/marks")
    loaded(page)
    page.get_by_role("button", name="Which side is the front?").click()
    # the rig spoke into the same side twice
    expect(page.get_by_test_id("front")).to_contain_text("Both sides hear alike", timeout=60_000)
    expect(page.get_by_test_id("proof-spoken")).to_contain_text("dB", timeout=60_000)


def test_a_laptop_is_put_in_moved_and_its_cable_keeps_the_map_within_reach(page, demo):
    room_id = opened(page, demo, attic(), "Reach")
    bench = page.get_by_test_id("reach")
    expect(bench).to_contain_text("No laptop stands here yet")
    expect(bench).to_contain_text("howl")
    page.get_by_role("button", name="Exact places").click()
    page.get_by_role("button", name="Put in laptop and interface").click()
    expect(bench).to_contain_text("meter")
    mark = page.get_by_role("button", name=re.compile("^laptop:"))
    before = mark.bounding_box()
    mark.press("Shift+ArrowLeft")
    eventually(lambda: mark.bounding_box()["x"] < before["x"], bool)
    cable = page.get_by_label("Microphone cable")
    cable.fill("1.2 m")
    cable.press("Enter")
    expect(bench).to_contain_text("short")
    settled(page)
    laptop = server_room(demo.url, room_id)["document"]["arrangements"][0]["laptop"]
    assert laptop["mic_cable_m"] == 1.2
    page.get_by_role("button", name="Take it out").click()
    expect(bench).to_contain_text("No laptop stands here yet")
    page.get_by_role("radio", name="Null", exact=True).click()
    expect(page.get_by_test_id("null-rays").locator("path").first).to_be_attached()
