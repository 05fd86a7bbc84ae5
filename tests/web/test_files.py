"""Files in and out through the program."""

import io
import json
import re
from dataclasses import replace

import jsonschema
import pytest
from fastapi.testclient import TestClient
from httpx2 import Response
from pypdf import PdfReader

from stonechat.services import plans
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.workspace import Workspace
from tests.formats.test_fit import damaged, fit
from tests.formats.test_gpx import DAMAGED, course
from tests.formats.test_other_courses import BAD_GEOJSON, BAD_TCX, geojson, tcx


def send(client: TestClient, data: bytes, name: str = "course.gpx", *, again: str = "", **headers: str) -> Response:
    fields = {"surface": "tarmac", "again": again}
    return client.post("/plans", files={"file": (name, data)}, data=fields, headers=headers)


def begin(client: TestClient, data: bytes, **said: object) -> Response:
    """Bring a course in and say no more of the plan than is given."""
    address = send(client, data).headers["location"].split("?")[0]
    return client.post(address, data={"surface": "tarmac", "gaps": "join", **said})


def text_of(data: bytes) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)


def test_a_course_becomes_a_plan_and_says_what_it_found(client: TestClient) -> None:
    answer = begin(client, course(300))
    assert answer.status_code == 303
    page = client.get(answer.headers["location"]).text
    assert "North line" in page and "15.0 km with" in page
    again = client.get(answer.headers["location"]).text
    assert "15.0 km with" not in again  # said once


def test_with_script_the_browser_is_sent_on(client: TestClient) -> None:
    answer = send(client, course(300), **{"HX-Request": "true"})
    assert answer.status_code == 204 and answer.headers["HX-Redirect"].startswith("/uploads/")


def test_a_plan_begins_with_what_was_said_and_nothing_else(client: TestClient, opened: OpenPlan) -> None:
    location = begin(
        client, course(300), start="2027-06-05 06:30", mass_kg="81,5", power_w="190 W", bike_kind="full", bike_size="l",
        bags="rear_pack",
    ).headers["location"]  # fmt: skip
    plan = client.get(location.removesuffix("line") + "do/plan.json").json()
    (variant,) = plan["variants"]
    assert variant["rider"]["mass_kg"] == 81.5 and variant["rider"]["power_w"] == 190.0
    assert variant["rhythm"]["start_local"].startswith("2027-06-05T06:30") and variant["rhythm"].get("nights", {}) == {}
    assert variant["bike"]["rear_travel_mm"] > 0 and "rear-rack-pack" in {c["id"] for c in variant["carriers"]}
    assert plan["items"] == [] and variant["places"] == {} and variant["assumed"] == ["nights"]
    # nothing said, nothing there: no demo bags, no demo kit, no demo night
    bare = client.get(begin(client, course(310)).headers["location"].removesuffix("line") + "do/plan.json").json()
    (variant,) = bare["variants"]
    assert variant["carriers"] == [] and bare["items"] == [] and len(variant["assumed"]) == 4


def test_a_wrong_figure_keeps_all_that_was_said(client: TestClient) -> None:
    wrong = begin(client, course(300), power_w="1900", mass_kg="70", name="My race")
    assert wrong.status_code == 422 and "above the most" in wrong.text
    assert 'value="1900"' in wrong.text and 'value="My race"' in wrong.text
    hostile = begin(client, course(300), bike_kind="tandem", bags="sidecar", kit="all")
    assert hostile.status_code == 422 and "not on its list" in hostile.text


def test_the_same_file_again_offers_the_plan_that_is_there(client: TestClient, opened: OpenPlan) -> None:
    first = begin(client, course(300)).headers["location"]
    again = client.get(send(client, course(300)).headers["location"]).text
    assert "This course is here already" in again and first.split("/a/")[0] in again and 'value="North line 2"' in again
    other = client.get(send(client, course(320)).headers["location"]).text
    assert "This course is here already" not in other
    plan = client.get(f"/plans/{opened.id}/a/do/plan.json").content
    refused = send(client, plan, "plan.json")
    assert refused.status_code == 409 and "here already, as The Corvane Round" in refused.text


def test_a_kit_from_a_file_is_looked_over_next_and_one_from_the_shelf_is_chosen(client: TestClient) -> None:
    address = send(client, course(300)).headers["location"].split("?")[0]
    table = {"kit_table": ("kit.csv", b"name,grams\nrain shell,210\nspoon,11\n")}
    location = client.post(address, data={"kit": "file"}, files=table).headers["location"]
    assert "/kit?tab=bring&open=" in location
    page = client.get(location).text
    upload = re.search(r"do/kit/([0-9a-f-]{36})", page)
    revision = re.search(r'name="revision" value="(\d+)"', page)
    assert upload and revision
    root = location.split("/kit?")[0]
    client.post(f"{root}/do/kit/{upload[1]}", data={"revision": revision[1], "leg": "0", "take": "yes"})
    assert len(client.get(f"{root}/do/plan.json").json()["items"]) == 2
    # a second plan sees both on the shelf and takes the one that is ticked
    asked = client.get(send(client, course(320)).headers["location"])
    things = re.findall(r'name="thing" value="([^"]+)"', asked.text)
    assert sorted(things) == ["rain-shell", "spoon"]
    second = begin(client, course(330), kit="shelf", thing=["spoon"]).headers["location"]
    kit = client.get(second.removesuffix("line") + "do/plan.json").json()["items"]
    assert [item["name"] for item in kit] == ["spoon"]
    # and the shelf holds each thing once, whatever plan it is in
    asked = client.get(send(client, course(340)).headers["location"])
    assert re.findall(r'name="thing" value="([^"]+)"', asked.text) == things


@pytest.mark.parametrize("name", sorted(set(DAMAGED) - {"no heights", "heights missing"}))
def test_a_damaged_course_is_a_4xx_with_its_sentence(client: TestClient, workspace: Workspace, name: str) -> None:
    answer = send(client, DAMAGED[name][0])
    assert 400 <= answer.status_code < 500
    assert "Traceback" not in answer.text and '<p class="lead">' in answer.text
    assert plans.list_plans(workspace) == ()


WRONG = {
    **{f"tcx, {name}": data for name, (data, _) in BAD_TCX.items() if name != "no heights"},
    **{f"geojson, {name}": data for name, (data, _) in BAD_GEOJSON.items() if name not in ("no heights", "no geojson")},
    **{f"fit, {name}": data for name, data in damaged(fit()).items()},
}


@pytest.mark.parametrize("name", sorted(WRONG))
def test_a_damaged_file_of_any_format_is_a_4xx_with_its_sentence(
    client: TestClient, workspace: Workspace, name: str
) -> None:
    answer = send(client, WRONG[name])
    assert 400 <= answer.status_code < 500
    assert "Traceback" not in answer.text and '<p class="lead">' in answer.text
    assert plans.list_plans(workspace) == ()


def test_a_course_without_heights_is_looked_over_first_and_says_so(client: TestClient, workspace: Workspace) -> None:
    location = send(client, DAMAGED["no heights"][0]).headers["location"]
    assert location.startswith("/uploads/") and "No heights in North line" in client.get(location).text
    address = location.split("?")[0]
    refused = client.post(address, data={"heights": "file", "gaps": "join"})
    assert refused.status_code == 422 and "no elevation" in refused.text
    odd = client.post(address, data={"heights": "flat", "flat_m": "12000", "gaps": "join"})
    assert odd.status_code == 422 and "no height to ride at" in odd.text
    kept = client.post(address, data={"heights": "flat", "flat_m": "120", "gaps": "join", "end_km": "4"})
    page = client.get(kept.headers["location"]).text
    assert kept.status_code == 303 and "4.0 km with 0 m of climbing" in page
    assert client.get(address).status_code == 404  # it is not kept any longer than it is needed


def test_two_hundred_thousand_points_and_sixty_megabytes_are_too_much(client: TestClient, workspace: Workspace) -> None:
    points = "".join(f'<trkpt lat="{45 + k * 1e-5:.5f}" lon="7"><ele>1</ele></trkpt>' for k in range(200_000))
    many = f'<gpx xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{points}</trkseg></trk></gpx>'.encode()
    answer = send(client, many)
    assert answer.status_code == 413 and "200,000 points; 150,000 is the most" in answer.text
    answer = send(client, b" " * 60_000_000)
    assert answer.status_code == 413 and "24 MB is the most" in answer.text
    assert plans.list_plans(workspace) == ()


@pytest.mark.parametrize("data", [tcx(), geojson()], ids=["tcx", "geojson"])
def test_other_courses_become_plans_too_and_go_out_as_geojson(client: TestClient, data: bytes) -> None:
    location = begin(client, data).headers["location"]
    out = client.get(location.split("?")[0].removesuffix("line") + "do/course.geojson")
    assert out.headers["content-type"] == "application/geo+json"
    assert out.json()["features"][0]["geometry"]["type"] == "LineString"


def test_no_file_chosen_is_said(client: TestClient) -> None:
    answer = client.post("/plans", files={"file": ("", b"")}, data={"surface": "tarmac"})
    assert answer.status_code == 422 and "No file was chosen" in answer.text


def test_a_plan_goes_out_and_comes_in_equal(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    data = client.get(f"/plans/{opened.id}/a/do/plan.json").content
    jsonschema.Draft202012Validator(client.get("/schema/plan.json").json()).validate(json.loads(data))
    location = send(client, data, "plan.json", again="yes").headers["location"]
    copy = client.get(location.rsplit("/", 1)[0] + "/do/plan.json").content
    assert json.loads(copy) == json.loads(data)


def test_a_plan_of_a_newer_version_is_refused(client: TestClient, opened: OpenPlan) -> None:
    document = json.loads(client.get(f"/plans/{opened.id}/a/do/plan.json").content)
    document["version"] = 7
    answer = send(client, json.dumps(document).encode(), "plan.json")
    assert answer.status_code == 422 and "version 7; this program reads up to 5" in answer.text


def test_the_packing_list_names_every_thing_and_its_place(client: TestClient, opened: OpenPlan) -> None:
    answer = client.get(f"/plans/{opened.id}/a/do/cards.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    text = text_of(answer.content)
    carried = [i for i in opened.plan.items if opened.plan.variants[0].places.get(i.id) != "home"]
    assert [item.name for item in carried if item.name not in text.replace("\n", " ")] == []
    assert "seat pack" in text and "kcal" in text


def test_the_bar_strip_has_every_stop_in_order(client: TestClient, opened: OpenPlan) -> None:
    text = text_of(client.get(f"/plans/{opened.id}/a/do/cards.pdf").content).replace("\u202f", " ")
    places = [text.find(stop.name) for stop in opened.plan.line.stops]
    assert -1 not in places and places == sorted(places)
    assert "Finish" in text and "1 140" in text


def test_a_long_bar_strip_begins_on_its_first_page(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    line = opened.plan.line
    more = tuple(
        replace(line.stops[4], id=f"tap-{k}", name=f"Tap {k}", distance=3_000.0 + 10_000.0 * k) for k in range(60)
    )
    stops = tuple(sorted((*line.stops, *more), key=lambda stop: stop.distance))
    change_plan(
        workspace,
        opened.id,
        revision=opened.revision,
        label="more stops",
        change=lambda plan: replace(plan, line=replace(plan.line, stops=stops)),
    )
    pages = PdfReader(io.BytesIO(client.get(f"/plans/{opened.id}/a/do/cards.pdf").content)).pages
    text = " ".join(" ".join(page.extract_text().split()) for page in pages)
    assert all(f" Tap {k}, " in text or f" Tap {k} " in text for k in range(60)) and "Tap 0" in pages[0].extract_text()


def test_static_files_are_kept_for_good_under_their_version_only(client: TestClient) -> None:
    page = client.get("/plans").text
    root = re.search(r'"(/static/[0-9a-f]{12})/app\.css"', page)
    assert root
    kept = client.get(f"{root[1]}/app.css")
    assert kept.status_code == 200 and "immutable" in kept.headers["cache-control"]
    assert client.get(f"{root[1]}/vendor/text-400.woff2").status_code == 200  # the style's own neighbours
    for other in ("/static/app.css", "/static/000000000000/app.css"):
        assert client.get(other).headers["cache-control"] == "no-cache"
    assert client.get(f"{root[1]}/../../app.py").status_code == 404
