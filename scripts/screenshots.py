"""Takes the pictures of docs/screenshots anew from a running demo with its own data.

Run: .venv/bin/python scripts/screenshots.py http://127.0.0.1:8080
"""

import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parent.parent
FOLDER = ROOT / "docs/screenshots"
SHEET = ROOT / "tests/browser/sheet.csv"


def _nothing(_: Page) -> None:
    return None


def _tape(page: Page) -> None:
    page.get_by_role("button", name="Tape").click()


def _held(page: Page) -> None:
    page.locator('[data-load] .places .item[data-name="rain jacket"]').focus()
    page.keyboard.press("Enter")
    page.wait_for_timeout(500)
    page.locator("#main").evaluate("(main) => main.scrollTo(0, 0)")


def _front(page: Page) -> None:
    page.get_by_role("heading", name="Clearance and conflicts").scroll_into_view_if_needed()
    page.locator("#main").evaluate("(main) => main.scrollBy(0, 520)")


def _packed(page: Page) -> None:
    page.get_by_role("button", name="Pack it for me").click()
    page.locator(".proposal").wait_for(timeout=60_000)
    page.wait_for_timeout(500)


def _chosen(page: Page) -> None:
    page.get_by_role("button", name="Choose the stops for me").click()
    page.get_by_role("button", name="Stop at every one").wait_for()
    page.wait_for_timeout(800)


def _printed(page: Page) -> None:
    page.locator(".pages img").first.wait_for()
    page.locator(".pages").scroll_into_view_if_needed()
    page.locator("#main").evaluate("(main) => main.scrollTo(0, document.querySelector('.pages').offsetTop - 60)")
    page.wait_for_timeout(2_500)


def _on_the_way(page: Page) -> None:
    page.get_by_label("I am at km").fill("412")
    page.get_by_role("button", name="Set").click()
    page.get_by_role("button", name="2 h later").click()


def _brought(page: Page) -> None:
    page.locator("#kit-file").set_input_files(SHEET)
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("heading", name="What are these?").wait_for()
    page.get_by_role("heading", name="What the columns are").scroll_into_view_if_needed()
    page.locator("#main").evaluate("(main) => main.scrollBy(0, 420)")


def _last_year(page: Page) -> None:
    page.goto("/plans")
    page.get_by_role("link", name="The Dunmarrow Half").first.click()
    page.goto(page.url.rsplit("/", 1)[0] + "/diary?tab=race")
    page.wait_for_timeout(1_500)


PICTURES: tuple[tuple[str, str, Callable[[Page], None], tuple[int, int]], ...] = (
    ("line", "line", _nothing, (1280, 800)),
    ("rhythm", "rhythm", _nothing, (1280, 800)),
    ("rig", "rig", _nothing, (1280, 800)),
    ("rig-front", "rig", _front, (1280, 800)),
    ("kit", "kit", _nothing, (1280, 800)),
    ("bring", "kit?tab=bring", _brought, (1280, 800)),
    ("weigh", "kit?tab=weigh", _nothing, (1280, 800)),
    ("cut", "kit?tab=cut", _nothing, (1280, 800)),
    ("night", "night", _nothing, (1280, 800)),
    ("charge", "charge", _nothing, (1280, 800)),
    ("mend", "mend", _nothing, (1280, 800)),
    ("load", "load", _held, (1280, 800)),
    ("pack", "load", _packed, (1280, 800)),
    ("inside", "load?tab=inside", _nothing, (1280, 800)),
    ("cards", "cards", _printed, (1280, 800)),
    ("diary", "diary", _last_year, (1280, 800)),
    ("phone", "do/pack/", _on_the_way, (390, 844)),
    ("tape-phone", "load", _tape, (390, 844)),
    ("supply", "supply?leg=11", _chosen, (1280, 800)),  # last, as it changes the plan
)


def main(address: str) -> None:
    """Take every picture."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        for name, room, prepare, (width, height) in PICTURES:
            context = browser.new_context(viewport={"width": width, "height": height}, base_url=address)
            page = context.new_page()
            page.goto("/")
            page.goto(page.url.rsplit("/", 1)[0] + "/" + room)
            page.wait_for_timeout(2_500)
            prepare(page)
            page.wait_for_timeout(400)
            page.screenshot(path=FOLDER / f"{name}.png")
            context.close()
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
