"""Clocks along the way: one that runs evenly through the race, and those on the walls, which may be set.

The ride counts seconds from midnight of the first day by the clock at the start, as if that clock were never set.
"""

from datetime import UTC, datetime, time, timedelta, timezone
from zoneinfo import ZoneInfo


def even_clock(start: datetime) -> datetime:
    """Return a start by a clock of its zone that is never set forward or back.

    Parameters
    ----------
    start : datetime
        With its zone.

    Returns
    -------
    start : datetime
        The same moment, in a zone of a fixed distance to UTC.

    Examples
    --------
    >>> even_clock(datetime(2027, 3, 27, 8, tzinfo=ZoneInfo("Europe/Berlin"))).isoformat()
    '2027-03-27T08:00:00+01:00'
    """
    return start.astimezone(timezone(start.utcoffset() or timedelta()))


def since_midnight(even: datetime, day: int, seconds: float, zone: ZoneInfo) -> float:
    """Return when a clock on the wall shows a time, by the clock that runs evenly.

    Parameters
    ----------
    even : datetime
        A moment of the first day by the even clock.
    day : int
        0 for the first day. [1]
    seconds : float
        After midnight of that day; over 86,400 on the days that follow. [s]
    zone : ZoneInfo
        Of the clock on the wall.

    Returns
    -------
    moment : float
        After midnight of the first day by the even clock. [s]

    Examples
    --------
    >>> berlin = ZoneInfo("Europe/Berlin")
    >>> start = even_clock(datetime(2027, 3, 27, 8, tzinfo=berlin))
    >>> [since_midnight(start, day, 7 * 3600.0, berlin) / 3600 for day in (0, 1)]
    [7.0, 30.0]
    """
    midnight = even.replace(hour=0, minute=0, second=0, microsecond=0)
    shown = datetime.combine(even.date() + timedelta(days=day), time()) + timedelta(seconds=seconds)
    return (shown.replace(tzinfo=zone).astimezone(UTC) - midnight.astimezone(UTC)).total_seconds()


def exists(local: datetime, zone: ZoneInfo) -> bool:
    """Tell whether a clock ever shows a time: it does not in the hour that is left out in spring.

    Parameters
    ----------
    local : datetime
        Without a zone.
    zone : ZoneInfo
        Of the clock.

    Returns
    -------
    exists : bool
        False in the hour that is left out.

    Examples
    --------
    >>> exists(datetime(2027, 3, 28, 2, 30), ZoneInfo("Europe/Berlin"))
    False
    """
    there = local.replace(tzinfo=zone)
    return there.astimezone(UTC).astimezone(zone).replace(tzinfo=None) == local
