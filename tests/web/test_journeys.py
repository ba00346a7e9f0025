"""Three journeys walked by presses alone, each on an empty folder: nothing stops them, nothing is refused, and a figure
that is seen in two places is the same.
"""

import re

import pytest
from playwright.sync_api import expect

from .conftest import CHROMIUM, FLAGS, Server, eventually, watch

MEASURING = "measuring-place"


class Walker:
    """A visitor who presses what is in sight, and counts it."""

    def __init__(self, page):
        self.page, self.presses = page, 0

    def press(self, name, role="button", within=None, first=False):
        """Press something by its name; it must be there and in use."""
        place = within or self.page
        found = place.get_by_role(role, name=name)
        target = found.first if first else found
        expect(target).to_be_enabled(timeout=60_000)
        target.click()
        self.presses += 1

    def choose(self, blank, option):
        """Fill a blank from its list."""
        self.press(re.compile(f"^{blank}"))
        self.press(re.compile(f"^{option}", re.I), role="option", first=True)

    def step(self, name):
        """Go to a step by its knot."""
        self.press(re.compile(f"^{name}"), role="link")
        expect(self.page.get_by_role("navigation", name="The path")).to_be_visible()

    def by_rig(self, *faults):
        """At the measuring place: let the rig record, and tell what it says."""
        expect(self.page.get_by_test_id(MEASURING)).to_be_visible()
        self.press("Practice rig", role="radio")
        for fault in faults:
            self.page.get_by_label(fault, exact=True).check()
            self.presses += 1
        self.press("Let the rig record")
        verdict = self.page.get_by_test_id("big-verdict")
        verdict.wait_for(timeout=60_000)
        return verdict.inner_text()

    def saved(self):
        expect(self.page.get_by_test_id("status")).to_have_text(re.compile(r"(^|· )saved$"), timeout=30_000)

    def mark(self, mark):
        """A mark's figure as shown, once it speaks of what is in sight."""
        expect(self.page.locator("[data-testid=marks][aria-busy=false]")).to_be_visible(timeout=30_000)
        shown = self.page.get_by_test_id(f"mark-{mark}").locator("[data-value]").first
        return float(shown.get_attribute("data-value"))


@pytest.fixture
def walk(playwright, tmp_path, request):
    """A walker in a browser of a country, before an empty folder."""
    wanted = {"locale": "en-GB", "width": 1280, "height": 800} | getattr(request, "param", {})
    server = Server(tmp_path / "empty").start()
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    context = browser.new_context(
        viewport={"width": wanted["width"], "height": wanted["height"]},
        locale=wanted["locale"],
        reduced_motion="reduce",
        accept_downloads=True,
    )
    troubles: list[str] = []
    watch(context, troubles, [])
    page = context.new_page()
    page.goto(server.url)
    yield Walker(page)
    browser.close()
    server.stop()
    assert troubles == []


def taped_out(walk, lengths):
    walk.press("Tape out a room")
    page = walk.page
    page.get_by_label("What do you call it?").fill("Box room")
    for label, text in zip(("Length", "Width", "Height"), lengths, strict=True):
        page.get_by_label(label, exact=True).fill(text)
    walk.press("Draw it")
    page.wait_for_url("**/tape")


def test_the_first_evening_from_an_empty_folder_to_a_proved_move(walk):
    page = walk.page
    expect(page.get_by_role("button", name="Try the demo room")).to_be_visible()
    expect(page.get_by_role("radio", name="£")).to_be_checked()  # guessed by the browser's country, in sight
    taped_out(walk, ("3.2", "2,6", "240 cm"))
    walk.press(re.compile("^Floor"))
    page.get_by_label("Search the catalogue").fill("laminate")
    walk.press(re.compile("^Parquet"), within=page.get_by_role("dialog"))
    walk.press("Use this")
    walk.press(re.compile("^Doors and windows"))
    walk.press("Add a door")
    walk.press("Add a window")
    walk.press(re.compile("^Furniture"))
    for piece in ("bed", "wardrobe", "desk"):
        walk.choose("Add a piece", piece)
    walk.saved()  # everything landed where it may stand
    expect(page.get_by_test_id("taken-back")).to_be_hidden()
    walk.step("Brief")
    walk.choose("Who or what", "violin")
    hour = page.get_by_label("You record at")
    hour.fill("8pm")
    hour.press("Enter")
    expect(hour).to_have_value("20:00")
    walk.choose("Kind of microphone", "A ribbon")
    expect(page.get_by_text("Phantom power off")).to_be_visible()  # the caution where the choice is made
    walk.step("Listen")
    walk.press(re.compile("now$"), within=page.get_by_test_id("next-reading"))
    walk.by_rig()
    walk.press("See what it says")
    # one decay, wherever it is told
    said = page.get_by_test_id("first-line")
    expect(said).to_contain_text("It hangs on for")
    hangs = re.search(r"for (\d\.\d\d) s", said.inner_text()).group(1)
    bounce = page.get_by_test_id("mark-bounce")
    walk.press("Why?", within=bounce)
    expect(bounce).to_contain_text(f"{hangs} s")
    before = walk.mark("bounce")
    walk.step("Treat")
    assert walk.mark("bounce") == before
    moves = page.get_by_test_id("next-moves")
    walk.press("Try", within=moves, first=True)
    promised = float(re.search(r"Bounce [+−](\d+\.\d)", moves.get_by_role("listitem").first.inner_text()).group(1))
    # what is tried starts from what was measured, and the change is added
    eventually(lambda: walk.mark("bounce"), lambda now: abs(now - before - promised) < 0.11)
    tried = walk.mark("bounce")
    walk.press("I have done it")
    eventually(lambda: walk.mark("bounce"), lambda now: abs(now - tried) < 0.06)
    prove = page.get_by_test_id("prove-it")
    walk.press(re.compile("^Prove it"), within=prove)
    walk.by_rig()
    walk.press("Back to Treat")
    learnt = page.get_by_test_id("learnt")
    expect(learnt).to_contain_text("Bounce:")
    expect(learnt).to_contain_text(re.compile("roved|Too small"))
    assert page.url.endswith("/treat")
    expect(moves.get_by_role("button", name="Try").first).to_be_visible(timeout=90_000)  # what is next
    walk.step("Ledger")
    expect(page.get_by_test_id("proof").first).to_contain_text("Bounce")
    assert walk.presses < 90


@pytest.mark.parametrize("walk", [{"locale": "en-US", "width": 390, "height": 844}], indirect=True)
def test_the_evening_before_a_session_on_a_phone(walk):
    page = walk.page
    expect(page.get_by_role("radio", name="Feet and inches")).to_be_checked()
    # a bare number is asked about where feet are meant as often as metres
    walk.press("Tape out a room")
    page.get_by_label("Length", exact=True).fill("3.30")
    expect(page.get_by_role("button", name="3.30 ft")).to_be_visible()
    walk.press("3.30 m")
    expect(page.get_by_label("Length", exact=True)).to_have_value("3.30 m")
    page.get_by_label("Width", exact=True).fill("7 10")
    page.get_by_label("Height", exact=True).fill("7 ft 10")
    walk.press("Draw it")
    page.wait_for_url("**/tape")
    walk.saved()
    walk.step("Marks")
    walk.press("How it is set")
    page.get_by_label("Gain dial").fill("2 o'clock")
    page.get_by_label("Gain dial").press("Enter")
    walk.saved()
    walk.step("Hush")
    walk.press("Note a noise")
    page.get_by_label("Name", exact=True).fill("Street")
    walk.press("Note it")
    walk.saved()
    walk.step("Session")
    walk.press("Put it back")
    for _ in range(2):
        walk.press("It stands")
    sheet = page.get_by_test_id("put-back")
    expect(sheet).to_contain_text("2 o'clock")  # what only the person knows stands with the marks
    walk.press("Say the line")
    walk.by_rig()
    walk.press("Back to Session")
    expect(page.get_by_test_id("learnt")).to_be_visible()
    walk.press("Thanks")
    assert walk.presses < 50


def test_after_a_disappointing_take(walk):
    page = walk.page
    walk.press("Try the demo room")
    page.wait_for_url("**/marks")
    expect(page.get_by_test_id("mark-bounce")).to_be_visible()
    walk.step("Take")
    walk.press("Read: Test take")
    said = walk.by_rig("Tops cut flat")
    walk.press("See what it says")
    first_line = page.get_by_test_id("first-line")
    expect(first_line).to_contain_text(re.compile("Keep parts|Play it again"), timeout=30_000)
    assert "simulated" in said
    choose = page.get_by_test_id("choose")
    walk.press("No", within=choose)
    expect(choose.get_by_role("button", name="No")).to_have_attribute("aria-pressed", "true")
    word = choose.get_by_label("A word about it")
    word.fill("too hot")
    word.press("Enter")
    walk.press("Read: Test take")
    walk.by_rig()
    walk.press("See what it says")
    expect(first_line).to_contain_text("Keep it", timeout=30_000)
    walk.press("Keep", within=choose)
    expect(choose.get_by_role("button", name="Keep")).to_have_attribute("aria-pressed", "true")
    assert walk.presses < 40


@pytest.mark.parametrize(
    ("step", "opens"),
    [
        ("Marks", ["Which side is the front?", "Speak into the front"]),
        ("Marks", ["Put it back", "It stands", "It stands", "Sweep now"]),
        ("Session", ["Put it back", "It stands", "It stands", "Say the line"]),
        ("Listen", ["Read: Hum glide"]),
        ("Take", ["Read: Spoken line"]),
    ],
)
def test_each_button_that_promises_a_reading_opens_the_measuring_place_and_comes_back(walk, step, opens):
    page = walk.page
    taped_out(walk, ("3.2", "2.6", "2.4"))
    walk.step(step)
    for name in opens:
        walk.press(name, first=True)
    expect(page.get_by_test_id(MEASURING)).to_be_visible()
    walk.press("Close")
    expect(page.get_by_test_id(MEASURING)).to_be_hidden()
    assert page.url.endswith(f"/{step.lower()}")
