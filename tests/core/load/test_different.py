"""Different packings are within the budget, keep every rule, and differ in what a rider would notice."""

import re
from dataclasses import replace

from stonechat.core.load.different import BUDGET, different_packings
from stonechat.core.load.solve import Packing, solve_packing
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan


def test_two_more_plans_differ_in_bags_within_the_budget(demo: Plan, demo_evaluation: Evaluation) -> None:
    problem = packing_problem(demo, demo.variants[0], demo_evaluation.ridden)
    result = solve_packing(problem, time_limit=60.0)
    best = Packing(places=result.places, mounted=result.mounted, food=result.food)
    score = best.judged(problem).score
    others = different_packings(problem, best, time_limit=15.0)
    assert len(others) == 2
    for other in others:
        verdict = other.packing.judged(problem)
        assert verdict.broken == ()
        assert verdict.score <= score * (1.0 + BUDGET) + 1e-6
        assert abs(verdict.minutes - other.minutes) < 1e-6
        emptied = set(best.places.values()) - set(other.packing.places.values())
        assert bool(emptied) is any("nothing in" in words for words in other.words)
        # litres of things of one kind that ride elsewhere, as told: seen, or a bag is emptied or in use
        moved = [float(found[1]) for words in other.words if (found := re.match(r"([\d.]+) l of", words))]
        assert emptied or moved or any("in use" in words for words in other.words)
    places = [dict(other.packing.places) for other in others]
    assert places[0] != places[1]


def test_where_nothing_else_is_possible_there_is_no_other(demo: Plan, demo_evaluation: Evaluation) -> None:
    variant = demo.variants[0]
    pinned = packing_problem(demo, variant, demo_evaluation.ridden)
    result = solve_packing(pinned, time_limit=5.0)
    fixed = replace(pinned, pins=dict(result.places))
    assert different_packings(fixed, Packing(places=result.places), time_limit=2.0) == ()
