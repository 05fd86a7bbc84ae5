"""Stops: places on or near the course where something can be taken on or done, each offer behind its own door."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import NamedTuple

OFFERS = {
    "water": "water",
    "doubtful_water": "water to be treated",
    "meal": "meals",
    "shop": "shop food",
    "bed": "bed",
    "socket": "socket",
    "bike_shop": "bike shop",
    "pharmacy": "pharmacy",
    "toilet": "toilet",
    "drop_box": "drop box",
}
WATER_OFFERS = frozenset({"water", "doubtful_water"})
FOOD_OFFERS = frozenset({"meal", "shop"})
SERVED = frozenset({"meal", "shop", "bed", "socket", "bike_shop", "pharmacy"})  # somebody has to be there
DAY = 86_400.0  # s

# (opens, shuts) of each weekday from Monday, in s after midnight; a day may have several
Hours = tuple[tuple[tuple[float, float], ...], ...]
ALWAYS: Hours = (((0.0, DAY),),) * 7


def _daily(opens: float, shuts: float, *, sunday: bool = True, saturday: float | None = None) -> Hours:
    """Return the same hours on weekdays, an earlier end on Saturday, none on Sunday. [h]"""
    week = ((opens * 3600.0, shuts * 3600.0),)
    short = ((opens * 3600.0, (shuts if saturday is None else saturday) * 3600.0),)
    return (*(week,) * 5, short, week if sunday else ())


class Kind(NamedTuple):
    """What is usual for a kind of stop."""

    name: str
    stay: float  # s a rider stays there (estimate)
    offers: frozenset[str]  # what it gives where nothing more is known
    usual: Hours  # when such places are open where no hours are known (estimate)
    indoors: bool  # whether its water and toilet are behind its door too


def _kind(name: str, minutes: float, offers: str, usual: Hours = ALWAYS, *, indoors: bool = False) -> Kind:
    return Kind(name, minutes * 60.0, frozenset(offers.split()), usual, indoors)


KINDS: dict[str, Kind] = {
    "tap": _kind("tap or fountain", 5, "water"),
    "cemetery": _kind("cemetery tap", 6, "water", _daily(8, 19), indoors=True),
    "spring": _kind("spring or stream", 7, "doubtful_water"),
    "toilet": _kind("public toilet", 5, "toilet"),
    "supermarket": _kind("supermarket", 15, "shop water", _daily(8, 20, sunday=False), indoors=True),
    "convenience": _kind("convenience shop", 10, "shop water", _daily(7, 21), indoors=True),
    "bakery": _kind("bakery", 10, "shop water", _daily(7, 18, sunday=False, saturday=13), indoors=True),
    "fuel": _kind("petrol station", 10, "shop water toilet", _daily(6, 22), indoors=True),
    "shop": _kind("shop", 15, "shop water", _daily(8, 18, sunday=False, saturday=13), indoors=True),
    "cafe": _kind("café or bar", 25, "meal water toilet", _daily(8, 19), indoors=True),
    "meal": _kind("place to eat", 30, "meal water toilet", _daily(11, 21), indoors=True),
    "village": _kind("village", 10, "water"),
    "town": _kind("town with several things", 30, "water shop meal toilet", _daily(8, 20)),
    "hotel": _kind("hotel or room", 20, "bed water socket toilet", _daily(7, 22), indoors=True),
    "hut": _kind("mountain hut", 20, "bed meal water toilet", _daily(7, 21), indoors=True),
    "bed": _kind("hut or lodging", 20, "bed water", _daily(7, 22), indoors=True),
    "campsite": _kind("campsite", 20, "bed water toilet", _daily(8, 21)),
    "shelter": _kind("open shelter", 10, "bed"),
    "bike_shop": _kind("bike shop", 30, "bike_shop", _daily(9, 18, sunday=False, saturday=13)),
    "pharmacy": _kind("pharmacy", 10, "pharmacy", _daily(8, 18, sunday=False, saturday=13)),
    "ferry": _kind("ferry", 20, "", _daily(6, 21)),
    "checkpoint": _kind("checkpoint", 10, ""),
    "other": _kind("other", 10, ""),
}
BARRED = frozenset({"ferry"})  # kinds that let nobody past before they open
OPEN_BED = frozenset({"shelter"})  # kinds whose bed needs nobody to be there
_UNDER_THE_SKY = OPEN_BED | {"campsite"}  # kinds at which one sleeps in what one carries


@dataclass(frozen=True, kw_only=True)
class Stop:
    """A place where something can be taken on or done."""

    id: str
    name: str
    distance: float  # m from the start of the course
    offers: frozenset[str] = frozenset()
    hours: Hours | None = None  # of its door; None: not known
    hours_by: Mapping[str, Hours] = field(default_factory=dict)  # of offers that have a door of their own
    kind: str = "other"  # key of KINDS
    dwell: float | None = None  # s, time spent there; None: as is usual for its kind
    detour: float = 0.0  # m there and back
    used: bool = True
    confidence: float = 0.9  # 1, the rider's own belief that it exists and is open as stated
    cutoff: datetime | None = None  # local clock by which it must be reached, at a checkpoint
    box_volume: float | None = None  # m³ that its drop box holds; None: not known
    box_mass: float | None = None  # kg that its drop box may weigh; None: not known
    read: frozenset[str] = frozenset()  # fields that were read from the words of a file, not said by the rider
    note: str = ""

    @property
    def gives_water(self) -> bool:
        """Whether bottles can be filled here."""
        return bool(self.offers & WATER_OFFERS)

    @property
    def gives_food(self) -> bool:
        """Whether food can be bought here."""
        return bool(self.offers & FOOD_OFFERS)

    @property
    def has_warm_bed(self) -> bool:
        """Whether one sleeps behind a door, in a bed that is not one's own."""
        return "bed" in self.offers and self.kind not in _UNDER_THE_SKY


class Door(NamedTuple):
    """When something can be had."""

    hours: Hours
    is_known: bool  # False: as is usual for such places


def door_of(stop: Stop, offer: str) -> Door:
    """Return the door behind which an offer is.

    Parameters
    ----------
    stop : Stop
        The stop.
    offer : str
        Key of OFFERS.

    Returns
    -------
    door : Door
        Its own hours where it has them; the stop's for what somebody has to serve, and for all that is indoors; taps
        outside never shut.

    Examples
    --------
    >>> shop = Stop(id="s", name="Shop", distance=0.0, kind="town", hours=(((25_200.0, 72_000.0),),) * 7)
    >>> door_of(shop, "shop").hours[0], door_of(shop, "water").hours[0]
    (((25200.0, 72000.0),), ((0.0, 86400.0),))
    """
    kind = KINDS[stop.kind]
    if offer in stop.hours_by:
        return Door(stop.hours_by[offer], True)
    outside = offer not in SERVED and not kind.indoors
    if outside or (offer == "bed" and stop.kind in OPEN_BED):
        return Door(ALWAYS, True)
    if stop.hours is not None:
        return Door(stop.hours, True)
    return Door(kind.usual, False)


def main_door(stop: Stop) -> Door:
    """Return the door at which a rider would wait.

    Parameters
    ----------
    stop : Stop
        The stop.

    Returns
    -------
    door : Door
        The stop's own hours; where they are not known, those usual for its kind, or always where nothing is served.

    Examples
    --------
    >>> main_door(Stop(id="t", name="Tap", distance=0.0, kind="tap", offers=frozenset({"water"}))).is_known
    True
    """
    if stop.hours is not None:
        return Door(stop.hours, True)
    kind = KINDS[stop.kind]
    if stop.kind in BARRED or kind.indoors or (stop.offers & SERVED and stop.kind not in OPEN_BED):
        return Door(kind.usual, False)
    return Door(ALWAYS, True)


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
    pairs = (("shop", "shop"), ("meal", "meal"), ("bed", "bed"), ("bike_shop", "bike_shop"), ("water", "tap"))
    for offer, kind in (*pairs, ("pharmacy", "pharmacy"), ("doubtful_water", "spring"), ("toilet", "toilet")):
        if offer in offers:
            return kind
    return "other"


def is_open(hours: Hours, weekday: int, time_of_day: float) -> bool:
    """Tell whether a door is open.

    Parameters
    ----------
    hours : tuple
        Opening times by weekday. [s]
    weekday : int
        0 for Monday to 6 for Sunday. [1]
    time_of_day : float
        Local time after midnight. [s]

    Returns
    -------
    open : bool
        Spans that run past midnight count on the day after too.

    Examples
    --------
    >>> is_open((((25_200.0, 72_000.0),),) * 7, 0, 3 * 3600.0)
    False
    """
    if any(opens <= time_of_day < shuts for opens, shuts in hours[weekday]):
        return True
    past_midnight = time_of_day + DAY
    return any(opens <= past_midnight < shuts for opens, shuts in hours[weekday - 1])


def open_offers(stop: Stop, weekday: int, time_of_day: float) -> frozenset[str]:
    """Return which offers of a stop can be had at a moment.

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
    offers : frozenset of str
        Those whose door is open, or would usually be where its hours are not known.

    Examples
    --------
    >>> shop = Stop(id="s", name="Shop", distance=0.0, kind="town", offers=frozenset({"shop", "water"}),
    ...             hours=(((25_200.0, 72_000.0),),) * 7)
    >>> sorted(open_offers(shop, 0, 3 * 3600.0))
    ['water']
    """
    return frozenset(offer for offer in stop.offers if is_open(door_of(stop, offer).hours, weekday, time_of_day))


def next_opening(hours: Hours, weekday: int, time_of_day: float) -> float:
    """Return how long until a door opens.

    Parameters
    ----------
    hours : tuple
        Opening times by weekday. [s]
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
    >>> next_opening((((25_200.0, 72_000.0),),) * 7, 0, 3 * 3600.0)
    14400.0
    """
    if is_open(hours, weekday, time_of_day):
        return 0.0
    for ahead in range(8):
        for opens, _ in sorted(hours[(weekday + ahead) % 7]):
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


TOGETHER = 150.0  # m along the course within which what a file names apart is one stop with several doors


def joined_stops(stops: Iterable[Stop]) -> tuple[Stop, ...]:
    """Return stops with neighbours at one place made one, each offer behind the door that it had.

    Parameters
    ----------
    stops : iterable of Stop
        In order of distance.

    Returns
    -------
    stops : tuple of Stop
        Those within `TOGETHER` of the first of a group are one; checkpoints and ferries stay by themselves.

    Examples
    --------
    >>> tap = Stop(id="t", name="Fountain", distance=500.0, kind="tap", offers=frozenset({"water"}))
    >>> inn = Stop(id="i", name="Inn", distance=560.0, kind="meal", offers=frozenset({"meal"}), hours=ALWAYS)
    >>> (both,) = joined_stops((tap, inn))
    >>> both.name, sorted(both.offers), both.kind
    ('Fountain, Inn', ['meal', 'water'], 'meal')
    """
    made: list[Stop] = []
    first = 0.0
    for stop in stops:
        apart = {"ferry", "checkpoint"}
        alone = not made or stop.kind in apart or made[-1].kind in apart or stop.distance - first > TOGETHER
        if alone or not stop.offers or not made[-1].offers:
            made.append(stop)
            first = stop.distance
        else:
            made[-1] = _joined(made[-1], stop)
    return tuple(made)


def _joined(one: Stop, other: Stop) -> Stop:
    """Return two stops at one place as one, of the kind of the more useful."""
    main, aside = (one, other) if len(one.offers & SERVED) >= len(other.offers & SERVED) else (other, one)
    doors = {**_own_doors(aside), **_own_doors(main)}
    both = {offer for offer in main.offers & aside.offers if door_of(main, offer) != door_of(aside, offer)}
    for offer in both:  # the same thing behind two doors: it can be had at either
        doors[offer] = _either(door_of(main, offer).hours, door_of(aside, offer).hours)
    names = (one.name, other.name)
    return replace(
        main,
        id=one.id,
        name=", ".join(dict.fromkeys(names))[:60],
        distance=one.distance,
        offers=one.offers | other.offers,
        hours_by=doors,
        detour=max(one.detour, other.detour),
        used=one.used or other.used,
        read=one.read | other.read,
        note="; ".join(note for note in (one.note, other.note) if note)[:300],
    )


def _own_doors(stop: Stop) -> dict[str, Hours]:
    """Return the door of each offer of a stop, as far as it is known."""
    doors = {offer: door_of(stop, offer) for offer in stop.offers}
    return {offer: door.hours for offer, door in doors.items() if door.is_known}


def _either(one: Hours, other: Hours) -> Hours:
    """Return when at least one of two doors is open."""
    week = []
    for spans in zip(one, other, strict=True):
        merged: list[tuple[float, float]] = []
        for opens, shuts in sorted((*spans[0], *spans[1])):
            if merged and opens <= merged[-1][1]:
                merged[-1] = (merged[-1][0], max(merged[-1][1], shuts))
            else:
                merged.append((opens, shuts))
        week.append(tuple(merged))
    return tuple(week)
