"""Momentum against integration metre by metre, closed forms and finite differences."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.physics.momentum import DRAG, MASS, POWER, ROLLING, Push, roll_on, roll_on_with_slopes
from stonechat.core.physics.power_balance import steady_speed
from tests.oracles.dynamics import dynamic_times

pushes = st.builds(
    Push,
    wheel_power=st.floats(20, 300), mass=st.floats(60, 130), inertia=st.just(1.5), grade=st.floats(-0.12, 0.14),
    rolling=st.floats(0.004, 0.06), drag_area=st.floats(0.2, 0.6), density=st.floats(0.9, 1.3),
    headwind=st.floats(-9, 9), crosswind=st.floats(-7, 7), brake=st.floats(0, 5),
)  # fmt: skip


def steady_of(push: Push) -> float:
    return steady_speed(push, 5.0)


def integrated(push: Push, entered: float, cap: float, length: float) -> float:
    values = {
        "grade": push.grade, "power": push.wheel_power, "cap": cap, "rolling": push.rolling, "head": push.headwind,
        "cross": push.crosswind, "drag": push.drag_area, "density": push.density, "mass": push.mass,
    }  # fmt: skip
    times = dynamic_times(length, lambda name, at: np.full(at.size, values[name]), start=entered, step=0.05)
    return float(times.sum())


def test_a_stretch_takes_what_integration_from_the_forces_says() -> None:
    # 400 stretches at random. Where a wall is met at several times the speed that it is climbed at, 100 m are too long
    # for the step: a tenth off at worst. Whole courses agree far better, see tests/core/rhythm/test_ride.py
    random = np.random.default_rng(4)
    low = np.array([20.0, 60.0, 1.5, -0.12, 0.004, 0.2, 0.9, -9.0, -7.0])
    high = np.array([300.0, 130.0, 1.5, 0.14, 0.06, 0.6, 1.3, 9.0, 7.0])
    usual, walls = [], []
    while len(usual) + len(walls) < 400:
        push, entered = Push(*(float(v) for v in random.uniform(low, high)), 0.0), float(random.uniform(1.5, 14.0))
        steady = steady_of(push)
        if steady > 1.0:  # slower than this is walked
            time, _ = roll_on(entered, steady, 40.0, 100.0, push)
            error = abs(time / integrated(push, entered, 40.0, 100.0) - 1.0)
            (walls if entered > 4.0 * steady else usual).append(error)
    assert np.median(usual) < 0.001
    assert np.quantile(usual, 0.95) < 0.02
    assert max(usual) < 0.06
    assert max(walls) < 0.22


@given(pushes)
def test_at_the_steady_speed_nothing_changes(push: Push) -> None:
    steady = steady_of(push)
    time, leaving = roll_on(steady, steady, 100.0, 100.0, push)
    assert time == pytest.approx(100.0 / steady, rel=1e-9) and leaving == pytest.approx(steady, rel=1e-9)


@given(pushes, st.floats(1.5, 20.0))
def test_speed_goes_towards_the_steady_one_and_never_past_it(push: Push, entered: float) -> None:
    steady = steady_of(push)
    _, leaving = roll_on(entered, steady, 100.0, 100.0, push)
    assert min(entered, steady) - 1e-9 <= leaving <= max(entered, steady) + 1e-9
    _, later = roll_on(leaving, steady, 100.0, 3_000.0, push)
    assert abs(later - steady) <= abs(leaving - steady) + 1e-9


def test_coasting_to_a_halt_on_flat_ground_loses_the_work_of_the_force() -> None:
    # no wind, no air: K falls by m g Crr per metre over m + m_i, up to the bearings; steady speed here is low
    push = Push(5.0, 95.0, 1.5, 0.0, 0.01, 1e-9, 1.2, 0.0, 0.0, 0.0)
    steady = steady_of(push)
    _, leaving = roll_on(10.0, steady, 40.0, 100.0, push)
    force = 95.0 * 9.80665 * 0.01 + 0.091 + 0.0087 * 9.5 - 5.0 / 9.5
    assert 0.5 * leaving**2 == pytest.approx(50.0 - force * 100.0 / 96.5, rel=2e-3)


def test_the_cap_holds_whatever_drives() -> None:
    push = Push(0.0, 95.0, 1.5, -0.15, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0)
    steady = steady_of(push)
    assert steady > 15.0
    time, leaving = roll_on(12.0, steady, 10.0, 100.0, push)
    assert time == pytest.approx(10.0) and leaving == 10.0
    # from a slow start the cap is reached on the way: slower than at the cap, faster than at the start
    time, leaving = roll_on(4.0, steady, 10.0, 100.0, push)
    assert 10.0 < time < 25.0 and leaving == 10.0
    assert time == pytest.approx(integrated(push, 4.0, 10.0, 100.0), rel=0.01)


@pytest.mark.parametrize(("place", "step"), [(MASS, 1e-3), (DRAG, 1e-6), (ROLLING, 1e-7), (POWER, 1e-3)])
@given(push=pushes, entered=st.floats(1.5, 14.0), cap=st.sampled_from([9.0, 60.0]))
def test_slopes_are_central_differences(place: int, step: float, push: Push, entered: float, cap: float) -> None:
    def time(change: float) -> float:
        names = {MASS: "mass", DRAG: "drag_area", ROLLING: "rolling", POWER: "wheel_power"}
        moved = push._replace(**{names[place]: getattr(push, names[place]) + change})
        return roll_on(entered, steady_of(moved), cap, 100.0, moved)[0]

    work, by_time = np.zeros((6, 4)), np.zeros(4)
    plain, leaving = roll_on(entered, steady_of(push), cap, 100.0, push)
    with_slopes, left = roll_on_with_slopes(entered, steady_of(push), cap, 100.0, push, work, by_time)
    assert (with_slopes, left) == pytest.approx((plain, leaving), rel=1e-12)
    up, down = time(step), time(-step)
    one_sided = abs((up - plain) - (plain - down))
    if one_sided > 1e-3 * abs(up - down) + 1e-12:
        return  # a kink: the cap is reached within the step on one side only
    assert by_time[place] == pytest.approx((up - down) / (2 * step), rel=1e-4, abs=1e-6 * plain / step * 1e-3)


def rollers(wavelength: float, steepest: float, spacing: float) -> tuple[float, float]:
    """Return moving time over 20 km of sine hills: by momentum on segments, and integrated metre by metre."""
    length = 20_000.0
    count = round(length / spacing)
    ends = np.linspace(0.0, length, count + 1)
    heights = steepest * wavelength / (2 * math.pi) * np.sin(2 * math.pi * ends / wavelength)
    grades = np.diff(heights) / spacing
    speed, by_momentum, by_steady = 5.0, 0.0, 0.0
    for grade in grades:
        push = Push(144.0, 95.0, 1.5, float(grade), 0.008, 0.36, 1.2, 0.0, 0.0, 0.0)
        steady = steady_of(push)
        time, speed = roll_on(speed, steady, 40.0, spacing, push)
        by_momentum += time
        by_steady += spacing / steady
    values = {"power": 144.0, "cap": 40.0, "rolling": 0.008, "head": 0.0, "cross": 0.0, "drag": 0.36, "density": 1.2,
              "mass": 95.0}  # fmt: skip

    def at(name: str, marks: np.ndarray) -> np.ndarray:
        if name == "grade":
            return steepest * np.cos(2 * math.pi * marks / wavelength)
        return np.full(marks.size, values[name])

    truth = float(dynamic_times(length, at).sum())
    return by_momentum / truth, by_steady / truth


def test_rollers_of_500_m_are_within_two_percent_and_steady_speed_is_far_off() -> None:
    momentum, steady = rollers(500.0, 0.04, 100.0)
    assert abs(momentum - 1.0) < 0.02
    assert steady > 1.05


@pytest.mark.parametrize(("wavelength", "steepest"), [(1_000.0, 0.05), (2_000.0, 0.06), (5_000.0, 0.06)])
def test_longer_hills_are_closer_still(wavelength: float, steepest: float) -> None:
    momentum, steady = rollers(wavelength, steepest, 100.0)
    assert abs(momentum - 1.0) < 0.013
    assert abs(momentum - 1.0) < abs(steady - 1.0)
