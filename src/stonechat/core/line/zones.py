"""The time zone of a place."""

from functools import cache, lru_cache
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

if TYPE_CHECKING:
    from timezonefinder import TimezoneFinder


@cache
def _finder() -> "TimezoneFinder":
    from timezonefinder import TimezoneFinder  # read when it is wanted: a quarter of a second of every start

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
