"""A rider's ways taken into a plan: what was told is what the plan has then, and a second look says so."""

from dataclasses import replace
from datetime import timedelta

import pytest

from stonechat.core.diary.habits import HABITS
from stonechat.core.line.stops import KINDS
from stonechat.core.plan.plan import Plan
from stonechat.demo.past import past_plan
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.plan_json import PlanBody
from stonechat.services import exchange, plans
from stonechat.services.evaluation import evaluated
from stonechat.services.habits import habits_told, races_tell, take_habit
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.workspace import Workspace


@pytest.fixture
def next_race(workspace: Workspace, opened: OpenPlan) -> OpenPlan:
    """The demo plan, once its past race is there."""
    exchange.ensure_past_race(workspace)
    return open_plan(workspace, opened.id)


def rows(workspace: Workspace, opened: OpenPlan) -> dict[tuple[str, str], tuple[float, float]]:
    return {(one.key, one.of): (one.planned, one.told.value) for one in habits_told(workspace, opened, "a")}


def test_each_way_that_is_taken_is_the_plans_then(workspace: Workspace, next_race: OpenPlan) -> None:
    told = rows(workspace, next_race)
    assert {"halt", "rise", "dawdle", "intake", "sweat"} <= {key for key, _ in told}
    now = next_race
    some = [(key, of) for key, of in told if key != "dawdle" or of in ("shop", "tap")]
    for key, of in some[:5]:
        now = take_habit(workspace, now, "a", revision=now.revision, key=key, of=of)
    then = rows(workspace, now)
    for key, of in some[:5]:
        (_, value), (planned, _) = told[key, of], then[key, of]
        tolerance = {"dawdle": 1.0, "halt": 0.1, "rise": 0.1, "camp": 1.0}.get(key, 0.02 * abs(value) + 0.002)
        assert planned == pytest.approx(value, abs=tolerance), (key, of)
    assert PlanBody.of(now.plan).core(now.plan.line.track) == now.plan
    assert len(evaluated(now, "a").findings) > 10


def test_longer_stays_make_a_later_finish_by_about_as_much(workspace: Workspace, next_race: OpenPlan) -> None:
    def finish(opened: OpenPlan) -> float:
        return evaluated(opened, "a").ridden.ledger.finish

    def longer(plan: Plan) -> Plan:
        variant = plan.variant("a")
        return plan.with_variant(replace(variant, rhythm=replace(variant.rhythm, stays={})))

    before = change_plan(workspace, next_race.id, revision=next_race.revision, label="plain", change=longer)
    told = {(one.key, one.of): one for one in habits_told(workspace, before, "a")}
    shop = told["dawdle", "shop"]
    count = sum(stop.kind == "shop" and stop.used for stop in before.plan.line.stops)
    after = take_habit(workspace, before, "a", revision=before.revision, key="dawdle", of="shop")
    added = [after.plan.variant("a").rhythm.stays.get(stop.id, 0.0) for stop in after.plan.line.stops]
    assert sum(value > 0.0 for value in added) == count
    assert shop.minutes is not None
    assert (finish(after) - finish(before)) / 60.0 == pytest.approx(shop.minutes, abs=1.0 + count)


def test_what_no_race_tells_cannot_be_taken(workspace: Workspace, opened: OpenPlan, next_race: OpenPlan) -> None:
    with pytest.raises(NotFound, match="No race tells"):
        take_habit(workspace, next_race, "a", revision=next_race.revision, key="dawdle", of="hotel")
    alone = open_plan(workspace, plans.duplicate_plan(workspace, opened.id))
    assert habits_told(workspace, alone, "a") == () and not races_tell(workspace, alone, "a")


def test_ways_of_a_race_reach_a_plan_with_other_nights_only_where_they_mean_something(
    workspace: Workspace, next_race: OpenPlan
) -> None:
    def with_school(school: str) -> OpenPlan:
        now = open_plan(workspace, next_race.id)
        return change_plan(
            workspace, now.id, revision=now.revision, label=school,
            change=lambda plan: plan.with_variant(
                replace(plan.variant("a"), rhythm=replace(plan.variant("a").rhythm, school=school))
            ),
        )  # fmt: skip

    keys = {key for key, _ in rows(workspace, with_school("hours"))}
    assert "sleep" in keys and not keys & {"halt", "rise"}
    assert not {key for key, _ in rows(workspace, with_school("through"))} & {"halt", "rise", "sleep"}


def test_a_figure_that_cannot_be_is_refused_with_its_reason(workspace: Workspace, opened: OpenPlan) -> None:
    """Notes of ten times the food that anybody eats are told, and cannot be taken."""
    plan_id = plans.duplicate_plan(workspace, opened.id)
    race = past_plan().variants[0]

    def raced(plan: Plan) -> Plan:
        variant = plan.variant("a")
        notes = tuple(replace(n, text="90 000 kcal") if n.kind == "eaten" else n for n in race.diary)
        rides = tuple(replace(ride, start=ride.start + timedelta(days=1)) for ride in race.rides)
        return plan.with_variant(replace(variant, rides=rides, diary=notes))

    now = change_plan(workspace, plan_id, revision=1, label="raced", change=raced)
    told = {one.key: one for one in habits_told(workspace, now, "a")}
    assert told["intake"].minutes is None and "lies outside" in told["intake"].why_not
    with pytest.raises(InvalidInput, match="lies outside"):
        take_habit(workspace, now, "a", revision=now.revision, key="intake", of="")
    assert all(one.key in HABITS and (one.key != "dawdle" or one.of in KINDS) for one in told.values())
