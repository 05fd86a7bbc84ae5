"""How much faster the compiled ride is than the same source in plain Python, in one run.

Run: .venv/bin/python benchmarks/ride.py
The course is a synthetic one of 1,200 km at 100 m (12,000 segments). Ratios are of the least of several runs,
interleaved, so that other work on the machine touches all alike. Plain Python is measured twice, since the two
differ: over lists, and over the same arrays that the compiled code gets.
"""

import time
from collections.abc import Callable

import numpy as np

from stonechat.core.line.weather import hourly_temperature, temperature_at_height, wind_along_and_across
from stonechat.core.physics import air, power_balance
from stonechat.core.rhythm import ride
from stonechat.core.rhythm.ride import Clock, Course, RiderNumbers

SEGMENTS = 12_000
ROUNDS = 5


def course(count: int = SEGMENTS) -> Course:
    """Return hills of several lengths, some to be walked."""
    at = np.arange(count) * 100.0
    waves = ((16_000.0, 90.0), (7_300.0, 40.0), (3_100.0, 15.0), (900.0, 3.0))
    heights = 600.0 + sum(h * np.sin(2 * np.pi * at / w) for w, h in waves)
    grades = np.diff(np.append(heights, heights[0])) / 100.0
    one = np.ones(count)
    return Course(100 * one, grades, heights, 0.01 * one, 13 * one, 0.15 * one, one, np.linspace(0.0, 360.0, count))


def clock() -> Clock:
    """Return a clock with stops, nights and a week of weather."""
    days = np.ones(30)
    stops = np.arange(400, SEGMENTS, 450)
    return Clock(
        2.5e4, 1.8e4, 7.9e4, False, 2_400.0, 0.04, stops, np.full(stops.size, 900.0), 2.2e4 * days, 6.6e4 * days,
        6 * days, 18 * days, 3 * days, 250 * days, 500.0, 0.65,
    )  # fmt: skip


RIDER = RiderNumbers(72.0, 145.0, 0.65, 1.08e5, 2.88e4, 0.06, 1.5, 5.0, 1.15, 0.96, 0.22)
_COMPILED = {
    ride: ("_segment_speed", "_day_temperature", "_rest_needed", "_base_power", "_pushing_gradient"),
    power_balance: ("resisting_force", "force_slope", "steady_speed", "walking_cost", "pushing_force", "walking_speed"),
}


def plain_ride() -> Callable[..., object]:
    """Return the ride in plain Python: the same source, every compiled function replaced by its own source."""
    plain: dict[str, object] = {}
    functions = [getattr(module, name) for module, found in _COMPILED.items() for name in found]
    functions += [
        air.air_density,
        air.standard_pressure,
        hourly_temperature,
        temperature_at_height,
        wind_along_and_across,
        ride.ride_course,
    ]
    for function in functions:
        source = function.py_func
        copy = type(source)(source.__code__, {**source.__globals__}, source.__name__)
        plain[source.__name__] = copy
    for copy in plain.values():
        copy.__globals__.update(plain)  # type: ignore[attr-defined]
    return plain["ride_course"]  # type: ignore[return-value]


class Listed:
    """Stands in for numpy where the plain ride makes arrays, and makes lists."""

    float64 = float

    @staticmethod
    def zeros(count: int) -> list[float]:
        """Return a list of zeros."""
        return [0.0] * count


class Values(list):  # type: ignore[type-arg]
    """A list that knows its size, as the ride asks for it."""

    @property
    def size(self) -> int:
        """Number of values."""
        return len(self)


def listed(record: object) -> object:
    """Return a record with its arrays as lists."""
    fields = [Values(v.tolist()) if isinstance(v, np.ndarray) else v for v in record]  # type: ignore[attr-defined]
    return type(record)(*fields)


def least(calls: dict[str, Callable[[], object]]) -> dict[str, float]:
    """Return the least time of each call, interleaved."""
    best = dict.fromkeys(calls, float("inf"))
    for _ in range(ROUNDS):
        for name, call in calls.items():
            start = time.perf_counter()
            call()
            best[name] = min(best[name], time.perf_counter() - start)
    return best


def main() -> None:
    """Measure and print."""
    line, hours = course(), clock()
    masses, drags = np.full(SEGMENTS, 95.0), np.full(SEGMENTS, 0.40)
    result = ride.ride_course(line, RIDER, hours, masses, drags)
    arrays = plain_ride()
    lists = plain_ride()
    lists.__globals__["np"] = Listed  # type: ignore[attr-defined]
    list_arguments = (listed(line), RIDER, listed(hours), Values(masses.tolist()), Values(drags.tolist()))
    held = result.conditions
    ride.time_gradients(line, held, 72.0, masses, drags)
    same = lists(*list_arguments)
    assert abs(same.clocks[-1] - result.clocks[-1]) < 1e-6, "the two rides differ"  # type: ignore[attr-defined]
    took = least(
        {
            "compiled": lambda: ride.ride_course(line, RIDER, hours, masses, drags),
            "plain, lists": lambda: lists(*list_arguments),
            "plain, arrays": lambda: arrays(line, RIDER, hours, masses, drags),
            "times alone": lambda: ride.segment_times(line, held, 72.0, masses, drags),
            "times and gradients": lambda: ride.time_gradients(line, held, 72.0, masses, drags),
        }
    )
    print(f"one ride of {SEGMENTS:,} segments, least of {ROUNDS}:")
    for name, seconds in took.items():
        print(f"  {name:22}{1000 * seconds:9.2f} ms   {seconds / took['compiled']:7.1f} x compiled")
    print(f"times and gradients / times alone: {took['times and gradients'] / took['times alone']:.2f}")
    print("growth with length (least time per 1,000 segments):")
    for count in (3_000, 12_000, 48_000):
        part = course(count)
        m, d = np.full(count, 95.0), np.full(count, 0.40)
        seconds = least({"ride": lambda part=part, m=m, d=d: ride.ride_course(part, RIDER, hours, m, d)})["ride"]
        print(f"  {count / 10:6.0f} km  {1e6 * seconds / count:7.1f} µs")


if __name__ == "__main__":
    main()
