"""Clearly different packings of nearly the same worth, told apart by what a rider would notice."""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import highspy
import numpy as np

from stonechat.core.kit.item import CATEGORIES, HOME
from stonechat.core.load.model import LITRE, build_model
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import Packing, read_packing, run_model

BUDGET = 0.02  # 1, how much worse than the best a different packing may be
BAG_WEIGHT = 4.0  # a bag emptied or taken into use, against litres that ride elsewhere
NOTABLE = 0.3  # l, a thing of which a rider notices where it is
_MOST_TRIES = 9  # bags, and kinds of things in one, that are tried without
_ONE_TRY = 4.0  # s for each
_TRY_GAP = 0.005  # 1, gap at which a try ends
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
    The bags that hold most of what a rider notices are emptied, and the things of a kind that fill most of one put out
    of it, one such at a time, and the rest packed anew, as many as time allows; of those within the budget the ones
    farthest from all known are kept: litres of notable things that ride elsewhere, and bags emptied or taken into use.
    Not proven to be the farthest there are.
    """
    most = best.judged(problem).score * (1.0 + BUDGET)
    left, candidates = count * time_limit, []
    for forbidden in _tries(problem, best)[:_MOST_TRIES]:
        begun = time.monotonic()
        packing = _without(problem, forbidden, min(left, _ONE_TRY), should_stop)
        if packing is not None and packing.judged(problem).score <= most + 1e-6 and told_apart(problem, best, packing):
            candidates.append(packing)
        left -= time.monotonic() - begun
        if left <= 0.0 or should_stop():
            break
    return tuple(
        Different(packing=packing, minutes=packing.judged(problem).minutes, words=told_apart(problem, best, packing))
        for packing in _farthest(problem, best, candidates)[:count]
    )


def _farthest(problem: PackingProblem, best: Packing, candidates: list[Packing]) -> list[Packing]:
    """Return packings in order: each the farthest from all before it and from the best."""
    known = [best]
    left = list(candidates)
    while left:
        farthest = max(left, key=lambda packing: min(_distance(problem, packing, other) for other in known))
        left.remove(farthest)
        if min(_distance(problem, farthest, other) for other in known) > 0.0:
            known.append(farthest)
    return known[1:]


def _tries(problem: PackingProblem, packing: Packing) -> list[frozenset[tuple[int, int]]]:
    """Return sets of placements to forbid: all of a carrier, or those of a kind in it; most litres first."""
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    litres: dict[tuple[int, str], float] = {}
    for item in problem.items:
        c = index.get(packing.places.get(item.id, ""))
        if c is not None and item.total_volume / LITRE >= NOTABLE:
            for key in ((c, ""), (c, item.category)):
                litres[key] = litres.get(key, 0.0) + item.total_volume / LITRE
    found = []
    for c, kind in sorted(litres, key=lambda key: -litres[key]):
        out = frozenset((i, c) for i, item in enumerate(problem.items) if kind in ("", item.category))
        if litres[c, kind] > 0.0 and out not in found:
            found.append(out)
    return found


def _without(
    problem: PackingProblem, forbidden: frozenset[tuple[int, int]], time_limit: float, should_stop: Callable[[], bool]
) -> Packing | None:
    """Return a packing without some placements, None where there is none that keeps every hard rule."""
    model = build_model(problem)
    for i, columns in model.at.items():
        if len(columns) > 1:
            for c in columns:
                if (i, c) in forbidden:
                    model.upper[columns[c]] = 0.0
    solver = run_model(model, problem, time_limit, should_stop=should_stop, gap=_TRY_GAP).solver
    if solver.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return None
    packing = read_packing(model, problem, np.array(solver.getSolution().col_value))
    return None if packing.judged(problem).broken else packing


def _distance(problem: PackingProblem, one: Packing, other: Packing) -> float:
    """Return how far apart a rider finds two packings: litres that ride elsewhere, and bags emptied or in use. [l]"""
    moved = sum(
        min(item.total_volume / LITRE, _MOST_LITRES)
        for item in problem.items
        if one.places.get(item.id) != other.places.get(item.id) and item.total_volume / LITRE >= NOTABLE
    )
    return moved + BAG_WEIGHT * len(set(one.places.values()) ^ set(other.places.values()))


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
