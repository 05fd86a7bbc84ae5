"""The packing problem of a variant against its ledger; dry bags; what is held, closed and kept."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.item import HOME, Item, Pouch, Reaches
from stonechat.core.load.judge import judge
from stonechat.core.load.problem import burden_minutes, mishap_minutes, wind_minutes
from stonechat.core.load.reaching import LINER_TIME
from stonechat.core.load.solve import solve_packing
from stonechat.core.plan.evaluate import Evaluation, evaluate, with_places
from stonechat.core.plan.packing import Trial, packing_problem
from stonechat.core.plan.plan import Plan, Wishes
from stonechat.core.rig.carrier import Carrier
from tests.oracles.packing import on_occasions

SECOND = 1.0 / 60.0  # min


def few(demo: Plan) -> Plan:
    """The demo with half of its things, so that a proof takes less than a second."""
    kept = tuple(item for k, item in enumerate(demo.items) if k % 2 or item.worn)
    ids = {item.id for item in kept}
    variant = demo.variants[0]
    variant = replace(variant, places={key: place for key, place in variant.places.items() if key in ids})
    return replace(demo, items=kept, variants=(variant,))


def test_the_solvers_minutes_are_the_ledgers_to_the_second(demo: Plan) -> None:
    plan = few(demo)
    variant = plan.variants[0]
    result = solve_packing(packing_problem(plan, variant, evaluate(plan, "a").ridden), time_limit=10.0)
    packed = plan.with_variant(replace(with_places(variant, result.places), food_in=dict(result.food)))
    ridden = evaluate(packed, "a").ridden
    problem = packing_problem(packed, packed.variants[0], ridden)
    assert judge(problem, result.places).broken == ()
    column = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    at = tuple(column[result.places[item.id]] for item in problem.items)
    reaching = on_occasions(problem, at)
    for (i, item), c in zip(enumerate(problem.items), at, strict=True):
        wind = wind_minutes(item.total_volume, problem.carriers[c], ridden.ledger.prices)
        prices, carrier = ridden.ledger.prices, problem.carriers[c]
        besides = burden_minutes((item,), carrier, prices) + mishap_minutes((item,), carrier, prices)
        reaching += float(problem.minutes[i, c]) - wind - besides
    assert reaching == pytest.approx(ridden.ledger.minutes("reach"), abs=SECOND)


def test_the_same_problem_gets_the_same_answer(demo: Plan) -> None:
    plan = few(demo)
    problem = packing_problem(plan, plan.variants[0], evaluate(plan, "a").ridden)
    one, other = (solve_packing(problem, present=plan.variants[0].places, time_limit=20.0) for _ in range(2))
    assert one == other


def test_an_empty_dry_bag_keeps_things_dry_in_an_open_carrier_and_is_opened_each_time(demo: Plan) -> None:
    cage = Carrier(id="cage", name="open cage", place="fork", side="left", capacity=0.004, load_limit=2.0, mass=0.1,
                   longest=0.4, dryness="open", access="off", open_time=2.0)  # fmt: skip
    often = Reaches(per_day=2.0)
    quilt = Item(id="q", name="quilt", category="sleep", mass=0.5, volume=0.003, keep_dry=True, reaches=often)
    bag = Item(id="b", name="dry bag", mass=0.05, volume=0.0001, pouch=Pouch(makes_dry=True))
    variant = replace(demo.variants[0], carriers=(*demo.variants[0].carriers, cage))
    places = {"q": "cage", "b": "cage"}
    plan = replace(demo, items=(*demo.items, quilt, bag)).with_variant(with_places(variant, places))
    wet = plan.with_variant(with_places(plan.variants[0], {"b": "seat"}))
    with_bag, without = evaluate(plan, "a"), evaluate(wet, "a")
    assert not [f for f in with_bag.findings if f.code == "dry" and f.subject == "q"]
    assert [f.state for f in without.findings if f.code == "dry" and f.subject == "q"] == ["broken"]
    days = with_bag.ridden.ledger.prices.days
    more = with_bag.ridden.ledger.minutes("reach") - without.ridden.ledger.minutes("reach")
    assert more == pytest.approx(2.0 * LINER_TIME * days / 60.0, abs=0.1)
    problem = packing_problem(plan, plan.variants[0], with_bag.ridden)
    now = dict(with_bag.ridden.kit.places)
    dry, damp = (" ".join(judge(problem, {**now, "b": place}).broken) for place in ("cage", "seat"))
    assert "quilt in open cage" not in dry and "quilt in open cage: would get wet" in damp


def test_what_is_closed_kept_or_held_is_so_in_the_problem(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    variant = replace(demo.variants[0], wishes=Wishes(free_carriers=frozenset({"seat", "bar", "bottle-seat"})))
    free = packing_problem(demo, variant, ridden, Trial(decides=True))
    assert set(free.choices.carriers) == {"seat", "bar"}  # a bottle holds water: it stays
    kept = packing_problem(demo, variant, ridden, Trial(decides=True, kept=frozenset({"bar"})))
    assert set(kept.choices.carriers) == {"seat"}
    closed = packing_problem(demo, variant, ridden, Trial(decides=True, closed=frozenset({"seat"})))
    assert "seat" not in {carrier.id for carrier in closed.carriers}
    held = packing_problem(demo, variant, ridden, Trial(held={"phone": "jersey", "rag": HOME}))
    assert held.pins["phone"] == "jersey" and "rag" not in {item.id for item in held.items}
    mass = sum(entry[0] for entry in free.provisions.fixed)
    carried = sum(c.mass for c in variant.carriers if c.id in free.choices.carriers)
    assert mass == pytest.approx(sum(entry[0] for entry in kept.provisions.fixed) - next(
        c.mass for c in variant.carriers if c.id == "bar"), abs=1e-9)  # fmt: skip
    assert carried > 0.0


def test_only_things_marked_maybe_and_not_protected_may_stay_and_jobs_never_cut_are_done(
    demo: Plan, demo_evaluation: Evaluation
) -> None:
    variant = replace(demo.variants[0], wishes=Wishes(decide_maybe=True))
    problem = packing_problem(demo, variant, demo_evaluation.ridden, Trial(decides=True))
    needs = {item.id: item.need for item in demo.items}
    assert problem.choices.things and {needs[key] for key in problem.choices.things} == {"maybe"}
    for loss in problem.choices.losses:
        assert loss.minutes > 0.0 and loss.things <= set(problem.choices.things)


def test_reaching_by_leg_adds_up_to_the_ledgers(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    by_leg = [ridden.timetable.clock.reach_share * leg.moving / 60.0 for leg in ridden.timetable.legs]
    overhead = sum(ridden.ledger.minutes(key) for key in ("reach", "eating", "body", "mishap"))
    assert sum(by_leg) == pytest.approx(overhead, abs=SECOND)


@pytest.mark.parametrize("variant_id", ["a", "b", "c"])
@pytest.mark.parametrize("seed", range(10))
def test_taking_a_packing_brings_what_it_promises_and_breaks_no_check(demo: Plan, variant_id: str, seed: int) -> None:
    """Plans with some of the demo's things, masses and reaches drawn anew: evaluated before and after."""
    random = np.random.default_rng(seed)
    kept = tuple(
        replace(item, mass=item.mass * random.uniform(0.8, 1.2), content=0.0)
        for item in demo.items
        if item.worn or random.uniform() < 0.45
    )
    ids = {item.id for item in kept}
    variant = demo.variant(variant_id)
    variant = replace(variant, places={key: place for key, place in variant.places.items() if key in ids})
    items = tuple(replace(i, container=i.container if i.container in ids else "") for i in kept)
    plan = replace(demo, items=items).with_variant(variant)
    before = evaluate(plan, variant_id)
    problem = packing_problem(plan, variant, before.ridden)
    result = solve_packing(problem, present=variant.places, tolerance=2.0, time_limit=20.0)
    assert result.status in ("proven", "stopped") and result.bound <= result.minutes + 1e-6
    after = evaluate(
        plan.with_variant(replace(with_places(variant, result.places), food_in=dict(result.food))), variant_id
    )
    promised = (
        result.minutes - judge(problem, {item.id: variant.places.get(item.id, "") for item in problem.items}).minutes
    )
    keys = ("wind", "reach", "eating", "body", "mishap")
    came = sum(after.ridden.ledger.minutes(key) - before.ridden.ledger.minutes(key) for key in keys)
    # prices hold the length of the race, which gets shorter by what is gained, and one load of food stands for all legs
    assert came == pytest.approx(promised, abs=0.75, rel=0.03)
    hard = {"volume", "limit", "length", "dry", "leaks", "reachable", "sway", "left-right"}
    assert not [f for f in after.findings if f.code in hard and f.state == "broken"]


def test_water_takes_room_and_load_from_the_things_beside_it(demo: Plan, demo_evaluation: Evaluation) -> None:
    both = frozenset({"water", "items"})
    carriers = tuple(replace(c, takes=both) if c.id == "fork-left" else c for c in demo.variants[0].carriers)
    variant = replace(demo.variants[0], carriers=carriers)
    ridden = evaluate(demo.with_variant(variant), "a").ridden
    leg = int(np.argmax(ridden.provisions.food.leaving))
    poured = next(state.water for state in ridden.film[leg].carriers if state.carrier.id == "fork-left")
    before = next(c for c in carriers if c.id == "fork-left")
    after = next(c for c in packing_problem(demo, variant, ridden).carriers if c.id == "fork-left")
    assert after.capacity == pytest.approx(before.capacity - poured / 1e3)
    assert after.load_limit == pytest.approx(before.load_limit - poured)


def test_what_joins_where_another_leaves_takes_its_room(demo: Plan) -> None:
    """A box at a stop: the tent goes home there, and spare tyres come out of it."""
    stop = next(stop.id for stop in demo.line.stops if stop.id == "tazzle")
    stops = tuple(replace(s, offers=s.offers | {"drop_box"}) if s.id == stop else s for s in demo.line.stops)
    first = Item(id="first", name="first half", mass=0.5, volume=0.004, access="off")
    second = replace(first, id="second", name="second half")
    plan = few(replace(demo, line=replace(demo.line, stops=stops)))
    variant = plan.variants[0]
    bag = max(variant.bags, key=lambda carrier: carrier.capacity)
    places = {**variant.places, "first": bag.id, "second": bag.id}
    moving = replace(variant, places=places, posts={"first": stop}, joins={"second": stop})
    plan = replace(plan, items=(*plan.items, first, second), variants=(moving,))
    ridden = evaluate(plan, "a").ridden
    problem = packing_problem(plan, moving, ridden)
    aways = {problem.provisions.away, *(other.away for other in problem.provisions.others)}
    assert aways == {frozenset({"first"}), frozenset({"second"})}
    food = max(float(v) for v in ridden.provisions.food.leaving / ridden.provisions.larder.bulk) / 1e3
    assert problem.provisions.food_volume == pytest.approx(food)
    assert all(other.food_volume <= food for other in problem.provisions.others)
    result = solve_packing(problem, time_limit=20.0)
    assert judge(problem, result.places, food=result.food).broken == ()
    packed = plan.with_variant(replace(with_places(moving, result.places), food_in=dict(result.food)))
    for load in evaluate(packed, "a").ridden.film:
        for state in load.carriers:
            assert state.volume <= state.carrier.capacity + 1e-9, state.carrier.name
            assert {item.id for item in state.items} & {"first", "second"} != {"first", "second"}


def test_without_anything_that_joins_or_leaves_there_is_one_part_of_the_race(
    demo: Plan, demo_evaluation: Evaluation
) -> None:
    provisions = packing_problem(demo, demo.variants[0], demo_evaluation.ridden).provisions
    assert provisions.away == frozenset() and provisions.others == ()
