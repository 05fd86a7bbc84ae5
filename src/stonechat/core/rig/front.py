"""Bike and rider from the front: their shadow, and what of each carrier stands outside it in the wind.

Across the bike: y to the left, z up, in metres. The rider's outline is an estimate from the bike's own measures.
"""

from dataclasses import dataclass
from functools import lru_cache

from shapely import LineString, Point, Polygon, box
from shapely.affinity import scale, translate
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import SIDES, Carrier
from stonechat.core.rig.geometry import carrier_box, carrier_outline, carrier_position, frame_points
from stonechat.core.rig.places import WORN

POSTURES = {  # m of the shoulders above the saddle for a saddle height of 0.735 m, and half their width (estimates)
    "aero": (0.24, 0.175),
    "drops": (0.31, 0.205),
    "hoods": (0.38, 0.205),
    "upright": (0.48, 0.215),
}
USUAL_SADDLE = 0.735  # m, saddle height that the rider's outline is drawn for


def bike_front(bike: Bike) -> BaseGeometry:
    """Return what the bare bike covers, seen from the front.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    shape : BaseGeometry
        Wheels, frame, fork and bars. [m]

    Examples
    --------
    >>> 0.05 < bike_front(Bike()).area < 0.12
    True
    """
    p = frame_points(bike)
    tyre = 0.5 * bike.tyre_width
    leg = 0.062 if bike.fork_travel == 0.0 else 0.072
    crown = p.head_bottom[1]
    parts: list[BaseGeometry] = [
        box(-tyre, 0.0, tyre, 2.0 * bike.wheel_radius),
        box(-0.022, p.bottom_bracket[1] - 0.03, 0.022, p.bars[1]),
        LineString([(0.0, crown), (leg, crown - 0.02), (leg, p.front_axle[1])]).buffer(0.015),
        LineString([(0.0, crown), (-leg, crown - 0.02), (-leg, p.front_axle[1])]).buffer(0.015),
        *bar_lines(bike),
    ]
    return unary_union(parts)


def bar_lines(bike: Bike) -> tuple[BaseGeometry, ...]:
    """Return the bars, seen from the front.

    Parameters
    ----------
    bike : Bike
        For kind and width of its bars.

    Returns
    -------
    parts : tuple of BaseGeometry
        Tops and drops, or one flat bar. [m]

    Examples
    --------
    >>> len(bar_lines(Bike())), len(bar_lines(Bike(bars="flat")))
    (3, 1)
    """
    z, half = frame_points(bike).bars[1], 0.5 * bike.bar_width
    if bike.bars == "flat":
        return (LineString([(-half, z + 0.012), (0.0, z), (half, z + 0.012)]).buffer(0.015),)
    tops = LineString([(-half, z), (half, z)]).buffer(0.014)
    drops = [
        LineString([(sign * half, z + 0.035), (sign * (half + 0.005), z - 0.05), (sign * (half + 0.022), z - 0.125)])
        for sign in (-1.0, 1.0)
    ]
    return (tops, *(drop.buffer(0.016) for drop in drops))


def rider_front(bike: Bike, position: str, *, legs: bool = False) -> BaseGeometry:
    """Return what the rider covers, seen from the front.

    Parameters
    ----------
    bike : Bike
        For saddle and bars.
    position : str
        Key of POSTURES.
    legs : bool
        With the legs, as for a picture; for the shadow they are left out: they move, and stir what a bag meets.

    Returns
    -------
    shape : BaseGeometry
        Trunk, arms and head, and the legs where asked for. [m]

    Examples
    --------
    >>> rider_front(Bike(), "aero").area < rider_front(Bike(), "hoods").area < rider_front(Bike(), "upright").area
    True
    """
    p = frame_points(bike)
    size = bike.saddle_height / USUAL_SADDLE
    rise, half = POSTURES[position]
    saddle, bracket = p.saddle[1], p.bottom_bracket[1]
    shoulder, half = saddle + rise * size, half * size
    parts: list[BaseGeometry] = []
    for sign in (-1.0, 1.0):
        foot, knee, hip = (
            (sign * 0.118, bracket - 0.10),
            (sign * 0.108, bracket + 0.42 * size),
            (sign * 0.095, saddle + 0.03),
        )
        if legs:
            calf = (sign * 0.112, bracket + 0.15)
            parts.append(LineString([foot, calf]).buffer(0.040 * size))
            parts.append(LineString([calf, knee]).buffer(0.052 * size))
            parts.append(LineString([knee, hip]).buffer(0.068 * size))
        hand = (sign * (0.07 if position == "aero" else 0.5 * bike.bar_width), p.bars[1] + 0.03)
        elbow = (sign * max(0.75 * half, abs(hand[0]) * 0.9), 0.5 * (shoulder + hand[1]) - 0.02)
        parts.append(LineString([(sign * (half - 0.03), shoulder - 0.03), elbow, hand]).buffer(0.040 * size))
    trunk = Polygon(
        [
            (-0.155 * size, saddle - 0.01), (0.155 * size, saddle - 0.01), (half, shoulder - 0.05),
            (0.55 * half, shoulder + 0.01), (-0.55 * half, shoulder + 0.01), (-half, shoulder - 0.05),
        ]
    )  # fmt: skip
    head = translate(scale(Point(0.0, 0.0).buffer(0.5), 0.165 * size, 0.25 * size), 0.0, shoulder + 0.10 * size)
    return unary_union([*parts, trunk.buffer(0.02), head])


@lru_cache(maxsize=64)
def shadow(bike: Bike, position: str) -> BaseGeometry:
    """Return what bike and rider cover together, seen from the front.

    Parameters
    ----------
    bike : Bike
        The bike.
    position : str
        Key of POSTURES.

    Returns
    -------
    shape : BaseGeometry
        Their outline. [m]

    Examples
    --------
    >>> 0.25 < shadow(Bike(), "hoods").area < 0.5
    True
    """
    return unary_union([bike_front(bike), rider_front(bike, position)])


def carrier_front(bike: Bike, carrier: Carrier) -> BaseGeometry:
    """Return a full carrier's outline from the front; what is worn sits on the rider's back.

    Parameters
    ----------
    bike : Bike
        The bike.
    carrier : Carrier
        The carrier.

    Returns
    -------
    shape : BaseGeometry
        A box with rounded corners. [m]

    Examples
    --------
    >>> bag = Carrier(id="r", name="r", place="bar", capacity=0.009, load_limit=3, mass=0.3, longest=0.5)
    >>> round(carrier_front(Bike(), bag).area, 3)
    0.063
    """
    _, width, height = carrier_box(carrier)
    _, middle, z = carrier_position(bike, carrier)
    if carrier.place in WORN:
        low, high, middle = z - 0.5 * height, z + 0.5 * height, 0.0 if carrier.place != "body" else middle
    else:
        heights = [corner[1] for corner in carrier_outline(bike, carrier)]
        low, high = min(heights), max(heights)
    if carrier.place == "bar_end":
        middle = SIDES[carrier.side] * 0.5 * bike.bar_width
    radius = min(0.35 * width, 0.35 * (high - low))
    return box(
        middle - 0.5 * width + radius, low + radius, middle + 0.5 * width - radius, high - radius
    ).buffer(radius)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Exposure:
    """What of one carrier stands in the wind."""

    carrier_id: str
    whole: BaseGeometry  # its outline, without what hangs before it
    outside: BaseGeometry  # of it outside the shadow

    @property
    def area(self) -> float:
        """Area outside the shadow. [m²]"""
        return float(self.outside.area)

    @property
    def covered(self) -> float:
        """Area of its own in the shadow. [m²]"""
        return float(self.whole.area - self.outside.area)


def exposures(bike: Bike, carriers: tuple[Carrier, ...], position: str) -> tuple[Exposure, ...]:
    """Return what of each carrier stands outside the shadow of bike and rider; nothing is counted twice.

    Parameters
    ----------
    bike : Bike
        The bike.
    carriers : tuple of Carrier
        Those that hang on it.
    position : str
        The rider's posture, a key of POSTURES.

    Returns
    -------
    exposures : tuple of Exposure
        In the order given; a carrier right behind another counts only where it stands out beside it. [m²]

    Examples
    --------
    >>> roll = Carrier(id="r", name="r", place="bar", capacity=0.009, load_limit=3, mass=0.3, longest=0.5)
    >>> pouch = Carrier(id="p", name="p", place="bar_front", capacity=0.002, load_limit=1, mass=0.1, longest=0.2)
    >>> alone, = exposures(Bike(), (roll,), "hoods")
    >>> behind, _ = exposures(Bike(), (roll, pouch), "hoods")
    >>> behind.area < alone.area
    True
    """
    dark = shadow(bike, position)
    shapes = {carrier.id: carrier_front(bike, carrier) for carrier in carriers}
    ahead: BaseGeometry = Polygon()
    found: dict[str, Exposure] = {}
    for carrier in sorted(carriers, key=lambda c: -carrier_position(bike, c)[0]):
        whole = shapes[carrier.id].difference(ahead)
        found[carrier.id] = Exposure(carrier_id=carrier.id, whole=whole, outside=whole.difference(dark))
        ahead = unary_union([ahead, shapes[carrier.id]])
    return tuple(found[carrier.id] for carrier in carriers)
