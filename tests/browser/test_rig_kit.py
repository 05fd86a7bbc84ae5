"""Rig and Kit as a rider uses them: a table mapped, a weigh-in by keys, a clearance that closes as travel grows."""

import re

from playwright.sync_api import Page, expect

CHOSEN = re.compile(r"[1-9]\d* g")


def open_tab(page: Page, own_plan: str, tab: str) -> None:
    page.goto(f"{own_plan}/kit")
    link = page.get_by_role("link", name=tab, exact=True)
    link.click()
    expect(link).to_have_attribute("aria-current", "page")


def test_the_weigh_in_goes_from_thing_to_thing_by_keys_alone(page: Page, own_plan: str) -> None:
    open_tab(page, own_plan, "Weigh-in")
    heading = page.get_by_role("heading", level=1)
    before = int(re.search(r"(\d+) of", heading.inner_text())[1])  # type: ignore[index]
    names = []
    for step in range(1, 4):
        names.append(page.locator(".now strong").inner_text())
        expect(page.locator("#scale-words")).to_have_text("Stable. Enter takes it.", timeout=8_000)
        expect(page.locator("#scale-figure")).to_have_text(CHOSEN)
        page.keyboard.press("Enter")
        expect(heading).to_contain_text(f"{before + step} of")
    assert len(set(names)) == 3  # each Enter brought the next thing up
    row = page.get_by_role("row").filter(has_text=names[0])
    expect(row).to_contain_text("%")  # claimed and measured stand side by side
    skipped = page.locator(".now strong").inner_text()
    page.keyboard.press("n")
    expect(page.locator(".now strong")).not_to_have_text(skipped)


def test_a_scale_that_never_settles_or_goes_silent_is_said_and_loses_nothing(page: Page, own_plan: str) -> None:
    open_tab(page, own_plan, "Weigh-in")
    heading = page.get_by_role("heading", level=1).inner_text()
    page.get_by_label("Trouble to try").select_option("cable")
    page.get_by_role("button", name="Use it").click()
    expect(page.locator("#scale-words")).to_contain_text("does not answer", timeout=8_000)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text(heading)
    # the mass can be typed instead
    page.get_by_label("Or typed").first.fill("1,5 oz")
    page.get_by_label("Or typed").first.press("Enter")
    expect(page.get_by_role("heading", level=1)).not_to_have_text(heading)
    page.get_by_label("Trouble to try").select_option("none")
    page.get_by_role("button", name="Use it").click()


def test_a_messy_spreadsheet_is_mapped_before_it_is_taken(page: Page, own_plan: str) -> None:
    open_tab(page, own_plan, "In and out")
    cells = "My kit 2027\n\nGear\tWeight\tHow many\nlamp holder\t3,2\t1\nflag\t1.4\t2\nmystery\t?\t1\n"
    page.get_by_label("Or paste cells").fill(cells)
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_text("2 things would come in")).to_be_visible()
    expect(page.get_by_text("the mass of mystery is missing")).to_be_visible()
    # the weights are ounces, which no header said
    page.get_by_label("Unit of Weight").select_option("oz")
    page.get_by_role("button", name="Look again").click()
    expect(page.get_by_role("cell", name="91 g")).to_be_visible()
    page.get_by_role("button", name="Take it into the kit").click()
    expect(page.get_by_text("2 added, 0 updated")).to_be_visible()
    expect(page.get_by_text("1 row was put aside")).to_be_visible()
    page.get_by_role("link", name="Things", exact=True).click()
    expect(page.get_by_role("link", name="lamp holder")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("link", name="lamp holder")).to_have_count(0)


def test_a_clearance_closes_as_the_forks_travel_grows(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/rig")
    warning = page.locator(".stage .check.broken").filter(has_text="to the front tyre")
    expect(warning).to_have_count(0)
    for travel, closes in (("20", False), ("100", True)):
        page.get_by_role("link", name="Measure the bike").click()
        page.get_by_label("Fork travel").fill(travel)
        page.get_by_role("button", name="Draw it").click()
        expect(page.get_by_label("Fork travel")).to_have_count(0)
        expect(warning.filter(has_text="bar roll")).to_have_count(1 if closes else 0)
    expect(warning.filter(has_text="bar roll")).to_contain_text("of 100 mm travel")
    expect(page.locator(".ledger").get_by_text("bar roll and front tyre")).to_be_visible()


def test_three_entries_draw_another_bike_by_keys(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/rig")
    page.get_by_role("link", name="Another bike").press("Enter")
    page.get_by_label("Kind of bike").select_option("full")
    page.get_by_label("Size").select_option("l")
    page.get_by_label("Saddle height").press("Enter")
    expect(page.get_by_label("Rear wheel travel")).to_have_value("115")
    expect(page.locator("svg.rig .shock")).to_have_count(1)
    page.keyboard.press("Escape")
    page.locator("#stage").focus()
    page.keyboard.press("u")
    expect(page.locator("svg.rig .shock")).to_have_count(0)


def test_a_carrier_is_dragged_along_its_tube_and_shifted_by_keys(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/rig")
    bag = page.locator('[data-slide="top-rear"]')
    before = bag.bounding_box()
    assert before is not None
    x, y = before["x"] + before["width"] / 2, before["y"] + before["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y - 5, steps=4)
    expect(page.locator(".slots line")).not_to_have_count(0)
    page.mouse.move(x + 50, y - 12, steps=6)
    page.mouse.up()
    expect(page.locator(".slots")).to_have_count(0)
    expect(page.get_by_text("shifted top-tube bag, rear")).to_be_visible()
    moved = page.locator('[data-slide="top-rear"]').bounding_box()
    assert moved is not None and moved["x"] > before["x"] + 25
    page.locator('[data-slide="top-rear"]').focus()
    page.keyboard.press("ArrowLeft")
    for _ in range(50):
        now = page.locator('[data-slide="top-rear"]').bounding_box()
        if now is not None and now["x"] < moved["x"] - 2:
            return
        page.wait_for_timeout(100)
    raise AssertionError("the arrow did not shift it")


def test_the_catalogue_hangs_a_pair_that_stands_in_the_wind(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/rig")
    table = page.locator("table.wind")
    expect(table.get_by_text("side bag, left")).to_have_count(0)
    page.get_by_label("From the catalogue").select_option("rack_sides")
    page.get_by_role("button", name="Mount it").click()
    expect(table.get_by_text("side bag, left")).to_be_visible()
    expect(page.locator("table.carriers").get_by_role("link", name="side bag, right")).to_be_visible()


def test_the_countdown_is_ticked_by_keys(page: Page, own_plan: str) -> None:
    open_tab(page, own_plan, "Countdown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(page.locator("#task-service")).to_be_focused()
    page.keyboard.press("Space")
    expect(page.get_by_role("heading", level=1)).to_contain_text("1 of")
    expect(page.locator("#task-service")).to_have_attribute("aria-pressed", "true")
    expect(page.locator("#task-service")).to_be_focused()


def test_the_cut_list_leaves_a_thing_at_home_and_ranks_the_rest_anew(page: Page, own_plan: str) -> None:
    open_tab(page, own_plan, "Cut list")
    first = page.locator("table.cut tbody tr").first
    name = first.locator("th").inner_text().split("\n")[0]
    first.get_by_role("button").click()
    expect(page.locator("table.cut tbody tr").first.locator("th")).not_to_have_text(name)
    expect(page.get_by_role("heading", level=1)).to_have_text("Cut list")
