"""The solver against brute force, the rule of thumb and the plain judge."""

import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.kit.item import Item
from stonechat.core.load.greedy import pack_greedily
from stonechat.core.load.judge import judge
from stonechat.core.load.moves import move_options
from stonechat.core.load.problem import PackingProblem, Prices, Provisions, Refusal, Stretch, build_problem
from stonechat.core.load.solve import Progress, solve_packing
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan
from stonechat.core.rig.bike import Bike
from tests.oracles.choosing import best_choice
from tests.oracles.packing import best_by_brute_force
from tests.strategies import CARRIERS, choosing_problems, packing_problems, random_problem


@given(packing_problems())
@settings(max_examples=80)
def test_the_solver_is_as_good_as_trying_everything(problem: PackingProblem) -> None:
    best, result = best_by_brute_force(problem), solve_packing(problem, time_limit=20.0)
    if best is None:
        assert result.status == "impossible" and result.reasons
        return
    assert result.status == "proven"
    # proven to a relative gap of 0.1 %
    assert best - 1e-6 <= result.minutes <= best * 1.001 + 1e-6
    assert result.bound <= best + 1e-6


@given(packing_problems(), st.data())
@settings(max_examples=120, deadline=None)
def test_with_things_that_join_and_leave_it_is_as_good_as_trying_everything(
    problem: PackingProblem, data: st.DataObject
) -> None:
    """What is never aboard together may share a room; every part of the race has its own food."""
    ids = [item.id for item in problem.items]
    some = st.sets(st.sampled_from(ids)).map(frozenset) if ids else st.just(frozenset[str]())
    litres = data.draw(st.lists(st.sampled_from([0.0, 0.5, 1.5]), max_size=2))
    others = tuple(Stretch(away=data.draw(some), food_mass=v * 0.5, food_volume=v / 1000.0) for v in litres)
    parts = replace(problem.provisions, away=data.draw(some), others=others)
    parted = replace(problem, provisions=parts)
    best, result = best_by_brute_force(parted), solve_packing(parted, time_limit=20.0)
    if best is None:
        assert result.status == "impossible"
        return
    assert result.status == "proven"
    assert best - 1e-6 <= result.minutes <= best * 1.001 + 1e-6 and result.bound <= best + 1e-6
    assert judge(parted, result.places, food=result.food).broken == ()


def test_two_that_are_never_aboard_together_ride_in_one_room() -> None:
    big = tuple(Item(id=f"b{k}", name=f"b{k}", mass=0.5, volume=0.0035, access="off") for k in range(2))
    only = small(big)
    frame = replace(
        only,
        refusals=tuple(
            tuple(None if c.id == "frame" else Refusal(code="volume", words="no") for c in only.carriers) for _ in big
        ),
    )
    assert solve_packing(frame).status == "impossible"
    apart = replace(
        frame, provisions=replace(frame.provisions, away=frozenset({"b1"}), others=(Stretch(away=frozenset({"b0"})),))
    )
    assert dict(solve_packing(apart).places) == {"b0": "frame", "b1": "frame"}


@given(packing_problems())
def test_the_solvers_minutes_are_those_of_the_judge_and_no_rule_is_broken(problem: PackingProblem) -> None:
    result = solve_packing(problem, time_limit=20.0)
    if result.places:
        verdict = judge(problem, result.places)
        assert verdict.broken == ()
        assert verdict.minutes == pytest.approx(result.minutes, abs=1e-6)


@pytest.mark.parametrize("seed", range(4))
def test_a_real_kit_is_packed_to_a_small_gap_and_better_than_by_rule_of_thumb(seed: int) -> None:
    problem = random_problem(seed, 55)
    result = solve_packing(problem, time_limit=20.0)
    assert result.gap <= 0.01
    assert judge(problem, result.places).broken == ()
    greedy = pack_greedily(problem)
    if not judge(problem, greedy).broken:
        assert result.minutes <= judge(problem, greedy).minutes + 1e-6


def test_things_that_are_pinned_stay() -> None:
    problem = random_problem(1, 40)
    thing = next(item for item in problem.items if item.volume < 0.001 and not item.worn)
    pinned = replace(problem, pins={thing.id: "seat"})
    assert solve_packing(pinned, time_limit=10.0).places[thing.id] == "seat"


def test_of_equal_packings_the_one_that_moves_less_is_taken() -> None:
    things = tuple(Item(id=f"t{k}", name=f"t{k}", mass=0.1, volume=0.0002) for k in range(5))
    problem = small(things)
    present = {item.id: "frame" for item in things}
    assert dict(solve_packing(problem, present=present, tolerance=2.0).places) == present


def test_a_packing_moves_no_more_than_it_must(demo: Plan, demo_evaluation: Evaluation) -> None:
    variant = demo.variants[0]
    problem = packing_problem(demo, variant, demo_evaluation.ridden)
    plain = solve_packing(problem, time_limit=60.0)
    calm = solve_packing(problem, present=variant.places, tolerance=2.0, time_limit=60.0)
    moved = [sum(r.places[i.id] != variant.places[i.id] for i in problem.items) for r in (plain, calm)]
    assert moved[1] < moved[0]
    assert calm.gap <= 0.001 + 1e-9 and judge(problem, calm.places, food=calm.food).broken == ()
    assert calm.spared <= 2.0 + 0.002 * plain.minutes and calm.minutes <= plain.minutes + calm.spared + 0.2


def test_food_without_a_carrier_for_it_is_said() -> None:
    dry = tuple(replace(c, takes=frozenset({"items"})) for c in CARRIERS)
    problem = build_problem(
        items=(), carriers=dry, bike=Bike(), prices=Prices(per_kg=25, per_drag=10, days=3), pins={},
        provisions=Provisions(food_mass=0.5, food_volume=0.001),
    )  # fmt: skip
    result = solve_packing(problem)
    assert result.status == "impossible"
    assert result.reasons == ("No mounted carrier takes food, and 1.0 l of it must ride somewhere.",)


def test_what_fits_nowhere_is_named_with_the_reason() -> None:
    pole = Item(id="pole", name="tent pole", mass=0.2, volume=0.0003, length=0.55)
    result = solve_packing(small((pole,)))
    assert result.status == "impossible"
    assert "tent pole" in result.reasons[0] and "too long" in result.reasons[0]


def test_too_much_names_things_and_rooms_and_how_much_more_is_wanted() -> None:
    # 9 bags of 2.5 l that only fit the frame (4 l: 1), the seat pack (8 l: 3) and the wet bag (3 l: 1): 5 of 9
    bags = tuple(Item(id=f"b{k}", name=f"bag {k}", mass=0.05, volume=0.0025, access="off") for k in range(9))
    result = solve_packing(small(bags))
    assert result.status == "impossible"
    assert result.reasons[0].startswith("These 6 things want 15.0 l and may only ride in frame, seat, wet: bag")
    assert result.reasons[1:] == ("These hold 15.0 l together: seat 8.0 l, frame 4.0 l, wet 3.0 l.",)
    assert result.conflict is not None and result.conflict.ways and result.conflict.is_smallest


def test_progress_is_told_and_a_solve_can_be_stopped() -> None:
    told: list[Progress] = []
    result = solve_packing(random_problem(2, 60), on_progress=told.append, should_stop=lambda: bool(told))
    assert told and result.status in ("stopped", "proven")
    assert all(progress.bound <= progress.minutes + 1e-6 for progress in told if math.isfinite(progress.minutes))


@given(choosing_problems())
@settings(max_examples=300, deadline=None)
def test_with_carriers_to_mount_and_things_to_leave_it_is_as_good_as_trying_everything(problem: PackingProblem) -> None:
    best, result = best_choice(problem), solve_packing(problem, time_limit=20.0)
    if best is None:
        assert result.status == "impossible" and result.reasons
        return
    assert result.status == "proven"
    verdict = judge(problem, result.places, mounted=result.mounted, food=result.food)
    assert verdict.broken == ()
    assert best - 1e-6 <= verdict.score <= best + 0.001 * abs(best) + 1e-6
    assert result.unkept == verdict.unkept
    assert result.bound <= result.minutes + 1e-6


def small(things: tuple[Item, ...]) -> PackingProblem:
    return build_problem(
        items=things, carriers=CARRIERS, bike=Bike(), prices=Prices(per_kg=25, per_drag=10, days=3),
        provisions=Provisions(), pins={},
    )  # fmt: skip


@given(packing_problems())
def test_a_moves_change_is_the_difference_of_two_verdicts(problem: PackingProblem) -> None:
    places = {item.id: "seat" for item in problem.items}
    without_food = replace(problem, provisions=replace(problem.provisions, food_volume=0.0, food_mass=0.0), pins={})
    before = judge(without_food, places).minutes
    for item in problem.items:
        for option in move_options(without_food, places, item.id):
            after = judge(without_food, {**places, item.id: option.carrier_id}).minutes
            assert option.change == pytest.approx(after - before, abs=1e-9)


def test_a_full_carrier_and_a_bad_neighbour_are_named_while_holding() -> None:
    oil = Item(id="oil", name="oil", mass=0.05, volume=0.0002, leaks=True)
    bread = Item(id="bread", name="bread", mass=0.2, volume=0.0005, spoils=True)
    big = Item(id="big", name="big", mass=0.2, volume=0.0035)
    problem = small((oil, bread, big))
    options = {o.carrier_id: o for o in move_options(problem, {"bread": "frame", "big": "wet"}, "oil")}
    assert options["frame"].reason == "beside bread" and options["frame"].is_possible
    full = {o.carrier_id: o for o in move_options(problem, {"big": "seat", "bread": "frame"}, "big")}
    assert full["frame"].reason == "full: over by 0.1 l" or full["frame"].reason == ""
    assert not full["top"].is_possible and full["top"].reason == "too big by 2.3 l"
