"""The bare bike seen from its right side: sheet, wheels, tubes, bars."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from stonechat.core.rig.bike import SADDLE_NOSE, TYRE_HEIGHT, Bike
from stonechat.core.rig.clearance import shock_ends
from stonechat.core.rig.geometry import FramePoints, Point, frame_points

SCALE = 385.0  # drawing units per m
_LEFT, _RIGHT, _TOP, _BELOW = 0.56, 0.62, 0.22, 0.11  # m around the wheels' contacts and the saddle


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


class Sheet:
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


def wheel(sheet: Sheet, bike: Bike, axle: Point) -> Wheel:
    x, y = sheet.at(axle)
    tyre_width = max(TYRE_HEIGHT * bike.tyre_width, 0.020) * SCALE
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


def tubes(sheet: Sheet, bike: Bike, p: FramePoints) -> tuple[Tube, ...]:
    stem_base = _beyond(p.head_bottom, p.head_top, 0.030)
    return (
        *_rear_end(sheet, bike, p),
        sheet.tube(p.bottom_bracket, p.down_tube_front, 0.040),
        sheet.tube(p.top_tube_rear, p.top_tube_front, 0.031),
        sheet.tube(p.bottom_bracket, p.seat_top, 0.031),
        sheet.tube(p.head_bottom, p.head_top, 0.042),
        *_post(sheet, bike, p),
        sheet.tube(p.head_top, stem_base, 0.030, "post"),
        sheet.tube(stem_base, p.bars, 0.030, "post"),
        *_suspension_fork(sheet, bike, p),
    )


def _rear_end(sheet: Sheet, bike: Bike, p: FramePoints) -> list[Tube]:
    """Return the stays; with rear travel they swing on a pivot and push the shock by a link."""
    if bike.rear_travel == 0.0:
        return [
            sheet.tube(p.rear_axle, _mix(p.rear_axle, p.top_tube_rear, 0.985), 0.015, "stay"),
            sheet.tube(p.rear_axle, p.bottom_bracket, 0.018, "stay"),
        ]
    pivot = (p.bottom_bracket[0] + 0.005, p.bottom_bracket[1] + 0.055)
    eye, front_eye = shock_ends(bike)
    link = _mix(p.bottom_bracket, p.seat_top, 0.74)
    knuckle = (link[0] - 0.070, link[1] + 0.018)
    body = _mix(eye, front_eye, 0.42)
    return [
        sheet.tube(p.rear_axle, pivot, 0.024, "stay"),
        sheet.tube(p.rear_axle, knuckle, 0.018, "stay"),
        sheet.tube(knuckle, link, 0.020, "link"),
        sheet.tube(link, eye, 0.020, "link"),
        sheet.tube(eye, front_eye, 0.016, "shaft"),
        sheet.tube(body, front_eye, 0.040, "shock"),
    ]


def _post(sheet: Sheet, bike: Bike, p: FramePoints) -> list[Tube]:
    post = [sheet.tube(p.seat_top, p.post_top, 0.025, "post")]
    if bike.dropper_travel > 0.0:
        length = math.dist(p.seat_top, p.post_top)
        collar = _mix(p.seat_top, p.post_top, max(0.0, 1.0 - (bike.dropper_travel + 0.02) / max(length, 1e-6)))
        post.append(sheet.tube(p.seat_top, _beyond(p.seat_top, collar, 0.012), 0.036, "collar"))
    clamp = (p.saddle[0] + 0.01, p.post_top[1] + 0.008)
    return [*post, sheet.tube(p.post_top, clamp, 0.020, "post")]


def rack(sheet: Sheet, bike: Bike, p: FramePoints) -> tuple[Tube, ...]:
    """Return a light rear rack: its platform over the wheel, and the legs to the axle."""
    deck = 2.0 * bike.wheel_radius + 0.030
    return (
        sheet.tube((-0.170, deck), (0.160, deck), 0.009, "stay"),
        sheet.tube(p.rear_axle, (-0.060, deck), 0.009, "stay"),
        sheet.tube((0.160, deck), (p.top_tube_rear[0] - 0.02, deck + 0.01), 0.009, "stay"),
    )


def _mix(a: Point, b: Point, share: float) -> Point:
    return (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)


def _beyond(a: Point, b: Point, distance: float) -> Point:
    length = max(math.dist(a, b), 1e-6)
    return _mix(a, b, 1.0 + distance / length)


def _axis(p: FramePoints) -> Point:
    """Return the way down the steering axis, of length 1."""
    axis = (p.head_bottom[0] - p.head_top[0], p.head_bottom[1] - p.head_top[1])
    length = math.hypot(*axis)
    return (axis[0] / length, axis[1] / length)


def _suspension_fork(sheet: Sheet, bike: Bike, p: FramePoints) -> list[Tube]:
    """Return legs beside the steering axis: stanchions that slide, lowers below them."""
    if bike.fork_travel == 0.0:
        return []
    down = _axis(p)
    ahead = (-down[1], down[0])
    leg = (p.front_axle[0] - p.head_bottom[0], p.front_axle[1] - p.head_bottom[1])
    offset = leg[0] * ahead[0] + leg[1] * ahead[1]
    along = leg[0] * down[0] + leg[1] * down[1]
    crown = (p.head_bottom[0] + ahead[0] * offset, p.head_bottom[1] + ahead[1] * offset)
    slide = min(bike.fork_travel + 0.015, 0.6 * along)
    top_of_lowers = (crown[0] + down[0] * (slide + 0.01), crown[1] + down[1] * (slide + 0.01))
    return [
        sheet.tube(crown, p.front_axle, 0.033, "slider"),
        sheet.tube(top_of_lowers, p.front_axle, 0.046, "stanchion"),
        sheet.tube(p.head_bottom, crown, 0.040, "stanchion"),
    ]


def fork(sheet: Sheet, bike: Bike, p: FramePoints) -> str:
    """Return a rigid fork leg: along the steering axis at first, then bending forward to the axle."""
    if bike.fork_travel > 0.0:
        return ""
    down, reach = _axis(p), math.dist(p.head_bottom, p.front_axle)
    first = (p.head_bottom[0] + down[0] * 0.45 * reach, p.head_bottom[1] + down[1] * 0.45 * reach)
    second = (p.head_bottom[0] + down[0] * 0.86 * reach, p.head_bottom[1] + down[1] * 0.86 * reach)
    return sheet.curve(p.head_bottom, (first, second, p.front_axle))


def saddle(sheet: Sheet, p: FramePoints) -> str:
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


def bars(sheet: Sheet, bike: Bike, p: FramePoints) -> str:
    x, z = p.bars
    if bike.bars == "flat":
        return sheet.path(((x - 0.040, z + 0.020), (x - 0.004, z + 0.014), (x + 0.008, z), (x + 0.062, z - 0.030)))
    return sheet.curve(
        (x, z),
        ((x + 0.045, z + 0.004), (x + 0.072, z + 0.006), (x + 0.092, z - 0.002)),
        ((x + 0.120, z - 0.016), (x + 0.116, z - 0.062), (x + 0.094, z - 0.092)),
        ((x + 0.072, z - 0.122), (x + 0.030, z - 0.128), (x - 0.030, z - 0.126)),
    )


def extensions(sheet: Sheet, p: FramePoints) -> str:
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


def crank(sheet: Sheet, bike: Bike, p: FramePoints) -> Tube:
    return sheet.tube(p.bottom_bracket, _crank_end(bike, p), 0.018, "crank")


def pedal(sheet: Sheet, bike: Bike, p: FramePoints) -> Tube:
    x, z = _crank_end(bike, p)
    return sheet.tube((x - 0.042, z), (x + 0.042, z), 0.014, "crank")


@dataclass(frozen=True, kw_only=True)
class Measure:
    """A dimension line with its figure."""

    x1: float
    y1: float
    x2: float
    y2: float
    label_x: float
    label_y: float
    words: str


def measures(sheet: Sheet, bike: Bike, p: FramePoints) -> tuple[Measure, ...]:
    """Return the dimension lines that a rider measures along."""
    ground = -0.045
    lines = (
        ((0.0, ground), (bike.wheelbase, ground), (0.5 * bike.wheelbase, ground - 0.030), "wheelbase", bike.wheelbase),
        (p.rear_axle, p.bottom_bracket, None, "chainstay", bike.chainstay),
        ((p.bottom_bracket[0], p.rear_axle[1]), p.bottom_bracket, (p.bottom_bracket[0] + 0.075, p.rear_axle[1] + 0.012),
         "drop", bike.bottom_bracket_drop),
        ((p.head_top[0] + 0.10, p.bottom_bracket[1]), (p.head_top[0] + 0.10, p.head_top[1]),
         (p.head_top[0] + 0.10, p.bottom_bracket[1] - 0.026), "stack", bike.stack),
        ((p.bottom_bracket[0], p.head_top[1] + 0.165), (p.head_top[0], p.head_top[1] + 0.165), None, "reach",
         bike.reach),
        (p.bottom_bracket, p.saddle, (p.bottom_bracket[0] + 0.02, p.bottom_bracket[1] + 0.34), "saddle",
         bike.saddle_height),
        ((p.saddle[0] + SADDLE_NOSE, p.saddle[1] + 0.050), (p.bottom_bracket[0], p.saddle[1] + 0.050),
         (p.saddle[0] + 0.04, p.saddle[1] + 0.060), "setback",
         bike.saddle_setback),
        (p.head_top, p.head_bottom, (p.head_bottom[0] + 0.125, p.head_bottom[1] + 0.02), "head tube", bike.head_tube),
    )  # fmt: skip
    return tuple(_measure(sheet, a, b, at, name, value) for a, b, at, name, value in lines)


def _measure(sheet: Sheet, a: Point, b: Point, at: Point | None, name: str, value: float) -> Measure:
    (x1, y1), (x2, y2) = sheet.at(a), sheet.at(b)
    x, y = sheet.at(at or (0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1]) + 0.022))
    return Measure(x1=x1, y1=y1, x2=x2, y2=y2, label_x=x, label_y=y, words=f"{name} {value * 1000:.0f} mm")
