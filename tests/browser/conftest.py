"""The real program, started as a rider starts it, and the real browser before it."""

import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from stonechat.demo.corvane import demo_plan
from stonechat.formats.plan_json import write_plan
from tests.programs import Program

CHROMIUM = "/usr/bin/chromium"
expect.set_options(timeout=15_000)  # the rest of the tests run beside the browser


class Running:
    """The program that the tests share; one that did not start, or died, is started anew for the next test."""

    def __init__(self, data_dir: Callable[[str], Path]) -> None:
        self._data_dir = data_dir
        self._program: Program | None = None

    def address(self) -> str:
        """Return the address of the running program."""
        if self._program is None or not self._program.is_alive():
            self._program = None
            self._program = Program(self._data_dir("program"))
        return self._program.address

    def end(self) -> None:
        """End it; it must go politely."""
        if self._program is not None:
            assert self._program.terminate() == 0


@pytest.fixture(scope="session")
def running(data_dir: Callable[[str], Path]) -> Iterator[Running]:
    """The program, started when the first test asks for it."""
    made = Running(data_dir)
    yield made
    made.end()


@pytest.fixture
def program(running: Running) -> str:
    """Address of the running program."""
    return running.address()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """The browser."""
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(
            executable_path=CHROMIUM,
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"],
        )
        yield made
        made.close()


class Watched:
    """Complaints of a page, each a fault."""

    def __init__(self, context: BrowserContext) -> None:
        self.complaints: list[str] = []
        context.on("console", lambda m: self.complaints.append(m.text) if m.type == "error" else None)
        context.on("weberror", lambda e: self.complaints.append(str(e.error)))


@pytest.fixture
def page(browser: Browser, program: str) -> Iterator[Page]:
    """A page at 1280x800; what it complains of fails the test, but for answers that are meant to be errors."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=program, accept_downloads=True)
    watched = Watched(context)
    yield context.new_page()
    context.close()
    meant = re.compile(r"the server responded with a status of 4\d\d|Response Status Error Code 4")
    assert [text for text in watched.complaints if not meant.search(text)] == []


def bring_in(page: Page, data: bytes, name: str = "course.gpx") -> None:
    """Send a file from the list of plans; a course is looked over then."""
    page.goto("/plans")
    page.get_by_label("Course (GPX, TCX, FIT, GeoJSON)").set_input_files(
        {"name": name, "mimeType": "application/octet-stream", "buffer": data}
    )
    page.get_by_role("button", name="Bring it in").click()


@pytest.fixture(scope="session")
def demo_json() -> bytes:
    """The demo plan as it is exported."""
    return write_plan(demo_plan())


@pytest.fixture
def own_plan(browser: Browser, program: str, demo_json: bytes) -> str:
    """Address of a plan of the test's own, without its room: a copy of the demo, brought in without a page."""
    context = browser.new_context(base_url=program)
    file = {"name": "plan.json", "mimeType": "application/json", "buffer": demo_json}
    answer = context.request.post("/plans", multipart={"file": file, "again": "yes"}, max_redirects=0)
    address = program + answer.headers["location"].split("?")[0].removesuffix("/line")
    context.close()
    return address
