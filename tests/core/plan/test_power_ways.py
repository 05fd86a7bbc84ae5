"""Rules of charging compared, worth of what lights and feeds, and ways to have power."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden, part_of
from stonechat.core.plan.charging import Powered
from stonechat.core.plan.clocked import coarse
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.film import masses_along
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.power_prices import BANK_WH, break_even, power_ways
from stonechat.core.plan.power_ways import charging_of, rules_like, watt_minutes
from stonechat.core.plan.power_worth import BY_SPARE, PER_HOUR, power_worth_of
from stonechat.core.rhythm.times import segment_times
from tests.core.plan.test_charging import CHARGER, told, with_hub


@pytest.fixture(scope="module")
def hub(demo: Plan) -> Ridden:
    return evaluate(with_hub(demo, CHARGER), "a").ridden


def test_no_rule_of_the_grid_is_cheaper_than_the_best_and_none_beats_the_bound(hub: Ridden) -> None:
    charging = charging_of(hub)
    rules = list(rules_like(charging.own.rule, frozenset({"start day"}), hub=True))
    assert len(rules) == len(set(rules)) > 200
    costs = [charging.cost(rule).total for rule in rules[::7]]
    assert charging.best.total <= min(costs) + 1e-9 and charging.best.total <= charging.own.total
    assert charging.bound <= charging.best.total + 1e-6
    assert charging.bound <= min(costs)


def test_the_bound_holds_without_a_hub_too_and_a_poor_kit_leaves_something_to_win(demo: Plan) -> None:
    charging = charging_of(evaluate(demo, "b").ridden)
    assert 0.0 <= charging.bound <= charging.best.total <= charging.own.total
    assert charging.own.drag == 0.0 and charging.own.lost > 30.0


@pytest.mark.parametrize("kit", ["two lamps", "cells", "no second lamp", "hub lamp"])
def test_the_bound_holds_on_other_kits(demo: Plan, kit: str) -> None:
    """A rule may do with one of two, change cells, or live off a second lamp: no bound may say that it cannot."""
    lamp = Item(id="two", name="front light", kind="front_light", mass=0.1, volume=0.0001)
    cells = Item(id="cells", name="lamp battery", kind="light_battery", mass=0.1, volume=0.0, facts=(("wh", 15.0),))
    hub_lamp = Item(id="hl", name="dynamo light", kind="dynamo_light", mass=0.1, volume=0.0, fixed="fork")
    plan = {
        "two lamps": replace(demo, items=(*demo.items, lamp)),
        "cells": replace(demo, items=(*demo.items, cells)),
        "no second lamp": replace(demo, items=tuple(item for item in demo.items if item.kind != "helmet_light")),
        "hub lamp": with_hub(demo, CHARGER, hub_lamp),
    }[kit]
    charging = charging_of(evaluate(plan, "a").ridden)
    rules = list(rules_like(charging.own.rule, frozenset(), hub=charging.has_hub))
    costs = [charging.cost(rule).total for rule in rules[:: max(1, len(rules) // 25)]]
    assert -1e-9 <= charging.bound <= min(*costs, charging.best.total) + 1e-6


def test_who_rides_by_a_hub_lamp_is_offered_lamps_with_batteries_where_the_hub_goes(demo: Plan) -> None:
    hub_lamps = tuple(
        Item(id=kind, name=kind, kind=kind, mass=0.1, volume=0.0, fixed="fork")
        for kind in ("dynamo_light", "dynamo_rear")
    )
    bare = replace(demo, items=tuple(i for i in demo.items if i.kind not in ("front_light", "rear_light", "light_set")))
    ways = {way.key: way for way in power_ways(evaluate(with_hub(bare, CHARGER, *hub_lamps), "a").ridden)}
    assert "2 lamps with batteries" in ways["banks"].words and ways["banks"].lost < 5.0
    assert ways["hub"].lost < 60.0 and ways["cells"].odds < 0.2


def test_a_watt_at_the_wheel_costs_what_riding_with_it_costs(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    scenario = part_of(ridden.settled, Powered).scenario
    masses, drags = masses_along(scenario, ridden.settled.values())
    held = ridden.ride.conditions
    more, less = (
        segment_times(
            scenario.course, held._replace(wheel_power=held.wheel_power + step), scenario.rider, masses, drags
        )
        for step in (0.5, -0.5)
    )
    assert watt_minutes(ridden).sum() == pytest.approx((less[0] - more[0]).sum() / 60.0, rel=0.02)


def test_longer_steps_keep_time_energy_and_light(demo_evaluation: Evaluation) -> None:
    fine = part_of(demo_evaluation.ridden.settled, Powered).at
    rough = coarse(fine, 900.0)
    assert rough.lengths.sum() == pytest.approx(fine.lengths.sum()) and rough.lengths.max() <= 960.0
    assert rough.lengths.size < 0.1 * fine.lengths.size
    for name in ("charger", "lamp", "slow", "fast"):
        before, after = (float((getattr(at, name) * at.lengths).sum()) for at in (fine, rough))
        assert after == pytest.approx(before)
    np.testing.assert_allclose(rough.lengths @ rough.ways, fine.lengths @ fine.ways)
    for dark in (True, False):
        assert rough.lengths[rough.dark == dark].sum() == pytest.approx(fine.lengths[fine.dark == dark].sum())


def test_a_longer_halt_that_is_offered_gains_more_than_it_takes(demo: Plan) -> None:
    charging = charging_of(evaluate(demo, "b").ridden)
    assert charging.halts
    for halt in charging.halts:
        assert halt.net > 0.0
        cost = charging.cost(charging.own.rule, {halt.stop: halt.minutes})
        assert cost.waited == halt.minutes and cost.total == pytest.approx(cost.drag + cost.lost + halt.minutes)
        assert halt.gain == pytest.approx(
            charging.own.lost - charging.cost(charging.own.rule, {halt.stop: halt.minutes}).lost
        )


def test_what_a_thing_is_worth_is_what_goes_dark_without_it(demo: Plan) -> None:
    ridden = evaluate(demo, "a").ridden
    worth, items = power_worth_of(ridden), ridden.kit.items
    named = {item.id: item for item in items}
    front, bank, sock = named["front-light"], named["power-bank-10-ah"], named["sleep-socks"]
    assert worth.judges(front) and worth.judges(bank) and not worth.judges(sock)
    dark = float(ridden.ride.times[ridden.ride.dark].sum()) / 3600.0
    without = worth.without(item for item in items if item.id not in ("front-light", "helmet-light"))
    assert without.dark == pytest.approx(dark, rel=0.06)  # all dark hours, with what is reached for
    assert without.lost().minutes >= PER_HOUR["light"] * dark
    alone = worth.without(item for item in items if item.id != "front-light")
    assert alone.by_spare == pytest.approx(10.0) and alone.dark == pytest.approx(without.dark - alone.by_spare)
    assert worth.worth(front, items).minutes > worth.worth(bank, items).minutes > 0.0
    assert worth.worth(named["charging-cables"], items).minutes > 100.0  # no lead, no charge
    assert PER_HOUR["light"] > BY_SPARE and worth.words(front, items)[0].startswith("no light")


def test_power_that_is_plenty_makes_a_spare_bank_worth_nothing(demo: Plan) -> None:
    plan = told(demo, front_light=200.0, gps_unit=100.0, rear_light=20.0, phone=60.0, tracker=40.0)
    ridden = evaluate(plan, "a").ridden
    bank = next(item for item in ridden.kit.items if item.kind == "power_bank")
    worth = power_worth_of(ridden)
    assert worth.worth(bank, ridden.kit.items).minutes == 0.0
    assert worth.words(bank, ridden.kit.items) == ("nothing that matters goes flat on this race without it",)


def test_ways_to_have_power_add_up_and_the_smallest_bank_that_does_is_small(hub: Ridden) -> None:
    ways = power_ways(hub)
    assert ways[0].is_now and {way.key for way in ways} == {"now", "banks", "hub", "needed", "fast", "cells"}
    for way in ways:
        assert way.total == pytest.approx(way.carrying + way.drag + way.lost)
        assert way.carrying == pytest.approx(hub.ledger.prices.per_kg * way.mass)
        assert 0.0 <= way.odds <= 1.0 and way.error <= 0.04
    by_key = {way.key: way for way in ways}
    assert by_key["banks"].lost < 2.0 and by_key["banks"].drag == 0.0 and by_key["banks"].odds < 0.2
    assert by_key["fast"].drag < by_key["needed"].drag <= by_key["hub"].drag * 1.2
    assert [way.total for way in ways[1:]] == sorted(way.total for way in ways[1:])


def test_a_hub_is_cheaper_from_where_both_lines_cross(hub: Ridden) -> None:
    even = break_even(hub)
    n = even.factor
    bank = even.by_bank * even.wanted * n * n  # what it holds grows with the race, and so does what a kilogram costs
    by_hub = even.fixed * n + even.by_hub * even.wanted * n
    assert bank == pytest.approx(by_hub) and n > 1.0
    assert even.night_count == pytest.approx(n * even.nights) and even.dark_hours == pytest.approx(n * even.dark)
    assert even.by_bank == pytest.approx(hub.ledger.prices.per_kg * BANK_WH / (0.85 * 0.92))


@pytest.mark.parametrize("kit", ["none", "no battery", "five hundred"])
def test_kits_at_the_edge_are_answered(demo: Plan, kit: str) -> None:
    lamps = tuple(
        Item(id=f"l{k}", name=f"front light {k}", kind="front_light", mass=0.1, volume=0.0001) for k in range(500)
    )
    gps = Item(id="g", name="unit", kind="gps_unit", mass=0.1, volume=0.0001)
    items = {"none": (), "no battery": (gps,), "five hundred": lamps}[kit]
    ridden = evaluate(replace(demo, items=items), "a").ridden
    charging = charging_of(ridden)
    assert charging.own.total >= 0.0 and len(charging.electrics.devices) >= len(items)
    if kit == "none":
        assert power_ways(ridden)[0].lost > 0.0  # no light at all


def test_warmer_more_and_fuller_is_never_worse(demo: Plan) -> None:
    lost = []
    for size in (5.0, 20.0, 80.0, 320.0):
        ridden = evaluate(told(demo, power_bank=size), "a").ridden
        lost.append(charging_of(ridden).own.lost)
    assert all(after <= before + 0.5 for before, after in pairwise(lost))
