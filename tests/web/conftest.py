"""Browser tests drive the built interface with Debian's Chromium over a real server and its own data folder."""

import socket
import threading
import time

import pytest
import uvicorn
from playwright.sync_api import expect, sync_playwright

from keenquiet.api.app import make_app
from keenquiet.api.pages import WEB
from keenquiet.demo.load import load_demo

CHROMIUM = "/usr/bin/chromium"
expect.set_options(timeout=20_000)  # a busy machine is slow, not wrong
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class Server:
    """The application in a thread, on a free port."""

    def __init__(self, folder):
        self.app = make_app(folder)
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.server = uvicorn.Server(uvicorn.Config(self.app, host="127.0.0.1", port=self.port, log_level="error"))
        self.thread = threading.Thread(target=self.server.run, daemon=True)

    def start(self):
        self.thread.start()
        while not self.server.started:
            time.sleep(0.05)
        return self

    def stop(self):
        self.server.should_exit = True
        self.thread.join(timeout=10)

    @property
    def url(self):
        return f"http://127.0.0.1:{self.port}"


@pytest.fixture(scope="session")
def demo(tmp_path_factory):
    assert (WEB / "index.html").is_file(), "the interface is not built: make setup"
    server = Server(tmp_path_factory.mktemp("demo")).start()
    server.room_id = load_demo(server.app.state.data)
    yield server
    server.stop()


@pytest.fixture(scope="session")
def playwright():
    with sync_playwright() as started:
        yield started


@pytest.fixture(scope="session")
def browser(playwright):
    opened = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    yield opened
    opened.close()


@pytest.fixture
def page(browser):
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, reduced_motion="reduce", accept_downloads=True
    )
    context.add_init_script("try { localStorage.setItem('kq-units', 'metric') } catch { /* about:blank */ }")
    opened = context.new_page()
    troubles = []
    opened.provoked = []
    watch(context, troubles, opened.provoked)
    yield opened
    context.close()
    assert troubles == []


def watch(context, troubles, provoked):
    """Notes every error of a browser's pages and every refusal that the test did not announce in `provoked`."""

    def refused(response):
        known = any(response.status == status and part in response.url for status, part in provoked)
        if response.status >= 400 and not known:
            troubles.append(f"{response.status} {response.request.method} {response.url}")

    def said(message):
        # the browser's own line for a refusal: the refusal itself is judged above
        if message.type == "error" and "Failed to load resource" not in message.text:
            troubles.append(message.text)

    context.on("weberror", lambda found: troubles.append(str(found.error)))
    context.on("console", said)
    context.on("response", refused)


def provoke(page, status, part):
    """From here on the test brings about refusals of this status from addresses with this part."""
    page.provoked.append((status, part))


def eventually(look, holds, within_s=30.0):
    """What is seen, once it holds; AssertionError with the last sight when it never does."""
    end = time.monotonic() + within_s
    while not holds(seen := look()):
        assert time.monotonic() < end, f"still {seen!r}"
        time.sleep(0.05)
    return seen


def press(button):
    """Until it has been taken: once, on a machine busy with three other test runs, a press was lost."""
    button.click()
    try:
        expect(button).to_be_hidden(timeout=8_000)
    except AssertionError:
        button.click()


def by_rig(page, kind, *faults):
    """Take one reading with the practice rig at the measuring place, and go back to the room."""
    page.get_by_role("button", name=f"Read: {kind}").click()
    page.get_by_role("radio", name="Practice rig").click()
    for fault in faults:
        page.get_by_label(fault).check()
    page.get_by_role("button", name="Let the rig record").click()
    verdict = page.get_by_test_id("big-verdict")
    verdict.wait_for(timeout=30_000)
    said = verdict.inner_text()
    page.get_by_role("button", name="See what it says").click()
    return said
