"""Many races of a variant: the spread of its finish, and the odds of cut-offs and doors."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.film import Aboard, masses_along
from stonechat.core.plan.setting import make_setting
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
    """Ride a variant many times with other legs, wind and warmth; water and food are as planned."""
    key = (opened.content, variant_id, races)
    known = _ODDS.get(key)
    if known is not None:
        return known
    ridden = evaluated(opened, variant_id).ridden
    variant = opened.plan.variant(variant_id)
    setting = make_setting(opened.plan, variant, ridden.profile)
    masses, drags = masses_along(setting, ridden.ride, Aboard(water=ridden.water, food=ridden.food))
    luck = draw_luck(races, SEED, power_band=POWER_BAND)
    finishes, arrivals = ride_many(setting.course, setting.rider, ridden.clock, masses, drags, luck)
    early, middle, late = np.quantile(finishes, [0.05, 0.5, 0.95]).tolist()
    stops = []
    for k, stop in enumerate(setting.stops):
        doors = _share_open(ridden.clock, k, arrivals[:, k])
        visit = ridden.visits[k]
        limit = None if visit.margin is None else visit.elapsed + visit.margin
        in_time = None if limit is None else float((arrivals[:, k] <= limit).mean())
        if doors < 1.0 or in_time is not None:
            stops.append(StopOdds(name=stop.name, is_open=doors, in_time=in_time))
    last = ridden.visits[-1]
    limit = None if last.margin is None else last.elapsed + last.margin
    odds = Odds(
        races=races,
        finishes=(early, middle, late),
        in_time=None if limit is None else float((finishes <= limit).mean()),
        stops=tuple(stops),
    )
    return _ODDS.put(key, odds)


def _share_open(clock: Clock, stop: int, arrivals: FloatArray) -> float:
    """Return the share of arrivals at which a stop is open. [1]"""
    if not clock.has_doors[stop]:
        return 1.0
    doors = slice(clock.door_index[stop], clock.door_index[stop + 1])
    local = clock.start_of_day + arrivals[:, None]
    inside = (clock.door_opens[doors] <= local) & (local < clock.door_shuts[doors])
    return float(inside.any(axis=1).mean())
