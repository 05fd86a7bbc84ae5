"""Food that rides along from home: eaten before any is bought, in order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from stonechat.core.numerics.arrays import FloatArray

_CRUMB = 1e-6  # kcal


@dataclass(frozen=True, kw_only=True)
class Ration:
    """One thing of the kit that is eaten."""

    id: str
    energy: float  # kcal
    mass: float  # kg
    first: int = 0  # leg on which it joins
    last: int | None = None  # leg at whose end it leaves again; None: it does not


@dataclass(frozen=True, kw_only=True)
class Rations:
    """What is left of them, and what they give, by leg."""

    left: Mapping[str, FloatArray] = field(default_factory=dict)  # 1, share of each where a leg begins, shape (l,)
    energy: FloatArray  # kcal eaten on each leg, shape (l,)
    mass: FloatArray  # kg eaten on each leg, shape (l,)

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
    return Rations(energy=np.zeros(legs), mass=np.zeros(legs))


def eat(rations: Sequence[Ration], needs: FloatArray) -> Rations:
    """Return what is eaten of rations on each leg.

    Parameters
    ----------
    rations : sequence of Ration
        In the order in which they are eaten.
    needs : ndarray, shape (l,)
        What each leg asks for. [kcal]

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
    energy, mass = np.zeros(needs.size), np.zeros(needs.size)
    stock = {ration.id: ration.energy for ration in rations}
    left = {ration.id: np.zeros(needs.size) for ration in rations}
    for leg, need in enumerate(needs.tolist()):
        wanted = need
        for ration in rations:
            there = stock[ration.id]
            left[ration.id][leg] = there / ration.energy
            aboard = ration.first <= leg and (ration.last is None or leg <= ration.last)
            taken = min(there, wanted) if aboard else 0.0
            if taken <= _CRUMB:
                continue
            stock[ration.id] = there - taken if there - taken > _CRUMB else 0.0
            wanted -= taken
            energy[leg] += taken
            mass[leg] += taken / ration.energy * ration.mass
    return Rations(left=left, energy=energy, mass=mass)
