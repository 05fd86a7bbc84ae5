"""Water and food along the route: carried against needed, the reserve, what goes in, and the doors under them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.supply.carry import Levels
from stonechat.render.drawings.along import Along, Tick
from stonechat.render.filters import kcal, litres_of_water, mass_kg

WIDTH, NARROW = 860.0, 366.0
LEFT, RIGHT = 56.0, 64.0
_BAND, _GAP, _TOP = 118.0, 34.0, 26.0
_MASS = 74.0  # height of the band of mass
_DOORS = 42.0
_LABEL_STEP = 46.0  # least distance between two names
_MOST_LINKED = 60  # stops that lead to their panels by a link of their own
_HEAD = 1.12  # 1, of the largest figure to the top of its band


@dataclass(frozen=True, kw_only=True)
class Band:
    """One provision."""

    name: str
    top: float
    bottom: float
    carried: str  # points of the area that is aboard
    needed: str  # path of what the way to the next refill still takes
    reserve: float | None  # y of the reserve
    room: float | None  # y of what goes in
    room_words: str
    ticks: tuple[Tick, ...]
    worst: Tick | None  # over the leg that decides


@dataclass(frozen=True, kw_only=True)
class StopMark:
    """A stop under the bands."""

    x: float
    name: str  # empty where there is no room
    fills: bool
    buys: bool
    passed: bool
    shut: bool
    here: bool  # whether the current leg begins there
    address: str
    words: str


@dataclass(frozen=True, kw_only=True)
class SupplyLine:
    """All that the picture prints."""

    width: float
    height: float
    left: float
    right: float
    bands: tuple[Band, ...]
    mass: Band
    stops: tuple[StopMark, ...]
    far: str  # path of ticks for the stops of a long race that are far from the current leg
    doors_y: float
    current: tuple[float, float]  # x and width of the current leg
    nights: tuple[tuple[float, float], ...]  # x and width of what is ridden in the dark
    km: tuple[Tick, ...]
    words: str


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """What the picture is asked to show besides the ride."""

    leg: int  # the current one
    addresses: Sequence[str]  # of the legs
    narrow: bool = False  # for a phone: no names of stops but that of the current leg, fewer marks


def supply_line(ridden: Ridden, drawn: Drawn) -> SupplyLine:
    """Return the picture of a variant's supply."""
    leg, addresses = drawn.leg, drawn.addresses
    provisions = ridden.provisions
    width = NARROW if drawn.narrow else WIDTH
    x = Along(ridden, width=width, left=LEFT, right=RIGHT)
    water_top, food_top = _TOP, _TOP + _BAND + _GAP
    mass_top = food_top + _BAND + _GAP
    doors = mass_top + _MASS + _DOORS
    water = _band("Water", x, ridden, provisions.water, water_top, _Shown(provisions.capacity, provisions.reserve))
    food = _band("Food", x, ridden, provisions.eaten, food_top, _Shown(float(provisions.food_room.min()), None))
    return SupplyLine(
        width=width,
        height=doors + 64.0,
        left=LEFT,
        right=width - RIGHT,
        bands=(water, food),
        mass=_mass_band(x, ridden, mass_top),
        stops=_stops(x, ridden, leg, () if drawn.narrow else addresses),
        far=" ".join(
            f"M{x(visit.distance):.1f},{doors - 4:.0f}v8"
            for k, visit in enumerate(ridden.timetable.visits[:-1], start=1)
            if _is_far(ridden, leg, k)
        ),
        doors_y=doors,
        current=x.leg(ridden, leg),
        nights=x.dark(ridden),
        km=x.marks(),
        words=_words(ridden),
    )


def _round_ticks(most: float) -> list[float]:
    power = 10.0 ** np.floor(np.log10(max(most, 1e-9)))
    step = next(s * power for s in (0.2, 0.5, 1.0, 2.0, 5.0) if most / (s * power) <= 4.5)
    return [float(at) for at in np.arange(0.0, most * _HEAD, step)]


class _Shown(NamedTuple):
    """What goes in, and what is left at a refill."""

    room: float
    reserve: float | None


SAID: dict[str, Callable[[float], str]] = {"Water": litres_of_water, "Food": kcal}


def _band(name: str, x: Along, ridden: Ridden, levels: Levels, top: float, shown: _Shown) -> Band:
    legs, said, (room, reserve) = ridden.timetable.legs, SAID[name], shown
    most = max(float(levels.leaving.max()), float(levels.until.max()), 1e-9)
    shown_room = room if room <= 1.6 * most else None
    scale = max(most, shown_room or 0.0) * _HEAD

    def y(value: float) -> float:
        return top + _BAND * (1.0 - min(max(value, 0.0) / scale, 1.0))

    carried = [f"{x(0.0):.1f},{y(0.0):.1f}"]
    needed: list[str] = []
    for k, leg in enumerate(legs):
        begins, ends = x(leg.start), x(leg.end)
        carried += [
            f"{begins:.1f},{y(float(levels.leaving[k])):.1f}",
            f"{ends:.1f},{y(float(levels.arriving[k])):.1f}",
        ]
        wanted = float(levels.until[k])
        move = "M" if k == 0 or levels.refilled[k] else "L"
        needed += [f"{move}{begins:.1f},{y(wanted):.1f}", f"L{ends:.1f},{y(wanted - float(levels.needs[k])):.1f}"]
    carried.append(f"{x(ridden.way.profile.length):.1f},{y(0.0):.1f}")
    k = int(np.argmin(np.round(levels.leaving - levels.needs, 6)))
    worst = Tick(at=0.5 * (x(legs[k].start) + x(legs[k].end)), text=_spare(levels, k, said))
    return Band(
        name=name,
        top=top,
        bottom=top + _BAND,
        carried=" ".join(carried),
        needed=" ".join(needed),
        reserve=None if reserve is None else y(reserve),
        room=None if shown_room is None else y(shown_room),
        room_words="" if shown_room is None else f"{said(room)} fit",
        ticks=tuple(Tick(at=y(value), text=said(value)) for value in _round_ticks(scale / _HEAD)),
        worst=worst,
    )


def _spare(levels: Levels, k: int, said: Callable[[float], str]) -> str:
    spare = float(levels.leaving[k] - levels.needs[k])
    amount = said(abs(spare))
    return f"{amount} to spare" if spare >= 0.0 else f"{amount} short"


def _mass_band(x: Along, ridden: Ridden, top: float) -> Band:
    masses = [load.mass for load in ridden.film]
    water, food = ridden.provisions.water, ridden.provisions.food
    used = (water.leaving - water.arriving) + (food.leaving - food.arriving) / ridden.provisions.larder.density
    used = used + ridden.provisions.rations.mass
    ends = [m - float(used[k]) for k, m in enumerate(masses)]
    low, high = min(ends), max(masses)
    low -= 0.15 * max(high - low, 0.5)

    def y(value: float) -> float:
        return top + _MASS * (1.0 - (value - low) / max(high - low, 1e-9) / _HEAD)

    points = []
    for k, leg in enumerate(ridden.timetable.legs):
        points += [f"{x(leg.start):.1f},{y(masses[k]):.1f}", f"{x(leg.end):.1f},{y(ends[k]):.1f}"]
    k = int(np.argmax(masses))
    heaviest = ridden.timetable.legs[k]
    return Band(
        name="Bike and rider",
        top=top,
        bottom=top + _MASS,
        carried=" ".join(points),
        needed="",
        reserve=None,
        room=None,
        room_words="",
        ticks=tuple(Tick(at=y(value), text=mass_kg(value, 0)) for value in (high, 0.5 * (low + high))),
        worst=Tick(at=0.5 * (x(heaviest.start) + x(heaviest.end)), text=f"heaviest: {mass_kg(high, 1)}"),
    )


def _is_far(ridden: Ridden, leg: int, k: int) -> bool:
    """Tell whether a stop of a long race is far from the current leg."""
    return len(ridden.film) > _MOST_LINKED and abs(k - leg) > _MOST_LINKED // 2


def _stops(x: Along, ridden: Ridden, leg: int, addresses: Sequence[str]) -> tuple[StopMark, ...]:
    water, food = ridden.provisions.water, ridden.provisions.eaten
    found, last = [], -1e9
    for k, visit in enumerate(ridden.timetable.visits[:-1], start=1):
        if _is_far(ridden, leg, k):
            continue
        fills, buys = bool(water.refilled[k]), bool(food.taken[k] >= 1.0)
        at = x(visit.distance)
        named = (fills or buys) and at - last >= _LABEL_STEP if addresses else k == leg
        last = at if named else last
        takes = [litres_of_water(float(water.leaving[k]))] * fills
        takes += [kcal(float(food.leaving[k]))] * buys
        found.append(
            StopMark(
                x=at,
                name=visit.name if named else "",
                fills=fills,
                buys=buys,
                passed=visit.passed,
                shut=visit.is_shut,
                here=k == leg,
                address=addresses[k] if addresses else "",
                words=f"{visit.name}: " + ("ride past" if visit.passed else ", ".join(takes) or "nothing taken on"),
            )
        )
    return tuple(found)


def _words(ridden: Ridden) -> str:
    water, food = ridden.provisions.water, ridden.provisions.eaten
    passed = sum(visit.passed for visit in ridden.timetable.visits)
    bought = int((food.taken[1:] >= 1.0).sum())
    return (
        f"Water and food aboard over {ridden.way.profile.length / 1000.0:.0f} km: bottles are filled at "
        f"{int(water.refilled[1:].sum())} stops, food is bought at {bought}, {passed} stops "
        f"are ridden past. Most water leaving a stop is {float(water.leaving.max()):.1f} l, most food "
        f"{float(food.leaving.max()):,.0f} kcal. The table below holds the same figures."
    )
