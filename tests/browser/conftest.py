"""The real program, started as a rider starts it, and the real browser before it."""

import os
import re
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from stonechat.demo.corvane import demo_plan
from stonechat.formats.plan_json import write_plan

CHROMIUM = "/usr/bin/chromium"
expect.set_options(timeout=15_000)  # the rest of the tests run beside the browser


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Keep all tests of the browser in one process, so that one program and one browser do."""
    for item in items:
        if Path(__file__).parent in item.path.parents:
            item.add_marker(pytest.mark.xdist_group("browser"))


class Program:
    """A running `demo` with a data folder of its own."""

    def __init__(self, folder: Path) -> None:
        with (folder.parent / "program.err").open("a") as errors:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "stonechat", "demo", "--port", "0"],
                stdout=subprocess.PIPE,
                stderr=errors,
                text=True,
                start_new_session=True,
                env={**os.environ, "STONECHAT_DATA_DIR": str(folder), "PYTHONUNBUFFERED": "1"},
            )
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+", line)
        if found is None:
            self._process.kill()
            pytest.fail("The program did not start: " + line + (folder.parent / "program.err").read_text())
        self.address = found[0]

    def interrupt(self) -> int:
        """Press Ctrl-C and wait for the end."""
        os.killpg(self._process.pid, signal.SIGINT)
        return self._end()

    def terminate(self) -> int:
        """Ask the program alone to end."""
        self._process.terminate()
        return self._end()

    def kill(self) -> None:
        """Kill the program where it stands."""
        self._process.kill()
        self._end()

    def is_alive(self) -> bool:
        """Whether it still runs."""
        return self._process.poll() is None

    def _end(self) -> int:
        code = self._process.wait(timeout=40)
        assert self._process.stdout is not None
        self._process.stdout.close()
        return code


@pytest.fixture(scope="session")
def data_dir(tmp_path_factory: pytest.TempPathFactory) -> Callable[[str], Path]:
    """Make a data folder that the database's own user can reach."""

    def make(name: str) -> Path:
        folder = tmp_path_factory.mktemp(name)
        for parent in (folder, *folder.parents[:3]):
            parent.chmod(0o755)
        return folder / "data"

    return make


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
