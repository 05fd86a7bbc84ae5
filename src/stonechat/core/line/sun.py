"""Sunrise and sunset along the way."""

from datetime import date
from functools import lru_cache
from zoneinfo import ZoneInfo

from astral import Observer
from astral.sun import elevation, noon, sunrise, sunset

from stonechat.core.line.stops import DAY


@lru_cache(maxsize=512)
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
