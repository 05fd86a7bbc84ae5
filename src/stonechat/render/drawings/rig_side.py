"""The bike seen from its right side with what hangs on it, as a scene in drawing units (x right, y down)."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from stonechat.core.ledger.state import CarrierState, LegLoad
from stonechat.core.load.balance import balance
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import (
    FramePoints,
    Outline,
    Point,
    bike_position,
    carrier_outline,
    frame_points,
    rider_position,
)
from stonechat.render.drawings.labels import Box, Label, Wanted, Zone, place_labels

SCALE = 385.0  # drawing units per m
_LEFT, _RIGHT, _TOP, _BELOW = 0.56, 0.62, 0.22, 0.11  # m around the wheels' contacts and the saddle
_TIGHT, _WELL = 0.92, 0.60  # 1, fill from which a carrier is tight, and well filled
_TWIN_SHIFT = (20.0, -9.0)  # how far the left one of a pair stands out behind the right one


@dataclass(frozen=True, kw_only=True)
class Tube:
    """A straight part of the bike."""

    x1: float
    y1: float
    x2: float
    y2: float
    width: float
    kind: str = "tube"


@dataclass(frozen=True, kw_only=True)
class Wheel:
    """A wheel by its circles."""

    x: float
    y: float
    tyre: float  # radius of the tyre's middle
    tyre_width: float
    rim: float
    spokes: tuple[Tube, ...]


@dataclass(frozen=True, kw_only=True)
class CarrierShape:
    """A carrier at its place."""

    id: str
    key: str  # letter that moves a thing into it
    name: str
    place: str
    path: str
    level_y: float  # top of what is in it
    level_height: float
    box: Box
    state: str  # off, free, well, tight or over
    holds: str  # things or water
    words: str  # for people who do not see the picture
    behind: bool


@dataclass(frozen=True, kw_only=True)
class Axle:
    """Load under a wheel."""

    x: float
    y: float
    share: float
    force: float


@dataclass(frozen=True, kw_only=True)
class RigScene:
    """All that the drawing prints."""

    width: float
    height: float
    ground_y: float
    wheels: tuple[Wheel, Wheel]
    tubes: tuple[Tube, ...]
    fork: str
    saddle: str
    bars: str
    extensions: str
    ring: tuple[float, float, float]
    crank: Tube
    pedal: Tube
    carriers: tuple[CarrierShape, ...]
    labels: tuple[Label, ...]
    gravity: Point
    ghost: Point
    axles: tuple[Axle, Axle]
    title: str
    words: str


class _Sheet:
    """Turns metres beside the bike into drawing units."""

    def __init__(self, bike: Bike) -> None:
        points = frame_points(bike)
        top = max(points.saddle[1], points.bars[1]) + _TOP
        self.width = (bike.wheelbase + _LEFT + _RIGHT) * SCALE
        self.height = (top + _BELOW) * SCALE
        self._top = top

    def at(self, point: Point) -> Point:
        return ((point[0] + _LEFT) * SCALE, (self._top - point[1]) * SCALE)

    def tube(self, a: Point, b: Point, width: float, kind: str = "tube") -> Tube:
        (x1, y1), (x2, y2) = self.at(a), self.at(b)
        return Tube(x1=x1, y1=y1, x2=x2, y2=y2, width=width * SCALE, kind=kind)

    def path(self, points: Iterable[Point], *, closed: bool = False) -> str:
        parts = [f"{x:.1f} {y:.1f}" for x, y in map(self.at, points)]
        return "M" + " L".join(parts) + ("Z" if closed else "")

    def curve(self, start: Point, *bends: tuple[Point, Point, Point]) -> str:
        """Return a path of cubic bends, each two handles and an end."""
        x, y = self.at(start)
        text = f"M{x:.1f} {y:.1f}"
        for bend in bends:
            text += " C" + " ".join(f"{px:.1f} {py:.1f}" for px, py in map(self.at, bend))
        return text


def rig_scene(
    bike: Bike, carriers: tuple[Carrier, ...], load: LegLoad, keys: dict[str, str], rider_mass: float
) -> RigScene:
    """Return the drawing of a bike as loaded on one leg; carriers not mounted are drawn as outlines."""
    sheet, points = _Sheet(bike), frame_points(bike)
    states = {state.carrier.id: state for state in load.carriers}
    shapes = tuple(_shape(sheet, bike, carrier, states.get(carrier.id), keys) for carrier in _by_depth(carriers))
    worn = _worn_shapes(sheet, bike, carriers, states, keys)
    every = (*shapes, *worn)
    tubes = _tubes(sheet, bike, points)
    wheels = (_wheel(sheet, bike, points.rear_axle), _wheel(sheet, bike, points.front_axle))
    statics = load.balance
    bare = balance(((bike.mass, *bike_position(bike)), (rider_mass, *rider_position(bike))), bike.wheelbase)
    rear, front = sheet.at((0.0, 0.0)), sheet.at((bike.wheelbase, 0.0))
    gravity = sheet.at((statics.x, statics.z))
    return RigScene(
        width=sheet.width,
        height=sheet.height,
        ground_y=rear[1],
        wheels=wheels,
        tubes=tubes,
        fork=_fork(sheet, points),
        saddle=_saddle(sheet, points),
        bars=_bars(sheet, bike, points),
        extensions=_extensions(sheet, points) if bike.aero_bars else "",
        ring=(*sheet.at(points.bottom_bracket), 0.082 * SCALE),
        crank=_crank(sheet, bike, points),
        pedal=_pedal(sheet, bike, points),
        carriers=every,
        labels=_labels(sheet, every, states, points),
        gravity=gravity,
        ghost=sheet.at((bare.x, bare.z)),
        axles=(
            Axle(x=rear[0], y=rear[1], share=1.0 - statics.front_share, force=statics.rear_force),
            Axle(x=front[0], y=front[1], share=statics.front_share, force=statics.front_force),
        ),
        title=f"{bike.name} seen from the right",
        words=f"Wheelbase {bike.wheelbase * 1000:.0f} mm. {100 * statics.front_share:.0f} % of {load.mass:.1f} kg "
        f"with the rider stand on the front wheel. " + " ".join(shape.words for shape in every),
    )


def _by_depth(carriers: tuple[Carrier, ...]) -> list[Carrier]:
    on_bike = [carrier for carrier in carriers if carrier.place != "body"]
    return sorted(on_bike, key=lambda c: (c.side != "left", c.place != "frame"))


def _is_twin_behind(carrier: Carrier) -> bool:
    return carrier.side == "left"


def _shape(
    sheet: _Sheet, bike: Bike, carrier: Carrier, state: CarrierState | None, keys: dict[str, str]
) -> CarrierShape:
    shift = _TWIN_SHIFT if _is_twin_behind(carrier) else (0.0, 0.0)
    outline = [(x + shift[0], y + shift[1]) for x, y in map(sheet.at, carrier_outline(bike, carrier))]
    soft = _rounded(tuple(outline), 0.014 * SCALE)
    return _filled(carrier, state, keys, soft, Box.around(outline))


def _worn_shapes(
    sheet: _Sheet, bike: Bike, carriers: tuple[Carrier, ...], states: dict[str, CarrierState], keys: dict[str, str]
) -> tuple[CarrierShape, ...]:
    """Return boxes for what the rider wears, in the corner above the rear wheel."""
    shapes = []
    for number, carrier in enumerate(c for c in carriers if c.place == "body"):
        x, y = 8.0 + 124.0 * number, 10.0
        corners: Outline = ((x, y), (x + 118.0, y), (x + 112.0, y + 46.0), (x + 6.0, y + 46.0))
        shapes.append(_filled(carrier, states.get(carrier.id), keys, _rounded(corners, 6.0), Box.around(list(corners))))
    return tuple(shapes)


def _filled(carrier: Carrier, state: CarrierState | None, keys: dict[str, str], path: str, box: Box) -> CarrierShape:
    fill = 0.0 if state is None else min(state.fill, 1.0)
    height = box.height * fill
    verdict = carrier_state(state)
    holds = "water" if carrier.takes == {"water"} else "things"
    if state is None:
        words = f"{carrier.name}: not mounted."
    else:
        words = f"{carrier.name}: {100 * state.fill:.0f} % full, {state.mass:.2f} kg, {STATE_WORDS[verdict]}."
    return CarrierShape(
        id=carrier.id,
        key=keys.get(carrier.id, ""),
        name=carrier.name,
        place=carrier.place,
        path=path,
        level_y=box.y + box.height - height,
        level_height=height,
        box=box,
        state=verdict,
        holds=holds,
        words=words,
        behind=_is_twin_behind(carrier),
    )


STATE_WORDS = {"off": "not mounted", "free": "room left", "well": "well filled", "tight": "tight", "over": "over"}


def carrier_state(state: CarrierState | None) -> str:
    """Return off, free, well, tight or over: by volume and by the load limit, whichever is worse."""
    if state is None:
        return "off"
    used = max(state.fill, state.mass / state.carrier.load_limit)
    if used > 1.0 + 1e-6:
        return "over"
    if state.carrier.takes == {"water"}:
        return "well" if state.fill >= _WELL else "free"
    return "tight" if used >= _TIGHT else "well" if used >= _WELL else "free"


def _rounded(corners: Outline, radius: float) -> str:
    """Return a closed path with rounded corners."""
    text = ""
    count = len(corners)
    for k in range(count):
        before, here, after = corners[k - 1], corners[k], corners[(k + 1) % count]
        start, end = _towards(here, before, radius), _towards(here, after, radius)
        text += f"{'L' if text else 'M'}{start[0]:.1f} {start[1]:.1f}"
        text += f"Q{here[0]:.1f} {here[1]:.1f} {end[0]:.1f} {end[1]:.1f}"
    return text + "Z"


def _towards(start: Point, end: Point, distance: float) -> Point:
    length = math.dist(start, end)
    share = min(0.45, distance / length) if length > 0.0 else 0.0
    return (start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)


def _wheel(sheet: _Sheet, bike: Bike, axle: Point) -> Wheel:
    x, y = sheet.at(axle)
    tyre_width = 0.044 * SCALE
    outer = bike.wheel_radius * SCALE
    rim = outer - tyre_width - 0.006 * SCALE
    spokes = []
    for k in range(16):
        turn, twist = 2.0 * math.pi * k / 16, (0.42 if k % 2 else -0.42)
        hub = 0.028 * SCALE
        spokes.append(
            Tube(
                x1=x + hub * math.cos(turn + twist * 2.2),
                y1=y + hub * math.sin(turn + twist * 2.2),
                x2=x + rim * math.cos(turn),
                y2=y + rim * math.sin(turn),
                width=0.6,
                kind="spoke",
            )
        )
    return Wheel(x=x, y=y, tyre=outer - 0.5 * tyre_width, tyre_width=tyre_width, rim=rim, spokes=tuple(spokes))


def _tubes(sheet: _Sheet, bike: Bike, p: FramePoints) -> tuple[Tube, ...]:
    seat_cluster = p.top_tube_rear
    stem_base = _beyond(p.head_bottom, p.head_top, 0.030)
    tubes = [
        sheet.tube(p.rear_axle, _mix(p.rear_axle, seat_cluster, 0.985), 0.015, "stay"),
        sheet.tube(p.rear_axle, p.bottom_bracket, 0.018, "stay"),
        sheet.tube(p.bottom_bracket, p.down_tube_front, 0.040),
        sheet.tube(p.top_tube_rear, p.top_tube_front, 0.031),
        sheet.tube(p.bottom_bracket, p.seat_top, 0.031),
        sheet.tube(p.head_bottom, p.head_top, 0.042),
        sheet.tube(p.seat_top, _mix(p.seat_top, p.saddle, 0.93), 0.027, "post"),
        sheet.tube(p.head_top, stem_base, 0.030, "post"),
        sheet.tube(stem_base, p.bars, 0.030, "post"),
    ]
    if bike.fork_travel > 0.0:
        crown = p.head_bottom
        lower = _mix(crown, p.front_axle, 0.42)
        tubes.append(sheet.tube(lower, p.front_axle, 0.046, "stanchion"))
    return tuple(tubes)


def _mix(a: Point, b: Point, share: float) -> Point:
    return (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)


def _beyond(a: Point, b: Point, distance: float) -> Point:
    length = math.dist(a, b)
    return _mix(a, b, 1.0 + distance / length)


def _fork(sheet: _Sheet, p: FramePoints) -> str:
    """Return the fork leg: along the steering axis at first, then bending forward to the axle."""
    axis = (p.head_bottom[0] - p.head_top[0], p.head_bottom[1] - p.head_top[1])
    length = math.hypot(*axis)
    down = (axis[0] / length, axis[1] / length)
    reach = math.dist(p.head_bottom, p.front_axle)
    first = (p.head_bottom[0] + down[0] * 0.45 * reach, p.head_bottom[1] + down[1] * 0.45 * reach)
    second = (p.head_bottom[0] + down[0] * 0.86 * reach, p.head_bottom[1] + down[1] * 0.86 * reach)
    return sheet.curve(p.head_bottom, (first, second, p.front_axle))


def _saddle(sheet: _Sheet, p: FramePoints) -> str:
    x, z = p.saddle
    return (
        sheet.curve(
            (x + 0.165, z - 0.010),
            ((x + 0.10, z + 0.004), (x + 0.02, z - 0.008), (x - 0.035, z + 0.006)),
            ((x - 0.075, z + 0.016), (x - 0.105, z + 0.018), (x - 0.115, z + 0.010)),
            ((x - 0.120, z - 0.020), (x - 0.07, z - 0.032), (x - 0.02, z - 0.030)),
            ((x + 0.05, z - 0.026), (x + 0.12, z - 0.026), (x + 0.165, z - 0.010)),
        )
        + "Z"
    )


def _bars(sheet: _Sheet, bike: Bike, p: FramePoints) -> str:
    x, z = p.bars
    if bike.bars == "flat":
        return sheet.path(((x - 0.030, z + 0.016), (x + 0.012, z + 0.010)))
    return sheet.curve(
        (x, z),
        ((x + 0.045, z + 0.004), (x + 0.072, z + 0.006), (x + 0.092, z - 0.002)),
        ((x + 0.120, z - 0.016), (x + 0.116, z - 0.062), (x + 0.094, z - 0.092)),
        ((x + 0.072, z - 0.122), (x + 0.030, z - 0.128), (x - 0.030, z - 0.126)),
    )


def _extensions(sheet: _Sheet, p: FramePoints) -> str:
    x, z = p.bars
    return sheet.curve(
        (x - 0.045, z + 0.038),
        ((x + 0.06, z + 0.040), (x + 0.13, z + 0.036), (x + 0.175, z + 0.044)),
        ((x + 0.205, z + 0.050), (x + 0.222, z + 0.062), (x + 0.232, z + 0.084)),
    )


_CRANK_ANGLE = math.radians(-24.0)  # forward and a little down


def _crank_end(bike: Bike, p: FramePoints) -> Point:
    return (
        p.bottom_bracket[0] + bike.crank * math.cos(_CRANK_ANGLE),
        p.bottom_bracket[1] + bike.crank * math.sin(_CRANK_ANGLE),
    )


def _crank(sheet: _Sheet, bike: Bike, p: FramePoints) -> Tube:
    return sheet.tube(p.bottom_bracket, _crank_end(bike, p), 0.018, "crank")


def _pedal(sheet: _Sheet, bike: Bike, p: FramePoints) -> Tube:
    x, z = _crank_end(bike, p)
    return sheet.tube((x - 0.042, z), (x + 0.042, z), 0.014, "crank")


def _labels(
    sheet: _Sheet, shapes: tuple[CarrierShape, ...], states: dict[str, CarrierState], points: FramePoints
) -> tuple[Label, ...]:
    """Return the labels; a left and a right one of the same kind share one."""
    groups: dict[tuple[str, str], list[CarrierShape]] = {}
    for shape in shapes:
        groups.setdefault((shape.place, _without_side(shape.name) if shape.place in _TWINS else shape.id), []).append(
            shape
        )
    wanted = [
        Wanted(
            ids=tuple(shape.id for shape in group),
            first=_without_side(group[0].name) + ("s" if len(group) > 1 else ""),
            second=_second_line(group, states),
            state=min((shape.state for shape in group), key=_WORST.index),
            shape=group[-1].box,
            zone=_zone(sheet, group[-1], points),
        )
        for group in groups.values()
    ]
    return place_labels(wanted, sheet.width, sheet.height)


_TWINS = frozenset({"fork", "stem"})
_WORST = ("over", "tight", "well", "free", "off")


def _without_side(name: str) -> str:
    return name.removesuffix(", left").removesuffix(", right")


def _second_line(group: list[CarrierShape], states: dict[str, CarrierState]) -> str:
    mounted = [shape for shape in group if shape.id in states]
    if not mounted:
        return "not mounted"
    masses = " + ".join(f"{states[shape.id].mass:.2f}" for shape in mounted)
    worst = min((shape.state for shape in mounted), key=_WORST.index)
    return f"{masses} kg" + (f", {STATE_WORDS[worst]}" if worst in ("over", "tight") else "")


def _zone(sheet: _Sheet, shape: CarrierShape, p: FramePoints) -> Zone:
    """Return where a carrier's label goes: beside the bars, above the top tube, in the open of a wheel."""
    box = shape.box
    in_front_wheel = sheet.at((p.front_axle[0] - 0.265, p.front_axle[1] + 0.055))
    in_rear_wheel = sheet.at((p.rear_axle[0] + 0.10, p.rear_axle[1] - 0.075))
    middle = box.middle
    match shape.place:
        case "top_tube_rear":
            return Zone(x=middle[0] + 14.0, y=sheet.at(p.saddle)[1] - 46.0, align="right", step=-36.0)
        case "top_tube_front":
            return Zone(x=middle[0] - 34.0, y=box.y - 52.0, align="left", step=-36.0)
        case "stem" | "bar_front" | "bar" | "fork":
            x, above_wheel = sheet.at((p.bars[0] + 0.285, 2.0 * p.front_axle[1]))
            slot = ("fork", "bar", "bar_front", "stem").index(shape.place)
            return Zone(x=x, y=above_wheel - 38.0 * (slot + 1), align="left", step=38.0)
        case "bottle_down" | "down_tube":
            return Zone(x=in_front_wheel[0], y=in_front_wheel[1], align="left", step=38.0)
        case "bottle_seat":
            return Zone(x=in_rear_wheel[0], y=in_rear_wheel[1], align="middle", step=38.0)
        case "seat":
            return Zone(x=box.x, y=box.y - 36.0, align="left", step=-36.0, inside=True)
        case "body":
            return Zone(x=middle[0], y=box.y + box.height + 6.0, align="middle", step=36.0, inside=True)
        case _:
            return Zone(x=in_rear_wheel[0], y=sheet.at(p.rear_axle)[1] - 90.0, align="middle", step=-36.0, inside=True)
