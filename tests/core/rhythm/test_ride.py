"""The ride against itself uncompiled, closed forms and the clock."""

import math
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any, cast

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.physics import power_balance
from stonechat.core.physics.air import air_density, standard_pressure
from stonechat.core.rhythm import ride as ride_module
from stonechat.core.rhythm import segment as segment_module
from stonechat.core.rhythm.inputs import (
    Clock,
    Course,
    Doors,
    Halts,
    Legs,
    Nights,
    RideResult,
    RiderNumbers,
    Sky,
    Stays,
)
from stonechat.core.rhythm.rhythm import Night, Rhythm, night_arrays
from stonechat.core.rhythm.ride import ride_course
from stonechat.core.rhythm.segment import STARTING_SPEED, STOP_COST

HOUR, DAY = 3600.0, 86_400.0
FRESH = RiderNumbers(70.0, Legs(150.0), momentum=False)


def changed(record: Any, **leaves: object) -> Any:
    """Return nested named tuples with some of their leaves replaced, each found by its name."""
    made = {}
    for name, value in zip(record._fields, record, strict=True):
        if name in leaves:
            made[name] = leaves[name]
        elif hasattr(value, "_fields"):
            made[name] = changed(value, **leaves)
    return record._replace(**made)


TIRED = changed(
    FRESH, endurance=0.65, fade_time=30 * HOUR, recovery_time=8 * HOUR, night_dip=0.06, uphill=1.5, downhill=5.0,
    most=1.15, coasting=0.02, altitude=1, momentum=True,
)  # fmt: skip


def course_of(grades: np.ndarray, rolling: float = 0.01, cap: float = 25.0) -> Course:
    """Return segments of 100 m of loose ground at sea level."""
    one = np.ones(grades.size)
    return Course(
        100.0 * one, grades, 0.0 * one, rolling * one, one, cap * one, 0.25 * one, 0.3 * one, 0.0 * one, 0.0 * one
    )


def halts_of(count: int, segments: int = 4_000, speed: float = 6.0, **changes: object) -> Halts:
    """Return halts that ask for nothing, over segments of 100 m expected at one speed."""
    plain = Halts(
        leave_index=np.zeros(count + 1, dtype=np.int64), leave_times=np.zeros(0),
        can_sleep=np.zeros(count, dtype=bool), is_room=np.zeros(count, dtype=bool), latest_times=np.zeros(0),
        expected=100.0 * np.arange(segments + 1) / speed, quota=0.0, quota_sleep=0.0, rise_times=np.zeros(0),
    )  # fmt: skip
    return plain._replace(**changes)


def clock_of(rhythm: Rhythm | None = None, *, start: float = 10 * HOUR, stops: tuple[tuple[int, float], ...] = (),
             **changes: object) -> Clock:  # fmt: skip
    """Return a clock with light from 6 to 18 at 15 °C, nights by a rhythm, stops as (segment, seconds)."""
    days, count = np.ones(30), len(stops)
    through = Rhythm(school="through")
    even = datetime(2027, 9, 24, tzinfo=UTC) + timedelta(seconds=start)
    begins, ends, lengths = night_arrays(replace(rhythm or through, start=even.replace(tzinfo=None)), even, 30)
    plain = Clock(
        start_of_day=start,
        reach_share=0.0,
        nights=Nights(begins, ends, lengths, (rhythm or through).camp_time),
        stays=Stays(
            np.array([at for at, _ in stops], dtype=np.int64),
            np.array([stay for _, stay in stops], dtype=np.float64),
            np.zeros(count),
        ),
        halts=halts_of(count),
        doors=Doors(
            np.zeros(count + 1, dtype=np.int64), np.zeros(0), np.zeros(0), np.zeros(count, dtype=bool), np.zeros(count)
        ),
        sky=Sky(
            np.full((30, 2), 6 * HOUR), np.full((30, 2), 18 * HOUR), 15.0 * days, 15.0 * days, 0.0 * days, 0.0 * days,
            0.0 * days, 0.0 * days, 0.0, 1.0,
        ),
    )  # fmt: skip
    return cast("Clock", changed(plain, **changes))


WINDOW = Rhythm(rise=5 * HOUR, halt=20 * HOUR, camp_time=1_800.0)


def rolling_course(segments: int = 4_000, seed: int = 3) -> Course:
    """Return a hilly course with flats, climbs to walk and descents to brake on."""
    random = np.random.default_rng(seed)
    waves = 0.05 * np.sin(np.arange(segments) / 23.0) + 0.03 * np.sin(np.arange(segments) / 5.0)
    grades = waves + random.normal(0.0, 0.004, segments)
    grades[150:156] = 0.28  # to be walked
    if segments > 400:
        grades[300:340] = np.linspace(0.15, 0.249, 40)  # ever more of it walked
    return course_of(grades, cap=12.0)


def ridden(course: Course, rider: RiderNumbers = FRESH, clock: Clock | None = None) -> RideResult:
    count = course.lengths.size
    return ride_course(course, rider, clock or clock_of(), np.full(count, 95.0), np.full(count, 0.36))


def plain_ride(monkeypatch: pytest.MonkeyPatch, *arguments: object) -> RideResult:
    """Ride in plain Python: the same source with every compiled helper replaced by its own source."""
    for module in (ride_module, segment_module, power_balance):
        for name in vars(module).copy():
            if hasattr(getattr(module, name), "py_func"):
                monkeypatch.setattr(module, name, getattr(module, name).py_func)
    return ride_module.ride_course(*arguments)  # type: ignore[no-any-return]


@pytest.mark.parametrize("momentum", [True, False])
def test_the_compiled_ride_is_the_same_as_the_plain_one(monkeypatch: pytest.MonkeyPatch, momentum: bool) -> None:
    rhythm = Rhythm(rise=5 * HOUR, halt=16 * HOUR, camp_time=1_800.0)
    clock = clock_of(
        rhythm, stops=((40, 600.0), (200, 1_200.0)), reach_share=0.02, lows=np.linspace(0, 9, 30),
        highs=np.linspace(12, 25, 30), wind_speeds=np.full(30, 4.0), wet=np.tile([0.0, 1.0], 15),
    )  # fmt: skip
    rider, course = TIRED._replace(momentum=momentum), rolling_course(1_600)
    compiled = ridden(course, rider, clock)
    plain = plain_ride(monkeypatch, course, rider, clock, np.full(1_600, 95.0), np.full(1_600, 0.36))
    for name in ("times", "clocks", "rests", "temps", "arrivals", "awake"):
        assert np.allclose(getattr(compiled, name), getattr(plain, name), rtol=1e-12, atol=1e-9), name
    assert compiled.rests.sum() > 0 and compiled.walked.sum() > 0


def test_the_clock_is_the_sum_of_moving_stops_rests_and_reaching() -> None:
    clock = clock_of(WINDOW, reach_share=0.03, stops=((10, 300.0), (500, 900.0)))
    result = ridden(rolling_course(), clock=clock)
    parts = result.times.sum() * 1.03 + result.rests.sum() + 1_200.0 + 2 * STOP_COST
    assert result.clocks[-1] == pytest.approx(parts, rel=1e-12)
    assert (result.departures - result.arrivals) == pytest.approx([300.0 + STOP_COST, 900.0 + STOP_COST])


@given(st.floats(0, 23.9), st.floats(0, 23.9), st.floats(0, 23.9))
def test_nobody_rides_in_a_night_that_began_after_the_start(start: float, rise: float, halt: float) -> None:
    rhythm = Rhythm(rise=rise * HOUR, halt=halt * HOUR)
    clock = clock_of(rhythm, start=start * HOUR)
    result = ridden(rolling_course(1_500), clock=clock)
    if rise == halt:
        assert result.rests.sum() == 0.0
        return
    begins = clock.start_of_day + result.clocks[:-1]
    for night, morning in zip(clock.nights.begin, clock.nights.until, strict=True):
        assert not ((begins > night + 1e-6) & (begins < morning - 1e-6)).any()


def test_so_many_hours_are_slept_each_night_from_the_chosen_time_on() -> None:
    rhythm = Rhythm(school="hours", sleep_from=23 * HOUR, sleep_for=4 * HOUR, camp_time=1_800.0)
    clock = clock_of(rhythm)
    result = ridden(rolling_course(12_000), clock=clock)
    rests = result.rests[result.rests > 0]
    assert rests == pytest.approx(np.full(rests.size, 4.5 * HOUR)) and rests.size >= 2
    fell_asleep = (clock.start_of_day + result.clocks[:-1] - result.rests)[result.rests > 0]
    # lies down at the first segment end after 23:00
    assert all(23 * HOUR <= t % DAY < 23 * HOUR + 300.0 for t in fell_asleep)


def test_a_lie_down_after_midnight_is_the_same_night() -> None:
    rhythm = Rhythm(school="hours", sleep_from=1 * HOUR, sleep_for=3 * HOUR)
    result = ridden(rolling_course(12_000), clock=clock_of(rhythm))
    first = int(np.argmax(result.rests > 0))
    assert 10 * HOUR + result.clocks[first] - result.rests[first] == pytest.approx(25 * HOUR, abs=300.0)


def test_sleeping_at_a_chosen_stop_stands_for_the_night() -> None:
    rests = np.array([0.0, 6 * HOUR])
    window = Rhythm(rise=5 * HOUR, halt=22 * HOUR)
    clock = clock_of(window, stops=((40, 60.0), (1_600, 60.0)), rests=rests)
    result = ridden(rolling_course(), clock=clock)
    assert result.stop_rests.tolist() == [0.0, 6 * HOUR]
    assert result.departures[1] - result.arrivals[1] == pytest.approx(6 * HOUR + 60.0 + STOP_COST)
    assert result.awake[1_600] < HOUR
    # the night that fell within the sleep is not rested again
    slept_until = clock.start_of_day + result.departures[1]
    assert slept_until > 22 * HOUR
    assert result.rests[result.clocks[:-1] + clock.start_of_day < slept_until + 6 * HOUR].sum() == 6 * HOUR


def test_a_night_set_by_hand_takes_the_place_of_the_schools() -> None:
    by_hand = Rhythm(
        rise=5 * HOUR, halt=22 * HOUR, nights={0: Night(kind="for", start=20 * HOUR, sleep=2 * HOUR)}, camp_time=0.0
    )
    result = ridden(rolling_course(), clock=clock_of(by_hand))
    first = int(np.argmax(result.rests > 0))
    assert result.rests[first] == 2 * HOUR
    assert 10 * HOUR + result.clocks[first] - 2 * HOUR == pytest.approx(20 * HOUR, abs=300.0)


def test_a_door_is_waited_for_as_long_as_the_rider_says() -> None:
    doors = {
        "known": np.array([True]), "first": np.array([0, 2]), "opens": np.array([12 * HOUR, 36 * HOUR]),
        "shuts": np.array([13 * HOUR, 37 * HOUR]),
    }  # fmt: skip
    course = rolling_course(600)
    for most, waits in ((0.0, False), (3 * HOUR, True), (600.0, False)):
        result = ridden(course, clock=clock_of(stops=((100, 300.0),), waits_most=np.array([most]), **doors))
        arrival = 10 * HOUR + float(result.arrivals[0])
        assert arrival < 12 * HOUR - 600.0
        assert result.waits[0] == pytest.approx(12 * HOUR - arrival if waits else 0.0)
    late = ridden(course, clock=clock_of(start=14 * HOUR, stops=((100, 300.0),), waits_most=np.array([DAY]), **doors))
    assert 14 * HOUR + late.arrivals[0] + late.waits[0] == pytest.approx(36 * HOUR)


def test_after_a_stop_the_rider_starts_from_a_standstill() -> None:
    flat = course_of(np.zeros(200))
    plain = ridden(flat, TIRED)
    stopped = ridden(flat, TIRED, clock_of(stops=((100, 60.0),)))
    assert ridden(flat, TIRED, clock_of(stops=((100, 0.0),))).times.sum() == plain.times.sum()  # ridden past
    lost = stopped.times.sum() - plain.times.sum()
    # half the kinetic energy's worth of time and more: between 5 and 25 s at 25 km/h
    assert 5.0 < lost < 25.0
    assert stopped.times[100] > 1.3 * stopped.times[99]
    assert 100.0 / stopped.times[100] > STARTING_SPEED


def test_rain_slows_loose_ground_and_warmth_only_tarmac() -> None:
    course = course_of(np.zeros(50))
    tarmac = course._replace(loose=np.zeros(50))
    days = np.ones(30)
    hot = {"lows": 35 * days, "highs": 35 * days}
    held = {
        name: ridden(line, clock=clock_of(**changes)).conditions.rolling[0]
        for name, line, changes in (
            ("loose", course, {}), ("loose wet", course, {"wet": days}), ("loose hot", course, hot),
            ("tarmac wet", tarmac, {"wet": days}), ("tarmac hot", tarmac, hot),
        )
    }  # fmt: skip
    assert held["loose wet"] == pytest.approx(1.2 * held["loose"]) and held["loose hot"] == held["loose"] == 0.01
    # tarmac at 15 °C rolls 4 % worse than at 20 °C, at 35 °C 12 % better
    assert held["tarmac wet"] == pytest.approx(0.01 * 1.04) and held["tarmac hot"] == pytest.approx(0.01 * 0.88)


@pytest.mark.parametrize(("kind", "share"), [(0, 1.0), (1, 0.9162), (2, 0.8756)])
def test_height_takes_power_as_published(kind: int, share: float) -> None:
    # [Bassett1999] at 2,000 m, against the same formula at sea level
    course = course_of(np.zeros(5))
    high = ridden(course._replace(heights=np.full(5, 2_000.0)), changed(FRESH, altitude=kind))
    assert high.powers[0] == pytest.approx(150.0 * share / (1.0 if kind != 1 else 0.999), rel=1e-3)


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
    north = course_of(np.zeros(3))._replace(headings=np.zeros(3))
    days = np.ones(30)
    for shelter in (1.0, 0.35):
        clock = clock_of(wind_speeds=5.0 * days, winds_from=0.0 * days, shelter=shelter)
        result = ridden(north, clock=clock)
        density = air_density(standard_pressure(0.0), 15.0, 0.0)
        wind = shelter * 0.604 * 5.0
        expected = power_balance.steady_speed(
            power_balance.Push(144.0, 95.0, 1.5, 0.0, 0.01, 0.36, density, wind, 0.0, 0.0), 5.0
        )
        assert 100.0 / result.times[0] == pytest.approx(expected, rel=1e-9)


def test_the_first_night_is_ridden_through_when_asked() -> None:
    result = ridden(rolling_course(), clock=clock_of(Rhythm(rise=5 * HOUR, halt=22 * HOUR, first_night=True)))
    assert result.rests[10 * HOUR + result.clocks[:-1] < DAY + 5 * HOUR].sum() == 0.0


def test_power_fades_with_hours_and_comes_back_with_sleep() -> None:
    # F after 17 h from fresh with tau 30 h is 1 - exp(-17/30); power 150 (1 - 0.35 F): 127.289 W
    tired = changed(FRESH, endurance=0.65, fade_time=30 * HOUR, recovery_time=8 * HOUR)
    result = ridden(course_of(np.zeros(6_000)), tired, clock_of(start=0.0))
    after = result.powers[np.searchsorted(result.clocks, 17 * HOUR)]
    assert after == pytest.approx(150.0 * (1 - 0.35 * (1 - math.exp(-17 / 30))), rel=1e-3)


def test_descents_stop_at_the_cap_and_slower_still_by_night() -> None:
    steep = course_of(np.full(20, -0.12), cap=10.0)
    assert ridden(steep, clock=clock_of(start=12 * HOUR)).times == pytest.approx(np.full(20, 10.0))
    assert ridden(steep, clock=clock_of(start=1 * HOUR)).times == pytest.approx(np.full(20, 12.5))
