"""From one packing to another, move by move: what brings most first, each priced as it is done."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from stonechat.core.kit.item import HOME
from stonechat.core.load.problem import PackingProblem


@dataclass(frozen=True, kw_only=True)
class Step:
    """One move."""

    row: int  # of the item
    target: str  # carrier, or home
    gain: float  # min that it saves once those before it are done; may be negative
    wind: float  # min of that in the wind


def in_order(problem: PackingProblem, now: Mapping[str, str], places: Mapping[str, str]) -> tuple[Step, ...]:
    """Return the moves from one packing to another, that which saves most first.

    Parameters
    ----------
    problem : PackingProblem
        Prices.
    now : mapping of str to str
        Where things are; what is nowhere costs nothing yet.
    places : mapping of str to str
        Where they go; what is not named stays.

    Returns
    -------
    steps : tuple of Step
        Their gains add up to what reaching, wind and weight of things differ by; room is not looked at. [min]

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> in_order(build_problem(items=(), carriers=(), bike=Bike(), provisions=Provisions(), pins={},
    ...                        prices=Prices(per_kg=1, per_drag=1, days=1)), {}, {})
    ()
    """
    at = problem.columns(now)
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    wanted = {
        i: places[item.id]
        for i, item in enumerate(problem.items)
        if places.get(item.id) and places[item.id] != now.get(item.id, "")
    }
    steps = []
    while wanted:
        options = [_step(problem, at, i, target, index) for i, target in wanted.items()]
        best = max(options, key=lambda step: step.gain)
        steps.append(best)
        at[best.row] = index.get(best.target, -1)
        del wanted[best.row]
    return tuple(steps)


def _step(problem: PackingProblem, at: list[int], i: int, target: str, index: Mapping[str, int]) -> Step:
    item, beside = problem.items[i], problem.beside(i, at)
    along = problem.choices.things.get(item.id, 0.0)
    cost = np.append(beside + along, 0.0)  # the last one: nowhere, or at home
    here, there = at[i], index.get(target, -1)
    wind = np.append(problem.wind_minutes, 0.0) * item.total_volume
    gain = float(cost[here] - cost[there]) if target != HOME or here >= 0 else 0.0
    return Step(row=i, target=target, gain=gain, wind=float(wind[here] - wind[there]))
