"""Momentum: how a rider's speed follows grade, wind and power along one stretch, with its derivatives.

Steady speed forgets what went before; on short hills a rider carries speed over the crest. Kinetic energy relaxes
exponentially towards its steady value, with the exact secant of the force as rate, so the step is stable whatever
its length.
"""

import math
from typing import NamedTuple

from numba import njit

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.constants import BEARING_SLOPE, GRAVITY
from stonechat.core.physics.power_balance import Push, force_slope

STEP = 20.0  # m, longest step
_QUICK = 0.015  # 1/m, from this rate on the first step is graded into four
_FAR = 0.05  # 1, where the speed differs from the steady one by more than this
MASS, DRAG, ROLLING, POWER = 0, 1, 2, 3  # places of the four derivatives
_NEAR = 1e-5  # m/s, speeds closer than this are taken as equal


@njit(cache=True)
def _air(speed: float, push: Push) -> tuple[float, float, float]:
    """Return ``Va u`` with its first and second derivative by speed."""
    u = speed + push.headwind
    va = math.sqrt(u * u + push.crosswind * push.crosswind)
    if va <= 0.0:
        return 0.0, 0.0, 0.0
    cosine = u / va
    return va * u, va + u * cosine, 3.0 * cosine - cosine * cosine * cosine


@njit(cache=True)
def _drag(speed: float, push: Push) -> float:
    """Return ``Va u``, the air's part of the drag."""
    u = speed + push.headwind
    return math.sqrt(u * u + push.crosswind * push.crosswind) * u


@njit(cache=True)
def _rate(speed: float, steady: float, held: float, push: Push) -> float:
    """Return the rate at which kinetic energy goes to its steady value, given ``Va u`` held there. [1/m]"""
    gap = speed - steady
    slope = (_drag(speed, push) - held) / gap if abs(gap) > _NEAR else _air(speed, push)[1]
    resists = push.wheel_power / (speed * steady) + 0.5 * push.density * push.drag_area * slope + BEARING_SLOPE
    return 2.0 * resists / ((push.mass + push.inertia) * (speed + steady))


@njit(cache=True)
def _grading(speed: float, steady: float, held: float, push: Push) -> int:
    """Return how many steps more a stretch needs, because speed changes quickly at its beginning."""
    return 3 if abs(speed - steady) > _FAR * steady and _rate(speed, steady, held, push) > _QUICK else 0


@njit(cache=True)
def _share(k: int, more: int) -> float:
    """Return the length of a step against the usual one: 1/8, 1/8, 1/4, 1/2, then 1 on a graded stretch."""
    if k > more:
        return 1.0
    return 1.0 if more == 0 else 0.125 if k == 0 else 0.125 * 2.0 ** (k - 1)


@njit(cache=True)
def roll_on(speed: float, steady: float, cap: float, length: float, push: Push) -> tuple[float, float]:
    """Ride a stretch that was entered at some speed.

    Parameters
    ----------
    speed : float
        Speed on entering. [m/s]
    steady : float
        Steady speed on the stretch, above 0. [m/s]
    cap : float
        Fastest speed; the rider brakes to it. [m/s]
    length : float
        Length of the stretch. [m]
    push : Push
        What moves, drives and resists.

    Returns
    -------
    time : float
        Time on the stretch. [s]
    speed : float
        Speed on leaving. [m/s]

    Notes
    -----
    With ``K = v²/2``: ``dK/ds = (P/v - F(v))/(m + m_i) = -q(v) (K - Ks)``, where q is the exact secant between v
    and the steady speed. A step takes q at its middle; time is Simpson's rule on 1/v.

    References
    ----------
    [Martin1998] for the forces.

    Examples
    --------
    >>> flat = Push(144.0, 95.0, 1.5, 0.0, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0)
    >>> time, out = roll_on(7.08720, 7.08720, 20.0, 100.0, flat)
    >>> round(time, 3), round(out, 4)
    (14.11, 7.0872)
    """
    count = max(1, math.ceil(length / STEP))
    target, most = 0.5 * steady * steady, 0.5 * cap * cap
    speed = min(speed, cap)
    kinetic = 0.5 * speed * speed
    held = _drag(steady, push)
    time, gone, more = 0.0, 0.0, _grading(speed, steady, held, push)
    for k in range(count + more):
        if kinetic >= most and target >= most:
            return time + (length - gone) / cap, cap
        h = length / count * _share(k, more)
        gone += h
        middle = math.sqrt(2.0 * (target + (kinetic - target) * math.exp(-0.5 * h * _rate(speed, steady, held, push))))
        kinetic = min(target + (kinetic - target) * math.exp(-h * _rate(middle, steady, held, push)), most)
        after = math.sqrt(2.0 * kinetic)
        time += h / 6.0 * (1.0 / speed + 4.0 / min(middle, cap) + 1.0 / after)
        speed = after
    return time, speed


@njit(cache=True)
def steady_slopes(steady: float, push: Push, slopes: FloatArray) -> None:
    """Write the derivatives of the steady speed.

    Parameters
    ----------
    steady : float
        Steady speed. [m/s]
    push : Push
        What moves, drives and resists.
    slopes : ndarray, shape (4,)
        Is filled: by mass [m/s/kg], drag area [m/s/m²], rolling coefficient [m/s], power at the wheel [m/s/W].

    Notes
    -----
    From ``k(v; x) = F(v; x) - P/v = 0``: ``dv/dx = -(dk/dx)/(dk/dv)``.

    Examples
    --------
    >>> import numpy as np
    >>> found = np.zeros(4)
    >>> steady_slopes(7.08720, Push(144.0, 95.0, 1.5, 0.0, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0), found)
    >>> bool(found[MASS] < 0 and found[DRAG] < 0 and found[ROLLING] < 0 and found[POWER] > 0)
    True
    """
    stiffness = force_slope(steady, push)
    stiffness += push.wheel_power / (steady * steady)
    weight = GRAVITY / math.sqrt(1.0 + push.grade * push.grade)
    slopes[MASS] = -weight * (push.grade + push.rolling) / stiffness
    slopes[DRAG] = -0.5 * push.density * _air(steady, push)[0] / stiffness
    slopes[ROLLING] = -push.mass * weight / stiffness
    slopes[POWER] = 1.0 / steady / stiffness


class Steady(NamedTuple):
    """The steady speed, and the air's part of the drag there with its slope."""

    speed: float  # m/s
    drag: float  # ``Va u``
    slope: float


@njit(cache=True)
def _rate_slopes(
    speed: float, steady: Steady, push: Push, by_speed: FloatArray, by_steady: FloatArray, slopes: FloatArray
) -> float:
    """Write the derivatives of `_rate`, given those of its two speeds, and return the rate."""
    drag, first, second = _air(speed, push)
    gap = speed - steady.speed
    if abs(gap) > _NEAR:
        secant = (drag - steady.drag) / gap
        here, there = (first - secant) / gap, (secant - steady.slope) / gap
    else:
        secant, here, there = first, 0.5 * second, 0.5 * second
    half = 0.5 * push.density * push.drag_area
    product = 1.0 / (speed * steady.speed)
    over = push.wheel_power * product
    moving = 0.5 * (push.mass + push.inertia)
    below = 1.0 / (moving * (speed + steady.speed))
    rate = (over + half * secant + BEARING_SLOPE) * below
    turn = rate * moving
    with_speed, with_steady = half * here - over / speed - turn, half * there - over / steady.speed - turn
    for x in range(4):
        slopes[x] = (with_speed * by_speed[x] + with_steady * by_steady[x]) * below
    slopes[MASS] -= rate * 0.5 * (speed + steady.speed) * below
    slopes[DRAG] += 0.5 * push.density * secant * below
    slopes[POWER] += product * below
    return rate


@njit(cache=True)
def roll_on_with_slopes(
    speed: float, steady: float, cap: float, length: float, push: Push, work: FloatArray, by_time: FloatArray
) -> tuple[float, float]:
    """Ride a stretch as `roll_on` does, carrying the four derivatives along.

    Parameters
    ----------
    speed : float
        Speed on entering. [m/s]
    steady : float
        Steady speed on the stretch. [m/s]
    cap : float
        Fastest speed. [m/s]
    length : float
        Length of the stretch. [m]
    push : Push
        What moves, drives and resists.
    work : ndarray, shape (6, 4)
        Row 0 holds the derivatives of the speed on entering and then on leaving; the rest is scratch.
    by_time : ndarray, shape (4,)
        Is filled with the derivatives of the time: s/kg, s/m², s, s/W.

    Returns
    -------
    time : float
        Time on the stretch. [s]
    speed : float
        Speed on leaving. [m/s]

    Notes
    -----
    Forward differentiation of the very steps that `roll_on` takes, so the two agree to rounding. Where the rider
    brakes to the cap nothing depends on mass, drag or power.

    Examples
    --------
    >>> import numpy as np
    >>> work, by_time = np.zeros((6, 4)), np.zeros(4)
    >>> flat = Push(144.0, 95.0, 1.5, 0.0, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0)
    >>> time, _ = roll_on_with_slopes(5.0, 7.08720, 20.0, 100.0, flat, work, by_time)
    >>> time == roll_on(5.0, 7.08720, 20.0, 100.0, flat)[0]
    True
    """
    by_speed, by_steady, by_middle, by_rate, by_kinetic = work[0], work[1], work[2], work[3], work[4]
    steady_slopes(steady, push, by_steady)
    count = max(1, math.ceil(length / STEP))
    target, most = 0.5 * steady * steady, 0.5 * cap * cap
    if speed >= cap:
        speed = cap
        by_speed[:] = 0.0
    kinetic = 0.5 * speed * speed
    by_kinetic[:] = speed * by_speed
    by_time[:] = 0.0
    held, held_slope, _ = _air(steady, push)
    goal = Steady(steady, held, held_slope)
    time, gone, more = 0.0, 0.0, _grading(speed, steady, held, push)
    for k in range(count + more):
        if kinetic >= most and target >= most:
            by_speed[:] = 0.0
            return time + (length - gone) / cap, cap
        h = length / count * _share(k, more)
        gone += h
        rate = _rate_slopes(speed, goal, push, by_speed, by_steady, by_rate)
        left = math.exp(-0.5 * h * rate)
        middle = math.sqrt(2.0 * (target + (kinetic - target) * left))
        pull, turned = (kinetic - target) * left * 0.5 * h, 1.0 / middle
        for x in range(4):
            by_target = steady * by_steady[x]
            by_middle[x] = (by_target + left * (by_kinetic[x] - by_target) - pull * by_rate[x]) * turned
        rate = _rate_slopes(middle, goal, push, by_middle, by_steady, by_rate)
        left = math.exp(-h * rate)
        pull = (kinetic - target) * left * h
        for x in range(4):
            by_target = steady * by_steady[x]
            by_kinetic[x] = by_target + left * (by_kinetic[x] - by_target) - pull * by_rate[x]
        kinetic = target + (kinetic - target) * left
        if kinetic >= most:
            kinetic = most
            by_kinetic[:] = 0.0
        after = math.sqrt(2.0 * kinetic)
        if middle >= cap:
            middle = cap
            by_middle[:] = 0.0
        first, second, third = 1.0 / speed, 1.0 / middle, 1.0 / after
        time += h / 6.0 * (first + 4.0 * second + third)
        for x in range(4):
            by_after = by_kinetic[x] * third
            change = by_speed[x] * first * first + 4.0 * by_middle[x] * second * second + by_after * third * third
            by_time[x] -= h / 6.0 * change
            by_speed[x] = by_after
        speed = after
    return time, speed
