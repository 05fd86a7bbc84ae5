"""How fast the compiled ride is beside the same source in plain Python, and beside NumPy across races, in one run.

Run: PYTHONPATH=. .venv/bin/python benchmarks/ride.py
The course is a synthetic one of 1,200 km at 100 m (12,000 segments). Ratios are of the least of several runs,
interleaved, so that other work on the machine touches all alike. Plain Python is measured twice, since the two
differ: over lists, and over the same arrays that the compiled code gets.
"""

import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from typing import Any

import numpy as np
from across import ride_across

from stonechat.core.line import weather
from stonechat.core.physics import air, momentum, power_balance
from stonechat.core.rhythm import ride, segment
from stonechat.core.rhythm.inputs import Clock, Course, Doors, Legs, Nights, Pace, RiderNumbers, Sky, Stays
from stonechat.core.rhythm.many import draw_luck, ride_many
from stonechat.core.rhythm.rhythm import Rhythm, night_arrays
from stonechat.core.rhythm.times import segment_times, time_gradients
from tests.core.rhythm.test_ride import halts_of

SEGMENTS = 12_000
ROUNDS = 5
RACES = 1_000


def course(count: int = SEGMENTS) -> Course:
    """Return hills of several lengths, some to be walked."""
    at = np.arange(count) * 100.0
    waves = ((16_000.0, 90.0), (7_300.0, 40.0), (3_100.0, 15.0), (900.0, 3.0))
    heights = 600.0 + sum(h * np.sin(2 * np.pi * at / w) for w, h in waves)
    grades = np.diff(np.append(heights, heights[0])) / 100.0
    one = np.ones(count)
    headings = np.linspace(0.0, 360.0, count)
    return Course(100 * one, grades, heights, 0.01 * one, one, 13 * one, 0.15 * one, one, headings, 0 * one)


def clock() -> Clock:
    """Return a clock with stops, nights and a week of weather."""
    days, stops = np.ones(30), np.arange(400, SEGMENTS, 450)
    count = stops.size
    start = datetime(2027, 9, 24, 7, tzinfo=UTC)
    begins, ends, lengths = night_arrays(Rhythm(rise=1.8e4, halt=7.9e4, start=start, zone="UTC"), start, 30)
    return Clock(
        start_of_day=2.5e4,
        reach_share=0.04,
        nights=Nights(begins, ends, lengths, 2_400.0),
        stays=Stays(stops, np.full(count, 900.0), np.zeros(count)),
        halts=halts_of(count),
        doors=Doors(
            np.zeros(count + 1, dtype=np.int64), np.zeros(0), np.zeros(0), np.zeros(count, dtype=bool), np.zeros(count)
        ),
        sky=Sky(
            np.full((30, 8), 2.2e4), np.full((30, 8), 6.6e4), 6 * days, 18 * days, 3 * days, 250 * days, 0.65 * days,
            0 * days, 500.0, 1.0,
        ),
    )  # fmt: skip


LEGS = Legs(145.0, 0.65, 1.08e5, 2.88e4, 0.06, altitude=1)
RIDER = RiderNumbers(72.0, LEGS, Pace(1.5, 5.0, 1.15, 0.03))
STEADY = RIDER._replace(momentum=False)


def compiled_functions() -> Iterator[Any]:
    """Yield every compiled function that the ride uses."""
    for module in (ride, segment, momentum, power_balance, air, weather):
        yield from (value for value in vars(module).values() if hasattr(value, "py_func"))


def plain_ride() -> Callable[..., Any]:
    """Return the ride in plain Python: the same source, every compiled function replaced by its own source."""
    plain: dict[str, Any] = {}
    for function in compiled_functions():
        source = function.py_func
        plain[source.__name__] = type(source)(source.__code__, {**source.__globals__}, source.__name__)
    for copy in plain.values():
        copy.__globals__.update(plain)
    return plain["ride_course"]  # type: ignore[no-any-return]


class Listed:
    """Stands in for numpy where the plain ride makes arrays, and makes lists."""

    bool_ = bool

    @staticmethod
    def zeros(count: int, dtype: type = float) -> "Values":
        """Return a list of zeros."""
        return Values([dtype()] * count)


class Values(list[Any]):
    """A list that knows its size, as the ride asks for it."""

    @property
    def size(self) -> int:
        """Number of values."""
        return len(self)


class Table:
    """Rows of lists that answer to a row and a column."""

    def __init__(self, rows: list[list[float]]) -> None:
        self._rows, self.shape = rows, (len(rows), len(rows[0]))

    def __getitem__(self, place: tuple[int, int]) -> float:
        return self._rows[place[0]][place[1]]


def listed(record: Any) -> Any:
    """Return a record with its arrays as lists."""

    def plain(value: Any) -> Any:
        if hasattr(value, "_fields"):
            return listed(value)
        if not isinstance(value, np.ndarray):
            return value
        return Table(value.tolist()) if value.ndim == 2 else Values(value.tolist())

    return type(record)(*(plain(value) for value in record))


def least(calls: dict[str, Callable[[], object]], rounds: int = ROUNDS) -> dict[str, float]:
    """Return the least time of each call, interleaved."""
    best = dict.fromkeys(calls, float("inf"))
    for _ in range(rounds):
        for name, call in calls.items():
            start = time.perf_counter()
            call()
            best[name] = min(best[name], time.perf_counter() - start)
    return best


def one_ride() -> None:
    """Measure one ride, with momentum as it is by default and by steady speed."""
    line, hours = course(), clock()
    masses, drags = np.full(SEGMENTS, 95.0), np.full(SEGMENTS, 0.40)
    arrays, lists = plain_ride(), plain_ride()
    for function in lists.__globals__.values():
        if hasattr(function, "__globals__") and "np" in getattr(function, "__globals__", {}):
            function.__globals__["np"] = Listed
    lists.__globals__["np"] = Listed
    as_lists = (listed(line), listed(hours), Values(masses.tolist()), Values(drags.tolist()))
    for name, rider in (("with momentum", RIDER), ("by steady speed", STEADY)):
        result = ride.ride_course(line, rider, hours, masses, drags)
        held = result.conditions
        time_gradients(line, held, rider, masses, drags)
        same = lists(as_lists[0], rider, *as_lists[1:])
        assert abs(same.clocks[-1] - result.clocks[-1]) < 1e-6, "the two rides differ"
        took = least(
            {
                "compiled": lambda rider=rider: ride.ride_course(line, rider, hours, masses, drags),
                "plain, lists": lambda rider=rider: lists(as_lists[0], rider, *as_lists[1:]),
                "plain, arrays": lambda rider=rider: arrays(line, rider, hours, masses, drags),
                "times alone": lambda held=held, rider=rider: segment_times(line, held, rider, masses, drags),
                "times and gradients": lambda held=held, rider=rider: time_gradients(line, held, rider, masses, drags),
            }
        )
        print(f"one ride of {SEGMENTS:,} segments {name}, least of {ROUNDS}:")
        for what, seconds in took.items():
            print(f"  {what:22}{1000 * seconds:9.2f} ms   {seconds / took['compiled']:7.1f} x compiled")
        print(f"  times and four gradients / times alone: {took['times and gradients'] / took['times alone']:.2f}")


def many_races() -> None:
    """Measure many races in one thread beside NumPy across races, the same model and the same results."""
    line, hours, luck = course(), clock(), draw_luck(RACES, 1, power_band=0.05)
    masses, drags = np.full(SEGMENTS, 95.0), np.full(SEGMENTS, 0.40)
    few = type(luck)(*(values[:3] for values in luck))
    ours, _ = ride_many(line, STEADY, hours, masses=masses, drag_areas=drags, luck=few)
    theirs = ride_across(line, STEADY, hours, masses, drags, few)
    assert np.abs(ours - theirs).max() < 0.01, (ours, theirs)
    took = least(
        {
            "compiled, one thread": lambda: ride_many(line, STEADY, hours, masses=masses, drag_areas=drags, luck=luck),
            "NumPy across races": lambda: ride_across(line, STEADY, hours, masses, drags, luck),
        },
        rounds=2,
    )
    print(f"{RACES:,} varied races by steady speed:")
    for what, seconds in took.items():
        print(f"  {what:22}{seconds:9.2f} s    {seconds / took['compiled, one thread']:7.1f} x compiled")
    with_momentum = least(
        {"x": lambda: ride_many(line, RIDER, hours, masses=masses, drag_areas=drags, luck=luck)}, rounds=1
    )["x"]
    print(f"  compiled, with momentum{with_momentum:8.2f} s")


def growth() -> None:
    """Measure how time grows with the length of the route."""
    hours = clock()
    print("growth with length (least time per segment):")
    for count in (3_000, 12_000, 48_000):
        part, m, d = course(count), np.full(count, 95.0), np.full(count, 0.40)
        seconds = least({"ride": lambda part=part, m=m, d=d: ride.ride_course(part, RIDER, hours, m, d)})["ride"]
        print(f"  {count / 10:6.0f} km  {1e6 * seconds / count:6.2f} µs")


if __name__ == "__main__":
    one_ride()
    many_races()
    growth()
