"""What food is bought where on a ride."""

from collections.abc import Mapping

import numpy as np

from stonechat.core.line.stops import FOOD_OFFERS, Stop
from stonechat.core.numerics.arrays import frozen
from stonechat.core.plan.plan import START, Supply
from stonechat.core.plan.scenario import Scenario
from stonechat.core.rhythm.inputs import RideResult
from stonechat.core.supply.basket import Basket, Way, basket_for, hand_basket
from stonechat.core.supply.carry import Levels
from stonechat.core.supply.foods import FOODS, SHELVES, START_SHELF, Food, shelf_of
from stonechat.core.supply.larder import USUAL_BULK, USUAL_DENSITY, Larder

_USUAL_HOURS = 8.0  # h of riding, that is bought for where nobody has bought yet


def foods_of(supply: Supply) -> Mapping[str, Food]:
    """Return the kinds of food that a rider knows.

    Parameters
    ----------
    supply : Supply
        With figures of the rider's own.

    Returns
    -------
    foods : mapping of str to Food
        The usual ones, those that the rider has changed or added in their place.
    """
    return {**FOODS, **{food.key: food for food in supply.foods}}


def shelf_at(supply: Supply, stop: Stop | None) -> tuple[str, ...]:
    """Return what is sold at a stop.

    Parameters
    ----------
    supply : Supply
        With what the rider says of places.
    stop : Stop or None
        None for the start.

    Returns
    -------
    keys : tuple of str
        Of foods: as the rider says of this stop, else of such places, else as is usual.
    """
    shelves = supply.shelves
    if stop is None:
        return tuple(shelves.get(START_SHELF, SHELVES[START_SHELF]))
    if not stop.offers & FOOD_OFFERS:
        return ()
    kind = shelf_of(stop.kind, stop.offers)
    return tuple(shelves.get(stop.id, shelves.get(kind, SHELVES[kind])))


def larder_of(scenario: Scenario, ride: RideResult, food: Levels, room: float) -> Larder:
    """Return what is bought on a ride, and what it makes of each leg.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.
    food : Levels
        Energy by leg. [kcal]
    room : float
        In bags, for food. [l]

    Returns
    -------
    larder : Larder
        Density and bulk as the rider says where they are said.
    """
    supply, count = scenario.variant.supply, food.needs.size
    bounds = [*(k for k in range(count) if food.refilled[k]), count]
    density, bulk = np.full(count, USUAL_DENSITY), np.full(count, USUAL_BULK)
    sold, bests, baskets = list[Basket | None](), list[Basket | None](), list[Basket | None]()
    for node in range(count):
        end = next((k for k in bounds if k > node), count)
        hours = float(food.needs[node:end].sum()) / max(scenario.variant.rider.intake, 1.0) or _USUAL_HOURS
        best = _best(scenario, ride, node, hours, room)
        bought = float(food.taken[node]) if food.refilled[node] else 0.0
        basket = _bought(scenario, node, best, bought)
        baskets.append(basket)
        sold.append(basket or best)
        bests.append(best)
        before = float(food.arriving[node - 1]) if node else 0.0
        last = (float(density[node - 1]), float(bulk[node - 1])) if node else (USUAL_DENSITY, USUAL_BULK)
        density[node] = _together(before, last[0], bought, basket.density if basket else last[0])
        bulk[node] = _together(before, last[1], bought, basket.bulk if basket else last[1])
    own_density, own_bulk = supply.food_density, supply.food_bulk
    return Larder(
        density=frozen(density if own_density is None else np.full(count, own_density)),
        bulk=frozen(bulk if own_bulk is None else np.full(count, own_bulk)),
        sold_density=frozen(np.array([own_density or (one.density if one else USUAL_DENSITY) for one in sold])),
        best_density=frozen(np.array([own_density or (one.density if one else USUAL_DENSITY) for one in bests])),
        sold_bulk=frozen(np.array([own_bulk or (one.bulk if one else USUAL_BULK) for one in sold])),
        baskets=tuple(baskets),
    )


def _together(before: float, density: float, bought: float, other: float) -> float:
    """Return the density of what was aboard with what is bought. Energies in kcal."""
    total = before + bought
    return density if total <= 0.0 else total / (before / density + bought / other)


def _best(scenario: Scenario, ride: RideResult, node: int, hours: float, room: float) -> Basket | None:
    shelf = shelf_at(scenario.variant.supply, scenario.stops[node - 1] if node else None)
    if not shelf:
        return None
    way = Way(hours=hours, room=room / max(hours, 1.0), **_heat(scenario, ride, node, hours))
    return basket_for(foods_of(scenario.variant.supply), shelf, way, intake=scenario.variant.rider.intake)


def _heat(scenario: Scenario, ride: RideResult, node: int, hours: float) -> dict[str, float]:
    """Return the hottest and coldest air of so many hours of riding from a node, in steps. [°C]"""
    begins = int(np.searchsorted(scenario.leg_of, node))
    ridden = np.cumsum(ride.times[begins:]) / 3600.0
    within = ride.temps[begins:][: max(1, int(np.searchsorted(ridden, hours)) + 1)]
    if not within.size:
        within = ride.temps
    hottest, coldest = float(within.max()), float(within.min())
    return {"hottest": round(hottest), "coldest": round(coldest)}


def _bought(scenario: Scenario, node: int, best: Basket | None, energy: float) -> Basket | None:
    """Return what is bought where a leg begins, by hand or as is best."""
    if energy <= 0.0:
        return None
    place = START if node == 0 else scenario.stops[node - 1].id
    by_hand = scenario.variant.supply.buys.get(place, {})
    foods = foods_of(scenario.variant.supply)
    known = {key: kcal for key, kcal in by_hand.items() if key in foods and kcal > 0.0}
    return hand_basket(foods, known, best, energy) if known else best
