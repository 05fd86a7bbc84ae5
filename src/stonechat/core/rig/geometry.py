"""Where everything is, seen from the side: the frame's points and the outline of each carrier.

Origin: where the rear wheel stands; x forward, z up, in metres.
"""

import math
from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import SIDES, Carrier

Point = tuple[float, float]
Outline = tuple[Point, ...]

_SIDE_OFFSET = {"fork": 0.10, "stem": 0.07, "body": 0.12, "seat": 0.09}  # m from the middle


@dataclass(frozen=True, kw_only=True)
class FramePoints:
    """Points of a bike, each (x, z) in m."""

    rear_axle: Point
    front_axle: Point
    bottom_bracket: Point
    head_top: Point
    head_bottom: Point
    seat_top: Point  # top of the seat tube
    saddle: Point
    bars: Point  # where the hands' bar is clamped
    top_tube_rear: Point  # top tube meets seat tube
    top_tube_front: Point  # top tube meets head tube
    down_tube_front: Point  # down tube meets head tube


def frame_points(bike: Bike) -> FramePoints:
    """Return the points of a bike from its measures.

    Parameters
    ----------
    bike : Bike
        Measures. [m]

    Returns
    -------
    points : FramePoints
        Points seen from the right-hand side. [m]

    Examples
    --------
    >>> points = frame_points(Bike())
    >>> round(points.head_top[1] - points.bottom_bracket[1], 3)
    0.6
    """
    head, seat = math.radians(bike.head_angle), math.radians(bike.seat_angle)
    radius = bike.wheel_radius
    bottom = (
        math.sqrt(bike.chainstay**2 - bike.bottom_bracket_drop**2),
        radius - bike.bottom_bracket_drop,
    )
    head_top = (bottom[0] + bike.reach, bottom[1] + bike.stack)
    down_head = (math.cos(head), -math.sin(head))
    head_bottom = _along(head_top, down_head, bike.head_tube)
    up_seat = (-math.cos(seat), math.sin(seat))
    stem_up = _along(head_top, down_head, -0.030)
    return FramePoints(
        rear_axle=(0.0, radius),
        front_axle=(bike.wheelbase, radius),
        bottom_bracket=bottom,
        head_top=head_top,
        head_bottom=head_bottom,
        seat_top=_along(bottom, up_seat, bike.seat_tube),
        saddle=_along(bottom, up_seat, bike.saddle_height),
        bars=(stem_up[0] + 0.085, stem_up[1] + 0.018),
        top_tube_rear=_along(bottom, up_seat, bike.seat_tube - 0.025),
        top_tube_front=_along(head_top, down_head, 0.028),
        down_tube_front=_along(head_top, down_head, bike.head_tube - 0.030),
    )


def _along(start: Point, direction: Point, length: float) -> Point:
    return (start[0] + direction[0] * length, start[1] + direction[1] * length)


def _mix(a: Point, b: Point, share: float) -> Point:
    return (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)


def _bar_box(a: Point, b: Point, from_share: float, to_share: float, inner: float, outer: float) -> Outline:
    """Return a box beside the line a–b, between two distances to its left (seen along a–b). [m]"""
    length = math.dist(a, b)
    normal = (-(b[1] - a[1]) / length, (b[0] - a[0]) / length)
    p, q = _mix(a, b, from_share), _mix(a, b, to_share)
    return (
        _along(p, normal, inner),
        _along(q, normal, inner),
        _along(q, normal, outer),
        _along(p, normal, outer),
    )


def _triangle(points: FramePoints) -> tuple[Point, Point, Point, Point]:
    """Return the inside of the main triangle: bottom, rear top, front top, front bottom."""
    corners = (points.bottom_bracket, points.top_tube_rear, points.top_tube_front, points.down_tube_front)
    centre = (sum(c[0] for c in corners) / 4, sum(c[1] for c in corners) / 4)
    rear_top, front_top = (_mix(c, centre, 0.10) for c in corners[1:3])
    return _mix(corners[0], centre, 0.20), rear_top, front_top, _mix(corners[3], centre, 0.13)


def carrier_outline(bike: Bike, carrier: Carrier) -> Outline:
    """Return the closed outline of a carrier at its place.

    Parameters
    ----------
    bike : Bike
        The bike it hangs on.
    carrier : Carrier
        The carrier; size follows its capacity where the place leaves room.

    Returns
    -------
    outline : tuple of point
        Corners (x, z); empty for what the rider wears. [m]

    Examples
    --------
    >>> bag = Carrier(id="f", name="f", place="frame", capacity=0.005, load_limit=4, mass=0.2, longest=0.4)
    >>> len(carrier_outline(Bike(), bag))
    4
    """
    p = frame_points(bike)
    bottom, rear_top, front_top, front_bottom = _triangle(p)
    size = max(0.55, min(1.35, (carrier.capacity / _USUAL.get(carrier.place, carrier.capacity)) ** (1 / 3)))
    rear_split, front_split = _mix(rear_top, bottom, 0.40), _mix(front_bottom, bottom, 0.10)
    radius = bike.wheel_radius
    crown_to_axle = (p.head_bottom, p.front_axle)
    shapes: dict[str, Outline] = {
        "frame": (bottom, rear_top, front_top, front_bottom),
        "frame_upper": (rear_split, rear_top, front_top, front_bottom, front_split),
        "frame_lower": (bottom, _mix(rear_split, bottom, 0.06), _mix(front_split, bottom, 0.06)),
        "top_tube_front": _bar_box(
            p.top_tube_rear, p.top_tube_front, 0.94 - 0.40 * size, 0.94, 0.02, 0.02 + 0.085 * size
        ),
        "top_tube_rear": _bar_box(
            p.top_tube_rear, p.top_tube_front, 0.06, 0.06 + 0.32 * size, 0.02, 0.02 + 0.075 * size
        ),
        "stem": _rect((p.bars[0] - 0.075, p.bars[1] - 0.035), 0.085 * size, 0.155 * size),
        "bar": _round((p.bars[0] + 0.030, p.bars[1] - 0.115), 0.082 * size),
        "bar_front": _rect((p.bars[0] + 0.175, p.bars[1] - 0.110), 0.075 * size, 0.150 * size),
        "fork": _bar_box(*crown_to_axle, 0.22, 0.22 + 0.50 * size, -0.045, 0.055),
        "down_tube": _bar_box(p.bottom_bracket, p.down_tube_front, 0.10, 0.10 + 0.36 * size, -0.115, -0.035),
        "seat": _seat_pack(p, radius, size),
        "bottle_down": _bar_box(p.bottom_bracket, p.down_tube_front, 0.24, 0.24 + 0.33 * size, 0.025, 0.098),
        "bottle_seat": _bar_box(p.bottom_bracket, p.seat_top, 0.26, 0.26 + 0.38 * size, -0.098, -0.025),
    }
    return shapes.get(carrier.place, ())


_USUAL = {  # m³, the size for which the outline above is drawn unscaled
    "top_tube_front": 0.0010,
    "top_tube_rear": 0.0008,
    "stem": 0.0012,
    "bar": 0.0090,
    "bar_front": 0.0022,
    "fork": 0.0015,
    "down_tube": 0.0012,
    "seat": 0.0110,
    "bottle_down": 0.00075,
    "bottle_seat": 0.00075,
}


def _rect(centre: Point, width: float, height: float) -> Outline:
    x, z = centre
    w, h = 0.5 * width, 0.5 * height
    return ((x - w, z - h), (x - w, z + h), (x + w, z + h), (x + w, z - h))


def _round(centre: Point, radius: float) -> Outline:
    turns = [2.0 * math.pi * k / 24 for k in range(24)]
    return tuple((centre[0] + radius * math.cos(t), centre[1] + 0.92 * radius * math.sin(t)) for t in turns)


def _seat_pack(p: FramePoints, radius: float, size: float) -> Outline:
    """Return a tail pack: held by post and rails, rising backwards, clear of the tyre."""
    x, z = p.saddle[0], p.saddle[1] - 0.065
    floor = max(2.0 * radius + 0.045, z - 0.30)
    nose = (x + 0.050, max(z - 0.215, floor - 0.03))
    return (
        nose,
        (x + 0.010, z - 0.010),
        (x - 0.150 * size, z + 0.015),
        (x - 0.400 * size, z + 0.050),
        (x - 0.460 * size, z - 0.030),
        (x - 0.420 * size, max(z - 0.125, floor)),
        (x - 0.120 * size, max(z - 0.190, floor)),
    )


def outline_centre(outline: Outline) -> Point:
    """Return the centre of an outline's area.

    Parameters
    ----------
    outline : tuple of point
        Corners in order. [m]

    Returns
    -------
    centre : point
        Centroid (x, z). [m]

    Examples
    --------
    >>> outline_centre(((0.0, 0.0), (2.0, 0.0), (2.0, 2.0), (0.0, 2.0)))
    (1.0, 1.0)
    """
    corners: FloatArray = np.array(outline)
    following = np.roll(corners, -1, axis=0)
    cross = corners[:, 0] * following[:, 1] - following[:, 0] * corners[:, 1]
    area = 0.5 * float(cross.sum())
    centre = ((corners + following) * cross[:, None]).sum(axis=0) / (6.0 * area)
    return float(centre[0]), float(centre[1])


def carrier_position(bike: Bike, carrier: Carrier) -> tuple[float, float, float]:
    """Return where a carrier's load sits.

    Parameters
    ----------
    bike : Bike
        The bike.
    carrier : Carrier
        The carrier; what is worn sits on the rider's back.

    Returns
    -------
    position : tuple of float
        x forward from the rear contact, y to the left, z up. [m]

    Examples
    --------
    >>> pocket = Carrier(id="p", name="p", place="body", capacity=0.002, load_limit=1, mass=0, longest=0.2)
    >>> round(carrier_position(Bike(), pocket)[2], 2)
    1.21
    """
    outline = carrier_outline(bike, carrier)
    y = SIDES[carrier.side] * _SIDE_OFFSET.get(carrier.place, 0.08)
    if not outline:
        saddle = frame_points(bike).saddle
        return saddle[0] + 0.14, y, saddle[1] + 0.23
    x, z = outline_centre(outline)
    return x, y, z


def rider_position(bike: Bike) -> tuple[float, float, float]:
    """Return where the rider's mass sits on the bike.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    position : tuple of float
        x, y, z; a fixed offset from the saddle (estimate). [m]

    Examples
    --------
    >>> round(rider_position(Bike())[0], 2)
    0.44
    """
    saddle = frame_points(bike).saddle
    return saddle[0] + 0.225, 0.0, saddle[1] + 0.13


def bike_position(bike: Bike) -> tuple[float, float, float]:
    """Return where the bare bike's mass sits.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    position : tuple of float
        x, y, z; 47.5 % of the wheelbase and 0.55 m up (estimate). [m]

    Examples
    --------
    >>> round(bike_position(Bike())[0], 3)
    0.496
    """
    return 0.475 * bike.wheelbase, 0.0, 0.55
