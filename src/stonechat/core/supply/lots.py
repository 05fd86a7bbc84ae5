"""The lot programme: where to stop, and what to leave each stop with, in the least time that never runs dry.

Water and food are taken in *lots*: whoever fills up takes just enough to reach a later stop with the reserve, and
fills again there. What is aboard weighs as the lot that it was taken with. Only where a litre costs more time further
on (it has to be filtered there) is a full bottle a lot of its own; and what the rider sets by hand is one. Of all ways
to a stop with the same lots the earliest is kept: to be earlier is never worse, because one can wait for a door.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np

from stonechat.core.numerics.arrays import FloatArray

_FINISH_NEAR = 1.25  # 1, of the time that one kind of food lasts, to the finish (estimate)
MOST_OFFERS = 60  # stops of a race that give water, or food, up to which each is looked at
_CRUMB = 1e-9  # 1, litres or kcal below which two amounts are the same
NEVER = float("inf")


@dataclass(frozen=True, kw_only=True)
class Service:
    """Something that can be taken on at a stop."""

    time: float  # s that taking it takes, however much it is
    rate: float = 0.0  # s for each unit
    spans: tuple[tuple[float, float], ...] | None = None  # s since the start, when its door is open; None: always
    patience: float = NEVER  # s that one waits for it at most

    def wait(self, clock: float, rest: float) -> float:
        """Return how long is waited for its door after a rest at the stop, infinity where one does not. [s]"""
        if self.spans is None:
            return 0.0
        for opens, shuts in self.spans:
            if clock < shuts:
                wait = max(0.0, opens - clock - rest)
                return wait if wait <= self.patience else NEVER
        return NEVER


@dataclass(frozen=True, kw_only=True)
class Halt:
    """A stop, as the programme sees it."""

    usual: float = 0.0  # s spent there where one stops without need
    stay: float | None = None  # s spent there whatever is taken; None: it may be ridden past
    detour: float = 0.0  # s there and back, where it is not ridden past
    rest: float = 0.0  # s slept there
    until: float | None = None  # s since the start, before which it is not left; it stands for the rest
    held: bool = False  # whether something besides water and food brings one there
    water: Service | None = None
    food: Service | None = None


@dataclass(frozen=True, kw_only=True)
class Provision:
    """Water or food along the legs, in litres or kcal."""

    needs: FloatArray  # what each leg uses up, shape (l,)
    capacity: float  # most that can be aboard
    reserve: float  # what is left on reaching a refill
    density: float | FloatArray  # units per kg; of what is taken on at each node, shape (l,), where that differs
    wishes: Mapping[int, float] = field(default_factory=dict)  # what to leave a node with, as the rider sets it
    least: Mapping[int, float] = field(default_factory=dict)  # what a node is left with at least, as bought by hand
    lasts: float = NEVER  # s after which something else is wanted, where it can be had so soon
    more: Mapping[int, float] = field(default_factory=dict)  # what goes in beyond the capacity from a node to a refill
    beyond: FloatArray | None = None  # what goes in beyond it of what a node has, shape (l,), as food that is denser

    def most(self, node: int) -> float:
        """Return what a node can be left with at most."""
        beyond = 0.0 if self.beyond is None else float(self.beyond[node])
        return self.capacity + beyond + self.more.get(node, 0.0)

    def density_at(self, node: int) -> float:
        """Return the density of what is taken on at a node. [1/kg]"""
        return float(self.density[node]) if isinstance(self.density, np.ndarray) else self.density


@dataclass(frozen=True, kw_only=True)
class Trip:
    """The race between stops; node 0 is the start, node k the k-th stop, the last one the finish."""

    rides: FloatArray  # s from node to node with nothing to eat or drink aboard, shape (l,)
    prices: FloatArray  # s that a kilogram costs on each leg, shape (l,)
    halts: tuple[Halt, ...]  # of the stops in order, one less than legs
    water: Provision
    food: Provision
    # rests on the way that end by the clock, by leg: share of the leg before it, and s since the start when it ends
    holds: Mapping[int, tuple[float, float]] = field(default_factory=dict)

    def arrival(self, leg: int, leaves: float, mass: float) -> float:
        """Return when the end of a leg is reached. `mass` is the mean of what is carried, in kg. [s]"""
        riding = float(self.rides[leg]) + float(self.prices[leg]) * mass
        if leg not in self.holds:
            return leaves + riding
        share, until = self.holds[leg]
        return max(leaves + share * riding, until) + (1.0 - share) * riding


class Level(NamedTuple):
    """What is aboard: enough for a node with the reserve, or an amount left with from a node."""

    target: int  # node at which it is down to the reserve; -1: not known beforehand
    origin: int = -1  # node it was taken on at, where the amount is given
    amount: float = 0.0  # left with from there
    density: float = 1.0  # units per kg of the lot; what was left before it counts like it


class Stay(NamedTuple):
    """What is done at a stop, in seconds by part."""

    detour: float
    stay: float  # there whatever is taken, or what taking takes
    rate: float  # for the amount that is filled or treated
    wait: float  # for a door
    rest: float

    @property
    def total(self) -> float:
        """All together, without the rest. [s]"""
        return self.detour + self.stay + self.rate + self.wait


class Passing(NamedTuple):
    """How a node is left."""

    clock: float  # s since the start, on arrival
    leaves: float  # s
    water: float  # l aboard on leaving
    food: float  # kcal
    fills: bool
    buys: bool
    stay: Stay | None  # None: ridden past


@dataclass(frozen=True, kw_only=True)
class LotPlan:
    """The fastest way to supply a trip."""

    finish: float  # s since the start
    passings: tuple[Passing, ...]  # of the start and each stop


@dataclass(frozen=True, kw_only=True)
class Stuck:
    """Why there is no plan: between two nodes nothing is to be had, and more is needed than can be carried."""

    node: int  # where it can be taken on last; for a door its node
    end: int  # where it can be had again
    what: str  # water, food, or what is behind a door that stays shut: "water door", "food door"
    needs: float  # least that would have to be carried, with the reserve
    capacity: float


class _Label(NamedTuple):
    leaves: float
    before: "_Label | None"
    passing: Passing
    water: Level
    food: Level


def plan_lots(trip: Trip) -> LotPlan | Stuck:
    """Return the fastest plan of stops and lots, or where every plan runs dry.

    Parameters
    ----------
    trip : Trip
        Legs, stops and needs.

    Returns
    -------
    plan : LotPlan or Stuck
        Proven: every choice of stops and lots was held against every other.

    Notes
    -----
    With needs known, some plan of least cost reaches every refill with just the reserve (the zero-inventory property
    of lot sizing [WagnerWhitin1958], [Zangwill1966]), or left the refill before with as much as goes in, where that
    one is quicker by the litre [Love1973]. So a state is the next refill of each kind, and a dynamic programme over
    stops and states is exact; doors are kept by the earliest clock of each state.

    Examples
    --------
    >>> tap = Halt(water=Service(time=120.0))
    >>> trip = Trip(rides=np.array([3600.0, 3600.0]), prices=np.array([20.0, 20.0]), halts=(tap,),
    ...             water=Provision(needs=np.array([1.0, 1.0]), capacity=3.0, reserve=0.0, density=1.0),
    ...             food=Provision(needs=np.zeros(2), capacity=0.0, reserve=0.0, density=4000.0))
    >>> plan = plan_lots(trip)
    >>> plan.finish, plan.passings[1].fills
    (7240.0, False)
    """
    return _Programme(trip).run()


def thinned(trip: Trip, most: int = MOST_OFFERS) -> Trip:
    """Return a trip on which stops close to quicker ones give nothing, where there are very many.

    Parameters
    ----------
    trip : Trip
        As it is asked.
    most : int
        Stops that give water, or food, up to which all are looked at. [1]

    Returns
    -------
    trip : Trip
        The same where there are no more; else of stops within an equal part of the race's time the quickest that is
        open as one rides by, and all that one stops at anyway.

    Examples
    --------
    >>> taps = tuple(Halt(water=Service(time=60.0 + k % 2)) for k in range(5))
    >>> trip = Trip(rides=np.ones(6), prices=np.zeros(6), halts=taps,
    ...             water=Provision(needs=np.zeros(6), capacity=1.0, reserve=0.0, density=1.0),
    ...             food=Provision(needs=np.zeros(6), capacity=1.0, reserve=0.0, density=4e3))
    >>> [halt.water is not None for halt in thinned(trip, 3).halts]
    [True, False, True, False, True]
    """
    halts = list(trip.halts)
    clocks = np.cumsum(trip.rides) + np.cumsum([0.0, *(halt.rest for halt in halts)])
    for name in ("water", "food"):
        wished: Provision = getattr(trip, name)
        found = [(k, service) for k, halt in enumerate(halts) if (service := getattr(halt, name)) is not None]
        if len(found) <= most:
            continue
        apart, kept = float(clocks[-1]) / most, list[int]()
        for k, _ in sorted(found, key=lambda entry: _slowness(trip.halts[entry[0]], entry[1], clocks[entry[0]])):
            said = wished.wishes.keys() | wished.more.keys() | wished.least.keys()
            held = halts[k].stay is not None or k + 1 in said
            if held or all(abs(float(clocks[k] - clocks[other])) >= apart for other in kept):
                kept.append(k)
            else:
                halts[k] = replace(halts[k], water=None) if name == "water" else replace(halts[k], food=None)
    return replace(trip, halts=tuple(halts))


def _slowness(halt: Halt, service: Service, clock: float) -> tuple[bool, float]:
    """Return what sorts stops by how quick they are, those that are shut as one rides by last."""
    is_shut = service.wait(clock, halt.rest) > 0.0
    return is_shut, halt.detour + service.time + service.rate


class _Programme:
    """One run of the programme."""

    def __init__(self, trip: Trip) -> None:
        self.trip = trip
        self.last = trip.rides.size
        self.sums: dict[str, list[float]] = {
            "water": np.concatenate(([0.0], np.cumsum(trip.water.needs))).tolist(),
            "food": np.concatenate(([0.0], np.cumsum(trip.food.needs))).tolist(),
        }
        self.provisions = {"water": trip.water, "food": trip.food}
        self.densities = {
            name: [entry.density_at(node) for node in range(self.last)] for name, entry in self.provisions.items()
        }
        self.clocks = np.concatenate(([0.0], np.cumsum(trip.rides))).tolist()
        self.offers = {name: [None, *(getattr(halt, name) for halt in trip.halts)] for name in ("water", "food")}
        self.targets = {name: [self._targets(name, k) for k in range(self.last)] for name in self.provisions}
        self.full_pays = {name: self._where_full_pays(name) for name in self.provisions}
        self.shut: tuple[int, str] | None = None  # the last door that stayed shut: its node, and what is behind it

    def run(self) -> LotPlan | Stuck:
        """Go from node to node."""
        labels: dict[tuple[Level, Level], _Label] = {}
        for water, w in self._choices("water", 0, None):
            for food, f in self._choices("food", 0, None):
                passing = Passing(0.0, 0.0, w, f, True, True, None)
                self._keep(labels, _Label(0.0, None, passing, water, food))
        for node in range(1, self.last + 1):
            arrived = self._ridden(labels, node)
            if not arrived:
                return self._stuck(node)
            if node == self.last:
                best = min(arrived, key=lambda entry: entry[0])
                return LotPlan(finish=best[0], passings=_traced(best[1]))
            labels = {}
            for clock, label in arrived:
                for made in self._passed(node, clock, label):
                    self._keep(labels, made)
            if not labels:
                return self._stuck(node + 1)
        raise AssertionError("a trip has a finish")

    @staticmethod
    def _keep(labels: dict[tuple[Level, Level], _Label], made: _Label) -> None:
        known = labels.get((made.water, made.food))
        if known is None or made.leaves < known.leaves:
            labels[made.water, made.food] = made

    def _ridden(self, labels: Mapping[tuple[Level, Level], _Label], node: int) -> list[tuple[float, _Label]]:
        """Return labels that reach a node with the reserve, with their clocks there."""
        leg = node - 1
        half_water = 0.5 * float(self.trip.water.needs[leg])
        half_food = 0.5 * float(self.trip.food.needs[leg])
        found = []
        for label in labels.values():
            if not (self._reaches("water", label.water, node) and self._reaches("food", label.food, node)):
                continue
            water = self._amount("water", label.water, leg) - half_water
            food = self._amount("food", label.food, leg) - half_food
            mass = water / label.water.density + food / label.food.density
            found.append((self.trip.arrival(leg, label.leaves, mass), label))
        return found

    def _amount(self, name: str, level: Level, node: int) -> float:
        """Return what is aboard on leaving a node, or on reaching it where nothing is taken on."""
        sums = self.sums[name]
        if level.origin >= 0:
            return level.amount - (sums[node] - sums[level.origin])
        return sums[level.target] - sums[node] + self.provisions[name].reserve

    def _reaches(self, name: str, level: Level, node: int) -> bool:
        """Tell whether a node is reached with the reserve; what the rider wishes to leave with may run out before."""
        if level.origin < 0 or self._amount(name, level, node) >= self.provisions[name].reserve - _CRUMB:
            return True
        offers = self.offers[name][level.origin + 1 : node]
        return level.origin in self.provisions[name].wishes and all(service is None for service in offers)

    def _targets(self, name: str, node: int) -> list[int]:
        """Return the nodes that a full load from here reaches and that give something."""
        provision, sums = self.provisions[name], self.sums[name]
        most = provision.most(node) - provision.reserve + _CRUMB
        found: list[int] = []
        for target in range(node + 1, self.last + 1):
            # nobody looks for other food just before the finish
            lasts = provision.lasts * (_FINISH_NEAR if target == self.last else 1.0)
            stale = self.clocks[target] - self.clocks[node] > lasts
            if sums[target] - sums[node] > most:
                break
            if found and stale:
                continue
            if target == self.last or self.offers[name][target] is not None or target in provision.wishes:
                found.append(target)
        return found

    def _where_full_pays(self, name: str) -> list[bool]:
        """Tell at which nodes a unit is quicker than at a later one."""
        rates = [0.0 if service is None else service.rate for service in self.offers[name]]
        return [
            (node == 0 or self.offers[name][node] is not None) and max(rates[node + 1 :], default=0.0) > rates[node]
            for node in range(self.last)
        ]

    def _choices(self, name: str, node: int, now: float | None) -> Iterator[tuple[Level, float]]:
        """Yield the lots that can be left with, with their amounts; more than there is already."""
        provision, density = self.provisions[name], self.densities[name][node]
        least = -1.0 if now is None else now + _CRUMB
        if node in provision.wishes:
            amount = min(max(provision.wishes[node], now or 0.0), provision.most(node))
            yield Level(-1, node, amount, density), amount
            return
        by_hand = min(provision.least.get(node, -1.0), provision.most(node))
        if by_hand > least:
            yield Level(-1, node, by_hand, density), by_hand
        for target in self.targets[name][node]:
            level = Level(target, density=density)
            amount = self._amount(name, level, node)
            if amount > max(least, by_hand):
                yield level, amount
        if self.full_pays[name][node] and provision.most(node) > least:
            yield Level(-1, node, provision.most(node), density), provision.most(node)

    def _options(self, name: str, node: int, level: Level) -> list[tuple[Level, float, float, bool]]:
        """Return what a provision may be left with: level, amount, how much is taken on, whether any is."""
        provision, service = self.provisions[name], self.offers[name][node]
        now = max(0.0, self._amount(name, level, node))
        wished = node in provision.wishes
        stays = [] if level.target == node or wished else [(level, now, 0.0, False)]
        if service is None and not (wished and now >= provision.wishes[node] - _CRUMB):
            return stays if not wished else [(Level(-1, node, now, level.density), now, 0.0, False)]
        if not (level.target == node or wished or (level.origin >= 0 and self._is_dearer(name, node, level.origin))):
            return stays
        return stays + [
            (to, amount, amount - now, amount > now + _CRUMB) for to, amount in self._choices(name, node, now)
        ]

    def _is_dearer(self, name: str, node: int, origin: int) -> bool:
        """Tell whether a unit takes longer here than where a full load was taken; what was wished may be filled up."""
        if origin in self.provisions[name].wishes or origin in self.provisions[name].least:
            return True
        rates = [
            0.0 if service is None else service.rate for service in (self.offers[name][node], self.offers[name][origin])
        ]
        return rates[0] > rates[1]

    def _passed(self, node: int, clock: float, label: _Label) -> Iterator[_Label]:
        """Yield the ways on from a node."""
        halt = self.trip.halts[node - 1]
        food_options = self._options("food", node, label.food)
        for water, litres, poured, fills in self._options("water", node, label.water):
            for food, kcal, bought, buys in food_options:
                stay = _stay(halt, clock, poured if fills else None, bought if buys else None)
                if stay is not None and stay.wait == NEVER:
                    behind = (
                        halt.food if buys and halt.food and halt.food.wait(clock, _rest(halt, clock)) == NEVER else None
                    )
                    self.shut = (node, "water" if behind is None else "food")
                    continue
                leaves = clock + (0.0 if stay is None else stay.total + stay.rest)
                yield _Label(leaves, label, Passing(clock, leaves, litres, kcal, fills, buys, stay), water, food)

    def _stuck(self, node: int) -> Stuck:
        """Say what cannot be carried to a node, or the last door before it that was shut for somebody."""
        for name, provision in self.provisions.items():
            sums, offers = self.sums[name], self.offers[name]
            origin = max((k for k in range(node) if k == 0 or offers[k] is not None), default=0)
            ends = [k for k in range(node, self.last + 1) if k == self.last or offers[k] is not None]
            needs = sums[ends[0]] - sums[origin] + provision.reserve
            if needs > provision.most(origin) + _CRUMB:
                return Stuck(node=origin, end=ends[0], what=name, needs=needs, capacity=provision.most(origin))
        if self.shut:
            return Stuck(node=self.shut[0], end=self.shut[0], what=f"{self.shut[1]} door", needs=0.0, capacity=0.0)
        return Stuck(node=node - 1, end=node, what="", needs=0.0, capacity=0.0)


def _stay(halt: Halt, clock: float, poured: float | None, bought: float | None) -> Stay | None:
    """Return the time that a stop takes, None where it is ridden past."""
    if poured is None and bought is None and halt.stay is None:
        return None
    rate = wait = free = behind = 0.0
    for service, amount in ((halt.water, poured), (halt.food, bought)):
        if service is not None and amount is not None:
            rate += service.rate * amount
            free += service.time if service.spans is None else 0.0
            behind += service.time if service.spans is not None else 0.0
            wait = max(wait, service.wait(clock, _rest(halt, clock)))
    least = halt.stay or 0.0
    there = max(free + behind, least)
    rest = halt.rest if halt.until is None else max(0.0, halt.until - clock - halt.detour - there - rate)
    # what is behind no door is done while one waits for the other
    waited = max(max(wait, free) + behind, least) - there
    return Stay(halt.detour, there, rate, waited, rest if halt.until is None else max(0.0, rest - waited))


def _rest(halt: Halt, clock: float) -> float:
    """Return how long one is at a stop for the night, coming by at a clock. [s]"""
    return halt.rest if halt.until is None else max(0.0, halt.until - clock)


def _traced(label: _Label) -> tuple[Passing, ...]:
    """Return how each node was left."""
    found = []
    step: _Label | None = label
    while step is not None:
        found.append(step.passing)
        step = step.before
    return tuple(reversed(found))


def ride_lots(trip: Trip, passings: tuple[Passing, ...]) -> float:
    """Ride a trip with given amounts and services, rule by rule, and return the finish.

    Parameters
    ----------
    trip : Trip
        Legs, stops and needs.
    passings : tuple of Passing
        Of the start and each stop; amounts left with, and what is taken on.

    Returns
    -------
    finish : float
        Time since the start; infinity where it runs dry, carries too much, or waits for a door that never opens. [s]

    Examples
    --------
    >>> trip = Trip(rides=np.array([60.0]), prices=np.array([2.0]), halts=(),
    ...             water=Provision(needs=np.array([1.0]), capacity=3.0, reserve=0.0, density=1.0),
    ...             food=Provision(needs=np.zeros(1), capacity=0.0, reserve=0.0, density=4000.0))
    >>> ride_lots(trip, (Passing(0.0, 0.0, 1.5, 0.0, True, True, None),))
    62.0
    """
    clock = 0.0
    aboard = {"water": 0.0, "food": 0.0}
    densities = {"water": trip.water.density_at(0), "food": trip.food.density_at(0)}
    for node, passing in enumerate(passings):
        taken = {}
        for name, leaving, takes in (("water", passing.water, passing.fills), ("food", passing.food, passing.buys)):
            provision: Provision = getattr(trip, name)
            if takes:
                taken[name] = leaving - aboard[name]
                densities[name] = provision.density_at(node)
            elif abs(leaving - aboard[name]) > 1e-6:
                return NEVER
            offered = node == 0 or getattr(trip.halts[node - 1], name) is not None
            if (takes and leaving > provision.most(node) + 1e-6) or (takes and not offered):
                return NEVER
            aboard[name] = leaving
        if node > 0:
            halt = trip.halts[node - 1]
            stay = _stay(halt, clock, taken.get("water"), taken.get("food"))
            clock += 0.0 if stay is None else stay.total + stay.rest
        mass = 0.0
        for name in aboard:
            provision = getattr(trip, name)
            need = float(provision.needs[node])
            mass += (aboard[name] - 0.5 * need) / densities[name]
            aboard[name] -= need
            if aboard[name] < provision.reserve - 1e-6:
                return NEVER
        clock = trip.arrival(node, clock, mass)
    return clock
