"""The pack on a phone with the network cut: place, time, doors, things, notes; shut, opened again, kept."""

import io
import json
import re
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, BrowserContext, Page, ViewportSize, expect

from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.late import LateTable
from stonechat.core.plan.plan import Plan
from stonechat.render.documents.pack import pack_data, pack_page
from tests.render.test_pack import hostile_data

pytestmark = pytest.mark.browser
PHONE: ViewportSize = {"width": 390, "height": 844}


@pytest.fixture(scope="module")
def pack_file(
    tmp_path_factory: pytest.TempPathFactory, demo: Plan, demo_evaluation: Evaluation, demo_late: LateTable
) -> Path:
    path = tmp_path_factory.mktemp("pack") / "pack.html"
    path.write_bytes(pack_page(pack_data(demo, demo.variants[0], demo_evaluation.ridden, demo_late)).html)
    return path


@pytest.fixture
def phone(page: Page) -> Iterator[Page]:
    """A phone without any network."""
    page.set_viewport_size(PHONE)
    page.context.set_offline(True)
    yield page
    page.context.set_offline(False)


def open_at(phone: Page, pack_file: Path, km: str) -> None:
    phone.goto(pack_file.as_uri())
    phone.get_by_label("I am at km").fill(km)
    phone.get_by_role("button", name="Set").click()


def test_one_file_says_what_comes_next_and_how_late_one_is(phone: Page, pack_file: Path) -> None:
    open_at(phone, pack_file, "412")
    expect(phone.locator("#clock")).to_contain_text("on plan")
    before = phone.locator("#finish").inner_text()
    expect(phone.locator(".next").filter(has_text="Water:")).to_contain_text("Orran col")
    phone.get_by_role("button", name="2 h later").click()
    expect(phone.locator("#clock")).to_contain_text("2 h 00 late")
    assert phone.locator("#finish").inner_text() != before
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390


def test_it_agrees_with_the_planner_within_two_minutes(
    phone: Page, pack_file: Path, demo_evaluation: Evaluation, demo_late: LateTable
) -> None:
    phone.goto(pack_file.as_uri())
    for km, hours in ((0.0, 0.0), (100.0, 1.25), (412.0, 2.0), (700.0, -0.75), (900.0, 3.25)):
        found = phone.evaluate("([km, late]) => window.stonechatPack.timesFrom(km, late).arr", [km, hours * 3600.0])
        starts = [leg.start / 1e3 for leg in demo_evaluation.ridden.timetable.legs]
        node = max(k for k, at in enumerate(starts) if at <= km + 0.05)
        told = demo_late.arrivals_at([*demo_late.nodes.tolist()].index(node), hours * 3600.0)
        apart = [abs(a - b) for a, b in zip(found, told.tolist(), strict=True) if a is not None]
        assert len(apart) == len(told) - node and max(apart) < 60.0


def test_a_place_off_the_course_and_a_wrong_km_leave_the_place(phone: Page, pack_file: Path) -> None:
    open_at(phone, pack_file, "412")
    for typed in ("9999", "-3", "abc", ""):
        phone.get_by_label("I am at km").fill(typed)
        phone.get_by_role("button", name="Set").click()
        expect(phone.locator("main .warn").first).to_contain_text("is no km of this course")
        expect(phone.locator("#here")).to_have_text("412 km")
    course = json.loads(phone.locator("#data").text_content() or "")["course"]
    middle = len(course["km"]) // 2
    lat, lon, km = course["lat"][middle], course["lon"][middle], course["km"][middle]
    off, near = phone.evaluate("([lat, lon]) => window.stonechatPack.match(lat, lon)", [lat, lon])
    assert off < 0.01 and near == pytest.approx(km, abs=0.6)
    off, _ = phone.evaluate("([lat, lon]) => window.stonechatPack.match(lat, lon)", [lat + 40.0 / 110.57, lon])
    assert off > 5.0


def test_a_clock_that_is_wrong_by_a_day_is_told(phone: Page, pack_file: Path) -> None:
    open_at(phone, pack_file, "412")
    phone.get_by_role("button", name="late by this phone's clock").click()
    expect(phone.locator("main")).to_contain_text("Is its day right?")


def test_half_an_hour_more_is_added_to_what_the_clock_says(
    phone: Page, pack_file: Path, demo_evaluation: Evaluation
) -> None:
    ridden = demo_evaluation.ridden
    planned = float(np.interp(412e3, ridden.way.profile.distances, ridden.ride.clocks))
    phone.clock.set_fixed_time(ridden.way.start.astimezone(UTC) + timedelta(seconds=planned + 3_600.0))
    open_at(phone, pack_file, "412")
    phone.get_by_role("button", name="late by this phone's clock").click()
    expect(phone.locator("#clock")).to_contain_text("1 h 00 late")
    phone.get_by_role("button", name="half an hour later").click()
    expect(phone.locator("#clock")).to_contain_text("1 h 30 late")


def test_clocks_are_those_on_the_walls_also_after_the_night_in_which_they_are_set(
    phone: Page, demo: Plan, tmp_path: Path
) -> None:
    variant = demo.variants[0]
    rhythm = replace(variant.rhythm, start=datetime(2027, 10, 30, 7, 0), zone="Europe/Berlin")
    autumn = demo.with_variant(replace(variant, rhythm=rhythm))
    ridden = evaluate(autumn, "a").ridden
    elapsed = np.array([visit.elapsed for visit in ridden.timetable.visits])
    delays = np.array([0.0, 3_600.0])
    table = LateTable(nodes=np.array([0]), delays=delays, arrivals=(elapsed + delays[:, None])[None])
    path = tmp_path / "autumn.html"
    path.write_bytes(pack_page(pack_data(autumn, variant, ridden, table)).html)
    phone.goto(path.as_uri())
    finish = ridden.timetable.visits[-1].arrives
    assert finish.utcoffset() != ridden.way.start.utcoffset()  # it is winter by then
    shown = phone.locator("#finish").inner_text()
    told, wall = (datetime.strptime(words, "%H:%M") for words in (shown[4:], f"{finish:%H:%M}"))
    assert abs((told - wall).total_seconds()) <= 60.0
    assert shown[:3] == f"{finish:%a}"


def test_where_is_goes_by_first_letters(phone: Page, pack_file: Path) -> None:
    open_at(phone, pack_file, "0")
    phone.get_by_role("button", name="Bags", exact=True).click()
    phone.get_by_label("Where is").fill("pum")
    expect(phone.locator("#found")).to_contain_text("half frame bag")
    expect(phone.locator("#found li")).to_have_count(1)
    phone.get_by_label("Where is").fill("zzz")
    expect(phone.locator("#found")).to_contain_text("Nothing aboard begins with")


def test_notes_and_ticks_are_there_after_the_page_was_shut(phone: Page, pack_file: Path) -> None:
    open_at(phone, pack_file, "187")
    phone.get_by_role("button", name="Lists", exact=True).click()
    phone.get_by_role("button", name="Shopping").click()
    phone.locator("li.tick input").first.check()
    phone.get_by_role("button", name="Notes", exact=True).click()
    phone.get_by_label("What happened").fill("<b>pump lost</b> 🚲")
    phone.get_by_role("button", name="lost").click()
    phone.reload()
    expect(phone.locator("#noted")).to_contain_text("lost: <b>pump lost</b> 🚲")
    phone.get_by_role("button", name="Lists", exact=True).click()
    expect(phone.locator("li.tick input").first).to_be_checked()
    phone.get_by_role("button", name="Notes", exact=True).click()
    with phone.expect_download() as given:
        phone.get_by_role("button", name="Give the notes out").click()
    told = json.loads(Path(given.value.path()).read_text("utf-8"))
    assert told["format"] == "stonechat-notes" and len(told["ticks"]) == 1
    assert [note["kind"] for note in told["notes"]] == ["lost", "bought"]  # what was ticked off a shopping list
    assert told["notes"][0]["kind"] == "lost" and told["notes"][0]["km"] == pytest.approx(187.0)


def test_notes_outlive_the_browser(browser: Browser, pack_file: Path, tmp_path: Path) -> None:
    """Shut down and started again, as a phone is over night."""

    def started() -> BrowserContext:
        return browser.browser_type.launch_persistent_context(
            str(tmp_path / "profile"), executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"],
            viewport=PHONE, offline=True,
        )  # fmt: skip

    context = started()
    phone = context.new_page()
    open_at(phone, pack_file, "300")
    phone.get_by_role("button", name="Notes", exact=True).click()
    phone.get_by_label("What happened").fill("slept in a barn")
    phone.get_by_role("button", name="slept").click()
    expect(phone.locator("#noted")).to_contain_text("slept in a barn")
    context.close()
    context = started()
    phone = context.new_page()
    phone.goto(pack_file.as_uri())
    expect(phone.locator("#noted")).to_contain_text("slept in a barn")
    context.close()


def test_every_target_is_large_enough_for_a_cold_thumb(phone: Page, pack_file: Path) -> None:
    open_at(phone, pack_file, "412")
    for tab in ("Now", "Stops", "Bags", "Lists", "Notes"):
        phone.get_by_role("button", name=tab, exact=True).click()
        small = phone.evaluate(
            "[...document.querySelectorAll('button, input:not([type=checkbox]), summary')].filter((e) => "
            "e.getBoundingClientRect().height > 0 && e.getBoundingClientRect().height < 44).map((e) => e.outerHTML)"
        )
        assert small == [], tab
        sizes = phone.evaluate(
            "[...document.querySelectorAll('main *')].filter((e) => e.childNodes.length && e.innerText)"
            ".map((e) => parseFloat(getComputedStyle(e).fontSize))"
        )
        assert min(sizes) >= 12.0
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390


def test_served_it_opens_again_without_the_program(page: Page, own_plan: str) -> None:
    page.set_viewport_size(PHONE)
    page.goto(own_plan + "/do/pack/")
    expect(page.locator("#here")).to_be_visible()
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.wait_for_function("caches.open('pack').then((kept) => kept.match('./')).then(Boolean)")
    page.context.set_offline(True)
    page.reload()
    expect(page.locator("#here")).to_be_visible()
    page.get_by_role("button", name="Stops", exact=True).click()
    expect(page.locator(".stop").first).to_contain_text(re.compile("Ostrel"))
    page.context.set_offline(False)


def test_names_of_any_script_stay_words(phone: Page, tmp_path: Path) -> None:
    path = tmp_path / "strange.html"
    path.write_bytes(pack_page(hostile_data()).html)
    phone.goto(path.as_uri())
    phone.get_by_role("button", name="Stops", exact=True).click()
    expect(phone.locator(".stop .name").nth(0)).to_have_text("</script><img src=x onerror=alert(1)>")
    expect(phone.locator(".stop")).to_have_count(300)
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390


def noted(phone: Page, pack_file: Path) -> None:
    """Thirty notes and a ticked shopping line on the phone."""
    open_at(phone, pack_file, "187")
    phone.get_by_role("button", name="Lists", exact=True).click()
    phone.get_by_role("button", name="Shopping").click()
    phone.locator("li.tick input").first.check()
    phone.get_by_role("button", name="Notes", exact=True).click()
    for number in range(12):
        phone.get_by_label("What happened").fill(f"gel number {number} 🍬")
        phone.get_by_role("button", name="eaten").click()
    phone.get_by_role("button", name="Show them as codes").click()


def test_codes_on_the_phone_are_read_from_pictures(
    phone: Page, browser: Browser, pack_file: Path, own_plan: str
) -> None:
    noted(phone, pack_file)
    count = int(phone.locator("#code-at").inner_text().split(" of ")[1])
    assert count > 1
    phone.get_by_role("button", name="Next").click()  # they stand still now
    desk = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    desk.goto(f"{own_plan}/diary")
    for number in range(count):
        shown = phone.locator("#code").screenshot()
        desk.get_by_label("A picture of a code").set_input_files(
            {"name": "code.png", "mimeType": "image/png", "buffer": shown}
        )
        desk.get_by_role("button", name="Read it").click()
        if number < count - 1:
            expect(desk.locator("#codes [data-told]")).to_contain_text(f"{number + 1} of {count} codes are read")
        phone.get_by_role("button", name="Next").click()
    expect(desk.locator("#messages")).to_contain_text("Notes that came in: 13")
    expect(desk.locator(".diary-table")).to_contain_text("gel number 11 🍬")
    expect(desk.locator(".diary-table")).to_contain_text("bought")
    desk.context.close()


def test_codes_are_read_by_the_camera(
    phone: Page, browser: Browser, pack_file: Path, own_plan: str, tmp_path: Path
) -> None:
    """A camera that sees the phone's screen, each code for half a second."""
    noted(phone, pack_file)
    count = int(phone.locator("#code-at").inner_text().split(" of ")[1])
    phone.get_by_role("button", name="Next").click()
    film = tmp_path / "screen.y4m"
    with film.open("wb") as out:
        out.write(b"YUV4MPEG2 W640 H480 F10:1 Ip A1:1 C420jpeg\n")
        for _ in range(count):
            code = Image.open(io.BytesIO(phone.locator("#code").screenshot())).convert("L")
            frame = Image.new("L", (640, 480), 40)
            frame.paste(code.resize((400, 400)), (120, 40))
            out.write((b"FRAME\n" + frame.tobytes() + b"\x80" * (640 * 480 // 2)) * 5)
            phone.get_by_role("button", name="Next").click()
    seeing = browser.browser_type.launch(
        executable_path="/usr/bin/chromium",
        args=["--no-sandbox", "--disable-gpu", "--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream",
              f"--use-file-for-fake-video-capture={film}"],
    )  # fmt: skip
    desk = seeing.new_page()
    desk.goto(f"{own_plan}/diary")
    desk.get_by_role("button", name="Read codes by the camera").click()
    expect(desk.locator("#messages")).to_contain_text("Notes that came in: 13", timeout=40_000)
    seeing.close()


def test_the_pack_is_made_beside_other_work(page: Page, own_plan: str) -> None:
    page.goto(f"{own_plan}/cards")
    page.get_by_label("bolts and torques").check()
    page.get_by_role("button", name="Make them so").click()
    expect(page.get_by_role("button", name="Undo")).to_be_visible()
    page.get_by_role("link", name="On the phone").click()
    page.get_by_role("button", name="Make the pack").click()
    expect(page.locator("#pack-making")).to_contain_text("ridden late")
    # a print while it is being made
    assert page.request.get(f"{own_plan}/do/cards.pdf", timeout=90_000).body().startswith(b"%PDF")
    expect(page.get_by_role("link", name="The pack as one file")).to_be_visible(timeout=90_000)
    with page.expect_download() as pack:
        page.get_by_role("link", name="The pack as one file").click()
    assert b"stonechat-pack" in Path(pack.value.path()).read_bytes()
