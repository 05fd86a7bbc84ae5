"""When each stop is reached by one who leaves a place late, or early: the race ridden again for each delay."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.ledger.ridden import Ridden, part_of
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.plan.charging import Powered
from stonechat.core.plan.film import braked, masses_along, overhead_share, ride_scenario
from stonechat.core.plan.scenario import Scenario

DELAYS = 3600.0 * np.array(
    [-2.0, -1.0, -0.5, 0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 4.0, 5.0, 6.0, 7.0, 8.0, 10.0, 12.0]
)  # s
JUMP = 1.5  # 1, by how much more than the delay itself an arrival moves where a door or a night makes a jump
_MOST_CELLS = 900  # nodes times stops, so that the table stays small enough for a phone
_FEWEST = 6  # nodes that are ridden from at least


@dataclass(frozen=True, kw_only=True)
class LateTable:
    """Arrivals by where and by how much one is late."""

    nodes: IntArray  # leg at whose beginning one is late, shape (n,)
    delays: FloatArray  # s, shape (d,)
    arrivals: FloatArray  # s since the planned start, stops and finish, shape (n, d, s + 1)

    def arrivals_at(self, node: int, delay: float) -> FloatArray:
        """Return when stops and finish are reached. [s]

        Between two delays by a straight line; where a door or a night makes a jump, as with the nearer one.
        """
        return _between(self.delays, self.arrivals[node], delay)


def _between(delays: FloatArray, values: FloatArray, delay: float) -> FloatArray:
    k = int(np.clip(np.searchsorted(delays, delay), 1, delays.size - 1))
    low, high = float(delays[k - 1]), float(delays[k])
    share = (delay - low) / (high - low)
    before, after = values[k - 1], values[k]
    near = before + (delay - low) if share < 0.5 else after + (delay - high)
    jumps = np.abs(after - before) > JUMP * (high - low)
    return np.asarray(np.where(jumps, near, before + share * (after - before)), dtype=np.float64)


def late_table(ridden: Ridden, tell: Callable[[float], None] | None = None) -> LateTable:
    """Return when everything is reached by one who leaves the beginning of a leg late or early.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    tell : callable, optional
        Told after each place what share of them is done. [1]

    Returns
    -------
    table : LateTable
        Nights, doors, darkness and tiredness follow from the delay as in the plan; food, water and load stay as they
        are. [s]
    """
    scenario = braked(part_of(ridden.settled, Powered).scenario, ridden.settled.values())
    masses, drags = masses_along(scenario, ridden.settled.values())
    share = overhead_share(scenario, ridden.ride, ridden.provisions)
    legs, places = len(ridden.timetable.legs), len(ridden.way.stops) + 1
    count = int(np.clip(_MOST_CELLS // places, min(_FEWEST, legs), legs))
    nodes = np.unique(np.linspace(0, legs - 1, count).round().astype(np.int64))
    arrivals = np.empty((nodes.size, DELAYS.size, places))
    for k, node in enumerate(nodes.tolist()):
        for d, delay in enumerate(DELAYS.tolist()):
            late = _late(scenario, node, delay)
            ride = ride_scenario(late, masses, drags, share, before=ridden.ride)
            shift = delay if node == 0 else 0.0  # its clock counts from the start that is late
            arrivals[k, d] = np.append(ride.arrivals, float(ride.clocks[-1])) + shift
        if tell is not None:
            tell((k + 1) / nodes.size)
    return LateTable(nodes=nodes, delays=DELAYS, arrivals=arrivals)


def _late(scenario: Scenario, node: int, delay: float) -> Scenario:
    """Return a scenario that starts late, or leaves a stop late."""
    clock = scenario.clock
    if node == 0:
        return replace(scenario, clock=clock._replace(start_of_day=clock.start_of_day + delay))
    dwells = clock.stays.dwells.copy()
    dwells[node - 1] += delay
    return replace(scenario, clock=clock._replace(stays=clock.stays._replace(dwells=dwells)))
