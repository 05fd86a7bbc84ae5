"""Stops that are chosen, in the fixed point with ride and load."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.item import Item
from stonechat.core.plan.eating import energy_days
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.halting import treatment_among
from stonechat.core.plan.plan import Plan, Supply
from stonechat.core.plan.providing import WRAPPERS
from stonechat.core.supply.lots import ride_lots
from stonechat.core.supply.pour import holds

VARIANTS = ("a", "b", "c")


def with_supply(plan: Plan, variant_id: str = "a", **more: object) -> Plan:
    variant = plan.variant(variant_id)
    supply: Supply = replace(variant.supply, choose=True, **more)  # type: ignore[arg-type]
    return plan.with_variant(replace(variant, supply=supply))


@pytest.mark.parametrize("variant_id", VARIANTS)
def test_choosing_is_faster_and_what_is_told_is_what_is_ridden(demo: Plan, variant_id: str) -> None:
    every = evaluate(demo, variant_id).ridden
    ridden = evaluate(with_supply(demo, variant_id), variant_id).ridden
    asked = ridden.provisions.asked
    assert asked is not None and asked.lots is not None and ridden.timetable.settled
    assert ridden.ledger.finish < every.ledger.finish - 3600.0
    assert asked.lots.finish == pytest.approx(ridden.ledger.finish, abs=300.0)
    assert ride_lots(replace(asked.trip), asked.lots.passings) < np.inf or asked.stuck
    for passing, visit in zip(asked.lots.passings[1:], ridden.timetable.visits, strict=False):
        assert visit.passed is (passing.stay is None)
        spent = (visit.leaves - visit.arrives).total_seconds() - visit.rested
        assert spent == pytest.approx(passing.stay.total if passing.stay else 0.0, abs=61.0)


@pytest.mark.parametrize("variant_id", VARIANTS)
def test_no_store_is_ever_negative_and_what_is_bought_is_eaten_or_left(demo: Plan, variant_id: str) -> None:
    ridden = evaluate(with_supply(demo, variant_id), variant_id).ridden
    for levels in (ridden.provisions.water, ridden.provisions.food):
        assert levels.leaving.min() >= 0.0 and levels.arriving.min() >= 0.0
        taken = levels.leaving - np.concatenate(([0.0], levels.arriving[:-1]))
        assert taken.min() >= -1e-9 and not taken[~levels.refilled].any()
        used = levels.needs - levels.short
        assert taken.sum() == pytest.approx(used.sum() + levels.arriving[-1])
    for leg, load in enumerate(ridden.film):
        water = sum(state.water for state in load.carriers)
        assert water == pytest.approx(float(ridden.provisions.water.leaving[leg]))
        assert all(state.water <= holds(state.carrier) + 1e-9 for state in load.carriers)


def test_a_stop_that_is_wished_is_stopped_at_and_one_that_is_not_is_ridden_past(demo: Plan) -> None:
    before = {v.stop.id: v.passed for v in evaluate(with_supply(demo), "a").ridden.timetable.visits if v.stop}
    past = next(key for key, passed in before.items() if passed)
    used = "kemmer"
    assert not before[used]
    wished = with_supply(demo, must=frozenset({past}), skip=frozenset({used}))
    after = {v.stop.id: v.passed for v in evaluate(wished, "a").ridden.timetable.visits if v.stop}
    assert not after[past] and after[used]


def test_a_stop_with_a_box_or_a_cut_off_is_not_ridden_past(demo: Plan) -> None:
    item = demo.items[0].id
    variant = demo.variant("a")
    first = next(s for s in sorted(demo.line.stops, key=lambda s: s.distance) if s.used)
    plan = with_supply(demo, skip=frozenset({first.id}))
    held = plan.with_variant(replace(plan.variant("a"), posts={**variant.posts, item: first.id}))
    assert evaluate(plan, "a").ridden.timetable.visits[0].passed
    assert not evaluate(held, "a").ridden.timetable.visits[0].passed


def test_a_strapped_bottle_mends_the_leg_on_which_too_little_goes_in(demo: Plan) -> None:
    plan = with_supply(demo)
    asked = evaluate(plan, "a").ridden.provisions.asked
    assert asked is not None
    short = [entry for entry in asked.stuck if entry.what == "water"]
    assert short
    stops = evaluate(plan, "a").ridden.way.stops
    strapped = {stops[entry.node - 1].id: 2.0 for entry in short}
    ridden = evaluate(with_supply(demo, strapped=strapped), "a").ridden
    assert ridden.provisions.water.short.max() == 0.0
    leg = short[0].node
    assert float(ridden.provisions.water.leaving[leg]) > ridden.provisions.capacity
    # what finds no room in the bottles rides along all the same
    states = ridden.film[leg]
    carried = float(ridden.provisions.water.leaving[leg]) - sum(state.water for state in states.carriers)
    assert carried > 0.0
    bare = states.mass - float(ridden.provisions.water.leaving[leg])
    things = evaluate(plan, "a").ridden
    assert bare == pytest.approx(things.film[leg].mass - float(things.provisions.water.leaving[leg]), abs=0.15)


def test_a_meal_is_stopped_for_and_counts_on_its_day(demo: Plan) -> None:
    plan = (
        with_supply(demo, meals={"pell-bridge": 900.0})
        if _has_food(demo, "pell-bridge")
        else with_supply(demo, meals={"kemmer": 900.0})
    )
    key = next(iter(plan.variant("a").supply.meals))
    ridden = evaluate(plan, "a").ridden
    visit = next(v for v in ridden.timetable.visits if v.stop and v.stop.id == key)
    assert not visit.passed
    eaten = sum(day.balance.eaten for day in energy_days(ridden, plan.variant("a")))
    hours = float(ridden.ride.times.sum()) / 3600.0
    assert eaten == pytest.approx(hours * plan.variant("a").rider.intake + 900.0)


def _has_food(plan: Plan, key: str) -> bool:
    return any(stop.id == key and stop.gives_food for stop in plan.line.stops)


def test_energy_by_day_is_that_of_the_legs_and_a_day_has_24_hours(demo: Plan) -> None:
    ridden, variant = evaluate(demo, "a").ridden, demo.variant("a")
    days = energy_days(ridden, variant)
    assert sum(day.spent.work for day in days) == pytest.approx(
        sum(leg.energy for leg in ridden.timetable.legs), rel=1e-3
    )
    for day in days[1:-1]:
        assert day.spent.riding + day.spent.asleep + day.spent.awake == pytest.approx(24.0)


def test_the_quickest_treatment_aboard_is_taken() -> None:
    tablets, stove, filter_ = (
        Item(id=kind, name=kind, kind=kind, category="hygiene", mass=0.1, volume=1e-4)
        for kind in ("water_tablets", "stove", "water_filter")
    )
    assert treatment_among((stove, filter_)) == "water_filter"
    assert treatment_among((stove, filter_, tablets)) == "water_tablets"
    assert treatment_among(()) == ""


def test_wrappers_stay_aboard_until_a_stop_that_is_stopped_at(demo: Plan) -> None:
    ridden = evaluate(with_supply(demo), "a").ridden
    provisions, visits = ridden.provisions, ridden.timetable.visits
    eaten = (provisions.food.leaving - provisions.food.arriving) / provisions.larder.bulk / 1e3
    aboard = 0.0
    for leg in range(1, len(ridden.film)):
        aboard = aboard + WRAPPERS * eaten[leg - 1] if visits[leg - 1].passed else 0.0
        assert provisions.wrappers[leg] == pytest.approx(aboard)
    assert provisions.wrappers.max() > 0.0 and provisions.wrappers[0] == 0.0
