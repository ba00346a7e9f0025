"""Treat: a plan within a budget, sheets held side by side, heard, made, done and proved."""

import re

from playwright.sync_api import expect

from keenquiet.demo.scenario import cupboard

from .conftest import by_rig, eventually
from .test_floor import loaded, serious
from .test_journey import server_room, settled
from .test_marks import room_of


def opened(page, demo, look):
    room_id = room_of(demo, cupboard())
    page.goto(f"{demo.url}/rooms/{room_id}/treat")
    loaded(page)
    page.get_by_role("radio", name=look, exact=True).click()
    return room_id


def test_a_plan_is_made_locked_kept_compared_tried_made_done_and_proved(page, demo):
    room_id = opened(page, demo, "Plan for me")
    page.goto(f"{demo.url}/rooms/{room_id}/listen")
    loaded(page)
    by_rig(page, "Sweep")
    page.goto(f"{demo.url}/rooms/{room_id}/treat")
    loaded(page)
    page.get_by_role("radio", name="Plan for me", exact=True).click()
    plan = page.get_by_test_id("plan")
    plan.get_by_role("button", name="Make plans").click()
    whole = plan.get_by_role("heading", name="All of the budget")
    expect(whole).to_be_visible(timeout=60_000)
    expect(plan).to_contain_text("of what the marks lack")
    # what is locked stays, the search goes on around it
    sheet = plan.locator("section").last
    sheet.get_by_role("button", name=re.compile("^Lock: ")).last.click()
    sheet.get_by_role("button", name="Search around it").click()
    expect(plan.get_by_role("button", name="Unlock all")).to_be_visible()
    expect(plan.get_by_role("heading", name="All of the budget")).to_be_visible(timeout=60_000)
    plan.get_by_role("button", name="Unlock all").click()
    plan.get_by_role("button", name="Make plans").click()
    expect(plan.get_by_role("heading", name="All of the budget")).to_be_visible(timeout=60_000)
    plan.locator("section").last.get_by_role("button", name="Keep as a sheet").click()
    expect(plan).to_contain_text("Kept under Sheets")  # and the plans stay in sight
    page.get_by_role("radio", name="Sheets", exact=True).click()
    sheets = page.get_by_test_id("sheets")
    expect(sheets.get_by_text("All of the budget")).to_be_visible()
    for box in sheets.get_by_role("checkbox").all():
        box.check()
    sheets.get_by_role("button", name="Compare 2").click()
    beside = page.get_by_role("dialog")
    expect(beside.get_by_text("To buy and make")).to_have_count(2)
    expect(beside.get_by_text(re.compile(r"€\d+, \d"))).to_have_count(2)
    beside.get_by_role("button", name="Close").click()
    sheets.get_by_role("button", name="Try", exact=True).click()
    expect(page.get_by_text("The drawing shows")).to_be_visible()
    page.get_by_role("radio", name="Make it", exact=True).click()
    made = page.get_by_test_id("make")
    with page.expect_download() as got:
        made.get_by_role("button", name="Print it (PDF)").click()
    assert got.value.path().read_bytes().startswith(b"%PDF")
    page.get_by_role("button", name="I have done it").click()
    prove = page.get_by_test_id("prove-it")
    expect(prove).to_contain_text("until then it is a promise")
    settled(page)
    hung = server_room(demo.url, room_id)["document"]["arrangements"][0]
    assert hung["treatments"] or hung["screens"]
    prove.get_by_role("button", name=re.compile("^Prove it")).click()
    page.get_by_role("radio", name="Practice rig").click()
    page.get_by_role("button", name="Let the rig record").click()
    page.get_by_role("button", name="Back to Treat").click(timeout=30_000)
    expect(page.get_by_test_id("learnt")).to_contain_text("Bounce")
    page.goto(f"{demo.url}/rooms/{room_id}/ledger")
    loaded(page)
    expect(page.get_by_test_id("proof").first).to_contain_text(re.compile("Proved|Partly|Too small"))


def test_a_line_is_heard_as_it_is_and_outdoors_without_stopping(page, demo):
    opened(page, demo, "Hear it")
    hear = page.get_by_test_id("hear")
    hear.get_by_role("button", name="Play", exact=True).click()
    expect(hear.get_by_role("button", name="Stop")).to_be_visible(timeout=30_000)
    hear.get_by_role("radio", name="Outdoors").click()
    expect(hear.get_by_role("button", name="Stop")).to_be_visible()
    hear.get_by_role("button", name="Stop").click()
    expect(hear.get_by_role("button", name="Play", exact=True)).to_be_visible()
    assert serious(page) == []


def test_the_shelf_offers_pieces_with_their_curves_and_what_stands_is_tried(page, demo):
    room_id = opened(page, demo, "Shelf")
    shelf = page.get_by_test_id("shelf")
    shelf.get_by_role("radio", name="To make").click()
    expect(shelf.get_by_role("img", name=re.compile("^Frame, 10 cm swallows"))).to_be_visible()
    shelf.get_by_role("button", name="Compare thicknesses").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("img")).to_have_count(4)
    page.keyboard.press("Escape")
    shelf.get_by_role("radio", name="At home").click()
    shelf.get_by_role("button", name=re.compile("^Blanket")).click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Keep cloth and foam away from heaters")
    dialog.get_by_role("button", name="Hang it").click()
    settled(page)
    eventually(lambda: len(server_room(demo.url, room_id)["document"]["arrangements"][0]["treatments"]) >= 1, bool)
    page.get_by_role("radio", name="Two schools", exact=True).click()
    expect(page.get_by_test_id("schools")).to_contain_text("Egg cartons, or nothing?", timeout=30_000)
    assert serious(page) == []
