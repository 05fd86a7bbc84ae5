"""How heavy and bulky the food aboard is on each leg."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import FloatArray, frozen
from stonechat.core.supply.basket import Basket
from stonechat.core.supply.carry import Levels

USUAL_DENSITY, USUAL_BULK = 4_000.0, 1_900.0  # kcal/kg and kcal/l, where nothing is known to be sold (estimates)


@dataclass(frozen=True, kw_only=True)
class Larder:
    """Food by leg: where it is bought, what, and how much it weighs and fills."""

    density: FloatArray  # kcal/kg of what is aboard, shape (l,)
    bulk: FloatArray  # kcal/l of what is aboard, shape (l,)
    sold_density: FloatArray  # kcal/kg of what would be bought where each leg begins, shape (l,)
    best_density: FloatArray  # kcal/kg of it with nothing bought by hand, shape (l,)
    sold_bulk: FloatArray  # kcal/l of it, shape (l,)
    baskets: tuple[Basket | None, ...]  # what is bought where each leg begins; None: nothing

    def mass(self, energy: float, leg: int) -> float:
        """Return the mass of food aboard on a leg. `energy` in kcal. [kg]"""
        return energy / float(self.density[leg])

    def volume(self, energy: float, leg: int) -> float:
        """Return the volume of food aboard on a leg. `energy` in kcal. [m³]"""
        return energy / float(self.bulk[leg]) / 1000.0

    def powder_of(self, food: Levels) -> FloatArray:
        """Return the drink powder that is drunk of what is bought, by leg. [kg]"""
        found, share = np.zeros(food.needs.size), 0.0
        for leg, basket in enumerate(self.baskets):
            share = basket.powder if basket is not None else share
            found[leg] = share * float(food.needs[leg])
        return found


def usual_larder(legs: int, density: float | None, bulk: float | None) -> Larder:
    """Return a larder before anything was bought.

    Parameters
    ----------
    legs : int
        How many. [1]
    density : float or None
        Of all food, where the rider says so. [kcal/kg]
    bulk : float or None
        Of all food, where the rider says so. [kcal/l]

    Returns
    -------
    larder : Larder
        With usual food on every leg.

    Examples
    --------
    >>> usual_larder(2, None, None).mass(400.0, 1)
    0.1
    """
    heavy = frozen(np.full(legs, density or USUAL_DENSITY))
    bulky = frozen(np.full(legs, bulk or USUAL_BULK))
    return Larder(
        density=heavy, bulk=bulky, sold_density=heavy, best_density=heavy, sold_bulk=bulky, baskets=(None,) * legs
    )
