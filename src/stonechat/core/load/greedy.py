"""Quick packing by rules of thumb: a start for the solver, and named ways of packing to hold against the optimum."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from stonechat.core.kit.item import HOME
from stonechat.core.load.problem import PackingProblem
from stonechat.core.rig import places as on_bike
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.core.rig.places import FRAME_PLACES

Order = Callable[[PackingProblem, int], tuple[float, ...]]  # of things; least first
Choice = Callable[[PackingProblem, int, int], tuple[float, ...]]  # of carriers for a thing; least first
_LOW = FRAME_PLACES | {"down_tube", "down_store", "bottle_down", "bottle_seat"}
_OUTER = on_bike.where(lambda place: place.outer)
_KINDS = {  # where riders who pack by category put things
    "sleep": ("bar", "seat", "rack"), "clothes": ("seat", "rack", "bar_front", "bar"),
    "tools": ("down_tube", "frame_lower", "frame_upper", "frame"), "power": ("frame_upper", "frame", "top_tube_front"),
    "navigation": ("top_tube_front", "stem", "body"), "hygiene": ("top_tube_rear", "seat", "bar_front"),
    "food": ("top_tube_front", "stem", "bar_front"), "papers": ("top_tube_front", "waist", "body"),
    "other": ("seat", "bar_front", "frame_upper"),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class RuleOfThumb:
    """A named way of packing."""

    key: str
    name: str
    order: Order
    choice: Choice


def _rank_of_kind(problem: PackingProblem, i: int, c: int) -> float:
    wanted = _KINDS[problem.items[i].category]
    place = problem.carriers[c].place
    return float(wanted.index(place)) if place in wanted else float(len(wanted))


RULES: tuple[RuleOfThumb, ...] = (
    RuleOfThumb(
        key="minutes",
        name="most reached first, each where it costs least",
        order=lambda p, i: (float(p.allowed[i].sum() > 3), -p.items[i].reaches.per_day, -p.items[i].total_volume),
        choice=lambda p, i, c: (float(p.alone[i, c]),),
    ),
    RuleOfThumb(
        key="heavy_low",
        name="heaviest first, low in the frame",
        order=lambda p, i: (-p.items[i].total_mass,),
        choice=lambda p, i, c: (float(p.carriers[c].place not in _LOW), float(p.positions[c, 2])),
    ),
    RuleOfThumb(
        key="light_tail",
        name="bulky and light at both ends, the rest in the middle",
        order=lambda p, i: (-p.items[i].total_volume,),
        choice=lambda p, i, c: (
            float((p.carriers[c].place in _OUTER) != (p.items[i].total_mass < 0.35 * p.items[i].total_volume * 1e3)),
            float(p.positions[c, 2]),
        ),
    ),
    RuleOfThumb(
        key="by_need",
        name="by when it is needed: what is needed soonest, nearest at hand",
        order=lambda p, i: (float(ACCESS_RANK[p.items[i].access]), -p.items[i].reaches.per_day),
        choice=lambda p, i, c: (
            abs(float(ACCESS_RANK[p.carriers[c].access] - min(ACCESS_RANK[p.items[i].access], 2))),
            p.carriers[c].open_time,
        ),
    ),
    RuleOfThumb(
        key="by_kind",
        name="each kind of thing in its bag",
        order=lambda p, i: (-p.items[i].total_volume,),
        choice=lambda p, i, c: (_rank_of_kind(p, i, c), float(c)),
    ),
)


def pack_greedily(problem: PackingProblem, rule: RuleOfThumb = RULES[0]) -> Mapping[str, str]:
    """Place one thing after another by a rule of thumb, each in the first carrier of its choice that still takes it.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    rule : RuleOfThumb
        In which order, and where first.

    Returns
    -------
    places : mapping of str to str
        Carrier of each item; an item that finds no room is left out, or at home where it
        may stay. Room is kept for food in carriers that
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
    mounted = np.array([carrier.mounted for carrier in problem.carriers], dtype=bool)
    room = capacity * np.where(takes_food, 1.0 - share, 1.0)
    bearing = np.array([carrier.load_limit for carrier in problem.carriers])
    leaking, spoiling = np.zeros(len(capacity), bool), takes_food & (problem.provisions.food_volume > 0.0)
    places: dict[str, str] = {}
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}

    def put(i: int, c: int) -> None:
        item = problem.items[i]
        places[item.id] = problem.carriers[c].id
        room[c] -= item.total_volume
        bearing[c] -= item.total_mass
        leaking[c] |= item.floods
        spoiling[c] |= item.is_spoilable

    for i, item in enumerate(problem.items):
        if item.id in problem.pins:
            put(i, index[problem.pins[item.id]])
    for i in sorted(range(len(problem.items)), key=lambda i: rule.order(problem, i)):
        item = problem.items[i]
        if item.id in places:
            continue
        for c in sorted(range(len(capacity)), key=lambda c: rule.choice(problem, i, c)):
            fits = room[c] >= item.total_volume and bearing[c] >= item.total_mass
            clean = not (item.floods and spoiling[c]) and not (item.is_spoilable and leaking[c])
            dry = (i, c) not in problem.lined
            if problem.refusals[i][c] is None and mounted[c] and fits and clean and dry:
                put(i, c)
                break
        else:
            if item.id in problem.choices.things:
                places[item.id] = HOME
    return places
