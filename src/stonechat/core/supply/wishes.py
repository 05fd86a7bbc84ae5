"""The best plan where none carries enough, and what single wishes and ways out come to."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from stonechat.core.supply.lots import Halt, LotPlan, Provision, Service, Stuck, Trip, plan_lots

_CRUMB = 1e-6  # 1, litres or kcal that are no shortage
STRAPPED_MOST = 3.0  # l that can be strapped on, or added in the frame, at most (estimate)
BOTTLE = 0.1  # kg that a bottle weighs for each litre that it holds (estimate)


@dataclass(frozen=True, kw_only=True)
class Answer:
    """The best plan, and where no plan carries enough."""

    lots: LotPlan | None  # None: with what is wished, nothing reaches a stop
    stuck: tuple[Stuck, ...]  # stretches on which less is carried than is wanted, as no more goes in

    @property
    def short(self) -> float:
        """Water that is lacking over all such stretches; food is carried, with room or without. [l]"""
        return sum(max(0.0, entry.needs - entry.capacity) for entry in self.stuck if entry.what == "water")


def answered(trip: Trip) -> Answer:
    """Return the best plan of a trip; where nothing carries enough, as much is carried as goes in.

    Parameters
    ----------
    trip : Trip
        What is asked.

    Returns
    -------
    answer : Answer
        The fastest of the plans that run short only where all do.
    """
    stuck = [entry for name in ("water", "food") for entry in _too_far(trip, name)]
    for entry in stuck:
        trip = _rationed(trip, entry) if entry.what == "water" else _crammed(trip, entry)
    while True:
        found = plan_lots(trip)
        if isinstance(found, LotPlan):
            return Answer(lots=found, stuck=tuple(stuck))
        stuck.append(found)
        if not found.what or len(stuck) > 3 * trip.rides.size:
            return Answer(lots=None, stuck=tuple(stuck))
        name, _, door = found.what.partition(" ")
        if door:
            trip = with_stop(trip, found.node, with_service(trip.halts[found.node - 1], name, None))
        else:
            trip = _rationed(trip, found) if name == "water" else _crammed(trip, found)


def _too_far(trip: Trip, name: str) -> Iterator[Stuck]:
    """Yield the stretches from offer to offer that ask for more than goes in; no choice of stops gets round them."""
    provision: Provision = getattr(trip, name)
    last = trip.rides.size
    offers = [0, *(node for node in range(1, last) if getattr(trip.halts[node - 1], name) is not None), last]
    for node, end in pairwise(offers):
        needs, capacity = float(provision.needs[node:end].sum()) + provision.reserve, provision.most(node)
        if needs > capacity + _CRUMB and node not in provision.wishes:
            yield Stuck(node=node, end=end, what=name, needs=needs, capacity=capacity)


def with_service(halt: Halt, name: str, service: Service | None) -> Halt:
    """Return a stop with another service, or without it.

    Parameters
    ----------
    halt : Halt
        The stop.
    name : str
        water or food.
    service : Service or None
        What it gives.

    Returns
    -------
    halt : Halt
        The same otherwise.
    """
    return replace(halt, water=service) if name == "water" else replace(halt, food=service)


def _rationed(trip: Trip, stuck: Stuck) -> Trip:
    """Return a trip that asks no more water of a stretch than can be carried over it."""
    water, stretch = trip.water, slice(stuck.node, stuck.end)
    needs = water.needs.copy()
    needs[stretch] *= max(0.0, stuck.capacity - water.reserve) / max(float(needs[stretch].sum()), 1e-9)
    return replace(trip, water=replace(water, needs=needs))


def _crammed(trip: Trip, stuck: Stuck) -> Trip:
    """Return a trip on which food is carried that finds no room: nobody leaves a shop without, and a check says so."""
    more = {**trip.food.more, stuck.node: trip.food.more.get(stuck.node, 0.0) + stuck.needs - stuck.capacity}
    return replace(trip, food=replace(trip.food, more=more))


@dataclass(frozen=True, kw_only=True)
class Change:
    """What another decision comes to."""

    minutes: float | None  # min more than now; None: no plan gets round a door
    short: float  # l of water more that the plan lacks than now


def change_to(trip: Trip, other: Trip) -> Change:
    """Return what it comes to if another trip is asked in place of one.

    Parameters
    ----------
    trip, other : Trip
        As it stands, and as it would be.

    Returns
    -------
    change : Change
        Of time and of what is lacking.
    """
    return change_between(answered(trip), answered(other))


def change_between(now: Answer, then: Answer) -> Change:
    """Return what one answer comes to in place of another.

    Parameters
    ----------
    now : Answer
        As it stands.
    then : Answer
        As it would be.

    Returns
    -------
    change : Change
        Of time and of what is lacking.
    """
    if now.lots is None or then.lots is None:
        return Change(minutes=None, short=then.short - now.short)
    return Change(minutes=(then.lots.finish - now.lots.finish) / 60.0, short=then.short - now.short)


def with_stop(trip: Trip, node: int, halt: Halt) -> Trip:
    """Return a trip with another stop at a node.

    Parameters
    ----------
    trip : Trip
        The trip.
    node : int
        1 for the first stop. [1]
    halt : Halt
        The stop.

    Returns
    -------
    trip : Trip
        The same otherwise.
    """
    halts = list(trip.halts)
    halts[node - 1] = halt
    return replace(trip, halts=tuple(halts))


def riding_past(trip: Trip, node: int) -> Trip:
    """Return a trip on which a stop is ridden past.

    Parameters
    ----------
    trip : Trip
        The trip.
    node : int
        1 for the first stop. [1]

    Returns
    -------
    trip : Trip
        The same otherwise.
    """
    return with_stop(_wishless(trip, node), node, Halt())


def stopping(trip: Trip, free: Trip, node: int) -> Trip:
    """Return a trip on which a stop is stopped at in any case.

    Parameters
    ----------
    trip : Trip
        The trip.
    free : Trip
        The same without wishes.
    node : int
        1 for the first stop. [1]

    Returns
    -------
    trip : Trip
        The same otherwise.
    """
    halt = free.halts[node - 1]
    return with_stop(trip, node, replace(halt, stay=halt.usual if halt.stay is None else halt.stay))


def without_wishes(trip: Trip, free: Trip, node: int) -> Trip:
    """Return a trip without what the rider wishes of one node.

    Parameters
    ----------
    trip : Trip
        The trip.
    free : Trip
        The same without wishes.
    node : int
        0 for the start. [1]

    Returns
    -------
    trip : Trip
        The same otherwise.
    """
    made = _wishless(trip, node)
    densities = trip.food.density
    if isinstance(densities, np.ndarray):
        densities = np.where(np.arange(densities.size) == node, free.food.density_at(node), densities)
        made = replace(made, food=replace(made.food, density=densities))
    return made if node == 0 else with_stop(made, node, free.halts[node - 1])


def _wishless(trip: Trip, node: int) -> Trip:
    def left(values: Mapping[int, float]) -> dict[int, float]:
        return {key: value for key, value in values.items() if key != node}

    water = replace(trip.water, wishes=left(trip.water.wishes), more=left(trip.water.more))
    food = replace(trip.food, wishes=left(trip.food.wishes), least=left(trip.food.least))
    return replace(trip, water=water, food=food)


@dataclass(frozen=True, kw_only=True)
class WayOut:
    """How a stretch on which too little can be carried is got over."""

    kind: str  # strapped: a bottle bought and strapped on; wait: for the door; bottle: one more for the whole race
    node: int  # where; 0 for the whole race
    amount: float  # l of the bottle, s of the wait
    change: Change


def ways_out(trip: Trip, stuck: tuple[Stuck, ...]) -> tuple[WayOut, ...]:
    """Return the ways out of what is short on a trip, cheapest first.

    Parameters
    ----------
    trip : Trip
        As it is asked.
    stuck : tuple of Stuck
        Where no plan carries enough.

    Returns
    -------
    ways : tuple of WayOut
        Each by itself; what it comes to is of the whole plan.
    """
    now = answered(trip)
    found = [_one_more(trip, now)]
    for entry in stuck:
        name, _, door = entry.what.partition(" ")
        if door:
            halt = trip.halts[entry.node - 1]
            service: Service | None = getattr(halt, name)
            if service is not None:
                waited = with_service(halt, name, replace(service, patience=float("inf")))
                change = change_between(now, answered(with_stop(trip, entry.node, waited)))
                found.append(WayOut(kind="wait", node=entry.node, amount=60.0 * (change.minutes or 0.0), change=change))
        elif name == "water" and entry.needs - entry.capacity <= STRAPPED_MOST:
            litres = bottle_for(entry.needs - entry.capacity)
            more = {**trip.water.more, entry.node: trip.water.more.get(entry.node, 0.0) + litres}
            change = change_between(now, answered(replace(trip, water=replace(trip.water, more=more))))
            found.append(WayOut(kind="strapped", node=entry.node, amount=litres, change=change))
    once = {(way.kind, way.node, way.amount): way for way in found if way is not None}
    kept = [way for way in once.values() if way.change.short < -_CRUMB and way.change.minutes is not None]
    return tuple(sorted(kept, key=lambda way: way.change.minutes or 0.0))


def _one_more(trip: Trip, now: Answer) -> WayOut | None:
    """Return what one more bottle for the whole race comes to, None where bottles are large enough all along."""
    lacking = [entry.needs - entry.capacity for entry in now.stuck if entry.what == "water"]
    if not lacking or max(lacking) > STRAPPED_MOST:
        return None
    litres = bottle_for(max(lacking))
    roomier = replace(trip, water=replace(trip.water, capacity=trip.water.capacity + litres))
    change = change_between(now, answered(roomier))
    carried = BOTTLE * litres * float(trip.prices.sum()) / 60.0
    minutes = None if change.minutes is None else change.minutes + carried
    return WayOut(kind="bottle", node=0, amount=litres, change=Change(minutes=minutes, short=change.short))


def bottle_for(litres: float) -> float:
    """Return the size of a bottle that holds so much, or of two.

    Parameters
    ----------
    litres : float
        Up to STRAPPED_MOST. [l]

    Returns
    -------
    size : float
        As bottles are sold. [l]

    Examples
    --------
    >>> bottle_for(0.7)
    1.0
    """
    return next(size for size in (0.5, 1.0, 1.5, 2.0, 3.0) if size >= litres - _CRUMB)
