"""Units and clock by setting: pages, forms and cards of a reader who has chosen."""

import re

import pytest
from fastapi.testclient import TestClient
from test_pages import ROOMS, room

from stonechat.services.history import OpenPlan

CHOICE = {"units": "imperial", "clock": "12"}
OWN_WORDS = (
    "last bike shop for 214 km",
    "1 kg",
    "(5 km",
)  # a note of the rider; a step with its own minutes; both units
METRIC = re.compile(r"\d (?:km|kg|g|km/h)(?!\sm[²;., ])(?![\w/²³])")


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
        headers={"Referer": f"http://testserver{here}?leg=2"},
        follow_redirects=False,
    )
    assert answer.headers["location"] == f"{here}?leg=2"
    assert " am<" not in abroad.get(here).text and METRIC.search(visible(abroad.get(here).text))


@pytest.mark.parametrize("referer", ["http://elsewhere.example/plans/x", "", "http://testserver.example//evil"])
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
