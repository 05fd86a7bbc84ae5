"""Forms: whatever is typed is taken or told, never a fault; errors in page, part and data."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st

from stonechat import errors
from stonechat.core.kit.item import Item
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.surface import GroundFigures
from stonechat.core.plan.limits import LIMITS
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.bike import Bike
from stonechat.demo.corvane import demo_plan
from stonechat.web.errors import add_handlers
from stonechat.web.forms.begin import BeginForm
from stonechat.web.forms.binding import Form, bind, start_values
from stonechat.web.forms.kit import ItemForm
from stonechat.web.forms.line import (
    CleaningForm,
    PaintForm,
    RulesForm,
    StopForm,
    TrimForm,
    ground_form,
    ground_values,
)
from stonechat.web.forms.rhythm import NightForm, RiderForm, rhythm_form, rhythm_values
from stonechat.web.forms.rig import BikeForm, CarrierForm, StartForm
from stonechat.web.forms.supply import SupplyForm
from stonechat.web.forms.weather import weather_form, weather_values
from stonechat.web.forms.weigh import WheelForm
from tests.strategies import owned_items, rounded

PLAN = demo_plan()
FORMS: list[type[Form]] = [
    RiderForm, rhythm_form(), NightForm, BikeForm, CarrierForm, ItemForm, StopForm, CleaningForm, PaintForm, TrimForm,
    RulesForm, ground_form("wide", "bold"), SupplyForm, weather_form(3),
]  # fmt: skip
typed = st.one_of(
    st.text(max_size=12), st.sampled_from(["", "nan", "1e999", "-0", "٣", "12:60", "0x10", "1_0", "<b>", "\x00"])
)


@pytest.mark.parametrize("schema", FORMS, ids=lambda s: s.__name__)
@given(data=st.data())
def test_any_text_in_any_field_is_taken_or_told(schema: type[Form], data: st.DataObject) -> None:
    raw = {name: data.draw(typed) for name in schema.model_fields}
    form = bind(schema, raw)
    assert (form.value is None) == bool(form.errors)
    for view in form.fields:
        assert view.value == raw[view.name]  # shown again as it was typed
    for sentences in form.errors.values():
        assert all(sentence.endswith((".", "!", "?")) for sentence in sentences), sentences


def filled(schema: type[Form], values: Mapping[str, Any]) -> Any:
    """Return a form sent as the page shows it."""
    shown = start_values(schema, values)
    form = bind(schema, {view.name: view.value for view in shown.fields})
    assert form.errors == {}
    return form.value


@given(owned_items("thing"))
def test_the_form_of_a_thing_sent_as_it_is_shown_changes_nothing(item: Item) -> None:
    again = filled(ItemForm, ItemForm.values(item, (item,))).to_core(item.id, (item,))
    assert rounded(again) == rounded(item)


def test_a_form_sent_as_it_is_shown_changes_nothing() -> None:
    variant = PLAN.variants[0]
    assert filled(BikeForm, BikeForm.values(variant.bike)).to_core() == variant.bike
    for carrier in variant.carriers:
        assert filled(CarrierForm, CarrierForm.values(carrier)).to_core(carrier) == carrier
    for item in PLAN.items:
        assert filled(ItemForm, ItemForm.values(item, PLAN.items)).to_core(item.id, PLAN.items) == item
    for stop in PLAN.line.stops:
        assert filled(StopForm, StopForm.values(stop)).to_core(stop) == stop
    for changed in PLAN.variants:
        assert filled(RiderForm, RiderForm.values(changed.rider)).to_core(changed.rider) == changed.rider
        assert filled(rhythm_form(), rhythm_values(changed.rhythm)).to_core(changed.rhythm) == changed.rhythm
    own = replace(variant.rhythm, dawdle={"shop": 600.0, "bed": 0.0}, school="hours", sleep_for=9_000.0)
    assert filled(rhythm_form(), rhythm_values(own)).to_core(variant.rhythm) == own
    weather = PLAN.line.weather
    count = len(weather.days)
    assert filled(weather_form(count), weather_values(weather, count)).to_core(weather) == weather
    for rules in (PLAN.rules, RaceRules()):
        assert filled(RulesForm, RulesForm.values(rules)).to_core() == rules
    ground = (GroundFigures(tyre="wide", surface="track", rolling=0.02, cap=8.0, grade_most=0.13),)
    assert filled(ground_form("wide", "bold"), ground_values(ground, "wide")).to_core("wide") == ground


def test_a_forecast_keeps_its_band_until_the_day_is_changed_by_hand() -> None:
    days = tuple(replace(day, temp_band=2.5) for day in PLAN.line.weather.days)
    known = replace(PLAN.line.weather, days=days, source="a service")
    values = weather_values(known, len(days))
    assert filled(weather_form(len(days)), values).to_core(known) == known
    changed = filled(weather_form(len(days)), {**values, "low_2": -1.0}).to_core(known)
    assert [day.temp_band for day in changed.days[:3]] == [2.5, 0.0, 2.5] and changed.source == "set by hand"


@pytest.mark.parametrize(
    ("kind", "start", "end", "hours"),
    [
        ("until", "22:30", "05:00", (22.5, 29.0)),
        ("until", "01:00", "04:30", (25.0, 28.5)),
        ("for", "23:00", "05:00", (23, 0)),
    ],
)
def test_times_of_a_night_count_from_its_evening(kind: str, start: str, end: str, hours: tuple[float, float]) -> None:
    night = bind(NightForm, {"kind": kind, "start": start, "end": end, "sleep_h": "3"}).value
    assert night is not None
    core = night.to_core()
    assert (core.start / 3600, core.end / 3600) == hours
    assert core.sleep == (10_800.0 if kind == "for" else 0.0)


@pytest.mark.parametrize(
    ("schema", "values"),
    [
        (RiderForm, RiderForm.values(Rider())),
        (rhythm_form(), rhythm_values(Rhythm())),
        (BikeForm, BikeForm.values(Bike())),
        (ItemForm, ItemForm.values(PLAN.items[0], PLAN.items)),
        (CarrierForm, CarrierForm.values(PLAN.variants[0].carriers[4])),
    ],
)
def test_every_figure_has_limits_that_are_told_with_their_unit(schema: type[Form], values: dict[str, Any]) -> None:
    shown = {view.name: view.value for view in start_values(schema, values).fields}
    for view in start_values(schema, values).fields:
        if view.kind != "number":
            continue
        for typed_figure in ("-100000", "100000000"):
            error = bind(schema, {**shown, view.name: typed_figure}).errors[view.name][0]
            assert ("below the least" in error or "above the most" in error) and view.unit in error


def test_limits_are_intervals_that_hold_the_defaults() -> None:
    assert all(limit.low < limit.high for limit in LIMITS.values())
    bike, rider = Bike(), Rider()
    for name in ("wheelbase", "chainstay", "stack", "reach", "head_tube", "seat_tube", "saddle_height", "fork_rake"):
        assert LIMITS[name].low <= getattr(bike, name) <= LIMITS[name].high
    for name in ("power", "endurance", "night_dip", "pace_uphill", "drivetrain", "gross_efficiency", "intake"):
        assert LIMITS[name].low <= getattr(rider, name) <= LIMITS[name].high


ERRORS = [
    (errors.InvalidInput, 422),
    (errors.UnreadableFile, 422),
    (errors.TooLarge, 413),
    (errors.NotFound, 404),
    (errors.Clash, 409),
    (errors.ConvergenceError, 500),
    (errors.Unavailable, 503),
]


@pytest.fixture(scope="module")
def failing() -> TestClient:
    """A program whose every page fails as asked."""
    app = FastAPI()
    add_handlers(app)

    @app.get("/{kind}")
    def fail(kind: str) -> None:
        raise getattr(errors, kind)("The bag is <b>full</b>. Empty it.", subject="bag")

    return TestClient(app, raise_server_exceptions=False)


@pytest.mark.parametrize(("kind", "status"), ERRORS)
def test_every_error_answers_as_page_as_part_and_as_data(
    failing: TestClient, kind: type[errors.StonechatError], status: int
) -> None:
    page = failing.get(f"/{kind.__name__}")
    part = failing.get(f"/{kind.__name__}", headers={"HX-Request": "true"})
    data = failing.get(f"/{kind.__name__}", headers={"Accept": "application/json"})
    assert page.status_code == part.status_code == data.status_code == status
    assert "<!doctype html>" in page.text and "&lt;b&gt;full&lt;/b&gt;" in page.text
    assert "<html" not in part.text and part.headers["HX-Retarget"] == "#messages"
    told = data.json()
    assert told.pop("error").startswith("The bag is <b>full</b>. Empty it.")
    assert told == {"subject": "bag", "reference": ""}


def _schemas() -> list[type[Form]]:
    return [
        StopForm, CleaningForm, PaintForm, RulesForm, RiderForm, rhythm_form(), NightForm, StartForm, BikeForm,
        CarrierForm, ItemForm, WheelForm, BeginForm,
    ]  # fmt: skip


def _choices() -> dict[tuple[str, str], frozenset[str]]:
    """Return every select of every form with the keys that it takes."""
    return {
        (schema.__name__, entry.name): frozenset(entry.options)
        for schema in _schemas()
        for entry in start_values(schema, {}).fields
        if entry.kind == "select"
    }


@pytest.mark.parametrize("schema", _schemas(), ids=lambda schema: schema.__name__)
def test_a_select_takes_its_own_keys_and_none_of_any_other_select(schema: type[Form]) -> None:
    choices = _choices()
    # an empty entry counts as none given
    every = frozenset().union(*choices.values()) - {""} | {"bold", "aero", "window", "sand_mud", "x" * 300}
    mine = [name for owner, name in choices if owner == schema.__name__]
    for name in mine:
        own = choices[schema.__name__, name]
        for key in every:
            wrong = name in bind(schema, {name: key}).errors
            assert wrong == (key not in own), (name, key)
