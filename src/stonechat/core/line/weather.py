"""Air temperature by hour and height from a day's low and high. Compiled: the ride asks at every segment."""

import math
from dataclasses import dataclass

from numba import njit

from stonechat.core.physics.constants import LAPSE_RATE

WIND_AT_RIDER = 0.604  # 1, ln(1/z0)/ln(10/z0) for 1 m over open ground, z0 0.03 m [Stull1988]
# lag of the highest temperature [h], coefficient of the night's fall [1], lag of the lowest [h] [Parton1981]
_LAG_HIGH, _FALL, _LAG_LOW = 1.86, 2.20, -0.17


@dataclass(frozen=True, kw_only=True)
class DayWeather:
    """One day's weather at the plan's reference height."""

    temp_low: float  # °C
    temp_high: float  # °C
    wind_speed: float = 0.0  # m/s, 10 m above open ground
    wind_from: float = 270.0  # °, where it blows from, clockwise from north
    humidity: float | None = None  # 1; None: as stated for all days
    rain: float = 0.0  # mm
    temp_band: float = 0.0  # K, standard error of low and high where they are forecast or usual; 0: not known


@dataclass(frozen=True, kw_only=True)
class Weather:
    """Weather of a race: a day each from the start; the last holds on."""

    days: tuple[DayWeather, ...] = (DayWeather(temp_low=6.0, temp_high=18.0),)
    reference_height: float = 500.0  # m
    relative_humidity: float = 0.65  # 1
    shelter: float = 1.0  # 1, share of the open wind that reaches the rider
    source: str = ""  # in words: where the figures come from


WET_FROM = 2.0  # mm of rain a day from which the ground counts as wet (estimate)
SHELTERS = {1.0: "open ground", 0.75: "hedges and walls", 0.6: "villages", 0.35: "forest"}  # estimates


@njit(cache=True)
def hourly_temperature(
    hour: float,
    sunrise: float,
    sunset: float,
    temp_low: float,
    temp_high: float,
    temp_low_next: float,
    temp_sunset_before: float,
) -> float:
    """Return the air temperature at an hour of a day: a sine by day, an exponential fall by night.

    Parameters
    ----------
    hour : float
        Local clock, 0 to 24. [h]
    sunrise, sunset : float
        Local clock. [h]
    temp_low, temp_high : float
        The day's low and high. [°C]
    temp_low_next : float
        The next day's low, towards which the evening falls. [°C]
    temp_sunset_before : float
        Temperature at sunset of the day before. [°C]

    Returns
    -------
    temperature : float
        Air temperature at the reference height. [°C]

    References
    ----------
    [Parton1981]; the fall is rescaled so that it meets the low exactly.

    Examples
    --------
    >>> round(hourly_temperature(14.0, 5.5, 20.5, 8.0, 24.0, 8.0, 16.9782), 3)
    23.893
    """
    day_length = sunset - sunrise
    night = 24.0 - day_length + _LAG_LOW
    rise = sunrise + _LAG_LOW
    if rise <= hour <= sunset:
        return temp_low + (temp_high - temp_low) * math.sin(math.pi * (hour - rise) / (day_length + 2.0 * _LAG_HIGH))
    floor = math.exp(-_FALL)
    if hour > sunset:
        since, low = hour - sunset, temp_low_next
        warm = temp_low + (temp_high - temp_low) * math.sin(math.pi * (sunset - rise) / (day_length + 2.0 * _LAG_HIGH))
    else:
        since, low, warm = hour + 24.0 - sunset, temp_low, temp_sunset_before
    left = (math.exp(-_FALL * since / night) - floor) / (1.0 - floor)
    return low + (warm - low) * left


@njit(cache=True)
def temperature_at_height(temp_reference: float, height: float, reference_height: float) -> float:
    """Return the temperature at another height by the standard lapse rate.

    Parameters
    ----------
    temp_reference : float
        Temperature at the reference height. [°C]
    height, reference_height : float
        Heights above the sea. [m]

    Returns
    -------
    temperature : float
        Temperature. Inversions are not seen; winter nights may be 5 K off. [°C]

    References
    ----------
    [ISO2533].

    Examples
    --------
    >>> temperature_at_height(24.0, 2000.0, 500.0)
    14.25
    """
    return temp_reference - LAPSE_RATE * (height - reference_height)


@njit(cache=True)
def wind_along_and_across(wind_speed: float, wind_from: float, heading: float) -> tuple[float, float]:
    """Return the wind that a rider meets along and across the way.

    Parameters
    ----------
    wind_speed : float
        Wind 10 m above open ground. [m/s]
    wind_from : float
        Where it blows from, clockwise from north. [°]
    heading : float
        Where the rider goes, clockwise from north. [°]

    Returns
    -------
    head : float
        Positive from ahead, 1 m above the ground. [m/s]
    cross : float
        Across the way. [m/s]

    References
    ----------
    Logarithmic profile over height [Stull1988].

    Examples
    --------
    >>> [round(part, 4) for part in wind_along_and_across(5.0 / 0.604, 250.0, 200.0)]
    [3.2139, 3.8302]
    """
    angle = math.radians(wind_from - heading)
    at_rider = WIND_AT_RIDER * wind_speed
    return at_rider * math.cos(angle), at_rider * math.sin(angle)
