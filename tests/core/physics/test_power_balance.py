"""Speed against the cubic's root, the balance itself, and directions that must hold."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from stonechat.core.physics.constants import BEARING_CONSTANT, BEARING_SLOPE, GRAVITY
from stonechat.core.physics.power_balance import (
    Push,
    force_slope,
    pushing_force,
    resisting_force,
    steady_speed,
    walking_cost,
    walking_speed,
)

masses = st.floats(55, 160)
grades = st.floats(-0.25, 0.25)
powers = st.floats(20, 380)
drags = st.floats(0.2, 0.6)
rollings = st.floats(0.004, 0.08)
winds = st.floats(-12, 12)


def cubic_root(power: float, mass: float, grade: float, rolling: float, drag: float, density: float) -> float:
    """Solve the still-air balance as a cubic: the one positive real root of F(v) v - P."""
    cosine = 1.0 / math.sqrt(1.0 + grade * grade)
    constant = mass * GRAVITY * cosine * (grade + rolling) + BEARING_CONSTANT
    roots = np.roots([0.5 * density * drag, BEARING_SLOPE, constant, -power])
    real = roots[np.abs(roots.imag) < 1e-6].real
    return float(real[real > 0].max())


@given(powers, masses, grades, rollings, drags)
def test_speed_in_still_air_is_the_cubics_positive_root(
    power: float, mass: float, grade: float, rolling: float, drag: float
) -> None:
    found = steady_speed(Push(power, mass, 1.5, grade, rolling, drag, 1.15, 0.0, 0.0, 0.0), 6.0)
    assert found == pytest.approx(cubic_root(power, mass, grade, rolling, drag, 1.15), rel=1e-7)


@given(powers, masses, grades, rollings, drags, winds, winds)
def test_at_the_speed_found_force_times_speed_is_the_power(
    power: float, mass: float, grade: float, rolling: float, drag: float, head: float, cross: float
) -> None:
    speed = steady_speed(Push(power, mass, 1.5, grade, rolling, drag, 1.2, head, cross, 0.0), 6.0)
    force = resisting_force(speed, Push(0.0, mass, 1.5, grade, rolling, drag, 1.2, head, cross, 0.0))
    assert force * speed == pytest.approx(power, rel=1e-6)


# worked by bisection at 1e-12 with 150 W, 95 kg, Crr 0.010, CdA 0.36, 1.2 kg/m³, efficiency 0.96
@pytest.mark.parametrize(
    ("grade", "head", "cross", "expected"),
    [
        (0.0, 0.0, 0.0, 7.08720),
        (0.06, 0.0, 0.0, 2.17430),
        (-0.06, 0.0, 0.0, 15.99623),
        (0.0, 5.0, 0.0, 4.78157),
        (0.0, -5.0, 0.0, 9.86265),
        (0.0, -15.0, 0.0, 15.09352),
        (0.0, 0.0, 5.0, 6.68841),
    ],
)
def test_worked_speeds(grade: float, head: float, cross: float, expected: float) -> None:
    found = steady_speed(Push(144.0, 95.0, 1.5, grade, 0.010, 0.36, 1.2, head, cross, 0.0), 5.0)
    assert found == pytest.approx(expected, abs=6e-6)


def test_a_rider_without_power_stands_on_the_flat_and_coasts_downhill() -> None:
    assert steady_speed(Push(0.0, 95.0, 1.5, 0.0, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0), 5.0) == 0.0
    coasting = steady_speed(Push(0.0, 95.0, 1.5, -0.06, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0), 5.0)
    assert resisting_force(coasting, Push(0.0, 95.0, 1.5, -0.06, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0)) == pytest.approx(
        0.0, abs=1e-5
    )


@given(powers, masses, st.floats(0.02, 0.2), drags)
def test_more_mass_is_slower_uphill(power: float, mass: float, grade: float, drag: float) -> None:
    light = steady_speed(Push(power, mass, 1.5, grade, 0.01, drag, 1.2, 0.0, 0.0, 0.0), 5.0)
    assert steady_speed(Push(power, mass + 1.0, 1.5, grade, 0.01, drag, 1.2, 0.0, 0.0, 0.0), 5.0) < light


@given(powers, masses, grades, drags, st.floats(-10, 10))
def test_a_stronger_headwind_is_slower(power: float, mass: float, grade: float, drag: float, wind: float) -> None:
    slow = steady_speed(Push(power, mass, 1.5, grade, 0.01, drag, 1.2, wind + 1.0, 0.0, 0.0), 5.0)
    assert slow < steady_speed(Push(power, mass, 1.5, grade, 0.01, drag, 1.2, wind, 0.0, 0.0), 5.0)


@given(powers, masses, drags, st.floats(0, 14))
def test_a_tailwind_faster_than_the_rider_never_brakes(power: float, mass: float, drag: float, wind: float) -> None:
    still = steady_speed(Push(power, mass, 1.5, 0.0, 0.01, drag, 1.2, 0.0, 0.0, 0.0), 5.0)
    assert steady_speed(Push(power, mass, 1.5, 0.0, 0.01, drag, 1.2, -wind, 0.0, 0.0), 5.0) >= still - 1e-9


@given(st.floats(1, 18), drags, winds, st.floats(0.1, 8))
def test_the_slope_of_the_force_is_its_central_difference(speed: float, drag: float, head: float, cross: float) -> None:
    step = 1e-5
    up, down = (
        resisting_force(speed + s, Push(0.0, 90.0, 1.5, 0.0, 0.01, drag, 1.2, head, cross, 0.0)) for s in (step, -step)
    )
    assert force_slope(speed, Push(0.0, 90.0, 1.5, 0.0, 0.01, drag, 1.2, head, cross, 0.0)) == pytest.approx(
        (up - down) / (2 * step), rel=1e-4, abs=1e-5
    )


# [Minetti2002] table of measured and fitted cost of walking, J/(kg m): the polynomial at round grades
@pytest.mark.parametrize(("grade", "cost"), [(0.0, 2.5), (0.2, 7.8774), (-0.1, 1.1271)])
def test_walking_cost_is_the_published_polynomial(grade: float, cost: float) -> None:
    assert walking_cost(grade) == pytest.approx(cost, abs=5e-4)


# [Tobler1993]: 6 exp(-3.5 |s + 0.05|) km/h; 0.85 of it on foot beside a bike
@pytest.mark.parametrize(("grade", "hiking"), [(0.0, 1.3991), (0.1, 0.9859), (0.2, 0.6948)])
def test_walking_is_held_by_the_hiking_speed_where_power_is_plenty(grade: float, hiking: float) -> None:
    assert walking_speed(5_000.0, 70.0, 15.0, grade, 0.02, 0.85, 0.20) == pytest.approx(0.85 * hiking, abs=1e-4)


@given(st.floats(250, 900), st.floats(50, 100), st.floats(10, 40), st.floats(-0.3, 0.45))
def test_pushing_a_heavier_bike_is_never_faster(power: float, body: float, bike: float, grade: float) -> None:
    assume(pushing_force(bike, grade, 0.02) >= 0.0)
    light = walking_speed(power, body, bike, grade, 0.02, 0.85, 0.20)
    assert walking_speed(power, body, bike + 5.0, grade, 0.02, 0.85, 0.20) <= light + 1e-12
