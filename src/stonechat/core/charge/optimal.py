"""What to charge when, at least cost in minutes: hub drag, waiting at sockets, and what is flat. A linear programme.

Leads, outlets, cold and the slowing of a battery in its last fifth are left out, and within a block energy may be
parted as one likes: no rule does better than this over the same blocks, so it is a bound for every rule, and it says
where on the way charging is cheap.
"""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.optimize import linprog
from scipy.sparse import coo_array

from stonechat.core.charge.run import INTO, Batteries
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.errors import ConvergenceError


@dataclass(frozen=True, kw_only=True)
class Blocks:
    """A race by blocks, shape (k,) each where nothing else is said."""

    hours: FloatArray  # h
    loads: FloatArray  # Wh that each device wants, shape (k, devices)
    hub: FloatArray  # Wh that the hub could give
    hub_price: FloatArray  # min for each Wh that it gives
    wall: FloatArray  # W of the chargers where one halts at a socket, else 0
    bridged: FloatArray  # Wh of each device's lack that costs next to nothing, as another bridges it, shape (devices,)
    wait_price: float = 1.0  # min for each minute longer at a socket
    wait_most: float = 0.0  # h longer at most, at each


@dataclass(frozen=True, kw_only=True)
class Best:
    """The least that charging costs."""

    minutes: float  # min, all of it
    hub: FloatArray  # Wh from the hub by block, shape (k,)
    waits: FloatArray  # h longer by block, shape (k,)
    unmet: FloatArray  # Wh that each device lacks, shape (k, devices)


@dataclass
class _Rows:
    """Rows of a programme as they are written."""

    places: list[tuple[int, int, float]] = field(default_factory=list)
    right: list[float] = field(default_factory=list)

    def add(self, terms: list[tuple[int, float]], right: float) -> None:
        self.places += [(len(self.right), column, value) for column, value in terms]
        self.right.append(right)

    def matrix(self, columns: int) -> Any:  # a sparse array, which the solver's types do not know
        row, column, value = zip(*self.places, strict=True)
        return coo_array((value, (row, column)), shape=(len(self.right), columns)).tocsr()


@dataclass(frozen=True)
class _Places:
    """Columns: from hub and wall into each battery, levels, from banks into devices, what lacks, waits."""

    size: int
    devices: int

    @property
    def each(self) -> int:
        return 3 * self.size + (self.size - self.devices) * self.devices + self.devices + 1

    def hub(self, k: int, b: int) -> int:
        return k * self.each + b

    def wall(self, k: int, b: int) -> int:
        return k * self.each + self.size + b

    def level(self, k: int, b: int) -> int:
        return k * self.each + 2 * self.size + b

    def lent(self, k: int, bank: int, device: int) -> int:
        return k * self.each + 3 * self.size + (bank - self.devices) * self.devices + device

    def unmet(self, k: int, d: int) -> int:
        return (k + 1) * self.each - 1 - self.devices + d

    def wait(self, k: int) -> int:
        return (k + 1) * self.each - 1


def best_charging(
    blocks: Blocks, batteries: Batteries, lacking: FloatArray, *, may_charge: BoolArray | None = None
) -> Best:
    """Return what to charge when at least cost.

    Parameters
    ----------
    blocks : Blocks
        The race.
    batteries : Batteries
        Devices, then banks, as they begin.
    lacking : ndarray, shape (devices,)
        What each Wh that a device lacks costs; nothing as far as `bridged` of the blocks reaches. [min/Wh]
    may_charge : ndarray of bool, shape (k,), optional
        Blocks on which the hub may charge; all where it is not given.

    Returns
    -------
    best : Best
        Proven: a linear programme, solved to the end. [min]

    Raises
    ------
    ConvergenceError
        Where the solver gives up.
    """
    count, at = blocks.hours.size, _Places(batteries.capacities.size, batteries.devices)
    equal, most = _Rows(), _Rows()
    size = count * at.each + at.devices  # the last are what is bridged of each device's lack
    cost, upper = np.zeros(size), np.full(size, np.inf)
    allowed = np.ones(count, dtype=bool) if may_charge is None else may_charge
    every = range(at.size)
    for k in range(count):
        longer = blocks.hours[k] + (blocks.wait_most if blocks.wall[k] > 0.0 else 0.0)
        for b in every:
            _balance(blocks, batteries, at, k, b, equal)
            upper[at.level(k, b)] = batteries.capacities[b]
            cost[at.hub(k, b)] = blocks.hub_price[k]
            upper[at.hub(k, b)] = batteries.takes[b] * blocks.hours[k]
            upper[at.wall(k, b)] = batteries.takes[b] * longer
        for d in range(at.devices):
            cost[at.unmet(k, d)], upper[at.unmet(k, d)] = lacking[d], blocks.loads[k, d]
        most.add([(at.hub(k, b), 1.0) for b in every], float(blocks.hub[k]) if allowed[k] else 0.0)
        wall = float(blocks.wall[k])
        most.add([*((at.wall(k, b), 1.0) for b in every), (at.wait(k), -wall)], wall * float(blocks.hours[k]))
        cost[at.wait(k)], upper[at.wait(k)] = 60.0 * blocks.wait_price, longer - blocks.hours[k]
    for d in range(at.devices):
        bridged = count * at.each + d
        cost[bridged], upper[bridged] = -lacking[d], blocks.bridged[d]
        most.add([(bridged, 1.0), *((at.unmet(k, d), -1.0) for k in range(count))], 0.0)
    found = linprog(
        cost,
        A_ub=most.matrix(cost.size),
        b_ub=np.array(most.right),
        A_eq=equal.matrix(cost.size),
        b_eq=np.array(equal.right),
        bounds=[(0.0, value) for value in upper.tolist()],
        method="highs",
    )
    if found.x is None or found.fun is None:
        raise ConvergenceError(f"The charging could not be planned ({found.message}). The rule stays as it is.")
    parts = found.x[: count * at.each].reshape(count, at.each)
    return Best(
        minutes=float(found.fun),
        hub=parts[:, : at.size].sum(axis=1),
        waits=parts[:, -1],
        unmet=parts[:, at.each - 1 - at.devices : at.each - 1],
    )


def _balance(blocks: Blocks, batteries: Batteries, at: _Places, k: int, b: int, rows: _Rows) -> None:
    """Write what a battery holds at the end of a block: what it held, what went in, less what went out."""
    terms = [(at.level(k, b), 1.0), (at.hub(k, b), -INTO), (at.wall(k, b), -INTO)]
    right = float(batteries.levels[b]) if k == 0 else 0.0
    if k > 0:
        terms.append((at.level(k - 1, b), -1.0))
    if b < at.devices:
        terms += [(at.lent(k, bank, b), -INTO) for bank in range(at.devices, at.size)]
        terms.append((at.unmet(k, b), -1.0))
        right -= float(blocks.loads[k, b])
    else:
        terms += [(at.lent(k, b, d), 1.0 / float(batteries.keeps[b])) for d in range(at.devices)]
    rows.add(terms, right)
