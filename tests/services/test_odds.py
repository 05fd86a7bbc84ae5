"""The odds of many races against counting them one by one."""

import numpy as np
import pytest

from stonechat.core.line.stops import is_open, main_door
from stonechat.core.plan.film import masses_along
from stonechat.core.plan.scenario import make_scenario
from stonechat.core.plan.sky import clock_after
from stonechat.core.plan.summary import POWER_BAND
from stonechat.core.rhythm.many import draw_luck, ride_many
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.kit.many import change_many
from stonechat.services.odds import RACES as SHOWN
from stonechat.services.odds import SEED, odds_of, odds_run, odds_told, start_odds
from stonechat.services.workspace import Workspace

RACES = 40


def test_odds_are_what_counting_race_by_race_gives(opened: OpenPlan) -> None:
    ridden = evaluated(opened, "a").ridden
    odds = odds_of(opened.plan, "a", ridden, RACES)
    scenario = make_scenario(opened.plan, opened.plan.variants[0], ridden.way.profile)
    masses, drags = masses_along(scenario, ridden.settled.values())
    luck = draw_luck(RACES, SEED, power_band=POWER_BAND)
    finishes, arrivals = ride_many(
        scenario.course, scenario.rider, ridden.timetable.clock, masses=masses, drag_areas=drags, luck=luck
    )
    assert odds.finishes == pytest.approx(np.quantile(finishes, [0.05, 0.5, 0.95]))
    limit = opened.plan.rules.time_limit
    assert limit and odds.in_time == pytest.approx((finishes <= limit).mean())
    by_name = {entry.name: entry for entry in odds.stops}
    for k, stop in enumerate(ridden.way.stops):
        opens = 0
        for arrival in arrivals[:, k]:
            moment = clock_after(ridden, float(arrival))
            opens += is_open(
                main_door(stop).hours, moment.weekday(), moment.hour * 3600.0 + moment.minute * 60.0 + moment.second
            )
        shown = by_name[stop.name].is_open if stop.name in by_name else 1.0
        assert shown == pytest.approx(opens / RACES, abs=1.01 / RACES)  # a second of rounding at a door
        if stop.cutoff is not None:
            made = sum(clock_after(ridden, float(a)).replace(tzinfo=None) <= stop.cutoff for a in arrivals[:, k])
            assert by_name[stop.name].in_time == pytest.approx(made / RACES)


def test_the_spread_is_about_what_the_power_says(opened: OpenPlan) -> None:
    ridden = evaluated(opened, "a").ridden
    odds, ledger = odds_of(opened.plan, "a", ridden, 120), ridden.ledger
    early, middle, late = odds.finishes
    assert middle == pytest.approx(ledger.finish, rel=0.02)
    # ninety races in a hundred lie within the band of power, a little wider for wind and warmth
    assert 0.7 * ledger.spread < 0.5 * (late - early) < 2.0 * ledger.spread


def test_races_ridden_in_the_background_are_told_until_the_plan_changes(workspace: Workspace, opened: OpenPlan) -> None:
    assert odds_run(workspace, opened, "a") is None
    start_odds(workspace, opened.id, "a")
    run = odds_run(workspace, opened, "a")
    assert run is not None and not run.is_active
    assert odds_told(run) == odds_of(opened.plan, "a", evaluated(opened, "a").ridden, SHOWN)
    changed = change_many(workspace, opened, "a", revision=opened.revision, items=["spoon"], what="need", to="must")
    assert odds_run(workspace, changed, "a") is None
