"""Supply by brute force: every whole amount, every set of services; of each state the earliest clock."""

from collections.abc import Iterator
from itertools import product

from stonechat.core.supply.lots import Halt, Passing, Provision, Service, Trip, ride_lots


def _amounts(provision: Provision, node: int, now: int, service: Service | None, *, start: bool) -> list[int]:
    """Return what may be aboard on leaving, in whole units."""
    if node in provision.wishes:
        wish = round(min(max(provision.wishes[node], now), provision.capacity))
        return [wish] if wish == now or start or service is not None else []
    if start:
        return list(range(int(provision.capacity) + 1))
    return [now] if service is None else list(range(now, int(provision.capacity) + 1))


def _door(service: Service, clock: float, rest: float) -> float:
    if service.spans is None:
        return 0.0
    waits = [max(0.0, opens - clock - rest) for opens, shuts in service.spans if clock < shuts]
    return waits[0] if waits else float("inf")


def _time_at(halt: Halt, clock: float, litres: float, kcal: float) -> float:
    """Return the time at a stop with rest; 0 where it is ridden past."""
    night = halt.rest if halt.until is None else max(0.0, halt.until - clock)
    taken = [(s, a) for s, a in ((halt.water, litres), (halt.food, kcal)) if a > 0 and s is not None]
    if not taken and halt.stay is None:
        return 0.0
    outside = sum(s.time for s, _ in taken if s.spans is None)
    inside = sum(s.time for s, _ in taken if s.spans is not None)
    door = max((_door(s, clock, night) for s, _ in taken), default=0.0)
    there = max(max(door, outside) + inside, halt.stay or 0.0)
    busy = halt.detour + there + sum(s.rate * a for s, a in taken)
    return busy + halt.rest if halt.until is None else max(busy, night)


def least_finish(trip: Trip) -> float:
    """Return the earliest finish over all whole amounts; infinity where every plan runs dry.

    Needs, capacities, reserves and wishes have to be whole. More may be aboard than was taken in lots: all amounts are
    tried at every stop.
    """
    nothing = Halt()
    states = {(0, 0): 0.0}
    for node, halt in enumerate((nothing, *trip.halts)):
        left: dict[tuple[int, int], float] = {}
        for (water, food), clock in states.items():
            options = product(
                _amounts(trip.water, node, water, halt.water, start=node == 0),
                _amounts(trip.food, node, food, halt.food, start=node == 0),
            )
            for litres, kcal in options:
                spent = 0.0 if node == 0 else _time_at(halt, clock, litres - water, kcal - food)
                _earliest(left, (litres, kcal), clock + spent)
        states = {}
        for (litres, kcal), clock in left.items():
            drunk, eaten = float(trip.water.needs[node]), float(trip.food.needs[node])
            after = round(litres - drunk), round(kcal - eaten)
            if after[0] < trip.water.reserve or after[1] < trip.food.reserve:
                continue
            carried = (litres - 0.5 * drunk) / trip.water.density_at(0), (kcal - 0.5 * eaten) / trip.food.density_at(0)
            _earliest(states, after, _arrives(trip, node, clock, sum(carried)))
    return min(states.values(), default=float("inf"))


def _arrives(trip: Trip, leg: int, clock: float, mass: float) -> float:
    takes = float(trip.rides[leg]) + float(trip.prices[leg]) * mass
    if leg not in trip.holds:
        return clock + takes
    share, until = trip.holds[leg]
    asleep = max(0.0, until - (clock + share * takes))
    return clock + takes + asleep


def _earliest(states: dict[tuple[int, int], float], key: tuple[int, int], clock: float) -> None:
    if clock < states.get(key, float("inf")):
        states[key] = clock


def least_by_lots(trip: Trip) -> float:
    """Return the earliest finish over every set of refills of each kind, each lot just enough for the next.

    What a node is left with is what it takes to the next refill with the reserve, or what is bought by hand there.
    """
    nodes = range(trip.rides.size)
    waters = [k for k in nodes if k and trip.halts[k - 1].water is not None]
    foods = [k for k in nodes if k and trip.halts[k - 1].food is not None]
    best = float("inf")
    for fills in _subsets(waters):
        water = _by_lots(trip.water, fills, trip.rides.size)
        for buys in _subsets(foods):
            food = _by_lots(trip.food, buys, trip.rides.size)
            if water is None or food is None:
                continue
            passings = tuple(
                Passing(0.0, 0.0, water[k], food[k], k == 0 or k in fills, k == 0 or k in buys, None) for k in nodes
            )
            best = min(best, ride_lots(trip, passings))
    return best


def _subsets(nodes: list[int]) -> Iterator[frozenset[int]]:
    for chosen in product((False, True), repeat=len(nodes)):
        yield frozenset(node for node, takes in zip(nodes, chosen, strict=True) if takes)


def _by_lots(provision: Provision, takes: frozenset[int], legs: int) -> list[float] | None:
    """Return what each node is left with, None where a refill would take nothing on, or too much goes in."""
    levels, level = [], 0.0
    for node in range(legs):
        if node == 0 or node in takes:
            end = min((k for k in takes if k > node), default=legs)
            asked = float(provision.needs[node:end].sum()) + provision.reserve
            asked = max(asked, min(provision.least.get(node, 0.0), provision.most(node)))
            if node and asked <= level + 1e-9:
                return None
            level = asked
        levels.append(level)
        level -= float(provision.needs[node])
    return levels
