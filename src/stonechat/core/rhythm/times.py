"""Segment times under the conditions of a ride, with another mass or drag area, and their derivatives.

What they sum to are **moving minutes**, smooth in mass, drag area, rolling and power.
"""

from typing import NamedTuple

import numpy as np
from numba import njit

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.momentum import MASS, ROLLING, roll_on_with_slopes, steady_slopes
from stonechat.core.physics.power_balance import WALK_SPEED_LEAST, Push, hiking_speed, pushing_force, walking_cost
from stonechat.core.rhythm.inputs import Conditions, Course, RiderNumbers
from stonechat.core.rhythm.segment import BLUR, CHANGE_COST, STARTING_SPEED, Ground, Passage, pass_segment


class Parts(NamedTuple):
    """Derivatives while a segment is passed, shape (4,) each."""

    by_time: FloatArray  # of the time riding all of it
    by_walk: FloatArray  # of the time walking all of it
    by_share: FloatArray  # of the share that is walked


@njit(cache=True, inline="always")
def _here(
    course: Course, conditions: Conditions, inertia: float, i: int, mass: float, drag_area: float
) -> tuple[Ground, Push]:
    """Return what a segment is like, and what moves, drives and resists on it."""
    ground = Ground(
        length=course.lengths[i],
        grade_most=course.grades_most[i],
        speed_least=course.speeds_least[i],
        cap=conditions.caps[i],
        walk_power=conditions.walk_power[i],
        from_rest=conditions.from_rest[i],
    )
    push = Push(
        wheel_power=conditions.wheel_power[i],
        mass=mass,
        inertia=inertia,
        grade=course.grades[i],
        rolling=conditions.rolling[i],
        drag_area=drag_area,
        density=conditions.density[i],
        headwind=conditions.headwinds[i],
        crosswind=conditions.crosswinds[i],
        brake=course.brakes[i],
    )
    return ground, push


@njit(cache=True, nogil=True)
def segment_times(
    course: Course, conditions: Conditions, rider: RiderNumbers, masses: FloatArray, drag_areas: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Ride the segments under fixed conditions.

    Parameters
    ----------
    course : Course
        Segments.
    conditions : Conditions
        Power, air and caps, as a ride by the clock left them.
    rider : RiderNumbers
        The rider.
    masses : ndarray, shape (n,)
        Mass that moves. [kg]
    drag_areas : ndarray, shape (n,)
        Drag area. [m²]

    Returns
    -------
    times : ndarray, shape (n,)
        Time on each segment. [s]
    on_foot : ndarray, shape (n,)
        Share of each segment that is walked. [1]

    Examples
    --------
    >>> one, still = np.ones(2), np.zeros(2, dtype=np.bool_)
    >>> course = Course(100 * one, 0 * one, 0 * one, 0.01 * one, one, 15 * one, 0.2 * one, one, 0 * one, 0 * one)
    >>> held = Conditions(144 * one, 600 * one, 0.01 * one, 1.2 * one, 15 * one, 0 * one, 0 * one, still)
    >>> from stonechat.core.rhythm.inputs import Legs
    >>> rider = RiderNumbers(70.0, Legs(150.0), momentum=False)
    >>> segment_times(course, held, rider, 95 * one, 0.36 * one)[0].round(3)
    array([14.11, 14.11])
    """
    n = course.lengths.size
    times, on_foot = np.zeros(n), np.zeros(n)
    speed, share = 5.0, 0.0
    for i in range(n):
        ground, push = _here(course, conditions, rider.inertia, i, masses[i], drag_areas[i])
        passage = pass_segment(ground, rider, push, speed, share)
        times[i], speed, share = passage.time, passage.speed, passage.on_foot
        on_foot[i] = share
    return times, on_foot


@njit(cache=True, nogil=True)
def time_gradients(
    course: Course, conditions: Conditions, rider: RiderNumbers, masses: FloatArray, drag_areas: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return segment times with their derivatives by carried mass, drag area, rolling and wheel power.

    Parameters
    ----------
    course : Course
        Segments.
    conditions : Conditions
        Power, air and caps.
    rider : RiderNumbers
        The rider.
    masses : ndarray, shape (n,)
        Mass that moves. [kg]
    drag_areas : ndarray, shape (n,)
        Drag area. [m²]

    Returns
    -------
    times : ndarray, shape (n,)
        Time on each segment. [s]
    slopes : ndarray, shape (4, n)
        Derivatives by mass [s/kg], drag area [s/m²], rolling coefficient [s] and power at the wheel [s/W], each for
        a change on all segments at once.

    Notes
    -----
    Forward differentiation of the same steps, walking shares and changes included. Zero while braking to the cap; on
    foot only the pushed mass counts, where power and not the hiking speed limits.

    Examples
    --------
    >>> one, still = np.ones(1), np.zeros(1, dtype=np.bool_)
    >>> course = Course(100 * one, 0.08 * one, 0 * one, 0.01 * one, one, 15 * one, 0.2 * one, one, 0 * one, 0 * one)
    >>> held = Conditions(200 * one, 600 * one, 0.01 * one, 1.2 * one, 15 * one, 0 * one, 0 * one, still)
    >>> from stonechat.core.rhythm.inputs import Legs
    >>> rider = RiderNumbers(70.0, Legs(150.0), momentum=False)
    >>> time, slopes = time_gradients(course, held, rider, 95 * one, 0.0 * one)
    >>> bool(abs(slopes[0, 0] - time[0] / 95.0) < 0.005 * slopes[0, 0])
    True
    """
    n = course.lengths.size
    times, slopes = np.zeros(n), np.zeros((4, n))
    work, parts = np.zeros((6, 4)), Parts(np.zeros(4), np.zeros(4), np.zeros(4))
    by_time, by_walk = parts.by_time, parts.by_walk
    speed, share = 5.0, 0.0
    for i in range(n):
        ground, push = _here(course, conditions, rider.inertia, i, masses[i], drag_areas[i])
        before = share
        if ground.from_rest or speed <= STARTING_SPEED:
            work[0, :] = 0.0
        passage = pass_segment(ground, rider, push, speed, before)
        times[i], speed, share = passage.time, passage.speed, passage.on_foot
        by_time[:] = 0.0
        if share < 1.0:
            _riding_slopes(ground, rider, push, passage, work, by_time)
        by_walk[:] = 0.0
        if share > 0.0:
            by_walk[MASS], by_walk[ROLLING] = _pushing_slopes(ground, rider, push)
        _blend(ground, passage, before, work[0], parts, slopes[:, i])
    return times, slopes


@njit(cache=True)
def _riding_slopes(
    ground: Ground, rider: RiderNumbers, push: Push, passage: Passage, work: FloatArray, by_time: FloatArray
) -> None:
    """Write the derivatives of the time that riding all of a segment takes, and of the speed on leaving."""
    if rider.momentum:
        roll_on_with_slopes(passage.entered, passage.steady, ground.cap, ground.length, push, work, by_time)
    elif passage.steady < ground.cap:
        steady_slopes(passage.steady, push, by_time)
        by_time *= -ground.length / (passage.steady * passage.steady)


@njit(cache=True)
def _blend(
    ground: Ground,
    passage: Passage,
    before: float,
    by_speed: FloatArray,
    parts: Parts,
    slopes: FloatArray,
) -> None:
    """Write the derivatives of a segment that is partly walked; shares and speed are those of the next one then."""
    by_time, by_walk, by_share = parts.by_time, parts.by_walk, parts.by_share
    share = passage.on_foot
    foot = ground.length / passage.walking
    spread = BLUR * max(ground.speed_least, foot)
    for x in range(4):
        was = by_share[x]
        by_foot = -foot * foot / ground.length * by_walk[x]
        by_share[x] = 0.0
        if 0.0 < share < 1.0:
            mean = ground.length / passage.riding
            by_mean = -mean * mean / ground.length * by_time[x]
            by_slowest = by_foot * mean / foot if foot > ground.speed_least else 0.0
            by_share[x] = share * (1.0 - share) * (by_slowest - by_mean) / spread
        changing = CHANGE_COST * (by_share[x] - was) * (1.0 if share >= before else -1.0)
        mixed = by_time[x] * (1.0 - share) + by_walk[x] * share
        slopes[x] = mixed + by_share[x] * (passage.walking - passage.riding) + changing
        by_speed[x] = (
            by_speed[x] * (1.0 - share) + by_foot * share + by_share[x] * (foot - passage.leaving)
            if share < 1.0
            else by_foot
        )


@njit(cache=True)
def _pushing_slopes(ground: Ground, rider: RiderNumbers, push: Push) -> tuple[float, float]:
    """Return derivatives of walking time by pushed mass and rolling; 0 where the hiking speed limits. [s/kg, s]"""
    pushed = push.mass - rider.body_mass
    force = pushing_force(pushed, push.grade, push.rolling)
    if force <= 0.0:
        return 0.0, 0.0
    power = ground.walk_power
    cost = walking_cost(push.grade) * rider.body_mass + force / rider.on_foot.push_efficiency
    if power / cost >= rider.on_foot.walk_factor * hiking_speed(push.grade) or power / cost <= WALK_SPEED_LEAST:
        return 0.0, 0.0
    scale = ground.length * force / rider.on_foot.push_efficiency / power
    return scale / pushed, scale / (push.grade + push.rolling)
