"""Night in the browser: a rest opens with its section and ways, the legs step, who runs cold says so."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def test_a_rest_opens_and_closes_and_the_picture_shows_what_is_worn(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/night")
    expect(page.locator(".dressed-line.wide .worn").first).to_be_visible()
    page.get_by_role("link", name="Night 4", exact=True).click()
    panel = page.locator(".panel[data-opened]")
    expect(panel.get_by_role("heading", level=2)).to_contain_text("Night 4")
    expect(panel.locator(".sleeper")).to_be_visible()
    expect(panel.locator(".sleeper")).to_contain_text(re.compile(r"makes \d+ W, loses \d+ W"))
    expect(panel.locator(".ways-table")).to_contain_text("a mat with R 1 more")
    panel.get_by_role("link", name="Close").click()
    expect(page.locator(".panel[data-opened]")).to_have_count(0)


def test_who_runs_cold_sees_margins_shrink_and_undo_brings_them_back(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/night")
    row = page.locator(".rests tr", has=page.get_by_role("link", name="Night 2", exact=True))
    before = row.inner_text()
    page.get_by_label("You run cold by").fill("5")
    page.get_by_role("button", name="Reckon so").click()
    expect(page.locator("#ledger .change")).to_contain_text("said how cold you run")
    expect(row).not_to_have_text(before)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("You run cold by")).to_have_value("0")


def test_the_letter_n_goes_to_night_and_the_current_leg_is_marked(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/line?leg=5")
    page.keyboard.press("g")
    page.keyboard.press("n")
    page.wait_for_url(re.compile("/night"))
    expect(page.get_by_role("heading", level=1)).to_contain_text("Riding down to")
    expect(page.locator(".dressed-line.wide .now")).to_have_count(1)


def test_a_phone_shows_the_narrow_picture(page: Page, own_plan: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(own_plan + "/night")
    expect(page.locator(".dressed-line.narrow")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    for room in ("charge", "cards", "line"):
        page.goto(f"{own_plan}/{room}")
        expect(page.locator(".bar .rooms a[aria-current]")).to_be_in_viewport(ratio=0.95)


def test_a_place_of_the_ladder_opens_with_what_each_zone_needs(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/night")
    page.locator(".changes-table a").nth(3).click()
    table = page.locator(".stretch-table")
    expect(table.get_by_role("row")).to_have_count(6)  # head and five zones
    expect(table).to_contain_text("clo")
    page.locator(".panel[data-opened]").get_by_role("link", name="Close").click()
    expect(table).to_have_count(0)
