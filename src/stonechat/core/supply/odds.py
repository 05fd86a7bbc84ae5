"""How likely it is to run short on a leg: many races with other heat and pace, and stops that are shut or dry."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import sqrt

import numpy as np

from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.supply.lots import LotPlan, Passing, Provision, Trip
from stonechat.core.supply.wishes import answered

RACES = 4_000  # 1, races that are ridden in all
SPREAD_RACE = 0.15  # 1, spread of what a rider needs from race to race: heat and pace (estimate)
SPREAD_LEG = 0.08  # 1, spread from leg to leg within a race (estimate)
_SEED = 20_270_924  # 1, of the chance, so that a plan keeps its odds
_STEPS = (0.05, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.7, 1.0)  # 1, more of the needs that are tried


@dataclass(frozen=True, kw_only=True)
class Odds:
    """Of running short, of one provision."""

    by_leg: FloatArray  # 1, share of races in which it runs out on each leg, shape (l,)
    ever: float  # 1, share of races in which it runs out at all

    @property
    def error(self) -> float:
        """Standard error of `ever`, as a share of so many races. [1]"""
        return sqrt(self.ever * (1.0 - self.ever) / RACES)


@dataclass(frozen=True, kw_only=True)
class Halved:
    """What it costs to have the odds of running short halved."""

    spread: float  # 1, share of the needs carried beyond them
    minutes: float  # min more
    ever: float  # 1, odds then


def odds_of_running_short(
    trip: Trip, *, passings: Sequence[Passing], confidences: Sequence[float], name: str, races: int = RACES
) -> Odds:
    """Return how often a provision runs out, leg by leg.

    Parameters
    ----------
    trip : Trip
        Legs as they are planned, without anything carried beyond the needs.
    passings : sequence of Passing
        What each node is left with.
    confidences : sequence of float
        How sure the rider is of each stop. [1]
    name : str
        water or food.
    races : int
        How many are ridden. [1]

    Returns
    -------
    odds : Odds
        By leg.

    Notes
    -----
    A race has one factor on all needs and each leg one more, both lognormal about 1; a stop gives nothing in as many
    races as the rider doubts it. Who is short of what the way to the next planned refill still takes stops at what
    lies between, planned or not. What runs out is counted once, on its leg; then it goes on with nothing.

    Examples
    --------
    >>> water = Provision(needs=np.array([1.0]), capacity=2.0, reserve=0.0, density=1.0)
    >>> trip = Trip(rides=np.ones(1), prices=np.ones(1), halts=(), water=water, food=water)
    >>> passings = (Passing(0.0, 0.0, 1.0, 1.0, True, True, None),)
    >>> odds_of_running_short(trip, passings=passings, confidences=(), name="water").ever > 0.4
    True
    """
    provision: Provision = getattr(trip, name)
    rng = np.random.default_rng(_SEED)
    legs = provision.needs.size
    factors = np.exp(rng.normal(-0.5 * SPREAD_RACE**2, SPREAD_RACE, races))
    level, out = np.zeros(races), np.zeros((legs, races), dtype=bool)
    for node in range(legs):
        leaving = passings[node].water if name == "water" else passings[node].food
        takes = passings[node].fills if name == "water" else passings[node].buys
        if node == 0:
            level[:] = leaving
        elif getattr(trip.halts[node - 1], name) is not None:
            gives = rng.random(races) < confidences[node - 1]
            wanted = max(leaving, _until_refill(provision, passings, name, node))
            here = gives & (np.full(races, takes) | (level < _until_refill(provision, passings, name, node) * factors))
            level = np.where(here, np.maximum(level, min(wanted, provision.most(node))), level)
        used = provision.needs[node] * factors * np.exp(rng.normal(-0.5 * SPREAD_LEG**2, SPREAD_LEG, races))
        out[node] = (level > 0.0) & (used > level + 1e-9)
        level = np.maximum(0.0, level - used)
    return Odds(by_leg=out.mean(axis=1), ever=float(_any(out).mean()))


def _any(out: BoolArray) -> BoolArray:
    return np.asarray(out.any(axis=0), dtype=bool)


def _until_refill(provision: Provision, passings: Sequence[Passing], name: str, node: int) -> float:
    """Return what is needed as planned from a node to the next planned refill."""
    ends = [k for k in range(node + 1, len(passings)) if (passings[k].fills if name == "water" else passings[k].buys)]
    return float(provision.needs[node : (ends[0] if ends else len(passings))].sum())


def halved(trip: Trip, *, confidences: Sequence[float], name: str, now: Odds, finish: float) -> Halved | None:
    """Return the least share of both that has to be carried beyond the needs so that odds of running short are halved.

    Parameters
    ----------
    trip : Trip
        Legs as they are planned, with nothing carried beyond the needs.
    confidences : sequence of float
        How sure the rider is of each stop. [1]
    name : str
        water or food.
    now : Odds
        As it stands.
    finish : float
        Of the plan as it stands, since the start. [s]

    Returns
    -------
    halved : Halved or None
        None where they are none, or no spread that is tried does it.
    """
    if now.ever <= 0.0:
        return None
    for spread in _STEPS:
        water, food = (replace(one, needs=one.needs * (1.0 + spread)) for one in (trip.water, trip.food))
        other = replace(trip, water=water, food=food)
        lots: LotPlan | None = answered(other).lots
        if lots is None:
            continue
        odds = odds_of_running_short(trip, passings=lots.passings, confidences=confidences, name=name)
        if odds.ever <= 0.5 * now.ever:
            return Halved(spread=spread, minutes=(lots.finish - finish) / 60.0, ever=odds.ever)
    return None
