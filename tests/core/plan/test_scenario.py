"""What is fixed before a ride: positions, caps, doors, stays, sun and zones along the way."""

from dataclasses import replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from stonechat.core.kit.item import Item
from stonechat.core.line.stops import ALWAYS, KINDS, is_open
from stonechat.core.line.sun import daylight
from stonechat.core.line.surface import SURFACE_INDEX
from stonechat.core.line.track import make_track
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Line, Plan, Variant
from stonechat.core.plan.scenario import DETOUR_SPEED, Scenario, make_scenario, stay_at
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import POSITIONS, Rider
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.spots import SPOTS, spot_position


@pytest.fixture(scope="module")
def scenario(demo: Plan) -> Scenario:
    return make_scenario(demo, demo.variants[0], None)


def variant_with(demo: Plan, **changes: object) -> Variant:
    return replace(demo.variants[0], **changes)


def test_the_rider_sits_as_grade_and_ground_ask(demo: Plan) -> None:
    rider = Rider(
        position="aero", position_climbing="upright", position_descending="drops", position_rough="hoods",
        climb_from=0.05,
    )  # fmt: skip
    scenario = make_scenario(demo, variant_with(demo, rider=rider), None)
    rough = {SURFACE_INDEX[key] for key in ("rough_gravel", "track", "singletrack", "sand_mud", "hike_a_bike")}
    for k in range(0, scenario.profile.grades.size, 7):
        grade, surface = scenario.profile.grades[k], int(scenario.profile.surfaces[k])
        expected = "aero"
        if grade <= -0.05:
            expected = "drops"
        if surface in rough:
            expected = "hoods"
        if grade >= 0.05:
            expected = "upright"
        assert scenario.bare_drag[k] == POSITIONS[expected][1]


def test_descents_are_capped_by_surface_steepness_and_bends(scenario: Scenario) -> None:
    profile, course = scenario.profile, scenario.course
    tarmac = profile.surfaces == SURFACE_INDEX["tarmac"]
    straight = profile.bends >= 300.0
    gentle = tarmac & straight & (profile.grades > -0.10)
    assert course.caps[gentle] == pytest.approx(np.full(gentle.sum(), 15.3))
    steep = straight & tarmac & (profile.grades < -0.12)
    if steep.any():
        assert (course.caps[steep] < 15.3).all()
    assert (course.caps <= np.sqrt(3.0 * profile.bends) + 1e-9).all()


def test_a_bold_rider_descends_faster_and_a_tight_bend_slows_both(demo: Plan) -> None:
    caps = {
        boldness: make_scenario(demo, variant_with(demo, rider=Rider(descending=boldness)), None).course.caps
        for boldness in ("cautious", "normal", "bold")
    }
    walked = caps["normal"] == 1.6
    assert (caps["cautious"] <= caps["normal"]).all() and (caps["normal"] <= caps["bold"]).all()
    assert (caps["cautious"] < caps["bold"])[~walked].all()


def test_doors_are_the_opening_hours_of_each_day(scenario: Scenario) -> None:
    clock, first = scenario.clock, scenario.start.replace(hour=0, minute=0)
    for k, stop in enumerate(scenario.stops):
        doors = slice(clock.doors.first[k], clock.doors.first[k + 1])
        opens, shuts = clock.doors.opens[doors], clock.doors.shuts[doors]
        assert clock.doors.known[k] == (stop.hours not in (None, ALWAYS))
        for hour in np.arange(0.25, 120.0, 3.7):
            moment = first + timedelta(hours=float(hour))
            seconds = moment.hour * 3600.0 + moment.minute * 60.0
            inside = bool(((opens <= hour * 3600.0) & (hour * 3600.0 < shuts)).any())
            assert not clock.doors.known[k] or inside == is_open(stop.hours or (), moment.weekday(), seconds)


def test_a_stay_set_by_hand_comes_before_the_stops_own_and_that_before_its_kinds(demo: Plan) -> None:
    stop = replace(demo.line.stops[0], kind="shop", dwell=None, detour=900.0)
    way = 900.0 / DETOUR_SPEED
    plain = variant_with(demo)
    assert stay_at(stop, plain) == KINDS["shop"].stay + way
    slow = variant_with(demo, rhythm=replace(plain.rhythm, dawdle={"shop": 1_500.0}))
    assert stay_at(stop, slow) == 1_500.0 + way
    own = replace(stop, dwell=240.0)
    assert stay_at(own, slow) == 240.0 + way
    by_hand = variant_with(demo, rhythm=replace(slow.rhythm, stays={stop.id: 60.0}))
    assert stay_at(own, by_hand) == 60.0 + way


def test_the_sun_is_that_of_each_place_and_day(scenario: Scenario) -> None:
    rises, sets = scenario.clock.sky.sunrises, scenario.clock.sky.sunsets
    zone = ZoneInfo("Etc/GMT+2")
    for point in (0, 3, 7):
        along = point / 7.0 * scenario.profile.length
        lat, lon = (
            float(np.interp(along, scenario.profile.distances, values))
            for values in (scenario.profile.latitudes, scenario.profile.longitudes)
        )
        rise, down = daylight(latitude=lat, longitude=lon, day=scenario.start.date() + timedelta(days=2), zone=zone)
        assert (rises[2, point], sets[2, point]) == pytest.approx((rise, down), abs=20.0)
    assert (np.diff(sets[:, 0] - rises[:, 0]) < 0.0).all()  # days grow shorter after the equinox


def long_way_east() -> Plan:
    """Return a flat course of 900 km along the equator on the open sea, where zones are fifteen degrees wide."""
    lons = np.linspace(-34.0, -25.9, 9_001)
    track = make_track(np.zeros(lons.size), lons, np.zeros(lons.size))
    rhythm = Rhythm(start=datetime(2027, 3, 20, 6, 0), zone="Etc/GMT+2", school="through")
    weather = Weather(days=(DayWeather(temp_low=18.0, temp_high=22.0),), reference_height=0.0)
    return Plan(
        name="east", line=Line(track=track, weather=weather), variants=(Variant(id="a", name="A", rhythm=rhythm),)
    )


def test_clocks_are_those_of_the_place_and_the_sun_meets_whoever_rides_towards_it() -> None:
    plan = long_way_east()
    ridden = evaluate(plan, "a").ridden
    assert ridden.timetable.visits[-1].arrives.tzinfo == ZoneInfo("Etc/GMT+2")
    # a degree further east the sun rises four minutes earlier by the same clock
    rises = ridden.timetable.clock.sky.sunrises[0]
    assert (rises[0] - rises[-1]) / 60.0 == pytest.approx(4.0 * 8.1, abs=1.0)
    further = replace(plan, line=replace(plan.line, track=make_track(
        np.zeros(12_001), np.linspace(-34.0, -21.0, 12_001), np.zeros(12_001)
    )))  # fmt: skip
    last = evaluate(further, "a").ridden.timetable.visits[-1].arrives
    assert last.tzinfo == ZoneInfo("Etc/GMT+1")
    begun = datetime(2027, 3, 20, 6, 0, tzinfo=ZoneInfo("Etc/GMT+2"))
    assert (last - begun).total_seconds() == pytest.approx(evaluate(further, "a").ridden.ledger.finish, abs=1.0)


def test_a_day_of_rain_slows_a_gravel_route(demo: Plan) -> None:
    def with_rain(rain: float) -> Plan:
        days = tuple(replace(day, rain=rain) for day in demo.line.weather.days)
        return replace(demo, line=replace(demo.line, weather=replace(demo.line.weather, days=days)))

    dry, rainy = (evaluate(with_rain(rain), "a").ridden for rain in (0.0, 8.0))
    assert rainy.ledger.moving > 1.01 * dry.ledger.moving
    loose = make_scenario(demo, demo.variants[0], None).course.loose > 0
    ratio = rainy.ride.conditions.rolling[loose] / dry.ride.conditions.rolling[loose]
    assert ratio == pytest.approx(np.full(loose.sum(), 1.2))


@pytest.mark.parametrize("spot", sorted(SPOTS))
def test_what_is_fixed_tips_the_bike_about_its_own_spot(demo: Plan, spot: str) -> None:
    # moments about the rear contact, by hand: m x = m₁ x₁ + m₂ x₂
    lamp = Item(id="lamp", name="lamp", mass=2.0, volume=0.001, fixed=spot)
    without, with_lamp = (evaluate(replace(demo, items=(*demo.items, *more)), "a").ridden for more in ((), (lamp,)))
    before, after = (ridden.film[0].balance for ridden in (without, with_lamp))
    # a little more food may be aboard; what counts is the moment of all that came
    more = after.mass - before.mass
    x, _, z = spot_position(demo.variants[0].bike, spot)
    assert more == pytest.approx(2.0, abs=0.05)
    assert after.mass * after.x - before.mass * before.x == pytest.approx(2.0 * x, abs=0.06)
    assert after.mass * after.z - before.mass * before.z == pytest.approx(2.0 * z, abs=0.06)
    assert with_lamp.unplaced == without.unplaced


def test_spots_lie_where_they_are_said_to() -> None:
    bike = Bike()
    at = {key: spot_position(bike, key) for key in SPOTS}
    front, rear = bike.wheelbase, 0.0
    assert rear - 0.5 < at["seatpost"][0] < at["frame"][0] < at["stem"][0] < at["bars"][0] < front + 0.3
    assert max(at, key=lambda key: at[key][2]) == "helmet" and 1.2 < at["helmet"][2] < 1.8
