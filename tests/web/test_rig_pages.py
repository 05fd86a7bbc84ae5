"""The Rig room: three entries, the catalogue, what cannot be, and the warning that comes with travel."""

import re

import pytest
from fastapi.testclient import TestClient

from stonechat.core.rig.bike import BIKE_KINDS, SIZES
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace
from stonechat.web.forms.binding import start_values
from stonechat.web.forms.rig import BikeForm, CarrierForm
from tests.web.test_pages import HTMX, Outline


def do(opened: OpenPlan, *parts: str) -> str:
    return "/".join((f"/plans/{opened.id}/a/do", *parts))


def sent(opened: OpenPlan, **fields: object) -> dict[str, object]:
    return {"revision": opened.revision, "leg": 0, **fields}


def shown(form, values) -> dict[str, str]:  # type: ignore[no-untyped-def]
    return {view.name: view.value for view in start_values(form, values).fields if view.value}


@pytest.mark.parametrize("edit", ["", "tab=start", "tab=bike", "tab=measures", "tab=new", "open=seat"])
def test_every_part_of_rig_is_a_page_with_labelled_fields(client: TestClient, opened: OpenPlan, edit: str) -> None:
    answer = client.get(f"/plans/{opened.id}/a/rig?{edit}")
    outline = Outline(answer.text)
    assert answer.status_code == 200 and outline.forbidden == []
    assert len(outline.ids) == len(set(outline.ids)) and set(outline.fields) <= outline.labels


@pytest.mark.parametrize(("kind", "size"), list(zip(sorted(BIKE_KINDS), [*sorted(SIZES), "m"], strict=True)))
def test_three_entries_draw_a_bike_with_its_measures_open(
    client: TestClient, opened: OpenPlan, kind: str, size: str
) -> None:
    answer = client.post(
        do(opened, "bike", "start"), data=sent(opened, kind=kind, size=size, saddle_height_mm="745"), headers=HTMX
    )
    assert answer.status_code == 200 and 'id="bike-stack_mm"' in answer.text
    assert re.search(r'id="bike-saddle_height_mm" name="saddle_height_mm" value="745"', answer.text)
    assert "One of them is off" not in answer.text


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [
        ({"wheelbase_mm": "10 m"}, "10000 mm is above the most, 1400 mm"),
        ({"rim_mm": "28"}, "below the least, 300 mm"),
        ({"chainstay_mm": ""}, "This is empty"),
        ({"bars": "butterfly"}, "is not on its list"),
        ({"saddle_height_mm": "450", "saddle_setback_mm": "250"}, "too far back for its height"),
        ({"fork_travel_mm": "100 miles"}, "is no unit for this"),
    ],
)
def test_measures_that_cannot_be_are_said_at_their_field(
    client: TestClient, workspace: Workspace, opened: OpenPlan, changes: dict[str, str], sentence: str
) -> None:
    fields = {**shown(BikeForm, BikeForm.values(opened.plan.variants[0].bike)), **changes}
    answer = client.post(do(opened, "bike"), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == 422 and sentence in answer.text
    assert open_plan(workspace, opened.id).revision == opened.revision


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [
        ({"load_limit_kg": "0"}, "below the least, 0.05 kg"),
        ({"length_mm": "1200"}, "above the most, 800 mm"),  # longer than a bike has room for
        ({"shield": "0.2", "shield_low": "0.5"}, "between its least and its most"),
        ({"mass_g": "4,5 kg"}, "above the most, 4000 g"),
        ({"dryness": "soaked"}, "is not on its list"),
    ],
)
def test_a_carrier_that_cannot_be_is_said_at_its_field(
    client: TestClient, opened: OpenPlan, changes: dict[str, str], sentence: str
) -> None:
    seat = next(c for c in opened.plan.variants[0].carriers if c.id == "seat")
    fields = {**shown(CarrierForm, CarrierForm.values(seat)), **changes}
    answer = client.post(do(opened, "carriers", "seat"), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == 422 and sentence in answer.text


def test_travel_brings_the_warning_with_its_millimetres(client: TestClient, opened: OpenPlan) -> None:
    assert "touches at" not in client.get(f"/plans/{opened.id}/a/rig").text
    fields = {**shown(BikeForm, BikeForm.values(opened.plan.variants[0].bike)), "fork_travel_mm": "100"}
    answer = client.post(do(opened, "bike"), data=sent(opened, **fields), headers=HTMX).text
    assert re.search(r"bar roll to the front tyre: \d+ mm at rest, touches at \d+ mm of 100 mm travel", answer)
    # the same sentence stands in the ledger, with the way to Rig
    assert "bar roll and front tyre" in answer and "Go to Rig" in answer


def test_a_wheelbase_that_the_other_measures_deny_is_doubted(client: TestClient, opened: OpenPlan) -> None:
    fields = {**shown(BikeForm, BikeForm.values(opened.plan.variants[0].bike)), "wheelbase_mm": "1120"}
    answer = client.post(do(opened, "bike"), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == 200 and "One of them is off: measure again" in answer.text


def test_a_carrier_put_nowhere_is_refused(client: TestClient, opened: OpenPlan) -> None:
    for fields in ({"place": "moon", "shift": "0"}, {"place": "seat", "shift": "far"}):
        answer = client.post(do(opened, "carriers", "seat", "put"), data=sent(opened, **fields), headers=HTMX)
        assert answer.status_code == 422
    gone = client.post(do(opened, "carriers", "ghost", "put"), data=sent(opened, place="seat"), headers=HTMX)
    assert gone.status_code == 404


def test_the_front_view_is_also_a_table(client: TestClient, opened: OpenPlan) -> None:
    page = client.get(f"/plans/{opened.id}/a/rig").text
    assert "and rider from the front" in page and "In the wind" in page
    total = re.search(r"<desc[^>]*>(\d+) cm² of the load stand outside", page)
    assert total is not None and 300 < int(total[1]) < 3_000


def test_a_check_can_be_switched_off_and_on_again(client: TestClient, opened: OpenPlan) -> None:
    before = client.get(f"/plans/{opened.id}/a/load").text
    assert "For a stop indoors" in before
    off = client.post(do(opened, "check-off"), data=sent(opened, check="indoors"), headers=HTMX).text
    assert "Switched off in this variant" in off and "For a stop indoors" not in off
    again = {"revision": opened.revision + 1, "leg": 0, "check": "indoors"}
    assert "For a stop indoors" in client.post(do(opened, "check-off"), data=again, headers=HTMX).text
    assert client.post(do(opened, "check-off"), data=sent(opened, check="flying")).status_code == 404
