"""Other decisions, ways out, and odds of running short."""

from dataclasses import replace
from math import erf, log, sqrt

import numpy as np
import pytest

from stonechat.core.supply.lots import Halt, LotPlan, Passing, Provision, Service, Trip, plan_lots
from stonechat.core.supply.odds import RACES, SPREAD_LEG, SPREAD_RACE, Odds, halved, odds_of_running_short
from stonechat.core.supply.wishes import answered, change_to, riding_past, stopping, ways_out, without_wishes

HOUR = 3600.0
TAP = Halt(water=Service(time=300.0), usual=300.0)


def road(*, needs: list[float], halts: tuple[Halt, ...], capacity: float = 3.0, price: float = 400.0) -> Trip:
    count = len(needs)
    return Trip(
        rides=np.full(count, HOUR), prices=np.full(count, price), halts=halts,
        water=Provision(needs=np.array(needs), capacity=capacity, reserve=0.0, density=1.0),
        food=Provision(needs=np.zeros(count), capacity=0.0, reserve=0.0, density=4000.0),
    )  # fmt: skip


def short(trip: Trip, passings: tuple[Passing, ...], confidences: tuple[float, ...]) -> Odds:
    return odds_of_running_short(trip, passings=passings, confidences=confidences, name="water")


def test_riding_past_costs_what_the_water_weighs_less_what_the_stop_takes() -> None:
    trip = road(needs=[1.0, 1.0], halts=(TAP,))
    change = change_to(trip, riding_past(trip, 1))
    assert change.minutes == pytest.approx((400.0 - 300.0) / 60.0) and change.short == 0.0
    assert change_to(riding_past(trip, 1), trip).minutes == pytest.approx(-100.0 / 60.0)


def test_stopping_where_it_does_not_pay_costs_the_stop() -> None:
    trip = road(needs=[1.0, 1.0], halts=(TAP,), price=0.0)
    assert change_to(trip, stopping(trip, trip, 1)).minutes == pytest.approx(5.0)


def test_a_wish_is_taken_back_with_all_that_it_asks() -> None:
    free = road(needs=[1.0, 1.0], halts=(TAP,), price=0.0)
    wished = replace(stopping(free, free, 1), water=replace(free.water, wishes={1: 2.5}, more={1: 1.0}))
    again = without_wishes(wished, free, 1)
    assert again.halts == free.halts and not again.water.wishes and not again.water.more
    assert change_to(again, wished).minutes == pytest.approx(5.0)


def test_where_nothing_carries_enough_as_much_is_carried_as_goes_in_and_a_bottle_mends_it() -> None:
    trip = road(needs=[1.0, 4.2, 1.0], halts=(TAP, TAP))
    answer = answered(trip)
    assert answer.lots is not None and answer.short == pytest.approx(1.2)
    assert [(s.node, s.end) for s in answer.stuck] == [(1, 2)]
    assert answer.lots.passings[1].water == pytest.approx(3.0)
    ways = {way.kind: way for way in ways_out(trip, answer.stuck)}
    assert set(ways) == {"strapped", "bottle"}
    way = ways["strapped"]
    assert (way.kind, way.node, way.amount) == ("strapped", 1, 1.5)
    assert way.change.short == ways["bottle"].change.short == pytest.approx(-1.2)
    # the same water, and the bottle itself, 0.1 kg a litre, over three hours
    more = (ways["bottle"].change.minutes or 0.0) - (way.change.minutes or 0.0)
    assert more == pytest.approx(0.15 * 3 * 400.0 / 60.0)
    # 1.2 l more over the whole leg
    assert way.change.minutes == pytest.approx(1.2 * 400.0 * 0.5 / 60.0, rel=0.4)


def test_a_door_that_stays_shut_is_not_counted_on_and_may_be_waited_for() -> None:
    shut = Halt(water=Service(time=60.0, spans=((5.0 * HOUR, 6.0 * HOUR),), patience=HOUR))
    trip = road(needs=[2.0, 2.0], halts=(shut,))
    answer = answered(trip)
    assert [entry.what for entry in answer.stuck] == ["water door", "water"]
    wait = next(way for way in ways_out(trip, answer.stuck) if way.kind == "wait")
    assert wait.node == 1 and wait.change.minutes == pytest.approx(4 * 60.0 + 1.0, abs=15.0)


def test_the_odds_on_one_leg_are_those_of_the_lognormal() -> None:
    trip = road(needs=[1.0], halts=())
    for leaving in (0.9, 1.0, 1.2):
        odds = short(trip, (Passing(0.0, 0.0, leaving, 0.0, True, True, None),), ())
        sigma = sqrt(SPREAD_RACE**2 + SPREAD_LEG**2)
        exact = 0.5 * (1.0 - erf((log(leaving) + 0.5 * sigma**2) / sigma / sqrt(2.0)))
        assert odds.ever == pytest.approx(exact, abs=4.0 * sqrt(exact * (1.0 - exact) / RACES))
        assert odds.by_leg[0] == odds.ever


def test_a_stop_is_shut_as_often_as_it_is_doubted() -> None:
    trip = road(needs=[0.1, 1.0], halts=(TAP,))
    passings = (Passing(0.0, 0.0, 0.5, 0.0, True, True, None), Passing(0.0, 0.0, 3.0, 0.0, True, False, None))
    assert short(trip, passings, (0.7,)).ever == pytest.approx(0.3, abs=0.03)
    assert short(trip, passings, (1.0,)).ever < 0.001


def test_halving_the_odds_costs_what_more_water_weighs() -> None:
    trip = road(needs=[1.0, 1.0], halts=(TAP,))
    plan = plan_lots(trip)
    assert isinstance(plan, LotPlan)
    now = short(trip, plan.passings, (1.0,))
    half = halved(trip, confidences=(1.0,), name="water", now=now, finish=plan.finish)
    assert half is not None and half.ever <= 0.5 * now.ever
    assert half.minutes == pytest.approx(2.0 * half.spread * 400.0 * 0.5 / 60.0, rel=1e-6)
