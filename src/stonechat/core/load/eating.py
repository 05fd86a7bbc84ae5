"""Food by when it is eaten: at hand riding it costs no halt; what lies elsewhere is fetched, hours' worth at once."""

from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np

from stonechat.core.kit.reach import GRIP, HALTS, HANDLING
from stonechat.core.rig.carrier import Carrier

FETCHED_MOST = 0.6e-3  # m³ of food taken out at one halt: some hours of eating (estimate)
FETCHED_LEAST = 0.1e-3  # m³, where nothing at hand takes more: it is eaten on the spot (estimate)
CLOSURE = 4.0  # s to open and close the bag that it is fetched from (estimate)
FETCH_TIME = HALTS[0] + HANDLING["foot"] + CLOSURE + GRIP  # s of a halt for food
# l at hand between which the minutes are taken to be straight
_AT = (0.0, 0.1, 0.15, 0.2, 0.3, 0.45, 0.6, 0.8, 1.0, 1.3, 1.7, 2.2, 3.0, 4.0, 6.0, 10.0)


def is_at_hand(carrier: Carrier) -> bool:
    """Tell whether food in a carrier is eaten without a halt.

    Parameters
    ----------
    carrier : Carrier
        The carrier.

    Returns
    -------
    is_at_hand : bool
        It takes food and is reached riding.

    Examples
    --------
    >>> is_at_hand(Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4))
    False
    """
    return carrier.access == "riding" and "food" in carrier.takes


def fetching(eaten: Iterable[float]) -> tuple[tuple[float, float], ...]:
    """Return the minutes of halts for food by how much of it is at hand, as the highest of some lines.

    Parameters
    ----------
    eaten : iterable of float
        Volume of the food eaten on each leg. [m³]

    Returns
    -------
    lines : tuple of tuple of float
        Slope [min per m³] and minutes with nothing at hand; convex, so that the highest of them and of nought counts.

    Notes
    -----
    On a leg the food beyond what is at hand is fetched, as much at a time as there is room for at hand. At a stop
    the rest is shifted while one stops anyway. An estimate of habit, the same for every carrier that is not at hand.

    Examples
    --------
    >>> fetching([])
    ()
    >>> lines = fetching([0.002])  # two litres of food: with 0.6 l at hand 1.4 l are fetched, 0.6 l at a time
    >>> round(halts_for_food(0.0006, lines) * 60.0 / FETCH_TIME, 3)
    2.333
    """
    legs = np.array([volume for volume in eaten if volume > 0.0])
    if not legs.size:
        return ()
    litres = np.unique([*np.array(_AT) / 1e3, *legs])  # at what a leg eats the minutes have a corner
    at_once = np.clip(litres, FETCHED_LEAST, FETCHED_MOST)
    minutes = np.maximum(0.0, legs[:, None] - litres).sum(axis=0) / at_once * FETCH_TIME / 60.0
    corners = _lower_hull(list(zip(litres.tolist(), minutes.tolist(), strict=True)))
    lines = []
    for (a, low), (b, high) in pairwise(corners):
        slope = (high - low) / (b - a)
        if slope < 0.0:
            lines.append((slope, low - slope * a))
    return tuple(lines)


def _lower_hull(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return the points that a line from below touches, from left to right."""
    hull: list[tuple[float, float]] = []
    for point in points:
        while len(hull) > 1 and _turns_down(hull[-2], hull[-1], point):
            hull.pop()
        hull.append(point)
    return hull


def _turns_down(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> bool:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) <= 0.0


def halts_for_food(at_hand: float, lines: Iterable[tuple[float, float]]) -> float:
    """Return the minutes of halts for food.

    Parameters
    ----------
    at_hand : float
        Volume of food that is at hand when most is carried. [m³]
    lines : iterable of tuple of float
        As `fetching` returns them.

    Returns
    -------
    minutes : float
        Over the race. [min]

    Examples
    --------
    >>> halts_for_food(0.001, ())
    0.0
    """
    return max([0.0, *(slope * at_hand + start for slope, start in lines)])
