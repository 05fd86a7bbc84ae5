"""Where everything is, seen from the side: the frame's points and the outline of each carrier.

Origin: where the rear wheel stands; x forward, z up, in metres.
"""

import math
from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rig import places
from stonechat.core.rig.bike import SADDLE_NOSE, Bike
from stonechat.core.rig.carrier import SIDES, Carrier
from stonechat.core.rig.places import WORN

Point = tuple[float, float]
Outline = tuple[Point, ...]

_SIDE_OFFSET = {"fork": 0.10, "stem": 0.07, "body": 0.12, "seat": 0.09, "rack_side": 0.16, "bar_end": 0.22}  # m
RAIL_DROP = 0.045  # m from the saddle's top to its rails


@dataclass(frozen=True, kw_only=True)
class FramePoints:
    """Points of a bike, each (x, z) in m."""

    rear_axle: Point
    front_axle: Point
    bottom_bracket: Point
    head_top: Point
    head_bottom: Point
    seat_top: Point  # top of the seat tube
    saddle: Point  # middle of its top
    post_top: Point  # where the post meets the saddle's rails
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
    back = bike.saddle_setback + SADDLE_NOSE
    stem_up = _along(head_top, down_head, -0.030)
    return FramePoints(
        rear_axle=(0.0, radius),
        front_axle=(bike.wheelbase, radius),
        bottom_bracket=bottom,
        head_top=head_top,
        head_bottom=head_bottom,
        seat_top=_along(bottom, up_seat, bike.seat_tube),
        saddle=(bottom[0] - back, bottom[1] + math.sqrt(max(bike.saddle_height**2 - back**2, 0.0))),
        post_top=_along(bottom, up_seat, bike.saddle_height - RAIL_DROP / math.sin(seat)),
        bars=(stem_up[0] + bike.stem, stem_up[1] + 0.21 * bike.stem),
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


USUAL_BOXES = {place.key: place.box for place in places.ALL}


def carrier_box(carrier: Carrier) -> tuple[float, float, float]:
    """Return a carrier's size when full: along its place, across, upright.

    Parameters
    ----------
    carrier : Carrier
        What is not given follows the usual for its place, by the cube root of capacity within 0.55 and 1.35.

    Returns
    -------
    box : tuple of float
        Length, width, height. [m]

    Examples
    --------
    >>> bag = Carrier(id="r", name="r", place="bar", capacity=0.009, load_limit=3, mass=0.3, longest=0.5, width=0.5)
    >>> carrier_box(bag)
    (0.164, 0.5, 0.151)
    """
    *usual, capacity = USUAL_BOXES[carrier.place]
    size = max(0.55, min(1.35, (carrier.capacity / capacity) ** (1 / 3)))
    given = (carrier.length, carrier.width, carrier.height)
    length, width, height = (own or size * plain for own, plain in zip(given, usual, strict=True))
    return length, width, height


def carrier_outline(bike: Bike, carrier: Carrier) -> Outline:
    """Return the closed outline of a carrier at its place, seen from the side.

    Parameters
    ----------
    bike : Bike
        The bike it hangs on.
    carrier : Carrier
        The carrier; size follows its box where the place leaves room.

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
    if carrier.place in WORN:
        return ()
    p = frame_points(bike)
    length, _, height = carrier_box(carrier)
    if carrier.place in ("frame", "frame_upper", "frame_lower"):
        return _frame_bag(bike, p, carrier.place)
    line = place_line(bike, carrier.place, carrier.side)
    if line is not None:
        a, b, start, inner, side = line
        reach = math.dist(a, b)
        begin = max(0.0, min(start + carrier.shift, reach - 0.02))
        box = _bar_box(a, b, begin / reach, (begin + length) / reach, side * inner, side * (inner + height))
        return box if side > 0 else tuple(reversed(box))
    return _free_outline(bike, p, carrier.place, length, height, carrier.shift)


PlaceLine = tuple[Point, Point, float, float, float]


def place_line(bike: Bike, place: str, side: str = "centre") -> PlaceLine | None:
    """Return the tube along which a place's carriers can be shifted.

    Parameters
    ----------
    bike : Bike
        The bike.
    place : str
        Key of PLACES.
    side : str
        Key of SIDES; both sides share a line seen from the side.

    Returns
    -------
    line : tuple or None
        Both ends (x, z), where a carrier usually begins, its gap from the tube's middle [m], and on which side of
        the line it lies (+1 to the left seen along it); None where nothing can be shifted along a tube.

    Examples
    --------
    >>> place_line(Bike(), "seat") is None
    True
    """
    p = frame_points(bike)
    top = math.dist(p.top_tube_rear, p.top_tube_front)
    down = math.dist(p.bottom_bracket, p.down_tube_front)
    seat = math.dist(p.bottom_bracket, p.seat_top)
    leg = math.dist(p.head_bottom, p.front_axle)
    lines: dict[str, PlaceLine] = {
        "top_tube_front": (p.top_tube_front, p.top_tube_rear, 0.06 * top, 0.020, -1.0),
        "top_tube_rear": (p.top_tube_rear, p.top_tube_front, 0.06 * top, 0.020, 1.0),
        "fork": (p.head_bottom, p.front_axle, 0.22 * leg, -0.045, 1.0),
        "down_tube": (p.bottom_bracket, p.down_tube_front, 0.10 * down, 0.035, -1.0),
        "down_store": (p.bottom_bracket, p.down_tube_front, 0.45 * down, -0.016, 1.0),
        "bottle_down": (p.bottom_bracket, p.down_tube_front, 0.28 * down, 0.025, 1.0),
        "bottle_seat": (p.bottom_bracket, p.seat_top, 0.31 * seat, 0.025, -1.0),
    }
    return lines.get(place)


def shift_range(bike: Bike, carrier: Carrier) -> tuple[float, float]:
    """Return how far a carrier can be shifted along its place.

    Parameters
    ----------
    bike : Bike
        The bike.
    carrier : Carrier
        The carrier where it is.

    Returns
    -------
    shifts : tuple of float
        Least and most; both 0 where it cannot be shifted. [m]

    Examples
    --------
    >>> shift_range(Bike(), Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.3, longest=0.4))
    (0.0, 0.0)
    """
    line = place_line(bike, carrier.place, carrier.side)
    if line is not None:
        a, b, start, _, _ = line
        return -start, max(math.dist(a, b) - start - carrier_box(carrier)[0], -start)
    return (-FREE_SHIFT, FREE_SHIFT) if carrier.place in _FREE else (0.0, 0.0)


FREE_SHIFT = 0.06  # m by which what hangs free can be set forward or up (estimate)
_FREE = places.where(lambda place: place.free)


def _frame_bag(bike: Bike, p: FramePoints, place: str) -> Outline:
    bottom, rear_top, front_top, front_bottom = _triangle(p)
    rear_split, front_split = _mix(rear_top, bottom, 0.27), _mix(front_bottom, bottom, 0.08)
    if bike.rear_travel > 0.0:  # the shock takes the upper rear corner
        shock_front = _mix(rear_top, front_top, 0.58)
        rear_top, rear_split = shock_front, _mix(shock_front, bottom, 0.45)
    shapes: dict[str, Outline] = {
        "frame": (bottom, rear_top, front_top, front_bottom),
        "frame_upper": (rear_split, rear_top, front_top, front_bottom, front_split),
        "frame_lower": (bottom, _mix(rear_split, bottom, 0.06), _mix(front_split, bottom, 0.06)),
    }
    return shapes[place]


def _free_outline(bike: Bike, p: FramePoints, place: str, length: float, height: float, shift: float) -> Outline:
    """Return the outline of what hangs free of a tube; `shift` moves it forward, or up and down the bars. [m]"""
    radius, (bx, bz), (sx, sz), half = bike.wheel_radius, p.bars, p.saddle, 0.5 * height
    if place in ("bar", "bar_under"):  # the second below a roll of the small size; `shift` fits it to another
        below = 0.033 if place == "bar" else 0.170
        return _round((bx + 0.030, bz - below - half + shift), 0.5 * length, half)
    centres: dict[str, Point] = {
        "stem": (bx - 0.075 + shift, bz - 0.035),
        "bar_front": (bx + 0.104 + 0.5 * length, bz - 0.105 + shift),
        "bar_top": (bx + 0.030 + 0.5 * length + shift, bz + 0.010 + half),
        "bar_end": (bx + (0.085 if bike.bars == "drop" else -0.005), bz - 0.015),
        "aero": (bx + 0.090 + shift, bz + 0.055 + half),
        "front_guard": (p.front_axle[0] + 0.02 + shift, 2.0 * radius + 0.020 + half),
        "seat_top": (sx - 0.130 - 0.5 * length + shift, sz + 0.010 + half),
        "rack": (0.145 - 0.5 * length + shift, 2.0 * radius + 0.035 + half),
        "rack_side": (-0.045 - 0.5 * length + 0.10 + shift, 2.0 * radius + 0.02 - half),
    }
    if place in centres:
        return _rect(centres[place], length, height)
    return _seat_pack(p, radius, length / 0.46, height / 0.26)


def _rect(centre: Point, width: float, height: float) -> Outline:
    x, z = centre
    w, h = 0.5 * width, 0.5 * height
    return ((x - w, z - h), (x - w, z + h), (x + w, z + h), (x + w, z - h))


def _round(centre: Point, half_length: float, half_height: float) -> Outline:
    turns = [2.0 * math.pi * k / 24 for k in range(24)]
    return tuple((centre[0] + half_length * math.cos(t), centre[1] + half_height * math.sin(t)) for t in turns)


def _seat_pack(p: FramePoints, radius: float, long: float, tall: float) -> Outline:
    """Return a tail pack: held by post and rails, rising backwards, strapped up clear of the tyre at rest."""
    x, z = p.saddle[0], p.saddle[1] - 0.065
    floor = max(2.0 * radius + 0.045, z - 0.30 * tall)
    nose = (x + 0.050, max(z - 0.215 * tall, floor - 0.03))
    return (
        nose,
        (x + 0.010, z - 0.010),
        (x - 0.150 * long, z + 0.015),
        (x - 0.400 * long, z + 0.050),
        (x - 0.460 * long, z - 0.030),
        (x - 0.420 * long, max(z - 0.125 * tall, floor)),
        (x - 0.120 * long, max(z - 0.190 * tall, floor)),
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
        return saddle[0] + 0.14, y, saddle[1] + _WORN_HEIGHT[carrier.place]
    x, z = outline_centre(outline)
    return x, y, z


_WORN_HEIGHT = {"body": 0.23, "waist": 0.14, "back": 0.36, "shoulder": 0.30}  # m above the saddle (estimates)


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
        x, y, z; by its own share on the front wheel, and 0.55 m up (estimate). [m]

    Examples
    --------
    >>> round(bike_position(Bike())[0], 3)
    0.496
    """
    return bike.front_share * bike.wheelbase, 0.0, 0.55
