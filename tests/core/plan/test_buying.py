"""Food bought, brought and cooked on a ride: it weighs what it weighs, where it is and as long as it is there."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.item import Item
from stonechat.core.line.stops import Stop
from stonechat.core.plan.buying import foods_of, shelf_at
from stonechat.core.plan.eating import energy_days
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.halting import treatment_rate
from stonechat.core.plan.plan import Plan, Supply
from stonechat.core.supply.energy import gut_limit
from stonechat.core.supply.foods import FOODS

HOUR = 3600.0


def with_food(plan: Plan, *items: Item) -> Plan:
    variant = plan.variants[0]
    bag = next(carrier.id for carrier in variant.bags if carrier.capacity > 0.003)
    places = {**variant.places, **{item.id: bag for item in items}}
    return replace(plan, items=(*plan.items, *items)).with_variant(replace(variant, places=places))


def with_supply(plan: Plan, **more: object) -> Plan:
    variant = plan.variants[0]
    return plan.with_variant(replace(variant, supply=replace(variant.supply, **more)))  # type: ignore[arg-type]


def food(kind: str, mass: float, **more: object) -> Item:
    values = {
        "id": f"own-{kind}",
        "name": kind,
        "category": "food",
        "kind": kind,
        "mass": mass,
        "volume": 2.0 * mass / 1e3,
    }
    return Item(**{**values, **more})  # type: ignore[arg-type]


def test_what_is_bought_weighs_what_its_foods_do(demo_evaluation: Evaluation) -> None:
    provisions = demo_evaluation.ridden.provisions
    aboard = 0.0
    for leg, basket in enumerate(provisions.larder.baskets):
        taken = float(provisions.food.taken[leg])
        if basket is not None and taken > 0.0:
            grams = sum(share * taken / FOODS[key].energy for key, share in basket.shares)
            assert taken / basket.density == pytest.approx(grams / 1000.0, rel=0.01)
            aboard += grams / 1000.0
        leaving = float(provisions.food.leaving[leg])
        assert provisions.larder.mass(leaving, leg) == pytest.approx(aboard, rel=0.02, abs=0.01)
        aboard *= float(provisions.food.arriving[leg]) / max(leaving, 1e-9)


def test_food_of_the_kit_is_eaten_first_and_not_bought_again(demo: Plan, demo_evaluation: Evaluation) -> None:
    bars = food("bars", 0.06, quantity=20)  # 4,800 kcal
    ridden, before = evaluate(with_food(demo, bars), "a").ridden, demo_evaluation.ridden
    rations = ridden.provisions.rations
    assert float(rations.energy.sum()) == pytest.approx(4_800.0)
    wanted = before.provisions.food.needs.sum()
    assert float(ridden.provisions.food.needs.sum()) == pytest.approx(wanted - 4_800.0, rel=2e-3)
    assert ridden.provisions.food.needs[0] == 0.0
    # the bag is lighter by what is gone, and by all of it at the end
    aboard = [sum(i.total_mass for s in load.carriers for i in s.items if i.id == bars.id) for load in ridden.film]
    assert aboard[0] == pytest.approx(1.2) and aboard[-1] == 0.0 and all(np.diff(aboard) <= 1e-9)
    eaten = np.concatenate(([0.0], np.cumsum(rations.mass)[:-1]))
    assert aboard == pytest.approx((1.2 - eaten).tolist(), abs=1e-6)
    first, last = ridden.kit.spans[bars.id]
    assert first == 0 and aboard[last] > 0.0 and aboard[last + 1] == 0.0
    for day, other in zip(energy_days(ridden, demo.variants[0]), energy_days(before, demo.variants[0]), strict=False):
        assert day.spent.eaten == pytest.approx(other.spent.eaten, rel=0.02, abs=20.0)


def test_a_dried_meal_is_eaten_each_night_with_its_water(demo: Plan, demo_evaluation: Evaluation) -> None:
    meals = food("food_pouch", 0.15, quantity=2)
    ridden = evaluate(with_food(demo, meals), "a").ridden
    rations, before = ridden.provisions.rations, demo_evaluation.ridden.provisions
    nights = np.flatnonzero(rations.cooked)
    assert nights.size == 2 and not rations.energy.any()
    assert float(rations.cooked.sum()) == pytest.approx(2 * 150.0 * FOODS["food_pouch"].energy)
    more = ridden.provisions.water.needs - before.water.needs
    assert more[nights] == pytest.approx(rations.water[nights], abs=0.05)
    eaten = sum(day.spent.eaten for day in energy_days(ridden, demo.variants[0]))
    was = sum(day.spent.eaten for day in energy_days(demo_evaluation.ridden, demo.variants[0]))
    assert eaten - was == pytest.approx(float(rations.cooked.sum()), abs=30.0)


def test_what_is_for_an_emergency_is_the_reserve_and_stays(demo: Plan, demo_evaluation: Evaluation) -> None:
    kept = food("emergency_food", 0.1)  # 400 kcal
    ridden = evaluate(with_food(demo, kept), "a").ridden
    assert not ridden.provisions.rations.left and kept.id not in ridden.kit.spans
    less = demo_evaluation.ridden.provisions.food.leaving - ridden.provisions.food.leaving
    assert less == pytest.approx(np.full(less.size, 300.0), abs=2.0)


def test_no_more_is_carried_than_the_gut_takes(demo: Plan) -> None:
    hungry = demo.with_variant(replace(demo.variants[0], rider=replace(demo.variants[0].rider, intake=480.0)))
    for gut in (50.0, 75.0, 150.0):
        ridden = evaluate(with_supply(hungry, gut=gut), "a").ridden
        rate = float(ridden.provisions.food.needs.sum()) / (float(ridden.ride.times.sum()) / HOUR)
        assert rate == pytest.approx(min(480.0, gut_limit(gut)), rel=1e-6)


def test_climbs_ask_for_what_is_held_back_for_them(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = evaluate(with_supply(demo, for_climbs=200.0), "a").ridden
    more = ridden.provisions.food.needs - demo_evaluation.ridden.provisions.food.needs
    climbed = np.array([leg.ascent for leg in ridden.timetable.legs])
    assert more == pytest.approx(0.2 * climbed, rel=0.1, abs=10.0)  # the heavier ride takes a little longer


def test_figures_of_the_riders_own_stand_above_all(demo: Plan) -> None:
    ridden = evaluate(with_supply(demo, food_density=3_000.0, food_bulk=1_000.0), "a").ridden
    assert set(ridden.provisions.larder.density) == {3_000.0} and set(ridden.provisions.larder.bulk) == {1_000.0}


def test_a_food_the_rider_knows_better_and_a_shelf_are_bought_from(demo: Plan) -> None:
    light = replace(FOODS["bars"], energy=8.0, bulk=8.0, tires=40.0)
    own = replace(light, key="lard", name="lard and sugar")
    supply = {"foods": (own,), "shelves": {"start": ("lard",), "shop": ("lard",), "town": ("lard",)}}
    ridden = evaluate(with_supply(demo, **supply), "a").ridden
    bought = {key for basket in ridden.provisions.larder.baskets if basket for key, _ in basket.shares}
    assert "lard" in bought and ridden.provisions.larder.density[0] == pytest.approx(8_000.0)
    assert foods_of(Supply(foods=(own,)))["lard"] is own


def test_what_is_bought_by_hand_is_bought_there_whatever_it_weighs(demo: Plan) -> None:
    for choose in (False, True):
        by_hand = with_supply(demo, choose=choose, buys={"tazzle": {"fruit": 900.0}})
        ridden = evaluate(by_hand, "a").ridden
        node = next(
            k for k, visit in enumerate(ridden.timetable.visits, start=1) if visit.stop and visit.stop.id == "tazzle"
        )
        basket, taken = ridden.provisions.larder.baskets[node], float(ridden.provisions.food.taken[node])
        assert not ridden.timetable.visits[node - 1].passed
        assert basket is not None and dict(basket.shares)["fruit"] * taken == pytest.approx(900.0, rel=0.06)


def test_much_bought_by_hand_is_carried_past_the_next_shop(demo: Plan) -> None:
    ridden = evaluate(with_supply(demo, buys={"start": {"nuts": 6_000.0}}), "a").ridden
    assert float(ridden.provisions.food.leaving[0]) == pytest.approx(6_300.0)
    assert float(ridden.provisions.larder.density[0]) == pytest.approx(6_000.0, rel=0.06)
    chosen = evaluate(with_supply(demo, choose=True, buys={"start": {"nuts": 6_000.0}}), "a").ridden
    assert float(chosen.provisions.food.leaving[0]) == pytest.approx(6_300.0)


def test_tablets_keep_what_is_drunk_until_they_have_worked(demo: Plan) -> None:
    treating = {item.id for item in demo.items if item.kind in ("water_filter", "water_tablets", "stove")}
    bare = replace(demo, items=tuple(item for item in demo.items if item.id not in treating))
    for kind, low, high in (("water_tablets", 0.1, 0.6), ("water_filter", 0.0, 0.0)):  # l, half an hour of drinking
        own = Item(id="own", name=kind, kind=kind, mass=0.05, volume=1e-5)
        plan = with_supply(replace(bare, items=(*bare.items, own)), water_reserve=0.0)
        assert low <= evaluate(plan, "a").ridden.provisions.reserve <= high


def test_a_filter_is_as_quick_as_its_flow() -> None:
    plain = Item(id="f", name="f", kind="water_filter", mass=0.1, volume=1e-4)
    assert treatment_rate((plain,)) == 60.0
    assert treatment_rate((replace(plain, facts=(("flow", 500.0),)),)) == 120.0
    assert treatment_rate(()) == 0.0


def test_a_stop_sells_what_the_rider_says_of_it_then_of_such_places() -> None:
    stop = Stop(id="pump", name="Pump", distance=0.0, kind="fuel", offers=frozenset({"shop"}))
    assert shelf_at(Supply(), stop)[0] == "chocolate"
    assert shelf_at(Supply(shelves={"fuel": ("crisps",)}), stop) == ("crisps",)
    assert shelf_at(Supply(shelves={"fuel": ("crisps",), "pump": ("bread",)}), stop) == ("bread",)
    assert shelf_at(Supply(), replace(stop, offers=frozenset({"water"}))) == ()


def test_powder_without_a_bottle_for_it_is_said(demo: Plan) -> None:
    plan = with_food(demo, food("drink_mix", 0.5))
    variant = plan.variants[0]
    plain = tuple(replace(carrier, drink="plain") for carrier in variant.carriers)
    for carriers, state in ((variant.carriers, "fine"), (plain, "tight")):
        found = evaluate(plan.with_variant(replace(variant, carriers=carriers)), "a")
        finding = next(entry for entry in found.findings if entry.code == "powder")
        assert (finding.state.value == "fine") is (state == "fine"), finding
    assert not any(entry.code == "powder" for entry in evaluate(demo, "a").findings)
