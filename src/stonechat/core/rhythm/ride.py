"""The ride along the course, segment by segment: power, air, speed, walking, stops and nights.

Three kernels share one piece of physics:

`ride_course` goes through the race by the clock and fixes the *conditions* of every segment (power, air, dark);
`segment_times` rides the segments again under given conditions with another mass or drag area: what it sums to
are **moving minutes**, smooth but for changes between riding and walking;
`time_gradients` gives the derivatives of those times.

Kernels take plain arrays in named tuples, so that they compile; the same source runs uncompiled for comparison.
"""

import math
from typing import NamedTuple

import numpy as np
from numba import njit

from stonechat.core.line.weather import hourly_temperature, temperature_at_height, wind_along_and_across
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.physics.air import air_density, standard_pressure
from stonechat.core.physics.constants import GRAVITY
from stonechat.core.physics.power_balance import (
    PUSH_EFFICIENCY,
    WALK_SPEED_LEAST,
    WALK_SURFACE_FACTOR,
    force_slope,
    pushing_force,
    resisting_force,
    steady_speed,
    walking_cost,
    walking_speed,
)

NIGHT_CAP = 0.80  # 1, descents by night against by day (estimate)
WALKING_EFFORT = 0.9  # 1, metabolic power on foot against riding (estimate)
STOP_COST = 10.0  # s, to brake for a full stop and get going again
_DAY = 86_400.0


class Course(NamedTuple):
    """Segments as arrays of shape (n,)."""

    lengths: FloatArray  # m
    grades: FloatArray  # 1
    heights: FloatArray  # m, at the middle
    rolling: FloatArray  # 1
    caps: FloatArray  # m/s, fastest descent by day
    grades_most: FloatArray  # 1, steepest ridden
    speeds_least: FloatArray  # m/s, slowest ridden
    headings: FloatArray  # °, clockwise from north


class RiderNumbers(NamedTuple):
    """A rider as numbers; see `stonechat.core.rhythm.rider.Rider`."""

    body_mass: float  # kg
    power: float  # W
    endurance: float  # 1
    fade_time: float  # s
    recovery_time: float  # s
    night_dip: float  # 1
    pace_uphill: float  # 1
    pace_downhill: float  # 1
    pace_most: float  # 1
    drivetrain: float  # 1
    gross_efficiency: float  # 1


class Clock(NamedTuple):
    """Start, riding window, stops and days."""

    start_of_day: float  # s after local midnight at the start
    rise: float  # s after midnight
    halt: float  # s after midnight
    first_night: bool
    camp_time: float  # s
    reach_share: float  # 1, seconds spent reaching for things per second of moving
    stop_segments: IntArray  # first segment after each stop, ascending, shape (s,)
    stop_dwells: FloatArray  # s, shape (s,)
    sunrises: FloatArray  # s after midnight, by day from the start, shape (d,)
    sunsets: FloatArray  # s after midnight, shape (d,)
    temps_low: FloatArray  # °C at the reference height, shape (d,)
    temps_high: FloatArray  # °C, shape (d,)
    wind_speeds: FloatArray  # m/s, 10 m above open ground, shape (d,)
    winds_from: FloatArray  # °, shape (d,)
    reference_height: float  # m
    relative_humidity: float  # 1


class Conditions(NamedTuple):
    """What held on every segment, fixed by `ride_course`; arrays of shape (n,)."""

    wheel_power: FloatArray  # W at the wheel while riding
    walk_power: FloatArray  # W, metabolic, while walking
    density: FloatArray  # kg/m³
    caps: FloatArray  # m/s
    headwinds: FloatArray  # m/s at the rider
    crosswinds: FloatArray  # m/s at the rider


class RideResult(NamedTuple):
    """The race by the clock."""

    conditions: Conditions
    times: FloatArray  # s moving, shape (n,)
    walked: FloatArray  # 1 where the bike is pushed, shape (n,)
    clocks: FloatArray  # s since the start, when each segment begins, shape (n + 1,) with the finish last
    rests: FloatArray  # s rested before each segment, shape (n,)
    temps: FloatArray  # °C, shape (n,)
    powers: FloatArray  # W at the pedals, 0 while walking, shape (n,)
    arrivals: FloatArray  # s since the start, shape (s,)
    departures: FloatArray  # s since the start, before any night's rest, shape (s,)
    awake: FloatArray  # s awake at the end of each segment, shape (n,)


@njit(cache=True)
def _segment_speed(
    grade: float,
    rolling: float,
    grade_most: float,
    speed_least: float,
    cap: float,
    wheel_power: float,
    walk_power: float,
    density: float,
    mass: float,
    body_mass: float,
    drag_area: float,
    headwind: float,
    crosswind: float,
    guess: float,
) -> tuple[float, int]:
    """Return speed [m/s] and mode: 0 riding, 1 at the descending cap, 2 walking."""
    on_foot = walking_speed(walk_power, body_mass, mass - body_mass, grade, rolling)
    if grade > grade_most:
        return on_foot, 2
    riding = steady_speed(wheel_power, mass, grade, rolling, drag_area, density, headwind, crosswind, guess)
    if riding < speed_least or riding < on_foot:
        return on_foot, 2
    if riding > cap:
        return cap, 1
    return riding, 0


@njit(cache=True)
def _day_temperature(clock: Clock, now: float) -> float:
    """Return the temperature at the reference height at a local time counted from the first midnight. [°C]"""
    days = clock.sunrises.size
    day = min(int(now // _DAY), days - 1)
    before, after = max(day - 1, 0), min(day + 1, days - 1)
    hour, sunset_before = (now % _DAY) / 3600.0, 0.0
    if hour < clock.sunrises[day] / 3600.0:  # only the night before the sunrise falls from it
        sunset_before = hourly_temperature(
            clock.sunsets[before] / 3600.0,
            clock.sunrises[before] / 3600.0,
            clock.sunsets[before] / 3600.0,
            clock.temps_low[before],
            clock.temps_high[before],
            clock.temps_low[day],
            0.0,
        )
    return hourly_temperature(
        hour,
        clock.sunrises[day] / 3600.0,
        clock.sunsets[day] / 3600.0,
        clock.temps_low[day],
        clock.temps_high[day],
        clock.temps_low[after],
        sunset_before,
    )


@njit(cache=True)
def _rest_needed(clock: Clock, now: float) -> float:
    """Return how long the rider rests at a local time counted from the first midnight: 0 inside the window. [s]"""
    if clock.rise == clock.halt:
        return 0.0
    if clock.first_night and now < _DAY + clock.rise:
        return 0.0
    since_rise = (now - clock.rise) % _DAY
    window = (clock.halt - clock.rise) % _DAY
    if since_rise < window:
        return 0.0
    return _DAY - since_rise


@njit(cache=True)
def _base_power(rider: RiderNumbers, fatigue: float, time_of_day: float) -> float:
    """Return the power held on the flat now. [W]"""
    from_four = (time_of_day / 3600.0 - 4.0 + 12.0) % 24.0 - 12.0
    dip = 1.0 - rider.night_dip * max(0.0, math.cos(math.pi * from_four / 12.0))
    return rider.power * (1.0 - (1.0 - rider.endurance) * fatigue) * dip


@njit(cache=True)
def ride_course(
    course: Course, rider: RiderNumbers, clock: Clock, masses: FloatArray, drag_areas: FloatArray
) -> RideResult:
    """Ride the course by the clock.

    Parameters
    ----------
    course : Course
        Segments.
    rider : RiderNumbers
        The rider.
    clock : Clock
        Start, window, stops, days.
    masses : ndarray, shape (n,)
        Rider, bike and load on each segment. [kg]
    drag_areas : ndarray, shape (n,)
        Drag area on each segment. [m²]

    Returns
    -------
    ride : RideResult
        Times, conditions, stops and rests. [s]

    Notes
    -----
    Order at a segment: stop, night's rest, air and wind, power, speed, fatigue. Fatigue rises towards 1 with riding
    time and falls with sleep, three times slower with rest awake (form is an estimate). Steady speed is taken on
    each segment; the local clock does not change during the race.

    References
    ----------
    Power balance [Martin1998]; pacing on hills [Atkinson2007]; fading of power [Maunder2021].

    Examples
    --------
    >>> one = np.ones(10)
    >>> course = Course(100 * one, 0 * one, 0 * one, 0.01 * one, 15 * one, 0.2 * one, one, 0 * one)
    >>> rider = RiderNumbers(70.0, 150.0, 1.0, 1e5, 1e5, 0.0, 1.5, 5.0, 1.15, 0.96, 0.22)
    >>> clock = Clock(3.6e4, 0.0, 0.0, False, 0.0, 0.0, np.zeros(0, dtype=np.int64), np.zeros(0), 2e4 + 0 * one,
    ...               7e4 + 0 * one, 15 * one, 15 * one, 0 * one, 0 * one, 0.0, 0.0)
    >>> round(ride_course(course, rider, clock, 95 * one, 0.36 * one).times.sum().item(), 1)
    141.9
    """
    n = course.lengths.size
    times, walked, clocks = np.zeros(n), np.zeros(n), np.zeros(n + 1)
    rests, temps, powers, awakes = np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n)
    wheel, foot, density, caps = np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n)
    head, cross = np.zeros(n), np.zeros(n)
    stops = clock.stop_segments.size
    arrivals, departures = np.zeros(stops), np.zeros(stops)
    now, fatigue, awake, speed, k = 0.0, 0.0, 0.0, 5.0, 0
    for i in range(n):
        while k < stops and clock.stop_segments[k] <= i:
            arrivals[k] = now
            now += clock.stop_dwells[k] + STOP_COST
            awake += clock.stop_dwells[k] + STOP_COST
            fatigue *= math.exp(-clock.stop_dwells[k] / (3.0 * rider.recovery_time))
            departures[k] = now
            k += 1
        local = clock.start_of_day + now
        rest = _rest_needed(clock, local)
        if rest > 0.0:
            rests[i] = rest
            asleep = max(0.0, rest - clock.camp_time)
            fatigue *= math.exp(-asleep / rider.recovery_time)
            now += rest
            local += rest
            awake = 0.0
        clocks[i] = now
        time_of_day = local % _DAY
        day = min(int(local // _DAY), clock.sunrises.size - 1)
        temps[i] = temperature_at_height(_day_temperature(clock, local), course.heights[i], clock.reference_height)
        density[i] = air_density(standard_pressure(course.heights[i]), temps[i], clock.relative_humidity)
        light = clock.sunrises[day] <= time_of_day < clock.sunsets[day]
        caps[i] = course.caps[i] * (1.0 if light else NIGHT_CAP)
        today = min(day, clock.wind_speeds.size - 1)
        head[i], cross[i] = wind_along_and_across(clock.wind_speeds[today], clock.winds_from[today], course.headings[i])
        base = _base_power(rider, fatigue, time_of_day)
        grade = course.grades[i]
        slope = rider.pace_uphill if grade >= 0.0 else rider.pace_downhill
        power = base * min(max(1.0 + slope * grade, 0.0), rider.pace_most)
        wheel[i] = power * rider.drivetrain
        foot[i] = WALKING_EFFORT * base / rider.gross_efficiency
        speed, mode = _segment_speed(
            grade,
            course.rolling[i],
            course.grades_most[i],
            course.speeds_least[i],
            caps[i],
            wheel[i],
            foot[i],
            density[i],
            masses[i],
            rider.body_mass,
            drag_areas[i],
            head[i],
            cross[i],
            speed,
        )
        times[i] = course.lengths[i] / speed
        walked[i] = 1.0 if mode == 2 else 0.0
        powers[i] = power if mode == 0 else 0.0
        if mode == 1:
            need = resisting_force(
                speed, masses[i], grade, course.rolling[i], drag_areas[i], density[i], head[i], cross[i]
            )
            powers[i] = max(0.0, need * speed / rider.drivetrain)
        spent = times[i] * (1.0 + clock.reach_share)
        now += spent
        awake += spent
        awakes[i] = awake
        fatigue = 1.0 - (1.0 - fatigue) * math.exp(-times[i] / rider.fade_time)
    clocks[n] = now
    while k < stops:
        arrivals[k] = now
        departures[k] = now
        k += 1
    conditions = Conditions(wheel, foot, density, caps, head, cross)
    return RideResult(conditions, times, walked, clocks, rests, temps, powers, arrivals, departures, awakes)


@njit(cache=True)
def segment_times(
    course: Course,
    conditions: Conditions,
    body_mass: float,
    masses: FloatArray,
    drag_areas: FloatArray,
) -> tuple[FloatArray, IntArray]:
    """Ride the segments under fixed conditions.

    Parameters
    ----------
    course : Course
        Segments.
    conditions : Conditions
        Power, air and caps, as a ride by the clock left them.
    body_mass : float
        Mass of the rider, who walks beside the bike. [kg]
    masses : ndarray, shape (n,)
        Mass that moves. [kg]
    drag_areas : ndarray, shape (n,)
        Drag area. [m²]

    Returns
    -------
    times : ndarray, shape (n,)
        Time on each segment. [s]
    modes : ndarray, shape (n,)
        0 riding, 1 at the descending cap, 2 walking. [1]

    Examples
    --------
    >>> one = np.ones(2)
    >>> course = Course(100 * one, 0 * one, 0 * one, 0.01 * one, 15 * one, 0.2 * one, one, 0 * one)
    >>> held = Conditions(144 * one, 600 * one, 1.2 * one, 15 * one, 0 * one, 0 * one)
    >>> segment_times(course, held, 70.0, 95 * one, 0.36 * one)[0].round(3)
    array([14.11, 14.11])
    """
    n = course.lengths.size
    times, modes = np.zeros(n), np.zeros(n, dtype=np.int64)
    speed = 5.0
    for i in range(n):
        speed, modes[i] = _segment_speed(
            course.grades[i],
            course.rolling[i],
            course.grades_most[i],
            course.speeds_least[i],
            conditions.caps[i],
            conditions.wheel_power[i],
            conditions.walk_power[i],
            conditions.density[i],
            masses[i],
            body_mass,
            drag_areas[i],
            conditions.headwinds[i],
            conditions.crosswinds[i],
            speed,
        )
        times[i] = course.lengths[i] / speed
    return times, modes


@njit(cache=True)
def time_gradients(
    course: Course,
    conditions: Conditions,
    body_mass: float,
    masses: FloatArray,
    drag_areas: FloatArray,
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Return segment times with their derivatives by carried mass, drag area and wheel power.

    Parameters
    ----------
    course : Course
        Segments.
    conditions : Conditions
        Power, air and caps.
    body_mass : float
        Mass of the rider. [kg]
    masses : ndarray, shape (n,)
        Mass that moves. [kg]
    drag_areas : ndarray, shape (n,)
        Drag area. [m²]

    Returns
    -------
    times : ndarray, shape (n,)
        Time on each segment. [s]
    by_mass : ndarray, shape (n,)
        Derivative by mass. [s/kg]
    by_drag : ndarray, shape (n,)
        Derivative by drag area. [s/m²]
    by_power : ndarray, shape (n,)
        Derivative by power at the wheel. [s/W]

    Notes
    -----
    With ``k(v; x) = F(v; x) - P/v = 0``: ``dt/dx = (L/v²) (dk/dx)/(dk/dv)``. Zero at the descending cap; on foot
    only the pushed mass counts, where power and not the hiking speed limits. Jumps between riding and walking
    are not seen: a quoted price rides again with and without.

    Examples
    --------
    >>> one = np.ones(1)
    >>> course = Course(100 * one, 0.08 * one, 0 * one, 0.01 * one, 15 * one, 0.2 * one, one, 0 * one)
    >>> held = Conditions(200 * one, 600 * one, 1.2 * one, 15 * one, 0 * one, 0 * one)
    >>> time, by_mass, _, _ = time_gradients(course, held, 70.0, 95 * one, 0.0 * one)
    >>> bool(abs(by_mass[0] - time[0] / 95.0) < 0.005 * by_mass[0])
    True
    """
    n = course.lengths.size
    times, modes = segment_times(course, conditions, body_mass, masses, drag_areas)
    by_mass, by_drag, by_power = np.zeros(n), np.zeros(n), np.zeros(n)
    for i in range(n):
        grade, length = course.grades[i], course.lengths[i]
        cosine = 1.0 / math.sqrt(1.0 + grade * grade)
        weight = GRAVITY * cosine * (grade + course.rolling[i])
        speed = length / times[i]
        if modes[i] == 0:
            power, rho = conditions.wheel_power[i], conditions.density[i]
            head, cross = conditions.headwinds[i], conditions.crosswinds[i]
            along = speed + head
            stiffness = force_slope(speed, drag_areas[i], rho, head, cross) + power / (speed * speed)
            factor = length / (speed * speed) / stiffness
            by_mass[i] = factor * weight
            by_drag[i] = factor * 0.5 * rho * math.sqrt(along * along + cross * cross) * along
            by_power[i] = -factor / speed
        elif modes[i] == 2:
            by_mass[i] = _pushing_gradient(
                length, grade, course.rolling[i], conditions.walk_power[i], body_mass, masses[i] - body_mass
            )
    return times, by_mass, by_drag, by_power


@njit(cache=True)
def _pushing_gradient(
    length: float, grade: float, rolling: float, power: float, body_mass: float, pushed: float
) -> float:
    """Return the derivative of walking time by pushed mass; 0 where the hiking speed limits. [s/kg]"""
    push = pushing_force(pushed, grade, rolling)
    if push <= 0.0:
        return 0.0
    cost = walking_cost(grade) * body_mass + push / PUSH_EFFICIENCY
    hiking = WALK_SURFACE_FACTOR * 6.0 / 3.6 * math.exp(-3.5 * abs(grade + 0.05))
    if power / cost >= hiking or power / cost <= WALK_SPEED_LEAST:
        return 0.0
    return length * push / pushed / PUSH_EFFICIENCY / power
