"""The race as it went, beside the plan: on the picture, stop by stop, by cause; and the way to a plan of the rest."""

import math
from dataclasses import dataclass

import numpy as np

from stonechat.core.diary.rides import CAUSES
from stonechat.core.diary.trail import AtStop, Trail, at_stops
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.played import time_by
from stonechat.core.plan.sky import clock_after
from stonechat.render.drawings.time_distance import TimeDistance, time_distance, trail_path
from stonechat.render.filters import clock, distance_km, duration, minutes_signed
from stonechat.services.replay import SPEEDS, Replay, replay_of, trail_known
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.diary import RestForm

_ON_TIME = 90.0  # s within which one is on plan


@dataclass(frozen=True, kw_only=True)
class ReplayView:
    """A race that is being replayed."""

    now: str
    km: str
    late: str
    share: float  # 1, of the race
    is_over: bool
    speed: int
    live_address: str
    run_address: str
    go_address: str
    end_address: str
    keep_address: str
    take_file_address: str
    file_address: str


@dataclass(frozen=True, kw_only=True)
class StopRow:
    """A stop as planned and as it was."""

    name: str
    km: str
    planned: str
    reached: str
    late: str
    is_late: bool
    stay: str
    stayed: str


@dataclass(frozen=True, kw_only=True)
class CauseRow:
    """Where time went."""

    name: str
    planned: str
    was: str
    by: str


@dataclass(frozen=True, kw_only=True)
class RaceView:
    """The race as it went."""

    replay: ReplayView | None
    speeds: dict[int, str]
    start_address: str
    source: str  # where the trail comes from, empty where there is none
    from_tracker: bool
    sentence: str
    picture: TimeDistance
    path: str
    rows: tuple[StopRow, ...]
    causes: tuple[CauseRow, ...]
    form: BoundForm[RestForm]
    rest_address: str
    items: tuple[tuple[str, str], ...]


def race_view(desk: Desk) -> RaceView:
    """Return the race as it went, from a replay where one runs, else as it was kept."""
    ridden, replay, kept = desk.evaluation.ridden, replay_of(desk.opened.id, desk.variant_id), desk.variant.race
    trail = trail_known(desk.opened, desk.variant_id)
    source = "the tracker, as it comes in" if replay is not None else kept.name if kept is not None else ""
    last = (trail.elapsed[-1], trail.distances[-1]) if not trail.is_empty else (0.0, 0.0)
    now = clock_after(ridden, last[0])
    aboard = _aboard(ridden, last[1])
    values = {"km": f"{last[1] / 1e3:.1f}", "at": f"{now:%Y-%m-%d %H:%M}", "water": aboard[0], "kcal": aboard[1]}
    return RaceView(
        replay=None if replay is None else _replay(desk, replay, trail, ridden),
        speeds=SPEEDS,
        start_address=desk.do("replay"),
        source=source,
        from_tracker=replay is not None or (kept is not None and not kept.has_power and not kept.moving),
        sentence=_sentence(trail, ridden),
        picture=time_distance(ridden, ()),
        path=trail_path(ridden, trail),
        rows=_rows(trail, ridden),
        causes=_causes(trail, ridden),
        form=desk.form("rest", RestForm, values),
        rest_address=desk.do("plan-rest"),
        items=tuple((item.id, item.name) for item in ridden.kit.items),
    )


def _replay(desk: Desk, replay: Replay, trail: Trail, ridden: Ridden) -> ReplayView:
    return ReplayView(
        now=clock(replay.now.astimezone(ridden.way.start.tzinfo)),
        km=distance_km(trail.distances[-1]) if not trail.is_empty else "no position yet",
        late=_late_words(_lateness(trail, ridden)),
        share=replay.elapsed / replay.length,
        is_over=replay.is_over,
        speed=replay.speed,
        live_address=desk.do("replay-live"),
        run_address=desk.do("replay-run"),
        go_address=desk.do("replay-go"),
        end_address=desk.do("replay-end"),
        keep_address=desk.do("replay-keep"),
        take_file_address=desk.do("replay-file"),
        file_address=desk.do("computer.gpx"),
    )


def _lateness(trail: Trail, ridden: Ridden) -> float | None:
    """Return how late one is at the end of a trail. [s]"""
    if trail.is_empty:
        return None
    clocks = ridden.ride.clocks
    planned = np.interp(trail.distances[-1], ridden.way.profile.distances[: clocks.size], clocks)
    return trail.elapsed[-1] - float(planned)


def _late_words(late: float | None) -> str:
    if late is None:
        return ""
    if abs(late) < _ON_TIME:
        return "on plan"
    return f"{duration(abs(late))} {'behind' if late > 0.0 else 'ahead of'} the plan"


def _sentence(trail: Trail, ridden: Ridden) -> str:
    if trail.is_empty:
        return ""
    to = trail.distances[-1]
    when = clock(clock_after(ridden, trail.elapsed[-1]))
    return f"At {distance_km(to)} on {when}, {_late_words(_lateness(trail, ridden))}."


def _aboard(ridden: Ridden, distance: float) -> tuple[float, float]:
    """Return what the plan has aboard at a place, between two refills. [l], [kcal]"""
    legs = ridden.timetable.legs
    k = max((k for k, leg in enumerate(legs) if leg.start <= distance + 1.0), default=0)
    share = (distance - legs[k].start) / max(legs[k].end - legs[k].start, 1.0)
    water, food = ridden.provisions.water, ridden.provisions.eaten
    left = [
        float(level.leaving[k]) - share * (float(level.leaving[k]) - float(level.arriving[k]))
        for level in (water, food)
    ]
    return round(max(left[0], 0.0), 1), round(max(left[1], 0.0))


def _rows(trail: Trail, ridden: Ridden) -> tuple[StopRow, ...]:
    if trail.is_empty:
        return ()
    visits = ridden.timetable.visits
    places = [visit.distance for visit in visits]
    stays = [(visit.leaves - visit.arrives).total_seconds() for visit in visits]
    found = at_stops(trail, places, [visit.elapsed for visit in visits], stays)
    known = [(visit, was) for visit, was in zip(visits, found, strict=True) if not math.isnan(was.reached)]
    return tuple(_row(ridden, visit.name, visit.distance, was) for visit, was in known)


def _row(ridden: Ridden, name: str, at: float, was: AtStop) -> StopRow:
    late = was.reached - was.planned
    return StopRow(
        name=name,
        km=distance_km(at),
        planned=clock(clock_after(ridden, was.planned)),
        reached=clock(clock_after(ridden, was.reached)),
        late="on plan" if abs(late) < _ON_TIME else minutes_signed(late / 60.0),
        is_late=late > _ON_TIME,
        stay=duration(was.stay_planned) if was.stay_planned else "",
        stayed=duration(was.stayed) if was.stayed else "",
    )


def _causes(trail: Trail, ridden: Ridden) -> tuple[CauseRow, ...]:
    return tuple(
        CauseRow(name=CAUSES[key], planned=duration(plan), was=duration(was), by=minutes_signed((was - plan) / 60.0))
        for key, (plan, was) in time_by(ridden, trail).items()
    )
