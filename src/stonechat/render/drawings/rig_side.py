"""The bike seen from its right side with what hangs on it, as a scene in drawing units (x right, y down)."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from stonechat.core.ledger.loaded import CarrierState, LegLoad
from stonechat.core.load.balance import balance
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.clearance import light_places
from stonechat.core.rig.geometry import (
    FramePoints,
    Outline,
    Point,
    bike_position,
    carrier_outline,
    frame_points,
    rider_position,
)
from stonechat.core.rig.places import WORN
from stonechat.render.drawings import bike_side
from stonechat.render.drawings.bike_side import SCALE, Sheet, Tube, Wheel
from stonechat.render.drawings.labels import Box, Label, Wanted, Zone, place_labels
from stonechat.render.filters import masses_kg

_TIGHT, _WELL = 0.92, 0.60  # 1, fill from which a carrier is tight, and well filled
_LETTERS = "abcdefgijklmnopqrstuvwxyz"  # not h: typed twice it means home
_TWIN_SHIFT = (20.0, -9.0)  # how far the left one of a pair stands out behind the right one


def carrier_letters(carriers: Iterable[Carrier]) -> dict[str, str]:
    """Return the letter of each mounted carrier, on the screen and on paper: `m` and the letter move a thing there."""
    return {c.id: letter for c, letter in zip((c for c in carriers if c.mounted), _LETTERS, strict=False)}


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
    lights: tuple[tuple[float, float, str], ...] = ()  # lights and charge port: where, and what
    measures: tuple[bike_side.Measure, ...] = ()  # where they are asked for


def rig_scene(
    bike: Bike,
    carriers: tuple[Carrier, ...],
    load: LegLoad,
    keys: dict[str, str],
    rider_mass: float,
    *,
    measured: bool = False,
) -> RigScene:
    """Return the drawing of a bike as loaded on one leg; carriers not mounted are drawn as outlines."""
    sheet, points = Sheet(bike), frame_points(bike)
    states = {state.carrier.id: state for state in load.carriers}
    shapes = tuple(_shape(sheet, bike, carrier, states.get(carrier.id), keys) for carrier in _by_depth(carriers))
    worn = _worn_shapes(sheet, bike, carriers, states, keys)
    every = (*shapes, *worn)
    tubes = bike_side.tubes(sheet, bike, points)
    if any(carrier.place in ("rack", "rack_side") and carrier.mounted for carrier in carriers):
        tubes = (*bike_side.rack(sheet, bike, points), *tubes)
    wheels = (bike_side.wheel(sheet, bike, points.rear_axle), bike_side.wheel(sheet, bike, points.front_axle))
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
        fork=bike_side.fork(sheet, bike, points),
        saddle=bike_side.saddle(sheet, points),
        bars=bike_side.bars(sheet, bike, points),
        extensions=bike_side.extensions(sheet, points) if bike.aero_bars else "",
        ring=(*sheet.at(points.bottom_bracket), 0.082 * SCALE),
        crank=bike_side.crank(sheet, bike, points),
        pedal=bike_side.pedal(sheet, bike, points),
        carriers=every,
        labels=_labels(sheet, every, states, points),
        gravity=gravity,
        ghost=sheet.at((bare.x, bare.z)),
        axles=(
            Axle(x=rear[0], y=rear[1], share=1.0 - statics.front_share, force=statics.rear_force),
            Axle(x=front[0], y=front[1], share=statics.front_share, force=statics.front_force),
        ),
        title=f"{bike.name} seen from the right",
        lights=tuple((*sheet.at(point), name) for name, point in light_places(bike).items()),
        measures=bike_side.measures(sheet, bike, points) if measured else (),
        words=f"Wheelbase {bike.wheelbase * 1000:.0f} mm. {100 * statics.front_share:.0f} % of {load.mass:.1f} kg "
        f"with the rider stand on the front wheel. " + " ".join(shape.words for shape in every),
    )


def _by_depth(carriers: tuple[Carrier, ...]) -> list[Carrier]:
    on_bike = [carrier for carrier in carriers if carrier.place not in WORN]
    return sorted(on_bike, key=lambda c: (c.side != "left", c.place != "frame"))


def _is_twin_behind(carrier: Carrier) -> bool:
    return carrier.side == "left"


def _shape(
    sheet: Sheet, bike: Bike, carrier: Carrier, state: CarrierState | None, keys: dict[str, str]
) -> CarrierShape:
    shift = _TWIN_SHIFT if _is_twin_behind(carrier) else (0.0, 0.0)
    outline = [(x + shift[0], y + shift[1]) for x, y in map(sheet.at, carrier_outline(bike, carrier))]
    soft = _rounded(tuple(outline), 0.014 * SCALE)
    return _filled(carrier, state, keys, soft, Box.around(outline))


def _worn_shapes(
    sheet: Sheet, bike: Bike, carriers: tuple[Carrier, ...], states: dict[str, CarrierState], keys: dict[str, str]
) -> tuple[CarrierShape, ...]:
    """Return boxes for what the rider wears, in the corner above the rear wheel."""
    shapes = []
    for number, carrier in enumerate(c for c in carriers if c.place in WORN):
        x, y = 8.0 + 124.0 * (number % 6), 10.0 + 54.0 * (number // 6)
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


def _labels(
    sheet: Sheet, shapes: tuple[CarrierShape, ...], states: dict[str, CarrierState], points: FramePoints
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


_AHEAD = {
    "fork": 0,
    "front_guard": 0,
    "bar": 1,
    "bar_under": 2,
    "bar_front": 2,
    "bar_end": 3,
    "stem": 3,
    "bar_top": 4,
    "aero": 4,
}
_TWINS = frozenset({"fork", "stem", "rack_side", "bar_end"})
_WORST = ("over", "tight", "well", "free", "off")


def _without_side(name: str) -> str:
    return name.removesuffix(", left").removesuffix(", right")


def _second_line(group: list[CarrierShape], states: dict[str, CarrierState]) -> str:
    mounted = [shape for shape in group if shape.id in states]
    if not mounted:
        return "not mounted"
    masses = masses_kg(states[shape.id].mass for shape in mounted)
    worst = min((shape.state for shape in mounted), key=_WORST.index)
    return masses + (f", {STATE_WORDS[worst]}" if worst in ("over", "tight") else "")


def _zone(sheet: Sheet, shape: CarrierShape, p: FramePoints) -> Zone:
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
        case "stem" | "bar_front" | "bar_under" | "bar" | "fork" | "bar_top" | "bar_end" | "aero" | "front_guard":
            x, above_wheel = sheet.at((p.bars[0] + 0.285, 2.0 * p.front_axle[1]))
            slot = _AHEAD[shape.place]
            return Zone(x=x, y=above_wheel - 38.0 * (slot + 1), align="left", step=38.0)
        case "bottle_down" | "down_tube" | "down_store":
            return Zone(x=in_front_wheel[0], y=in_front_wheel[1], align="left", step=38.0)
        case "bottle_seat":
            return Zone(x=in_rear_wheel[0], y=in_rear_wheel[1], align="middle", step=38.0)
        case "seat" | "seat_top" | "rack" | "rack_side":
            return Zone(x=box.x, y=box.y - 36.0, align="left", step=-36.0, inside=True)
        case "body" | "back" | "waist" | "shoulder":
            return Zone(x=middle[0], y=box.y + box.height + 6.0, align="middle", step=36.0, inside=True)
        case _:
            return Zone(x=in_rear_wheel[0], y=sheet.at(p.rear_axle)[1] - 90.0, align="middle", step=-36.0, inside=True)
