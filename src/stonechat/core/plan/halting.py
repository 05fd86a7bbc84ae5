"""What the lot programme is asked on a ride, and what its answer makes of the stops."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.line.stops import ALWAYS, FOOD_OFFERS, WATER_OFFERS, Hours, Stop, door_of, main_door
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.plan import START, Supply, Variant
from stonechat.core.plan.scenario import DETOUR_SPEED, Scenario, days_looked_at, doors_of, stay_at
from stonechat.core.rhythm.inputs import RideResult
from stonechat.core.supply.larder import Larder
from stonechat.core.supply.lots import NEVER, Halt, LotPlan, Passing, Provision, Service, Stay, Trip, thinned

PATIENCE = 2.0 * 3600.0  # s that a plan waits for a door at most, or longer where the rider says so (estimate)
Spans = tuple[tuple[float, float], ...]  # s, when a door is open
WATER_STOP = 300.0  # s, to fill bottles where nothing else is done (estimate)
_DENSITY_STEP = 250.0  # kcal/kg, by which foods are told apart where stops are chosen
FIRST_MASS = 2.0  # kg of provisions before they were reckoned
TREATING = {  # s for each litre of doubtful water, by the kind of thing that makes it safe (estimates)
    "water_filter": 60.0,
    "water_tablets": 15.0,
    "stove": 300.0,
}
TABLETS_WAIT = 1_800.0  # s until water with tablets may be drunk (estimate; the packet says)
TREATED_BY = {
    "water_filter": "filtered, slower as it clogs",
    "water_tablets": "tablets: ride on, drink it after 30 min or as the packet says",
    "stove": "boiled, about 14 g of gas a litre",
    "": "not treated: nothing for it is aboard",
}


@dataclass(frozen=True, kw_only=True)
class Needs:
    """What each leg uses up, and how much can be aboard."""

    water: FloatArray  # l, shape (l,)
    food: FloatArray  # kcal
    water_room: float  # l
    water_reserve: float  # l to have left at each refill; until tablets have worked too
    strapped: FloatArray  # l that goes in beyond it on leaving each node, shape (l,)
    food_room: float  # l of bag that food finds on the leg that leaves least
    food_reserve: float  # kcal to have left at each shop, beside what the kit carries for an emergency
    larder: Larder  # of the ride before

    @property
    def food_most(self) -> FloatArray:
        """Energy of what is sold where each leg begins that goes in, shape (l,). [kcal]"""
        return np.asarray(self.food_room * self.larder.sold_bulk, dtype=np.float64)


def choosing(variant: Variant) -> Variant:
    """Return a variant whose stops are chosen.

    Parameters
    ----------
    variant : Variant
        The variant.

    Returns
    -------
    variant : Variant
        The same otherwise.
    """
    return replace(variant, supply=replace(variant.supply, choose=True))


def treatment_among(items: Iterable[Item]) -> str:
    """Return the kind of thing that makes water safe soonest, empty where there is none.

    Parameters
    ----------
    items : iterable of Item
        What goes along.

    Returns
    -------
    kind : str
        Key of TREATING, or empty.
    """
    aboard = {item.kind for item in items}
    return min((kind for kind in TREATING if kind in aboard), key=lambda kind: TREATING[kind], default="")


def treatment_rate(items: Sequence[Item]) -> float:
    """Return what making doubtful water safe takes.

    Parameters
    ----------
    items : sequence of Item
        What goes along.

    Returns
    -------
    rate : float
        For each litre: of a filter by its own flow where the rider gave it; none where nothing is aboard. [s/l]
    """
    kind = treatment_among(items)
    flows = [flow for item in items if item.kind == kind and (flow := item.fact("flow"))]
    return 60_000.0 / max(flows) if flows else TREATING.get(kind, 0.0)


def trip_of(scenario: Scenario, ride: RideResult, needs: Needs, *, free: bool) -> Trip:
    """Return what the lot programme is asked.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands, with the lots that were ridden with.
    ride : RideResult
        The race by the clock.
    needs : Needs
        By leg; the spread that the rider carries for comes on top.
    free : bool
        Whether stops may be ridden past that nothing holds the rider at.

    Returns
    -------
    trip : Trip
        Legs without provisions, stops with their doors. [s]
    """
    return _trip(scenario, ride, needs, scenario.variant.supply, free=free)


def free_trip_of(scenario: Scenario, ride: RideResult, needs: Needs) -> Trip:
    """Return what the lot programme would be asked if the rider wished nothing of single stops.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.
    needs : Needs
        By leg.

    Returns
    -------
    trip : Trip
        With every stop free that nothing holds the rider at, where stops are chosen.
    """
    supply = scenario.variant.supply
    wishless = replace(
        supply,
        skip=frozenset(),
        must=frozenset(),
        waits=frozenset(),
        water_by_stop={},
        food_by_stop={},
        strapped={},
        meals={},
        buys={},
    )
    return _trip(scenario, ride, needs, wishless, free=supply.choose)


def _trip(scenario: Scenario, ride: RideResult, needs: Needs, supply: Supply, *, free: bool) -> Trip:
    more = 1.0 + (supply.spread if supply.choose else 0.0)
    prices = scenario.supplied.prices
    elapsed, holds = _elapsed(scenario, ride)
    trip = Trip(
        rides=np.maximum(elapsed - prices * _carried(scenario, needs), 0.0),
        prices=prices,
        holds=holds,
        halts=tuple(_halt(scenario, ride, supply, k, free=free) for k in range(len(scenario.stops))),
        water=Provision(
            needs=needs.water * more,
            capacity=needs.water_room,
            reserve=min(needs.water_reserve, needs.water_room),
            density=1.0,
            wishes=_by_node(scenario, supply.water_by_stop),
            more=_by_node(scenario, supply.strapped),
        ),
        food=Provision(
            needs=needs.food * more,
            capacity=float(needs.food_most.min()),
            reserve=min(needs.food_reserve, float(needs.food_most.min())),
            density=_in_steps(needs.larder.sold_density if supply.buys else needs.larder.best_density),
            beyond=needs.food_most - float(needs.food_most.min()),
            wishes=_by_node(scenario, supply.food_by_stop),
            least=_by_node(scenario, bought_by_hand(supply, needs.food_reserve)),
            lasts=supply.tired,
        ),
    )
    return thinned(trip)


def node_ids(scenario: Scenario) -> tuple[str, ...]:
    """Return how the start and the stops are called in a plan.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.

    Returns
    -------
    ids : tuple of str
        The start first.
    """
    return (START, *(stop.id for stop in scenario.stops))


def _in_steps(densities: FloatArray) -> FloatArray:
    """Return densities so rounded that foods of nearly the same weight are one to the choice of stops. [kcal/kg]"""
    steps = np.maximum(1.0, np.round(densities / _DENSITY_STEP))
    return np.asarray(steps * _DENSITY_STEP, dtype=np.float64)


def bought_by_hand(supply: Supply, reserve: float) -> dict[str, float]:
    """Return what stops are left with at least, as food is bought there by hand.

    Parameters
    ----------
    supply : Supply
        With what is bought.
    reserve : float
        That is aboard on coming by. [kcal]

    Returns
    -------
    least : dict of str to float
        By stop, or the start. [kcal]

    Examples
    --------
    >>> bought_by_hand(Supply(buys={"inn": {"nuts": 600.0}}), 300.0)
    {'inn': 900.0}
    """
    return {place: sum(bought.values()) + reserve for place, bought in supply.buys.items() if bought}


def _by_node(scenario: Scenario, wishes: Mapping[str, float]) -> dict[int, float]:
    nodes = {key: node for node, key in enumerate(node_ids(scenario))}
    return {nodes[key]: amount for key, amount in wishes.items() if key in nodes}


def _elapsed(scenario: Scenario, ride: RideResult) -> tuple[FloatArray, dict[int, tuple[float, float]]]:
    """Return the time from leaving each stop to reaching the next [s], and the rests on the way that end by the clock.

    A rest of the second kind takes in what is saved before it, so that it is no part of the time of its leg.
    """
    left = np.concatenate(([0.0], ride.departures))
    elapsed = np.concatenate((ride.arrivals, [ride.clocks[-1]])) - left
    if scenario.variant.rhythm.school != "distance":
        return elapsed, {}
    rests = ride.rests.copy()
    at = np.minimum(scenario.clock.stays.segments, rests.size - 1)
    np.subtract.at(rests, at, ride.stop_rests)
    holds = {}
    for leg in range(elapsed.size):
        nights = np.flatnonzero((scenario.leg_of == leg) & (rests > 1.0))
        if not nights.size:
            continue
        slept = float(rests[nights].sum())
        before = float(ride.clocks[nights[0]] - rests[nights[0]] - left[leg])
        elapsed[leg] -= slept
        holds[leg] = (min(1.0, max(0.0, before / max(elapsed[leg], 1e-9))), float(ride.clocks[nights[-1]]))
    return elapsed, holds


def _carried(scenario: Scenario, needs: Needs) -> FloatArray:
    """Return the mean mass of provisions on each leg that was ridden with. [kg]"""
    lots = scenario.supplied.lots
    if lots is None:
        return np.full(needs.water.size, FIRST_MASS)
    water = np.array([passing.water for passing in lots.passings]) - 0.5 * needs.water
    food = np.array([passing.food for passing in lots.passings]) - 0.5 * needs.food
    return np.asarray(water + food / needs.larder.density, dtype=np.float64)


def _halt(scenario: Scenario, ride: RideResult, supply: Supply, k: int, *, free: bool) -> Halt:
    stop = scenario.stops[k]
    stay = stay_at(stop, scenario.variant)
    detour = stop.detour / DETOUR_SPEED
    there, rest = stay - detour, float(ride.stop_rests[k])
    has_water, has_food = bool(stop.offers & WATER_OFFERS), bool(stop.offers & FOOD_OFFERS)
    holds = is_held(scenario, stop) or rest > 0.0 or not (has_water or has_food)
    at_water = min(WATER_STOP, there) if has_food else there
    patience = NEVER if stop.id in supply.waits else max(PATIENCE, scenario.variant.rhythm.wait_most)
    water = food = None
    if has_water:
        plain = "water" in stop.offers
        rate = 0.0 if plain else treatment_rate(scenario.items)
        spans = _spans(scenario, k, "water" if plain else "doubtful_water")
        water = Service(time=at_water, rate=rate, spans=spans, patience=patience)
    if has_food:
        time = there - at_water if has_water else there
        doors = _merged([_spans(scenario, k, offer) for offer in stop.offers & FOOD_OFFERS])
        food = Service(time=time, spans=doors, patience=patience)
    if stop.id in supply.skip - supply.meals.keys() - supply.buys.keys() and not (
        is_held(scenario, stop) or rest > 0.0
    ):
        return Halt()
    least = there + float(ride.waits[k]) * (not (has_water or has_food))
    eats = has_food and (supply.meals.get(stop.id, 0.0) > 0.0 or bool(supply.buys.get(stop.id)))
    must = holds or not free or stop.id in supply.must | supply.waits or eats
    by_clock = rest > 0.0 and (scenario.variant.rhythm.school == "rooms" or stop.id in scenario.variant.rhythm.leave_at)
    return Halt(
        usual=least,
        stay=least if must else None,
        detour=detour,
        rest=rest,
        until=float(ride.departures[k]) if by_clock else None,
        held=holds,
        water=water,
        food=food,
    )


def is_held(scenario: Scenario, stop: Stop) -> bool:
    """Tell whether something besides water and food brings the rider to a stop.

    Parameters
    ----------
    scenario : Scenario
        For rests, drop boxes and what is posted home.
    stop : Stop
        The stop.

    Returns
    -------
    held : bool
        It is not ridden past then.
    """
    variant, rhythm = scenario.variant, scenario.variant.rhythm
    things = stop.id in variant.joins.values() or stop.id in variant.posts.values()
    rests = stop.id in rhythm.sleep_at or stop.id in rhythm.leave_at
    return things or rests or stop.cutoff is not None or stop.kind in ("checkpoint", "ferry")


def _spans(scenario: Scenario, k: int, offer: str) -> Spans | None:
    """Return when an offer of a stop can be had, since the start; None: always."""
    hours = door_of(scenario.stops[k], offer).hours
    count = days_looked_at(scenario.profile, scenario.variant.rhythm)
    return _opening(hours, scenario.even, scenario.zones[k], count, scenario.clock.start_of_day)


@lru_cache(maxsize=2_000)
def _opening(hours: Hours, even: datetime, zone: ZoneInfo, count: int, begun: float) -> Spans | None:
    """Return when a door is open, since the start; asked anew on every pass of the fixed point."""
    if hours == ALWAYS:
        return None
    return tuple((opens - begun, shuts - begun) for opens, shuts in doors_of(hours, even, zone, count))


def _merged(doors: Sequence[Spans | None]) -> Spans | None:
    """Return when at least one of several doors is open."""
    if any(spans is None for spans in doors):
        return None
    found: list[tuple[float, float]] = []
    for opens, shuts in sorted(span for spans in doors for span in spans or ()):
        if found and opens <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], shuts))
        else:
            found.append((opens, shuts))
    return tuple(found)


def with_lots(scenario: Scenario, lots: LotPlan) -> Scenario:
    """Return a scenario whose stops are as a plan of lots has them.

    Parameters
    ----------
    scenario : Scenario
        As it stands without one.
    lots : LotPlan
        Where one stops, and for how long.

    Returns
    -------
    scenario : Scenario
        With the clock that goes with it; who rides past does not wait, and the door that is waited for is.
    """
    clock = scenario.clock
    dwells, waits = np.array(clock.stays.dwells), np.array(clock.doors.waits_most)
    for k, passing in enumerate(lots.passings[1:]):
        dwells[k], waits[k] = _at_stop(scenario, k, passing, float(waits[k]))
    return replace(
        scenario,
        clock=clock._replace(stays=clock.stays._replace(dwells=dwells), doors=clock.doors._replace(waits_most=waits)),
        supplied=replace(scenario.supplied, lots=lots),
    )


def _at_stop(scenario: Scenario, k: int, passing: Passing, most: float) -> tuple[float, float]:
    """Return the time at a stop, and how long is waited at its door at most. [s]"""
    stay: Stay | None = passing.stay
    if stay is None:
        return 0.0, 0.0
    if not (passing.fills or passing.buys):
        return float(scenario.clock.stays.dwells[k]), most
    if stay.wait > 0.0 and scenario.clock.doors.known[k] and main_door(scenario.stops[k]).is_known:
        return stay.total - stay.wait, np.inf
    return stay.total, 0.0
