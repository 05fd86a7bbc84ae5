"""The ride against itself uncompiled, closed forms, finite differences and the clock."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.physics.constants import GRAVITY
from stonechat.core.rhythm import ride as ride_module
from stonechat.core.rhythm.ride import (
    STOP_COST,
    Clock,
    Conditions,
    Course,
    RideResult,
    RiderNumbers,
    ride_course,
    segment_times,
    time_gradients,
)

HOUR, DAY = 3600.0, 86_400.0
FRESH = RiderNumbers(70.0, 150.0, 1.0, 1e5, 1e5, 0.0, 0.0, 0.0, 1.0, 0.96, 0.22)


def course_of(grades: np.ndarray, rolling: float = 0.01, cap: float = 25.0) -> Course:
    """Return segments of 100 m at sea level."""
    one = np.ones(grades.size)
    return Course(100.0 * one, grades, 0.0 * one, rolling * one, cap * one, 0.25 * one, 0.3 * one, 0.0 * one)


def clock_of(*, rise: float = 0.0, halt: float = 0.0, start: float = 10 * HOUR, **changes: object) -> Clock:
    """Return a clock without stops, at 15 °C with light from 6 to 18."""
    days = np.ones(30)
    plain = Clock(
        start, rise, halt, False, 0.0, 0.0, np.zeros(0, dtype=np.int64), np.zeros(0), 6 * HOUR * days,
        18 * HOUR * days, 15.0 * days, 15.0 * days, 0.0 * days, 0.0 * days, 0.0, 0.0,
    )  # fmt: skip
    return plain._replace(**changes)


def rolling_course(segments: int = 4_000, seed: int = 3) -> Course:
    """Return a hilly course with flats, climbs to walk and descents to brake on."""
    random = np.random.default_rng(seed)
    waves = 0.05 * np.sin(np.arange(segments) / 23.0) + 0.03 * np.sin(np.arange(segments) / 5.0)
    grades = waves + random.normal(0.0, 0.004, segments)
    grades[150:156] = 0.28  # to be walked
    return course_of(grades, cap=12.0)


def ridden(course: Course, rider: RiderNumbers = FRESH, clock: Clock | None = None) -> RideResult:
    count = course.lengths.size
    return ride_course(course, rider, clock or clock_of(), np.full(count, 95.0), np.full(count, 0.36))


def conditions(count: int, power: float = 144.0) -> Conditions:
    one = np.ones(count)
    return Conditions(power * one, 600.0 * one, 1.2 * one, 25.0 * one, 0.0 * one, 0.0 * one)


def test_one_climb_without_air_takes_the_work_over_the_power() -> None:
    # no air, no bearings to speak of: time = m g cos (s + Crr) L / P
    course, held = course_of(np.array([0.08])), conditions(1, 200.0)
    times, _ = segment_times(course, held, 70.0, np.array([95.0]), np.array([0.0]))
    work = 95.0 * GRAVITY * (0.08 + 0.01) / math.sqrt(1 + 0.08**2) * 100.0
    assert times[0] == pytest.approx(work / 200.0, rel=2e-3)


def test_the_compiled_ride_is_the_same_as_the_plain_one(monkeypatch: pytest.MonkeyPatch) -> None:
    tired = RiderNumbers(70.0, 150.0, 0.65, 30 * HOUR, 8 * HOUR, 0.06, 1.5, 5.0, 1.15, 0.96, 0.22)
    clock = clock_of(
        rise=5 * HOUR, halt=16 * HOUR, camp_time=1_800.0, reach_share=0.02,
        stop_segments=np.array([40, 200]), stop_dwells=np.array([600.0, 1_200.0]),
        temps_low=np.linspace(0, 9, 30), temps_high=np.linspace(12, 25, 30),
    )  # fmt: skip
    course = rolling_course(1_600)
    compiled = ridden(course, tired, clock)
    for name in ("_segment_speed", "_day_temperature", "_rest_needed", "_base_power"):
        monkeypatch.setattr(ride_module, name, getattr(ride_module, name).py_func)
    masses, drags = np.full(1_600, 95.0), np.full(1_600, 0.36)
    plain = ride_course.py_func(course, tired, clock, masses, drags)
    for name in ("times", "clocks", "rests", "temps", "arrivals", "awake"):
        assert np.allclose(getattr(compiled, name), getattr(plain, name), rtol=1e-12, atol=1e-9), name
    assert compiled.rests.sum() > 0 and compiled.walked.sum() > 0


def test_the_clock_is_the_sum_of_moving_stops_rests_and_reaching() -> None:
    clock = clock_of(
        rise=5 * HOUR, halt=20 * HOUR, reach_share=0.03, stop_segments=np.array([10, 500]),
        stop_dwells=np.array([300.0, 900.0]),
    )  # fmt: skip
    result = ridden(rolling_course(), clock=clock)
    parts = result.times.sum() * 1.03 + result.rests.sum() + 1_200.0 + 2 * STOP_COST
    assert result.clocks[-1] == pytest.approx(parts, rel=1e-12)
    assert (result.departures - result.arrivals) == pytest.approx([300.0 + STOP_COST, 900.0 + STOP_COST])


@given(st.floats(0, 23.9), st.floats(0, 23.9), st.floats(0, 23.9))
def test_nobody_rides_outside_the_window(start: float, rise: float, halt: float) -> None:
    clock = clock_of(rise=rise * HOUR, halt=halt * HOUR, start=start * HOUR)
    result = ridden(rolling_course(1_500), clock=clock)
    if rise == halt:
        assert result.rests.sum() == 0.0
        return
    begins = (clock.start_of_day + result.clocks[:-1] - clock.rise) % DAY
    window = (clock.halt - clock.rise) % DAY
    assert ((begins < window + 1e-6) | (begins > DAY - 1e-6)).all()


def test_wind_from_ahead_slows_and_the_same_from_behind_helps() -> None:
    north = course_of(np.zeros(300))._replace(headings=np.zeros(300))
    days = np.ones(30)
    still, head, tail, side = (
        ridden(north, clock=clock_of(wind_speeds=speed * days, winds_from=from_ * days)).times.sum()
        for speed, from_ in ((0.0, 0.0), (6.0, 0.0), (6.0, 180.0), (6.0, 90.0))
    )
    assert tail < still < side < head
    # a closed square in steady wind is slower than in still air
    square = north._replace(headings=np.repeat([0.0, 90.0, 180.0, 270.0], 75))
    windy = ridden(square, clock=clock_of(wind_speeds=6.0 * days, winds_from=30.0 * days))
    assert windy.times.sum() > still


def test_the_speed_into_the_wind_is_that_of_the_balance_at_six_tenths_of_it() -> None:
    from stonechat.core.physics.power_balance import steady_speed

    north = course_of(np.zeros(3))._replace(headings=np.zeros(3))
    days = np.ones(30)
    result = ridden(north, clock=clock_of(wind_speeds=5.0 * days, winds_from=0.0 * days))
    density = float(result.conditions.density[0])
    expected = steady_speed(144.0, 95.0, 0.0, 0.01, 0.36, density, 0.604 * 5.0, 0.0, 5.0)
    assert 100.0 / result.times[0] == pytest.approx(expected, rel=1e-9)


def test_the_first_night_is_ridden_through_when_asked() -> None:
    clock = clock_of(rise=5 * HOUR, halt=22 * HOUR, first_night=True)
    result = ridden(rolling_course(), clock=clock)
    assert result.rests[clock.start_of_day + result.clocks[:-1] < DAY + 5 * HOUR].sum() == 0.0


def test_power_fades_with_hours_and_comes_back_with_sleep() -> None:
    # F after 17 h from fresh with tau 30 h is 1 - exp(-17/30); power 150 (1 - 0.35 F): 127.289 W
    tired = FRESH._replace(endurance=0.65, fade_time=30 * HOUR, recovery_time=8 * HOUR)
    result = ridden(course_of(np.zeros(6_000)), tired, clock_of(start=0.0))
    after = result.powers[np.searchsorted(result.clocks, 17 * HOUR)]
    assert after == pytest.approx(150.0 * (1 - 0.35 * (1 - math.exp(-17 / 30))), rel=1e-3)


def test_splitting_segments_does_not_change_the_moving_time() -> None:
    course = rolling_course(800)
    halves = Course(*(np.repeat(values, 2) for values in course))._replace(lengths=np.full(1_600, 50.0))
    whole, _ = segment_times(course, conditions(800), 70.0, np.full(800, 95.0), np.full(800, 0.36))
    split, _ = segment_times(halves, conditions(1_600), 70.0, np.full(1_600, 95.0), np.full(1_600, 0.36))
    assert split.sum() == pytest.approx(whole.sum(), rel=1e-9)


@pytest.mark.parametrize("gusts", [0.0, 4.0])
def test_gradients_are_central_differences_of_segment_times(gusts: float) -> None:
    course, count = rolling_course(2_000), 2_000
    random = np.random.default_rng(9)
    winds = {name: random.uniform(-gusts, gusts, count) for name in ("headwinds", "crosswinds")}
    held = conditions(count)._replace(**winds)
    masses, drags = np.full(count, 95.0), np.full(count, 0.36)
    times, modes = segment_times(course, held, 70.0, masses, drags)
    exact, by_mass, by_drag, by_power = time_gradients(course, held, 70.0, masses, drags)
    assert np.array_equal(exact, times)

    def moved(mass: float = 0.0, drag: float = 0.0, power: float = 0.0) -> np.ndarray:
        changed = held._replace(wheel_power=held.wheel_power + power)
        return segment_times(course, changed, 70.0, masses + mass, drags + drag)[0]

    # only where the mode is the same on both sides: the derivative does not see jumps
    for step, gradient, name in ((0.01, by_mass, "mass"), (1e-4, by_drag, "drag"), (0.01, by_power, "power")):
        up, down = moved(**{name: step}), moved(**{name: -step})
        same = (modes == 0) & (np.abs(up - down) < 0.5)
        assert np.allclose(gradient[same], ((up - down) / (2 * step))[same], rtol=2e-5, atol=1e-7), name
    assert (by_mass[modes == 1] == 0.0).all()


def test_pushing_costs_what_the_bike_weighs() -> None:
    course = course_of(np.array([0.35]))
    held = Conditions(*(np.array([v]) for v in (20.0, 350.0, 1.2, 25.0, 0.0, 0.0)))
    _, by_mass, _, _ = time_gradients(course, held, 70.0, np.array([95.0]), np.array([0.36]))
    step = 0.01
    up, _ = segment_times(course, held, 70.0, np.array([95.0 + step]), np.array([0.36]))
    down, _ = segment_times(course, held, 70.0, np.array([95.0 - step]), np.array([0.36]))
    assert by_mass[0] == pytest.approx((up[0] - down[0]) / (2 * step), rel=1e-6)
    assert by_mass[0] > 0


@given(st.floats(0.1, 10))
def test_a_heavier_load_never_makes_climbs_faster(extra: float) -> None:
    course = course_of(np.full(50, 0.06))
    light, _ = segment_times(course, conditions(50), 70.0, np.full(50, 90.0), np.full(50, 0.36))
    heavy, _ = segment_times(course, conditions(50), 70.0, np.full(50, 90.0 + extra), np.full(50, 0.36))
    assert (heavy > light).all()


def test_descents_stop_at_the_cap_and_slower_still_by_night() -> None:
    steep = course_of(np.full(20, -0.12), cap=10.0)
    assert ridden(steep, clock=clock_of(start=12 * HOUR)).times == pytest.approx(np.full(20, 10.0))
    assert ridden(steep, clock=clock_of(start=1 * HOUR)).times == pytest.approx(np.full(20, 12.5))
