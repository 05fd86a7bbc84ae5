"""Every battery by the clock: draws, sockets, hub, sun and banks, step by step."""

from typing import NamedTuple

import numpy as np
from numba import njit

from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray

STEP = 60.0  # s, longest step
INTO = 0.92  # 1, of what comes out of a cable that a battery keeps (estimate)
CUT_OFF = 0.3  # W under which a bank takes what hangs on it for full, and switches off (0.2 to 0.5, estimate)
IDLE = 0.03  # W that a bank loses by itself (estimate)
TAPER, TRICKLE = 0.2, 0.02  # 1 of a battery under which charging slows, 1 of its most that it slows to (estimates)
COLD = ((-20.0, 0.55), (-10.0, 0.72), (0.0, 0.85), (10.0, 0.94), (25.0, 1.0))  # °C, 1 of the capacity (estimates)
HUB, WALL, SUN, BANK, CELLS = 0, 1, 2, 3, 4  # where what goes into a battery comes from
NEVER_ENOUGH = 2.0  # 1, of all that is stored: a hub that charges below it charges always


class Steps(NamedTuple):
    """A race by steps, shape (n,) each."""

    begins: FloatArray  # s since the start
    lengths: FloatArray  # s
    distances: FloatArray  # m
    speeds: FloatArray  # m/s, 0 where one halts
    dark: BoolArray
    temps: FloatArray  # °C
    hub: FloatArray  # W that a hub could give, 0 where it is switched off
    wall: FloatArray  # W that sockets give
    sun: FloatArray  # W that a panel gives
    resting: BoolArray  # whether one sleeps, and everything lies beside the bank


class Batteries(NamedTuple):
    """What holds energy, devices first, then banks, shape (d,) each where nothing else is said."""

    capacities: FloatArray  # Wh
    levels: FloatArray  # Wh at the start
    takes: FloatArray  # W at most
    keeps: FloatArray  # 1, of what a bank gives that comes out of it; 1 of devices
    gives: FloatArray  # W that a bank gives at most
    ports: IntArray  # outlets of a bank
    passes: BoolArray  # whether a bank gives while it is charged
    while_on: BoolArray  # whether it can be charged while it is on
    counts: BoolArray  # whether it is drawn on in a race, and so counts as stored
    cells: IntArray  # sets of cells that can be changed
    cell_energy: FloatArray  # Wh of a set
    devices: int  # how many of them are devices


class Wiring(NamedTuple):
    """Which lead reaches which battery from where, shape (d, l) each."""

    hub: BoolArray
    wall: BoolArray
    sun: BoolArray
    bank: BoolArray
    wall_ports: int


class Orders(NamedTuple):
    """A rule, by numbers."""

    hub: IntArray  # batteries in the order in which a hub fills them
    wall: IntArray  # those in which sockets do
    emptiest: bool  # whether sockets fill what is emptiest first, what is only spare last
    low: float  # 1, of a device's battery, below which it is put on a bank
    high: float  # 1, until which
    at_rest: bool
    hub_below: float  # 1, of all that is stored, below which the hub charges


class Setup(NamedTuple):
    """Batteries, leads and a rule."""

    batteries: Batteries
    wiring: Wiring
    orders: Orders


class Run(NamedTuple):
    """What became of the batteries."""

    levels: FloatArray  # Wh at the end of each step, shape (n, d)
    unmet: FloatArray  # Wh that each did not have, shape (d,)
    first_flat: IntArray  # step on which each went flat first, -1: never, shape (d,)
    into: FloatArray  # Wh kept of what came from HUB, WALL, SUN, BANK, CELLS, shape (5, d)
    drawn: FloatArray  # Wh that devices drew, shape (d,)
    given: FloatArray  # Wh that banks gave, their losses in it, shape (d,)
    hub: FloatArray  # W that the hub gave on each step, shape (n,)
    taken: FloatArray  # Wh from HUB, WALL, SUN, losses of charging in it, shape (3,)
    lost: float  # Wh lost in charging, in banks and with cells that were thrown away
    swaps: IntArray  # sets of cells that were changed, shape (d,)
    waited: FloatArray  # h that each was to be charged by a bank and every lead was in use, shape (d,)

    @property
    def used(self) -> float:
        """Energy that devices drew. [Wh]"""
        return float(self.drawn.sum())


def cold_share(temps: FloatArray) -> FloatArray:
    """Return how much of a battery's energy can be had.

    Parameters
    ----------
    temps : ndarray
        Of the air. [°C]

    Returns
    -------
    share : ndarray
        Of the capacity (estimate). [1]

    Examples
    --------
    >>> cold_share(np.array([-10.0, 25.0]))
    array([0.72, 1.  ])
    """
    at, share = zip(*COLD, strict=True)
    return np.interp(temps, at, share)


def run_batteries(steps: Steps, loads: FloatArray, setup: Setup) -> Run:
    """Return every battery by the clock.

    Parameters
    ----------
    steps : Steps
        The race.
    loads : ndarray, shape (n, d)
        What devices draw; 0 of banks. [W]
    setup : Setup
        Batteries, devices by priority, then banks; which lead reaches which; the rule.

    Returns
    -------
    run : Run
        Levels and what went where. [Wh]

    Notes
    -----
    On each step the hub fills one battery, sockets as many as they have outlets, the sun one; then banks fill what is
    put on them; then devices draw. A lead is in one place at a time. A battery takes less in its last fifth. What cold
    keeps back comes again when it is warm.
    """
    return Run(*_run(steps, loads, 1.0 - cold_share(steps.temps), *setup))


@njit(cache=True)
def _run(steps, loads, kept_back, batteries, wiring, orders):  # type: ignore[no-untyped-def]
    capacities, size, devices = batteries.capacities, batteries.capacities.size, batteries.devices
    count, level = steps.lengths.size, batteries.levels.copy()
    levels, hub = np.zeros((count, size)), np.zeros(count)
    unmet, flat = np.zeros(size), np.full(size, -1)
    into, drawn, given, taken = np.zeros((5, size)), np.zeros(size), np.zeros(size), np.zeros(3)
    on_bank, fed = np.zeros(size, dtype=np.bool_), np.zeros(size, dtype=np.bool_)
    nobody, urgent = np.zeros(size, dtype=np.bool_), np.zeros(size, dtype=np.bool_)
    reached = _reached(wiring.bank)
    leads = np.zeros(wiring.hub.shape[1], dtype=np.bool_)
    waited = np.zeros(size)
    left, swaps, lost = batteries.cells.copy(), np.zeros(size, dtype=np.int64), 0.0
    whole = max(1e-9, _stored(batteries.counts, capacities))
    for k in range(count):
        hours = steps.lengths[k] / 3600.0
        fed[:], leads[:] = False, False
        lost += _fade(hours, level, devices)
        before = level.copy()
        _put_on(steps.resting[k], orders, kept_back[k], capacities, level, on_bank, urgent, devices)
        urgent &= reached
        on = loads[k] > 0.0
        if steps.hub[k] > 0.0 and _stored(batteries.counts, level) < orders.hub_below * whole:
            got = _feed(
                HUB, hours, steps.hub[k], 1, orders.hub, wiring.hub, batteries, level, fed, leads, on, into, urgent
            )
            hub[k] = got / hours
            taken[HUB] += got
            lost += (1.0 - INTO) * got
        if steps.wall[k] > 0.0:
            order = _emptiest(batteries, level) if orders.emptiest else orders.wall
            got = _feed(
                WALL, hours, steps.wall[k], wiring.wall_ports, order, wiring.wall, batteries, level, fed, leads,
                on, into, nobody,
            )  # fmt: skip
            taken[WALL] += got
            lost += (1.0 - INTO) * got
        if steps.sun[k] > 0.0:
            got = _feed(
                SUN, hours, steps.sun[k], 1, orders.wall, wiring.sun, batteries, level, fed, leads, on, into, urgent
            )
            taken[SUN] += got
            lost += (1.0 - INTO) * got
        lost += _from_banks(
            hours, kept_back[k], batteries, wiring.bank, level, fed, leads, on, on_bank, into, given, waited
        )
        came = level - before
        lost += _draw(k, hours, loads[k], kept_back[k], came, batteries, level, left, swaps, unmet, flat, into, drawn)
        levels[k] = level
    return levels, unmet, flat, into, drawn, given, hub, taken, lost, swaps, waited


@njit(cache=True)
def _reached(fits):  # type: ignore[no-untyped-def]
    found = np.zeros(fits.shape[0], dtype=np.bool_)
    for b in range(fits.shape[0]):
        found[b] = fits[b].any()
    return found


@njit(cache=True)
def _stored(counts, level):  # type: ignore[no-untyped-def]
    total = 0.0
    for b in range(level.size):
        if counts[b]:
            total += level[b]
    return total


@njit(cache=True)
def _fade(hours, level, devices):  # type: ignore[no-untyped-def]
    """Let banks lose what they lose by themselves. [Wh]"""
    lost = 0.0
    for b in range(devices, level.size):
        gone = min(level[b], IDLE * hours)
        level[b] -= gone
        lost += gone
    return lost


@njit(cache=True)
def _draw(k, hours, loads, kept_back, came, batteries, level, left, swaps, unmet, flat, into, drawn):  # type: ignore[no-untyped-def]
    """Let devices draw, and change cells that are empty; return what is thrown away with those. [Wh]

    What came in on this step runs a device however cold its battery is.
    """
    thrown = 0.0
    for d in range(batteries.devices):
        need = loads[d] * hours
        floor = kept_back * batteries.capacities[d]
        given = min(need, max(level[d] - floor, came[d], 0.0))
        if given < need - 1e-12 and left[d] > 0:
            left[d] -= 1
            swaps[d] += 1
            thrown += level[d] - given
            level[d] = given + batteries.cell_energy[d]
            into[CELLS, d] += batteries.cell_energy[d]
            given = min(need, max(0.0, level[d] - floor))
        level[d] -= given
        drawn[d] += given
        if given < need - 1e-12:
            unmet[d] += need - given
            if flat[d] < 0:
                flat[d] = k
    return thrown


@njit(cache=True)
def _put_on(resting, orders, kept_back, capacities, level, on_bank, urgent, devices):  # type: ignore[no-untyped-def]
    """Put devices on a bank, or take them off: by what they show, which is what can be had of them, as cold as it is.

    A device that shows half of that has the bank to itself, until it is half way up.
    """
    rests = resting and orders.at_rest
    for d in range(devices):
        share = level[d] / capacities[d] if capacities[d] > 0.0 else 1.0
        shown = (share - kept_back) / (1.0 - kept_back)
        on_bank[d] = share < orders.high and (rests or shown < orders.low or on_bank[d])
        half_way = 0.5 * (orders.low + orders.high)
        urgent[d] = shown < half_way and (shown < 0.5 * orders.low or urgent[d])


@njit(cache=True)
def _takes(b, hours, batteries, level):  # type: ignore[no-untyped-def]
    """Return what a battery takes now at most. [W]"""
    capacity = batteries.capacities[b]
    room = capacity - level[b]
    if room <= 1e-9 or hours <= 0.0:
        return 0.0
    slowed = min(1.0, max(TRICKLE, room / (TAPER * capacity)))
    return min(batteries.takes[b] * slowed, room / (INTO * hours))


@njit(cache=True)
def _emptiest(batteries, level):  # type: ignore[no-untyped-def]
    """Return batteries in the order of what share they hold, those that only are spare last."""
    share = np.empty(level.size)
    for b in range(level.size):
        share[b] = level[b] / max(batteries.capacities[b], 1e-9) + (0.0 if batteries.counts[b] else 10.0)
    return np.argsort(share)


@njit(cache=True)
def _free_lead(fits, leads):  # type: ignore[no-untyped-def]
    for lead in range(leads.size):
        if fits[lead] and not leads[lead]:
            return lead
    return -1


@njit(cache=True)
def _feed(source, hours, power, ports, order, fits, batteries, level, fed, leads, on, into, waiting):  # type: ignore[no-untyped-def]
    """Fill batteries in an order from outlets; return what they took, losses of charging in it. [Wh]

    A bank that does not give while it is charged is left alone as long as a device waits for it.
    """
    left, asked = power, waiting.any()
    for b in order:
        if ports == 0 or left <= 0.0:
            break
        some = min(left, _takes(b, hours, batteries, level))
        if some <= 0.0 or (on[b] and not batteries.while_on[b]):
            continue
        if b >= batteries.devices and asked and not batteries.passes[b]:
            continue
        lead = _free_lead(fits[b], leads)
        if lead < 0:
            continue
        leads[lead], fed[b] = True, True
        ports -= 1
        left -= some
        level[b] += INTO * some * hours
        into[source, b] += INTO * some * hours
    return (power - left) * hours


@njit(cache=True)
def _from_banks(hours, kept_back, batteries, fits, level, fed, leads, on, on_bank, into, given, waited):  # type: ignore[no-untyped-def]
    """Fill what is put on banks, which switch off under CUT_OFF; return what is lost on the way. [Wh]"""
    lost, devices = 0.0, batteries.devices
    for b in range(devices, level.size):
        ports, left = batteries.ports[b], batteries.gives[b]
        if fed[b] and not batteries.passes[b]:
            continue
        for d in range(devices):
            if ports == 0 or left <= 0.0:
                break
            if not on_bank[d] or fed[d] or (on[d] and not batteries.while_on[d]):
                continue
            there = max(0.0, level[b] - kept_back * batteries.capacities[b]) * batteries.keeps[b]
            some = min(left, _takes(d, hours, batteries, level), there / hours if hours > 0.0 else 0.0)
            if some < CUT_OFF:
                continue
            lead = _free_lead(fits[d], leads)
            if lead < 0:
                waited[d] += hours if fits[d].any() else 0.0
                continue
            leads[lead], fed[d] = True, True
            ports -= 1
            left -= some
            out = some * hours / batteries.keeps[b]
            level[b] -= out
            given[b] += out
            level[d] += INTO * some * hours
            into[BANK, d] += INTO * some * hours
            lost += out - INTO * some * hours
    return lost
