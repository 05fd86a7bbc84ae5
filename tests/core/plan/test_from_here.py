"""The rest of a race as a plan of its own, held against the race that it is the rest of."""

from dataclasses import replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from stonechat.core.diary.trail import Trail
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.from_here import Here, awake_after, plan_from, tired_after
from stonechat.core.plan.plan import START, Elsewhere, Plan
from stonechat.core.plan.played import halting_clock


def trail_of(evaluation: Evaluation, until: float) -> Trail:
    ridden = evaluation.ridden
    moments, places = halting_clock(ridden, ridden.ride)
    keep = places <= until
    return Trail(elapsed=tuple(moments[keep].tolist()), distances=tuple(places[keep].tolist()))


@pytest.mark.parametrize("stop", ["Ostrel", "Tazzle", "Dunmarrow"])
def test_on_plan_the_rest_ends_when_the_whole_does(demo: Plan, demo_evaluation: Evaluation, stop: str) -> None:
    """Planned from where and when the plan itself is, the rest must finish by the same clock."""
    whole = demo_evaluation.ridden
    visit = next(v for v in whole.timetable.visits if v.name == stop)
    leaves = (visit.leaves - whole.way.start).total_seconds()
    node = whole.timetable.visits.index(visit) + 1
    at = visit.distance + 200.0
    rider = demo.variants[0].rider
    here = Here(
        distance=at,
        elapsed=leaves + 60.0,
        tired=tired_after(trail_of(demo_evaluation, at), rider),
        awake=awake_after(trail_of(demo_evaluation, at), rider),
        water=float(whole.provisions.water.leaving[node]),
        food=float(whole.provisions.food.leaving[node]),
    )
    rest = plan_from(demo, "a", here, name="rest")
    ridden = evaluate(rest, "a").ridden
    finish = ridden.way.start + timedelta(seconds=ridden.ledger.finish)
    planned = whole.way.start + timedelta(seconds=whole.ledger.finish)
    assert abs((finish - planned).total_seconds()) < 25 * 60.0
    assert ridden.way.profile.length == pytest.approx(whole.way.profile.length - at, rel=2e-3)
    assert [v.name for v in ridden.timetable.visits] == [v.name for v in whole.timetable.visits[node:]]
    # and as long awake at each stop up to the first rest
    slept = next((k for k, v in enumerate(ridden.timetable.visits) if v.rested > 0.0), len(ridden.timetable.visits))
    for now, then in list(zip(ridden.timetable.visits, whole.timetable.visits[node:], strict=True))[:slept]:
        assert now.awake == pytest.approx(then.awake, abs=1_800.0) or now.awake < 6 * 3600.0
    assert ridden.provisions.water.leaving[0] == pytest.approx(here.water, abs=0.02)


def test_who_is_more_tired_or_later_finishes_later(demo: Plan) -> None:
    here = Here(distance=402_000.0, elapsed=38 * 3600.0, tired=0.2, water=2.0, food=2_500.0)
    finish = [
        evaluate(plan_from(demo, "a", replace(here, **more), name="rest"), "a").ridden.ledger.moving
        for more in ({}, {"tired": 0.8})
    ]
    assert finish[1] > finish[0] * 1.02


def test_who_has_been_awake_for_long_is_told_so_from_the_start(demo: Plan) -> None:
    here = Here(distance=402_000.0, elapsed=38 * 3600.0, tired=0.2, water=2.0, food=2_500.0)
    fresh, weary = (
        evaluate(plan_from(demo, "a", replace(here, awake=hours * 3600.0), name="rest"), "a") for hours in (0, 30)
    )
    assert weary.ridden.ride.awake[0] == pytest.approx(fresh.ridden.ride.awake[0] + 30 * 3600.0)
    found = {finding.code: finding for finding in weary.findings}
    assert found["awake"].margin is not None and found["awake"].margin < 0.0
    assert awake_after(Trail(), replace(demo.variants[0].rider, awake=7_200.0)) == 7_200.0


def test_what_lies_behind_is_settled(demo: Plan) -> None:
    variant = replace(
        demo.variants[0],
        joins={"wind-gilet": "ostrel", "chain-lube": "dunmarrow"},
        posts={"neck-tube": "ostrel"},
        repacks={
            "rain-jacket": (Elsewhere(to="frame", since="ostrel", until="dunmarrow"),),
            "long-gloves": (Elsewhere(to="frame", since="ostrel"),),
            "arm-warmers": (Elsewhere(to="seat", since="dunmarrow"),),
        },
    )
    here = Here(distance=402_000.0, elapsed=38 * 3600.0, tired=0.3, water=2.0, food=2_500.0, gone=frozenset({"rag"}))
    rest = plan_from(demo.with_variant(variant), "a", here, name="rest")
    now = rest.variants[0]
    assert now.joins == {"chain-lube": "dunmarrow"} and now.posts == {}
    assert now.places["neck-tube"] == "home" and now.places["long-gloves"] == "frame"
    assert now.repacks["rain-jacket"] == (Elsewhere(to="frame", since=START, until="dunmarrow"),)
    assert now.repacks["arm-warmers"][0].since == "dunmarrow" and "long-gloves" not in now.repacks
    assert all(item.id != "rag" for item in rest.items) and "rag" not in now.places
    assert now.supply.water_by_stop[START] == 2.0 and now.rhythm.start.day == demo.variants[0].rhythm.start.day + 1


@pytest.mark.parametrize(("month", "shown"), [(10, "12:00"), (3, "14:00")])
def test_a_clock_that_is_set_on_the_way_shows_the_new_time(demo: Plan, month: int, shown: str) -> None:
    variant = demo.variants[0]
    start = datetime(2027, month, {10: 30, 3: 27}[month], 7, 0)  # the clock is set in the night that follows
    begun = replace(variant, rhythm=replace(variant.rhythm, start=start, zone="Europe/Berlin"))
    here = Here(distance=4e5, elapsed=30 * 3600.0, tired=0.2, water=1.0, food=500.0)
    rest = plan_from(demo.with_variant(begun), "a", here, name="rest").variants[0].rhythm
    assert f"{rest.start:%H:%M}" == shown and rest.start.date() == start.date() + timedelta(days=1)
    moments = [at.replace(tzinfo=ZoneInfo("Europe/Berlin")).timestamp() for at in (start, rest.start)]
    assert moments[1] - moments[0] == here.elapsed
