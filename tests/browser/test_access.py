"""For everybody, on every screen: contrast and names, small screens, weight on the wire."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import bring_in
from tests.formats.test_gpx import course

pytestmark = pytest.mark.browser
OPENED = [
    "rig?tab=bike", "nothing", "line?tab=new", "rhythm?tab=night&open=1", "kit?tab=weigh", "kit?tab=bring",
]  # fmt: skip
ROOMS = ["line", "rhythm", "rig", "kit", "load", "supply", "night", "charge", "mend", "cards", "diary"]


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_no_room_has_a_violation(browser: Browser, program: str, scheme: str) -> None:
    context = browser.new_context(
        viewport={"width": 1280, "height": 800},
        base_url=program,
        color_scheme=scheme,
        bypass_csp=True,  # type: ignore[arg-type]
    )
    page = context.new_page()
    page.goto("/")
    root = page.url.rsplit("/", 1)[0]
    found = {}
    rooms = ["line", "rhythm", "load", "cards"] if scheme == "dark" else [*ROOMS, *OPENED]
    for number, room in enumerate(["/plans", *(f"{root}/{name}" for name in rooms)]):
        page.goto(room)
        page.evaluate("document.querySelectorAll('#stage details').forEach(box => (box.open = true))")
        # by night only colours differ
        rules = {"runOnly": ["color-contrast"]} if scheme == "dark" else {}
        # bar, tape and ledger are the same in all rooms
        part = {"include": [["#stage"]]} if number > 1 and page.locator("#stage").count() else None
        results = Axe().run(page, context=part, options={"resultTypes": ["violations"], **rules})
        broken = [f"{v['id']}: {v['nodes'][0]['html'][:120]}" for v in results.response["violations"]]
        if broken:
            found[room.rsplit("/", 1)[-1]] = broken
    context.close()
    assert found == {}


def test_a_file_that_is_looked_over_has_no_violation(browser: Browser, program: str) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=program, bypass_csp=True)
    page = context.new_page()
    bring_in(page, course(120, ele=False))
    expect(page.get_by_role("group", name="Which line")).to_be_visible()
    results = Axe().run(page, options={"resultTypes": ["violations"]})
    assert [v["id"] for v in results.response["violations"]] == []
    context.close()


def test_nothing_scrolls_sideways_and_targets_are_large_on_a_phone(browser: Browser, program: str) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=program, has_touch=True)
    page = context.new_page()
    page.goto("/")
    root = page.url.rsplit("/", 1)[0]
    for room in ROOMS:
        page.goto(f"{root}/{room}")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), room
        small = page.evaluate(
            """() => [...document.querySelectorAll('.foot *, .bar *, .stage *')]
            .filter(e => e.matches('a, button, input, select, summary') && e.offsetParent && !e.closest('svg')
                && !e.matches('[type=checkbox], [type=radio]') && getComputedStyle(e).display !== 'inline')
            .map(e => [e.getBoundingClientRect().height, e.textContent.trim() || e.name])
            .filter(([height]) => height > 0 && height < 43.5)"""
        )
        assert small == [], room
    context.close()


def test_tape_and_ledger_are_sheets_on_a_phone(browser: Browser, program: str) -> None:
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=program)
    page = context.new_page()
    page.goto("/")
    expect(page.locator("#ledger .finish")).not_to_be_in_viewport()
    page.get_by_role("button", name="Ledger").click()
    expect(page.locator("#ledger .finish")).to_be_in_viewport()
    page.get_by_role("button", name="Tape").click()
    expect(page.locator("#ledger .finish")).not_to_be_in_viewport()
    page.locator("#tape").get_by_role("link", name=re.compile("Vint Mill")).click()
    expect(page.locator("#tape")).not_to_be_in_viewport()
    expect(page).to_have_url(re.compile("leg=3"))
    context.close()


def test_the_theme_is_switched_and_remembered(page: Page) -> None:
    page.goto("/")
    theme = page.locator("html")
    expect(theme).to_have_attribute("data-bs-theme", "light")
    page.get_by_role("button", name="Day or night theme").click()
    expect(theme).to_have_attribute("data-bs-theme", "dark")
    page.reload()
    expect(theme).to_have_attribute("data-bs-theme", "dark")


@pytest.mark.parametrize("room", ROOMS)
def test_a_first_visit_weighs_little(browser: Browser, program: str, room: str) -> None:
    context = browser.new_context(base_url=program)
    page = context.new_page()
    sizes: dict[str, int] = {}
    session = context.new_cdp_session(page)
    session.send("Network.enable")
    session.on("Network.loadingFinished", lambda e: sizes.__setitem__(e["requestId"], int(e["encodedDataLength"])))
    page.goto("/plans")
    address = page.get_by_role("link", name="The Corvane Round").first.get_attribute("href")
    sizes.clear()
    page.goto(f"{address}")
    page.goto(page.url.split("?")[0].replace("/line", f"/{room}"))
    page.wait_for_load_state("networkidle")
    assert 10_000 < sum(sizes.values()) < 350_000
    context.close()


def test_a_phone_shows_one_carrier_at_a_time_with_figures_that_can_be_read(browser: Browser, program: str) -> None:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=program, has_touch=True, bypass_csp=True
    )
    page = context.new_page()
    page.goto("/")
    root = page.url.rsplit("/", 1)[0]
    for room, each in (("rig", ".carriers tbody tr"), ("load", ".places > .place")):
        page.goto(f"{root}/{room}")
        expect(page.locator(".rig .labels").first).to_be_hidden()
        first, second = (page.locator(each).nth(k).bounding_box() for k in (0, 1))
        assert first and second and first["width"] > 300 and second["x"] > first["x"] + 300
        tiny = page.evaluate(
            """() => [...document.querySelectorAll('#stage *')]
            .filter(e => !e.childElementCount && e.textContent.trim() && e.getClientRects().length)
            .map(e => [parseFloat(getComputedStyle(e).fontSize)
                * (e.ownerSVGElement ? e.ownerSVGElement.getScreenCTM().a : 1), e.textContent.trim().slice(0, 20)])
            .filter(([size]) => size < 11.9)"""
        )
        assert tiny == [], room
        results = Axe().run(page, options={"resultTypes": ["violations"]})
        assert [v["id"] for v in results.response["violations"]] == [], room
    context.close()
