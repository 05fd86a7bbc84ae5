"""Mend in the browser: a failure opens with its answers, spares stand by their worth, a leg moves where it breaks."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser


def test_a_failure_opens_with_what_answers_it_and_where_help_is(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend")
    expect(page.get_by_role("heading", level=1)).to_contain_text(re.compile(r"Failures cost [\d.]+ h on average"))
    expect(page.locator(".parts-drawing .mark")).to_have_count(10)  # a rigid frame has nothing to fail
    page.get_by_role("link", name="cut tyre of 3 to 6 mm").click()
    panel = page.locator(".panel[data-opened]")
    expect(panel.locator(".answers-table")).to_contain_text("boot and tube")
    expect(panel).to_contain_text(re.compile(r"a bike shop is reached in time|Nobody on the way"))
    panel.get_by_role("link", name="Close").click()
    expect(page.locator(".panel[data-opened]")).to_have_count(0)


def test_spares_wear_and_tools_have_their_parts(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=things")
    expect(page.locator(".worth-table tbody tr").first).to_contain_text("mini pump")
    page.goto(own_plan + "/mend?tab=wear")
    expect(page.locator(".wear-table")).to_contain_text("chain")
    expect(page.locator("#stage")).to_contain_text("wants lubricant on the way")


def test_where_it_breaks_follows_the_leg_in_hand(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=here&leg=0")
    expect(page.get_by_role("heading", name="If it breaks at 0 km")).to_be_visible()
    page.goto(own_plan + "/mend?tab=here&leg=5")
    expect(page.get_by_role("heading", name="If it breaks at 187 km")).to_be_visible()
    expect(page.locator(".here-table tbody tr")).not_to_have_count(0)
    page.set_viewport_size({"width": 390, "height": 844})
    for tab in ("", "?tab=things", "?tab=wear", "?tab=here"):
        page.goto(own_plan + "/mend" + tab)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
