"""How to charge this race for least: every rule of a grid tried, longer halts, and the bound that no rule beats."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import product
from typing import NamedTuple

import numpy as np

from stonechat.core.charge.optimal import Best, Blocks, best_charging
from stonechat.core.charge.rule import DAY, NIGHT, ChargingRule
from stonechat.core.charge.run import Batteries
from stonechat.core.charge.setup import batteries_of
from stonechat.core.charge.things import Electrics
from stonechat.core.ledger.ridden import Ridden, part_of
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.physics.momentum import POWER
from stonechat.core.plan.charging import Powered, needs_of
from stonechat.core.plan.clocked import Clocked, coarse, coarse_edges
from stonechat.core.plan.film import masses_along
from stonechat.core.plan.plan import START
from stonechat.core.plan.power_worth import (
    COARSE,
    DRAWS,
    PER_HOUR,
    Without,
    mean_load,
    spare_hours,
    without_power,
)
from stonechat.core.plan.scenario import Scenario
from stonechat.core.rhythm.times import time_gradients

EFFICIENCY = 0.60  # 1, of a hub: what it brakes for each watt that it gives (0.5 to 0.7, estimate)
WAITS = (15.0, 30.0, 60.0, 120.0)  # min longer at a socket that are tried
_BLOCK = 3600.0  # s, longest block of the bound
_USED = 0.1  # 1, of what the hub could give on a leg, from which the bound charges there


class RuleCost(NamedTuple):
    """What a rule costs over the race."""

    rule: ChargingRule
    drag: float  # min that the hub takes to charge
    without: Without
    waited: float  # min longer at sockets

    @property
    def lost(self) -> float:
        """What is lost to things that are flat. [min]"""
        return self.without.lost().minutes

    @property
    def total(self) -> float:
        """All of it. [min]"""
        return self.drag + self.lost + self.waited


class LongerHalt(NamedTuple):
    """A longer halt at a socket."""

    stop: int  # its place in the order of stops
    minutes: float  # min longer
    gain: float  # min less lost to things that are flat, the halt not taken off

    @property
    def net(self) -> float:
        """What it gains. [min]"""
        return self.gain - self.minutes


@dataclass(frozen=True, kw_only=True)
class Charging:
    """A race under which rules of charging are compared."""

    scenario: Scenario
    fine: Clocked  # the race by the minute
    at: Clocked  # the same by longer steps, by which rules are compared
    electrics: Electrics
    prices: FloatArray  # min for each Wh from the hub, by segment

    def cost(self, rule: ChargingRule, longer: Mapping[int, float] | None = None) -> RuleCost:
        """Return what a rule costs, with longer halts at some stops in minutes."""
        at, steps = _longer(self.at, longer or {})
        needs = needs_of(self.scenario, at, self.electrics, rule)
        without = without_power(needs, at, self.electrics, rule)
        prices = self.priced(COARSE, fast=rule.hub_when == "fast")[steps]
        drag = float((without.hub * at.lengths / 3600.0 * prices).sum())
        return RuleCost(rule, drag, without, sum((longer or {}).values()))

    def priced(self, length: float, *, fast: bool = False) -> FloatArray:
        """Return what a Wh from the hub costs on each longer step, its power over the step as it is. [min/Wh]"""
        edges = coarse_edges(self.fine, length)
        given = (self.fine.fast if fast else self.fine.charger) * self.fine.lengths
        energy = np.add.reduceat(given, edges)
        cost = np.add.reduceat(given * self.prices[self.fine.segments], edges)
        return np.asarray(cost / np.maximum(energy, 1e-12))

    @cached_property
    def own(self) -> RuleCost:
        """What the rider's rule costs."""
        return self.cost(self.scenario.variant.charging)

    @cached_property
    def bound(self) -> float:
        """The least that any rule costs, with longer halts where they pay; the mean over DRAWS. [min]"""
        return sum(odds * self._bound_at(factor).minutes for factor, odds in DRAWS)

    @cached_property
    def usual_bound(self) -> Best:
        """What charges where at least cost, at the draws that are usual."""
        return self._bound_at(1.0)

    def _bound_at(self, factor: float) -> Best:
        every = self.scenario.variant.charging
        free = replace(every, hub="bank", hub_when="always", parallel=True, sockets="emptiest")
        blocks = coarse(self.fine, _BLOCK)
        needs = needs_of(self.scenario, blocks, self.electrics, free)
        hours, count = blocks.lengths / 3600.0, len(self.electrics.devices)
        loads = factor * needs.loads[:, :count]
        found = Blocks(
            hours=hours,
            loads=loads * hours[:, None],
            hub=(needs.steps.hub + needs.steps.sun) * hours,
            hub_price=np.where(needs.steps.sun > 0.0, 0.0, self._cheapest()),
            wall=needs.steps.wall,
            bridged=self._bridged(loads, blocks.lengths),
            wait_most=max(WAITS) / 60.0,
        )
        return best_charging(found, _with_cells(batteries_of(self.electrics)), self._lacking(loads, blocks.lengths))

    def _cheapest(self) -> FloatArray:
        """Return the least that a Wh from the hub costs on any step of each block, by any rule. [min/Wh]"""
        every, fast = self.priced(COARSE), self.priced(COARSE, fast=True)
        edges = coarse_edges(self.fine, COARSE)
        gives = np.add.reduceat(self.fine.fast * self.fine.lengths, edges) > 0.0
        least = np.where(gives, np.minimum(every, fast), every)
        blocks = np.searchsorted(edges, coarse_edges(self.fine, _BLOCK))
        return np.minimum.reduceat(least, blocks)

    @cached_property
    def best(self) -> RuleCost:
        """The cheapest rule of all that are tried, the rider's own among them."""
        tried = (self.cost(rule) for rule in rules_like(self.scenario.variant.charging, self._legs(), hub=self.has_hub))
        return min((self.own, *tried), key=lambda cost: cost.total)

    @property
    def has_hub(self) -> bool:
        """Whether a hub charges."""
        return self.scenario.variant.bike.dynamo and self.electrics.hub_charger is not None

    @cached_property
    def halts(self) -> tuple[LongerHalt, ...]:
        """Longer halts at sockets that gain more than they take, under the rider's rule; the best of each stop."""
        wall = needs_of(self.scenario, self.at, self.electrics, self.own.rule).steps.wall > 0.0
        found = []
        for stop in np.unique(self.at.stops[wall]).tolist():
            ways = [
                LongerHalt(stop, minutes, self.own.lost - self.cost(self.own.rule, {stop: minutes}).lost)
                for minutes in WAITS
            ]
            found.append(max(ways, key=lambda way: way.net))
        return tuple(sorted((way for way in found if way.net > 0.0), key=lambda way: -way.net))

    def _lacking(self, loads: FloatArray, lengths: FloatArray) -> FloatArray:
        """Return what each Wh that a device lacks costs at least: nothing where another does the same. [min/Wh]"""
        roles = [one.role for one in self.electrics.devices]
        means = [mean_load(loads[:, k], lengths) for k in range(len(roles))]
        drawing = [role for role, mean in zip(roles, means, strict=True) if mean > 0.0]
        return np.array([
            PER_HOUR.get(role, 0.0) / mean if mean > 0.0 and drawing.count(role) == 1 else 0.0
            for role, mean in zip(roles, means, strict=True)
        ])  # fmt: skip

    def _bridged(self, loads: FloatArray, lengths: FloatArray) -> FloatArray:
        """Return how much of each device's lack second lamps bridge. [Wh]"""
        spare = spare_hours(self.electrics)
        return np.array([
            spare * mean_load(loads[:, k], lengths) if one.role == "light" else 0.0
            for k, one in enumerate(self.electrics.devices)
        ])  # fmt: skip

    def _legs(self) -> frozenset[str]:
        """Return the legs on which the bound charges by the hub, by day and by night."""
        if not self.has_hub:
            return frozenset()
        blocks = coarse(self.fine, _BLOCK)
        begins = [START, *(stop.id for stop in self.scenario.stops)]
        leg = self.scenario.leg_of[blocks.segments]
        given = self.usual_bound.hub
        found = set()
        for k in np.unique(leg).tolist():
            for dark, when in ((False, DAY), (True, NIGHT)):
                here = (leg == k) & (blocks.dark == dark) & blocks.riding
                if given[here].sum() > _USED:
                    found.add(f"{begins[k]} {when}")
        return frozenset(found)


def charging_of(ridden: Ridden, electrics: Electrics | None = None) -> Charging:
    """Return a race under which rules of charging are compared.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    electrics : Electrics, optional
        In place of what is aboard.

    Returns
    -------
    charging : Charging
        Prices by the minutes that a watt at the wheel costs on each segment.
    """
    powered = part_of(ridden.settled, Powered)
    return Charging(
        scenario=powered.scenario,
        fine=powered.at,
        at=coarse(powered.at, COARSE),
        electrics=powered.charge.electrics if electrics is None else electrics,
        prices=hub_prices(ridden),
    )


def hub_prices(ridden: Ridden) -> FloatArray:
    """Return what each watt-hour from a hub costs on each segment.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    prices : ndarray, shape (n,)
        Nothing where one brakes anyway. [min/Wh]
    """
    by_watt, ride = watt_minutes(ridden), ridden.ride
    return np.asarray(by_watt / EFFICIENCY / np.maximum(ride.times / 3600.0, 1e-9))


def watt_minutes(ridden: Ridden) -> FloatArray:
    """Return what a watt less at the wheel costs on each segment.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    minutes : ndarray, shape (n,)
        Nothing where one brakes, or walks. [min/W]
    """
    scenario = part_of(ridden.settled, Powered).scenario
    masses, drags = masses_along(scenario, ridden.settled.values())
    _, slopes = time_gradients(scenario.course, ridden.ride.conditions, scenario.rider, masses, drags)
    return np.asarray(np.maximum(-slopes[POWER], 0.0) / 60.0)


def rules_like(rule: ChargingRule, legs: frozenset[str], *, hub: bool) -> Iterator[ChargingRule]:
    """Yield every rule of the grid.

    Parameters
    ----------
    rule : ChargingRule
        The rider's: how bright the light is, and the table of the hub, stay.
    legs : frozenset of str
        Legs on which the bound charges by the hub.
    hub : bool
        Whether a hub charges.

    Yields
    ------
    rule : ChargingRule
        All there are: what a hub feeds and when, when devices are put on the bank, the order at sockets.
    """
    whens = [("always", 0.9), ("fast", 0.9), *(("needed", below) for below in (0.3, 0.5, 0.7, 0.9))]
    whens += [("legs", 0.9)] if legs else []
    hubs = [*product(("bank", "devices"), whens), ("off", ("always", 0.9))] if hub else [(rule.hub, ("always", 0.9))]
    for (into, (when, below)), (low, high), sockets, at_rest in product(
        hubs, ((0.15, 0.6), (0.3, 0.9), (0.6, 0.95)), ("emptiest", "devices", "banks"), (True, False)
    ):
        yield replace(
            rule, hub=into, hub_when=when, hub_below=below, hub_on=legs if when == "legs" else frozenset(),
            low=low, high=high, sockets=sockets, at_rest=at_rest,
        )  # fmt: skip


def _with_cells(batteries: Batteries) -> Batteries:
    """Return batteries that hold their spare cells as well."""
    more = batteries.cells * batteries.cell_energy
    return batteries._replace(capacities=batteries.capacities + more, levels=batteries.levels + more)


def _longer(at: Clocked, longer: Mapping[int, float]) -> tuple[Clocked, IntArray]:
    """Return a race with longer halts at some stops, by steps as long as the others, and which step each was."""
    times = np.ones(at.lengths.size, dtype=np.int64)
    spent = at.lengths.copy()
    for stop, minutes in longer.items():
        here = np.flatnonzero(at.stops == stop)
        if here.size:
            spent[here[-1]] += 60.0 * minutes
            times[here[-1]] = int(np.ceil(spent[here[-1]] / COARSE))
    steps = np.repeat(np.arange(times.size), times)
    every = Clocked._make(values[steps] for values in at)
    lengths = np.repeat(spent / times, times)
    begins = at.begins[0] + np.concatenate(([0.0], np.cumsum(lengths)[:-1]))
    return every._replace(lengths=lengths, begins=begins), steps
