"""Units and clock by setting: pages, forms and cards of a reader who has chosen."""

import re

import pytest
from fastapi.testclient import TestClient
from test_pages import ROOMS, room

from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace

CHOICE = {"units": "imperial", "clock": "12"}
OWN_WORDS = (
    "last bike shop for 214 km",
    "1 kg",
    "(5 km",
)  # a note of the rider; a step with its own minutes; both units
METRIC = re.compile(r"\d (?:km|kg|g|km/h)(?!\sm[²;., ])(?![\w/²³])|\b[Kk]m \d")


def visible(html: str) -> str:
    """Return the words of a page without its tags and what is inside them."""
    return re.sub(r"<[^>]*>", " ", html)


@pytest.fixture
def abroad(client: TestClient) -> TestClient:
    answer = client.post("/measures", data=CHOICE, follow_redirects=False)
    assert answer.status_code == 303
    return client


@pytest.mark.parametrize("name", ROOMS)
def test_no_room_shows_a_metric_figure_to_who_reads_in_miles(abroad: TestClient, opened: OpenPlan, name: str) -> None:
    words = visible(abroad.get(room(opened, name)).text)
    left = [words[max(0, m.start() - 40) : m.end()] for m in METRIC.finditer(words)]
    left = [near for near in left if not near.endswith(OWN_WORDS)]
    assert not left, left
    assert re.search(r"\d (?:mi|lb|ft)\b", words)
    assert re.search(r"\d:\d\d (?:am|pm)", words)


def test_the_choice_can_be_taken_back_on_the_page_that_was_read(abroad: TestClient, opened: OpenPlan) -> None:
    here = room(opened, "line")
    answer = abroad.post(
        "/measures",
        data={"units": "metric", "clock": "24"},
        headers={"Referer": f"http://127.0.0.1{here}?leg=2"},
        follow_redirects=False,
    )
    assert answer.headers["location"] == f"{here}?leg=2"
    assert " am<" not in abroad.get(here).text and METRIC.search(visible(abroad.get(here).text))


@pytest.mark.parametrize("referer", ["http://elsewhere.example/plans/x", "", "http://127.0.0.1.example//evil"])
def test_the_way_back_stays_in_the_program(client: TestClient, referer: str) -> None:
    answer = client.post("/measures", data=CHOICE, headers={"Referer": referer}, follow_redirects=False)
    assert answer.headers["location"] == "/plans"


@pytest.mark.parametrize(("name", "value"), [("units", "furlongs"), ("clock", "13"), ("clock", "")])
def test_a_choice_that_is_not_on_offer_is_refused(client: TestClient, name: str, value: str) -> None:
    answer = client.post("/measures", data={**CHOICE, name: value}, follow_redirects=False)
    assert answer.status_code == 422 and "stonechat_measures" not in answer.cookies


def test_a_cookie_of_nonsense_counts_as_not_chosen(client: TestClient, opened: OpenPlan) -> None:
    client.cookies.set("stonechat_measures", "%00-furlongs-99")
    answer = client.get(room(opened, "line"))
    assert answer.status_code == 200 and METRIC.search(visible(answer.text))


def test_charts_are_told_in_which_units_to_draw(abroad: TestClient, opened: OpenPlan) -> None:
    units = abroad.get(f"/plans/{opened.id}/a/do/profile.json").json()["units"]
    assert units["km"] == ["mi", pytest.approx(1 / 1.609344)]
    assert units["m"] == ["ft", pytest.approx(1 / 0.3048)] and units["kg"] == ["lb", pytest.approx(1 / 0.45359237)]


def test_how_it_is_at_a_mile_is_how_it_is_at_its_kilometre(client: TestClient, opened: OpenPlan) -> None:
    where = f"/plans/{opened.id}/a/do/air?at=2027-09-25%2003:00&km="
    metric = visible(client.get(where + "160.9344").text)
    client.post("/measures", data=CHOICE)
    degrees = float(re.search(r"(-?\d+)", visible(client.get(where + "100").text))[1])  # type: ignore[index]
    assert degrees == pytest.approx(1.8 * float(re.search(r"(-?\d+)", metric)[1]) + 32, abs=0.6)  # type: ignore[index]
    assert "is not on the course, which is 708.4 mi" in client.get(where + "900").text


def test_a_time_of_day_may_be_typed_either_way(abroad: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    shown = abroad.get(room(opened, "rhythm")).text
    assert re.search(r'name="rise" value="\d+:\d\d am"', shown)
    sent = {"revision": str(opened.revision), "leg": "0", "stop": "kemmer", "leave_at": "8:30 pm"}
    assert abroad.post(f"/plans/{opened.id}/a/do/leave", data=sent).status_code == 303
    assert open_plan(workspace, opened.id).plan.variants[0].rhythm.leave_at == {"kemmer": 73_800.0}
