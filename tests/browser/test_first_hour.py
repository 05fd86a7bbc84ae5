"""The first hour of a new user: from strangers' files to a printed strip, counted in actions, once by keys alone."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.formats.test_gpx import course

pytestmark = pytest.mark.browser

PLACES = "".join(
    f'<wpt lat="{45 + 0.00045 * at:.5f}" lon="7.0005"><name>{name}</name><sym>{symbol}</sym><cmt>{words}</cmt></wpt>'
    for at, name, symbol, words in (
        (120, "Mart", "Shopping Center", "supermarket Mo-Sa 06:30-20:00"),
        (200, "Old spring", "", "must be filtered"),
        (290, "Village", "", "tap 24 h; bakery 6-13, closed Mon"),
        (380, "Hotel on the pass", "Lodging", "reception 15:00-22:00"),
        (470, "Station", "Gas Station", "24 h"),
    )
)
KIT = (
    "My kit list;;;\nitem;weight;qty;remarks\nrain shell;210 g;1;\nspare tube 2x;0,11 kg;2;\nplug kit;45;1;\n"
    "mini pump;98 g;1;\nbivvy;320g;1;\nheadlamp;86;1;\nTotal;;;\n"
)


class Counted:
    """Counts what a person does: clicks, entries, key presses."""

    def __init__(self, page: Page) -> None:
        self.page, self.actions, self.presses = page, 0, 0

    def click(self, role: str, name: str, exact: bool = False) -> None:
        self.actions += 1
        self.page.get_by_role(role, name=name, exact=exact).first.click()  # type: ignore[arg-type]

    def fill(self, label: str, value: str) -> None:
        self.actions += 1
        self.page.get_by_label(label, exact=True).fill(value)

    def choose(self, label: str, value: str) -> None:
        self.actions += 1
        self.page.get_by_label(label, exact=True).select_option(value)

    def file(self, label: str, name: str, data: bytes) -> None:
        self.actions += 1
        file = {"name": name, "mimeType": "application/octet-stream", "buffer": data}
        self.page.get_by_label(re.compile(label)).first.set_input_files(file)

    def press(self, key: str, times: int = 1) -> None:
        for _ in range(times):
            self.presses += 1
            self.page.keyboard.press(key)

    def tab_to(self, selector: str, most: int = 60) -> None:
        """Press Tab until something is focused."""
        for _ in range(most):
            if self.page.evaluate("s => document.activeElement && document.activeElement.matches(s)", selector):
                return
            self.press("Tab")
        pytest.fail(f"{selector} is not reached within {most} Tabs")

    def type(self, text: str) -> None:
        self.presses += len(text)
        self.page.keyboard.type(text)


def row_of(page: Page, name: str) -> Locator:
    """Return the row of a stop in Line."""
    return page.get_by_role("row").filter(has=page.get_by_role("link", name=name, exact=True)).last


def test_from_strangers_files_to_a_printed_strip_in_under_forty_actions(page: Page) -> None:
    page.goto("/plans")
    me = Counted(page)
    me.file("Course", "course.gpx", course(600, waypoints=PLACES))
    me.click("button", "Bring it in")
    me.fill("Name of the plan", "Forty actions")
    me.fill("Start, by the clock there", "2027-06-05 07:00")
    me.fill("You, in riding clothes", "78")
    me.fill("Power you hold all day", "150")
    me.choose("Kind of bike", "drop_rigid")
    me.choose("Bags", "half_frame")
    me.choose("Kit", "file")
    me.file("Its table", "kit.csv", KIT.encode())
    me.click("button", "Make a plan of it")
    # the table: its columns were found; six things come
    expect(page.get_by_text(re.compile("6 things would come in"))).to_be_visible()
    me.click("button", "Take it into the kit")
    expect(page.locator("#ledger .change")).to_contain_text("brought in 6 things")
    me.click("link", "Line")
    expect(row_of(page, "Mart")).to_contain_text("Mo-Sa 06:30-20:00")
    expect(row_of(page, "Mart")).to_contain_text("from the file")
    expect(row_of(page, "Old spring")).to_contain_text("water to be treated")
    expect(row_of(page, "Station")).to_contain_text("24 h")
    me.click("link", "Load")
    me.click("button", "Pack it for me")
    page.get_by_role("button", name=re.compile("Take the ticked moves")).wait_for(timeout=60_000)
    me.click("button", "Take the ticked moves")
    expect(page.locator("#ledger .change")).to_be_visible()
    me.click("link", "Cards")
    me.actions += 1
    with page.expect_download() as strip:
        page.get_by_role("link", name="Print (PDF)").first.click()
    assert strip.value.suggested_filename.endswith(".pdf")
    print(f"actions: {me.actions}")
    assert me.actions < 40


def test_the_same_by_keys_alone_in_under_a_hundred_and_fifty_presses(page: Page) -> None:
    page.goto("/plans")
    me = Counted(page)
    me.tab_to('a[href="#bring"]')
    me.press("Enter")
    me.tab_to("#import-file")
    me.file("Course", "course.gpx", course(590, waypoints=PLACES))  # the system's own dialog is not the program's
    me.tab_to(".import button")
    me.press("Enter")
    page.wait_for_url("**/uploads/**")
    me.tab_to("#begin-start")
    me.type("2027-06-05 07:00")
    me.press("Tab")
    me.type("78")
    me.press("Tab")
    me.type("150")
    me.press("Tab")
    me.type("drop")  # a list goes to what is typed
    me.tab_to("#begin-bags")
    me.type("half")
    me.tab_to("#begin-kit")
    me.type("from")
    me.press("Tab")
    me.file("Its table", "kit.csv", KIT.encode())
    me.press("Enter") if page.evaluate("document.activeElement.type === 'submit'") else me.tab_to(
        ".actions .btn-primary"
    )
    me.press("Enter")
    page.wait_for_url("**/kit?*tab=bring*")
    me.tab_to("button[name=take]", most=90)
    me.press("Enter")
    expect(page.locator("#ledger .change")).to_contain_text("brought in 6 things")
    me.press("g")
    me.press("o")
    page.wait_for_url("**/load*")
    me.press("g")
    me.press("p")
    page.wait_for_url("**/cards*")
    me.tab_to('#stage a[href*="cards.pdf"]', most=40)
    with page.expect_download() as strip:
        me.press("Enter")
    assert strip.value.suggested_filename.endswith(".pdf")
    print(f"presses: {me.presses}")
    assert me.presses < 150
