"""The ride by the clock, segment by segment: stops, doors and nights, air and wind, power, speed or walking.

It fixes the *conditions* of every segment; `stonechat.core.rhythm.times` rides the segments again under them.
The same source runs uncompiled for comparison.
"""

import math

import numpy as np
from numba import njit

from stonechat.core.line.weather import hourly_temperature, temperature_at_height, wind_along_and_across
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.air import air_density, standard_pressure
from stonechat.core.physics.momentum import Push
from stonechat.core.physics.power_balance import resisting_force
from stonechat.core.rhythm.inputs import Clock, Conditions, Course, RideResult, RiderNumbers
from stonechat.core.rhythm.segment import STOP_COST, Ground, Passage, pass_segment

WALKING_EFFORT = 0.9  # 1, metabolic power on foot against riding (estimate)
WET_CAP = 0.85  # 1, fastest speed on wet ground against dry (estimate)
WET_ROLLING = 1.2  # 1, rolling on wet loose ground against dry (estimate)
LONG_STAY = 3.0 * 3600.0  # s from which a stay is a rest where one can sleep (estimate)
LEAST_ROOM = 4.0 * 3600.0  # s between arriving at a room and leaving it, else it is left a day later
FINISH_LATE = 3.0 * 3600.0  # s after the latest arrival to which a rider goes on for the finish (estimate)
EVENING = 2.0 * 3600.0  # s before the latest arrival from which a room is taken though the next is out of reach
NEAR_DOOR = 2.5 * 3600.0  # s of moving to a chosen place for which a night waits
TARMAC_BY_TEMP = 0.008  # 1/K, how tarmac's rolling falls with warmth, about 20 °C (estimate)
_DAY = 86_400.0


@njit(cache=True)
def _sun(table: FloatArray, day: int, along: float) -> float:
    """Return sunrise or sunset of a day at a share of the way. [s after midnight]"""
    row = min(max(day, 0), table.shape[0] - 1)
    last = table.shape[1] - 1
    place = min(max(along, 0.0), 1.0) * last
    left = min(int(place), max(last - 1, 0))
    right = min(left + 1, last)
    return float(table[row, left] + (table[row, right] - table[row, left]) * (place - left))


@njit(cache=True)
def temperature_at(
    sunrises: FloatArray, sunsets: FloatArray, lows: FloatArray, highs: FloatArray, now: float, along: float
) -> float:
    """Return the temperature at the reference height.

    Parameters
    ----------
    sunrises, sunsets : ndarray, shape (d, p)
        By day, at points spread evenly along the course. [s after midnight]
    lows, highs : ndarray, shape (d,)
        By day. [°C]
    now : float
        Local time counted from the first midnight. [s]
    along : float
        Share of the way done, for the sun. [1]

    Returns
    -------
    temperature : float
        Air temperature. [°C]
    """
    days = lows.size
    day = min(int(now // _DAY), days - 1)
    before, after = max(day - 1, 0), min(day + 1, days - 1)
    rise, down = _sun(sunrises, day, along) / 3600.0, _sun(sunsets, day, along) / 3600.0
    hour, sunset_before = (now % _DAY) / 3600.0, 0.0
    if hour < rise:  # only the night before the sunrise falls from it
        up, gone = _sun(sunrises, before, along) / 3600.0, _sun(sunsets, before, along) / 3600.0
        sunset_before = hourly_temperature(gone, up, gone, lows[before], highs[before], lows[day], 0.0)
    return hourly_temperature(hour, rise, down, lows[day], highs[day], lows[after], sunset_before)


@njit(cache=True)
def _altitude_share(height: float, kind: int) -> float:
    """Return the share of power left at a height [Bassett1999]. [1]"""
    km = min(max(height, 0.0), 4_500.0) / 1000.0
    if kind == 1:
        return (-1.12 * km * km - 1.90 * km + 99.9) / 99.9
    if kind == 2:
        return (0.178 * km * km * km - 1.43 * km * km - 4.07 * km + 100.0) / 100.0
    return 1.0


@njit(cache=True)
def _power_now(
    rider: RiderNumbers, fatigue: float, time_of_day: float, grade: float, height: float
) -> tuple[float, float]:
    """Return the power at the pedals here and now, and what is held on the flat. [W, W]"""
    from_four = (time_of_day / 3600.0 - 4.0 + 12.0) % 24.0 - 12.0
    dip = 1.0 - rider.night_dip * max(0.0, math.cos(math.pi * from_four / 12.0))
    fresh = rider.power * (1.0 - rider.coasting) * (1.0 - (1.0 - rider.endurance) * fatigue)
    base = fresh * dip * _altitude_share(height, rider.altitude)
    pace = rider.pace_uphill if grade >= 0.0 else rider.pace_downhill
    return base * min(max(1.0 + pace * grade, 0.0), rider.pace_most), base


@njit(cache=True)
def _door_wait(clock: Clock, stop: int, local: float) -> float:
    """Return how long until a stop opens: 0 where it is open, infinity where it does not any more. [s]"""
    if not clock.has_doors[stop]:
        return 0.0
    for door in range(clock.door_index[stop], clock.door_index[stop + 1]):
        if local < clock.door_shuts[door]:
            return max(0.0, float(clock.door_opens[door]) - local)
    return math.inf


@njit(cache=True)
def _night_rest(clock: Clock, night: int, local: float) -> float:
    """Return how long the rider rests now for a night that has come. [s]"""
    if clock.night_for[night] > 0.0:
        return float(clock.night_for[night])
    return max(0.0, float(clock.night_until[night]) - local)


@njit(cache=True)
def _rolling_now(rolling: float, loose: float, wet: float, temp: float) -> float:
    """Return the rolling coefficient as heat and rain leave it. [1]"""
    warm = min(max(1.0 - TARMAC_BY_TEMP * (temp - 20.0), 0.85), 1.3)
    return rolling * (loose * (1.0 + (WET_ROLLING - 1.0) * wet) + (1.0 - loose) * warm)


@njit(cache=True)
def _empty_result(segments: int, stops: int) -> RideResult:
    """Return a result to be filled."""
    n, s = segments, stops
    held = Conditions(
        np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n),
        np.zeros(n, dtype=np.bool_),
    )  # fmt: skip
    return RideResult(
        held, np.zeros(n), np.zeros(n), np.zeros(n + 1), np.zeros(n), np.zeros(n), np.zeros(n),
        np.zeros(n, dtype=np.bool_), np.zeros(s), np.zeros(s), np.zeros(s), np.zeros(s), np.zeros(n),
    )  # fmt: skip


@njit(cache=True)
def _first_after(moments: FloatArray, first: int, end: int, local: float) -> float:
    """Return the first of some moments that is not before another, infinity where there is none. [s]"""
    for k in range(first, end):
        if moments[k] >= local:
            return float(moments[k])
    return math.inf


@njit(cache=True)
def _until_left(clock: Clock, k: int, local: float) -> float:
    """Return how long it is until a stop is left by the clock, 0 where that is not set. [s]"""
    halts = clock.halts
    first, end = halts.leave_index[k], halts.leave_index[k + 1]
    if first == end:
        return 0.0
    moment = _first_after(halts.leave_times, first, end, local)
    return 0.0 if moment == math.inf else moment - local


@njit(cache=True)
def _to_next_room(clock: Clock, k: int) -> tuple[float, bool]:
    """Return how long it takes from a stop to the next room, else to the finish, and whether it is the finish. [s]"""
    halts, segments = clock.halts, clock.stop_segments
    stays = 0.0
    for other in range(k + 1, segments.size):
        if halts.is_room[other]:
            return halts.expected[segments[other]] - halts.expected[segments[k]] + stays, False
        stays += clock.stop_dwells[other]
    return halts.expected[halts.expected.size - 1] - halts.expected[segments[k]] + stays, True


@njit(cache=True)
def _room_rest(clock: Clock, k: int, local: float) -> float:
    """Return how long the rider sleeps in a room here: until the time to leave, where the next one is too far. [s]"""
    halts = clock.halts
    first, end = halts.leave_index[k], halts.leave_index[k + 1]
    leave = _first_after(halts.leave_times, first, end, local + LEAST_ROOM)
    if leave == math.inf:
        return 0.0
    latest = -math.inf  # of this evening: the last one before the time to leave
    tomorrow = leave + _DAY
    for moment in halts.latest_times:
        if moment < leave:
            latest = moment
        elif moment < tomorrow:
            tomorrow = moment
    ahead, is_finish = _to_next_room(clock, k)
    ahead *= 1.0 + clock.reach_share
    if local + ahead <= latest + (FINISH_LATE if is_finish else 0.0):
        return 0.0
    # a room that no day reaches is no reason to stop early for
    if leave + ahead > tomorrow and local < latest - EVENING:
        return 0.0
    return leave - local


@njit(cache=True)
def _has_door_ahead(clock: Clock, k: int, i: int) -> bool:
    """Tell whether a place chosen to sleep at is so near that no night is spent short of it."""
    halts = clock.halts
    for other in range(k, clock.stop_segments.size):
        if clock.stop_rests[other] > 0.0:
            return bool(halts.expected[clock.stop_segments[other]] - halts.expected[i] <= NEAR_DOOR)
    return False


@njit(cache=True)
def _rested(clock: Clock, rider: RiderNumbers, fatigue: float, rest: float) -> float:
    """Return the fatigue after a rest, its camp work not slept. [1]"""
    return fatigue * math.exp(-max(0.0, rest - clock.camp_time) / rider.recovery_time)


@njit(cache=True)
def _pass_stop(
    clock: Clock, rider: RiderNumbers, k: int, i: int, now: float, fatigue: float, awake: float, out: RideResult
) -> tuple[float, float, float]:
    """Wait for the door, stay, and rest where the rider chose to; return now, fatigue and hours awake. [s, 1, s]"""
    out.arrivals[k] = now
    wait = _door_wait(clock, k, clock.start_of_day + now)
    if wait <= clock.waits_most[k]:
        out.waits[k] = wait
    stay = out.waits[k] + clock.stop_dwells[k] + (0.0 if rider.momentum else STOP_COST)
    now += stay
    awake += stay
    fatigue *= math.exp(-stay / (3.0 * rider.recovery_time))
    out.conditions.from_rest[i] = True
    rest = clock.stop_rests[k]
    local = clock.start_of_day + now
    if rest <= 0.0 and clock.halts.is_room[k]:
        rest = _room_rest(clock, k, local)
    else:
        still = _until_left(clock, k, local + rest)
        if rest > 0.0 or (clock.halts.can_sleep[k] and still >= LONG_STAY):
            rest += still
        else:
            now, awake = now + still, awake + still
            fatigue *= math.exp(-still / (3.0 * rider.recovery_time))
    if rest > 0.0:
        out.stop_rests[k] = rest
        out.rests[i] += rest
        now, fatigue, awake = now + rest, _rested(clock, rider, fatigue, rest), 0.0
    out.departures[k] = now
    return now, fatigue, awake


@njit(cache=True)
def _pass_night(
    clock: Clock,
    rider: RiderNumbers,
    night: int,
    k: int,
    i: int,
    now: float,
    fatigue: float,
    awake: float,
    out: RideResult,
) -> tuple[float, float, float]:
    """Rest for a night that has come; return now, fatigue and time awake. [s, 1, s]"""
    rest = _night_rest(clock, night, clock.start_of_day + now)
    if rest <= 0.0:
        return now, fatigue, awake
    return _rest_here(clock, rider, k, i, rest, now, fatigue, out)


@njit(cache=True)
def _rest_here(
    clock: Clock, rider: RiderNumbers, k: int, i: int, rest: float, now: float, fatigue: float, out: RideResult
) -> tuple[float, float, float]:
    """Rest before a segment; return now, fatigue and time awake. [s, 1, s]"""
    out.rests[i] += rest
    out.conditions.from_rest[i] = True
    now += rest
    if k > 0 and clock.stop_segments[k - 1] == i:  # the night falls at the stop itself
        out.departures[k - 1] = now
        out.stop_rests[k - 1] += rest
    return now, _rested(clock, rider, fatigue, rest), 0.0


@njit(cache=True)
def _rest_by_distance(
    clock: Clock, rider: RiderNumbers, k: int, i: int, now: float, fatigue: float, awake: float, out: RideResult
) -> tuple[float, float, float]:
    """Rest because the day's distance is done; return now, fatigue and time awake. [s, 1, s]"""
    halts, local = clock.halts, clock.start_of_day + now
    moment = _first_after(halts.rise_times, 0, halts.rise_times.size, local + halts.quota_sleep)
    if moment == math.inf:
        return now, fatigue, awake
    return _rest_here(clock, rider, k, i, moment - local, now, fatigue, out)


@njit(cache=True)
def _power_used(power: float, cap: float, passage: Passage, push: Push, rider: RiderNumbers) -> float:
    """Return what is pedalled over a segment: nothing on foot, no more than it takes where the cap holds. [W]"""
    if passage.leaving >= cap:
        need = resisting_force(
            cap, push.mass, push.grade, push.rolling, push.drag_area, push.density, push.headwind, push.crosswind
        )
        power = min(power, max(0.0, need * cap / rider.drivetrain))
    return power * (1.0 - passage.on_foot)


@njit(cache=True, nogil=True)
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
        Start, nights, stops, days.
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
    Order at a segment: stop (door, stay, chosen rest), night's rest, air and wind, power, speed, fatigue. Fatigue
    rises towards 1 with riding time and falls with sleep, three times slower with rest awake (form is an estimate).
    The clock is one that runs evenly; what goes by the clocks on the walls is turned into it beforehand. What lies
    ahead (the next room, a place chosen to sleep at) is judged by the moving times that `halts.expected` holds.

    References
    ----------
    Power balance [Martin1998]; pacing on hills [Atkinson2007]; fading of power [Maunder2021]; height [Bassett1999].

    Examples
    --------
    >>> one, none, days = np.ones(10), np.zeros(0), np.ones(3)
    >>> course = Course(100 * one, 0 * one, 0 * one, 0.01 * one, one, 15 * one, 0.2 * one, one, 0 * one)
    >>> rider = RiderNumbers(70.0, 150.0, 1.0, 1e5, 1e5, 0.0, 1.5, 5.0, 1.15, 0.96, 0.22, momentum=False)
    >>> from stonechat.core.rhythm.inputs import Halts
    >>> first, no = np.zeros(1, dtype=np.int64), none.astype(np.bool_)
    >>> halts = Halts(first, none, no, no, none, np.zeros(11), 0.0, 0.0, none)
    >>> clock = Clock(3.6e4, none, none, none, 0.0, 0.0, none.astype(np.int64), none, none, halts,
    ...               first, none, none, no, none, np.full((3, 1), 2e4),
    ...               np.full((3, 1), 7e4), 15 * days, 15 * days, 0 * days, 0 * days, 0 * days, 0 * days, 0.0, 1.0)
    >>> round(ride_course(course, rider, clock, 95 * one, 0.36 * one).times.sum().item(), 1)
    141.9
    """
    n, stops, nights = course.lengths.size, clock.stop_segments.size, clock.night_from.size
    out = _empty_result(n, stops)
    held, rises, sets = out.conditions, clock.sunrises, clock.sunsets
    lows, highs, start = clock.temps_low, clock.temps_high, clock.start_of_day
    now, fatigue, awake, speed, share, k, night = 0.0, 0.0, 0.0, 5.0, 0.0, 0, 0
    along_way, rested_at = 0.0, 0.0
    for i in range(n):
        while k < stops and clock.stop_segments[k] <= i:
            now, fatigue, awake = _pass_stop(clock, rider, k, i, now, fatigue, awake, out)
            slept = out.stop_rests[k] > 0.0
            while slept and night < nights and clock.night_from[night] <= start + now:
                night += 1  # it was slept here
            k += 1
        if night < nights and start + now >= clock.night_from[night]:
            if not _has_door_ahead(clock, k, i):
                now, fatigue, awake = _pass_night(clock, rider, night, k, i, now, fatigue, awake, out)
            night += 1
        if clock.halts.quota > 0.0 and along_way - rested_at >= clock.halts.quota:
            now, fatigue, awake = _rest_by_distance(clock, rider, k, i, now, fatigue, awake, out)
        if out.rests[i] > 0.0:
            rested_at = along_way
        along_way += course.lengths[i]
        out.clocks[i] = now
        # what holds here and now; figures, not arrays, go to the helpers
        local, along, grade, height = start + now, (i + 0.5) / n, course.grades[i], course.heights[i]
        time_of_day, day = local % _DAY, int(local // _DAY)
        today = min(day, lows.size - 1)
        temp = temperature_at(rises, sets, lows, highs, local, along)
        temp = temperature_at_height(temp, height, clock.reference_height)
        light = _sun(rises, day, along) <= time_of_day < _sun(sets, day, along)
        density = air_density(standard_pressure(height), temp, clock.humidities[today])
        rolling = _rolling_now(course.rolling[i], course.loose[i], clock.wet[today], temp)
        cap = course.caps[i] * (1.0 - (1.0 - WET_CAP) * clock.wet[today]) * (1.0 if light else rider.night_cap)
        head, cross = wind_along_and_across(
            clock.shelter * clock.wind_speeds[today], clock.winds_from[today], course.headings[i]
        )
        power, base = _power_now(rider, fatigue, time_of_day, grade, height)
        wheel, on_foot = power * rider.drivetrain, WALKING_EFFORT * base / rider.gross_efficiency
        ground = Ground(
            course.lengths[i], course.grades_most[i], course.speeds_least[i], cap, on_foot, held.from_rest[i]
        )
        push = Push(wheel, masses[i], rider.inertia, grade, rolling, drag_areas[i], density, head, cross)
        passage = pass_segment(ground, rider, push, speed, share)
        time, speed, share = passage.time, passage.speed, passage.on_foot
        held.wheel_power[i], held.walk_power[i], held.rolling[i], held.density[i] = wheel, on_foot, rolling, density
        held.caps[i], held.headwinds[i], held.crosswinds[i] = cap, head, cross
        out.times[i], out.temps[i], out.dark[i] = time, temp, not light
        out.walked[i] = share
        out.powers[i] = _power_used(power, cap, passage, push, rider)
        now += time * (1.0 + clock.reach_share)
        awake += time * (1.0 + clock.reach_share)
        out.awake[i] = awake
        fatigue = 1.0 - (1.0 - fatigue) * math.exp(-time / rider.fade_time)
    out.clocks[n] = now
    for later in range(k, stops):
        out.arrivals[later] = now
        out.departures[later] = now
    return out
