"""What to buy on a way to the next shop: the foods that weigh and fill least and that one still likes at the end."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import linprog

from stonechat.core.supply.foods import Food

CARBS_LEAST = 0.5  # 1, of the energy eaten riding from carbohydrate (estimate)
ROOM_WORTH = 0.15  # kg/l, what a litre of bag is minded beside what is in it (estimate)
POWDER_KEY = "drink_mix"  # food that is drunk
_MORSEL = 0.04  # 1, of a basket, below which nobody buys a food of its own (estimate)
_LEAST_HOURS = 0.5  # h, step in which ways to the next shop are told apart


@dataclass(frozen=True, kw_only=True)
class Basket:
    """What is bought at one place, as shares of its energy."""

    shares: tuple[tuple[str, float], ...]  # key of the food, and 1; the greatest first
    density: float  # kcal/kg
    bulk: float  # kcal/l
    carbs: float  # 1, of its energy
    sodium: float  # g per kcal
    powder: float  # kg of drink powder per kcal
    tired: bool  # whether one is tired of some of it before the next shop


@dataclass(frozen=True, kw_only=True)
class Way:
    """The way for which is bought."""

    hours: float  # h of riding to the next shop
    hottest: float  # °C
    coldest: float  # °C
    room: float  # l of bag for each hour of riding; infinity: no matter


def basket_for(foods: Mapping[str, Food], shelf: Sequence[str], way: Way, *, intake: float) -> Basket | None:
    """Return what to buy of a shelf.

    Parameters
    ----------
    foods : mapping of str to Food
        Kinds of food by key.
    shelf : sequence of str
        Keys of what is sold; what is not known is passed over.
    way : Way
        To the next shop.
    intake : float
        Eaten riding, by the hour. [kcal]

    Returns
    -------
    basket : Basket or None
        None where nothing there can be eaten riding.

    Notes
    -----
    The least of mass and room, half of the energy from carbohydrate where the shelf has it, of each food no more than
    one likes until the next shop, nothing that melts or is too hard to bite on the way where there is anything else:
    a linear programme. Where it asks too much of a shelf, first the carbohydrate gives way, then what one is tired of.

    Examples
    --------
    >>> from stonechat.core.supply.foods import FOODS
    >>> way = Way(hours=2.0, hottest=20.0, coldest=10.0, room=float("inf"))
    >>> basket_for(FOODS, ("nuts", "sweets"), way, intake=260.0).shares
    (('nuts', 0.553), ('sweets', 0.447))
    """
    able = [foods[key] for key in dict.fromkeys(shelf) if key in foods and foods[key].rides]
    fit = [food for food in able if _bears(food, way)]
    chosen = tuple(fit or able)
    if not chosen:
        return None
    hours = max(_LEAST_HOURS, round(way.hours / _LEAST_HOURS) * _LEAST_HOURS)
    most = round(way.room, 3) * 1000.0 / max(round(intake), 1)  # ml for each kcal
    roomy, room = _least(chosen, hours, math.inf)
    return roomy if room <= most else _least(chosen, hours, most)[0]


def _bears(food: Food, way: Way) -> bool:
    is_soft = food.melts is not None and way.hottest >= food.melts
    is_hard = food.freezes is not None and way.coldest < food.freezes
    return not (is_soft or is_hard)


@lru_cache(maxsize=4_000)
def _least(foods: tuple[Food, ...], hours: float, most: float) -> tuple[Basket, float]:
    """Return the least basket that takes at most so much room, and the room it takes, morsels with it. [ml/kcal]"""
    caps = np.array([min(1.0, food.tires / hours) for food in foods])
    tired = float(caps.sum()) < 1.0
    if tired:
        caps = caps / caps.sum()
    grams = np.array([1.0 / food.energy for food in foods])
    millilitres = np.array([1.0 / food.bulk for food in foods])
    carbs = np.array([food.carbs for food in foods])
    sweet = (-carbs, -CARBS_LEAST)
    small = (millilitres, most)
    weighed = grams + ROOM_WORTH * millilitres
    for cost, limits in ((weighed, (sweet, small)), (weighed, (small,)), (millilitres, ())):
        rows = [limit for limit in limits if np.isfinite(limit[1])]
        found = linprog(
            cost,
            A_ub=np.array([row for row, _ in rows]) if rows else None,
            b_ub=np.array([bound for _, bound in rows]) if rows else None,
            A_eq=np.ones((1, len(foods))),
            b_eq=np.ones(1),
            bounds=[(0.0, cap) for cap in caps],
            method="highs",
        )
        if found.status == 0:
            shares = np.array(found.x, dtype=np.float64)
            room = float(shares @ millilitres)
            shares[shares < _MORSEL] = 0.0
            return _basket(foods, shares / shares.sum(), tired=tired), room
    raise AssertionError("shares up to what one likes add up to all of it")


def _basket(foods: tuple[Food, ...], shares: np.ndarray[tuple[int], np.dtype[np.float64]], *, tired: bool) -> Basket:
    listed = [(food, float(share)) for food, share in zip(foods, shares, strict=True) if share > 0.0]
    listed.sort(key=lambda entry: -entry[1])
    return Basket(
        shares=tuple((food.key, round(share, 3)) for food, share in listed),
        density=1000.0 / sum(share / food.energy for food, share in listed),
        bulk=1000.0 / sum(share / food.bulk for food, share in listed),
        carbs=sum(share * food.carbs for food, share in listed),
        sodium=sum(share * food.sodium / food.energy / 1000.0 for food, share in listed),
        powder=sum((share / food.energy / 1e3 for food, share in listed if food.key == POWDER_KEY), 0.0),
        tired=tired,
    )


def hand_basket(foods: Mapping[str, Food], bought: Mapping[str, float], rest: Basket | None, energy: float) -> Basket:
    """Return what a rider buys by hand, filled up with what is best.

    Parameters
    ----------
    foods : mapping of str to Food
        Kinds of food by key.
    bought : mapping of str to float
        Energy of each that is bought in any case. [kcal]
    rest : Basket or None
        What is best, for what is bought beyond that.
    energy : float
        Of all that is bought. [kcal]

    Returns
    -------
    basket : Basket
        At least what is bought by hand.

    Raises
    ------
    ValueError
        If nothing at all is bought.

    Examples
    --------
    >>> from stonechat.core.supply.foods import FOODS
    >>> hand_basket(FOODS, {"chocolate": 540.0}, None, 540.0).density
    5400.0
    """
    amounts = {key: kcal for key, kcal in bought.items() if key in foods and kcal > 0.0}
    left = max(0.0, energy - sum(amounts.values()))
    for key, share in rest.shares if rest else ():
        amounts[key] = amounts.get(key, 0.0) + share * left
    total = sum(amounts.values())
    if total <= 0.0:
        raise ValueError("A basket holds something.")
    kinds = tuple(foods[key] for key in amounts)
    return _basket(kinds, np.array([kcal / total for kcal in amounts.values()]), tired=bool(rest and rest.tired))
