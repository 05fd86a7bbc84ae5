"""Food that rides along from home: eaten before any is bought, in order; what is cooked, one meal for each night."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.supply.mixing import MIXED_SHARE, POWDER

COOKING = 3.0  # l of water for each kg of dry food (2.5 to 4, estimate)
FUEL = 0.014  # kg of gas that a litre takes to boil (0.010 to 0.020 with wind, estimate)
_CRUMB = 1e-6  # kcal


@dataclass(frozen=True, kw_only=True)
class Ration:
    """One thing of the kit that is eaten."""

    id: str
    energy: float  # kcal
    mass: float  # kg
    first: int = 0  # leg on which it joins
    last: int | None = None  # leg at whose end it leaves again; None: it does not
    meals: int = 0  # how many cooked meals it is; 0: it is eaten riding
    is_powder: bool = False  # drunk, not eaten

    def aboard(self, leg: int) -> bool:
        """Tell whether it is there on a leg."""
        return self.first <= leg and (self.last is None or leg <= self.last)


class Night(NamedTuple):
    """A night on which something may be cooked."""

    leg: int  # which it falls on, or at whose end
    at_water: bool  # whether there is water beside what is carried


@dataclass(frozen=True, kw_only=True)
class Rations:
    """What is left of them, and what they give, by leg."""

    left: Mapping[str, FloatArray] = field(default_factory=dict)  # 1, share of each where a leg begins, shape (l,)
    energy: FloatArray  # kcal eaten riding on each leg, shape (l,)
    mass: FloatArray  # kg eaten of all of them on each leg, shape (l,)
    cooked: FloatArray  # kcal eaten cooked on each leg, shape (l,)
    water: FloatArray  # l of carried water that cooking takes on each leg, shape (l,)
    powder: FloatArray  # kg of drink powder drunk on each leg, shape (l,)

    def ends(self, key: str) -> int:
        """Return the last leg on which something is left of one. [1]"""
        return int(np.flatnonzero(self.left[key] > 0.0).max(initial=0))


def no_rations(legs: int) -> Rations:
    """Return that nothing was brought.

    Parameters
    ----------
    legs : int
        How many. [1]

    Returns
    -------
    rations : Rations
        None.

    Examples
    --------
    >>> no_rations(2).energy
    array([0., 0.])
    """
    none = np.zeros(legs)
    return Rations(energy=none, mass=none, cooked=none, water=none, powder=none)


def eat(
    rations: Sequence[Ration],
    needs: FloatArray,
    nights: Sequence[Night] = (),
    drunk: FloatArray | None = None,
) -> Rations:
    """Return what is eaten of rations on each leg.

    Parameters
    ----------
    rations : sequence of Ration
        In the order in which they are eaten.
    needs : ndarray, shape (l,)
        What each leg asks for. [kcal]
    nights : sequence of Night
        On which a meal is cooked where there is one.
    drunk : ndarray, shape (l,), optional
        What is drunk riding on each leg, which powder is mixed with. [l]

    Returns
    -------
    rations : Rations
        Never more than a leg asks for, nor than there is.

    Examples
    --------
    >>> eaten = eat([Ration(id="bars", energy=500.0, mass=0.125)], np.array([300.0, 300.0, 300.0]))
    >>> eaten.energy, eaten.left["bars"]
    (array([300., 200.,   0.]), array([1. , 0.4, 0. ]))
    """
    made = no_rations(needs.size)
    arrays = {name: getattr(made, name).copy() for name in ("energy", "mass", "cooked", "water", "powder")}
    stock = {ration.id: ration.energy for ration in rations}
    left = {ration.id: np.zeros(needs.size) for ration in rations}
    for leg, need in enumerate(needs.tolist()):
        wanted = need
        for ration in rations:
            left[ration.id][leg] = stock[ration.id] / ration.energy
            if ration.meals or not ration.aboard(leg):
                continue
            most = wanted
            if ration.is_powder and drunk is not None:
                most = min(wanted, POWDER * MIXED_SHARE * float(drunk[leg]) / ration.mass * ration.energy)
            taken = _take(stock, ration, most)
            wanted -= taken
            arrays["energy"][leg] += taken
            arrays["mass"][leg] += taken / ration.energy * ration.mass
            arrays["powder"][leg] += taken / ration.energy * ration.mass * ration.is_powder
        for night in (night for night in nights if night.leg == leg):
            _cook(rations, stock, night, arrays)
    return Rations(left=left, **arrays)


def _take(stock: dict[str, float], ration: Ration, wanted: float) -> float:
    """Take energy of a ration, as far as it goes. [kcal]"""
    taken = min(stock[ration.id], wanted)
    if taken <= _CRUMB:
        return 0.0
    rest = stock[ration.id] - taken
    stock[ration.id] = rest if rest > _CRUMB else 0.0
    return taken


def _cook(rations: Sequence[Ration], stock: dict[str, float], night: Night, arrays: Mapping[str, FloatArray]) -> None:
    """Cook one meal of the first ration that has one."""
    ready = (r for r in rations if r.meals and r.aboard(night.leg) and stock[r.id] > _CRUMB)
    ration = next(ready, None)
    if ration is None:
        return
    taken = _take(stock, ration, ration.energy / ration.meals)
    mass = taken / ration.energy * ration.mass
    arrays["cooked"][night.leg] += taken
    arrays["mass"][night.leg] += mass
    arrays["water"][night.leg] += 0.0 if night.at_water else COOKING * mass
