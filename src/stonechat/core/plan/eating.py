"""Energy by day of a ridden race."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY, FOOD_OFFERS
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.constants import JOULES_PER_KCAL
from stonechat.core.plan.plan import Variant
from stonechat.core.supply.energy import Balance, Spent, balances, gut_limit, resting_metabolism


@dataclass(frozen=True, kw_only=True)
class EnergyDay:
    """One day of the race, from midnight to midnight by the clock at the start."""

    number: int  # 1 for the first
    spent: Spent
    balance: Balance


def energy_days(ridden: Ridden, variant: Variant) -> tuple[EnergyDay, ...]:
    """Return what each day of a race spends and takes in.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    variant : Variant
        For the rider, and the meals.

    Returns
    -------
    days : tuple of EnergyDay
        In order; the first and the last are no whole days.
    """
    ride, rider = ridden.ride, variant.rider
    first = ridden.timetable.clock.start_of_day
    middles = first + ride.clocks[:-1] + 0.5 * ride.times
    day = (middles // DAY).astype(np.int64)
    count = int(day.max()) + 1
    work = ride.powers * ride.times / JOULES_PER_KCAL / rider.gross_efficiency
    work = work + ride.conditions.walk_power * ride.times * ride.walked / JOULES_PER_KCAL
    whole = _whole(first, first + float(ride.clocks[-1]), count)
    riding = _by_day(day, ride.times, count)
    slept = np.maximum(0.0, ride.rests - variant.rhythm.camp_time) * (ride.rests > 0.0)
    asleep = np.minimum(_by_day(day, slept, count), np.maximum(0.0, whole - riding))
    riding_on = min(rider.intake, gut_limit(variant.supply.gut))
    eaten = _by_day(day, ride.times, count) / 3600.0 * riding_on + _meals(ridden, variant, first, count)
    stretches = tuple(
        Spent(
            riding=riding[k] / 3600.0,
            asleep=asleep[k] / 3600.0,
            awake=max(0.0, whole[k] - riding[k] - asleep[k]) / 3600.0,
            work=float(_by_day(day, work, count)[k]),
            eaten=float(eaten[k]),
        )
        for k in range(count)
    )
    resting = resting_metabolism(mass=rider.mass, height=rider.height, age=rider.age, sex=rider.sex)
    return tuple(
        EnergyDay(number=k + 1, spent=spent, balance=balance)
        for k, (spent, balance) in enumerate(zip(stretches, balances(stretches, resting), strict=True))
    )


def _by_day(day: np.ndarray[tuple[int], np.dtype[np.int64]], values: FloatArray, count: int) -> FloatArray:
    return np.asarray(np.bincount(day, weights=values, minlength=count), dtype=np.float64)


def _whole(begins: float, ends: float, count: int) -> FloatArray:
    """Return how much of each day belongs to the race. [s]"""
    edges = np.arange(count) * DAY
    within = np.minimum(edges + DAY, ends) - np.maximum(edges, begins)
    return np.asarray(np.maximum(0.0, within), dtype=np.float64)


def _meals(ridden: Ridden, variant: Variant, first: float, count: int) -> FloatArray:
    """Return what is eaten at stops and cooked, by day, beside what is eaten riding. [kcal]"""
    eaten = np.zeros(count)
    for visit in ridden.timetable.visits[:-1]:
        kcal = variant.supply.meals.get(visit.stop.id, 0.0) if visit.stop else 0.0
        if kcal > 0.0 and not visit.passed and visit.gives & FOOD_OFFERS:
            eaten[min(count - 1, int((first + visit.elapsed) // DAY))] += kcal
    for leg, kcal in zip(ridden.timetable.legs, ridden.provisions.rations.cooked.tolist(), strict=True):
        if kcal > 0.0:
            moment = (leg.leaves - ridden.way.start).total_seconds() + 0.5 * leg.elapsed
            eaten[min(count - 1, int((first + moment) // DAY))] += kcal
    return eaten
