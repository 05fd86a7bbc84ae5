"""A race by steps, before anything electric is aboard: by the minute, or by longer steps for comparing."""

from typing import NamedTuple

import numpy as np

from stonechat.core.charge.dynamo import charger_output, lamp_output
from stonechat.core.charge.light import DIMS, WAYS, ways_of
from stonechat.core.charge.run import STEP
from stonechat.core.line.surface import SURFACES
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray
from stonechat.core.plan.providing import given_at
from stonechat.core.plan.scenario import Scenario
from stonechat.core.plan.sky import wet_at
from stonechat.core.rhythm.inputs import RideResult

_FAST = 7.0  # m/s from which a hub that charges only there does so
_ROUGH = np.array([surface.is_rough for surface in SURFACES])


class Clocked(NamedTuple):
    """A race by steps, of a minute at most or longer ones, before anything electric is aboard; shape (n,) each."""

    begins: FloatArray  # s since the start
    lengths: FloatArray  # s
    segments: IntArray  # segment that is ridden, or before which one halts
    distances: FloatArray  # m
    riding: BoolArray
    speeds: FloatArray  # m/s, 0 where one halts
    dark: BoolArray
    temps: FloatArray  # °C, of the air
    wet: BoolArray
    stops: IntArray  # stop at whose socket one halts, its door being open; -1: none
    ways: FloatArray  # 1, share ridden on each of WAYS, shape (n, 5)
    slow: FloatArray  # 1, share ridden so slowly that a lamp on the hub is too dim
    charger: FloatArray  # W that a charger on a hub gives
    fast: FloatArray  # W of it that it gives faster than _FAST
    lamp: FloatArray  # W that a lamp on a hub takes


def clocked(scenario: Scenario, ride: RideResult) -> Clocked:
    """Return a race by steps of a minute at most.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        A ride of it.

    Returns
    -------
    clocked : Clocked
        Halting, then riding, segment by segment. What is reached for counts as riding.
    """
    profile, count = scenario.profile, ride.times.size
    spans = np.diff(ride.clocks)
    # a segment with no halt after it takes its riding and reaching alone: they tell the share of reaching
    reaching = max(1.0, float((spans / np.maximum(ride.times, 1e-6)).min()))
    riding = np.minimum(ride.times * reaching, spans)
    halting = np.concatenate(([ride.clocks[0]], np.maximum(spans - riding, 0.0)[:-1]))
    stop_of = np.full(count, -1)
    given = given_at(scenario, ride)
    for k, segment in enumerate(scenario.clock.stays.segments.tolist()):
        if segment < count and "socket" in given[k]:
            stop_of[segment] = k
    wet = wet_at(scenario.clock, ride.clocks[:-1]) > 0.5

    def woven(first: FloatArray, second: FloatArray) -> FloatArray:
        return np.column_stack((first, second)).ravel()

    lengths = woven(halting, riding)
    parts = np.maximum(np.ceil(lengths / STEP), 1).astype(np.int64)
    kept = np.repeat(lengths > 1e-6, parts)
    number = np.arange(parts.sum()) - np.repeat(np.cumsum(parts) - parts, parts)
    each = np.repeat(lengths / parts, parts)
    starts = woven(ride.clocks[:-1] - halting, ride.clocks[:-1])
    # a rest falls before its segment begins: its halt ends where the clock of the segment stands
    segments = np.repeat(np.repeat(np.arange(count), 2), parts)[kept]
    rides = np.repeat(np.tile([False, True], count), parts)[kept]
    speeds = np.where(rides, (profile.lengths / np.maximum(ride.times, 1e-6))[segments], 0.0)
    charger = charger_output(speeds, scenario.variant.charging.hub_points) * rides
    ways = ways_of(speeds, _ROUGH[profile.surfaces][segments], ride.walked[segments] > 0.5)
    return Clocked(
        begins=(np.repeat(starts, parts) + number * each)[kept],
        lengths=each[kept],
        segments=segments,
        distances=profile.distances[segments],
        riding=rides,
        speeds=speeds,
        dark=ride.dark[segments],
        temps=ride.temps[segments],
        wet=wet[segments],
        stops=np.where(rides, -1, stop_of[segments]),
        ways=np.eye(len(WAYS))[ways] * rides[:, None],
        slow=(rides & (speeds < DIMS)).astype(np.float64),
        charger=charger,
        fast=np.where(speeds >= _FAST, charger, 0.0),
        lamp=lamp_output(speeds) * rides,
    )


def coarse(at: Clocked, length: float) -> Clocked:
    """Return a race by longer steps: what is alike and follows on one another is one step.

    Parameters
    ----------
    at : Clocked
        The race by steps.
    length : float
        Longest step. [s]

    Returns
    -------
    coarse : Clocked
        A step ends where one halts or rides on, at another stop, and where it gets dark or light.
    """
    edges = coarse_edges(at, length)
    whole = np.add.reduceat(at.lengths, edges)

    def mean(values: FloatArray) -> FloatArray:
        total = np.add.reduceat((values.T * at.lengths).T, edges, axis=0)
        return np.asarray((total.T / whole).T)

    return Clocked._make(values[edges] for values in at)._replace(
        lengths=whole,
        speeds=mean(at.speeds),
        temps=mean(at.temps),
        ways=mean(at.ways),
        slow=mean(at.slow),
        charger=mean(at.charger),
        fast=mean(at.fast),
        lamp=mean(at.lamp),
    )


def coarse_edges(at: Clocked, length: float) -> IntArray:
    """Return the steps with which longer steps begin.

    Parameters
    ----------
    at : Clocked
        The race by steps.
    length : float
        Longest step. [s]

    Returns
    -------
    edges : ndarray
        Ascending. [1]
    """
    change = np.ones(at.lengths.size, dtype=bool)
    change[1:] = (at.riding[1:] != at.riding[:-1]) | (at.stops[1:] != at.stops[:-1]) | (at.dark[1:] != at.dark[:-1])
    runs = np.cumsum(change)
    begun = at.begins - at.begins[np.flatnonzero(change)][runs - 1]
    keys = runs * 100_000 + (begun // length).astype(np.int64)
    return np.flatnonzero(np.concatenate(([True], keys[1:] != keys[:-1])))
