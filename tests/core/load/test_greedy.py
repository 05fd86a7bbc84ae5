"""Rules of thumb and bounds: what they place obeys the rules, and no packing is under the bound."""

from dataclasses import replace

import pytest
from hypothesis import given, settings

from stonechat.core.load.greedy import RULES, RuleOfThumb, pack_greedily
from stonechat.core.load.judge import judge
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import lower_bound, solve_packing
from stonechat.core.load.why import why_here
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan
from tests.oracles.packing import best_by_brute_force
from tests.strategies import packing_problems, random_problem


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.key)
@pytest.mark.parametrize("seed", range(3))
def test_what_a_rule_places_fits_and_may_ride_there(rule: RuleOfThumb, seed: int) -> None:
    problem = random_problem(seed, 60)
    places = pack_greedily(problem, rule)
    broken = judge(problem, places).broken
    assert all("has no place" in words or "front wheel" in words or "sways" in words for words in broken), broken
    assert set(places) <= {item.id for item in problem.items}


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.key)
def test_a_rule_keeps_what_is_pinned(rule: RuleOfThumb) -> None:
    problem = random_problem(2, 40)
    thing = next(item for item in problem.items if item.volume < 0.001 and not item.worn)
    assert pack_greedily(replace(problem, pins={thing.id: "seat"}), rule)[thing.id] == "seat"


@given(packing_problems())
@settings(max_examples=40)
def test_no_packing_is_under_the_bound(problem: PackingProblem) -> None:
    best = best_by_brute_force(problem)
    if best is not None:
        assert lower_bound(problem) <= best + 1e-6


@given(packing_problems(4))
@settings(max_examples=25)
def test_a_place_forced_on_a_thing_costs_at_least_what_is_said(problem: PackingProblem) -> None:
    free = replace(problem, pins={})
    best = best_by_brute_force(free)
    if best is None or not free.items:
        return
    item, base = free.items[0], lower_bound(free)
    for entry in why_here(free, {}, item.id):
        forced = best_by_brute_force(replace(free, pins={item.id: entry.carrier_id}))
        if entry.repacked is None:
            continue
        # a bound less a bound: the best with it there is never under the sum
        assert forced is None or base + entry.repacked <= forced + 1e-6


def test_the_demo_is_far_from_the_best_by_rules_of_thumb_and_near_by_the_solver(
    demo: Plan, demo_evaluation: Evaluation
) -> None:
    problem = packing_problem(demo, demo.variants[0], demo_evaluation.ridden)
    bound = lower_bound(problem)
    solved = solve_packing(problem, time_limit=20.0)
    assert bound <= solved.bound + 1e-6 and solved.minutes <= 1.03 * bound
    by_rule = {rule.key: judge(problem, pack_greedily(problem, rule)).minutes for rule in RULES}
    assert all(minutes >= solved.minutes - 1e-6 for minutes in by_rule.values())
    assert min(by_rule["heavy_low"], by_rule["by_kind"]) > 1.05 * bound


def test_why_names_the_place_that_it_has_with_nothing_to_pay_at_the_optimum(
    demo: Plan, demo_evaluation: Evaluation
) -> None:
    problem = packing_problem(demo, demo.variants[0], demo_evaluation.ridden)
    places = solve_packing(problem, time_limit=20.0).places
    item = max((i for i in problem.items if not i.worn), key=lambda i: i.reaches.per_day)
    reasons = {entry.carrier_id: entry for entry in why_here(problem, places, item.id)}
    here = reasons[places[item.id]]
    assert here.change == 0.0 and here.repacked is not None and here.repacked < 0.01 * lower_bound(problem)
