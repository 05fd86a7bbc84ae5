"""The race as time across and distance down: night, opening hours, cut-offs, rests, the rider's line and its spread."""

from dataclasses import dataclass
from datetime import timedelta

import numpy as np

from stonechat.core.diary.trail import Trail
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY, Stop
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.nights import Rest
from stonechat.core.plan.sky import elapsed_at, wall_seconds
from stonechat.render.filters import clock, time_of_day

WIDTH, HEIGHT = 760.0, 620.0
LEFT, RIGHT, TOP, BOTTOM = 150.0, 12.0, 34.0, 12.0
_LABEL_STEP = 15.0  # least distance between two labels
MOST_DRAWN = 60  # stops whose doors and stays are drawn whether their names have room or not
_TICK_WIDTH = 62.0  # room for a day and its hour
_POINTS = 500  # points of a line


@dataclass(frozen=True, kw_only=True)
class Band:
    """A stretch of time."""

    x: float
    width: float


@dataclass(frozen=True, kw_only=True)
class Tick:
    """A mark on the time axis."""

    x: float
    text: str  # empty for a small one


@dataclass(frozen=True, kw_only=True)
class Door:
    """Opening hours at a stop."""

    y: float
    spans: tuple[Band, ...]


@dataclass(frozen=True, kw_only=True)
class Mark:
    """Where the rider's line passes a stop."""

    x: float
    y: float
    name: str
    label_y: float | None  # None where there is no room for a name
    is_shut: bool
    words: str


@dataclass(frozen=True, kw_only=True)
class Block:
    """A stretch of time spent at one place, which can be dragged: a rest, or a stay at a stop."""

    x: float
    width: float
    y: float
    begins: float  # s after the first midnight
    ends: float  # s after the first midnight
    key: str  # number of the night, or id of the stop
    stop: str  # id of the stop where a rest was chosen at one
    label: str  # what stands beside it, "" where there is no room
    words: str


@dataclass(frozen=True, kw_only=True)
class CutOff:
    """The time by which a checkpoint must be reached."""

    x: float
    y: float
    is_missed: bool
    words: str


@dataclass(frozen=True, kw_only=True)
class TimeDistance:
    """All that the picture prints."""

    width: float
    height: float
    left: float
    top: float
    right: float
    bottom: float
    nights: tuple[Band, ...]
    ticks: tuple[Tick, ...]
    doors: tuple[Door, ...]
    line: str
    fan: str
    marks: tuple[Mark, ...]
    rests: tuple[Block, ...]
    stays: tuple[Block, ...]
    cut_offs: tuple[CutOff, ...]
    seconds_per_unit: float
    camp: float  # s of each rest that are not slept
    words: str


class _Axes:
    """Turns seconds since the start and metres into drawing units."""

    def __init__(self, ridden: Ridden) -> None:
        self.last = float(max(ridden.timetable.fan[1][-1], ridden.ride.clocks[-1])) * 1.02
        self.length = ridden.way.profile.length

    def x(self, seconds: float) -> float:
        return LEFT + (WIDTH - LEFT - RIGHT) * min(max(seconds / self.last, 0.0), 1.0)

    def y(self, metres: float) -> float:
        return TOP + (HEIGHT - TOP - BOTTOM) * metres / self.length


def time_distance(ridden: Ridden, rests: tuple[Rest, ...]) -> TimeDistance:
    """Return the picture of a race by the clock, with its rests."""
    axes = _Axes(ridden)
    early, late = ridden.timetable.fan
    there = _points(ridden.way.profile.distances, early, axes)
    back = _points(ridden.way.profile.distances, late, axes)[::-1]
    last = ridden.timetable.visits[-1]
    marks = _marks(ridden, axes)
    # of many stops those that have room for their name are drawn with door and stay; the timetable holds all
    drawn = [
        k for k in range(len(ridden.way.stops)) if len(ridden.way.stops) <= MOST_DRAWN or marks[k].label_y is not None
    ]
    return TimeDistance(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        top=TOP,
        right=WIDTH - RIGHT,
        bottom=HEIGHT - BOTTOM,
        nights=_nights(ridden, axes),
        ticks=_ticks(ridden, axes),
        doors=tuple(_door(ridden, k, axes) for k in drawn if ridden.timetable.clock.doors.known[k]),
        line=_path(_points(ridden.way.profile.distances, ridden.ride.clocks, axes)),
        fan=_path([*there, *back]) + "Z",
        marks=tuple(marks[k] for k in drawn) + marks[len(ridden.way.stops) :],
        rests=tuple(_rest(ridden, rest, axes) for rest in rests),
        stays=tuple(_stay(ridden, k, axes) for k in drawn),
        cut_offs=_cut_offs(ridden, axes),
        seconds_per_unit=axes.last / (WIDTH - LEFT - RIGHT),
        camp=ridden.timetable.clock.nights.camp_time,
        words=f"From {ridden.way.start:%A} {time_of_day(ridden.way.start)} to "
        f"{last.arrives:%A} {time_of_day(last.arrives)} over {axes.length / 1000:.0f} km; "
        f"{sum(1 for visit in ridden.timetable.visits if visit.is_shut)} stops are shut on arrival.",
    )


def trail_path(ridden: Ridden, trail: Trail) -> str:
    """Return the path of a race as it went, on the same axes; empty where nothing is known."""
    if trail.is_empty:
        return ""
    axes = _Axes(ridden)
    return _path([(axes.x(t), axes.y(d)) for t, d in zip(trail.elapsed, trail.distances, strict=True)])


def _points(distances: FloatArray, clocks: FloatArray, axes: _Axes) -> list[tuple[float, float]]:
    """Return points of a line; where time passes without way (a rest), both ends of it are kept."""
    count = clocks.size
    jumps = np.flatnonzero(np.diff(clocks) > 1_800.0)
    kept = np.unique(np.concatenate((np.linspace(0, count - 1, min(count, _POINTS)).astype(int), jumps, jumps + 1)))
    return [(axes.x(float(clocks[k])), axes.y(float(distances[k]))) for k in kept]


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _nights(ridden: Ridden, axes: _Axes) -> tuple[Band, ...]:
    midnight = -ridden.timetable.clock.start_of_day
    rises, sets = (
        table.mean(axis=1) for table in (ridden.timetable.clock.sky.sunrises, ridden.timetable.clock.sky.sunsets)
    )
    bands = []
    for day in range(-1, int((axes.last - midnight) // DAY) + 1):
        here, after = min(max(day, 0), rises.size - 1), min(max(day + 1, 0), rises.size - 1)
        start, end = midnight + day * DAY + float(sets[here]), midnight + (day + 1) * DAY + float(rises[after])
        x, stop = axes.x(start), axes.x(end)
        if stop > x:
            bands.append(Band(x=x, width=stop - x))
    return tuple(bands)


def _rest(ridden: Ridden, rest: Rest, axes: _Axes) -> Block:
    x, end = axes.x(rest.begins), axes.x(rest.ends)
    begins, ends = wall_seconds(ridden, rest.begins), wall_seconds(ridden, rest.ends)
    hours = f"{_clock(begins)} to {_clock(ends)}"
    place = rest.stop.name if rest.stop else f"km {rest.distance / 1000:.0f}"
    return Block(
        x=x,
        width=end - x,
        y=axes.y(rest.distance),
        begins=begins,
        ends=ends,
        key=str(rest.index),
        stop=rest.stop.id
        if rest.stop and ridden.timetable.clock.stays.rests[_stop_number(ridden, rest.stop)] > 0.0
        else "",
        label=f"{rest.length / 3600:.1f} h",
        words=f"Night {rest.index + 1}, {hours}, {place}",
    )


def _stop_number(ridden: Ridden, stop: Stop) -> int:
    return next(k for k, entry in enumerate(ridden.way.stops) if entry.id == stop.id)


def _stay(ridden: Ridden, k: int, axes: _Axes) -> Block:
    ride, stop = ridden.ride, ridden.way.stops[k]
    begins = float(ride.arrivals[k] + ride.waits[k])
    ends = float(ride.departures[k] - ride.stop_rests[k])
    x = axes.x(begins)
    minutes = (ends - begins) / 60.0
    return Block(
        x=x,
        width=max(axes.x(ends) - x, 3.0),
        y=axes.y(stop.distance),
        begins=wall_seconds(ridden, begins),
        ends=wall_seconds(ridden, ends),
        key=stop.id,
        stop=stop.id,
        label="",
        words=f"{stop.name}, stay of {minutes:.0f} min from {_clock(wall_seconds(ridden, begins))}",
    )


def _cut_offs(ridden: Ridden, axes: _Axes) -> tuple[CutOff, ...]:
    return tuple(
        CutOff(
            x=axes.x(visit.elapsed + visit.margin),
            y=axes.y(visit.distance),
            is_missed=visit.margin < 0.0,
            words=f"Cut-off at {visit.name}, {abs(visit.margin) / 3600:.1f} h "
            + ("after you" if visit.margin >= 0.0 else "before you"),
        )
        for visit in ridden.timetable.visits
        if visit.margin is not None and visit.elapsed + visit.margin <= axes.last
    )


def _clock(seconds: float) -> str:
    minutes = round(seconds / 60.0) % 1440
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def _ticks(ridden: Ridden, axes: _Axes) -> tuple[Tick, ...]:
    """Return marks every six hours of the rider's clock, midnights named."""
    midnight = ridden.way.start.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    ticks = []
    for quarter in range(1, int((axes.last + DAY) // (DAY / 4)) + 2):
        moment = midnight + timedelta(hours=6 * quarter)
        seconds = elapsed_at(ridden, moment)
        if 0.0 < seconds <= axes.last:
            x = axes.x(seconds)
            has_room = quarter % 4 == 0 and x < WIDTH - RIGHT - _TICK_WIDTH
            ticks.append(Tick(x=x, text=clock(moment) if has_room else ""))
    return tuple(ticks)


def _door(ridden: Ridden, k: int, axes: _Axes) -> Door:
    """Return when the door of a stop is open, as the ride met it."""
    clock, spans = ridden.timetable.clock, []
    for door in range(int(clock.doors.first[k]), int(clock.doors.first[k + 1])):
        x = axes.x(float(clock.doors.opens[door]) - clock.start_of_day)
        end = axes.x(float(clock.doors.shuts[door]) - clock.start_of_day)
        if end > x:
            spans.append(Band(x=x, width=end - x))
    return Door(y=axes.y(ridden.way.stops[k].distance), spans=tuple(spans))


def _marks(ridden: Ridden, axes: _Axes) -> tuple[Mark, ...]:
    marks, free = [], TOP
    for visit in ridden.timetable.visits:
        y = axes.y(visit.distance)
        has_room = y >= free
        free = y + _LABEL_STEP if has_room else free
        marks.append(
            Mark(
                x=axes.x(visit.elapsed),
                y=y,
                name=visit.name,
                label_y=y if has_room else None,
                is_shut=visit.is_shut,
                words=f"{visit.name}, {visit.distance / 1000:.0f} km, {clock(visit.arrives)}"
                + (", shut" if visit.is_shut else ""),
            )
        )
    return tuple(marks)
