"""Pictures of each main view from the demo data: `python tests/web/shots.py docs/screenshots`."""

import json
import shutil
import subprocess
import sys
import tempfile
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

sys.path.insert(0, str(Path(__file__).parents[2]))
from keenquiet.demo.load import load_demo
from tests.web.conftest import CHROMIUM, FLAGS, Server, by_rig


def try_duvet(page: Page) -> None:
    page.get_by_test_id("next-moves").get_by_role("listitem").filter(has_text="duvet").first.get_by_role(
        "button", name="Try"
    ).click()


def done_and_read(page: Page) -> None:
    page.get_by_role("button", name="I have done it").click()
    page.get_by_role("button", name="I have done it").wait_for(state="hidden", timeout=30_000)
    page.goto(page.url.replace("treat", "listen"))
    page.get_by_role("button", name="Put this").first.wait_for()
    for kind in ("Sweep", "Test take"):
        before = page.get_by_role("button", name="Put this").count()
        by_rig(page, kind)
        expect(page.get_by_role("button", name="Put this")).to_have_count(before + 1, timeout=30_000)
    page.goto(page.url.replace("listen", "ledger"))


def sweep(view: str):
    def choose(page: Page) -> None:
        page.get_by_role("button", name="Sweep Hangs").first.click()
        page.get_by_role("radio", name=view).click()

    return choose


def seen_as(name: str):
    def choose(page: Page) -> None:
        page.get_by_role("radio", name=name, exact=True).click()
        page.wait_for_timeout(2500)

    return choose


def planned(page: Page) -> None:
    page.get_by_role("radio", name="Plan for me", exact=True).click()
    page.get_by_role("button", name="Make plans").click()
    page.get_by_role("heading", name="All of the budget").wait_for(timeout=90_000)


def at_the_place(page: Page) -> None:
    page.get_by_role("button", name="Read: Sweep").click()
    page.get_by_role("radio", name="Practice rig").click()
    page.get_by_label("Moving during the recording").check()
    page.get_by_role("button", name="Let the rig record").click()
    page.get_by_test_id("big-verdict").wait_for(timeout=60_000)


def sheet_of(server: Server, room: str, target: Path) -> None:
    """The marks sheet's page as a picture, where poppler is there to draw it."""
    asked = urllib.request.urlopen(f"{server.url}/api/rooms/{room}")
    body = json.dumps({"document": json.load(asked)["document"]}).encode()
    page = urllib.request.Request(f"{server.url}/api/marks-sheet.pdf", body, {"content-type": "application/json"})
    with urllib.request.urlopen(page) as answer, tempfile.TemporaryDirectory() as folder:
        pdf = Path(folder) / "sheet.pdf"
        pdf.write_bytes(answer.read())
        if shutil.which("pdftoppm"):
            subprocess.run(["pdftoppm", "-r", "88", "-png", "-singlefile", pdf, target / "marks-sheet"], check=True)


def glide_place(page: Page) -> None:
    page.get_by_role("button", name="Read: Hum glide").click()


VIEWS = (
    ("brief", "brief", None),
    ("tape", "tape", None),
    ("listen", "listen", sweep("Hanging")),
    ("marks", "marks", None),
    ("place-map", "marks?layer=places", None),
    ("hush", "hush", None),
    ("take", "take", None),
    ("model", "marks", seen_as("Model")),
    ("plans", "treat", planned),
    ("treat", "treat", try_duvet),
)


def main(target: Path) -> None:
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        room = load_demo(server.app.state.data)
        browser = playwright.chromium.launch(
            executable_path=CHROMIUM,
            args=[
                *(f for f in FLAGS if f != "--disable-gpu"),
                "--use-angle=swiftshader",
                "--enable-unsafe-swiftshader",
            ],
        )

        def opened(theme: str = "light", size: tuple[int, int] = (1280, 800)) -> Page:
            context = browser.new_context(viewport={"width": size[0], "height": size[1]}, reduced_motion="reduce")
            context.add_init_script(
                f"localStorage.setItem('kq-theme', '{theme}'); localStorage.setItem('kq-units', 'metric')"
            )
            return context.new_page()

        def shoot(page: Page, name: str, path: str, act=None) -> None:
            page.goto(f"{server.url}{path}")
            page.wait_for_load_state("networkidle")
            page.wait_for_timeout(1200)
            if act:
                act(page)
            page.wait_for_load_state("networkidle")
            page.wait_for_timeout(1500)
            page.mouse.move(5, 5)
            page.screenshot(path=target / f"{name}.png")

        page = opened()
        shoot(page, "rooms", "/")
        shoot(
            page,
            "places",
            "/places/Hurdy-gurdy%20and%20alto",
            lambda p: p.get_by_test_id("place").first.wait_for(timeout=60_000),
        )
        shoot(opened("dark"), "marks-dark", f"/rooms/{room}/marks")
        shoot(opened(size=(390, 844)), "marks-phone", f"/rooms/{room}/marks")
        shoot(opened(size=(390, 844)), "measuring-phone", f"/rooms/{room}/listen", glide_place)
        sheet_of(server, room, target)
        for name, step, act in VIEWS:
            shoot(page, name, f"/rooms/{room}/{step}", act)
        done_and_read(page)
        page.wait_for_timeout(2000)
        page.screenshot(path=target / "ledger.png")
        shoot(page, "session", f"/rooms/{room}/session")
        shoot(page, "measuring", f"/rooms/{room}/listen", at_the_place)
        browser.close()
        server.stop()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
