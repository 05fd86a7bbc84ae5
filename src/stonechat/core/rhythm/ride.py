"""The ride by the clock, segment by segment: stops, doors and nights, air and wind, power, speed or walking.

It fixes the *conditions* of every segment; `stonechat.core.rhythm.times` rides the segments again under them.
The same source runs uncompiled for comparison.
"""

import math
from typing import NamedTuple

import numpy as np
from numba import njit

from stonechat.core.line.weather import hourly_temperature, temperature_at_height, wind_along_and_across
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.air import air_density, standard_pressure
from stonechat.core.physics.power_balance import Push, resisting_force
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
_DAY = 86_400.0  # s


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
    dip = 1.0 - rider.legs.night_dip * max(0.0, math.cos(math.pi * from_four / 12.0))
    fresh = rider.legs.power * (1.0 - rider.pace.coasting) * (1.0 - (1.0 - rider.legs.endurance) * fatigue)
    base = fresh * dip * _altitude_share(height, rider.legs.altitude)
    pace = rider.pace.uphill if grade >= 0.0 else rider.pace.downhill
    return base * min(max(1.0 + pace * grade, 0.0), rider.pace.most), base


@njit(cache=True)
def _door_wait(clock: Clock, stop: int, local: float) -> float:
    """Return how long until a stop opens: 0 where it is open, infinity where it does not any more. [s]"""
    if not clock.doors.known[stop]:
        return 0.0
    for door in range(clock.doors.first[stop], clock.doors.first[stop + 1]):
        if local < clock.doors.shuts[door]:
            return max(0.0, float(clock.doors.opens[door]) - local)
    return math.inf


@njit(cache=True)
def _night_rest(clock: Clock, night: int, local: float) -> float:
    """Return how long the rider rests now for a night that has come. [s]"""
    if clock.nights.lasting[night] > 0.0:
        return float(clock.nights.lasting[night])
    return max(0.0, float(clock.nights.until[night]) - local)


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
    halts, segments = clock.halts, clock.stays.segments
    stays = 0.0
    for other in range(k + 1, segments.size):
        if halts.is_room[other]:
            return halts.expected[segments[other]] - halts.expected[segments[k]] + stays, False
        stays += clock.stays.dwells[other]
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
    for other in range(k, clock.stays.segments.size):
        if clock.stays.rests[other] > 0.0:
            return bool(halts.expected[clock.stays.segments[other]] - halts.expected[i] <= NEAR_DOOR)
    return False


class Moment(NamedTuple):
    """How it stands with a rider at a moment."""

    now: float  # s since the start
    fatigue: float  # 1
    awake: float  # s


@njit(cache=True)
def _rested(clock: Clock, rider: RiderNumbers, at: Moment, rest: float) -> Moment:
    """Return how it stands after a rest, its camp work not slept."""
    slept = max(0.0, rest - clock.nights.camp_time)
    return Moment(at.now + rest, at.fatigue * math.exp(-slept / rider.legs.recovery_time), 0.0)


@njit(cache=True)
def _ridden(rider: RiderNumbers, at: Moment, time: float, reach: float) -> Moment:
    """Return how it stands after so long of riding, and of reaching for things."""
    fatigue = 1.0 - (1.0 - at.fatigue) * math.exp(-time / rider.legs.fade_time)
    return Moment(at.now + time * reach, fatigue, at.awake + time * reach)


@njit(cache=True)
def _idled(rider: RiderNumbers, at: Moment, time: float) -> Moment:
    """Return how it stands after a while awake without riding."""
    fatigue = at.fatigue * math.exp(-time / (3.0 * rider.legs.recovery_time))
    return Moment(at.now + time, fatigue, at.awake + time)


@njit(cache=True)
def _pass_stop(clock: Clock, rider: RiderNumbers, k: int, i: int, at: Moment, out: RideResult) -> Moment:
    """Wait for the door, stay, and rest where the rider chose to."""
    out.arrivals[k] = at.now
    wait = _door_wait(clock, k, clock.start_of_day + at.now)
    if wait <= clock.doors.waits_most[k]:
        out.waits[k] = wait
    halted = out.waits[k] + clock.stays.dwells[k]
    if halted > 0.0:
        at = _idled(rider, at, halted + (0.0 if rider.momentum else STOP_COST))
        out.conditions.from_rest[i] = True
    rest = clock.stays.rests[k]
    local = clock.start_of_day + at.now
    if rest <= 0.0 and clock.halts.is_room[k]:
        rest = _room_rest(clock, k, local)
    else:
        still = _until_left(clock, k, local + rest)
        if rest > 0.0 or (clock.halts.can_sleep[k] and still >= LONG_STAY):
            rest += still
        elif still > 0.0:
            at = _idled(rider, at, still)
            out.conditions.from_rest[i] = True
    if rest > 0.0:
        out.conditions.from_rest[i] = True
        out.stop_rests[k] = rest
        out.rests[i] += rest
        at = _rested(clock, rider, at, rest)
    out.departures[k] = at.now
    return at


@njit(cache=True)
def _rest_here(clock: Clock, rider: RiderNumbers, k: int, i: int, rest: float, at: Moment, out: RideResult) -> Moment:
    """Rest before a segment."""
    if rest <= 0.0:
        return at
    out.rests[i] += rest
    out.conditions.from_rest[i] = True
    at = _rested(clock, rider, at, rest)
    if k > 0 and clock.stays.segments[k - 1] == i:  # the night falls at the stop itself
        out.departures[k - 1] = at.now
        out.stop_rests[k - 1] += rest
    return at


@njit(cache=True)
def _rest_by_distance(clock: Clock, local: float) -> float:
    """Return how long the rider rests because the day's distance is done. [s]"""
    halts = clock.halts
    moment = _first_after(halts.rise_times, 0, halts.rise_times.size, local + halts.quota_sleep)
    return 0.0 if moment == math.inf else moment - local


@njit(cache=True)
def _power_used(power: float, cap: float, passage: Passage, push: Push, rider: RiderNumbers) -> float:
    """Return what is pedalled over a segment: nothing on foot, no more than it takes where the cap holds. [W]"""
    if passage.leaving >= cap:
        need = resisting_force(cap, push)
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
    >>> course = Course(100 * one, 0 * one, 0 * one, 0.01 * one, one, 15 * one, 0.2 * one, one, 0 * one, 0 * one)
    >>> from stonechat.core.rhythm.inputs import Doors, Halts, Legs, Nights, Sky, Stays
    >>> rider = RiderNumbers(70.0, Legs(150.0), momentum=False)
    >>> first, no = np.zeros(1, dtype=np.int64), none.astype(np.bool_)
    >>> halts = Halts(first, none, no, no, none, np.zeros(11), 0.0, 0.0, none)
    >>> mild, still = 15 * days, 0 * days
    >>> sky = Sky(np.full((3, 1), 2e4), np.full((3, 1), 7e4), mild, mild, still, still, still, still, 0.0, 1.0)
    >>> stays, doors = Stays(none.astype(np.int64), none, none), Doors(first, none, none, no, none)
    >>> clock = Clock(3.6e4, 0.0, Nights(none, none, none, 0.0), stays, halts, doors, sky)
    >>> round(ride_course(course, rider, clock, 95 * one, 0.36 * one).times.sum().item(), 1)
    141.9
    """
    n, stops, nights = course.lengths.size, clock.stays.segments.size, clock.nights.begin.size
    out = _empty_result(n, stops)
    # arrays are dear to hand to a function, and to take out of a part of the clock: each is counted. So the loop reads
    # them, and helpers take figures
    held, sky, begins, segments = out.conditions, clock.sky, clock.nights.begin, clock.stays.segments
    rises, sets, lows, highs, winds, winds_from = (
        sky.sunrises, sky.sunsets, sky.lows, sky.highs, sky.wind_speeds, sky.winds_from,
    )  # fmt: skip
    humidities, wets, reference, shelter = sky.humidities, sky.wet, sky.reference_height, sky.shelter
    quota, reach, start = clock.halts.quota, 1.0 + clock.reach_share, clock.start_of_day
    at, speed, share, k, night, along_way, rested_at = (
        Moment(0.0, rider.legs.tired, rider.legs.awake),
        5.0,
        0.0,
        0,
        0,
        0.0,
        0.0,
    )
    for i in range(n):
        while k < stops and segments[k] <= i:
            at = _pass_stop(clock, rider, k, i, at, out)
            slept = out.stop_rests[k] > 0.0
            while slept and night < nights and begins[night] <= start + at.now:
                night += 1  # it was slept here
            k += 1
        if night < nights and start + at.now >= begins[night]:
            if not _has_door_ahead(clock, k, i):
                at = _rest_here(clock, rider, k, i, _night_rest(clock, night, start + at.now), at, out)
            night += 1
        if quota > 0.0 and along_way - rested_at >= quota:
            at = _rest_here(clock, rider, k, i, _rest_by_distance(clock, start + at.now), at, out)
        if out.rests[i] > 0.0:
            rested_at = along_way
        along_way += course.lengths[i]
        out.clocks[i] = at.now
        local, along, grade, height = start + at.now, (i + 0.5) / n, course.grades[i], course.heights[i]
        day = int(local // _DAY)
        today = min(day, lows.size - 1)
        temp = temperature_at_height(temperature_at(rises, sets, lows, highs, local, along), height, reference)
        light = _sun(rises, day, along) <= local % _DAY < _sun(sets, day, along)
        density = air_density(standard_pressure(height), temp, humidities[today])
        rolling = _rolling_now(course.rolling[i], course.loose[i], wets[today], temp)
        cap = course.caps[i] * (1.0 - (1.0 - WET_CAP) * wets[today]) * (1.0 if light else rider.night_cap)
        head, cross = wind_along_and_across(shelter * winds[today], winds_from[today], course.headings[i])
        power, base = _power_now(rider, at.fatigue, local % _DAY, grade, height)
        wheel, on_foot = power * rider.drivetrain, WALKING_EFFORT * base / rider.on_foot.gross_efficiency
        ground = Ground(
            course.lengths[i], course.grades_most[i], course.speeds_least[i], cap, on_foot, held.from_rest[i]
        )
        push = Push(
            wheel_power=wheel, mass=masses[i], inertia=rider.inertia, grade=grade, rolling=rolling,
            drag_area=drag_areas[i], density=density, headwind=head, crosswind=cross, brake=course.brakes[i],
        )  # fmt: skip
        passage = pass_segment(ground, rider, push, speed, share)
        speed, share = passage.speed, passage.on_foot
        held.wheel_power[i], held.walk_power[i], held.rolling[i], held.density[i] = wheel, on_foot, rolling, density
        held.caps[i], held.headwinds[i], held.crosswinds[i] = cap, head, cross
        out.times[i], out.temps[i], out.dark[i], out.walked[i] = passage.time, temp, not light, share
        out.powers[i] = _power_used(power, cap, passage, push, rider)
        at = _ridden(rider, at, passage.time, reach)
        out.awake[i] = at.awake
    out.clocks[n] = at.now
    for later in range(k, stops):
        out.arrivals[later] = at.now
        out.departures[later] = at.now
    return out
