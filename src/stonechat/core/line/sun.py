"""Sunrise, sunset, twilight and the moon along the way."""

import math
from dataclasses import dataclass
from datetime import date, datetime
from functools import lru_cache
from zoneinfo import ZoneInfo

from astral import Observer, moon
from astral.sun import dawn, dusk, elevation, noon, sunrise, sunset

from stonechat.core.line.stops import DAY


@lru_cache(maxsize=8192)
def daylight(*, latitude: float, longitude: float, day: date, zone: ZoneInfo) -> tuple[float, float]:
    """Return sunrise and sunset of a day by the local clock.

    Parameters
    ----------
    latitude, longitude : float
        The place. [°]
    day : date
        The local date.
    zone : ZoneInfo
        The time zone of the place.

    Returns
    -------
    rise, set : float
        After local midnight; (0, 86400) where the sun stays up, equal figures where it stays down. [s]

    References
    ----------
    [Meeus1998], by way of a library. Within about two minutes up to 60° of latitude.

    Examples
    --------
    >>> rise, down = daylight(latitude=48.14, longitude=11.58, day=date(2025, 12, 21), zone=ZoneInfo("Europe/Berlin"))
    >>> round(rise / 60), round(down / 60)
    (482, 982)
    """
    observer = Observer(latitude=latitude, longitude=longitude)
    try:
        times = (sunrise(observer, day, zone), sunset(observer, day, zone))
    except ValueError:
        return (0.0, DAY) if _is_up_at_noon(observer, day) else (0.5 * DAY, 0.5 * DAY)
    first, last = (float(t.hour * 3600 + t.minute * 60 + t.second) for t in times)
    return (first, last) if first < last else (0.0, DAY)


def _is_up_at_noon(observer: Observer, day: date) -> bool:
    return elevation(observer, noon(observer, day)) > -0.833


_PHASES = ("new", "waxing crescent", "first quarter", "waxing", "full", "waning", "last quarter", "waning crescent")
_MONTH = 28.0  # days into which the library divides the moon's phases


@dataclass(frozen=True, kw_only=True)
class DaySky:
    """Light of one day at one place, by the local clock; None where it does not happen on that day."""

    day: date
    dawn: datetime | None  # civil twilight begins
    sunrise: datetime | None
    sunset: datetime | None
    dusk: datetime | None  # civil twilight ends
    moonrise: datetime | None
    moonset: datetime | None
    moonlight: float  # 1, share of the disc that is lit
    phase: str


def sky_of_day(*, latitude: float, longitude: float, day: date, zone: ZoneInfo) -> DaySky:
    """Return the light of a day.

    Parameters
    ----------
    latitude, longitude : float
        The place. [°]
    day : date
        The local date.
    zone : ZoneInfo
        The time zone of the place.

    Returns
    -------
    sky : DaySky
        Twilight, sun and moon by the local clock.

    References
    ----------
    [Meeus1998], by way of a library; the moon within some minutes, its phase within half a day.

    Examples
    --------
    >>> sky = sky_of_day(latitude=48.14, longitude=11.58, day=date(2025, 6, 21), zone=ZoneInfo("Europe/Berlin"))
    >>> f"{sky.sunrise:%H:%M}", f"{sky.dusk:%H:%M}"
    ('05:13', '21:59')
    """
    observer = Observer(latitude=latitude, longitude=longitude)

    def moment(event: object) -> datetime | None:
        try:
            found: datetime | None = event(observer, day, tzinfo=zone)  # type: ignore[operator]
        except ValueError:
            return None
        return found

    angle = moon.phase(day) % _MONTH
    return DaySky(
        day=day,
        dawn=moment(dawn),
        sunrise=moment(sunrise),
        sunset=moment(sunset),
        dusk=moment(dusk),
        moonrise=moment(moon.moonrise),
        moonset=moment(moon.moonset),
        moonlight=0.5 * (1.0 - math.cos(2.0 * math.pi * angle / _MONTH)),
        phase=_PHASES[round(angle / _MONTH * 8.0) % 8],
    )
