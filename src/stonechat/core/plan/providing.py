"""Water and food for each leg of a ride: what is needed, where it is had, and what that adds along the course."""

import numpy as np

from stonechat.core.ledger.ridden import Added, Asked, Provided
from stonechat.core.line.stops import DAY, FOOD_OFFERS, WATER_OFFERS, open_offers
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.buying import foods_of, larder_of
from stonechat.core.plan.film import by_leg, stow_on
from stonechat.core.plan.halting import (
    TABLETS_WAIT,
    Needs,
    bought_by_hand,
    free_trip_of,
    node_ids,
    treatment_among,
    trip_of,
)
from stonechat.core.plan.scenario import Scenario, day_seconds, local_time
from stonechat.core.rhythm.inputs import Clock, RideResult
from stonechat.core.rhythm.ride import LONG_STAY
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.core.supply.basket import POWDER_KEY
from stonechat.core.supply.carry import Levels, carry_levels
from stonechat.core.supply.energy import gut_limit
from stonechat.core.supply.foods import LATER, eaten_on_the_way, energy_of, is_cooked
from stonechat.core.supply.heat import heat_balance_loss, humidity_at
from stonechat.core.supply.larder import Larder, usual_larder
from stonechat.core.supply.lots import LotPlan
from stonechat.core.supply.needs import URINE, drinking_need, water_loss
from stonechat.core.supply.pour import WATER_DENSITY, water_capacity
from stonechat.core.supply.rations import Night, Ration, Rations, eat
from stonechat.core.supply.wishes import answered

WRAPPERS = 0.05  # 1, of the volume of food that its wrappers fill once it is eaten (estimate)


def provide(scenario: Scenario, ride: RideResult) -> Provided:
    """Return water and food on each leg of a ride, from hours, heat, effort and what is open.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    provided : Provided
        Water [l] and food [kcal], and what they add along the course. [kg]
    """
    needs = needs_of(scenario, ride)
    asked = _asked(scenario, ride, needs)
    lots = asked.lots if asked is not None else None
    water, food = levels_of(scenario, needs, lots, given_at(scenario, ride))
    held = scenario.supplied.larder if scenario.supplied.held else None
    larder = held or larder_of(scenario, ride, food, needs.food_room)
    return Provided(
        water=water,
        food=food,
        capacity=needs.water_room,
        food_room=np.asarray(needs.food_room * larder.bulk, dtype=np.float64),
        larder=larder,
        rations=scenario.rations,
        powder=scenario.rations.powder + larder.powder_of(food),
        reserve=needs.water_reserve,
        added=_added(scenario, ride, (water, food), larder),
        coldest=_coldest(scenario, ride),
        wrappers=_wrappers(scenario, food, larder),
        waters=np.array([True, *(bool(offers & WATER_OFFERS) for offers in had_at(scenario, ride))]),
        asked=asked,
    )


def _wrappers(scenario: Scenario, food: Levels, larder: Larder) -> FloatArray:
    """Return the wrappers aboard as each leg begins: of what was eaten since the last stop that is not ridden past."""
    eaten = (food.leaving - food.arriving) / larder.bulk / 1000.0
    aboard = np.zeros(eaten.size)
    for k in range(1, eaten.size):
        if scenario.rides_past(k - 1):
            aboard[k] = aboard[k - 1] + WRAPPERS * eaten[k - 1]
    return aboard


def rations_of(scenario: Scenario, ride: RideResult) -> Rations:
    """Return what is eaten of the kit's own food on a ride: before anything bought, what is at hand first.

    Parameters
    ----------
    scenario : Scenario
        With all of it aboard all the way.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    rations : Rations
        None where the kit holds no food that is known to give energy, or it is for an emergency.
    """
    foods, ranks = foods_of(scenario.variant.supply), {c.id: ACCESS_RANK[c.access] for c in scenario.carriers}
    eaten = [item for item in scenario.items if item.packed and eaten_on_the_way(item, foods)]
    eaten.sort(key=lambda item: ranks.get(scenario.places.get(item.id, ""), len(ranks)))
    spans, whole = scenario.spans, (0, None)
    rations = [
        Ration(
            id=item.id,
            energy=energy_of(item, foods),
            mass=item.total_mass,
            first=spans.get(item.id, whole)[0],
            last=spans.get(item.id, whole)[1],
            meals=item.quantity if is_cooked(item, foods) else 0,
            is_powder=item.kind == POWDER_KEY,
        )
        for item in eaten
    ]
    rations.sort(key=lambda ration: not ration.is_powder)  # it is drunk beside what is eaten
    drunk = by_leg(scenario, _drunk(scenario, ride))
    return eat(rations, by_leg(scenario, _eaten(scenario, ride)), _nights(scenario, ride), drunk)


def _nights(scenario: Scenario, ride: RideResult) -> tuple[Night, ...]:
    """Return the nights on which something may be cooked: beside the road, or at a stop."""
    beside = ride.rests.copy()
    np.subtract.at(beside, np.minimum(scenario.clock.stays.segments, beside.size - 1), ride.stop_rests)
    slept = [Night(int(scenario.leg_of[k]), False) for k in np.flatnonzero(beside >= LONG_STAY)]
    slept += [
        Night(k, bool(offers & WATER_OFFERS))
        for k, offers in enumerate(had_at(scenario, ride))
        if ride.stop_rests[k] >= LONG_STAY
    ]
    return tuple(sorted(slept))


def _drunk(scenario: Scenario, ride: RideResult) -> FloatArray:
    """Return what is drunk riding on each segment. [l]"""
    variant = scenario.variant
    rider = variant.rider
    return drunk_riding(ride, scenario.clock, power=rider.power, method=variant.supply.sweat, own=rider.sweat)


def drunk_riding(ride: RideResult, clock: Clock, *, power: float, method: str, own: float = 1.0) -> FloatArray:
    """Return what a rider should drink on each segment while riding.

    Parameters
    ----------
    ride : RideResult
        The race by the clock.
    clock : Clock
        For the weather of its days.
    power : float
        Of the rider on foot. [W]
    method : str
        Key of SWEAT: by riders' table, or by heat balance where that holds.
    own : float
        What this rider loses over what is usual. [1]

    Returns
    -------
    drunk : ndarray, shape (n,)
        By segment. [l]
    """
    return np.asarray(drinking_need(own * loss_riding(ride, clock, power=power, method=method)) * ride.times / 3600.0)


def loss_riding(ride: RideResult, clock: Clock, *, power: float, method: str) -> FloatArray:
    """Return what riders usually lose by sweat on each segment.

    Parameters
    ----------
    ride : RideResult
        The race by the clock.
    clock : Clock
        For the weather of its days.
    power : float
        Of the rider on foot. [W]
    method : str
        Key of SWEAT.

    Returns
    -------
    loss : ndarray, shape (n,)
        By segment. [l/h]
    """
    effort = ride.powers + ride.walked * power
    if method == "table":
        return water_loss(temp_air=ride.temps, power=effort)
    sky = clock.sky
    day = ((clock.start_of_day + ride.clocks[:-1]) // DAY).astype(np.int64)
    day = np.clip(day, 0, sky.humidities.size - 1)
    mean = 0.5 * (sky.lows + sky.highs)[day]
    humidity = humidity_at(humidity=sky.humidities[day], temp_mean=mean, temp_air=ride.temps)
    return heat_balance_loss(temp_air=ride.temps, power=effort, humidity=humidity, dark=ride.dark)


def _eaten(scenario: Scenario, ride: RideResult) -> FloatArray:
    """Return what is eaten riding on each segment: what the gut takes of the plan, and more for climbs. [kcal]"""
    rider, supply = scenario.variant.rider, scenario.variant.supply
    by_hours = min(rider.intake, gut_limit(supply.gut)) * ride.times / 3600.0
    climbed = np.diff(scenario.profile.ascent_by_end)
    return np.asarray(by_hours + supply.for_climbs * climbed / 1_000.0, dtype=np.float64)


def emergency_food(scenario: Scenario) -> float:
    """Return the energy of what the kit carries for an emergency.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.

    Returns
    -------
    energy : float
        It stands for the reserve, as far as it goes. [kcal]
    """
    foods = foods_of(scenario.variant.supply)
    return sum(energy_of(item, foods) for item in scenario.items if item.kind in LATER)


def _coldest(scenario: Scenario, ride: RideResult) -> FloatArray:
    """Return the lowest air temperature on each leg; that of all where a leg has no segment. [°C]"""
    found = np.full(len(scenario.stops) + 1, np.inf)
    np.minimum.at(found, scenario.leg_of, ride.temps)
    return np.where(np.isfinite(found), found, float(ride.temps.min()))


def _asked(scenario: Scenario, ride: RideResult, needs: Needs) -> Asked | None:
    """Return what the lot programme says of a ride; None where every stop is stopped at as it is."""
    supply = scenario.variant.supply
    if not (supply.choose or supply.skip) or not scenario.supplied.prices.size:
        return None
    trip = trip_of(scenario, ride, needs, free=supply.choose)
    without = free_trip_of(scenario, ride, needs)
    if scenario.supplied.held and scenario.supplied.lots is not None:
        return Asked(trip=trip, free=without, lots=scenario.supplied.lots, stuck=scenario.supplied.stuck)
    answer = answered(trip)
    return Asked(trip=trip, free=without, lots=answer.lots, stuck=answer.stuck)


def levels_of(
    scenario: Scenario, needs: Needs, lots: LotPlan | None, given: tuple[frozenset[str], ...]
) -> tuple[Levels, Levels]:
    """Return water [l] and food [kcal] by leg.

    Parameters
    ----------
    scenario : Scenario
        For what the rider sets by hand.
    needs : Needs
        What each leg uses up as planned.
    lots : LotPlan or None
        Where one fills up and buys, and how much; None: wherever it is given, just enough for the next.
    given : tuple of frozenset of str
        What can be had at each stop on passing it; what the plan takes on there and is not given is not counted.

    Returns
    -------
    water, food : Levels
        By leg.
    """
    supply, ids = scenario.variant.supply, node_ids(scenario)
    waters = [True, *(bool(offers & WATER_OFFERS) for offers in given)]
    foods = [True, *(bool(offers & FOOD_OFFERS) for offers in given)]
    least: tuple[float, ...] = ()
    litres: list[float | None]
    kcal: list[float | None]
    if lots is None:
        litres = [supply.water_by_stop.get(place) for place in ids]
        kcal = [supply.food_by_stop.get(place) for place in ids]
        by_hand = bought_by_hand(supply, needs.food_reserve)
        least = tuple(by_hand.get(place, 0.0) for place in ids)
    else:
        waters = [p.fills and there for p, there in zip(lots.passings, waters, strict=True)]
        foods = [p.buys and there for p, there in zip(lots.passings, foods, strict=True)]
        litres = [passing.water if passing.fills else None for passing in lots.passings]
        kcal = [passing.food if passing.buys else None for passing in lots.passings]
    water = carry_levels(
        needs=needs.water,
        refills=np.array(waters),
        capacity=needs.water_room + needs.strapped,
        reserve=needs.water_reserve,
        wanted=tuple(litres),
    )
    food = carry_levels(
        needs=needs.food,
        refills=np.array(foods),
        capacity=float("inf"),
        reserve=needs.food_reserve,
        wanted=tuple(kcal),
        least=least,
    )
    return water, food


def needs_of(scenario: Scenario, ride: RideResult) -> Needs:
    """Return what each leg uses up, from hours, heat and effort, and how much can be aboard.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    needs : Needs
        Water [l] and food [kcal] by leg.
    """
    hours, supply = ride.times / 3600.0, scenario.variant.supply
    water_from = np.array([bool(offers & WATER_OFFERS) for offers in given_at(scenario, ride)], dtype=bool)
    outside = ride.rests.copy()  # who rests where there is water drinks that
    at = np.minimum(scenario.clock.stays.segments, outside.size - 1)
    np.subtract.at(outside, at[water_from], ride.stop_rests[water_from])
    drunk = _drunk(scenario, ride) + URINE * np.maximum(outside, 0.0) / 3600.0
    return Needs(
        water=by_leg(scenario, drunk) + scenario.rations.water,
        food=np.maximum(0.0, by_leg(scenario, _eaten(scenario, ride)) - scenario.rations.energy),
        food_reserve=max(0.0, supply.food_reserve - emergency_food(scenario)),
        water_room=water_capacity(scenario.carriers),
        water_reserve=max(supply.water_reserve, _until_safe(scenario, float(drunk.sum() / max(hours.sum(), 1e-9)))),
        strapped=np.array([supply.strapped.get(place, 0.0) for place in node_ids(scenario)]),
        food_room=food_capacity(scenario),
        larder=scenario.supplied.larder or usual_larder(len(scenario.stops) + 1, supply.food_density, supply.food_bulk),
    )


def _until_safe(scenario: Scenario, rate: float) -> float:
    """Return what is drunk until water with tablets may be, none where no such water is used. `rate` in l/h. [l]"""
    doubtful = any("doubtful_water" in stop.offers and "water" not in stop.offers for stop in scenario.stops)
    waits = doubtful and treatment_among(scenario.items) == "water_tablets"
    return rate * TABLETS_WAIT / 3600.0 if waits else 0.0


def food_capacity(scenario: Scenario) -> float:
    """Return the room that food finds beside the things, on the leg that leaves least.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.

    Returns
    -------
    capacity : float
        In bags that take food. [l]
    """
    much = 1.0  # m³
    rooms = [
        sum(stow_on(scenario, phase, much, much * 1e-9).values())
        for phase in {id(p): p for p in scenario.phases}.values()
    ]
    return min(rooms) * 1000.0


def given_at(scenario: Scenario, ride: RideResult) -> tuple[frozenset[str], ...]:
    """Return what can be had at each stop that is stopped at: on arrival, after a wait for its door, or on leaving.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    offers : tuple of frozenset of str
        By stop; where hours are not known, what such places usually give then. Nothing where it is ridden past.
    """
    had = had_at(scenario, ride)
    return tuple(frozenset[str]() if scenario.rides_past(k) else offers for k, offers in enumerate(had))


def had_at(scenario: Scenario, ride: RideResult) -> tuple[frozenset[str], ...]:
    """Return what could be had at each stop, stopped at or not.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    offers : tuple of frozenset of str
        By stop.
    """
    found: list[frozenset[str]] = []
    for k, (stop, zone) in enumerate(zip(scenario.stops, scenario.zones, strict=False)):
        moments = (float(ride.arrivals[k] + ride.waits[k]), float(ride.departures[k]))
        local = [local_time(scenario, moment, zone) for moment in moments]
        found.append(frozenset[str]().union(*(open_offers(stop, m.weekday(), day_seconds(m)) for m in local)))
    return tuple(found)


def _added(scenario: Scenario, ride: RideResult, levels: tuple[Levels, Levels], larder: Larder) -> Added:
    """Return what water and food add along the course; they run down with riding time."""
    (water, food), leg = levels, scenario.leg_of
    leg_times = by_leg(scenario, ride.times)
    before = np.concatenate(([0.0], np.cumsum(leg_times)))[leg]
    through = (np.cumsum(ride.times) - 0.5 * ride.times - before) / np.maximum(leg_times[leg], 1e-9)
    litres = water.leaving[leg] + (water.arriving - water.leaving)[leg] * through
    energy = food.leaving[leg] + (food.arriving - food.leaving)[leg] * through
    loads = [(larder.volume(float(kcal), k), larder.mass(float(kcal), k)) for k, kcal in enumerate(food.leaving)]
    stowed = [stow_on(scenario, phase, *load) for phase, load in zip(scenario.phases, loads, strict=True)]
    drags = [sum(c.drag_fill * filled[c.id] for c in scenario.carriers) for filled in stowed]
    return Added(
        masses=litres * WATER_DENSITY + energy / larder.density[leg] - scenario.rations.mass[leg] * through,
        drags=np.array(drags)[leg],
        brakes=np.zeros(leg.size),
    )
