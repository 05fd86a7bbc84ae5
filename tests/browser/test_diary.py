"""The Diary in the browser: a replay watched and read in, a figure taken, the rest planned; the debrief by keys."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser
CHANGE = 60_000  # ms: the plan is ridden again


def test_a_race_is_replayed_read_in_and_its_rest_planned(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/diary?tab=race")
    page.get_by_label("Race number").fill("7")
    page.get_by_role("button", name="Start", exact=True).click()
    live = page.locator("#race-live")
    expect(live.locator("progress")).to_be_visible()
    # it goes on by itself: an hour a second
    expect(live.locator("[role=status]").first).to_contain_text(re.compile(r"\d+ km"), timeout=30_000)
    for _ in range(8):
        page.get_by_role("button", name="6 h on").click()
        page.wait_for_timeout(300)
    page.get_by_role("button", name="Stand still").click()
    expect(page.get_by_role("button", name="Stand still")).to_have_count(0)
    expect(live.locator(".told-stops")).to_contain_text("Kemmer")
    expect(live.locator("path.was")).to_have_count(1)
    page.get_by_role("button", name="Read in the computer's file").click()
    expect(page.locator("#messages")).to_contain_text("are read in", timeout=CHANGE)
    page.get_by_role("link", name="Rides and figures").click()
    take = page.get_by_role("button", name="Take sustained power")
    expect(take).to_be_visible(timeout=CHANGE)
    told = page.locator("table.figures tr").filter(has_text="sustained power").locator("td").nth(1).inner_text()
    take.click()
    expect(page.locator("table.figures tr").filter(has_text="sustained power")).to_contain_text("taken", timeout=CHANGE)
    page.goto(f"{own_plan}/rhythm")
    power = page.get_by_label("Power on the flat").input_value()
    assert float(power) == pytest.approx(float(told.split()[0]), abs=0.6)
    page.goto(f"{own_plan}/diary?tab=race")
    page.get_by_label("Lost, broken or gone").select_option(label="rag")
    page.get_by_role("button", name="Plan the rest").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Finish after", timeout=CHANGE)
    expect(page.locator("#bar")).to_contain_text("from km")
    expect(page.get_by_text("This is the rest of the race")).to_be_visible()


def test_the_debrief_goes_by_keys_alone(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/diary?tab=debrief")
    rows = page.locator("[data-thing]")
    rows.first.focus()
    for key in ("u", "n", "o", "l", "d"):
        page.keyboard.press(key)
    expect(rows.nth(0)).to_contain_text("used on some days")
    expect(rows.nth(1)).to_contain_text("not used")
    expect(rows.nth(2)).to_contain_text("used once")
    expect(rows.nth(3)).to_contain_text("lost")
    expect(rows.nth(3)).to_contain_text("used every day")
    expect(rows.nth(4)).to_be_focused()
    page.keyboard.press("ArrowUp")
    expect(rows.nth(3)).to_be_focused()
    # what was said just before the page is loaded anew is not lost, and not shown as it was
    page.reload()
    expect(rows.nth(2)).to_contain_text("used once", timeout=CHANGE)
    expect(page.locator("#stage")).to_contain_text("4 of ")
    page.get_by_role("button", name="Count it into the records").click()
    expect(page.locator("#messages")).to_contain_text("Counted", timeout=CHANGE)
    # a letter never undoes the page while a thing is in hand
    rows.nth(0).focus()
    page.keyboard.press("u")
    expect(page.locator("[data-debrief-told]")).to_contain_text("holds this race already")
    expect(page.locator("#stage")).to_contain_text("4 counted into")
    with page.expect_download() as report:
        page.get_by_role("link", name="The report (PDF)").click()
    assert report.value.suggested_filename.endswith("debrief.pdf")


def test_a_finding_is_mended_in_one_step(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/diary?tab=shakedown")
    page.get_by_label("What", exact=True).select_option("hard")
    page.get_by_label("About", exact=True).select_option(label="rain jacket")
    page.get_by_label("In words").fill("under the sleep kit")
    page.get_by_role("button", name="Write it down").click()
    row = page.locator(".shaken tbody tr").filter(has_text="under the sleep kit")
    expect(row).to_be_visible(timeout=CHANGE)
    expect(row.get_by_role("link", name="go there")).to_have_attribute("href", re.compile("/load.*rain-jacket"))
    row.get_by_role("combobox").select_option(label="nearer the mouth of its bag")
    row.get_by_role("button", name="Do it").click()
    expect(page.locator(".shaken tr.done")).to_be_visible(timeout=CHANGE)
    expect(page.locator("#messages")).to_contain_text("is at the mouth of")


@pytest.mark.parametrize("tab", ["notes", "race", "debrief", "rides", "shakedown", "since"])
def test_every_part_fits_a_phone(page: Page, own_plan: str, tab: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{own_plan}/diary?tab={tab}")
    expect(page.locator("#stage")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
