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
    expect(page.locator("#stage")).to_contain_text("wants it anew on the way")


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


def test_what_a_rider_knows_better_is_taken_and_given_back(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?open=chain")
    page.get_by_text("I know better").click()
    page.get_by_label("How often").fill("5000")
    page.get_by_role("button", name="Take my figures").click()
    expect(page.locator(".panel[data-opened]")).to_contain_text("5 times a km")
    page.get_by_label("How often").fill("0.3")
    page.get_by_role("button", name="Take my figures").click()
    expect(page.locator(".panel[data-opened]")).to_contain_text(
        "0.3 per 1,000 km, more on rough ground (as you know it)"
    )
    page.get_by_role("button", name="Take the usual ones").click()
    expect(page.locator(".panel[data-opened]")).to_contain_text("(estimate)")


def test_a_failure_of_ones_own_is_kept_or_refused_in_a_sentence(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=new")
    form = page.locator(".own-form")

    def send(name: str, often: str, loses: str, answers: str) -> None:
        form.get_by_label("What fails").fill(name)
        form.get_by_label("How often").fill(often)
        form.get_by_label("Loses, unanswered").fill(loses)
        form.get_by_label("Answered by").fill(answers)
        form.get_by_role("button", name="Keep it").click()

    for name, often, loses, answers, says in (
        ("dropper cable", "1", "60", "cable ties", "There is no dropper post on this bike"),
        ("zip of the frame bag", "1", "0", "", "neither loses time nor ends a ride"),
        ("zip of the frame bag", "4000", "30", "", "4 times a km"),
        ("zip of the frame bag", "1", "30", "magic wand", "is no thing that is known"),
    ):
        send(name, often, loses, answers)
        expect(form).to_contain_text(says)
        expect(form.get_by_label("What fails")).to_have_value(name)
    send("zip of the frame bag", "1", "30", "cable ties, 8 min, 70 %; spare strap, 5 min")
    panel = page.locator(".panel[data-opened]")
    expect(panel).to_contain_text("Zip of the frame bag")
    expect(panel.locator(".answers-table")).to_contain_text("spare strap")
    panel.get_by_role("button", name="Take it out").click()
    expect(page.locator(".failures-table")).not_to_contain_text("zip of the frame bag")


def test_the_age_of_parts_moves_the_km_of_the_swap(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=wear")
    page.get_by_label("Rear tyre ridden").fill("3000")
    page.get_by_role("button", name="Take them so").click()
    row = page.locator(".wear-table tbody tr").filter(has_text="rear tyre")
    expect(row).to_contain_text("new at the start it lasts")


def test_a_bolt_is_what_the_rider_says(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=wear")
    page.get_by_role("link", name="crank", exact=True).click()
    form = page.locator(".bolt-form")
    expect(form.get_by_label("Bolt")).to_have_value("crank")
    form.get_by_label("How many").fill("0")
    form.get_by_role("button", name="Keep it").click()
    expect(page.locator(".bolts-table")).not_to_contain_text("crank")
    expect(page.locator(".bolts-table")).to_contain_text("stem on steerer")


def test_any_km_may_be_asked_for_and_one_off_the_course_is_told(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=here")
    page.get_by_label("At km").fill("412.5")
    page.get_by_role("button", name="Look there").click()
    expect(page.get_by_role("heading", name=re.compile("If it breaks at 41[23]"))).to_be_visible()
    page.get_by_label("At km").fill("9999")
    page.get_by_role("button", name="Look there").click()
    expect(page.locator("body")).to_contain_text("is not on this course")


def test_load_counts_mends_where_asked_to(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/mend?tab=things")
    page.get_by_role("button", name="Let Load count").click()
    row = page.locator(".places-table tbody tr").filter(has_text="tyre levers")
    expect(row.locator("td.num").nth(1)).to_have_text("0.0")  # before, 0.3 by punctures that sealant closes
    wanted, counted = (float(row.locator("td.num").nth(k).inner_text()) for k in (0, 1))
    assert wanted > 0.0 and abs(wanted - counted) <= 0.06
