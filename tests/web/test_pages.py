"""Pages and fragments: every room whole and in part, headers, stale and foreign requests."""

import re
from collections.abc import Iterator
from dataclasses import replace
from html.parser import HTMLParser

import pytest
from fastapi.testclient import TestClient

from stonechat.core.plan.plan import Plan
from stonechat.core.rhythm.rider import Rider
from stonechat.services import plans
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.workspace import Workspace
from stonechat.web.forms.rhythm import RiderForm
from stonechat.web.respond import wants_fragment

ROOMS = ["line", "rhythm", "rig", "kit", "load", "supply", "night", "charge", "mend", "cards", "diary"]
HTMX = {"HX-Request": "true"}


def room(opened: OpenPlan, name: str, variant: str = "a") -> str:
    return f"/plans/{opened.id}/{variant}/{name}"


class Outline(HTMLParser):
    """Collects ids, attributes that a strict policy forbids, and unlabelled fields."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.ids: list[str] = []
        self.forbidden: list[str] = []
        self.fields: list[str] = []
        self.labels: set[str] = set()
        self._inline = False
        self.feed(html)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        self.ids += [given["id"] or ""] if "id" in given else []
        self.forbidden += [f"{tag} {name}" for name in given if name == "style" or name.startswith("on")]
        self._inline = (tag == "script" and "src" not in given) or tag == "style"
        if tag in ("input", "select") and given.get("type") not in ("hidden",) and "aria-label" not in given:
            self.fields.append(given.get("id") or "")
        if tag == "label":
            self.labels.add(given.get("for") or "")

    def handle_data(self, data: str) -> None:
        if self._inline and data.strip():
            self.forbidden.append("inline script or style")


@pytest.mark.parametrize("name", ROOMS)
@pytest.mark.parametrize("variant", ["a", "b", "c"])
def test_a_room_is_a_whole_page_without_anything_inline(
    client: TestClient, opened: OpenPlan, name: str, variant: str
) -> None:
    answer = client.get(room(opened, name, variant))
    assert answer.status_code == 200
    outline = Outline(answer.text)
    assert outline.forbidden == []
    assert len(outline.ids) == len(set(outline.ids))
    assert set(outline.fields) <= outline.labels
    policy = answer.headers["content-security-policy"]
    assert "script-src 'self'" in policy and "unsafe" not in policy


@pytest.mark.parametrize("name", ROOMS)
def test_the_script_gets_the_stage_and_the_zones_beside_it(client: TestClient, opened: OpenPlan, name: str) -> None:
    part = client.get(room(opened, name), headers=HTMX).text
    assert part.lstrip().startswith('<section id="stage"')
    assert "<html" not in part
    for zone in ("tape", "ledger"):
        assert f"[data-sheet={zone}]" in part
    # what the fragment holds is what the page holds
    stage = part[: part.index("<div hx-swap-oob")]
    assert stage.strip() in client.get(room(opened, name)).text


def test_the_first_address_opens_the_demo_without_signing_in(client: TestClient, opened: OpenPlan) -> None:
    answer = client.get("/", follow_redirects=True)
    assert answer.status_code == 200 and "The Corvane Round" in answer.text


@pytest.mark.parametrize(
    ("headers", "part"),
    [
        ({}, False),
        ({"HX-Request": "true"}, True),
        ({"HX-Request": "true", "HX-Boosted": "true"}, False),
        ({"HX-Request": "true", "HX-History-Restore-Request": "true"}, False),
        ({"HX-Request-Type": "partial"}, True),
        ({"HX-Request-Type": "full", "HX-Request": "true"}, False),
    ],
)
def test_who_asks_for_a_part_gets_a_part(headers: dict[str, str], part: bool) -> None:
    assert wants_fragment(headers) is part


@pytest.mark.parametrize(
    "address",
    ["/plans/00000000-0000-0000-0000-000000000000/a/line", "/plans/no-plan/a/line", "/nothing", "/plans/x"],
)
def test_what_is_not_there_is_a_plain_sentence(client: TestClient, address: str) -> None:
    answer = client.get(address)
    assert answer.status_code == 404
    assert "There is no such" in answer.text and "Traceback" not in answer.text


def test_a_variant_or_room_that_is_not_there_is_a_404(client: TestClient, opened: OpenPlan) -> None:
    assert client.get(room(opened, "line", "z")).status_code == 404
    assert client.get(room(opened, "attic")).status_code == 404


@pytest.mark.parametrize("leg", [-5, 999])
def test_a_leg_beyond_the_tape_is_held_on_it(client: TestClient, opened: OpenPlan, leg: int) -> None:
    assert client.get(room(opened, "load"), params={"leg": leg}).status_code == 200


def form(opened: OpenPlan, **fields: str) -> dict[str, str]:
    return {"revision": str(opened.revision), "leg": "0", **fields}


def do(opened: OpenPlan, *parts: str) -> str:
    return "/".join((f"/plans/{opened.id}/a/do", *parts))


def test_a_move_without_script_ends_at_the_room(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    answer = client.post(do(opened, "move"), data=form(opened, item="rain-jacket", place="seat"))
    assert answer.status_code == 303 and "/a/load" in answer.headers["location"]
    assert open_plan(workspace, opened.id).plan.variants[0].places["rain-jacket"] == "seat"


def test_a_move_with_script_brings_the_new_figures(client: TestClient, opened: OpenPlan) -> None:
    answer = client.post(do(opened, "move"), data=form(opened, item="rain-jacket", place="seat"), headers=HTMX)
    assert answer.status_code == 200
    assert "rain jacket to seat pack" in answer.text
    assert re.search(r'class="change loss"><strong class="figure">\+\d+:\d\d', answer.text)
    assert "rain jacket in seat pack" in answer.text  # the check that it breaks


def test_a_stale_page_is_told_so_and_changes_nothing(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    plans.rename_plan(workspace, opened.id, revision=opened.revision, name="Changed elsewhere")
    for headers in ({}, HTMX):
        answer = client.post(do(opened, "move"), data=form(opened, item="phone", place="jersey"), headers=headers)
        assert answer.status_code == 409
        assert "another tab" in answer.text
    assert answer.headers["HX-Retarget"] == "#messages"
    as_json = client.post(
        do(opened, "move"), data=form(opened, item="phone", place="jersey"), headers={"Accept": "application/json"}
    )
    assert "another tab" in as_json.json()["error"]


RHYTHM = {
    "start_date": "2027-09-24", "start_time": "06:30", "zone": "Etc/GMT+2", "school": "window", "rise": "05:00",
    "halt": "23:00", "sleep_from": "23:00", "sleep_for_h": "4", "camp_time_min": "30", "wait_most_min": "10",
    "stay_shop": "12",
}  # fmt: skip
RIDER = {
    **{name: f"{value:g}" if isinstance(value, float) else value for name, value in RiderForm.values(Rider()).items()},
    "mass_kg": "72,5", "power_w": "150 W", "position": "aero",
}  # fmt: skip


def test_rider_and_hours_are_set_with_commas_and_units(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    assert client.post(do(opened, "rider"), data=form(opened, **RIDER)).status_code == 303
    now = open_plan(workspace, opened.id)
    assert client.post(do(opened, "rhythm"), data=form(now, **RHYTHM)).status_code == 303
    variant = open_plan(workspace, opened.id).plan.variants[0]
    assert (variant.rider.mass, variant.rider.power, variant.rider.position) == (72.5, 150.0, "aero")
    assert (variant.rhythm.halt, variant.rhythm.camp_time) == (23 * 3600.0, 1_800.0)
    assert variant.rhythm.dawdle == {"shop": 720.0} and variant.rhythm.nights == opened.plan.variants[0].rhythm.nights


@pytest.mark.parametrize(
    ("where", "field", "typed", "sentence"),
    [
        ("rider", "power_w", "2000", "2000 W is above the most, 400 W"),
        ("rider", "mass_kg", "-3", "-3 kg is below the least, 35 kg"),
        ("rider", "mass_kg", "heavy", "“heavy” is not a number"),
        ("rider", "mass_kg", "", "This is empty"),
        ("rider", "mass_kg", "inf", "is not a number"),
        ("rider", "position", "superman", "Choose one from the list"),
        ("rider", "coasting_pct", "80", "80 % is above the most, 50 %"),
        ("rhythm", "rise", "25:00", "“25:00” is no time of day"),
        ("rhythm", "start_date", "2027-02-30", "no day of the calendar"),
        ("rhythm", "zone", "Moon/Base", "no time zone"),
        ("rhythm", "school", "hammock", "is not on its list"),
        ("rhythm", "sleep_for_h", "20", "20 h is above the most, 16 h"),
        ("rhythm", "stay_shop", "-1", "-1 min is below the least"),
    ],
)
def test_a_wrong_entry_is_said_at_its_field_and_the_rest_is_kept(
    client: TestClient, opened: OpenPlan, workspace: Workspace, where: str, field: str, typed: str, sentence: str
) -> None:
    fields, kept = (RIDER, "150 W") if where == "rider" else (RHYTHM, "23:00")
    if field == "power_w":
        kept = "72,5"
    answer = client.post(do(opened, where), data=form(opened, **{**fields, field: typed}), headers=HTMX)
    assert answer.status_code == 422
    assert sentence in answer.text
    assert f'value="{kept}"' in answer.text  # what was typed elsewhere is still there
    assert open_plan(workspace, opened.id).revision == opened.revision


ITEM = {
    "name": "bell",
    "category": "other",
    "mass_g": "35",
    "quantity": "1",
    "access": "off",
    "reaches_per_day": "0",
    "need": "maybe",
}
CARRIER = {
    "name": "bear bag", "place": "bar", "side": "centre", "capacity_l": "6", "load_limit_kg": "2", "mass_g": "240",
    "longest_mm": "400", "access": "off", "open_time_s": "10", "drag_cm2": "60", "drag_fill_cm2_per_l": "0",
    "takes_items": "yes", "drag_by_hand": "yes", "capacity_by_hand": "yes", "shift_mm": "0", "capacity_least_l": "2",
    "mouth_mm": "0", "length_mm": "160", "width_mm": "380", "height_mm": "150", "dryness": "dry", "gloves_time_s": "8",
    "drag_coefficient": "0.9", "shield": "0.7", "shield_low": "0.5", "shield_high": "0.9", "sway_lever_mm": "0",
    "steadiness": "2", "loss": "low", "freezes": "open",
}  # fmt: skip
STOP = {
    "name": "Spring",
    "kind": "spring",
    "distance_km": "55",
    "dwell_min": "5",
    "detour_km": "0",
    "confidence_pct": "80",
    "hours": "Mo-Su 06:00-22:00",
    "water": "yes",
}
CLEANING = {"smoothing_m": "60", "threshold_m": "10", "surface": "track"}
PAINT = {"start_km": "10", "end_km": "12,5", "surface": "sand_mud"}
FORMS = {
    "paint": (PAINT, "end_km", "3000", "line"),
    "items/-": (ITEM, "mass_g", "20 t", "kit"),
    "carriers/-": (CARRIER, "capacity_l", "900", "rig"),
    "stops/-": (STOP, "hours", "25:00-26:00", "line"),
    "cleaning": (CLEANING, "threshold_m", "-1", "line"),
    "ground": ({"rolling_track": "0,019", "cap_tarmac": "50"}, "cap_tarmac", "500", "line"),
    "rules": ({"time_limit_h": "120", "compulsory": "whistle, front light"}, "start", "2027-99-01 10:00", "line"),
    "trim": ({"start_km": "100", "end_km": "900"}, "end_km", "5000", "line"),
    "nights/1": ({"kind": "for", "start": "00:30", "end": "05:00", "sleep_h": "3"}, "start", "24:30", "rhythm"),
    "supply/mirrel": ({"water_l": "3,1", "food_kcal": ""}, "water_l", "99", "supply"),
}


@pytest.mark.parametrize("way", sorted(FORMS))
def test_every_form_keeps_what_is_right_and_refuses_what_is_wrong(
    client: TestClient, opened: OpenPlan, workspace: Workspace, way: str
) -> None:
    fields, field, bad, _ = FORMS[way]
    wrong = client.post(do(opened, *way.split("/")), data=form(opened, **{**fields, field: bad}), headers=HTMX)
    assert wrong.status_code == 422 and 'aria-invalid="true"' in wrong.text
    assert open_plan(workspace, opened.id).revision == opened.revision
    right = client.post(do(opened, *way.split("/")), data=form(opened, **fields), headers=HTMX)
    assert right.status_code == 200
    assert open_plan(workspace, opened.id).revision == opened.revision + 1


def test_weather_is_set_by_day_and_wind_costs_time(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    page = client.get(room(opened, "line")).text
    fields = dict(re.findall(r'id="weather-(\w+)" name="\w+" value="([^"]*)"', page))
    assert fields["high_3"] == "29" and fields["wind_1"] == "9"
    windy = {**fields, **{f"wind_{day}": "30" for day in range(1, 8)}}
    client.post(do(opened, "weather"), data=form(opened, **windy))
    now = open_plan(workspace, opened.id)
    assert now.plan.line.weather.days[0].wind_speed == pytest.approx(30 / 3.6)
    assert evaluated(now, "a").ridden.ledger.moving > evaluated(opened, "a").ridden.ledger.moving
    for field, typed, sentence in (
        ("wind_2", "200", "200 km/h is above the most, 126 km/h"),
        ("rain_3", "-2", "-2 mm is below the least, 0 mm"),
        ("low_1", "25", "On day 1 the low, 25 °C, is above the high, 18 °C"),
    ):
        wrong = client.post(do(opened, "weather"), data=form(now, **{**fields, field: typed}), headers=HTMX)
        assert wrong.status_code == 422 and sentence in wrong.text


def test_a_surface_is_painted_and_taken_off_again(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    client.post(do(opened, "paint"), data=form(opened, **PAINT))
    painted = open_plan(workspace, opened.id)
    assert painted.undo_label == "sand or mud from km 10.0 to 12.5"
    assert painted.plan.line.spans[0].surface == "sand_mud"
    client.post(do(opened, "paint"), data=form(painted, **{**PAINT, "surface": "none"}))
    assert open_plan(workspace, opened.id).plan == opened.plan
    wrong = client.post(do(opened, "paint"), data=form(painted, **{**PAINT, "end_km": "2"}), headers=HTMX)
    assert wrong.status_code == 422 and "before it begins" in wrong.text


def test_the_bike_is_measured_anew(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    from stonechat.web.forms.rig import BikeForm

    values = {k: str(v) for k, v in BikeForm.values(opened.plan.variants[0].bike).items() if v is not False}
    answer = client.post(do(opened, "bike"), data=form(opened, **{**values, "stack_mm": "640", "aero_bars": "yes"}))
    assert answer.status_code == 303
    assert open_plan(workspace, opened.id).plan.variants[0].bike.stack == 0.64


def test_a_stop_beyond_the_finish_is_said_at_its_field(client: TestClient, opened: OpenPlan) -> None:
    answer = client.post(do(opened, "stops", "-"), data=form(opened, **{**STOP, "distance_km": "3000"}), headers=HTMX)
    assert answer.status_code == 422 and "3000 km is not on the course, which is 1140.0 km long" in answer.text


def test_pins_mounts_and_stops_are_switched(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    client.post(do(opened, "pin"), data=form(opened, item="phone"))
    now = open_plan(workspace, opened.id)
    assert now.plan.variants[0].pins == {"phone"}
    client.post(do(opened, "carriers", "pouch", "mount"), data=form(now))
    now = open_plan(workspace, opened.id)
    assert not next(c for c in now.plan.variants[0].carriers if c.id == "pouch").mounted
    client.post(do(opened, "stops", "ostrel", "use"), data=form(now))
    now = open_plan(workspace, opened.id)
    assert not next(s for s in now.plan.line.stops if s.id == "ostrel").used
    client.post(do(opened, "undo"), data=form(now, room="line"))
    assert next(s for s in open_plan(workspace, opened.id).plan.line.stops if s.id == "ostrel").used


def test_packing_is_proposed_and_taken_through_the_pages(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    assert client.post(do(opened, "pack"), data=form(opened)).status_code == 303
    page = client.get(room(opened, "load")).text
    moves = re.findall(r'name="take" value="([^"]+)"', page)
    assert moves and re.search(r"at most 0\.(0\d|10) % to gain, proven", " ".join(page.split()))
    answer = client.post(do(opened, "pack", "take"), data={**form(opened), "proposed": moves, "take": moves[:3]})
    assert answer.status_code == 303
    taken = open_plan(workspace, opened.id)
    assert taken.undo_label == "packed for me, 3 moved"


def test_costs_of_a_held_thing_come_as_data(client: TestClient, opened: OpenPlan) -> None:
    options = client.get(do(opened, "options"), params={"item": "mini-pump"}).json()
    by_carrier = {option["carrier"]: option for option in options}
    stance = by_carrier["top-rear"].pop("stance")
    assert 36.0 < stance["front_pct"] < 52.0 and abs(stance["lean_deg"]) < 0.5
    assert by_carrier["top-rear"] == {
        "carrier": "top-rear", "change_min": by_carrier["top-rear"]["change_min"], "reason": "too long by 45 mm",
        "possible": False,
    }  # fmt: skip
    here = opened.plan.variants[0].places["mini-pump"]
    assert by_carrier[here]["change_min"] == 0.0
    assert client.get(do(opened, "options"), params={"item": "no-such"}).status_code == 404


def test_charts_and_finding_get_finite_data(client: TestClient, opened: OpenPlan) -> None:
    profile = client.get(do(opened, "profile.json")).json()
    assert len(profile["km"]) == len(profile["height_m"]) == len(profile["surface"]) <= 3_002
    assert profile["km"][-1] == pytest.approx(1_140.0, abs=0.1)
    found = client.get(do(opened, "find")).json()
    assert {"room", "thing", "carrier"} <= {entry["kind"] for entry in found}


@pytest.fixture
def hostile(client: TestClient, opened: OpenPlan, workspace: Workspace) -> Iterator[OpenPlan]:
    """The demo plan with names that try to be markup."""
    name = '<img src=x onerror="alert(1)">&"\''
    item = {**ITEM, "name": name, "note": name}
    client.post(do(opened, "items", "-"), data=form(opened, **item))
    now = open_plan(workspace, opened.id)
    client.post(do(opened, "carriers", "seat"), data=form(now, **{**CARRIER, "name": name, "place": "seat"}))
    yield open_plan(workspace, opened.id)


@pytest.mark.parametrize("name", ROOMS)
def test_names_are_text_never_markup(client: TestClient, hostile: OpenPlan, name: str) -> None:
    assert "<img" not in client.get(room(hostile, name)).text


def test_a_change_from_another_site_or_name_is_refused(client: TestClient, opened: OpenPlan) -> None:
    data = form(opened, item="phone", place="jersey")
    assert client.post(do(opened, "move"), data=data, headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403
    assert client.get("/plans", headers={"Host": "evil.example"}).status_code == 421


def test_an_unexpected_fault_says_nothing_of_its_insides(
    client: TestClient, opened: OpenPlan, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def fall(*_: object, **__: object) -> None:
        raise ZeroDivisionError("secret detail")

    monkeypatch.setattr("stonechat.web.rooms.plans.catalogue.list_plans", fall)
    answer = client.get("/plans")
    assert answer.status_code == 500 and "secret detail" not in answer.text
    reference = re.search(r"<code>(\w{8})</code>", answer.text)
    assert reference is not None and reference[1] in caplog.text


def test_a_stop_to_sleep_at_is_chosen_and_let_go(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    client.post(do(opened, "rhythm"), data=form(opened, **{**RHYTHM, "school": "places"}))
    now = open_plan(workspace, opened.id)
    assert evaluated(now, "a").ridden.ledger.minutes("nights") == 0.0
    client.post(do(opened, "sleep"), data=form(now, stop="vint-mill", sleep_h="1,5"))
    client.post(do(opened, "sleep"), data=form(open_plan(workspace, opened.id), stop="kemmer", sleep_h="3 h"))
    now = open_plan(workspace, opened.id)
    assert evaluated(now, "a").ridden.ledger.minutes("nights") == pytest.approx(4.5 * 60 + 2 * 30)
    page = client.get(room(opened, "rhythm")).text
    # the nap by day and the rest in the evening belong to the same night, and both are listed
    assert page.count("km 118") >= 1 and page.count("km 187") >= 1 and page.count("1, Friday") == 2
    client.post(do(opened, "sleep"), data=form(now, stop="kemmer", sleep_h=""))
    assert set(open_plan(workspace, opened.id).plan.variants[0].rhythm.sleep_at) == {"vint-mill"}
    for fields in ({"stop": "nowhere", "sleep_h": "3"}, {"stop": "kemmer", "sleep_h": "40"}):
        assert client.post(do(opened, "sleep"), data=form(now, **fields)).status_code in (404, 422)


def test_a_night_and_a_stay_are_previewed_without_changing_anything(client: TestClient, opened: OpenPlan) -> None:
    finish = evaluated(opened, "a").ridden.ledger.finish / 60.0
    longer = client.get(do(opened, "preview"), params={"night": 1, "start": "22:00", "end": "06:00"}).json()
    assert 0.0 < longer["change_min"] < 120.0 and longer["change"].startswith("+")
    stay = client.get(do(opened, "preview"), params={"stop": "tazzle", "stay_min": "100"}).json()
    assert abs(stay["change_min"] - 60.0) < 45.0  # an hour more there, and another hour of the day at the next doors
    for params in ({"night": 99, "start": "22:00", "end": "06:00"}, {"night": 1, "start": "x", "end": "06:00"},
                   {"stop": "tazzle", "stay_min": "-4"}):  # fmt: skip
        wrong = client.get(do(opened, "preview"), params=params, headers={"Accept": "application/json"})
        assert wrong.status_code == 422 and wrong.json()["error"].endswith(".")
    assert evaluated(opened, "a").ridden.ledger.finish / 60.0 == finish


@pytest.mark.parametrize("table", ["profile", "stops", "surfaces", "weather", "timetable"])
def test_tables_of_the_line_go_out(client: TestClient, opened: OpenPlan, table: str) -> None:
    answer = client.get(do(opened, "tables", f"{table}.csv"))
    assert answer.headers["content-type"].startswith("text/csv") and answer.text.count("\n") > 5
    assert client.get(do(opened, "tables", "secrets.csv")).status_code == 422


@pytest.mark.parametrize(
    ("where", "table", "sentence"),
    [
        ("surfaces", "from_km,to_km,surface\n1100,1300,track", "1300 km is past the finish"),
        ("stops.csv", "name,lat,lon\nTap,45.0,-20.0", "km off the course; 5 km is the most"),
        ("stops.csv", "name,km,hours\nTap,9,Mo 25:00-26:00", "“25:00” is no time of day"),
        ("weather/table", "date,low_c,high_c\n2031-01-01,1,9", "no row for 24 September 2027"),
        ("weather/table", "low_c,high_c,wind_kmh\n1,9,200", "200 is outside 0 to 126 km/h"),
    ],
)
def test_a_bad_table_is_refused_in_words_and_changes_nothing(
    client: TestClient, opened: OpenPlan, workspace: Workspace, where: str, table: str, sentence: str
) -> None:
    answer = client.post(
        do(opened, *where.split("/")), files={"file": ("t.csv", table.encode())},
        data=form(opened, mode="add"), headers=HTMX,
    )  # fmt: skip
    assert answer.status_code == 422 and sentence in answer.text and answer.headers["HX-Retarget"] == "#messages"
    assert open_plan(workspace, opened.id).revision == opened.revision


def test_rooms_of_three_hundred_stops_and_two_hundred_things_stay_light(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    line, kit = opened.plan.line, opened.plan.items

    def enlarge(plan: Plan) -> Plan:
        stops = tuple(
            replace(
                line.stops[k % 26],
                id=f"s{k}",
                name=f"{line.stops[k % 26].name} {k}",
                distance=1_000.0 + 3_700.0 * k,
                cutoff=None,
            )
            for k in range(300)
        )
        items = tuple(
            replace(kit[k % len(kit)], id=f"i{k}", name=f"{kit[k % len(kit)].name} {k}", container="", pouch=None)
            for k in range(200)
        )
        variants = tuple(
            replace(v, places={}, pins=frozenset(), rhythm=replace(v.rhythm, sleep_at={}, stays={}))
            for v in plan.variants
        )
        return replace(plan, line=replace(line, stops=stops), items=items, variants=variants)

    change_plan(workspace, opened.id, revision=opened.revision, label="large", change=enlarge)
    for name in ROOMS:
        page = client.get(room(opened, name), params={"leg": 0}).text
        assert len(page.encode()) < 300_000, name
        assert page.count('data-leg="') == 301  # every stop is on the tape
    whole = client.get(room(opened, "line"), params={"all": "yes"}).text
    assert f">{line.stops[0].name} 0<" in whole and f">{line.stops[299 % 26].name} 299<" in whole
    near = client.get(room(opened, "line"), params={"leg": 150}).text
    assert "Show all" in " ".join(near.split()) and f">{line.stops[150 % 26].name} 150</a>" in near
