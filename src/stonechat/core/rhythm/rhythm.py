"""When the rider starts, sleeps and dawdles: the sleep schools, and the nights that follow from them."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.line.clocks import since_midnight
from stonechat.core.line.stops import DAY
from stonechat.core.numerics.arrays import FloatArray

SLEEP_SCHOOLS = {
    "window": "ride between two hours of the day",
    "hours": "so many hours each night, from a chosen time",
    "places": "sleep at chosen stops",
    "rooms": "a room each night, from a latest arrival to a time to leave",
    "distance": "so many kilometres a day",
    "through": "never sleep",
}
NIGHT_KINDS = {"through": "ride through", "until": "rest until", "for": "sleep for"}


@dataclass(frozen=True, kw_only=True)
class Night:
    """One night set by hand, in place of what the school says."""

    kind: str  # key of NIGHT_KINDS
    start: float = 0.0  # s after midnight of the evening's day; over 86,400 after the midnight that follows
    end: float = 0.0  # s after midnight of the evening's day, where the rest ends by the clock
    sleep: float = 0.0  # s slept, where it ends by its length


@dataclass(frozen=True, kw_only=True)
class Rhythm:
    """When the rider starts, and how the rider sleeps and dawdles."""

    start: datetime = field(default=datetime(2027, 9, 24, 6, 0))  # local clock at the start
    zone: str = "UTC"  # name of the time zone at the start
    school: str = "window"  # key of SLEEP_SCHOOLS
    rise: float = 5.0 * 3600.0  # s after midnight, first riding hour
    halt: float = 22.0 * 3600.0  # s after midnight, last riding hour; equal to `rise`: never rests
    sleep_from: float = 23.0 * 3600.0  # s after midnight, earliest time to lie down; before noon: of the next day
    sleep_for: float = 4.0 * 3600.0  # s slept each night
    first_night: bool = False  # ride through the first night
    sleep_at: Mapping[str, float] = field(default_factory=dict)  # s slept at chosen stops, in any school
    nights: Mapping[int, Night] = field(default_factory=dict)  # nights set by hand, 0 the first
    camp_time: float = 2_400.0  # s of each rest that go to pitching, eating and packing
    dawdle: Mapping[str, float] = field(default_factory=dict)  # s at a stop by its kind, where it differs from usual
    stays: Mapping[str, float] = field(default_factory=dict)  # s at a stop, set for this variant
    wait_most: float = 0.0  # s, longest wait for a door that is shut
    day_distance: float = 150_000.0  # m ridden from rest to rest, where days go by distance
    no_rooms: frozenset[str] = frozenset()  # stops with a bed that is not taken where there is a room each night
    leave_at: Mapping[str, float] = field(default_factory=dict)  # s after midnight at which a stop is left


def on_the_clock(rhythm: Rhythm, elapsed: float) -> datetime:
    """Return what a clock at the start shows so long after it, whatever day it was set in between.

    Parameters
    ----------
    rhythm : Rhythm
        For the start and its zone.
    elapsed : float
        Since the start. [s]

    Returns
    -------
    shown : datetime
        To the second, without a zone, as `start`.

    Examples
    --------
    >>> autumn = Rhythm(start=datetime(2027, 10, 30, 7, 0), zone="Europe/Berlin")
    >>> on_the_clock(autumn, 30 * 3600.0).isoformat()
    '2027-10-31T12:00:00'
    """
    zone = ZoneInfo(rhythm.zone)
    then = rhythm.start.replace(tzinfo=zone).astimezone(UTC) + timedelta(seconds=round(elapsed))
    return then.astimezone(zone).replace(tzinfo=None, microsecond=0)


def sleeping_at(rhythm: Rhythm, index: int, stop_id: str, sleep: float) -> Rhythm:
    """Return a rhythm that sleeps at a stop in place of a night's rest.

    Parameters
    ----------
    rhythm : Rhythm
        As it is.
    index : int
        Which night, 0 the first. [1]
    stop_id : str
        The stop.
    sleep : float
        How long. [s]

    Returns
    -------
    rhythm : Rhythm
        That night is ridden through but for the stop.

    Examples
    --------
    >>> sleeping_at(Rhythm(), 1, "inn", 14_400.0).sleep_at
    {'inn': 14400.0}
    """
    nights = {**rhythm.nights, index: Night(kind="through")}
    return replace(rhythm, nights=nights, sleep_at={**rhythm.sleep_at, stop_id: sleep})


def usual_night(rhythm: Rhythm, night: int) -> Night:
    """Return what the school says of a night.

    Parameters
    ----------
    rhythm : Rhythm
        The rhythm.
    night : int
        0 for the night that follows the first day. [1]

    Returns
    -------
    night : Night
        Start and end. [s]

    Examples
    --------
    >>> usual_night(Rhythm(rise=5 * 3600.0, halt=22 * 3600.0), 1).end / 3600
    29.0
    """
    if night == 0 and rhythm.first_night:
        return Night(kind="through")
    if rhythm.school == "window" and rhythm.rise != rhythm.halt:
        start = rhythm.halt if rhythm.halt > rhythm.rise else rhythm.halt + DAY
        return Night(kind="until", start=start, end=rhythm.rise + DAY)
    if rhythm.school == "hours" and rhythm.sleep_for > 0.0:
        start = rhythm.sleep_from if rhythm.sleep_from >= 0.5 * DAY else rhythm.sleep_from + DAY
        return Night(kind="for", start=start, sleep=rhythm.sleep_for)
    return Night(kind="through")


def night_arrays(rhythm: Rhythm, even: datetime, count: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return the nights as the ride takes them.

    Parameters
    ----------
    rhythm : Rhythm
        School, and nights set by hand, by the clock of its zone.
    even : datetime
        The start by the clock that runs evenly.
    count : int
        How many nights. [1]

    Returns
    -------
    begins : ndarray, shape (k,)
        From when the rider rests, after the first midnight; nights ridden through are left out. [s]
    ends : ndarray, shape (k,)
        Until when. [s]
    lengths : ndarray, shape (k,)
        For how long, camp time included; 0 where the rest has an end by the clock. [s]

    Notes
    -----
    A night that would have begun before the start is not rested: whoever starts at 23:00 starts to ride.

    Examples
    --------
    >>> from datetime import UTC
    >>> start = datetime(2027, 9, 24, 7, tzinfo=UTC)
    >>> begins, ends, lengths = night_arrays(Rhythm(rise=5 * 3600.0, halt=22 * 3600.0), start, 2)
    >>> (begins / 3600).tolist(), (ends / 3600).tolist(), lengths.tolist()
    ([22.0, 46.0], [29.0, 53.0], [0.0, 0.0])
    """
    zone = ZoneInfo(rhythm.zone)
    first = (rhythm.start.date() - even.date()).days  # where the clock of the place is of another day
    started = float(even.hour * 3600 + even.minute * 60 + even.second)
    rests = []
    for k in range(count):
        night = rhythm.nights.get(k) or usual_night(rhythm, k)
        if night.kind == "through":
            continue
        begin = since_midnight(even, first + k, night.start, zone)
        if begin < started:
            continue
        by_clock = night.kind == "until"
        end = since_midnight(even, first + k, night.end, zone) if by_clock else 0.0
        rests.append((begin, end, 0.0 if by_clock else night.sleep + rhythm.camp_time))
    table = np.array(sorted(rests), dtype=np.float64).reshape(-1, 3)
    return tuple(np.ascontiguousarray(column) for column in table.T)  # type: ignore[return-value]
