"""Many races over the same course, each with other legs and other weather than planned."""

from typing import NamedTuple

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rhythm.inputs import Clock, Course, RiderNumbers, with_power
from stonechat.core.rhythm.ride import ride_course


class Luck(NamedTuple):
    """What differs from race to race, arrays of shape (r,)."""

    power: FloatArray  # 1, factor on the rider's power
    wind: FloatArray  # 1, factor on the wind
    warmth: FloatArray  # K, added to lows and highs


def draw_luck(count: int, seed: int, *, power_band: float, temp_band: float = 3.0) -> Luck:
    """Return random legs and weather.

    Parameters
    ----------
    count : int
        How many races. [1]
    seed : int
        The same seed draws the same. [1]
    power_band : float
        Half-width of the power's 90 % range. [1]
    temp_band : float
        Standard deviation of the warmth. [K]

    Returns
    -------
    luck : Luck
        Power normal, wind factor lognormal with a spread of 0.35, warmth normal; estimates. [1]

    Examples
    --------
    >>> draw_luck(3, 1, power_band=0.05).power.size
    3
    """
    random = np.random.default_rng(seed)
    return Luck(
        power=np.clip(random.normal(1.0, power_band / 1.645, count), 0.5, 1.5),
        wind=np.exp(random.normal(0.0, 0.35, count)),
        warmth=random.normal(0.0, temp_band, count),
    )


def ride_many(
    course: Course,
    rider: RiderNumbers,
    clock: Clock,
    *,
    masses: FloatArray,
    drag_areas: FloatArray,
    luck: Luck,
) -> tuple[FloatArray, FloatArray]:
    """Ride many races, one after another in one thread.

    Parameters
    ----------
    course : Course
        Segments.
    rider : RiderNumbers
        The rider; power is scaled by race.
    clock : Clock
        Start, nights, stops, days; wind and warmth are changed by race.
    masses : ndarray, shape (n,)
        Mass that moves, the same in every race. [kg]
    drag_areas : ndarray, shape (n,)
        Drag area. [m²]
    luck : Luck
        What differs, shape (r,).

    Returns
    -------
    finishes : ndarray, shape (r,)
        Finish after the start. [s]
    arrivals : ndarray, shape (r, s)
        Arrival at each stop after the start. [s]
    """
    races, stops = luck.power.size, clock.stays.segments.size
    finishes, arrivals = np.zeros(races), np.zeros((races, stops))
    for r in range(races):
        other = with_power(rider, rider.legs.power * float(luck.power[r]))
        sky = clock.sky._replace(
            lows=clock.sky.lows + luck.warmth[r],
            highs=clock.sky.highs + luck.warmth[r],
            wind_speeds=clock.sky.wind_speeds * luck.wind[r],
        )
        result = ride_course(course, other, clock._replace(sky=sky), masses, drag_areas)
        finishes[r] = result.clocks[-1]
        arrivals[r, :] = result.arrivals
    return finishes, arrivals
