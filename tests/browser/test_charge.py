"""Charge in the browser: batteries open with their why, the rule is changed and the cheapest taken, prices stand by."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def part(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Parts of Charge").get_by_role("link", name=name, exact=True).click()
    expect(page.get_by_role("navigation", name="Parts of Charge").locator("[aria-current]")).to_have_text(name)


def test_a_battery_opens_with_its_why_and_the_picture_marks_the_lowest(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/charge")
    expect(page.locator(".charge-line.wide .level").first).to_be_visible()
    expect(page.locator(".charge-line.wide .least")).not_to_have_count(0)
    page.get_by_role("link", name="front light", exact=True).click()
    panel = page.locator(".panel[data-opened]")
    expect(panel).to_contain_text(re.compile(r"It draws low \d\.\d W, middle \d\.\d W, high \d\.\d W"))
    expect(panel).to_contain_text("It is lowest")
    panel.get_by_role("link", name="Close").click()
    expect(page.locator(".panel[data-opened]")).to_have_count(0)


def test_light_leads_and_sockets_tell_what_is_aboard(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/charge")
    part(page, "Light")
    expect(page.locator("#stage")).to_contain_text(re.compile(r"Second light: helmet light.*at hand"))
    part(page, "Leads")
    expect(page.locator(".leads-drawing.wide .feed").first).to_be_attached()
    expect(page.locator("#stage")).to_contain_text("No lead aboard reaches electronic gears")
    part(page, "Sockets")
    expect(page.locator(".socket-halt").first).to_contain_text("Wh go in")


def test_a_rule_that_cannot_be_is_refused_at_the_field_and_one_that_can_is_kept(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/charge?tab=rule")
    page.get_by_label("and comes off it at").fill("20")
    page.get_by_role("button", name="Charge so").click()
    expect(page.locator(".rule-form")).to_contain_text("is not above 30 %")
    page.get_by_label("and comes off it at").fill("80")
    page.get_by_role("button", name="Charge so").click()
    expect(page.locator("#ledger .change")).to_contain_text("changed how is charged")
    page.goto(own_plan + "/charge?tab=rule")
    expect(page.get_by_label("and comes off it at")).to_have_value("80")


def test_the_cheapest_rule_is_found_and_taken(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/charge?tab=rule")
    page.get_by_role("link", name="Find the cheapest rule").click()
    table = page.locator(".rules-table")
    expect(table.get_by_role("row")).to_have_count(3)
    expect(page.locator("#stage")).to_contain_text("No rule of any kind is under")
    page.get_by_role("button", name="Charge so").first.click()
    expect(page.locator("#ledger .change")).to_contain_text("changed how is charged")
    page.goto(own_plan + "/charge?tab=cheapest")
    expect(page.locator("#stage")).to_contain_text("No rule that was tried is cheaper")


def test_prices_stand_side_by_side_and_a_phone_is_not_wider_than_it_is(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/charge?tab=prices")
    rows = page.locator(".prices-table tbody tr")
    expect(rows).to_have_count(6)
    expect(rows.first).to_contain_text("As it is")
    expect(page.locator("#stage")).to_contain_text("a hub is cheaper from")
    page.set_viewport_size({"width": 390, "height": 844})
    for tab in ("", "?tab=light", "?tab=sockets", "?tab=leads", "?tab=rule", "?tab=prices"):
        page.goto(own_plan + "/charge" + tab)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
