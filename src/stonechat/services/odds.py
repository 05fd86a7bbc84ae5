"""Many races of a variant: the spread of its finish, and the odds of cut-offs and doors."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Visit
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.film import masses_along
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import make_scenario
from stonechat.core.plan.summary import POWER_BAND
from stonechat.core.rhythm.inputs import Clock
from stonechat.core.rhythm.many import draw_luck, ride_many
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.kept import Kept

SEED = 20270924
_ODDS: "Kept[Odds]" = Kept(16)


@dataclass(frozen=True, kw_only=True)
class StopOdds:
    """How often a stop goes well."""

    name: str
    is_open: float  # 1, share of races in which it is open on arrival
    in_time: float | None  # 1, share that reach it before its cut-off


@dataclass(frozen=True, kw_only=True)
class Odds:
    """What many races come to."""

    races: int
    finishes: tuple[float, float, float]  # s, reached by 5, 50 and 95 % of races
    in_time: float | None  # 1, share that finish within the time limit
    stops: tuple[StopOdds, ...]  # those that do not always go well


def race_odds(opened: OpenPlan, variant_id: str, races: int) -> Odds:
    """Ride a variant of a plan many times; the result is kept."""
    key = (opened.content, variant_id, races)
    known = _ODDS.get(key)
    if known is None:
        known = _ODDS.put(key, odds_of(opened.plan, variant_id, evaluated(opened, variant_id).ridden, races))
    return known


def odds_of(plan: Plan, variant_id: str, ridden: Ridden, races: int) -> Odds:
    """Ride a variant many times with other legs, wind and warmth; water and food are as planned."""
    scenario = make_scenario(plan, plan.variant(variant_id), ridden.way.profile)
    masses, drags = masses_along(scenario, ridden.settled.values())
    luck = draw_luck(races, SEED, power_band=POWER_BAND)
    finishes, arrivals = ride_many(
        scenario.course, scenario.rider, ridden.timetable.clock, masses=masses, drag_areas=drags, luck=luck
    )
    early, middle, late = np.quantile(finishes, [0.05, 0.5, 0.95]).tolist()
    stops = []
    for k, stop in enumerate(scenario.stops):
        doors, in_time = (
            _share_open(ridden.timetable.clock, k, arrivals[:, k]),
            _share_in_time(ridden.timetable.visits[k], arrivals[:, k]),
        )
        if doors < 1.0 or in_time is not None:
            stops.append(StopOdds(name=stop.name, is_open=doors, in_time=in_time))
    return Odds(
        races=races,
        finishes=(early, middle, late),
        in_time=_share_in_time(ridden.timetable.visits[-1], finishes),
        stops=tuple(stops),
    )


def _share_in_time(visit: Visit, arrivals: FloatArray) -> float | None:
    """Return the share of arrivals before the cut-off, None where there is none. [1]"""
    return None if visit.margin is None else float((arrivals <= visit.elapsed + visit.margin).mean())


def _share_open(clock: Clock, stop: int, arrivals: FloatArray) -> float:
    """Return the share of arrivals at which a stop is open. [1]"""
    if not clock.doors.known[stop]:  # never shut, or nobody knows: nothing to tell the odds of
        return 1.0
    doors = slice(clock.doors.first[stop], clock.doors.first[stop + 1])
    local = clock.start_of_day + arrivals[:, None]
    inside = (clock.doors.opens[doors] <= local) & (local < clock.doors.shuts[doors])
    return float(inside.any(axis=1).mean())
