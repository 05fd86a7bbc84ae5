"""The start command: its end, and what survives when it is killed."""

import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.conftest import Program

pytestmark = pytest.mark.browser


def servers(folder: Path) -> list[str]:
    """Return the database servers that run on a folder."""
    listed = subprocess.run(["ps", "-ww", "-eo", "args"], capture_output=True, text=True, check=True).stdout
    return [line for line in listed.splitlines() if str(folder) in line and "postgres" in line]


def test_data_survives_a_kill_and_ctrl_c_leaves_nothing_running(
    browser: Browser, data_dir: Callable[[str], Path]
) -> None:
    folder = data_dir("killed")
    first = Program(folder)
    page = browser.new_page()
    page.goto(first.address)
    page.goto(page.url.replace("/line", "/rig"))
    page.get_by_role("button", name="Take off bar pouch").click()
    expect(page.locator("#ledger .change")).to_contain_text("took off bar pouch")
    first.kill()
    second = Program(folder)
    page.goto(second.address)
    expect(page.get_by_role("button", name="Undo: took off bar pouch")).to_be_visible()
    page.close()
    assert servers(folder)
    assert second.interrupt() == 0
    assert servers(folder) == []
