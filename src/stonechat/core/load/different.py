"""Clearly different packings of nearly the same worth, told apart by what a rider would notice."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import highspy
import numpy as np

from stonechat.core.kit.item import CATEGORIES, HOME
from stonechat.core.load.model import LITRE, Model, build_model
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import Packing, read_packing, run_model

BUDGET = 0.02  # 1, how much worse than the best a different packing may be
BAG_WEIGHT = 4.0  # a bag emptied or taken into use, against litres that ride elsewhere
NOTABLE = 0.3  # l, a thing of which a rider notices where it is
_MOST_LITRES = 3.0  # a thing counts no more than this


@dataclass(frozen=True, kw_only=True)
class Different:
    """One packing that differs."""

    packing: Packing
    minutes: float  # min
    words: tuple[str, ...]  # what a rider would notice, against the first


def _never() -> bool:
    return False


def different_packings(
    problem: PackingProblem,
    best: Packing,
    *,
    count: int = 2,
    time_limit: float = 8.0,
    should_stop: Callable[[], bool] = _never,
) -> tuple[Different, ...]:
    """Return packings within BUDGET of the best that are as far as can be from it and from one another.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    best : Packing
        The best one known.
    count : int
        How many more.
    time_limit : float
        For each. [s]
    should_stop : callable
        Asked now and then.

    Returns
    -------
    packings : tuple of Different
        Fewer where no other is within the budget. Each keeps every hard rule. [min]

    Notes
    -----
    Maximises the least distance to the packings so far: litres of notable things that ride elsewhere, and bags emptied
    or taken into use, under a row that holds the score within the budget.
    """
    most = best.judged(problem).score * (1.0 + BUDGET)
    known, found = [best], []
    for _ in range(count):
        model = build_model(problem)
        _far_from(problem, model, known, most)
        solver = run_model(model, problem, time_limit, should_stop=should_stop, start=known[-1], gap=0.05).solver
        if solver.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
            break
        packing = read_packing(model, problem, np.array(solver.getSolution().col_value))
        verdict = packing.judged(problem)
        words = told_apart(problem, best, packing)
        if verdict.broken or verdict.score > most + 1e-6 or not words or packing in known:
            break
        known.append(packing)
        found.append(Different(packing=packing, minutes=verdict.minutes, words=words))
    return tuple(found)


def _far_from(problem: PackingProblem, model: Model, known: list[Packing], most: float) -> None:
    """Replace the objective by the least distance to some packings, within a budget."""
    model.row({column: cost for column, cost in enumerate(model.cost) if cost}, -math.inf, most)
    model.cost = [0.0] * len(model.cost)
    used = _used(problem, model)
    nearest = model.column(cost=-1.0, upper=1e4)
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    for packing in known:
        distance, constant = {nearest: -1.0}, 0.0
        for i, item in enumerate(problem.items):
            litres = item.total_volume / LITRE
            column = model.at.get(i, {}).get(index.get(packing.places.get(item.id, ""), -1))
            if litres >= NOTABLE and column is not None:
                distance[column] = -min(litres, _MOST_LITRES)
                constant += min(litres, _MOST_LITRES)
        filled = set(packing.places.values())
        for c, column in used.items():
            was = problem.carriers[c].id in filled
            distance[column] = -BAG_WEIGHT if was else BAG_WEIGHT
            constant += BAG_WEIGHT if was else 0.0
        model.row(distance, -constant, math.inf)


def _used(problem: PackingProblem, model: Model) -> dict[int, int]:
    """Add a column for each carrier that says whether a thing rides in it."""
    used = {}
    for c in range(len(problem.carriers)):
        here = [model.at[i][c] for i, item in enumerate(problem.items) if c in model.at.get(i, {})]
        if here:
            used[c] = model.column(cost=0.0, upper=1.0, integer=True)
            for column in here:
                model.row({column: 1.0, used[c]: -1.0}, -math.inf, 0.0)
            model.row({**dict.fromkeys(here, 1.0), used[c]: -1.0}, 0.0, math.inf)
    return used


def told_apart(problem: PackingProblem, one: Packing, other: Packing) -> tuple[str, ...]:
    """Return in what a rider would notice that another packing differs from one.

    Parameters
    ----------
    problem : PackingProblem
        For names and volumes.
    one, other : Packing
        The packings.

    Returns
    -------
    words : tuple of str
        Bags taken off, emptied or used, then kinds of things that ride elsewhere, most litres first.
    """
    names = {carrier.id: carrier.name for carrier in problem.carriers}
    before, after = set(one.places.values()) & set(names), set(other.places.values()) & set(names)
    words = [
        f"{names[key]} {'off the bike' if key not in other.mounted else 'empty'}"
        if key in problem.choices.carriers
        else f"nothing in {names[key]}"
        for key in sorted(before - after)
    ]
    words += [f"{names[key]} in use" for key in sorted(after - before)]
    moved: dict[tuple[str, str], float] = {}
    for item in problem.items:
        origin, target = one.places.get(item.id, ""), other.places.get(item.id, "")
        if origin != target and item.total_volume / LITRE >= NOTABLE:
            key = (item.category, target)
            moved[key] = moved.get(key, 0.0) + item.total_volume / LITRE
    where: Mapping[str, str] = {**names, HOME: "home"}
    for (category, target), litres in sorted(moved.items(), key=lambda entry: -entry[1])[:4]:
        words.append(f"{litres:.1f} l of {CATEGORIES[category][0]} to {where.get(target, target)}")
    return tuple(words)
