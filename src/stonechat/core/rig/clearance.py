"""Clearances and conflicts of what hangs on a bike, from its geometry: millimetres, and the condition.

Bags move with what they hang on; the wheels move up by their travel. All of it seen from the side, bags full.
"""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from shapely import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from stonechat.core.numerics.findings import State
from stonechat.core.rig import places
from stonechat.core.rig.bike import BOSSES, Bike
from stonechat.core.rig.carrier import USES, Carrier
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.geometry import FramePoints, carrier_box, carrier_outline, frame_points
from stonechat.core.rig.places import FRAME_PLACES, PLACES

ENOUGH = 0.030  # m between bag and tyre or frame from which it is fine (estimate)
HITS = 0.010  # m under which it counts as touching: straps give, mud builds up (estimate)
LEAST_BAG = 0.0004  # m³ that a frame bag must have left beside bottles to be one (estimate)
DRAW_OUT = 0.055  # m above a bottle to draw it from a cage that opens upwards (estimate)
DRAW_SIDE = 0.008  # m from one that opens to the side (estimate)
KNEE_ROOM = 0.058  # m from the middle to the inside of the knee (estimate)
HAND = 0.060  # m of each hand on drop bars, inside the hoods (estimate)
DROP = 0.022  # m of each drop that a roll between them must leave (estimate)
GRIP = 0.185  # m of each side of flat bars for grip, levers and shifter (estimate)
HEEL = 0.190  # m from pedal axle to the back of the shoe (estimate)
LIGHT_ROOM = 0.035  # m that a lamp or a port wants free around it (estimate)
# pockets of the clothes are many, a bag over the shoulder goes over all, and bottles have their bosses
SHARED_PLACES = frozenset({"body", "shoulder", "bottle_down", "bottle_seat"})
RATIO = 2.6  # 1, wheel travel for shock travel (estimate)


@dataclass(frozen=True, kw_only=True)
class Clearance:
    """One clearance: how much is left, and when it is gone."""

    carrier_id: str
    code: str  # tyre, shock, frame, knees, heels, bosses, place, lights or hands
    against: str
    margin: float  # m left in the worst condition, negative where it overlaps
    sentence: str

    @property
    def state(self) -> State:
        """Broken, tight or fine; a bottle or a hand wants no air beyond its own room."""
        if self.margin < (HITS if self.code == "tyre" else 0.0):
            return State.BROKEN
        return State.TIGHT if self.margin < (ENOUGH if self.code == "tyre" else 0.005) else State.FINE


@lru_cache(maxsize=64)
def clearances(bike: Bike, carriers: tuple[Carrier, ...]) -> tuple[Clearance, ...]:
    """Return every clearance of a rig, carrier by carrier.

    Parameters
    ----------
    bike : Bike
        The bike.
    carriers : tuple of Carrier
        All carriers; those not mounted are left out.

    Returns
    -------
    clearances : tuple of Clearance
        Margins in the worst condition. [m]

    Examples
    --------
    >>> roll = Carrier(id="r", name="bar roll", place="bar", capacity=0.009, load_limit=3, mass=0.3, longest=0.5)
    >>> found = clearances(Bike(fork_travel=0.12), (roll,))[0]
    >>> found.against, found.margin < clearances(Bike(), (roll,))[0].margin
    ('front tyre', True)
    """
    p = frame_points(bike)
    hung = tuple(carrier for carrier in carriers if carrier.mounted)
    found: list[Clearance] = []
    for carrier in hung:
        for family in (_front_tyre, _rear_tyre, _shock, _knees, _heels, _lights, _port, _hands):
            found += family(bike, p, carrier)
    found += _bottles(bike, hung)
    found += _taken_twice(bike, hung)
    found += _crowded(hung)
    return tuple(found)


def _mm(metres: float) -> str:
    return f"{metres * 1000:.0f} mm"


def _shape(bike: Bike, carrier: Carrier) -> Polygon:
    return Polygon(carrier_outline(bike, carrier))


def touching_travel(gap: Callable[[float], float], travel: float) -> float | None:
    """Return the travel at which a gap closes to what counts as touching.

    Parameters
    ----------
    gap : callable
        Gap at a travel, falling with it. [m]
    travel : float
        Full travel. [m]

    Returns
    -------
    travel : float or None
        To 0.1 mm; None where it stays open. [m]

    Examples
    --------
    >>> round(touching_travel(lambda t: 0.097 - t, 0.1), 4)
    0.087
    """
    if gap(travel) >= HITS:
        return None
    low, high = 0.0, travel
    while high - low > 5e-5:
        middle = 0.5 * (low + high)
        low, high = (low, middle) if gap(middle) < HITS else (middle, high)
    return high


def _condition(rest: float, touch: float | None, travel: float, full: float, what: str, then: str = "") -> str:
    if rest < HITS:
        return f"{_mm(rest)} at rest{then}: it rubs"
    if touch is not None:
        return f"{_mm(rest)} at rest{then}, touches at {touch * 1000:.0f} mm of {_mm(travel)} travel"
    if travel > 0.0:
        return f"{_mm(rest)} at rest{then}, {_mm(full)} at {what}"
    return f"{_mm(rest)} at rest{then}"


_BY_FRONT = places.where(lambda place: place.by_front_wheel)


def _front_tyre(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """What hangs on bars or frame against the front tyre, which comes up along the steering axis."""
    if carrier.place not in _BY_FRONT:
        return
    shape, angle = _shape(bike, carrier), math.radians(bike.head_angle)
    travel = 0.0 if carrier.place == "front_guard" else bike.fork_travel

    def gap(t: float) -> float:
        axle = Point(p.front_axle[0] - t * math.cos(angle), p.front_axle[1] + t * math.sin(angle))
        return float(shape.distance(axle)) - bike.wheel_radius

    touch = touching_travel(gap, travel) if travel > 0.0 else None
    full = gap(travel)
    yield Clearance(
        carrier_id=carrier.id,
        code="tyre",
        against="front tyre",
        margin=min(gap(0.0), full),
        sentence=f"{carrier.name} to the front tyre: {_condition(gap(0.0), touch, travel, full, 'full travel')}.",
    )


_ON_SADDLE = places.where(lambda place: place.sways)
_BY_REAR = places.where(lambda place: place.by_rear_wheel)


def _rear_tyre(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """What hangs behind against the rear tyre; a pack on the saddle comes down with the dropper."""
    if carrier.place not in _BY_REAR or (carrier.place not in _ON_SADDLE and bike.rear_travel == 0.0):
        return
    angle = math.radians(bike.seat_angle)
    shape = _shape(bike, carrier)
    dropped = bike.dropper_travel if carrier.place in _ON_SADDLE else 0.0
    lowered = Polygon(
        [(x + dropped * math.cos(angle), z - dropped * math.sin(angle)) for x, z in shape.exterior.coords]
    )

    def gap(t: float) -> float:
        return float(lowered.distance(Point(0.0, p.rear_axle[1] + t))) - bike.wheel_radius

    up = float(shape.distance(Point(p.rear_axle))) - bike.wheel_radius
    touch = touching_travel(gap, bike.rear_travel) if bike.rear_travel > 0.0 else None
    then = " with the saddle lowered" if dropped > 0.0 else ""
    first = f"{_mm(up)} with the saddle up, " if dropped > 0.0 else ""
    words = _condition(gap(0.0), touch, bike.rear_travel, gap(bike.rear_travel), "full travel", then)
    yield Clearance(
        carrier_id=carrier.id,
        code="tyre",
        against="rear tyre",
        margin=min(up, gap(0.0), gap(bike.rear_travel)),
        sentence=f"{carrier.name} to the rear tyre: {first}{words}.",
    )


def shock_sweep(bike: Bike) -> BaseGeometry | None:
    """Return what the rear shock and its link pass through on their way, seen from the side.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    sweep : BaseGeometry or None
        None without rear travel. [m]

    Notes
    -----
    The shock lies under the top tube, its link on the seat tube; both places are drawn, not measured (estimate).

    Examples
    --------
    >>> shock_sweep(Bike()) is None, shock_sweep(Bike(rear_travel=0.115)).area > 0.005
    (True, True)
    """
    if bike.rear_travel == 0.0:
        return None
    rear, front = shock_ends(bike)
    length = math.dist(rear, front)
    stroke = bike.rear_travel / RATIO
    moved = (rear[0] + (front[0] - rear[0]) * stroke / length, rear[1] + (front[1] - rear[1]) * stroke / length)
    link = frame_points(bike).top_tube_rear
    swept = LineString([rear, moved, front]).buffer(0.026)
    return swept.union(Polygon([link, rear, moved]).buffer(0.014))


def shock_ends(bike: Bike) -> tuple[tuple[float, float], tuple[float, float]]:
    """Return both eyes of the rear shock at rest, seen from the side.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    ends : tuple of point
        Rear and front (x, z). [m]

    Examples
    --------
    >>> rear, front = shock_ends(Bike(rear_travel=0.1))
    >>> rear[0] < front[0]
    True
    """
    p = frame_points(bike)
    a, b = p.top_tube_rear, p.top_tube_front
    length = math.dist(a, b)
    along, down = ((b[0] - a[0]) / length, (b[1] - a[1]) / length), ((b[1] - a[1]) / length, -(b[0] - a[0]) / length)

    def at(forward: float, under: float) -> tuple[float, float]:
        return a[0] + along[0] * forward + down[0] * under, a[1] + along[1] * forward + down[1] * under

    return at(0.055, 0.050), at(0.255, 0.046)


def _shock(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """Bottles and frame bags against a shock that moves."""
    sweep = shock_sweep(bike)
    if sweep is None or carrier.place not in ("bottle_seat", "bottle_down", "frame", "frame_upper", "frame_lower"):
        return
    shape = _shape(bike, carrier)
    overlap = float(shape.intersection(sweep).area)
    margin = float(shape.distance(sweep)) if overlap == 0.0 else -math.sqrt(overlap)
    words = f"{_mm(margin)} over its whole stroke" if margin >= 0.0 else f"in its way by about {_mm(-margin)}"
    yield Clearance(
        carrier_id=carrier.id,
        code="shock",
        against="rear shock",
        margin=margin,
        sentence=f"{carrier.name} to the rear shock: {words}.",
    )


def _knees(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """Thickness of what rides between the knees."""
    if carrier.place not in ("frame", "frame_upper", "top_tube_front", "top_tube_rear", "bottle_seat", "bottle_down"):
        return
    _, width, _ = carrier_box(carrier)
    margin = KNEE_ROOM - 0.5 * width
    words = f"{_mm(margin)} to each knee" if margin >= 0.0 else f"{_mm(-margin)} too thick on each side"
    yield Clearance(
        carrier_id=carrier.id,
        code="knees",
        against="knees",
        margin=margin,
        sentence=f"{carrier.name}, {_mm(width)} thick: {words} (knees about {_mm(2.0 * KNEE_ROOM)} apart, estimate).",
    )


def _heels(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """What hangs beside the rear wheel against the heel at the back of its stroke."""
    if carrier.place != "rack_side":
        return
    heel = p.bottom_bracket[0] - bike.crank - HEEL
    margin = heel - max(x for x, _ in carrier_outline(bike, carrier))
    words = f"{_mm(margin)} left" if margin >= 0.0 else f"the heel strikes it by {_mm(-margin)}"
    yield Clearance(
        carrier_id=carrier.id,
        code="heels",
        against="heel",
        margin=margin,
        sentence=f"{carrier.name} behind the heel: {words}.",
    )


def light_places(bike: Bike) -> dict[str, tuple[float, float]]:
    """Return where the bike's own lights and its charge port sit, seen from the side.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    places : dict of str to point
        `front light`, `rear light` and `charge port`, as far as it has them. [m]

    Examples
    --------
    >>> sorted(light_places(Bike()))
    ['front light', 'rear light']
    """
    p = frame_points(bike)
    front = {
        "bars": (p.bars[0] + 0.035, p.bars[1] - 0.030),
        "ahead": (p.bars[0] + 0.240, p.bars[1] + 0.010),
        "crown": (p.head_bottom[0] + 0.050, p.head_bottom[1]),
    }
    rear = {
        "post": (_mix(p.seat_top, p.post_top, 0.55)[0] - 0.035, _mix(p.seat_top, p.post_top, 0.55)[1]),
        "saddle": (p.saddle[0] - 0.110, p.saddle[1] - 0.055),
        "stay": (_mix(p.rear_axle, p.top_tube_rear, 0.62)[0] - 0.030, _mix(p.rear_axle, p.top_tube_rear, 0.62)[1]),
    }
    ports = {
        "top_tube": _above(_mix(p.top_tube_front, p.top_tube_rear, 0.12), 0.018),
        "down_tube": _mix(p.down_tube_front, p.bottom_bracket, 0.12),
        "bars": (p.bars[0] - 0.02, p.bars[1] + 0.02),
    }
    places = {}
    if bike.front_light in front:
        places["front light"] = front[bike.front_light]
    if bike.rear_light in rear:
        places["rear light"] = rear[bike.rear_light]
    if bike.charge_port in ports:
        places["charge port"] = ports[bike.charge_port]
    return places


def _mix(a: tuple[float, float], b: tuple[float, float], share: float) -> tuple[float, float]:
    return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share


def _above(point: tuple[float, float], height: float) -> tuple[float, float]:
    return point[0], point[1] + height


_HIDES = {place.key: place.hides for place in places.ALL}


def _lights(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """Bags before the front light or behind the rear light and reflector: what lies at their height, outside them."""
    for name, (x, z) in light_places(bike).items():
        if _HIDES.get(carrier.place) != name:
            continue
        ahead = 1.0 if name == "front light" else -1.0
        outline = carrier_outline(bike, carrier)
        outer = max(ahead * (corner[0] - x) for corner in outline)
        low, high = min(corner[1] for corner in outline), max(corner[1] for corner in outline)
        margin = max(low - z, z - high) if outer > 0.0 else -outer + LIGHT_ROOM
        words = f"free, {_mm(margin)}" if margin >= 0.0 else "covers it; mount the light elsewhere"
        yield Clearance(
            carrier_id=carrier.id,
            code="lights",
            against=name,
            margin=margin,
            sentence=f"{carrier.name} and the {name}{' and reflector' if ahead < 0 else ''}: {words}.",
        )


def _port(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """A bag over the charge port."""
    port = light_places(bike).get("charge port")
    if port is None or carrier.place not in ("top_tube_front", "frame", "frame_upper", "stem", "bar_top", "aero"):
        return
    margin = float(_shape(bike, carrier).distance(Point(port))) - LIGHT_ROOM
    words = f"{_mm(margin + LIGHT_ROOM)} away" if margin >= 0.0 else "no room for the plug"
    yield Clearance(
        carrier_id=carrier.id,
        code="lights",
        against="charge port",
        margin=margin,
        sentence=f"{carrier.name} and the charge port: {words}.",
    )


def _hands(bike: Bike, p: FramePoints, carrier: Carrier) -> Iterator[Clearance]:
    """Width of what hangs before the bars against the room between the hands."""
    if carrier.place not in ("bar", "bar_front", "bar_top"):
        return
    _, width, _ = carrier_box(carrier)
    each = HAND if bike.bars == "drop" else GRIP
    room = bike.bar_width - 2.0 * each
    if carrier.place == "bar":  # a roll hangs between the drops, or under the levers of flat bars
        room = bike.bar_width - (2.0 * DROP if bike.bars == "drop" else GRIP)
    margin = room - width
    words = f"{_mm(margin)} to spare" if margin >= 0.0 else f"{_mm(-margin)} too wide: hands or levers touch it"
    yield Clearance(
        carrier_id=carrier.id,
        code="hands",
        against="hands",
        margin=margin,
        sentence=f"{carrier.name}, {_mm(width)} wide, in {_mm(room)} between the hands: {words}.",
    )


def _bottles(bike: Bike, hung: tuple[Carrier, ...]) -> Iterator[Clearance]:
    """Bottles against frame bags and one another, with the room to draw them out."""
    bottles = [c for c in hung if c.place in ("bottle_down", "bottle_seat")]
    bags = [c for c in hung if c.place in ("frame", "frame_upper", "frame_lower")]
    for bottle in bottles:
        for other in (*bags, *(b for b in bottles if b.id > bottle.id)):
            margin = _apart(_drawn_out(bike, bottle), _shape(bike, other))
            is_cut_out = other.place in FRAME_PLACES and not other.capacity_by_hand and other.capacity >= LEAST_BAG
            if margin < 0.0 and is_cut_out:  # a bag made for the frame: its volume leaves the bottle out
                continue
            free = f"{_mm(margin)} beyond the room to draw it out"
            words = free if margin >= 0.0 else f"in each other's way by about {_mm(-margin)}"
            yield Clearance(
                carrier_id=bottle.id,
                code="frame",
                against=other.name,
                margin=margin,
                sentence=f"{bottle.name} and {other.name}: {words}.",
            )


def _apart(shape: Polygon, other: Polygon) -> float:
    """Return how far two shapes are apart; where they overlap, the side of a square as large as that, negative. [m]"""
    overlap = float(shape.intersection(other).area)
    return float(shape.distance(other)) if overlap == 0.0 else -math.sqrt(overlap)


def _drawn_out(bike: Bike, bottle: Carrier) -> Polygon:
    room = DRAW_OUT if bottle.kind == "bottle_top" or bottle.kind == "own" else DRAW_SIDE
    length, _, _ = carrier_box(bottle)
    (a, b, c, d) = carrier_outline(bike, bottle)[:4]
    share = (length + room) / length
    return Polygon([a, _mix(a, b, share), _mix(d, c, share), d])


def _taken_twice(bike: Bike, hung: tuple[Carrier, ...]) -> Iterator[Clearance]:
    """Bosses and clamps that two carriers want, that the bike lacks, or that bear less than the carrier may hold."""
    taken: dict[str, Carrier] = {}
    for carrier in hung:
        for use in sorted(carrier.uses):
            words, margin = "free", 0.1
            if use in BOSSES and use not in bike.bosses:
                words, margin = "this bike has none", -0.1
            elif use in taken:
                words, margin = f"{taken[use].name} is on them already", -0.1
            elif use in BOSSES and carrier.load_limit + carrier.mass > BOSSES[use][1] + 1e-9:
                words = (
                    f"they bear about {BOSSES[use][1]:.1f} kg (estimate), and it may hold "
                    f"{carrier.load_limit + carrier.mass:.1f} kg with its own mass"
                )
                margin = 0.001
            taken.setdefault(use, carrier)
            if margin < 0.1:
                yield Clearance(
                    carrier_id=carrier.id,
                    code="bosses",
                    against=USES[use],
                    margin=margin,
                    sentence=f"{carrier.name} on {USES[use]}: {words}.",
                )


def _crowded(hung: tuple[Carrier, ...]) -> Iterator[Clearance]:
    """Carriers that want the place of another one: each takes one, on its side."""
    for k, carrier in enumerate(hung):
        before = next((other for other in hung[:k] if _same_place(other, carrier)), None)
        if before is not None:
            yield Clearance(
                carrier_id=carrier.id,
                code="place",
                against=before.name,
                margin=-0.1,
                sentence=f"{carrier.name} and {before.name} both hang {PLACES[carrier.place]}. Take one of them off.",
            )


def _same_place(one: Carrier, other: Carrier) -> bool:
    """Whether two carriers want one place; parts of one set share theirs, a bladder lies in the bag that is there."""
    frame = {one.place, other.place} & {"frame"} and {one.place, other.place} <= FRAME_PLACES
    if not frame and (one.place, one.side) != (other.place, other.side):
        return False
    parts = KINDS[one.kind].parts if one.kind in KINDS else ()
    alike = [part for part in parts if (part.place, part.side) == (one.place, one.side)]
    of_a_set = one.kind == other.kind and one.name != other.name and len(alike) > 1
    return not (of_a_set or one.place in SHARED_PLACES or "bladder" in (one.kind, other.kind))
