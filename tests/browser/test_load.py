"""By hand against the solver, in the browser: several at once, swaps, stop, refuse, what if, the order inside a bag."""

import json
import re

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

WANTED = {"phone", "rain-jacket", "inner-tube", "leg-warmers", "wind-gilet", "long-gloves"}


@pytest.fixture
def light_plan(browser: Browser, program: str, demo_json: bytes) -> str:
    """Address of a copy of the demo with every third thing left out, so that a proof takes about a second."""
    plan = json.loads(demo_json)
    plan["items"] = [i for k, i in enumerate(plan["items"]) if k % 3 or i["worn"] or i["holds"] or i["id"] in WANTED]
    kept = {item["id"] for item in plan["items"]}
    for variant in plan["variants"]:
        variant["places"] = {key: place for key, place in variant["places"].items() if key in kept}
    context = browser.new_context(base_url=program)
    file = {"name": "plan.json", "mimeType": "application/json", "buffer": json.dumps(plan).encode()}
    answer = context.request.post("/plans", multipart={"file": file, "again": "yes"}, max_redirects=0)
    address = program + answer.headers["location"].split("?")[0].removesuffix("/line")
    context.close()
    return address


def item(page: Page, name: str) -> Locator:
    return page.locator(f'.item[data-name="{name}"]')


def carrier(page: Page, name: str) -> Locator:
    return page.locator(f'section.place[aria-label="{name}"]')


def packed(page: Page, address: str) -> Locator:
    page.goto(address + "/load")
    page.get_by_role("button", name="Pack it for me").click()
    proposal = page.locator(".proposal")
    expect(proposal).to_contain_text("none can be better than", timeout=60_000)
    return proposal


def test_several_are_picked_and_moved_and_two_are_swapped_by_keys(page: Page, light_plan: str) -> None:
    page.goto(light_plan + "/load")
    for name in ("wind gilet", "long gloves"):
        item(page, name).focus()
        page.keyboard.press("x")
    expect(page.locator("#holding")).to_contain_text("2 picked")
    letter = carrier(page, "jersey pockets").get_attribute("data-key")
    page.keyboard.press("m")
    expect(page.locator("#holding")).to_contain_text("Move 2 things")
    expect(page.locator('[data-cost="jersey"]')).to_have_text(re.compile(r"^[+−±]\d+:\d\d min"))
    page.keyboard.press(letter or "")
    expect(page.locator("#ledger .change")).to_contain_text("moved 2 things")
    expect(carrier(page, "jersey pockets").get_by_text("wind gilet")).to_be_attached()
    expect(carrier(page, "jersey pockets").get_by_text("long gloves")).to_be_attached()
    there = item(page, "phone").get_attribute("data-place")
    for name in ("phone", "wind gilet"):
        item(page, name).click(modifiers=["ControlOrMeta"])
    page.keyboard.press("s")
    expect(page.locator("#ledger .change")).to_contain_text("swapped phone and wind gilet")
    expect(item(page, "wind gilet")).to_have_attribute("data-place", there or "")
    page.keyboard.press("u")
    expect(item(page, "phone")).to_have_attribute("data-place", there or "")


def test_what_a_carrier_holds_is_dragged_to_another_one_on_the_drawing(page: Page, light_plan: str) -> None:
    page.goto(light_plan + "/load")
    held = carrier(page, "bar pouch").locator(".item").count()
    start = page.locator('svg.rig [data-carrier="pouch"] .edge').bounding_box()
    end = page.locator('svg.rig [data-carrier="seat"] .edge').bounding_box()
    assert start and end and held > 1
    page.mouse.move(start["x"] + start["width"] / 2, start["y"] + start["height"] / 2)
    page.mouse.down()
    page.mouse.move(start["x"] - 30, start["y"] - 20, steps=3)
    expect(page.locator("#holding")).to_contain_text(f"{held} things: choose their place")
    page.mouse.move(end["x"] + end["width"] * 0.5, end["y"] + end["height"] * 0.5, steps=4)
    page.mouse.up()
    expect(page.locator("#ledger .change")).to_contain_text(f"moved {held} things")
    expect(carrier(page, "bar pouch").locator(".item")).to_have_count(0)
    page.keyboard.press("u")
    expect(carrier(page, "bar pouch").locator(".item")).to_have_count(held)


def test_a_refused_move_is_held_and_all_else_packed_anew_then_taken_and_undone(page: Page, light_plan: str) -> None:
    proposal = packed(page, light_plan)
    box = proposal.get_by_role("checkbox").nth(0)
    name = (box.get_attribute("aria-label") or "").removeprefix("Move ")
    box.uncheck()
    proposal.get_by_role("button", name="Refuse the unticked, pack again").click()
    expect(page.locator(".proposal")).to_contain_text(f"Held where they are: {name}", timeout=60_000)
    expect(page.get_by_role("checkbox", name=f"Move {name}", exact=True)).to_have_count(0)
    here = item(page, name).get_attribute("data-place")
    page.get_by_role("button", name="Take the ticked moves").click()
    expect(page.locator("#ledger .change")).to_contain_text("packed for me")
    expect(item(page, name)).to_have_attribute("data-place", here or "")
    page.keyboard.press("u")
    expect(page.get_by_role("button", name=re.compile("Redo: packed for me"))).to_be_visible()


def test_a_solve_is_stopped_and_the_load_is_as_it_was(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/load")
    page.get_by_role("button", name="Pack it for me").click()
    stop = page.get_by_role("button", name="Take what there is")
    expect(page.locator("#pack")).to_contain_text("Packing")
    stop.click()
    expect(page.locator(".proposal")).to_be_visible(timeout=60_000)
    expect(page.locator("#ledger .change")).to_have_count(0)


def test_what_if_puts_the_new_optimum_beside_the_old(page: Page, light_plan: str) -> None:
    page.goto(light_plan + "/load?tab=whatif")
    page.get_by_role("button", name="Try it").click()
    expect(page.get_by_text("Nothing is tried")).to_be_visible()
    page.get_by_label("A thing", exact=True).select_option(label="rain jacket")
    page.get_by_label("must ride in").select_option(label="half frame bag")
    page.get_by_role("button", name="Try it").click()
    expect(page.get_by_role("heading", name="rain jacket in half frame bag")).to_be_visible()
    row = page.get_by_role("row", name=re.compile("^as you ask"))
    expect(row).to_be_visible(timeout=90_000)
    difference = page.get_by_role("row", name=re.compile("^difference")).locator("strong")
    expect(difference).to_have_text(re.compile(r"^[+−±]\d+:\d\d$"))


def test_an_order_of_ones_own_costs_digging_and_is_dropped_again(page: Page, light_plan: str) -> None:
    page.goto(light_plan + "/load?tab=inside")
    bag = page.locator('section.bag[aria-label="seat pack"]')
    first, second = (bag.locator("li .name").nth(k).inner_text() for k in (0, 1))
    bag.get_by_role("button", name=f"{first} deeper").click()
    expect(bag.locator("li .name").nth(0)).to_have_text(second)
    expect(bag.locator("h2")).to_contain_text("your order; best")
    with page.expect_response("**/carriers/seat/order"):
        bag.locator("li").nth(0).drag_to(bag.locator("li").nth(2), target_position={"x": 20, "y": 20})
    expect(bag.locator("li .name").nth(0)).to_have_text(first)
    page.get_by_role("button", name="Best order in seat pack").click()
    expect(bag.locator("h2")).not_to_contain_text("your order")


def test_two_pins_that_contradict_are_said_and_a_way_out_is_taken(page: Page, light_plan: str) -> None:
    page.goto(light_plan + "/load")
    for name in ("inner tube", "leg warmers"):  # 0.9 l in 0.8 l
        page.get_by_label("Thing", exact=True).select_option(label=name)
        page.get_by_label("To", exact=True).select_option(label="top-tube bag, rear")
        page.get_by_role("button", name="Move it", exact=True).click()
        expect(page.locator("#ledger .change")).to_contain_text(f"{name} to top-tube bag, rear")
        page.get_by_label("Thing", exact=True).select_option(label=name)
        page.get_by_role("button", name="Pin it, or let it go").click()
        expect(item(page, name)).to_contain_text("pinned")
        expect(page.locator("#ledger .change")).to_contain_text(f"pinned {name}")
    page.get_by_role("button", name="Pack it for me").click()
    expect(page.get_by_role("heading", name="No plan fits")).to_be_visible(timeout=60_000)
    expect(page.locator(".proposal")).to_contain_text("inner tube is pinned in top-tube bag, rear.")
    page.locator(".ways").get_by_role("button").first.click()
    expect(page.locator("#ledger .change")).to_contain_text("let ")


def test_a_wish_is_kept_and_a_second_tab_cannot_pack_at_once(page: Page, own_plan: str) -> None:
    page.goto(own_plan + "/load")
    page.get_by_text("What the packing may decide").click()
    page.get_by_label(re.compile("sets ride together")).check()
    page.get_by_label("Room kept free in").select_option(label="seat pack")
    page.get_by_role("button", name="Keep these wishes").click()
    expect(page.locator(".wishes summary")).to_contain_text("sets together; 0.5 l free in seat pack")
    other = page.context.new_page()
    other.goto(own_plan + "/load")
    page.get_by_role("button", name="Pack it for me").click()
    expect(page.locator("#pack")).to_contain_text("Packing")
    other.get_by_role("button", name="Pack it for me").click()
    expect(other.get_by_text("is being packed already")).to_be_visible()
    expect(page.locator(".proposal")).to_be_visible(timeout=60_000)
