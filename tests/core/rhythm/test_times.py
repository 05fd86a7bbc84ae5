"""Times under fixed conditions: closed forms, splitting, central differences."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.physics.constants import GRAVITY
from stonechat.core.physics.momentum import DRAG, MASS, POWER, ROLLING
from stonechat.core.rhythm.inputs import Conditions, Course
from stonechat.core.rhythm.segment import CHANGE_COST
from stonechat.core.rhythm.times import segment_times, time_gradients
from tests.core.rhythm.test_ride import FRESH, course_of, rolling_course

CARRYING = FRESH._replace(momentum=True)


def conditions(count: int, power: float = 144.0, rolling: float = 0.01) -> Conditions:
    one = np.ones(count)
    still = np.zeros(count, dtype=bool)
    return Conditions(power * one, 600.0 * one, rolling * one, 1.2 * one, 25.0 * one, 0.0 * one, 0.0 * one, still)


def test_one_climb_without_air_takes_the_work_over_the_power() -> None:
    # no air, no bearings to speak of: time = m g cos (s + Crr) L / P
    course, held = course_of(np.array([0.08])), conditions(1, 200.0)
    times, _ = segment_times(course, held, FRESH, np.array([95.0]), np.array([0.0]))
    work = 95.0 * GRAVITY * (0.08 + 0.01) / math.sqrt(1 + 0.08**2) * 100.0
    assert times[0] == pytest.approx(work / 200.0, rel=2e-3)


def test_splitting_segments_does_not_change_the_moving_time() -> None:
    course = rolling_course(800)  # but for getting off and on, which is counted once however it is cut
    halves = Course(*(np.repeat(values, 2) for values in course))._replace(lengths=np.full(1_600, 50.0))
    for rider, tolerance in ((FRESH, 2e-4), (CARRYING, 2e-3)):
        whole, _ = segment_times(course, conditions(800), rider, np.full(800, 95.0), np.full(800, 0.36))
        split, _ = segment_times(halves, conditions(1_600), rider, np.full(1_600, 95.0), np.full(1_600, 0.36))
        assert split.sum() == pytest.approx(whole.sum(), rel=tolerance)


@pytest.mark.parametrize("momentum", [True, False])
@pytest.mark.parametrize("gusts", [0.0, 4.0])
def test_gradients_are_central_differences_of_segment_times(gusts: float, momentum: bool) -> None:
    course, count, rider = rolling_course(2_000), 2_000, FRESH._replace(momentum=momentum)
    random = np.random.default_rng(9)
    winds = {name: random.uniform(-gusts, gusts, count) for name in ("headwinds", "crosswinds")}
    halted = random.random(count) < 0.02
    held = conditions(count)._replace(**winds, from_rest=halted)
    masses, drags = np.full(count, 95.0), np.full(count, 0.36)
    times, on_foot = segment_times(course, held, rider, masses, drags)
    exact, slopes = time_gradients(course, held, rider, masses, drags)
    assert np.array_equal(exact, times)

    def moved(place: int, step: float) -> tuple[np.ndarray, np.ndarray]:
        change = {POWER: "wheel_power", ROLLING: "rolling"}.get(place)
        changed = held._replace(**{change: getattr(held, change) + step}) if change else held
        mass, drag = (step if place == wanted else 0.0 for wanted in (MASS, DRAG))
        return segment_times(course, changed, rider, masses + mass, drags + drag)

    for step, place in ((1e-3, MASS), (1e-5, DRAG), (1e-6, ROLLING), (1e-3, POWER)):
        (up, _), (down, _) = moved(place, step), moved(place, -step)
        central = (up - down) / (2 * step)
        # kinks stay where braking to the cap begins, and where walking starts to grow or to shrink
        smooth = np.abs((up - times) - (times - down)) < 1e-3 * np.abs(up - down) + 1e-10
        assert smooth.mean() > 0.95
        assert np.allclose(slopes[place][smooth], central[smooth], rtol=2e-4, atol=1e-6), place
        assert slopes[place].sum() == pytest.approx(central.sum(), rel=2e-3)
    assert on_foot[150] == 1.0 and ((on_foot > 1e-6) & (on_foot < 1 - 1e-6)).any()


def test_pushing_costs_what_the_bike_weighs() -> None:
    course, held = course_of(np.array([0.35])), conditions(1, 20.0)._replace(walk_power=np.array([350.0]))
    _, slopes = time_gradients(course, held, FRESH, np.array([95.0]), np.array([0.36]))
    step = 0.01
    up, on_foot = segment_times(course, held, FRESH, np.array([95.0 + step]), np.array([0.36]))
    down, _ = segment_times(course, held, FRESH, np.array([95.0 - step]), np.array([0.36]))
    assert on_foot[0] == 1.0
    assert slopes[MASS, 0] == pytest.approx((up[0] - down[0]) / (2 * step), rel=1e-6)
    assert slopes[MASS, 0] > 0
    firmer, softer = (
        segment_times(course, held._replace(rolling=held.rolling + d), FRESH, np.array([95.0]), np.array([0.36]))[0][0]
        for d in (-1e-6, 1e-6)
    )
    assert slopes[ROLLING, 0] == pytest.approx((softer - firmer) / 2e-6, rel=1e-5)


def test_as_a_climb_steepens_the_time_grows_without_a_jump() -> None:
    # riding at 1.0 m/s gives way to walking at 0.6: the time on a segment must not leap between two near grades
    grades = np.linspace(0.08, 0.20, 2_001)
    one = np.ones(grades.size)
    course = course_of(grades)._replace(grades_most=one, speeds_least=1.0 * one)
    for rider in (FRESH, CARRYING):
        held = conditions(grades.size)._replace(from_rest=np.ones(grades.size, dtype=bool))
        alone = [
            segment_times(Course(*(v[k : k + 1] for v in course)), Conditions(*(v[k : k + 1] for v in held)), rider,
                          np.array([95.0]), np.array([0.36]))
            for k in range(grades.size)
        ]  # fmt: skip
        times, on_foot = (np.array([entry[part][0] for entry in alone]) for part in (0, 1))
        assert on_foot[0] < 0.01 and on_foot[-1] > 0.99
        assert np.abs(np.diff(times)).max() < 0.02 * times.max()


def test_getting_off_and_on_again_costs_once_each() -> None:
    grades = np.array([0.0, 0.0, 0.3, 0.3, 0.0, 0.0])
    times, on_foot = segment_times(course_of(grades), conditions(6), FRESH, np.full(6, 95.0), np.full(6, 0.36))
    assert on_foot.tolist() == [0, 0, 1, 1, 0, 0]
    assert times[2] - times[3] == pytest.approx(CHANGE_COST)
    assert times[4] - times[5] == pytest.approx(CHANGE_COST)


@given(st.floats(0.1, 10), st.booleans())
def test_a_heavier_load_never_makes_climbs_faster(extra: float, momentum: bool) -> None:
    course, rider = course_of(np.full(50, 0.06)), FRESH._replace(momentum=momentum)
    light, _ = segment_times(course, conditions(50), rider, np.full(50, 90.0), np.full(50, 0.36))
    heavy, _ = segment_times(course, conditions(50), rider, np.full(50, 90.0 + extra), np.full(50, 0.36))
    assert (heavy[2:] > light[2:]).all()
