"""One race of a variant as it might really go: other legs, wind, warmth and stops than planned, minute by minute."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.diary.trail import Trail, causes
from stonechat.core.ledger.ridden import Ridden, part_of
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.charging import Powered
from stonechat.core.plan.film import braked, masses_along
from stonechat.core.rhythm.inputs import RideResult, with_power
from stonechat.core.rhythm.many import draw_luck
from stonechat.core.rhythm.ride import ride_course

_MINUTE = 60.0  # s
_POWER_BAND = 0.08  # 1, half of the 90 % range of a race's power about the plan's (estimate)
_DAWDLE = (1.25, 0.25)  # 1, stops are longer than planned: mean and spread of the factor (estimate)


@dataclass(frozen=True, kw_only=True)
class Played:
    """A race by the minute, arrays of shape (n,)."""

    elapsed: FloatArray  # s since the start
    distances: FloatArray  # m
    speeds: FloatArray  # m/s, 0 while standing
    powers: FloatArray  # W
    temps: FloatArray  # °C


def played_race(ridden: Ridden, seed: int) -> Played:
    """Return one race drawn by a seed.

    Parameters
    ----------
    ridden : Ridden
        The variant as planned.
    seed : int
        The same seed plays the same race. [1]

    Returns
    -------
    played : Played
        By the minute. [s]
    """
    scenario = braked(part_of(ridden.settled, Powered).scenario, ridden.settled.values())
    masses, drags = masses_along(scenario, ridden.settled.values())
    luck, random = draw_luck(1, seed, power_band=_POWER_BAND), np.random.default_rng(seed)
    clock = scenario.clock
    sky = clock.sky._replace(
        lows=clock.sky.lows + luck.warmth[0],
        highs=clock.sky.highs + luck.warmth[0],
        wind_speeds=clock.sky.wind_speeds * luck.wind[0],
    )
    dwells = clock.stays.dwells * np.maximum(0.4, random.normal(*_DAWDLE, clock.stays.dwells.size))
    clock = clock._replace(sky=sky, stays=clock.stays._replace(dwells=dwells))
    rider = with_power(scenario.rider, scenario.rider.legs.power * float(luck.power[0]))
    return _by_minute(ridden, ride_course(scenario.course, rider, clock, masses, drags))


def halting_clock(ridden: Ridden, ride: RideResult) -> tuple[FloatArray, FloatArray]:
    """Return moments and places of a ride, with both ends of what is halted before a segment.

    Parameters
    ----------
    ridden : Ridden
        The variant whose course it is.
    ride : RideResult
        By the clock.

    Returns
    -------
    moments, places : ndarray, shape (2 n + 1,)
        Both rise, or stay. [s], [m]
    """
    ends = ridden.way.profile.distances[: ride.clocks.size]
    begins = np.maximum(ride.clocks[1:] - ride.times, ride.clocks[:-1])  # when a segment is set out on
    moments = np.append(np.ravel(np.column_stack((ride.clocks[:-1], begins))), ride.clocks[-1])
    return moments, np.append(np.repeat(ends[:-1], 2), ends[-1])


def time_by(ridden: Ridden, trail: Trail) -> dict[str, tuple[float, float]]:
    """Return where the time went on a trail, planned and in truth.

    Parameters
    ----------
    ridden : Ridden
        The variant as planned.
    trail : Trail
        As it was.

    Returns
    -------
    time_by : dict of str to (float, float)
        By cause, empty where nothing is known. [s]
    """
    if trail.is_empty:
        return {}
    moments, places = halting_clock(ridden, ridden.ride)
    return causes(trail, places, moments)


def _by_minute(ridden: Ridden, ride: RideResult) -> Played:
    """Return a race by the minute, its halts where they were."""
    ends = ridden.way.profile.distances[: ride.clocks.size]
    moments, places = halting_clock(ridden, ride)
    elapsed = np.append(np.arange(0.0, ride.clocks[-1], _MINUTE), ride.clocks[-1])
    distances = np.interp(elapsed, moments, places)
    segment = np.clip(np.searchsorted(ride.clocks, elapsed, side="right") - 1, 0, ride.times.size - 1)
    stands = elapsed < (ride.clocks[1:] - ride.times)[segment]
    speeds = (ends[1:] - ends[:-1])[segment] / np.maximum(ride.times[segment], 1e-6)
    return Played(
        elapsed=elapsed,
        distances=distances,
        speeds=np.where(stands, 0.0, speeds),
        powers=np.where(stands, 0.0, ride.powers[segment]),
        temps=ride.temps[segment],
    )
