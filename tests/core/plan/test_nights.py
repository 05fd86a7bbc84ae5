"""Nights as they fall, places near them, and changes of the whole ridden again."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from stonechat.core.ledger.ridden import Cold
from stonechat.core.line.weather import temperature_at_height
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.film import masses_along
from stonechat.core.plan.nights import NEAR, air_temperature, proposals_for, rests_of
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import make_scenario
from stonechat.core.plan.sky import clock_after, elapsed_at, skies_of
from stonechat.core.plan.whatif import what_ifs
from stonechat.core.rhythm.rhythm import Night
from stonechat.core.rhythm.times import segment_times


def with_rhythm(plan: Plan, **changes: object) -> Plan:
    variant = plan.variants[0]
    return plan.with_variant(replace(variant, rhythm=replace(variant.rhythm, **changes)))


def test_rests_are_those_of_the_window_one_a_night(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    rests = rests_of(ridden)
    assert [rest.index for rest in rests] == [0, 1, 2, 3]  # the fifth is ridden through
    assert sum(rest.length for rest in rests) == pytest.approx(60.0 * ridden.ledger.minutes("nights"))
    for rest in rests:
        assert clock_after(ridden, rest.ends).strftime("%H:%M") == "05:00"
        assert clock_after(ridden, rest.begins).hour == 22
        assert rest.awake == pytest.approx(17 * 3600.0, abs=2.1 * 3600.0)


def test_the_low_of_a_night_is_the_days_low_at_that_height(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    for rest in rests_of(ridden):
        lows = [day.temp_low for day in demo.line.weather.days[rest.index : rest.index + 2]]
        expected = [temperature_at_height(low, rest.height, 500.0) for low in lows]
        # the night falls towards the next day's low, which is reached just before sunrise, after the rest ends
        assert min(expected) - 0.1 <= rest.low <= max(expected) + 2.0


def test_air_is_that_of_the_ride_where_and_when_it_passes(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    for segment in range(50, ridden.ride.temps.size, 997):
        middle = 0.5 * float(ridden.way.profile.distances[segment] + ridden.way.profile.distances[segment + 1])
        temp = air_temperature(ridden, middle, float(ridden.ride.clocks[segment]))
        assert temp == pytest.approx(float(ridden.ride.temps[segment]), abs=0.15)


def test_places_near_a_rest_are_within_reach_and_better(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    found = [(rest, p) for rest in rests_of(ridden) for p in proposals_for(ridden, rest)]
    assert any(p.stop is not None for _, p in found) and any(p.stop is None for _, p in found)
    for rest, proposal in found:
        assert abs(proposal.shift) <= NEAR
        if proposal.stop is not None:
            assert "bed" in proposal.stop.offers and proposal.distance == pytest.approx(proposal.stop.distance, abs=100)
        else:
            assert proposal.height < rest.height - 150.0 and proposal.low > rest.low
        before = proposal.distance < rest.distance
        assert (proposal.shift < 0) == before


def test_sleeping_at_a_proposed_stop_is_a_rest_there(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    number, stop = next(
        (k, p.stop)
        for k, rest in enumerate(rests_of(ridden))
        for p in proposals_for(ridden, rest)
        if p.stop is not None
    )
    nights = {**demo.variants[0].rhythm.nights, number: Night(kind="through")}
    moved = evaluate(with_rhythm(demo, sleep_at={stop.id: 6 * 3600.0}, nights=nights), "a").ridden
    first = rests_of(moved)[number]
    assert first.stop is not None and first.stop.id == stop.id
    assert first.length == pytest.approx(6 * 3600.0 + demo.variants[0].rhythm.camp_time)
    visit = next(v for v in moved.timetable.visits if v.stop is not None and v.stop.id == stop.id)
    assert visit.rested == pytest.approx(first.length)
    assert proposals_for(moved, first) == ()  # it is at a bed already


def test_the_sky_of_each_day_is_where_the_rider_is_at_noon(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    skies = skies_of(ridden)
    assert [entry.sky.day for entry in skies] == [
        ridden.way.start.date() + timedelta(days=k) for k in range(len(skies))
    ]
    at = [entry.distance for entry in skies]
    assert at == sorted(at) and 0.75 * ridden.way.profile.length < at[-1] <= ridden.way.profile.length + 1.0
    for entry in skies[:-1]:
        sky = entry.sky
        assert sky.dawn and sky.sunrise and sky.sunset and sky.dusk
        assert sky.dawn < sky.sunrise < sky.sunset < sky.dusk
        noon = sky.sunrise.replace(hour=12, minute=0, second=0, microsecond=0)
        assert float(
            np.interp(elapsed_at(ridden, noon), ridden.ride.clocks, ridden.way.profile.distances)
        ) == pytest.approx(entry.distance, abs=1.0)


@pytest.fixture(scope="module")
def changes(demo: Plan, demo_evaluation: Evaluation) -> dict[str, tuple[float, float]]:
    return {w.key: (w.moving, w.finish) for w in what_ifs(demo, "a", demo_evaluation.ridden)}


def test_what_ifs_go_the_way_they_must(changes: dict[str, tuple[float, float]]) -> None:
    for more, less in (("kg+", "kg-"), ("cm2+", "cm2-"), ("w-", "w+")):
        assert changes[more][0] > 0.0 > changes[less][0]
        # a little later or earlier, a descent is ridden by day or by night, in rain or after it
        assert 0.25 < -changes[more][0] / changes[less][0] < 4.0
    assert changes["sleep+"][0] < 0.0 < changes["sleep+"][1]  # rested, faster, and later all the same
    assert changes["sleep-"][0] > 0.0 > changes["sleep-"][1]


def test_a_kilogram_by_the_clock_costs_its_price_and_the_tiredness_of_longer_hours(
    changes: dict[str, tuple[float, float]], demo_evaluation: Evaluation
) -> None:
    price = demo_evaluation.ridden.ledger.prices.per_kg
    # the day that rains ends by the clock: a little later or earlier there is a little less or more of it
    assert 0.8 * price < changes["kg+"][0] < 1.4 * price


def test_a_later_start_and_longer_nights_are_the_rhythm_ridden(
    demo: Plan, demo_evaluation: Evaluation, changes: dict[str, tuple[float, float]]
) -> None:
    rhythm, before = demo.variants[0].rhythm, demo_evaluation.ridden.ledger.finish
    later = evaluate(with_rhythm(demo, start=rhythm.start + timedelta(hours=2)), "a").ridden.ledger.finish
    assert changes["later"][1] == pytest.approx((later + 7_200.0 - before) / 60.0, abs=6.0)
    longer = evaluate(with_rhythm(demo, rise=rhythm.rise + 3_600.0), "a").ridden.ledger.finish
    assert changes["sleep+"][1] == pytest.approx((longer - before) / 60.0, abs=15.0)


def test_a_nap_on_the_first_morning_counts_to_the_first_night(demo: Plan) -> None:
    nap = evaluate(with_rhythm(demo, sleep_at={"ostrel": 1_800.0}), "a").ridden
    first, second = rests_of(nap)[:2]
    assert first.stop is not None and first.stop.id == "ostrel" and clock_after(nap, first.begins).hour < 12
    assert (first.index, second.index) == (0, 0)
    assert first.length == pytest.approx(1_800.0 + demo.variants[0].rhythm.camp_time)


def test_a_thousandth_of_rolling_costs_what_riding_again_says(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    scenario = make_scenario(demo, demo.variants[0], ridden.way.profile)
    masses, drags = masses_along(scenario, ridden.settled.values())

    def moving(change: float) -> float:
        held = ridden.ride.conditions
        softer = held._replace(rolling=held.rolling + change)
        return float(segment_times(scenario.course, softer, scenario.rider, masses, drags)[0].sum()) / 60.0

    central = (moving(2e-6) - moving(-2e-6)) / 4e-6 * 0.001
    assert ridden.ledger.minutes_per_rolling == pytest.approx(central, rel=2e-3)


def test_what_is_out_in_the_cold_is_riding_and_nights_without_a_bed_hour_by_hour(demo: Plan) -> None:
    def cold_with(beds: bool) -> tuple[Cold, Evaluation]:
        stops = tuple(replace(s, offers=s.offers | {"bed"} if beds else s.offers - {"bed"}) for s in demo.line.stops)
        days = tuple(replace(day, temp_low=day.temp_low - 8.0) for day in demo.line.weather.days)
        line = replace(demo.line, stops=stops, weather=replace(demo.line.weather, days=days))
        slept = with_rhythm(replace(demo, line=line), sleep_at={"kemmer": 6 * 3600.0})
        done = evaluate(slept, "a")
        return done.ridden.report(Cold), done

    outside, done = cold_with(beds=False)
    ride, rests = done.ridden.ride, rests_of(done.ridden)
    ridden = float(ride.times[ride.temps <= 1.0].sum()) / 3600.0
    slept = sum(rest.length for rest in rests) / 3600.0
    assert rests and ridden < sum(outside.hours.values()) <= ridden + slept + 1e-9
    assert outside.coldest == pytest.approx(min(float(ride.temps.min()), *(rest.low for rest in rests)), abs=0.2)
    assert all(time >= 0.0 and temp <= 1.0 for temp, time in outside.hours.items())
    # the same hours by looking every minute
    fine = sum(
        air_temperature(done.ridden, rest.distance, moment) <= 1.0
        for rest in rests
        for moment in np.arange(rest.begins, rest.ends, 60.0)
    )
    assert sum(outside.hours.values()) - ridden == pytest.approx(fine / 60.0, abs=0.5 * len(rests))
    inside, done = cold_with(beds=True)
    in_beds = [rest for rest in rests_of(done.ridden) if rest.stop is not None]
    assert in_beds and sum(inside.hours.values()) < sum(outside.hours.values())
