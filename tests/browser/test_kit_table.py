"""A rider's own spreadsheet, from the file to a packed bike, by what a rider sees and does."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

SHEET = Path(__file__).parent / "sheet.csv"
ALL_BUT = 25  # actions beyond the import


class Hands:
    """Counts what a rider does."""

    def __init__(self) -> None:
        self.actions = 0

    def __call__(self, *done: None) -> None:
        self.actions += len(done)


def test_sixty_things_from_a_spreadsheet_are_known_placed_and_packed(page: Page, own_plan: str) -> None:
    did = Hands()
    page.goto(f"{own_plan}/kit")
    page.get_by_role("link", name="In and out").click()
    page.locator("#kit-file").set_input_files(SHEET)
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("What are these?")).to_be_visible()
    coming = re.search(r"(\d+) things? would come in", " ".join(page.locator("#stage").inner_text().split()))
    assert coming is not None and int(coming[1]) >= 60
    # what is not known is asked in one list
    asked = page.locator("ul.asked li")
    assert 1 <= asked.count() <= 6
    did(page.get_by_label("Regenjacke is").fill("rain jacket"))
    did(page.get_by_label("Replace the whole kit").check())
    did(page.get_by_role("button", name="Take it into the kit").click())
    expect(page.locator("#messages")).to_contain_text("added")
    page.get_by_role("link", name="Things", exact=True).click()
    did(page.get_by_role("link", name="Look at them").click())
    expect(page.get_by_text("things not shown")).to_be_visible()
    # two unknown ones are lucky charms, in one step
    did(page.get_by_label("Tick lucky stone").check(), page.get_by_label("Tick thingamajig").check())
    expect(page.get_by_text("2 ticked")).to_be_visible()
    did(page.get_by_label("What they are").fill("charm"), page.get_by_role("button", name="They are that").click())
    expect(page.get_by_label("Tick lucky stone")).to_have_count(0)
    page.get_by_role("link", name="Load").first.click()
    did(page.get_by_role("button", name="Pack it for me").click())
    take = page.get_by_role("button", name=re.compile("^Take (all|the|these|every)"))
    expect(take.first).to_be_visible(timeout=60_000)
    did(take.first.click())
    expect(page.get_by_text("without a place")).to_have_count(0)
    assert did.actions <= ALL_BUT
    # nobody packs a helmet
    page.goto(f"{own_plan}/load")
    outside = page.get_by_label("Worn, and fixed on the bike")
    for name in ("Helmet", "Cycling shoes", "Front light", "Bike computer"):
        expect(outside.get_by_text(name, exact=False).first).to_be_visible()


def test_a_run_of_rows_is_ticked_and_goes_home_in_one_step(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/kit?sort=name")
    boxes = page.locator("table.kit tbody input[type=checkbox]")
    boxes.nth(0).click()
    boxes.nth(3).click(modifiers=["Shift"])
    expect(page.get_by_text("4 ticked")).to_be_visible()
    page.get_by_label("Where they ride").select_option(label="left at home")
    page.get_by_role("button", name="Put there").click()
    expect(page.locator("#ledger .change")).to_contain_text("4 things to home")
    page.get_by_label("of", exact=True).select_option(label="left at home")
    page.get_by_role("button", name="Show", exact=True).click()
    expect(page).to_have_url(re.compile("show=home"))
    expect(page.locator("table.kit tbody tr:not(.faint)")).to_have_count(0)  # the answer is there: only those at home
    page.keyboard.press("u")
    expect(page.locator("#ledger").get_by_text("4 things to home")).to_have_count(0, timeout=60_000)


def test_what_a_thing_is_taken_for_is_one_click_from_what_else_it_may_be(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/kit?tab=new")
    page.get_by_label("Thing", exact=True).fill("pads")
    page.get_by_label("Mass each").fill("25")
    page.get_by_role("button", name="Keep the thing").click()
    page.get_by_role("link", name="pads", exact=True).click()
    expect(page.get_by_text("judged for nothing")).to_be_visible()
    page.get_by_role("button", name="It is: brake pads").click()
    expect(page.get_by_role("row", name=re.compile("pads brake pads"))).to_be_visible()
