"""Rests that go by places: a room each night, so many kilometres a day, leaving by the clock, long stays."""

from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np
import pytest

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import ALWAYS, Stop
from stonechat.core.line.track import make_track
from stonechat.core.plan.beginning import Spoken, begin_plan
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.nights import rests_of
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.sky import clock_after
from stonechat.core.rhythm.rhythm import Night, Rhythm

HOUR = 3600.0
LENGTH_DEGREES = 7.2  # about 800 km to the north, flat
BEDS = {f"inn-{km}": float(km) * 1_000.0 for km in (60, 140, 205, 300, 340, 420, 500, 590, 640, 720)}


@pytest.fixture(scope="module")
def plan() -> Plan:
    count = 8_001
    lats = np.linspace(43.0, 43.0 + LENGTH_DEGREES, count)
    track = make_track(lats, np.full(count, -30.0), np.full(count, 300.0))  # open sea: one time zone
    stops = tuple(
        Stop(id=key, name=key, distance=at, kind="hotel", offers=frozenset({"bed", "water", "meal"}), hours=ALWAYS)
        for key, at in BEDS.items()
    )
    said = Spoken(start=datetime(2027, 6, 5, 7), power=70.0)
    return begin_plan(name="Long", track=track, surface="tarmac", stops=stops, spoken=said, today=datetime(2027, 3, 1))


def ridden(plan: Plan, **changes: object) -> Ridden:
    variant = plan.variants[0]
    return evaluate(plan.with_variant(replace(variant, rhythm=replace(variant.rhythm, **changes))), "a").ridden


ROOMS = {"school": "rooms", "rise": 7.5 * HOUR, "halt": 21 * HOUR}


def test_a_room_each_night_is_reached_in_time_left_on_time_and_never_short_of_the_door(plan: Plan) -> None:
    race = ridden(plan, **ROOMS)
    rests = rests_of(race)
    assert race.timetable.settled and len(rests) >= 3
    for rest in rests:
        assert rest.stop is not None and rest.stop.id in BEDS  # in a room, not beside the road
        begins, ends = clock_after(race, rest.begins), clock_after(race, rest.ends)
        assert begins.hour < 21 and (ends.hour, ends.minute) == (7, 30)
        assert begins.date() == ends.date() - timedelta(days=1)
        # and it was right to stop: the next room would have been reached too late
        after = next((v for v in race.timetable.visits if v.distance > rest.distance + 1.0), None)
        assert after is not None
        riding = after.elapsed - rest.ends
        assert (begins + timedelta(seconds=riding)).hour >= 21 or (begins + timedelta(seconds=riding)).hour < 7


def test_a_room_that_is_not_wanted_is_not_taken(plan: Plan) -> None:
    first = rests_of(ridden(plan, **ROOMS))[0]
    assert first.stop is not None
    without = rests_of(ridden(plan, **ROOMS, no_rooms=frozenset({first.stop.id})))
    assert first.stop.id not in {rest.stop.id for rest in without if rest.stop}


@pytest.mark.parametrize("kilometres", [90.0, 150.0])
def test_so_many_kilometres_are_ridden_each_day(plan: Plan, kilometres: float) -> None:
    race = ridden(plan, school="distance", day_distance=kilometres * 1_000.0, rise=6 * HOUR, sleep_for=5 * HOUR)
    rests = rests_of(race)
    days = np.diff([0.0, *(rest.distance for rest in rests)])
    assert days == pytest.approx(np.full(days.size, kilometres * 1_000.0), abs=101.0)
    assert len(rests) == int(race.way.profile.length // (kilometres * 1_000.0))
    assert {clock_after(race, rest.ends).strftime("%H:%M") for rest in rests} == {"06:00"}
    assert all(rest.length >= 5 * HOUR for rest in rests)


def test_a_place_is_left_at_its_time_and_a_long_stay_where_one_can_sleep_is_a_rest(plan: Plan) -> None:
    plain = ridden(plan, school="through")
    at = plain.timetable.visits[2]
    race = ridden(plan, school="through", leave_at={"inn-205": 8.5 * HOUR})
    visit = race.timetable.visits[2]
    assert visit.leaves.strftime("%H:%M") == "08:30"
    assert abs(visit.arrives - at.arrives) < timedelta(minutes=1)  # in the heat of another day other food is bought
    assert visit.rested > 3 * HOUR and race.timetable.visits[3].awake < plain.timetable.visits[3].awake
    # an hour more than usual is no rest
    short = ridden(plan, school="through", stays={"inn-205": 1.3 * HOUR})
    assert short.timetable.visits[2].rested == 0.0 and short.timetable.visits[3].awake > plain.timetable.visits[3].awake
    slept = ridden(plan, school="through", stays={"inn-205": 9 * HOUR})
    assert (
        slept.timetable.visits[2].rested == pytest.approx(9 * HOUR - 20 * 60.0)
        and slept.timetable.visits[3].awake < 12 * HOUR
    )


def test_no_night_is_spent_short_of_a_place_chosen_to_sleep_at(plan: Plan) -> None:
    window = {"school": "window", "rise": 6 * HOUR, "halt": 22 * HOUR}
    by_the_road = rests_of(ridden(plan, **window))[0]
    ahead = min(at for at in BEDS.values() if at > by_the_road.distance)
    chosen = next(key for key, at in BEDS.items() if at == ahead)
    assert ahead - by_the_road.distance < 60_000.0
    race = ridden(plan, **window, sleep_at={chosen: 6 * HOUR})
    first = rests_of(race)[0]
    assert first.stop is not None and first.stop.id == chosen


def test_a_night_late_in_a_long_race_is_slept(plan: Plan) -> None:
    race = ridden(plan, school="distance", day_distance=25_000.0)
    assert len(rests_of(race)) == int(race.way.profile.length // 25_000.0) >= 31 - 1
    stays = dict.fromkeys(BEDS, 47 * HOUR)
    slow = ridden(plan, school="window", rise=9 * HOUR, halt=12 * HOUR, stays=stays)
    nights = {rest.index for rest in rests_of(slow)}
    assert slow.ledger.finish > 15 * 86_400.0 and max(nights) > 13


def test_water_drunk_while_resting_at_a_tap_is_not_carried_from_it(plan: Plan) -> None:
    at_the_inn = ridden(plan, school="places", sleep_at={"inn-205": 8 * HOUR})
    through = ridden(plan, school="through")
    # eight hours more at the inn, and the bottles of the leg behind it are those of a rider who slept
    assert float(at_the_inn.provisions.water.needs[3]) < float(through.provisions.water.needs[3]) + 0.15


def test_a_night_set_by_hand_after_the_thirtieth_is_kept() -> None:
    rhythm = Rhythm(nights={40: Night(kind="through")})
    assert 40 in rhythm.nights
