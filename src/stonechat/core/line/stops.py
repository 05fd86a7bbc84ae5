"""Stops: places on or near the course where something can be taken on or done."""

from dataclasses import dataclass, field

OFFERS = {
    "water": "water",
    "doubtful_water": "water to be treated",
    "meal": "meals",
    "shop": "shop food",
    "bed": "bed",
    "socket": "socket",
    "bike_shop": "bike shop",
    "toilet": "toilet",
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
    dwell: float = 900.0  # s, time spent there
    detour: float = 0.0  # m there and back
    used: bool = True
    note: str = field(default="")

    @property
    def gives_water(self) -> bool:
        """Whether bottles can be filled here."""
        return bool(self.offers & WATER_OFFERS)

    @property
    def gives_food(self) -> bool:
        """Whether food can be bought here."""
        return bool(self.offers & FOOD_OFFERS)


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
