"""Stops: places on or near the course where something can be taken on or done."""

from dataclasses import dataclass
from datetime import datetime

OFFERS = {
    "water": "water",
    "doubtful_water": "water to be treated",
    "meal": "meals",
    "shop": "shop food",
    "bed": "bed",
    "socket": "socket",
    "bike_shop": "bike shop",
    "toilet": "toilet",
    "drop_box": "drop box",
}
KINDS = {  # name, and how long a rider stays there [s] (estimates)
    "tap": ("tap or fountain", 300.0),
    "spring": ("spring or stream", 420.0),
    "shop": ("shop", 900.0),
    "meal": ("place to eat", 1_800.0),
    "town": ("town with several things", 1_800.0),
    "bed": ("hut or lodging", 1_200.0),
    "checkpoint": ("checkpoint", 600.0),
    "other": ("other", 600.0),
}
WATER_OFFERS = frozenset({"water", "doubtful_water"})
FOOD_OFFERS = frozenset({"meal", "shop"})
DAY = 86_400.0  # s


@dataclass(frozen=True, kw_only=True)
class Stop:
    """A place where something can be taken on or done."""

    id: str
    name: str
    distance: float  # m from the start of the course
    offers: frozenset[str] = frozenset()
    # (opens, shuts) of each weekday from Monday, in s after midnight; a day may have several. None: always open
    hours: tuple[tuple[tuple[float, float], ...], ...] | None = None
    kind: str = "other"  # key of KINDS
    dwell: float | None = None  # s, time spent there; None: as is usual for its kind
    detour: float = 0.0  # m there and back
    used: bool = True
    confidence: float = 0.9  # 1, the rider's own belief that it exists and is open as stated
    cutoff: datetime | None = None  # local clock by which it must be reached, at a checkpoint
    note: str = ""

    @property
    def gives_water(self) -> bool:
        """Whether bottles can be filled here."""
        return bool(self.offers & WATER_OFFERS)

    @property
    def gives_food(self) -> bool:
        """Whether food can be bought here."""
        return bool(self.offers & FOOD_OFFERS)


def guess_kind(offers: frozenset[str]) -> str:
    """Return the kind that goes with what a stop offers.

    Parameters
    ----------
    offers : frozenset of str
        Keys of OFFERS.

    Returns
    -------
    kind : str
        Key of KINDS.

    Examples
    --------
    >>> guess_kind(frozenset({"water", "shop", "meal"})), guess_kind(frozenset({"water"}))
    ('town', 'tap')
    """
    if {"shop", "meal"} <= offers:
        return "town"
    for offer, kind in (("shop", "shop"), ("meal", "meal"), ("bed", "bed"), ("water", "tap")):
        if offer in offers:
            return kind
    return "spring" if "doubtful_water" in offers else "other"


def is_open(stop: Stop, weekday: int, time_of_day: float) -> bool:
    """Tell whether a stop is open.

    Parameters
    ----------
    stop : Stop
        The stop.
    weekday : int
        0 for Monday to 6 for Sunday. [1]
    time_of_day : float
        Local time after midnight. [s]

    Returns
    -------
    open : bool
        True also where no hours are known.

    Examples
    --------
    >>> shop = Stop(id="s", name="Shop", distance=0.0, hours=(((25_200.0, 72_000.0),),) * 7)
    >>> is_open(shop, 0, 3 * 3600.0)
    False
    """
    if stop.hours is None:
        return True
    if any(opens <= time_of_day < shuts for opens, shuts in stop.hours[weekday]):
        return True
    past_midnight = time_of_day + DAY
    return any(opens <= past_midnight < shuts for opens, shuts in stop.hours[weekday - 1])


def next_opening(stop: Stop, weekday: int, time_of_day: float) -> float:
    """Return how long until a stop opens.

    Parameters
    ----------
    stop : Stop
        The stop.
    weekday : int
        0 for Monday. [1]
    time_of_day : float
        Local time after midnight. [s]

    Returns
    -------
    wait : float
        0 where it is open, infinity where it never opens. [s]

    Examples
    --------
    >>> shop = Stop(id="s", name="Shop", distance=0.0, hours=(((25_200.0, 72_000.0),),) * 7)
    >>> next_opening(shop, 0, 3 * 3600.0)
    14400.0
    """
    if is_open(stop, weekday, time_of_day) or stop.hours is None:
        return 0.0
    for ahead in range(8):
        for opens, _ in sorted(stop.hours[(weekday + ahead) % 7]):
            wait = ahead * DAY + opens - time_of_day
            if wait >= 0.0:
                return wait
    return float("inf")


def wait_words(wait: float) -> str:
    """Return a wait for a door in words.

    Parameters
    ----------
    wait : float
        How long; infinity where it never opens. [s]

    Returns
    -------
    words : str
        Minutes below an hour, then hours.

    Examples
    --------
    >>> wait_words(170.0), wait_words(5_800.0), wait_words(float("inf"))
    ('opens in 3 min', 'opens in 1.6 h', 'never opens')
    """
    if wait == float("inf"):
        return "never opens"
    return f"opens in {max(1.0, wait / 60.0):.0f} min" if wait < 3_600.0 else f"opens in {wait / 3600.0:.1f} h"
