"""A weather service: the interface that a real one would have, and a simulated one that ships with the program.

The simulated service knows a made-up climate and a made-up truth for every day and place. What it says ahead of a day
is calibrated: on average the truth lies as far from the forecast as the stated band.
"""

import math
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Protocol

import numpy as np

from stonechat.core.line.weather import DayWeather
from stonechat.core.physics.constants import LAPSE_RATE

MOST_DAYS = 30
_SPREAD = 3.0  # K, standard deviation of a day's warmth about the usual (estimate)
_MEMORY = math.exp(-24.0 / 60.0)  # 1, from day to day
_TERMS = 24  # days back that a day remembers
_WIND_MEAN, _WIND_FROM, _TURNING = 4.0, 260.0, 40.0  # m/s, °, °
_RANGE = 9.5  # K between low and high
_HALF_SURE = 5.0  # days ahead at which half of the skill is left


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where the weather is asked for."""

    latitude: float  # °
    longitude: float  # °
    height: float  # m


@dataclass(frozen=True, kw_only=True)
class DailyReport:
    """What the service says of a day."""

    day: date
    kind: str  # observed, forecast or usual
    weather: DayWeather


class WeatherClient(Protocol):
    """What the program asks of any weather service."""

    def daily(self, place: Place, first: date, count: int, asked: date) -> tuple[DailyReport, ...]:
        """Return a report for each day, as known on the day of asking; raise `Unavailable` where there is none."""
        ...


class SimulatedWeather:
    """A made-up service: the same seed, place, day and day of asking give the same answer."""

    def __init__(self, seed: int = 1) -> None:
        self._seed = seed

    def daily(self, place: Place, first: date, count: int, asked: date) -> tuple[DailyReport, ...]:
        """Return a report for each day; weeks ahead what is usual, then a forecast that grows surer."""
        days = [first + timedelta(days=k) for k in range(min(count, MOST_DAYS))]
        return tuple(self._report(place, day, asked) for day in days)

    def truth(self, place: Place, day: date) -> DayWeather:
        """Return what the day turns out to be."""
        return self._weather(place, day, self._state(place, day), 0.0)

    def _report(self, place: Place, day: date, asked: date) -> DailyReport:
        skill = skill_ahead((day - asked).days)
        truth = self._state(place, day)
        noise = self._noise(place, day, 1_000_000 + asked.toordinal())
        # calibrated: given what is said, the truth is spread about it by what the skill leaves
        said = skill**2 * truth + skill * math.sqrt(1.0 - skill**2) * noise
        kind = "observed" if day < asked else "forecast" if skill > 0.1 else "usual"
        band = _SPREAD * math.sqrt(1.0 - skill**2)
        return DailyReport(day=day, kind=kind, weather=self._weather(place, day, said, band))

    def _noise(self, place: Place, day: date, stream: int) -> np.ndarray:
        """Return six independent normal scores of a day in a region about three degrees wide."""
        region = (round(place.latitude / 3.0) + 60, round(place.longitude / 3.0) + 120)
        return np.random.default_rng([self._seed, *region, day.toordinal(), stream]).normal(size=6)

    def _state(self, place: Place, day: date) -> np.ndarray:
        """Return six normal scores that remember the days before: warmth, range, wind, turning, damp, rain."""
        memory = np.array([_MEMORY, 0.3, 0.26, 0.55, 0.5, 0.4])
        shocks = np.array([self._noise(place, day - timedelta(days=k), 0) for k in range(_TERMS)])
        weights = memory ** np.arange(_TERMS)[:, None]
        scores: np.ndarray = (weights * shocks).sum(axis=0) / np.sqrt((weights**2).sum(axis=0))
        return scores

    def _weather(self, place: Place, day: date, scores: np.ndarray, band: float) -> DayWeather:
        warmth, spread, wind, turning, damp, rain = (float(score) for score in scores)
        mean = usual_mean(place, day) + _SPREAD * warmth
        half = 0.5 * max(3.0, _RANGE + 2.0 * spread - 1.5 * max(rain, 0.0))
        chance = 0.5 * (1.0 + math.erf(wind / math.sqrt(2.0)))
        # Weibull of shape 2 by its quantile
        speed = 2.0 * _WIND_MEAN / math.sqrt(math.pi) * math.sqrt(-math.log(max(1.0 - chance, 1e-9)))
        humidity = min(max(0.68 + 0.08 * damp + 0.06 * max(rain, 0.0), 0.2), 1.0)
        amount = math.exp(1.1 * rain + 0.6) if rain > 0.5 else 0.0
        return DayWeather(
            temp_low=round(mean - half, 1),
            temp_high=round(mean + half, 1),
            wind_speed=round(min(speed, 25.0), 1),
            wind_from=round((_WIND_FROM + _TURNING * turning) % 360.0),
            humidity=round(humidity, 2),
            rain=round(amount, 1),
            temp_band=round(band, 1),
        )


def skill_ahead(days: int) -> float:
    """Return how much of a day's departure from the usual is known so many days ahead: 1 on the day, 0 far off."""
    return 1.0 / (1.0 + (max(days, 0) / _HALF_SURE) ** 3)


def usual_mean(place: Place, day: date) -> float:
    """Return the usual mean of a made-up climate: cooler poleward and upward, warmest in high summer. [°C]"""
    poleward = abs(place.latitude)
    season = math.cos(2.0 * math.pi * (day.timetuple().tm_yday - (200 if place.latitude >= 0.0 else 18)) / 365.25)
    at_sea = 27.0 - 0.35 * max(0.0, poleward - 10.0) + 0.22 * poleward * season
    return at_sea - LAPSE_RATE * place.height
