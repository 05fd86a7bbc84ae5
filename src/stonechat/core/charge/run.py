"""Every battery by the clock: draws, sockets, hub and banks, step by step."""

from typing import NamedTuple

import numpy as np
from numba import njit

from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray

STEP = 60.0  # s, longest step
INTO, OUT_OF = 0.92, 0.85  # 1, of what goes into a battery, and of what comes out of a bank (estimates)
BANK_OUT = 12.0  # W that a bank gives at most (estimate)
LOW, HIGH = 0.30, 0.90  # 1, of a device's battery: below the first it is put on the bank, until the second
COLD = ((-20.0, 0.55), (-10.0, 0.72), (0.0, 0.85), (10.0, 0.94), (25.0, 1.0))  # °C, 1 of the capacity (estimates)


class Steps(NamedTuple):
    """A race by steps, shape (n,) each."""

    begins: FloatArray  # s since the start
    lengths: FloatArray  # s
    distances: FloatArray  # m
    speeds: FloatArray  # m/s, 0 where one halts
    dark: BoolArray
    temps: FloatArray  # °C
    outside: FloatArray  # W that come from the wall or a hub
    resting: BoolArray  # whether one sleeps, and everything lies beside the bank


class Batteries(NamedTuple):
    """What holds energy; devices first, then banks."""

    capacities: FloatArray  # Wh
    levels: FloatArray  # Wh at the start
    takes: FloatArray  # W at most
    devices: int  # how many of them are devices


class Run(NamedTuple):
    """What became of the batteries."""

    levels: FloatArray  # Wh at the end of each step, shape (n, d)
    unmet: FloatArray  # Wh that each did not have
    first_flat: IntArray  # step on which each went flat first, -1: never
    taken: float  # Wh from outside that went into batteries, losses before
    used: float  # Wh that devices drew
    lost: float  # Wh lost in charging
    spilled: float  # Wh from outside that nothing took


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


def run_batteries(steps: Steps, loads: FloatArray, batteries: Batteries) -> Run:
    """Return every battery by the clock.

    Parameters
    ----------
    steps : Steps
        The race.
    loads : ndarray, shape (n, d)
        What devices draw. [W]
    batteries : Batteries
        Devices by priority, then banks.

    Returns
    -------
    run : Run
        Levels and what went where. [Wh]

    Notes
    -----
    Each device runs on its own battery. Below LOW, and wherever one rests, it is put on a bank until HIGH. What comes
    from outside goes to devices in their order, then into banks. What cold keeps back comes again when it is warm.
    """
    return Run(
        *_run(
            steps.lengths / 3600.0,
            loads,
            steps.outside,
            steps.resting,
            1.0 - cold_share(steps.temps),
            batteries.capacities,
            batteries.levels,
            batteries.takes,
            batteries.devices,
        )
    )


@njit(cache=True)
def _run(hours, loads, outside, resting, kept_back, capacities, start, takes, devices):  # type: ignore[no-untyped-def]
    count, size = hours.size, capacities.size
    level, levels = start.copy(), np.zeros((count, size))
    unmet, flat = np.zeros(size), np.full(size, -1)
    on_bank = np.zeros(size, dtype=np.bool_)
    taken = used = lost = spilled = 0.0
    for k in range(count):
        used += _draw(k, hours[k], loads[k], kept_back[k], capacities, level, on_bank, unmet, flat)
        if resting[k]:
            on_bank[:devices] = level[:devices] < HIGH * capacities[:devices]
        put_in, out_left = _from_outside(hours[k], outside[k], capacities, level, takes)
        taken, spilled, lost = taken + put_in, spilled + out_left, lost + (1.0 - INTO) * put_in
        lost += _from_banks(hours[k], kept_back[k], capacities, level, takes, on_bank, devices)
        levels[k] = level
    return levels, unmet, flat, taken, used, lost, spilled


@njit(cache=True)
def _draw(k, hours, loads, kept_back, capacities, level, on_bank, unmet, flat):  # type: ignore[no-untyped-def]
    """Let devices draw; return what they got. [Wh]"""
    used = 0.0
    for d in range(loads.size):
        need = loads[d] * hours
        given = min(need, max(0.0, level[d] - kept_back * capacities[d]))
        level[d] -= given
        used += given
        if given < need - 1e-12:
            unmet[d] += need - given
            if flat[d] < 0:
                flat[d] = k
        share = level[d] / capacities[d] if capacities[d] > 0.0 else 1.0
        on_bank[d] = share < LOW or (on_bank[d] and share < HIGH)
    return used


@njit(cache=True)
def _from_outside(hours, power, capacities, level, takes):  # type: ignore[no-untyped-def]
    """Charge from wall or hub, devices first; return what went in with its losses, and what nothing took. [Wh]"""
    left = power
    if hours > 0.0:
        for d in range(level.size):
            some = min(left, takes[d], max(0.0, capacities[d] - level[d]) / (INTO * hours))
            level[d] += INTO * some * hours
            left -= some
    return (power - left) * hours, left * hours


@njit(cache=True)
def _from_banks(hours, kept_back, capacities, level, takes, on_bank, devices):  # type: ignore[no-untyped-def]
    """Charge what is on the bank; return what is lost on the way. [Wh]"""
    lost = 0.0
    for d in range(devices):
        if not on_bank[d] or hours <= 0.0:
            continue
        want = min(takes[d], BANK_OUT, max(0.0, capacities[d] - level[d]) / (INTO * hours)) * hours
        for b in range(devices, level.size):
            drawn = min(want / OUT_OF, max(0.0, level[b] - kept_back * capacities[b]))
            level[b] -= drawn
            level[d] += INTO * OUT_OF * drawn
            lost += (1.0 - INTO * OUT_OF) * drawn
            want -= OUT_OF * drawn
    return lost
