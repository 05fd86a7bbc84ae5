"""Many races of a variant: the spread of its finish, and the odds of cut-offs and doors; ridden in the background."""

from dataclasses import asdict, dataclass
from typing import Any
from uuid import UUID

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Visit
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.film import braked, masses_along
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import make_scenario
from stonechat.core.plan.summary import POWER_BAND
from stonechat.core.rhythm.inputs import Clock
from stonechat.core.rhythm.many import draw_luck, ride_many
from stonechat.services import work
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.work import Family, Outcome, Reporter, Run, RunState
from stonechat.services.workspace import Workspace

SEED = 20270924
RACES = 200


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


def start_odds(workspace: Workspace, plan_id: UUID, variant_id: str) -> Run:
    """Ask for many races; refused while they are being ridden."""
    return work.start(workspace, ODDS, plan_id, variant_id, kind="odds", request={"races": RACES})


def odds_run(workspace: Workspace, opened: OpenPlan, variant_id: str) -> Run | None:
    """Return the newest run, None where it is of the plan as it was before."""
    run = work.newest(workspace, ODDS, opened.id, variant_id)
    return run if run is not None and (run.is_active or run.revision == opened.revision) else None


def odds_told(run: Run) -> Odds | None:
    """Return what a run came to, None where it is not done."""
    if run.state != RunState.DONE or run.result is None:
        return None
    told = dict(run.result)
    stops = tuple(StopOdds(**stop) for stop in told.pop("stops"))
    return Odds(stops=stops, finishes=tuple(told.pop("finishes")), **told)


def _answer(_workspace: Workspace, opened: OpenPlan, run: Run, _reporter: Reporter) -> Outcome:
    ridden = evaluated(opened, run.variant_id).ridden
    odds = odds_of(opened.plan, run.variant_id, ridden, int(run.request["races"]))
    return Outcome(result=_document(odds), progress={})


def _document(odds: Odds) -> dict[str, Any]:
    return {**asdict(odds), "finishes": list(odds.finishes), "stops": [asdict(stop) for stop in odds.stops]}


ODDS = Family(
    key="odds",
    answers={"odds": _answer},
    busy="The races are being ridden already.",
    cut_off="The races were cut off again and again. Ride them once more.",
    failed="The races could not be ridden by a fault of this program. The plan is as it was.",
)


def odds_of(plan: Plan, variant_id: str, ridden: Ridden, races: int) -> Odds:
    """Ride a variant many times with other legs, wind and warmth; water and food are as planned."""
    scenario = make_scenario(plan, plan.variant(variant_id), ridden.way.profile)
    scenario = braked(scenario, ridden.settled.values())
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
