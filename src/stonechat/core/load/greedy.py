"""Quick packing by rule of thumb: a first figure on the screen and a start for the solver."""

from collections.abc import Mapping

import numpy as np

from stonechat.core.load.problem import PackingProblem


def pack_greedily(problem: PackingProblem) -> Mapping[str, str]:
    """Place the most-reached thing first, each where it costs least and still fits.

    Parameters
    ----------
    problem : PackingProblem
        The problem.

    Returns
    -------
    places : mapping of str to str
        Carrier of each item; an item that finds no room is left out. Room is kept for food in carriers that
        take it, in proportion to their size.

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> pack_greedily(build_problem(items=(), carriers=(), bike=Bike(), provisions=Provisions(), pins={},
    ...                             prices=Prices(per_kg=1, per_drag=1, days=1)))
    {}
    """
    takes_food = problem.takes_food
    capacity = np.array([carrier.capacity for carrier in problem.carriers])
    share = min(1.0, problem.provisions.food_volume / max(capacity[takes_food].sum(), 1e-9))
    room = capacity * np.where(takes_food, 1.0 - share, 1.0)
    bearing = np.array([carrier.load_limit for carrier in problem.carriers])
    leaking, spoiling = np.zeros(len(capacity), bool), takes_food & (problem.provisions.food_volume > 0.0)
    places: dict[str, str] = {}
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}

    def put(i: int, c: int) -> None:
        item = problem.items[i]
        places[item.id] = problem.carriers[c].id
        if not item.worn:
            room[c] -= item.total_volume
            bearing[c] -= item.total_mass
        leaking[c] |= item.leaks
        spoiling[c] |= item.is_spoilable

    for i, item in enumerate(problem.items):
        if item.id in problem.pins:
            put(i, index[problem.pins[item.id]])
    choices = problem.allowed.sum(axis=1)
    for i in sorted(
        range(len(problem.items)),
        key=lambda i: (choices[i] > 3, -problem.items[i].reaches, -problem.items[i].total_volume),
    ):
        item = problem.items[i]
        if item.id in places:
            continue
        for c in np.argsort(problem.minutes[i], kind="stable").tolist():
            fits = item.worn or (room[c] >= item.total_volume and bearing[c] >= item.total_mass)
            clean = not (item.leaks and spoiling[c]) and not (item.is_spoilable and leaking[c])
            if problem.refusals[i][c] is None and fits and clean:
                put(i, c)
                break
    return places
