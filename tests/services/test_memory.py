"""What plans of one rider know of each other: earlier races, each once; never the demo's, never later ones."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from uuid import UUID

import pytest

from stonechat.core.diary.debrief import Debrief
from stonechat.core.diary.rides import Ride
from stonechat.core.diary.trail import Trail
from stonechat.core.plan.plan import Plan
from stonechat.demo.past import past_plan
from stonechat.services import plans, replay
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.memory import last_race, memories, own_rides, rides_elsewhere, rides_tell
from stonechat.services.rides import keep_ride
from stonechat.services.workspace import Workspace


def own(workspace: Workspace, opened: OpenPlan, *, days: float = 0.0, change: dict[str, object] | None = None) -> UUID:
    """A copy of the demo that is the rider's own, its start moved."""
    plan_id = plans.duplicate_plan(workspace, opened.id)

    def moved(plan: Plan) -> Plan:
        variant = plan.variants[0]
        rhythm = replace(variant.rhythm, start=variant.rhythm.start + timedelta(days=days))
        return plan.with_variant(replace(variant, rhythm=rhythm, **(change or {})))  # type: ignore[arg-type]

    change_plan(workspace, plan_id, revision=1, label="moved", change=moved)
    return plan_id


def a_ride() -> Ride:
    return past_plan().variants[0].rides[0]


def test_earlier_races_speak_and_later_ones_do_not(workspace: Workspace, opened: OpenPlan) -> None:
    own(workspace, opened, days=-400, change={"debrief": Debrief(wished=("socks",))})
    own(workspace, opened, days=-40, change={"debrief": Debrief(change="less food")})
    own(workspace, opened, days=+40, change={"debrief": Debrief(change="from the future")})
    now = open_plan(workspace, own(workspace, opened))
    found = memories(workspace, now)
    assert [(memory.change, memory.wished) for memory in found] == [("less food", ()), ("", ("socks",))]
    last = last_race(workspace, now)
    assert last is not None and last[1].debrief.change == "less food"
    assert memories(workspace, opened) == () and last_race(workspace, opened) is None  # the demo knows only the demo


def test_a_copy_of_a_race_does_not_make_it_two(workspace: Workspace, opened: OpenPlan) -> None:
    raced = own(workspace, opened, days=-40, change={"rides": (a_ride(),)})
    plans.duplicate_plan(workspace, raced)
    now = open_plan(workspace, own(workspace, opened))
    assert len(memories(workspace, now)) == 1
    elsewhere = rides_elsewhere(workspace, now)
    assert [len(one.rides) for one in elsewhere] == [1] and rides_tell(workspace, now)
    # and a plan that holds the ride itself does not count it from elsewhere
    assert rides_elsewhere(workspace, open_plan(workspace, raced)) == ()


def test_rides_of_all_variants_are_one_riders(workspace: Workspace, opened: OpenPlan) -> None:
    plan_id = own(workspace, opened)
    now = open_plan(workspace, plan_id)
    keep_ride(workspace, now, "b", revision=now.revision, ride=replace(a_ride(), trail=Trail()))
    now = open_plan(workspace, plan_id)
    keep_ride(workspace, now, "a", revision=now.revision, ride=replace(a_ride(), trail=Trail()))
    assert len(own_rides(open_plan(workspace, plan_id))) == 1


def test_a_start_that_was_moved_moves_the_race_beside_it(workspace: Workspace, opened: OpenPlan) -> None:
    """The trail keeps its own clock: who corrects the planned start by an hour was an hour later beside the plan."""
    plan_id = own(workspace, opened)
    now = open_plan(workspace, plan_id)
    start = evaluated(now, "a").ridden.way.start
    ride = replace(
        a_ride(), start=start + timedelta(minutes=5), trail=Trail(elapsed=(0.0, 3_600.0), distances=(0.0, 2e4))
    )
    keep_ride(workspace, now, "a", revision=now.revision, ride=ride)
    assert replay.trail_known(open_plan(workspace, plan_id), "a").elapsed == pytest.approx((300.0, 3_900.0))
    now = open_plan(workspace, plan_id)

    def earlier(plan: Plan) -> Plan:
        variant = plan.variants[0]
        rhythm = replace(variant.rhythm, start=variant.rhythm.start - timedelta(hours=1))
        return plan.with_variant(replace(variant, rhythm=rhythm))

    change_plan(workspace, plan_id, revision=now.revision, label="an hour earlier", change=earlier)
    assert replay.trail_known(open_plan(workspace, plan_id), "a").elapsed == pytest.approx((3_900.0, 7_500.0))


def test_the_rest_of_a_race_is_no_race_of_its_own_to_remember(workspace: Workspace, opened: OpenPlan) -> None:
    plan_id = own(workspace, opened, change={"debrief": Debrief(change="less food")})
    aboard = replay.Aboard(distance=4e5, elapsed=37 * 3600.0, water=1.5, food=1_500.0, gone=frozenset())
    rest = replay.plan_rest(workspace, open_plan(workspace, plan_id), "a", aboard, trail=Trail())
    variant = open_plan(workspace, rest).plan.variants[0]
    assert variant.debrief == Debrief() and variant.rides == () and variant.diary == ()
    assert 0.0 < variant.rider.tired < 1.0
    again = replay.plan_rest(workspace, open_plan(workspace, plan_id), "a", aboard, trail=Trail())
    names = {open_plan(workspace, one).plan.name for one in (rest, again)}
    assert len(names) == 2 and all("from km 400" in name for name in names)


def test_a_replay_goes_on_evenly_where_clocks_are_set(workspace: Workspace, opened: OpenPlan) -> None:
    def in_autumn(plan: Plan) -> Plan:
        variant = plan.variants[0]
        rhythm = replace(variant.rhythm, start=datetime(2027, 10, 30, 7, 0), zone="Europe/Berlin")
        return plan.with_variant(replace(variant, rhythm=rhythm))

    before = open_plan(workspace, own(workspace, opened))
    now = change_plan(workspace, before.id, revision=before.revision, label="autumn", change=in_autumn)
    replayed = replay.start_replay(now, "a", speed=60, seed=3)
    replayed.run(0)
    replayed.go_to(30 * 3600.0)
    trail = replay.trail_known(now, "a")
    # the tracker reports each five minutes, and is silent for twenty at most
    assert 29.5 * 3600.0 < trail.elapsed[-1] <= 30 * 3600.0
    assert (replayed.now - evaluated(now, "a").ridden.way.start.astimezone(UTC)).total_seconds() == 30 * 3600.0
    replay.end_replay(now.id, "a")
