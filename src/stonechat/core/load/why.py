"""Why a thing rides where it does: what every other place would cost, as things are and with the rest packed anew."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from stonechat.core.load.moves import move_options
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import lower_bound


@dataclass(frozen=True, kw_only=True)
class PlaceReason:
    """One place for a thing."""

    carrier_id: str
    minutes: float  # min of reaching and wind there
    change: float  # min against where it is, all others staying
    reason: str  # what stands against it now; empty where it may go there at once
    repacked: float | None  # min at least, with all the rest packed as well as can be; None where no packing has it


def why_here(problem: PackingProblem, places: Mapping[str, str], item_id: str) -> tuple[PlaceReason, ...]:
    """Return what every place would cost a thing, cheapest first.

    Parameters
    ----------
    problem : PackingProblem
        Prices and limits.
    places : mapping of str to str
        Carrier of each thing.
    item_id : str
        The thing.

    Returns
    -------
    reasons : tuple of PlaceReason
        One for each carrier. [min]

    Notes
    -----
    With the rest packed anew: the linear relaxation with the thing held there less the relaxation without. It is a
    bound from below, within a percent of the proven optimum on kits like the demo's (`benchmarks/packing.py`).

    Examples
    --------
    >>> from stonechat.core.kit.item import Item, Reaches
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> from stonechat.core.rig.carrier import Carrier
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=1, mass=0.4, longest=0.4, open_time=0)
    >>> pump = Item(id="p", name="pump", mass=0.2, volume=0.0, access="off", reaches=Reaches(per_day=1.0))
    >>> problem = build_problem(items=(pump,), carriers=(bag,), bike=Bike(), provisions=Provisions(), pins={},
    ...                         prices=Prices(per_kg=1, per_drag=1, days=2))
    >>> [(entry.carrier_id, entry.repacked) for entry in why_here(problem, {"p": "s"}, "p")]
    [('s', 0.0)]
    """
    free = replace(problem, pins={key: place for key, place in problem.pins.items() if key != item_id})
    base = lower_bound(free)
    row = next(i for i, item in enumerate(problem.items) if item.id == item_id)
    found = []
    for c, option in enumerate(move_options(problem, places, item_id)):
        repacked = None
        if free.refusals[row][c] is None:
            held = lower_bound(replace(free, pins={**free.pins, item_id: option.carrier_id})) - base
            repacked = None if math.isnan(held) else max(0.0, round(held, 9))
        found.append(
            PlaceReason(
                carrier_id=option.carrier_id,
                minutes=option.minutes,
                change=option.change,
                reason=option.reason,
                repacked=repacked,
            )
        )
    return tuple(sorted(found, key=lambda entry: (entry.repacked is None, entry.repacked or 0.0, entry.minutes)))
