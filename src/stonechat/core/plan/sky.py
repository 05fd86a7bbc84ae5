"""Light along the way: sun, twilight and moon of each day of the race, at the place where the rider is at noon."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.profile import place_on
from stonechat.core.line.stops import DAY
from stonechat.core.line.sun import DaySky, sky_of_day
from stonechat.core.line.zones import zone_name
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rhythm.inputs import Clock


@dataclass(frozen=True, kw_only=True)
class PlacedSky:
    """A day's light and where it is met."""

    distance: float  # m
    sky: DaySky


def skies_of(ridden: Ridden) -> tuple[PlacedSky, ...]:
    """Return the light of each day from the start to the finish.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    skies : tuple of PlacedSky
        By day, at the rider's place at noon, by the clock there.
    """
    profile, clocks = ridden.way.profile, ridden.ride.clocks
    start_of_day = ridden.timetable.clock.start_of_day
    own = ridden.way.start.tzinfo
    last = int((start_of_day + float(clocks[-1])) // DAY)
    found = []
    for k in range(last + 1):
        distance = float(np.interp((k + 0.5) * DAY - start_of_day, clocks, profile.distances))
        latitude, longitude = place_on(profile, distance)
        here = zone_name(round(latitude, 3), round(longitude, 3))
        at_start = zone_name(float(profile.latitudes[0]), float(profile.longitudes[0]))
        zone = own if here == at_start and isinstance(own, ZoneInfo) else ZoneInfo(here)
        day = (ridden.way.start + timedelta(days=k)).date()
        sky = sky_of_day(latitude=latitude, longitude=longitude, day=day, zone=zone)
        found.append(PlacedSky(distance=distance, sky=sky))
    return tuple(found)


def wet_at(clock: Clock, elapsed: FloatArray) -> FloatArray:
    """Return how wet the days are on which moments fall.

    Parameters
    ----------
    clock : Clock
        For the days' weather.
    elapsed : ndarray, shape (n,)
        Since the start. [s]

    Returns
    -------
    wet : ndarray, shape (n,)
        1 on a day of rain; beyond the last day that is looked at, as on that. [1]
    """
    day = np.clip(((clock.start_of_day + elapsed) // DAY).astype(np.int64), 0, clock.sky.wet.size - 1)
    return np.asarray(clock.sky.wet[day])


def elapsed_at(ridden: Ridden, moment: datetime) -> float:
    """Return how long after the start a local moment is; a moment without a zone is by the clock at the start.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    moment : datetime
        A clock time.

    Returns
    -------
    elapsed : float
        Negative before the start. [s]
    """
    placed = moment if moment.tzinfo else moment.replace(tzinfo=ridden.way.start.tzinfo)
    return (placed.astimezone(UTC) - ridden.way.start.astimezone(UTC)).total_seconds()


def wall_seconds(ridden: Ridden, elapsed: float) -> float:
    """Return what the rider's clock shows, so long after the start.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    elapsed : float
        Time since the start. [s]

    Returns
    -------
    seconds : float
        After midnight of the day of the start; a clock set forward on the way shows an hour more. [s]
    """
    shown = clock_after(ridden, elapsed).replace(tzinfo=None)
    midnight = ridden.way.start.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    return (shown - midnight).total_seconds()


def clock_after(ridden: Ridden, elapsed: float) -> datetime:
    """Return the clock time at the start's zone, so long after the start.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    elapsed : float
        Time since the start. [s]

    Returns
    -------
    moment : datetime
        With its zone.
    """
    moment = ridden.way.start.astimezone(UTC) + timedelta(seconds=round(elapsed))
    return moment.astimezone(ridden.way.start.tzinfo)
