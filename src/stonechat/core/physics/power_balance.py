"""Forces on a bicycle and the speed at which they balance the rider's power; walking where that is better.

Everything here is scalar and compiled; `stonechat.core.rhythm.ride` runs it along the route. The sign of the
air force follows the air: it is ``Va u``, never ``u²``, so a tailwind faster than the rider pushes.
"""

import math
from typing import NamedTuple

from numba import njit

from stonechat.core.physics.constants import BEARING_CONSTANT, BEARING_SLOPE, GRAVITY

WALK_SPEED_LEAST = 0.15  # m/s (estimate)


class Push(NamedTuple):
    """What moves, what drives it and what resists, on one stretch."""

    wheel_power: float  # W
    mass: float  # kg
    inertia: float  # kg, what turning wheels add
    grade: float  # 1
    rolling: float  # 1
    drag_area: float  # m²
    density: float  # kg/m³
    headwind: float  # m/s
    crosswind: float  # m/s
    brake: float  # N at the wheel that something takes whatever the speed, as a hub that charges


@njit(cache=True)
def resisting_force(speed: float, push: Push) -> float:
    """Return the force that resists steady riding at the wheel.

    Parameters
    ----------
    speed : float
        Ground speed. [m/s]
    push : Push
        What moves and resists.

    Returns
    -------
    force : float
        Resisting force, negative where the slope or a tailwind drives. [N]

    References
    ----------
    [Martin1998].

    Examples
    --------
    >>> round(resisting_force(0.0, Push(0.0, 100.0, 1.5, 0.0, 0.01, 0.4, 1.2, 0.0, 0.0, 0.0)), 4)
    9.8976
    """
    cosine = 1.0 / math.sqrt(1.0 + push.grade * push.grade)
    along = speed + push.headwind
    air = math.sqrt(along * along + push.crosswind * push.crosswind)
    return (
        push.mass * GRAVITY * cosine * (push.grade + push.rolling)
        + 0.5 * push.density * push.drag_area * air * along
        + BEARING_CONSTANT
        + BEARING_SLOPE * speed
        + push.brake
    )


@njit(cache=True)
def force_slope(speed: float, push: Push) -> float:
    """Return how the resisting force grows with speed.

    Parameters
    ----------
    speed : float
        Ground speed. [m/s]
    push : Push
        What moves and resists.

    Returns
    -------
    slope : float
        Derivative of `resisting_force` by speed. [N·s/m]

    Examples
    --------
    >>> round(force_slope(10.0, Push(0.0, 90.0, 1.5, 0.0, 0.01, 0.4, 1.2, 0.0, 0.0, 0.0)), 4)
    4.8087
    """
    along = speed + push.headwind
    air = math.sqrt(along * along + push.crosswind * push.crosswind)
    curved = along * along / air if air > 0.0 else 0.0
    return 0.5 * push.density * push.drag_area * (air + curved) + BEARING_SLOPE


@njit(cache=True)
def _bracket(push: Push, guess: float) -> tuple[float, float]:
    """Return two speeds between which power and resistance balance. [m/s]"""
    low, high = 0.0, max(guess, 1.0)
    for _ in range(60):
        if resisting_force(high, push) - push.wheel_power / high > 0.0:
            break
        low = high
        high *= 2.0
    return low, high


@njit(cache=True)
def steady_speed(push: Push, guess: float) -> float:
    """Return the one speed at which power at the wheel and resistance balance.

    Parameters
    ----------
    push : Push
        What moves, drives and resists; its power is 0 or more.
    guess : float
        Where to start looking, such as the speed just before. [m/s]

    Returns
    -------
    speed : float
        Steady speed; 0 where nothing drives. [m/s]

    Notes
    -----
    ``k(v) = F(v) - P/v`` rises strictly from minus infinity, so it has exactly one root for every grade and
    wind. Newton's step on `k` is taken while it stays in the closed bracket, else the bracket is halved.

    References
    ----------
    [Martin1998].

    Examples
    --------
    >>> round(steady_speed(Push(150 * 0.96, 95.0, 1.5, 0.0, 0.010, 0.36, 1.2, 0.0, 0.0, 0.0), 5.0), 5)
    7.0872
    """
    power = push.wheel_power
    if power <= 0.0 and resisting_force(0.0, push) >= 0.0:
        return 0.0
    low, high = _bracket(push, guess)
    speed = min(max(guess, low), high)
    if speed <= 0.0:
        speed = 0.5 * high
    for _ in range(100):
        balance = resisting_force(speed, push) - power / speed
        if balance > 0.0:
            high = speed
        else:
            low = speed
        step = speed - balance / (force_slope(speed, push) + power / (speed * speed))
        if not (low <= step <= high) or step <= 0.0:
            step = 0.5 * (low + high)
        if abs(step - speed) <= 1e-9 * speed:
            return step
        speed = step
    return speed


@njit(cache=True)
def walking_cost(grade: float) -> float:
    """Return the metabolic cost of walking, per metre and kilogram.

    Parameters
    ----------
    grade : float
        Rise over run; held within -0.45 to 0.45, the range measured. [1]

    Returns
    -------
    cost : float
        Metabolic work. [J/(kg·m)]

    References
    ----------
    [Minetti2002].

    Examples
    --------
    >>> round(walking_cost(0.2), 4)
    7.8774
    """
    s = min(max(grade, -0.45), 0.45)
    return ((((280.5 * s - 58.7) * s - 76.8) * s + 51.9) * s + 19.6) * s + 2.5


@njit(cache=True)
def pushing_force(mass: float, grade: float, rolling_coefficient: float) -> float:
    """Return the force at the bars that pushes a loaded bike, 0 where it rolls by itself.

    Parameters
    ----------
    mass : float
        Bike and everything on it. [kg]
    grade : float
        Rise over run. [1]
    rolling_coefficient : float
        Rolling resistance coefficient. [1]

    Returns
    -------
    force : float
        Force. [N]

    Examples
    --------
    >>> pushing_force(20.0, -0.2, 0.02)
    0.0
    """
    return max(0.0, mass * GRAVITY * (grade + rolling_coefficient) / math.sqrt(1.0 + grade * grade))


@njit(cache=True)
def hiking_speed(grade: float) -> float:
    """Return the speed of an unloaded hiker.

    Parameters
    ----------
    grade : float
        Rise over run. [1]

    Returns
    -------
    speed : float
        Speed. [m/s]

    References
    ----------
    [Tobler1993].

    Examples
    --------
    >>> round(hiking_speed(0.1), 4)
    0.9859
    """
    return 6.0 / 3.6 * math.exp(-3.5 * abs(grade + 0.05))


@njit(cache=True)
def walking_speed(
    metabolic_power: float,
    body_mass: float,
    pushed_mass: float,
    grade: float,
    rolling_coefficient: float,
    walk_factor: float,
    push_efficiency: float,
) -> float:
    """Return the speed of a rider who pushes the bike.

    Parameters
    ----------
    metabolic_power : float
        Metabolic power to spend. [W]
    body_mass : float
        Mass of the rider. [kg]
    pushed_mass : float
        Mass of the bike with its load. [kg]
    grade : float
        Rise over run. [1]
    rolling_coefficient : float
        Rolling resistance coefficient. [1]
    walk_factor : float
        Walking with a bike against the free hiking speed. [1]
    push_efficiency : float
        Work at the bars per metabolic work while pushing. [1]

    Returns
    -------
    speed : float
        The lower of the hiking speed and what the power allows, at least 0.15. [m/s]

    References
    ----------
    Hiking speed [Tobler1993], metabolic cost [Minetti2002]; factor and efficiency of pushing are estimates.

    Examples
    --------
    >>> round(walking_speed(600.0, 75.0, 23.0, 0.20, 0.016, 0.85, 0.20), 4)
    0.5906
    """
    push = pushing_force(pushed_mass, grade, rolling_coefficient)
    cost = walking_cost(grade) * body_mass + push / push_efficiency
    return max(WALK_SPEED_LEAST, min(walk_factor * hiking_speed(grade), metabolic_power / cost))
