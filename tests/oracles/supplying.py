"""Supply by brute force: every whole amount, every set of services; of each state the earliest clock."""

from itertools import product

from stonechat.core.supply.lots import Halt, Provision, Service, Trip


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
            mass = (litres - 0.5 * drunk) / trip.water.density + (kcal - 0.5 * eaten) / trip.food.density
            _earliest(states, after, _arrives(trip, node, clock, mass))
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
