"""What it costs to get at a thing, and how often that is."""

from typing import NamedTuple

from stonechat.core.kit.item import Item
from stonechat.core.rig.carrier import ACCESS_RANK

# s, all estimates: stopping and starting is 12 and 25 s of handling and 10 s to win the speed back
_OVERHEAD = {"riding": 0.0, "foot": 12.0, "off": 25.0, "camp": 0.0}
_REWIN = {"riding": 0.0, "foot": 10.0, "off": 10.0, "camp": 0.0}
HANDLING = {"riding": 3.0, "foot": 4.0, "off": 6.0, "camp": 10.0}  # s to get at a carrier (estimates)
GRIP = 5.0  # s to take a thing out and put it back (estimate)
SHARED = 0.30  # 1, share of halts that serve something else as well (estimate)
# s of a halt: what a foot down takes, and what getting off takes more
HALTS = tuple(
    (1.0 - SHARED) * (_OVERHEAD[state] + _REWIN[state] - _OVERHEAD[less] - _REWIN[less])
    for less, state in (("riding", "foot"), ("foot", "off"))
)


class Often(NamedTuple):
    """How often the days of a race are such that a thing is reached for more."""

    wet: float = 0.0  # 1, share of days with rain
    cold: float = 0.0  # 1, share of days colder than GLOVES_BELOW at some time
    nights: float = 0.0  # nights a day that are ridden into
    punctures: float = 0.0  # 1 per day, expected
    gloved: float = 0.0  # 1, share of the riding with gloves on


GLOVES_BELOW = 6.0  # °C, air temperature under which full gloves are worn (estimate)


def reaches_a_day(item: Item, often: Often) -> float:
    """Return how often a thing is reached for on a day of this race.

    Parameters
    ----------
    item : Item
        The thing.
    often : Often
        What the days are like.

    Returns
    -------
    reaches : float
        On a mean day. [1]

    Examples
    --------
    >>> from stonechat.core.kit.item import Reaches
    >>> jacket = Item(id="j", name="jacket", mass=0.2, volume=0.001, reaches=Reaches(per_day=1.0, rain=4.0))
    >>> reaches_a_day(jacket, Often(wet=0.5))
    3.0
    """
    return (
        item.reaches.per_day
        + often.wet * item.reaches.rain
        + often.cold * item.reaches.cold
        + often.nights * item.reaches.night
        + often.punctures * item.reaches.puncture
    )


def reach_seconds(item_access: str, carrier_access: str, open_time: float) -> float:
    """Return the time one reach takes from the race.

    Parameters
    ----------
    item_access : str
        How the thing should be reachable: riding, foot, off, camp or last.
    carrier_access : str
        How the carrier is reached: riding, foot or off.
    open_time : float
        Time for the carrier's closure. [s]

    Returns
    -------
    time : float
        Seconds of the race for one reach. [s]

    Notes
    -----
    A thing in a carrier that is harder to get at than it should be is reached the harder way. At camp no halt
    is charged. Figures are estimates.

    Examples
    --------
    >>> reach_seconds("riding", "riding", 0.0), reach_seconds("riding", "off", 6.0)
    (8.0, 41.5)
    """
    state = _state(item_access, carrier_access)
    halt = _OVERHEAD[state] + _REWIN[state]
    return (1.0 - SHARED) * halt + HANDLING[state] + open_time + GRIP


def halt_seconds(access: str) -> float:
    """Return what stopping takes before a carrier is got at.

    Parameters
    ----------
    access : str
        How it is reached: riding, foot or off.

    Returns
    -------
    time : float
        Winning the speed back left out. [s]

    Examples
    --------
    >>> halt_seconds("riding"), halt_seconds("off")
    (0.0, 25.0)
    """
    return _OVERHEAD[access]


def _state(item_access: str, carrier_access: str) -> str:
    """Return how a thing is got at: the harder of how it should be and how its carrier is; camp is camp."""
    state = "off" if item_access == "last" else item_access
    harder = state != "camp" and ACCESS_RANK[carrier_access] > ACCESS_RANK[state]
    return carrier_access if harder else state


def halt_level(item_access: str, carrier_access: str) -> int:
    """Return how much of a halt it takes to get at a thing.

    Parameters
    ----------
    item_access : str
        How the thing should be reachable.
    carrier_access : str
        How the carrier is reached.

    Returns
    -------
    level : int
        0 none, 1 a foot down, 2 off the bike: so many of HALTS add up. [1]

    Examples
    --------
    >>> halt_level("riding", "foot"), halt_level("last", "riding"), halt_level("camp", "off")
    (1, 2, 0)
    """
    return {"riding": 0, "foot": 1, "off": 2, "camp": 0}[_state(item_access, carrier_access)]
