"""The time zone of a place."""

from functools import cache, lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from timezonefinder import TimezoneFinder


@cache
def _finder() -> TimezoneFinder:
    return TimezoneFinder()


@lru_cache(maxsize=4096)
def zone_name(latitude: float, longitude: float) -> str:
    """Return the name of the time zone at a place.

    Parameters
    ----------
    latitude, longitude : float
        The place. [°]

    Returns
    -------
    name : str
        Name in the time zone database; UTC where none is known.

    Examples
    --------
    >>> zone_name(0.0, -31.0)
    'Etc/GMT+2'
    """
    name = _finder().timezone_at(lng=longitude, lat=latitude)
    try:
        return ZoneInfo(name or "UTC").key
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return "UTC"
