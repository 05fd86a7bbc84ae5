"""A page whose database or program goes away says so, keeps what was asked, and goes on by itself."""

import os
import re
import signal
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.programs import Program

WAIT_MS = 60_000
ENDS = {"Ostrel", "Corvane gate"}  # the stops nearest to start and finish


@pytest.fixture(scope="module")
def folder(data_dir: Callable[[str], Path]) -> Path:
    """A data folder for one program after the other."""
    return data_dir("mortal")


@pytest.fixture
def mortal(folder: Path) -> Iterator[Program]:
    """A program that may be killed."""
    made = Program(folder)
    yield made
    if made.is_alive():
        made.kill()


@pytest.fixture
def room(browser: Browser, mortal: Program) -> Iterator[Page]:
    """The demo's first room in that program."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=mortal.address)
    page = context.new_page()
    page.goto("/")
    page.get_by_text("The course itself").click()
    yield page
    context.close()


def first_stop(room: Page) -> str:
    """Name of the first stop; which it is depends on which way round the course is ridden."""
    words = room.locator("#tape .knot").nth(1).inner_text()
    return next(name for name in ENDS if name in words)


def test_what_is_asked_while_the_database_is_away_is_done_when_it_is_back(room: Page, mortal: Program) -> None:
    (turned,) = ENDS - {first_stop(room)}
    os.kill(mortal.server(), signal.SIGKILL)
    room.get_by_role("button", name="Turn it round").click()
    expect(room.locator("#tape .knot").nth(1)).to_contain_text(turned, timeout=WAIT_MS)
    room.reload()
    expect(room.locator("#tape .knot").nth(1)).to_contain_text(turned)

    os.kill(mortal.server(), signal.SIGKILL)  # and a page that is asked for then comes by itself
    room.goto("/plans")
    expect(room.get_by_role("heading", level=1)).to_contain_text(re.compile("plans", re.I), timeout=WAIT_MS)


def test_a_page_whose_program_was_stopped_goes_on_when_it_is_started_again(room: Page, mortal: Program) -> None:
    as_it_was = first_stop(room)
    port = int(mortal.address.rsplit(":", 1)[1])
    mortal.terminate()
    room.get_by_role("button", name="Turn it round").click()
    expect(room.get_by_text("The program does not answer.")).to_be_visible()
    again = Program(mortal.folder, port=port)
    try:
        assert again.address == mortal.address
        expect(room.get_by_text("this is what is there now")).to_be_visible(timeout=WAIT_MS)
        expect(room.locator("#tape .knot").nth(1)).to_contain_text(as_it_was)
    finally:
        again.terminate()
