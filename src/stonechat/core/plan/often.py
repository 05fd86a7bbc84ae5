"""How often things are reached for: how wet, cold and dark the days of a ride are, over the race and leg by leg."""

from collections.abc import Sequence

import numpy as np

from stonechat.core.kit.reach import GLOVES_BELOW, Often
from stonechat.core.line.stops import DAY
from stonechat.core.line.surface import PUNCTURES, SURFACES
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.plan.scenario import Scenario
from stonechat.core.rhythm.inputs import RideResult

WITH_TUBES = 2.5  # 1, punctures with tubes against those that sealant does not close (estimate, half to twice)
_DARK_ENOUGH = 900.0  # s of riding in the dark from which a day counts as ridden into the night


def often_of(scenario: Scenario, ride: RideResult) -> Often:
    """Return how often the days of a ride are wet, cold and so on.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    often : Often
        Shares of days and of riding. [1]
    """
    day = _days(scenario, ride)
    days = np.unique(day)
    total = max(float(ride.times.sum()), 1e-9)
    ridden = {int(k): float(ride.times[day == k].sum()) for k in days}  # a last morning is no whole day
    cold = sum(time for k, time in ridden.items() if float(ride.temps[day == k].min()) < GLOVES_BELOW)
    ridden_dark = sum(1 for k in days if float(ride.times[(day == k) & ride.dark].sum()) > _DARK_ENOUGH)
    length = max(float(ride.clocks[-1]) / DAY, 1e-9)
    return Often(
        wet=sum(time * float(scenario.clock.sky.wet[k]) for k, time in ridden.items()) / total,
        cold=cold / total,
        nights=min(1.0, ridden_dark / length),
        punctures=expected_punctures(scenario) / length,
        gloved=float(ride.times[ride.temps < GLOVES_BELOW].sum()) / total,
    )


def expected_punctures(scenario: Scenario) -> float:
    """Return how many punctures are to be expected over the course.

    Parameters
    ----------
    scenario : Scenario
        For surfaces and lengths.

    Returns
    -------
    events : float
        By the usual rate of each surface, half to twice that (estimate), and the rider's own over it. [1]
    """
    rates = np.array([PUNCTURES[surface.key] for surface in SURFACES])[scenario.profile.surfaces]
    by_tyre = 1.0 if scenario.variant.bike.tubeless else WITH_TUBES
    return scenario.variant.rider.punctures * by_tyre * float((rates * scenario.profile.lengths).sum()) / 1e6


def often_by_leg(scenario: Scenario, ride: RideResult) -> tuple[Often, ...]:
    """Return how often things are reached for on each leg, as if every day of the race were so.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    often : tuple of Often
        By leg; a night that is ridden into is counted where it is ridden.
    """
    day, wet = _days(scenario, ride), scenario.clock.sky.wet
    size = int(day.max()) + 1
    coldest = np.full(size, np.inf)
    np.minimum.at(coldest, day, ride.temps)
    dark = np.bincount(day, weights=ride.times * ride.dark, minlength=size)
    into = np.where(dark[day] > _DARK_ENOUGH, ride.times * ride.dark / np.maximum(dark[day], 1e-9), 0.0)
    legs = len(scenario.stops) + 1

    def over(values: FloatArray) -> FloatArray:
        return np.asarray(np.bincount(scenario.leg_of, weights=values, minlength=legs), dtype=np.float64)

    moving = np.maximum(over(ride.times), 1e-9)
    lengths = np.maximum(over(np.diff(ride.clocks)) / DAY, 1e-9)
    shares = scenario.profile.lengths / max(scenario.profile.length, 1.0)
    rows = zip(
        over(ride.times * wet[day]) / moving,
        over(ride.times * (coldest[day] < GLOVES_BELOW)) / moving,
        over(into) / lengths,
        over(shares) * expected_punctures(scenario) / lengths,
        over(ride.times * (ride.temps < GLOVES_BELOW)) / moving,
        strict=True,
    )
    return tuple(Often(*(float(value) for value in row)) for row in rows)


def mean_often(each: Sequence[Often], weights: FloatArray) -> Often:
    """Return how often things are reached for over several legs.

    Parameters
    ----------
    each : sequence of Often
        By leg.
    weights : ndarray, shape (l,)
        How long each takes, in any unit. [1]

    Returns
    -------
    often : Often
        Their mean.

    Examples
    --------
    >>> mean_often([Often(wet=1.0), Often(nights=2.0)], np.array([3.0, 1.0]))
    Often(wet=0.75, cold=0.0, nights=0.5, punctures=0.0, gloved=0.0)
    """
    whole = max(float(weights.sum()), 1e-9)
    return Often(*(float(np.dot(weights, values) / whole) for values in zip(*each, strict=True)))


def _days(scenario: Scenario, ride: RideResult) -> IntArray:
    """Return the day on which each segment ends, held to those whose sky is known."""
    moments = scenario.clock.start_of_day + ride.clocks[1:]
    return np.minimum((moments // DAY).astype(np.int64), scenario.clock.sky.wet.size - 1)
