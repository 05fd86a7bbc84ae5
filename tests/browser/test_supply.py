"""Supply in the browser: choose the stops, ride past one, wish another, step through the legs, undo."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def supply(page: Page, plan: str) -> None:
    page.goto(plan + "/supply")


def minutes(page: Page) -> float:
    """Return the hours of the finish in the ledger, in minutes."""
    text = page.locator(".ledger").inner_text()
    found = re.search(r"(\d+) h (\d+) ±", text)
    assert found is not None, text
    return 60.0 * int(found[1]) + int(found[2])


def test_stops_are_chosen_and_one_is_ridden_past_and_stopped_at_again(page: Page, own_plan: str) -> None:
    supply(page, own_plan)
    expect(page.get_by_role("heading", level=1)).to_contain_text("26 stops")
    before = minutes(page)
    page.get_by_role("button", name="Choose the stops for me").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("ride past")
    assert minutes(page) < before - 60.0
    expect(page.locator("#tape .knot.passed").first).to_contain_text("ride past")
    row = page.locator(".supply-table tr", has=page.get_by_role("link", name="Kemmer", exact=True))
    expect(row).not_to_contain_text("ride past")
    row.get_by_role("link", name="Kemmer", exact=True).click()
    page.get_by_role("button", name=re.compile("^Ride past")).click()
    expect(page.get_by_role("heading", name="What you wish")).to_be_visible()
    expect(page.locator(".wishes-list")).to_contain_text("Kemmer: ride past")
    expect(row).to_contain_text("ride past")
    page.locator(".wishes-list").get_by_role("button", name="As is best").click()
    expect(page.get_by_role("heading", name="What you wish")).to_have_count(0)
    expect(row).not_to_contain_text("ride past")


def test_an_amount_that_is_wished_is_on_tape_and_picture_and_is_undone(page: Page, own_plan: str) -> None:
    supply(page, own_plan)
    page.get_by_role("button", name="Choose the stops for me").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("ride past")
    page.locator(".supply-table").get_by_role("link", name="Sarnow", exact=True).click()
    page.get_by_label("Water to leave with").fill("3.1 l")
    page.get_by_role("button", name="Leave with this").click()
    expect(page.locator("#tape .knot", has_text="Sarnow").first).to_contain_text("3.1 l")
    expect(page.locator(".supply-line.wide a[aria-label^='Sarnow: 3.1 l']")).to_have_count(1)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".supply-line.wide a[aria-label^='Sarnow: 3.1 l']")).to_have_count(0)


def test_a_stop_of_the_picture_opens_with_its_reckoning(page: Page, own_plan: str) -> None:
    supply(page, own_plan)
    page.locator(".supply-line.wide a[aria-label^='Mirrel'] .knot").first.click()
    panel = page.locator(".stop-panel")
    expect(panel.get_by_role("heading", name="Mirrel")).to_be_visible()
    expect(panel).to_contain_text(re.compile(r"\d+ km to .+ is \d+ h \d\d at your pace, 0\.\d\d l/h"))
    page.get_by_label("Water to leave with").fill("much")
    page.get_by_role("button", name="Leave with this").click()
    expect(page.locator(".stop-panel")).to_contain_text("much")


def test_what_a_shop_sells_is_mended_and_bought_and_a_food_is_bought_by_hand(page: Page, own_plan: str) -> None:
    supply(page, own_plan)
    page.get_by_role("link", name="What is sold").click()
    expect(page.get_by_role("heading", name="What is sold")).to_be_visible()
    page.get_by_role("link", name="A food of your own").click()
    for label, value in (("Food", "lard cake"), ("Energy", "720"), ("By volume", "700"), ("Tired of it after", "30")):
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_role("button", name="Keep the food").click()
    expect(page.locator("#ledger .change")).to_contain_text("know lard cake")
    row = page.locator("table.shelves tr", has=page.get_by_role("link", name="lard cake"))
    expect(row).to_contain_text("720")
    expect(row.get_by_label("lard cake: before the start")).to_be_checked()
    row.get_by_label("lard cake: town").check()
    page.get_by_role("button", name="Sold so").click()
    expect(page.locator("#ledger .change")).to_contain_text("set what places sell")
    expect(row.get_by_label("lard cake: town")).to_be_checked()
    page.locator(".supply-table").get_by_role("link", name="Kemmer", exact=True).click()
    panel = page.locator(".stop-panel")
    expect(panel).to_contain_text("lard cake")
    panel.get_by_label("Food to buy here").select_option(label="chocolate")
    panel.get_by_label("How many kcal of it").fill("1 200")
    panel.get_by_role("button", name="Buy this here").click()
    expect(panel).to_contain_text("In any case: chocolate")
    panel.get_by_role("button", name="Leave it out").click()
    expect(page.locator(".stop-panel")).not_to_contain_text("In any case")


def test_other_starts_are_tried_where_water_is_short(page: Page, own_plan: str) -> None:
    supply(page, own_plan)
    page.get_by_role("button", name="Choose the stops for me").click()
    page.get_by_role("link", name="Try other starts").click()
    table = page.locator("table", has=page.get_by_role("columnheader", name="Water short"))
    expect(table.get_by_role("row")).to_have_count(8, timeout=60_000)
    expect(table).to_contain_text("as planned")
    page.get_by_role("link", name="Close").click()
    expect(table).to_have_count(0)


def test_a_move_by_hand_holds_from_a_stop_on_and_is_on_its_list(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/load?leg=5")
    page.wait_for_load_state("networkidle")  # a click while the page still settles beside other tests is lost
    page.get_by_label("Moves by hand hold").select_option(label="from Kemmer on")
    page.locator("#move-item").select_option(label="neck tube")
    page.locator("#move-place").select_option(label="seat pack")
    expect(page.locator("#move-item")).to_have_value("neck-tube")
    page.get_by_role("button", name="Move it").click()
    expect(page.locator("#ledger .change")).to_contain_text("neck tube to seat pack from Kemmer on")
    expect(page.get_by_label("seat pack").get_by_text("neck tube").first).to_be_visible()
    page.goto(f"{own_plan}/supply?open=kemmer")
    expect(page.locator(".stop-panel")).to_contain_text("Repack: neck tube into seat pack")
    page.goto(f"{own_plan}/load?leg=4")
    expect(page.get_by_label("half frame bag").get_by_text("neck tube").first).to_be_visible()
