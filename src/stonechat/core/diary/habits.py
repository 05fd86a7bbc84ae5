"""What races tell of a rider's ways: stays, nights, water, warmth, seconds at bags, each with its band."""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq
from scipy.special import stdtrit

from stonechat.core.diary.combine import Estimate
from stonechat.core.numerics.arrays import FloatArray

HABITS = {  # ways that races tell, with the decimals that they are shown with and their unit
    "halt": ("lies down at", 1, "h"),
    "rise": ("sets out again at", 1, "h"),
    "sleep": ("sleep of a night", 1, "h"),
    "camp": ("pitching, eating and packing of a night", 0, "min"),
    "dawdle": ("stay", 0, "min"),
    "intake": ("eaten an hour", 0, "kcal/h"),
    "sweat": ("own sweat over the usual", 2, ""),
    "runs_cold": ("runs cold by", 1, "K"),
    "handling": ("own time at bags over the usual", 2, ""),
    "punctures": ("own punctures over the usual", 2, ""),
    "draw": ("draw", 2, "W"),
}
_WEIGHT = 2.0  # races of the usual spread that a few occasions are taken with (estimate)
_DAY = 24.0  # h
_FELT, _USUAL_COLD = 3.0, 2.0  # K, one sd of a note on warmth, as nobody knows what was worn; of riders (estimates)
_HOURS = re.compile(
    r"(?P<clock>\d{1,2}):(?P<past>[0-5]\d)\s*(?:h|hrs?|hours?)\b"
    r"|(?P<value>\d+(?:[.,]\d+)?)\s*(?:(?P<hours>h|hrs?|hours?)|mins?|minutes?)\b(?:\s*(?P<more>[0-5]?\d)\b)?",
    re.I,
)
_LEVEL = re.compile(r"(\d{1,3})\s*(?:%|per ?cent)", re.I)
_MOST_SCALE = 5.0  # 1, own sweat over the usual that is believed


@dataclass(frozen=True, kw_only=True)
class Habit:
    """One way of a rider, as a race tells it."""

    key: str  # of HABITS
    of: str = ""  # of which kind of stop or thing
    told: Estimate
    seen: int  # how often

    @property
    def id(self) -> str:
        """Key and what it is of."""
        return f"{self.key}:{self.of}" if self.of else self.key


def mean_told(values: Sequence[float], usual: float) -> Estimate:
    """Return the mean of a few occasions, its band from their own spread and the usual one.

    Parameters
    ----------
    values : sequence of float
        At least one.
    usual : float
        One standard deviation among riders and days, which counts as much as a few occasions. In their unit.

    Returns
    -------
    told : Estimate
        Mean, with the half width of its 95 % band by Student's t.

    References
    ----------
    [Gelman2013], scaled inverse chi-squared prior of a variance.

    Examples
    --------
    >>> told = mean_told([20.0, 30.0, 25.0, 25.0], 10.0)
    >>> told.value, round(told.band, 1)
    (25.0, 9.1)
    """
    mean = sum(values) / len(values)
    degrees = _WEIGHT + len(values) - 1
    variance = (_WEIGHT * usual**2 + sum((value - mean) ** 2 for value in values)) / degrees
    return Estimate(value=mean, band=float(stdtrit(degrees, 0.975)) * math.sqrt(variance / len(values)))


def clock_told(hours: Sequence[float], usual: float) -> Estimate:
    """Return the mean of clock times, which may lie on both sides of midnight; as `mean_told`.

    Parameters
    ----------
    hours : sequence of float
        After midnight. [h]
    usual : float
        One standard deviation. [h]

    Returns
    -------
    told : Estimate
        From 0 to 24. [h]

    Examples
    --------
    >>> round(clock_told([23.5, 0.5], 0.5).value, 6) % 24
    0.0
    """
    turns = np.exp(2j * np.pi * np.asarray(hours) / _DAY)
    middle = float(np.angle(turns.mean())) * _DAY / (2.0 * np.pi)
    apart = [(hour - middle + 0.5 * _DAY) % _DAY - 0.5 * _DAY for hour in hours]
    told = mean_told(apart, usual)
    return Estimate(value=(middle + told.value) % _DAY, band=told.band)


def hours_in(text: str) -> float:
    """Return the hours that some words speak of first, 0 where they speak of none.

    Parameters
    ----------
    text : str
        Of a note.

    Returns
    -------
    hours : float
        [h]

    Examples
    --------
    >>> hours_in("barn, 4 h 30, quilt just warm enough"), hours_in("90 min on a bench"), hours_in("barn")
    (4.5, 1.5, 0.0)
    >>> hours_in("4:30 h in the porch"), hours_in("2.5 hrs")
    (4.5, 2.5)
    """
    found = _HOURS.search(text)
    if not found:
        return 0.0
    if found["clock"]:
        return int(found["clock"]) + int(found["past"]) / 60.0
    value = float(found["value"].replace(",", "."))
    return value + int(found["more"] or 0) / 60.0 if found["hours"] else value / 60.0


def level_in(text: str) -> float | None:
    """Return the share of a battery that some words speak of.

    Parameters
    ----------
    text : str
        Of a note.

    Returns
    -------
    level : float or None
        None where they speak of none. [1]

    Examples
    --------
    >>> level_in("lights lasted, bank at 20 %"), level_in("lights lasted")
    (0.2, None)
    """
    found = _LEVEL.search(text)
    return int(found[1]) / 100.0 if found and int(found[1]) <= 100 else None


def sweat_told(
    drunk: float, *, losses: FloatArray, hours: FloatArray, besides: float, most: float, band: float
) -> Estimate | None:
    """Return what a rider loses over what is usual, by what was drunk in so many hours of such weather.

    Parameters
    ----------
    drunk : float
        Over the race, by the notes. [l]
    losses, hours : ndarray, shape (n,)
        Usual loss by stretch, and how long it took. [l/h], [h]
    besides : float
        What is drunk beside it. [l/h]
    most : float
        What can be drunk. [l/h]
    band : float
        By how much the notes may be off, one half of a 95 % band over the whole. [1]

    Returns
    -------
    told : Estimate or None
        None where no such scale would drink as little or as much. [1]

    Examples
    --------
    >>> told = sweat_told(12.0, losses=np.full(4, 0.5), hours=np.full(4, 5.0), besides=0.1, most=1.0, band=0.5)
    >>> round(told.value, 3), round(told.band, 3)
    (1.0, 0.6)
    """

    def off(scale: float) -> float:
        return float((np.minimum(scale * losses + besides, most) * hours).sum()) - drunk

    if off(0.01) >= 0.0 or off(_MOST_SCALE) <= 0.0:
        return None
    scale = float(brentq(off, 0.01, _MOST_SCALE))
    step = 0.02 * scale
    slope = (off(scale + step) - off(scale - step)) / (2.0 * step)
    return Estimate(value=scale, band=band * drunk / max(slope, 1e-9))


def cold_told(shifts: Sequence[float]) -> Estimate:
    """Return by how much a rider feels the air colder than others do, by notes on being cold and warm.

    Parameters
    ----------
    shifts : sequence of float
        One for each note: how much colder the air would have had to be for the plan to say the same. [K]

    Returns
    -------
    told : Estimate
        Drawn towards 0, as most riders are like most riders. [K]

    References
    ----------
    [Gelman2013], normal mean with known variance.

    Examples
    --------
    >>> told = cold_told([4.0, 4.0, 4.0])
    >>> round(told.value, 2), round(told.band, 2)
    (2.29, 2.57)
    """
    precision = 1.0 / _USUAL_COLD**2 + len(shifts) / _FELT**2
    return Estimate(value=sum(shifts) / _FELT**2 / precision, band=1.96 / math.sqrt(precision))
