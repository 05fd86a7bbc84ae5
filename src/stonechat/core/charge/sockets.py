"""What a stop with a socket gives: in which order things are filled, how long all takes, and what does not fit in."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.charge.report import Charge
from stonechat.core.charge.run import INTO, Steps, run_batteries
from stonechat.core.charge.things import Electric
from stonechat.core.numerics.arrays import FloatArray, IntArray, runs_of

FULL = 0.95  # 1, of a battery from which it counts as full: the rest comes ever slower
LONGEST = 24  # h that are looked at


@dataclass(frozen=True, kw_only=True)
class Filling:
    """One thing at a socket."""

    thing: Electric
    came: float  # 1, of its battery on arrival
    left: float  # 1, on leaving
    begins: float  # s after arrival that it is on the wall first
    ends: float  # s after arrival that it is full; infinity where it is not while one stays
    after: float  # s after arrival by which it would be full if one stayed; infinity: not in a day
    reached: bool  # whether a lead reaches it from the wall

    @property
    def is_wanted(self) -> bool:
        """Whether it is used in the race and can be filled here."""
        return self.reached and (self.thing.draws or self.thing.role == "bank")

    @property
    def fits(self) -> bool:
        """Whether it is full when one leaves, or was on arrival."""
        return self.left >= FULL


@dataclass(frozen=True, kw_only=True)
class SocketStop:
    """A halt at a socket."""

    stop: int  # its place in the order of stops
    distance: float  # m
    begins: float  # s since the start
    length: float  # s
    fillings: tuple[Filling, ...]  # in the order in which they are plugged in
    gives: float  # W of the chargers aboard
    ports: int
    taken: float  # Wh that went in, losses of charging in it

    @property
    def unfilled(self) -> tuple[Filling, ...]:
        """What is used in the race and is not full on leaving."""
        return tuple(one for one in self.fillings if one.is_wanted and not one.fits)

    @property
    def all_full(self) -> float:
        """When all that is used would be full. [s after arrival]"""
        return max((one.after for one in self.fillings if one.is_wanted), default=0.0)


@dataclass(frozen=True, kw_only=True)
class Sockets:
    """All halts at sockets."""

    halts: tuple[SocketStop, ...]


def sockets_of(charge: Charge, stops: IntArray) -> Sockets:
    """Return what each halt at a socket gives.

    Parameters
    ----------
    charge : Charge
        Every battery by the clock.
    stops : ndarray, shape (n,)
        Stop of each step, -1 where there is none. [1]

    Returns
    -------
    sockets : Sockets
        In order.
    """
    on_wall = (charge.steps.wall > 0.0) & (stops >= 0)
    return Sockets(halts=tuple(_halt(charge, first, last, int(stops[first])) for first, last in runs_of(on_wall)))


def _halt(charge: Charge, first: int, last: int, stop: int) -> SocketStop:
    steps, capacities = charge.steps, np.maximum(charge.batteries.capacities, 1e-9)
    levels = charge.run.levels[first:last] / capacities
    came = charge.run.levels[first - 1] / capacities if first else np.ones(capacities.size)
    ends = np.cumsum(steps.lengths[first:last])
    staying = _stayed_on(charge, first, came)
    fillings = []
    for k, thing in enumerate(charge.electrics.batteries):
        rises = np.flatnonzero(np.diff(np.concatenate(([came[k]], levels[:, k]))) > 1e-6)
        full = np.flatnonzero(levels[:, k] >= FULL)
        later = np.flatnonzero(staying[:, k] >= FULL)
        fillings.append(
            Filling(
                thing=thing,
                came=float(came[k]),
                left=float(levels[-1, k]),
                begins=float(ends[rises[0]] - steps.lengths[first + rises[0]]) if rises.size else np.inf,
                ends=0.0 if came[k] >= FULL else float(ends[full[0]]) if full.size else np.inf,
                after=0.0 if came[k] >= FULL else 60.0 * float(later[0] + 1) if later.size else np.inf,
                reached=bool(charge.setup.wiring.wall[k].any()),
            )
        )
    taken = charge.run.levels[last - 1] - (charge.run.levels[first - 1] if first else charge.batteries.levels)
    return SocketStop(
        stop=stop,
        distance=float(steps.distances[first]),
        begins=float(steps.begins[first]),
        length=float(ends[-1]),
        fillings=tuple(sorted(fillings, key=lambda one: (one.begins, one.thing.priority))),
        gives=charge.electrics.wall,
        ports=charge.electrics.wall_ports,
        taken=float(np.maximum(taken, 0.0).sum() / INTO),
    )


def _stayed_on(charge: Charge, first: int, came: FloatArray) -> FloatArray:
    """Return the share of each battery by the minute if one stayed, shape (m, d). [1]"""
    count, at = LONGEST * 60, np.full(LONGEST * 60, first)
    minute = np.full(count, 60.0)
    still = Steps(
        begins=np.arange(count, dtype=np.float64) * 60.0,
        lengths=minute,
        distances=charge.steps.distances[at],
        speeds=np.zeros(count),
        dark=charge.steps.dark[at],
        temps=charge.steps.temps[at],
        hub=np.zeros(count),
        wall=charge.steps.wall[at],
        sun=np.zeros(count),
        resting=np.zeros(count, dtype=bool),
    )
    begun = charge.batteries._replace(levels=came * charge.batteries.capacities)
    loads = np.zeros((count, charge.loads.shape[1]))
    found = run_batteries(still, loads, charge.setup._replace(batteries=begun))
    return found.levels / np.maximum(charge.batteries.capacities, 1e-9)
