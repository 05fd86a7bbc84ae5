"""Every part of the plan document: there and back, and what it refuses."""

import math
from dataclasses import replace
from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from stonechat.core.kit.item import HOME
from stonechat.core.line.stops import OFFERS, Stop
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.plan.plan import Supply, Variant
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import POSITIONS, Rider
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import frame_points
from stonechat.formats.documents.kit import ItemDocument
from stonechat.formats.documents.line import DayWeatherDocument, StopDocument, WeatherDocument
from stonechat.formats.documents.part import clock_seconds, clock_text
from stonechat.formats.documents.rider import RhythmDocument, RiderDocument
from stonechat.formats.documents.rig import BikeDocument, CarrierDocument, upgraded_bike
from stonechat.formats.documents.variant import SupplyDocument, VariantDocument
from tests.strategies import CARRIERS, items

minutes = st.integers(0, 1_440).map(lambda m: m * 60.0)
tenths = st.integers(0, 400).map(lambda n: n / 10)


@given(minutes)
def test_times_of_day_come_back(seconds: float) -> None:
    assert clock_seconds(clock_text(seconds)) == seconds


@given(
    st.sampled_from(sorted(POSITIONS)), st.integers(35, 160), st.integers(50, 400), st.integers(300, 1000),
    st.integers(8, 120),
)  # fmt: skip
def test_a_rider_comes_back(position: str, mass: int, power: int, endurance: int, fade: int) -> None:
    rider = Rider(
        position=position, mass=float(mass), power=float(power), endurance=endurance / 1000, fade_time=fade * 3600.0
    )
    assert RiderDocument.of(rider).core() == rider


@given(minutes.filter(lambda s: s < 86_400), minutes, st.booleans())
def test_riding_hours_come_back(rise: float, halt: float, first: bool) -> None:
    rhythm = Rhythm(start=datetime(2027, 5, 2, 4, 30), zone="Etc/GMT-3", rise=rise, halt=halt, first_night=first)
    assert RhythmDocument.of(rhythm).core() == rhythm


@given(items("thing"))
def test_a_thing_comes_back(item) -> None:  # type: ignore[no-untyped-def]
    again = ItemDocument.of(item).core()
    assert replace(again, mass=item.mass, volume=item.volume) == item
    assert (again.mass, again.volume) == pytest.approx((item.mass, item.volume), rel=1e-9)


@pytest.mark.parametrize("carrier", CARRIERS, ids=lambda c: c.id)
@given(tenths, tenths, st.booleans())
def test_a_carrier_comes_back(carrier: Carrier, drag: float, fill: float, mounted: bool) -> None:
    changed = replace(carrier, drag=drag / 1e4, drag_fill=fill / 1e2, mounted=mounted, capacity=0.0035)
    again = CarrierDocument.of(changed).core()
    assert replace(again, drag=changed.drag, drag_fill=changed.drag_fill) == changed
    assert (again.drag, again.drag_fill) == pytest.approx((changed.drag, changed.drag_fill), abs=1e-12)


@given(st.sets(st.sampled_from(sorted(OFFERS))), tenths, st.booleans())
def test_a_stop_comes_back(offers: set[str], dwell: float, used: bool) -> None:
    hours = (((25_200.0, 43_200.0), (50_400.0, 72_000.0)),) * 5 + ((), ((64_800.0, 93_600.0),))
    stop = Stop(
        id="inn", name="Inn", distance=62_000.0, offers=frozenset(offers), hours=hours, dwell=dwell * 60, used=used
    )
    again = StopDocument.of(stop).core()
    assert replace(again, dwell=stop.dwell) == stop and again.dwell == pytest.approx(stop.dwell)


@given(st.integers(-20, 10), st.integers(11, 40), st.integers(0, 120), st.integers(0, 360))
def test_weather_comes_back(low: int, high: int, wind: int, from_: int) -> None:
    day = DayWeather(temp_low=float(low), temp_high=float(high), wind_speed=wind / 3.6, wind_from=float(from_))
    weather = Weather(days=(day, day), reference_height=300.0, relative_humidity=0.5)
    assert WeatherDocument.of(weather).core() == weather


def test_a_variant_comes_back_with_all_that_hangs_on_it() -> None:
    variant = Variant(
        id="a", name="A", carriers=CARRIERS, places={"x": "frame", "y": HOME}, pins=frozenset({"x"}),
        supply=Supply(water_by_stop={"start": 1.5}, food_by_stop={"inn": 900.0}), checks_off=frozenset({"sway"}),
    )  # fmt: skip
    again = VariantDocument.of(variant).core()
    assert replace(again, carriers=variant.carriers) == variant
    assert [c.id for c in again.carriers] == [c.id for c in CARRIERS]
    assert SupplyDocument.of(variant.supply).core() == variant.supply


def test_what_cannot_be_is_refused_in_words() -> None:
    with pytest.raises(ValidationError, match="the low, 9 °C, is above the high, 3 °C"):
        DayWeatherDocument(low_c=9.0, high_c=3.0)
    twice = {**VariantDocument.of(Variant(id="a", name="A", carriers=CARRIERS)).model_dump()}
    twice["carriers"] = [twice["carriers"][0], twice["carriers"][0]]
    with pytest.raises(ValidationError, match="two carriers share an id"):
        VariantDocument.model_validate(twice)
    with pytest.raises(ValidationError, match="is no place"):
        CarrierDocument.model_validate({**CarrierDocument.of(CARRIERS[0]).model_dump(), "place": "roof"})
    with pytest.raises(ValidationError, match="is no access"):
        ItemDocument(id="x", name="x", mass_g=1.0, volume_l=0.0, access="by drone")


@given(st.integers(200, 420), st.integers(450, 900), st.integers(68, 78))
def test_a_bike_of_version_1_keeps_its_wheel_and_its_saddle(radius: int, height: int, angle: int) -> None:
    document = BikeDocument.of(Bike()).model_dump()
    old = {key: value for key, value in document.items() if key in OLD_BIKE}
    old |= {"wheel_radius_mm": radius, "saddle_height_mm": height, "seat_angle_deg": angle}
    bike = BikeDocument.model_validate(upgraded_bike(old)).core()
    assert bike.wheel_radius == pytest.approx(radius / 1e3, abs=1e-6)
    along_tube = height / 1e3 * math.cos(math.radians(angle))
    saddle, bracket = frame_points(bike).saddle, frame_points(bike).bottom_bracket
    if -0.15 < along_tube - 0.165 < 0.25:  # as far as a setback may be
        assert bracket[0] - saddle[0] == pytest.approx(along_tube, abs=1e-5)


OLD_BIKE = (
    "name", "mass_kg", "wheelbase_mm", "chainstay_mm", "bottom_bracket_drop_mm", "head_angle_deg", "seat_angle_deg",
    "stack_mm", "reach_mm", "head_tube_mm", "seat_tube_mm", "saddle_height_mm", "fork_rake_mm", "fork_travel_mm",
    "crank_mm", "bars", "aero_bars", "tyre",
)  # fmt: skip
